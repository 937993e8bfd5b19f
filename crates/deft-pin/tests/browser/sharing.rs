//! Names of pins' scripts that something outside of them asks the page for: in Chromium it finds them, what `check` says
//! is what is shared, and what is somebody else's stays as it was.

use serde_json::json;

use crate::driver::Browser;
use crate::session::Session;

/// A page of the site, the board's pins with their files, what the page logs once it is loaded and each element with a
/// handler is clicked, and what is shared by itself.
struct Case {
    /// What stands in the body.
    body: &'static str,
    pins: &'static str,
    a: &'static str,
    b: &'static str,
    logs: &'static [&'static str],
    shared: &'static [&'static str],
}

const A: &str = "[pin.a]\nscript = 'a.js'\n";
const AB: &str = "[pin.a]\nscript = 'a.js'\n[pin.b]\nscript = 'b.js'\n";
const BA: &str = "[pin.b]\nscript = 'b.js'\n[pin.a]\nscript = 'a.js'\n";

const CASES: &[Case] = &[
    // Handlers in the page, in all spellings.
    Case {
        body: "<p onclick='go(1)'>x</p>",
        pins: A,
        a: "function go(n) { log.push('go' + n) }",
        b: "",
        logs: &["go1"],
        shared: &["go"],
    },
    Case {
        body: "<p ONCLICK=\"if (1) { menu.open() }\">x</p>",
        pins: A,
        a: "const menu = { open() { log.push('open') } };",
        b: "",
        logs: &["open"],
        shared: &["menu"],
    },
    Case {
        body: "<p onclick=go()>x</p>",
        pins: A,
        a: "let go = () => log.push('go');",
        b: "",
        logs: &["go"],
        shared: &["go"],
    },
    Case {
        body: "<a href='javascript:go()'>x</a>",
        pins: A,
        a: "function go() { log.push('go') }",
        b: "",
        logs: &["go"],
        shared: &["go"],
    },
    Case {
        body: "<p onclick='this.title = 1'>go</p>",
        pins: A,
        a: "function go() {} function title() {} log.push(typeof go)",
        b: "",
        logs: &["function"],
        shared: &[],
    },
    // The site's own stays the site's.
    Case {
        body: "<script>function go() { log.push('site') }</script><p onclick='go()'>x</p>",
        pins: A,
        a: "function go() { log.push('pin') }",
        b: "",
        logs: &["site"],
        shared: &[],
    },
    Case {
        body: "<p onclick='other()'>x</p><script>window.other = () => log.push('site')</script>",
        pins: A,
        a: "function other() { log.push('pin') }",
        b: "",
        logs: &["site"],
        shared: &[],
    },
    // Another pin's markup.
    Case {
        body: "<p id=x>x</p>",
        pins: "[pin.a]\nscript = 'a.js'\n[pin.m]\nmarkup = [{ text = '<b onclick=\"go()\">b</b>', place = 'append', at = '#x' }]\n",
        a: "function go() { log.push('go') }",
        b: "",
        logs: &["go"],
        shared: &["go"],
    },
    Case {
        body: "<p id=x>x</p>",
        pins: "[pin.a]\nscript = 'a.js'\n[pin.m]\nstart = 'ready'\nmarkup = [{ text = '<b onclick=\"go()\">b</b>', place = 'append', at = '#x' }]\n",
        a: "function go() { log.push('go') }",
        b: "",
        logs: &["go"],
        shared: &["go"],
    },
    // Another pin's script.
    Case {
        body: "",
        pins: AB,
        a: "const ferry = { name: 'Kittiwake' };",
        b: "log.push(ferry.name)",
        logs: &["Kittiwake"],
        shared: &["ferry"],
    },
    Case {
        body: "",
        pins: AB,
        a: "function sail() { return 'sails' }",
        b: "document.addEventListener('DOMContentLoaded', () => log.push(sail()))",
        logs: &["sails"],
        shared: &["sail"],
    },
    Case {
        body: "",
        pins: BA,
        a: "function sail() { return 'sails' }",
        b: "document.addEventListener('DOMContentLoaded', () => log.push(sail()))",
        logs: &["sails"],
        shared: &["sail"],
    },
    Case {
        body: "<p id=x onclick='1'>x</p>",
        pins: BA,
        a: "var count = 3;",
        b: "document.querySelector('#x').addEventListener('click', () => log.push('n' + count))",
        logs: &["n3"],
        shared: &["count"],
    },
    Case {
        body: "<script>var $ = s => 'site ' + s</script>",
        pins: AB,
        a: "const $ = s => 'pin ' + s; log.push($(1))",
        b: "log.push($(2))",
        logs: &["pin 1", "site 2"],
        shared: &[],
    },
    Case {
        body: "",
        pins: AB,
        a: "const count = 1;",
        b: "log.push(typeof count === 'undefined' ? 'none' : 'some')",
        logs: &["none"],
        shared: &[],
    },
    Case {
        body: "",
        pins: AB,
        a: "const count = 1; log.push(count)",
        b: "const count = 2; log.push(count)",
        logs: &["1", "2"],
        shared: &[],
    },
];

#[test]
fn what_is_asked_for_outside_of_a_pin_is_there() {
    let browser = Browser::open();
    let mut wrong = Vec::new();
    for case in CASES {
        let session = Session::new();
        let page = format!(
            "<!doctype html><html lang=en><head><title>x</title><script>window.log = []; onerror = m => log.push(m)</script></head><body><main>{}</main></body></html>",
            case.body
        );
        session.write("site/index.html", page);
        session.write("deft-pin.toml", format!("[site]\nroot = 'site'\n{}", case.pins));
        session.write("a.js", case.a);
        session.write("b.js", case.b);
        let answer = session.run("check --format json");
        let findings: serde_json::Value = serde_json::from_str(&answer.stdout).unwrap();
        let all: Vec<(String, String)> = findings["findings"]
            .as_array()
            .unwrap()
            .iter()
            .map(|own| {
                (
                    own["code"].as_str().unwrap().to_owned(),
                    own["help"].as_str().unwrap_or_default().to_owned(),
                )
            })
            .collect();
        let shared: Vec<String> =
            all.iter().filter(|(code, _)| code == "inferred-share").map(|(_, help)| help.clone()).collect();
        let is_right = match case.shared {
            [] => shared.is_empty(),
            names => {
                shared.len() == 1
                    && shared[0].ends_with(&format!(
                        "`share = [{}]`",
                        names.iter().map(|name| format!("\"{name}\"")).collect::<Vec<_>>().join(", ")
                    ))
            }
        };
        let told: Vec<&str> = all
            .iter()
            .map(|(code, _)| code.as_str())
            .filter(|code| matches!(*code, "not-shared" | "missing-library"))
            .collect();
        session.good("build --out out --anyway");
        browser.go(&format!("file://{}", session.path("out/index.html").display()));
        let script = "document.querySelectorAll('[onclick], a[href^=javascript]').forEach(e => e.click()); return new Promise(done => setTimeout(() => done(log.map(String)), 30))";
        let logged = browser.run(script, vec![]);
        if !is_right || !told.is_empty() || logged != json!(case.logs) {
            wrong.push(format!(
                "{}\n  {} | {} | {}\n  logs {logged}, shared {shared:?}, told {told:?}",
                case.body,
                case.pins.replace('\n', "; "),
                case.a,
                case.b
            ));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
