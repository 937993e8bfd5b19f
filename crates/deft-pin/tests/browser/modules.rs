//! Modules in Chromium: those of which `order` says that they cannot run do not, and all others do.

use std::sync::Arc;

use serde_json::json;

use crate::driver::Browser;
use crate::server::{Served, Serving, serve};
use crate::session::Session;

const FILES: &[(&str, &str)] = &[
    (
        "js/tide.js",
        "export const tide = 1, { high, low: ebb } = { high: 2, low: 3 }; export default class {}",
    ),
    (
        "js/all.js",
        "export * from './tide.js'; export * as named from './tide.js'; export { tide as again } from './tide.js'",
    ),
    ("js/plain.js", "window.plain = 1"),
    (
        "js/round.js",
        "import { other } from './back.js'; export const one = 1; export function go() { return other }",
    ),
    ("js/back.js", "import { one } from './round.js'; export const other = 2; export let late = () => one"),
    ("js/wrong.js", "import { nope } from './tide.js'; export const fine = 1"),
    ("js/lost.js", "import './gone.js'; export const fine = 1"),
    ("js/bare.js", "import 'tide'; export const fine = 1"),
    ("js/flawed.js", "export const = 1"),
    (
        "js/kinds.js",
        "export function f() {} export class C {} export let [a, { b }, ...c] = [1, { b: 2 }]; const d = 1; export { d as 'e-f', d as default }",
    ),
    ("js/data.json", "{}"),
];

/// What stands in the head, a module's text, and what is said of it: nothing, or words of the message.
const CASES: &[(&str, &str, &str)] = &[
    ("", "import './js/tide.js'", ""),
    ("", "import { tide, high, ebb } from './js/tide.js'", ""),
    ("", "import Tide, { tide as t } from '/js/tide.js'", ""),
    ("", "import Tide, * as all from '/js/tide.js'", ""),
    ("", "import { default as Tide } from '/js/tide.js'", ""),
    ("", "import { low } from './js/tide.js'", "exports no `low`"),
    ("", "import { Tide } from './js/tide.js'", "exports no `Tide`"),
    ("", "import { tide, hihg } from './js/tide.js'", "exports no `hihg`"),
    ("", "export { nope } from './js/tide.js'", "exports no `nope`"),
    ("", "export * from './js/tide.js'", ""),
    ("", "import { tide, named, again } from './js/all.js'", ""),
    ("", "import all from './js/all.js'", "no default export"),
    ("", "import { default as x } from './js/all.js'", "no default export"),
    ("", "import plain from './js/plain.js'", "no default export"),
    ("", "import { plain } from './js/plain.js'", "exports no `plain`"),
    ("", "import {} from './js/plain.js'; import * as none from './js/plain.js'", ""),
    ("", "import { go } from './js/round.js'; go()", ""),
    ("", "import { late } from './js/back.js'; late()", ""),
    ("", "import { fine } from './js/wrong.js'", "in `js/wrong.js`"),
    ("", "import { fine } from './js/lost.js'", "in `js/lost.js`"),
    ("", "import { fine } from './js/bare.js'", "in `js/bare.js`"),
    ("", "import './js/gone.js'", "no module `./js/gone.js`"),
    ("", "import './js/tide'", "no module `./js/tide`"),
    ("", "import 'js/tide.js'", "`js/tide.js` is no address"),
    ("", "import 'tide'", "`tide` is no address"),
    (
        "<script type=importmap>{\"imports\": {\"tide\": \"/js/tide.js\", \"js/\": \"/js/\"}}</script>",
        "import { tide } from 'tide'; import 'js/plain.js'",
        "",
    ),
    (
        "<script type=importmap>{\"imports\": {\"tide\": \"/js/tide.js\"}}</script>",
        "import 'tides'",
        "`tides` is no address",
    ),
    (
        "<script type=importmap>{\"imports\": {\"tide\": \"/js/gone.js\"}}</script>",
        "import 'tide'",
        "no module `tide`",
    ),
    (
        "<script type=importmap>{\"imports\": {\"tide\": null}}</script>",
        "import 'tide'",
        "`tide` is no address",
    ),
    (
        "<script type=importmap>{\"imports\": {\"./js/gone.js\": \"/js/tide.js\"}}</script>",
        "import { tide } from './js/gone.js'",
        "",
    ),
    ("<base href=/js/>", "import './tide.js'", ""),
    ("<base href=/js/>", "import './js/tide.js'", "no module `./js/tide.js`"),
    ("", "import { f, C, a, b, c, 'e-f' as e } from './js/kinds.js'; import d from './js/kinds.js'", ""),
    ("", "import { d } from './js/kinds.js'", "exports no `d`"),
    ("", "import('./js/gone.js').catch(() => {}); import('tide').catch(() => {})", ""),
    ("", "const { nope } = await import('./js/tide.js')", ""),
];

#[test]
fn modules_run_or_not_as_said() {
    let mut files: Vec<(String, String)> =
        FILES.iter().map(|(path, text)| (format!("site/{path}"), (*text).to_owned())).collect();
    files.push(("site/x.css".to_owned(), String::new()));
    for (number, (head, module, _)) in CASES.iter().enumerate() {
        let page = format!(
            "<!doctype html><title>x</title>{head}<script type=module>{module}; window.ran = true</script>"
        );
        files.push((format!("site/{number}.html"), page));
    }
    let given: Vec<(&str, &str)> = files.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect();
    let session = Session::with(&given);
    let served: Served = Arc::default();
    let port = serve(Arc::clone(&served), Serving::AtOnce);
    for (path, text) in &files {
        let kind = if path.ends_with("html") { "text/html" } else { "text/javascript" };
        served.lock().unwrap().insert(path.trim_start_matches("site").to_owned(), (kind, text.clone()));
    }
    let browser = Browser::open();
    let mut wrong = Vec::new();
    for (number, (head, module, words)) in CASES.iter().enumerate() {
        let answer = session.run(&format!("order /{number}.html --site site --format json")).json();
        let said: Vec<String> =
            answer["findings"].as_array().unwrap().iter().map(|own| own["message"].to_string()).collect();
        browser.go(&format!("http://127.0.0.1:{port}/{number}.html"));
        let mut ran = false;
        for _ in 0..20 {
            ran = browser.run("return window.ran === true", vec![]) == json!(true);
            if ran == words.is_empty() {
                break;
            }
            std::thread::sleep(std::time::Duration::from_millis(20));
        }
        let is_said =
            said.len() == usize::from(!words.is_empty()) && said.iter().all(|own| own.contains(words));
        if !is_said || ran != words.is_empty() {
            wrong.push(format!("{head} {module}: ran {ran}, said {said:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
