//! Content Security Policies in Chromium: what is said to be stopped does not run, what is not does;
//! and the source that is said to let it in lets it in.

use std::sync::Arc;

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::server::{Served, Serving, serve};
use crate::session::Session;

/// The policy, and the manner of the build.
const CASES: &[(&str, &str)] = &[
    ("default-src 'none'", ""),
    ("default-src 'self'", ""),
    ("default-src 'self'", "--inline"),
    ("script-src 'self'; style-src 'none'", ""),
    ("script-src-elem 'none'; script-src 'self'", ""),
    ("default-src 'none'; style-src-elem 'self'; script-src *", ""),
    ("script-src 'unsafe-inline'; style-src 'unsafe-inline'", ""),
    ("script-src 'unsafe-inline'; style-src 'unsafe-inline'", "--inline"),
    ("script-src 'unsafe-inline' 'nonce-abc'; style-src 'unsafe-inline'", "--inline"),
    ("script-src 'self' 'strict-dynamic'", ""),
    ("script-src https:", ""),
    ("img-src 'none'", "--inline"),
    ("SCRIPT-SRC 'Self'; script-src 'none'", ""),
    ("script-src 'self', script-src 'none'", ""),
];

fn session(policy: &str) -> Session {
    let page = format!(
        "<!doctype html><html><head><meta http-equiv='content-security-policy' content=\"{policy}\"></head><body></body></html>"
    );
    Session::with(&[
        (
            "deft-pin.toml",
            "[site]\nroot = 'site'\n[pin.p]\nscript = 'p.js'\nstyle = 'p.css'\npages = ['/']\n",
        ),
        ("p.js", "document.documentElement.dataset.ran = 'yes';\r\n"),
        ("p.css", ":root { --seen: yes }\n"),
        ("site/index.html", &page),
    ])
}

/// Whether the script and the sheet of a page got in.
fn seen(browser: &Browser, served: &Served, port: u16, session: &Session) -> Value {
    let mut files = served.lock().unwrap();
    files.clear();
    for (path, bytes) in session.files("out") {
        let kind = match path.rsplit('.').next() {
            Some("html") => "text/html",
            Some("css") => "text/css",
            _ => "text/javascript",
        };
        files.insert(format!("/{path}"), (kind, String::from_utf8(bytes).unwrap()));
    }
    drop(files);
    browser.go(&format!("http://127.0.0.1:{port}/index.html"));
    // On a busy machine both may come a little later than the page is said to be there.
    browser.run(
        "const root = document.documentElement, until = Date.now() + 300; \
         const seen = () => [root.dataset.ran == 'yes', getComputedStyle(root).getPropertyValue('--seen') == 'yes']; \
         return new Promise(done => { const look = () => seen().every(Boolean) || Date.now() > until ? done(seen()) : setTimeout(look, 20); look() })",
        vec![],
    )
}

/// What is told of the script and of the sheet, with the help.
fn told(session: &Session, manner: &str) -> [Option<String>; 2] {
    let answer = session.run(&format!("build --out out --anyway --format json {manner}")).json();
    let findings = answer["findings"].as_array().unwrap();
    ["script of", "sheet of"].map(|what| {
        let stopped = findings.iter().find(|finding| {
            finding["code"] == "blocked-by-policy" && finding["message"].as_str().unwrap().contains(what)
        });
        stopped.map(|finding| finding["help"].as_str().unwrap().to_owned())
    })
}

#[test]
fn what_a_policy_is_said_to_stop_is_stopped() {
    let browser = Browser::open();
    let served: Served = Arc::default();
    let port = serve(Arc::clone(&served), Serving::AtOnce);
    let mut mended = 0;
    for (policy, manner) in CASES {
        let own = session(policy);
        let told_of = told(&own, manner);
        let expected = json!([told_of[0].is_none(), told_of[1].is_none()]);
        // A scheme alone: whether the site is served by it is not known.
        if *policy != "script-src https:" {
            let is_seen = |_| seen(&browser, &served, port, &own) == expected;
            assert!((0..3).any(is_seen), "{policy} {manner}: {told_of:?}");
        }
        // What is said to let it in does.
        let wanted: Vec<(&str, String)> = told_of
            .iter()
            .zip(["script-src", "style-src"])
            .filter_map(|(help, directive)| {
                Some((directive, help.as_ref()?.strip_prefix("add `")?.split('`').next()?.to_owned()))
            })
            .collect();
        if !wanted.is_empty() {
            let sources: Vec<String> =
                wanted.iter().map(|(directive, source)| format!("{directive} {source}")).collect();
            let better = session(&sources.join("; "));
            assert_eq!(told(&better, manner), [None, None], "{sources:?}");
            assert!(
                (0..3).any(|_| seen(&browser, &served, port, &better) == json!([true, true])),
                "{sources:?}"
            );
            mended += 1;
        }
    }
    assert!(mended > 5, "{mended}");
}
