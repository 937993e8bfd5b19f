//! `document.write()`: where it is said to take the place of the page, it does in Chromium, and nowhere else.

use std::sync::Arc;

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::server::{Served, Serving, serve};
use crate::session::Session;

/// Keys of the pin, its script, and whether the page is gone in the end.
const CASES: &[(&str, &str, bool)] = &[
    ("", "document.write('<b>x</b>')", false),
    ("slot = 'head'", "document.write('<b>x</b>')", false),
    ("start = 'ready'", "document.write('<b>x</b>')", true),
    ("start = 'loaded'", "document.writeln('<b>x</b>')", true),
    ("start = 'after 0.1s'", "document.write('<b>x</b>')", true),
    ("within = '#m'\nslot = 'head'", "document.write('<b>x</b>')", true),
    ("", "setTimeout(() => document.write('<b>x</b>'), 50)", true),
    ("", "addEventListener('load', () => document.write('<b>x</b>'))", true),
    ("", "document.addEventListener('DOMContentLoaded', function () { document.write('x') })", true),
    ("", "requestAnimationFrame(() => document.write('<b>x</b>'))", true),
    ("", "Promise.resolve().then(() => document.write('<b>x</b>'))", false),
    (
        "",
        "const w = document.createElement('iframe'); document.body.append(w); w.contentDocument.write('x')",
        false,
    ),
    ("", "addEventListener('load', () => { if (location.hash === '#never') document.write('x') })", false),
    ("", "document.querySelector('#m').addEventListener('click', () => document.write('x'))", false),
];

#[test]
fn what_is_written_late_takes_the_place_of_the_page() {
    let browser = Browser::open();
    let served: Served = Arc::default();
    let port = serve(Arc::clone(&served), Serving::AtOnce);
    let mut wrong = Vec::new();
    for (keys, script, is_gone) in CASES {
        let session = Session::with(&[
            (
                "site/index.html",
                "<!doctype html><html lang=en><head><title>x</title></head><body><main id=m>Hi</main></body></html>",
            ),
            ("deft-pin.toml", &format!("[site]\nroot = 'site'\n[pin.p]\nscript = 'p.js'\n{keys}\n")),
            ("p.js", script),
        ]);
        let said: Value = serde_json::from_str(&session.run("check --format json").stdout).unwrap();
        let told = said["findings"].as_array().unwrap().iter();
        let told = told.filter(|own| own["code"] == "in-vain" && own["severity"] == "error").count() == 1;
        session.good("build --out out --anyway");
        let mut kept = served.lock().unwrap();
        kept.clear();
        for (path, bytes) in session.files("out") {
            let kind = if path.ends_with(".js") { "text/javascript" } else { "text/html" };
            kept.insert(format!("/{path}"), (kind, String::from_utf8(bytes).unwrap()));
        }
        // What is written opens a page that nothing ends: in a frame nobody waits for that.
        kept.insert("/around".to_owned(), ("text/html", "<!doctype html><iframe id=f></iframe>".to_owned()));
        drop(kept);
        browser.go(&format!("http://127.0.0.1:{port}/around"));
        // What stays is looked at for a while; what goes may take its time, and is gone where it does not come back.
        let look = "const f = document.getElementById('f'), until = performance.now() + arguments[0];
            let times = 0;
            f.src = '/index.html';
            return new Promise(done => (function look() {
                const isThere = f.contentWindow.location.pathname === '/index.html';
                times = isThere && !f.contentDocument.getElementById('m') ? times + 1 : 0;
                if (times > 15 || performance.now() > until) done(times > 0);
                else setTimeout(look, 20);
            })())";
        let gone = browser.run(look, vec![json!(if *is_gone { 10_000 } else { 700 })]);
        if gone != json!(is_gone) || told != *is_gone {
            wrong.push(format!("{keys} {script}: told {told}, gone {gone}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
