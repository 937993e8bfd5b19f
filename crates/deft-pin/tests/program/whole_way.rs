//! The whole way of somebody who looks after a site with boxes: its pages are captured, pins are written, checked and
//! pasted, published, probed, changed, and taken back; with real servers on this machine.

use std::collections::BTreeSet;
use std::fs;

use crate::session::{Answer, Session};
use serde_json::Value;

const PINS: &str = "[site]\nroot = 'site'\n
[pin.sailing]\npages = ['/', '/timetable/*']\nwithin = '#status'\nstyle = 'pins/sailing.css'\nscript = 'pins/sailing.js'\n
[pin.fares]\npages = ['/fares/']\nstyle = 'pins/fares.css'\n
[[pin.fares.markup]]\ntext = '<p class=\"fare-note\">Under fives sail free</p>'\nplace = 'append'\nat = 'main'\n";

/// Puts the pieces of a paste-up into the boxes of the site, as somebody does who goes through the sheet.
fn fill(session: &Session, change: impl Fn(&str, String) -> String) {
    let sheet: Value = serde_json::from_str(&session.read("mine/paste-up/paste.json")).unwrap();
    let _ = fs::remove_dir_all(session.path("live/none"));
    for (name, bytes) in session.files("mine/site").into_iter().filter(|(name, _)| !name.starts_with('.')) {
        if !name.ends_with(".html") {
            session.write(&format!("live/{name}"), bytes);
            continue;
        }
        let path = format!("/{}", name.strip_suffix("index.html").unwrap_or(&name));
        let mut page = String::from_utf8(bytes).unwrap();
        for piece in sheet["pieces"].as_array().unwrap().iter().filter(|own| own["file"].is_string()) {
            let is_here = piece["where"] == "site"
                || piece["pages"].as_array().unwrap().iter().any(|own| *own == *path);
            if !is_here {
                continue;
            }
            let text = session.read(&format!("mine/paste-up/{}", piece["file"].as_str().unwrap()));
            let text = change(piece["piece"].as_str().unwrap(), text);
            let text = match piece["takes"].as_str().unwrap() {
                "css" => format!("<style id=\"custom-css\">/* custom */\n{text}</style>"),
                "js" => format!("<script id=\"custom-js\">{text}</script>"),
                _ => text,
            };
            let (mark, is_before) = match piece["slot"].as_str().unwrap() {
                "head-start" => ("<head>", false),
                "body-start" => ("<body", false),
                "foot" => ("</body>", true),
                _ => ("</head>", true),
            };
            let at = page.find(mark).unwrap();
            let at = if is_before { at } else { at + page[at..].find('>').unwrap() + 1 };
            page.insert_str(at, &text);
        }
        session.write(&format!("live/{name}"), page);
    }
}

/// The states of all parts, each once, those that are live left out.
fn states(answer: &Answer) -> BTreeSet<String> {
    let json = answer.json();
    let pages = json["pages"].as_array().unwrap().iter();
    let parts = pages.flat_map(|page| page["pins"].as_array().unwrap().clone());
    let rows = parts.filter(|own| own["state"] != "live").map(|own| {
        let release = own["release"].as_u64().map(|own| format!(" {own}")).unwrap_or_default();
        format!(
            "{} {} {}{release}",
            own["pins"][0].as_str().unwrap_or("-"),
            own["part"].as_str().unwrap(),
            own["state"].as_str().unwrap()
        )
    });
    rows.collect()
}

fn set(rows: &[&str]) -> BTreeSet<String> {
    rows.iter().map(|own| (*own).to_owned()).collect()
}

#[test]
fn a_site_with_boxes_is_looked_after() {
    for host in [
        "kind = 'page-slots'", "kind = 'site-slots'", "kind = 'site-slots'\nstyles = 'site'\nsite = ['foot']",
    ] {
        let session = Session::new();
        session.good("demo");
        let theirs = session.nginx("deft-pin-demo/site", "");
        // The pages.
        session.good(&format!("capture {} --into mine/site --pause 0", theirs.url("/")));
        let served = session.files("deft-pin-demo/site");
        for (name, bytes) in session.files("mine/site").into_iter().filter(|(name, _)| !name.starts_with('.'))
        {
            assert_eq!(served[&name], bytes, "{name}");
        }
        // The pins.
        session.write("mine/deft-pin.toml", format!("{PINS}\n[host]\n{host}\n"));
        session.write("mine/pins/sailing.css", "p { border-left: 4px solid teal; padding-left: 12px }\n");
        session.write("mine/pins/sailing.js", "root.dataset.sailing = 'as planned';\n");
        session.write(
            "mine/pins/fares.css",
            "table { border-collapse: collapse }\n.fare-note { color: teal }\n",
        );
        let run = |arguments: &str| session.run(&format!("--board mine/deft-pin.toml {arguments}"));
        let good = |arguments: &str| {
            let answer = run(arguments);
            assert_eq!(answer.status, 0, "{host}: {arguments}: {}{}", answer.stdout, answer.stderr);
            answer
        };
        good("check");
        good("paste --out mine/paste-up");
        fs::create_dir_all(session.path("live")).unwrap();
        fill(&session, |_, text| text);
        let live = session.nginx("live", "");
        let probe = || run(&format!("probe {} --pause 0 --format json", live.url("/")));
        let publish = |note: &str| good(&format!("publish --out mine/paste-up --note {note}"));
        publish("first");
        let told = probe();
        assert_eq!((told.status, states(&told)), (0, set(&[])), "{host}: {}", told.stdout);
        assert!(told.json()["pages"].as_array().unwrap().len() >= 3);

        // Changed and published, and not pasted.
        session.write("mine/pins/sailing.css", "p { border-left: 6px solid navy; padding-left: 16px }\n");
        publish("second");
        let told = probe();
        assert_eq!(
            (told.status, states(&told)),
            (1, set(&["sailing style stale 1"])),
            "{host}: {}",
            told.stdout
        );
        fill(&session, |_, text| text);
        assert_eq!(states(&probe()), set(&[]), "{host}");

        // Pasted a second time by another box.
        fill(&session, |_, text| text);
        let sheet: Value = serde_json::from_str(&session.read("mine/paste-up/paste.json")).unwrap();
        let piece = sheet["pieces"].as_array().unwrap().iter().find(|own| {
            own["pins"].as_array().unwrap().iter().any(|pin| pin == "fares")
                && own["takes"] != "js"
                && own["slot"] != "foot"
        });
        let piece = piece.unwrap_or_else(|| panic!("{host}: {sheet}"));
        let text = session.read(&format!("mine/paste-up/{}", piece["file"].as_str().unwrap()));
        let text = if piece["takes"] == "css" { format!("<style>{text}</style>") } else { text };
        let page = session.read("live/fares/index.html");
        session.write("live/fares/index.html", page.replace("</main>", &format!("{text}</main>")));
        let told = probe();
        assert!(states(&told).contains("fares style doubled 2"), "{host}: {:?}", states(&told));
        assert!(!states(&told).iter().any(|own| own.starts_with("sailing")), "{host}: {:?}", states(&told));

        // The host takes scripts out.
        fill(&session, |_, text| match text.find("<script") {
            Some(at) => {
                let mut text = text;
                let mut at = Some(at);
                while let Some(start) = at {
                    let end = start + text[start..].find("</script>").unwrap() + "</script>".len();
                    text.replace_range(start..end, "");
                    at = text.find("<script");
                }
                text
            }
            None => text,
        });
        let told = probe();
        let state = states(&told);
        // Where all scripts stand in one box, that may have been forgotten as well.
        let word = if host.contains("styles") { "missing" } else { "altered" };
        assert!(state.contains(&format!("sailing script {word}")), "{host}: {state:?}");

        // Taken back.
        good("undo 1 --out mine/paste-up");
        fill(&session, |_, text| text);
        let told = probe();
        assert_eq!((told.status, states(&told)), (0, set(&[])), "{host}: {}", told.stdout);
        assert_eq!(told.json()["release"], 3);
    }
}
