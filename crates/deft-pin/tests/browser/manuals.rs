//! Libraries with what people begin with: nothing is said of that where it stands right, and of each slip in it something
//! is. Run by `scripts/real-manuals.sh`, which names the folder that the libraries are in.

use std::collections::BTreeSet;

use serde_json::{Value, json};

use crate::dice::Dice;
use crate::driver::Browser;
use crate::session::Session;

/// What somebody begins with.
#[derive(Clone)]
struct Beginning {
    libraries: Vec<String>,
    markup: String,
    script: String,
    slips: Vec<(String, String)>,
}

/// Where its libraries stand.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Place {
    Foot,
    Head,
    /// In the head of the site's own page, and the board knows nothing of them.
    Site,
}

/// It listens to what fails.
const LISTENS: &str =
    "errors = []; addEventListener('error', event => { if (event.message) errors.push(event.message) });
addEventListener('unhandledrejection', event => errors.push('rejected ' + event.reason))";

fn beginnings() -> Vec<Beginning> {
    let text = include_str!("manuals.txt");
    text.split("\n### ").skip(1).map(beginning).collect()
}

fn beginning(text: &str) -> Beginning {
    let (libraries, rest) = text.split_once('\n').unwrap();
    let (markup, rest) = rest.split_once("\n---\n").unwrap();
    let (slips, script): (Vec<&str>, Vec<&str>) = rest.lines().partition(|line| line.starts_with("~ "));
    let slip = |line: &str| {
        let (right, wrong) = line[2..].split_once(" ~ ").unwrap();
        (right.to_owned(), wrong.to_owned())
    };
    Beginning {
        libraries: libraries.split(", ").map(str::to_owned).collect(),
        markup: markup.to_owned(),
        script: script.join("\n"),
        slips: slips.into_iter().map(slip).collect(),
    }
}

/// What is told of it but notes, and what goes wrong in Chromium.
fn answers(browser: &Browser, from: &str, it: &Beginning, place: Place) -> (Vec<String>, Value) {
    let session = Session::with(&[("p.js", &it.script), ("site/errors.js", LISTENS)]);
    let (mut board, mut tags) = ("[site]\nroot = 'site'\n".to_owned(), String::new());
    for name in &it.libraries {
        let text = std::fs::read(format!("{from}/{name}.js")).unwrap();
        if place == Place::Site {
            session.write(&format!("site/{name}.js"), text);
            tags.push_str(&format!("<script src='{name}.js'></script>"));
        } else {
            session.write(&format!("{name}.js"), text);
            board.push_str(&format!("[library.{name}]\nscript = '{name}.js'\n"));
        }
    }
    let needs = if place == Place::Site { "[]".to_owned() } else { json!(it.libraries).to_string() };
    board.push_str(&format!("[pin.p]\nscript = 'p.js'\nneeds = {needs}\n"));
    if place == Place::Head {
        session.write("h.js", "document.documentElement.dataset.up = '1'");
        board.push_str(&format!("[pin.h]\nscript = 'h.js'\nslot = 'head'\nneeds = {needs}\n"));
    }
    session.write("deft-pin.toml", board);
    session.write(
        "site/index.html",
        format!(
            "<!doctype html><html lang=en><head><meta charset=utf-8><title>Ferries</title><script src=errors.js></script>{tags}</head><body>{}</body></html>",
            it.markup
        ),
    );
    let told = session.run("build --out out --anyway --format json").json()["findings"].clone();
    let told = told.as_array().unwrap().iter().filter(|finding| finding["severity"] != "note");
    let told = told.map(|finding| format!("{}: {}", finding["code"], finding["message"])).collect();
    browser.go(&format!("file://{}", session.path("out/index.html").display()));
    (told, browser.run("return new Promise(done => setTimeout(() => done(errors), 150))", vec![]))
}

#[test]
#[ignore = "needs libraries that scripts/real-manuals.sh fetches"]
fn what_libraries_are_begun_with_works_and_slips_in_it_are_told() {
    let from = std::env::var("DEFT_PIN_MANUALS").expect("DEFT_PIN_MANUALS names a folder");
    let browser = Browser::open();
    let (all, mut wrong, mut slips, mut fewer) = (beginnings(), Vec::new(), 0, 0);
    for it in &all {
        for place in [Place::Foot, Place::Head, Place::Site] {
            let (told, errors) = answers(&browser, &from, it, place);
            if !told.is_empty() || errors != json!([]) {
                wrong.push(format!("{:?} in {place:?}: {told:?}, {errors}", it.libraries));
            }
        }
        for (right, slip) in &it.slips {
            assert!(it.script.contains(right), "{right} in {:?}", it.libraries);
            let script = it.script.replacen(right, slip, 1);
            let (told, errors) = answers(&browser, &from, &Beginning { script, ..it.clone() }, Place::Foot);
            slips += 1;
            if told.is_empty() {
                wrong.push(format!("{:?} with {slip}: nothing is told, {errors}", it.libraries));
            }
        }
        for without in 0..it.libraries.len() {
            let mut libraries = it.libraries.clone();
            libraries.remove(without);
            let (told, errors) =
                answers(&browser, &from, &Beginning { libraries, ..it.clone() }, Place::Foot);
            fewer += 1;
            if told.is_empty() && errors != json!([]) {
                wrong.push(format!("{:?} without {without}: nothing is told, {errors}", it.libraries));
            }
        }
    }
    let names: BTreeSet<&String> = all.iter().flat_map(|it| &it.libraries).collect();
    println!(
        "{} libraries, {} beginnings, {slips} slips in them, {fewer} without a library",
        names.len(),
        all.len()
    );
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
}

#[test]
#[ignore = "needs libraries that scripts/real-manuals.sh fetches"]
fn what_two_libraries_are_begun_with_works_on_one_page() {
    /// Each of them takes `$` or `Vue`.
    const ALONE: &[&str] = &["cash", "jquery", "vue2", "vue3", "zepto"];
    let from = std::env::var("DEFT_PIN_MANUALS").expect("DEFT_PIN_MANUALS names a folder");
    let browser = Browser::open();
    let (all, mut dice, mut pairs, mut wrong) = (beginnings(), Dice::seeded(41), 0, Vec::new());
    let is_alone = |it: &Beginning| it.libraries.iter().any(|name| ALONE.contains(&&**name));
    for first in &all {
        let second = &all[dice.below(all.len())];
        if is_alone(first) && is_alone(second) || first.libraries == second.libraries {
            continue;
        }
        let extra = second.libraries.iter().filter(|name| !first.libraries.contains(name));
        let libraries: Vec<String> = first.libraries.iter().chain(extra).cloned().collect();
        let markup = format!("{}\n{}", first.markup, second.markup);
        let script = format!("{{\n{}\n}}\n{{\n{}\n}}", first.script, second.script);
        let it = Beginning { libraries, markup, script, slips: Vec::new() };
        let (told, errors) = answers(&browser, &from, &it, Place::Foot);
        pairs += 1;
        if errors == json!([]) && !told.is_empty() || errors != json!([]) && told.is_empty() {
            wrong.push(format!("{:?}: {told:?}, {errors}", it.libraries));
        }
    }
    println!("{pairs} pairs");
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
}
