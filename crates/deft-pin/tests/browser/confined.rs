//! Scripts of pins in their frame, in Chromium: once for each target, with their names to themselves,
//! and called by the name of their file.

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::Session;

/// The pin's keys, its script, and what the page comes to: what is in `seen`, and what `asked` says.
const CASES: &[(&str, &str, &str)] = &[
    ("", "seen.push(root === document, this === window)", "[true,true]"),
    ("within = '.pier'", "seen.push(root.id, this === window)", r#"["a",true,"b",true]"#),
    ("within = '.none'", "seen.push(1)", "[]"),
    ("within = '.pier'\nslot = 'head'", "seen.push(root.id)", r#"["a","b"]"#),
    ("slot = 'head'", "seen.push(document.body)", "[null]"),
    (
        "",
        "var own = 1; let mine = 2; function call() {} setTimeout(() => seen.push(typeof window.own, typeof call))",
        r#"["undefined","function"]"#,
    ),
    ("share = ['own']", "var own = 1; setTimeout(() => { own = 2; seen.push(window.own) })", "[2]"),
    ("share = ['call']", "seen.push(window.call()); function call() { return 3 }", "[3]"),
    ("share = ['value']", "let value = 1; window.value = 4; seen.push(value)", "[4]"),
    ("share = ['Dock']", "class Dock {} seen.push(new window.Dock() instanceof Dock)", "[true]"),
    ("share = ['taken']", "function taken() { return 5 } seen.push(window.taken())", "[5]"),
    ("within = '#a'", "if (root.id) { seen.push(1); return } seen.push(2)", "[1]"),
    ("", "'use strict'; seen.push((function () { return typeof this })())", r#"["undefined"]"#),
    ("", "let root = 1; seen.push(root)", "[1]"),
    ("", "var root; seen.push(root)", "[null]"),
    ("", "seen.push(1) // a comment at the end", "[1]"),
    ("", "<!-- an old comment\nseen.push(1)\n--> and its end", "[1]"),
    ("", "\n\nseen.push(new Error().stack.match(/p\\.js:[0-9]+/)[0])", r#"["p.js:3"]"#),
    (
        "within = '.pier'\nslot = 'head'", "\nseen.push(new Error().stack.match(/p\\.js:[0-9]+/)[0])",
        r#"["p.js:2","p.js:2"]"#,
    ),
];

#[test]
fn a_script_runs_in_its_frame() {
    let browser = Browser::open();
    for (keys, script, expected) in CASES {
        for manner in ["", "--inline"] {
            let board =
                format!("[site]\nroot = 'site'\n[pin.p]\nscript = 'pins/p.js'\npages = ['/']\n{keys}\n");
            let page = "<!doctype html><html><head><script>var seen = [], taken = 1</script></head><body><p id=a class=pier></p>\n\n<p id=b class=pier></p></body></html>";
            let session =
                Session::with(&[("deft-pin.toml", &board), ("pins/p.js", script), ("site/index.html", page)]);
            session.run(&format!("build --out out --anyway {manner}"));
            browser.go(&format!("file://{}", session.path("out/index.html").display()));
            let seen = browser.run("return new Promise(done => setTimeout(() => done(seen), 20))", vec![]);
            let expected: Value = serde_json::from_str(expected).unwrap();
            assert_eq!(seen, expected, "{keys} {script} {manner}");
            let leaked = browser.run("return [typeof own, typeof mine]", vec![]);
            let shared = keys.contains("own");
            assert_eq!(leaked, json!([if shared { "number" } else { "undefined" }, "undefined"]), "{script}");
        }
    }
}
