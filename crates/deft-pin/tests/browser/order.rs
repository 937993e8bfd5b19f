//! What comes before what: pages with scripts and sheets of every kind, served with delays drawn at
//! random. What is said to come before comes before in every run; what never runs never does; and of
//! each kind of pair that nothing is said of, some come the other way round.

use std::collections::BTreeMap;
use std::sync::Arc;

use serde_json::Value;

use crate::dice::{Dice, cases};
use crate::driver::Browser;
use crate::server::{Served, Serving, serve};
use crate::session::Session;

/// A page of some scripts and sheets, each of which tells when it came and which sheets were there.
fn page(dice: &mut Dice, number: usize) -> (String, Vec<(String, &'static str, String)>) {
    let mut files = Vec::new();
    let count = 4 + dice.below(6);
    let turn = dice.below(count);
    let (mut head, mut body) = (
        String::from(
            "<script>ran = []; tell = at => ran.push([at, [...Array(20).keys()].filter(n => getComputedStyle(document.documentElement).getPropertyValue('--s' + n))])</script>",
        ),
        String::new(),
    );
    for at in 1..=count {
        let out = if at <= turn { &mut head } else { &mut body };
        let mut file = |kind: &'static str, extension: &str, text: String| {
            let path = format!("p{number}-{at}.{extension}");
            files.push((path.clone(), kind, text));
            path
        };
        let tell = format!("tell({at});");
        let mut script = |attributes: &str| {
            format!("<script {attributes} src={}></script>", file("text/javascript", "js", tell.clone()))
        };
        let element = match dice.below(28) {
            0..3 => script(""),
            3..5 => script("defer"),
            5..8 => script("async"),
            8 => script("async=false defer"),
            9 => script("type=module"),
            10 => script("type=module async"),
            11 => script("nomodule"),
            12 => script("type='Text/JavaScript '"),
            13 => script("language=javascript1.5 defer"),
            14 => format!("<script defer>{tell}</script>"),
            15 => format!("<script type=module>{tell}</script>"),
            16 => format!("<script type=module async>{tell}</script>"),
            17 => dice
                .pick(&[
                    "<script type=text/plain>T</script>",
                    "<script type='text/javascript;charset=utf-8'>T</script>", "<script src=''>T</script>",
                    "<script language=vbscript>T</script>", "<script for=window event=onclick>T</script>",
                ])
                .replace('T', &tell),
            18 => {
                let dep = format!("p{number}-{at}-dep.js");
                files.push((dep.clone(), "text/javascript", "export let x = 1".to_owned()));
                format!("<script type=module>import {{ x }} from './{dep}'; {tell}</script>")
            }
            19 => {
                let dep = format!("p{number}-{at}-dep.js");
                let late = "export let x = await new Promise(r => setTimeout(r, 7))";
                files.push((dep.clone(), "text/javascript", late.to_owned()));
                format!("<script type=module>import {{ x }} from './{dep}'; {tell}</script>")
            }
            20 => format!(
                "<script type=module src={}></script>",
                file("text/javascript", "js", format!("await new Promise(r => setTimeout(r, 5)); {tell}"))
            ),
            21 if at > turn => format!("<svg><script>{tell}</script></svg>"),
            22 if at > turn => {
                format!("<svg><script href={} /></svg>", file("text/javascript", "js", tell.clone()))
            }
            23 => format!("<style>:root {{ --s{at}: 1 }}</style>"),
            24 => {
                let inner = file("text/css", "css", format!(":root {{ --s{at}: 1 }}"));
                let outer = format!("p{number}-{at}-outer.css");
                files.push((outer.clone(), "text/css", format!("@import '{inner}';")));
                let taken = dice.pick(&[inner.as_str(), outer.as_str(), outer.as_str()]).to_owned();
                format!("<style>@import url({taken});</style>")
            }
            _ => format!(
                "<link rel=stylesheet {}href={}>",
                dice.pick(&["", "", "media=all ", "media=print "]),
                file("text/css", "css", format!(":root {{ --s{at}: 1 }}"))
            ),
        };
        out.push_str(&element);
        out.push_str("<p>x</p>".repeat(usize::from(at > turn)).as_str());
    }
    (format!("<!doctype html><html><head><meta charset=utf-8>{head}</head><body>{body}</body></html>"), files)
}

#[test]
fn what_is_said_to_come_before_does() {
    let mut dice = Dice::seeded(1931);
    let served: Served = Arc::default();
    let port = serve(Arc::clone(&served), Serving::Late);
    let browser = Browser::open();
    let session = Session::new();
    let mut held = 0;
    // For each kind of pair that nothing is said of: how often it was seen, and the other way round.
    let mut open: BTreeMap<(String, String, bool), (u32, u32)> = BTreeMap::new();
    for number in 0..cases(12) {
        let (page, files) = page(&mut dice, number);
        session.write(&format!("site/p{number}.html"), &page);
        {
            let mut served = served.lock().unwrap();
            served.insert(format!("/p{number}.html"), ("text/html", page.clone()));
            for (path, kind, text) in files {
                session.write(&format!("site/{path}"), &text);
                served.insert(format!("/{path}"), (kind, text));
            }
        }
        let answer = session.run(&format!("order /p{number}.html --site site --format json")).json();
        let steps = answer["steps"].as_array().unwrap();
        let before = closed(steps);
        let how = |at: usize| steps[at]["how"].as_str().unwrap();
        for _ in 0..5 {
            browser.go(&format!("http://127.0.0.1:{port}/p{number}.html"));
            // A busy machine takes its time.
            let all =
                (1..steps.len()).filter(|at| steps[*at]["what"] == "script" && how(*at) != "never").count();
            let ran = browser.run(
                "const all = arguments[0], until = Date.now() + 5000; const come = () => new Set(ran.map(one => one[0])).size >= all || Date.now() > until; \
                 return new Promise(done => { const look = () => come() ? setTimeout(() => done(ran), 60) : setTimeout(look, 20); look() })",
                vec![Value::from(all)],
            );
            let place =
                |at: usize| ran.as_array().unwrap().iter().position(|one| one[0].as_u64() == Some(at as u64));
            for late in 1..steps.len() {
                let is_script = steps[late]["what"] == "script";
                if how(late) == "never" || !is_script {
                    assert!(how(late) != "never" || place(late).is_none(), "s{late} ran: {page}");
                    continue;
                }
                let at = place(late).unwrap_or_else(|| panic!("s{late} did not run: {page}"));
                for early in (1..steps.len()).filter(|early| *early != late && how(*early) != "never") {
                    let came = if steps[early]["what"] == "script" {
                        place(early).is_some_and(|place| place < at)
                    } else {
                        ran[at][1].as_array().unwrap().contains(&Value::from(early))
                    };
                    if before[late][early] {
                        held += 1;
                        assert!(came, "s{early} did not come before s{late}: {ran} {page}");
                    } else if !before[early][late] {
                        let key = (how(early).to_owned(), how(late).to_owned(), early < late);
                        let seen = open.entry(key).or_default();
                        seen.0 += 1;
                        seen.1 += u32::from(!came);
                    }
                }
            }
        }
    }
    println!("{held} times what was said to come before did");
    for ((early, late, in_order), (seen, other)) in &open {
        println!(
            "{early} and {late}, {}: {other} of {seen} the other way",
            if *in_order { "in order" } else { "out of order" }
        );
    }
    let always = open.iter().filter(|(_, (seen, other))| *seen >= 200 && *other == 0);
    assert_eq!(
        always.map(|(key, _)| key).collect::<Vec<_>>(),
        Vec::<&_>::new(),
        "always in this order, and not said"
    );
    assert!(held > 200, "{held}");
}

/// For each step those before it, by way of others too.
fn closed(steps: &[Value]) -> Vec<Vec<bool>> {
    let mut before = vec![vec![false; steps.len()]; steps.len()];
    let number = |id: &Value| id.as_str().unwrap()[1..].parse::<usize>().unwrap();
    for (late, step) in steps.iter().enumerate() {
        step["after"].as_array().unwrap().iter().for_each(|id| before[late][number(id)] = true);
    }
    for _ in 0..steps.len() {
        for late in 0..steps.len() {
            for middle in 0..steps.len() {
                if before[late][middle] {
                    let through = before[middle].clone();
                    before[late].iter_mut().zip(through).for_each(|(cell, through)| *cell |= through);
                }
            }
        }
    }
    before
}
