//! Scripts of pins in Chromium: what is said to stop stops, and what is not does not.

use std::sync::Arc;
use std::time::{SystemTime, UNIX_EPOCH};

use serde_json::{Value, json};

use crate::cases::{Case, SCRIPTS, pasted};
use crate::driver::Browser;
use crate::server::{Served, Serving, serve};

/// Whether what comes of a case tells nothing: of a race, of a host that cannot be reached here, of
/// what is loaded later and may be anything, of what runs before the page's own first script.
fn is_unsettled(case: &Case) -> bool {
    case.codes == ["race"]
        || case.page.contains("https:")
        || case.page.contains("none.js")
        || case.keys.contains("head-start")
        || case.keys.contains("adds")
        || case.script.contains("createElement('script')")
}

#[test]
fn what_is_said_to_stop_stops_and_nothing_else() {
    let browser = Browser::open();
    let served: Served = Arc::default();
    // Files have no modules, so the pages come from a server.
    let port = serve(Arc::clone(&served), Serving::AtOnce);
    let (mut tried, mut clean, mut wrong) = (0, 0, Vec::new());
    for case in SCRIPTS {
        if is_unsettled(case) {
            continue;
        }
        let session = case.session();
        session.run("build --out out --anyway");
        {
            let mut served = served.lock().unwrap();
            served.clear();
            for (path, bytes) in session.files("out") {
                let kind = if path.ends_with(".html") { "text/html" } else { "text/javascript" };
                served.insert(format!("/{path}"), (kind, String::from_utf8(bytes).unwrap()));
            }
        }
        browser.go(&format!("http://127.0.0.1:{port}/index.html"));
        // A script that stands after what the case is about, so that functions for later run as well.
        let errors = browser.run(
            "return new Promise(done => setTimeout(() => { if (typeof draw == 'function') try { draw() } catch (e) { errors.push(e.message) } done(errors) }, 50))",
            vec![],
        );
        assert!(matches!(errors, Value::Array(_)));
        // A pin without its element does not run, which is no error of the browser's.
        let stops = !case.codes.is_empty() && case.codes != ["no-element"];
        if (errors != json!([])) != stops {
            wrong.push(format!("{case:?}: {errors}"));
        }
        tried += 1;
        clean += u32::from(!stops);
    }
    assert_eq!(wrong, Vec::<String>::new());
    assert!(tried >= 120 && clean * 2 >= tried, "{clean} of {tried} are clean");
}

/// What a page does once it is loaded: waits for timers, then does what a visitor does.
const VISIT: &str = r#"
const [names, settling, reacting] = arguments;
const wait = time => new Promise(resolve => setTimeout(resolve, time));
const frames = names.map(name => { const frame = document.createElement("iframe"); frame.src = name; frame.width = 1000; document.body.append(frame); return frame });
return (async () => {
  await Promise.all(frames.map(frame => new Promise(resolve => frame.onload = resolve)));
  await wait(settling);
  const atLoad = frames.map(frame => frame.contentWindow.errors.length);
  for (const frame of frames) {
    const window = frame.contentWindow, document = window.document;
    document.addEventListener("click", event => event.target.closest("a") && event.preventDefault(), true);
    window.addEventListener("submit", event => event.preventDefault());
    for (const element of document.querySelectorAll("*"))
      for (const kind of ["click", "mouseenter", "input", "change", "submit", "keydown"])
        element.dispatchEvent(new (kind === "keydown" ? window.KeyboardEvent : window.Event)(kind, { bubbles: kind !== "mouseenter", cancelable: true, key: "Escape" }));
    for (const kind of ["scroll", "resize"]) window.dispatchEvent(new window.Event(kind));
  }
  await wait(reacting);
  return frames.map((frame, at) => [atLoad[at], frame.contentWindow.errors]);
})();
"#;

/// Whether what comes of a pasted script in Chromium depends on the network, or on waiting for long.
fn depends_on_more(script: &str) -> bool {
    ["fetch(", "https:", "3000)", "1000)"].iter().any(|sign| script.contains(sign))
}

/// So many of the newest cases are held against Chromium in each run.
const NEWEST: usize = 150;
/// Of the others one in so many is, another one each day.
const TURNS: usize = 64;

/// The cases of this run: all with `DEFT_PIN_CASES`. What is told of each is tested in `check.rs`, in every run.
fn cases_in_turn() -> Vec<pasted::Pasted> {
    let all = pasted::cases();
    let day = SystemTime::now().duration_since(UNIX_EPOCH).unwrap().as_secs() / 86_400;
    let (turn, older) = (day as usize % TURNS, all.len().saturating_sub(NEWEST));
    let is_everything = std::env::var("DEFT_PIN_CASES").is_ok();
    let count = all.len();
    let numbered = all.into_iter().enumerate();
    let is_now = |at: usize| is_everything || at >= older || at % TURNS == turn;
    let chosen: Vec<pasted::Pasted> = numbered.filter(|(at, _)| is_now(*at)).map(|(_, case)| case).collect();
    println!("turn {turn}: {} of {count} cases, all of them with DEFT_PIN_CASES", chosen.len());
    chosen
}

/// Where an error is told, Chromium throws; where nothing is told, it throws neither at once nor once a visitor does
/// something. The cases are many: they are held in two halves, side by side.
#[test]
fn pasted_scripts_throw_where_that_is_said() {
    let cases = cases_in_turn();
    hold_against_chromium(&cases[..cases.len() / 2]);
}

#[test]
fn pasted_scripts_throw_where_that_is_said_as_well() {
    let cases = cases_in_turn();
    hold_against_chromium(&cases[cases.len() / 2..]);
}

fn hold_against_chromium(cases: &[pasted::Pasted]) {
    let session = pasted::session(cases);
    session.run("build --out out --anyway");
    let browser = Browser::open();
    let served: Served = Arc::default();
    let port = serve(Arc::clone(&served), Serving::Once);
    {
        let mut served = served.lock().unwrap();
        served.insert("/".to_owned(), ("text/html", "<!doctype html><body></body>".to_owned()));
        for (path, bytes) in session.files("out") {
            let kind = if path.ends_with(".html") { "text/html" } else { "text/javascript" };
            served.insert(format!("/{path}"), (kind, String::from_utf8(bytes).unwrap()));
        }
    }
    // What does not agree is looked at again among fewer, with more time: a page may have been late.
    let all: Vec<usize> = (0..cases.len()).collect();
    let mut wrong = Vec::new();
    for batch in all.chunks(60) {
        wrong.extend(disagreeing(&browser, port, cases, batch, (250, 150)));
    }
    let again: Vec<usize> = wrong.iter().map(|(at, _)| *at).collect();
    let mut wrong = Vec::new();
    for batch in again.chunks(10) {
        wrong.extend(disagreeing(&browser, port, cases, batch, (1000, 600)));
    }
    assert_eq!(wrong, Vec::<(usize, String)>::new());
}

/// Of some cases those that Chromium judges otherwise, with what it says. It is given so many milliseconds after the
/// pages are loaded, and after everything on them was clicked.
fn disagreeing(
    browser: &Browser,
    port: u16,
    cases: &[pasted::Pasted],
    numbers: &[usize],
    (settling, reacting): (u32, u32),
) -> Vec<(usize, String)> {
    let names: Vec<String> = numbers.iter().map(|at| format!("c{at}.html")).collect();
    browser.go(&format!("http://127.0.0.1:{port}/"));
    let answer = browser.run(VISIT, vec![json!(names), json!(settling), json!(reacting)]);
    let mut wrong = Vec::new();
    for (at, errors) in numbers.iter().zip(answer.as_array().unwrap()) {
        let case = &cases[*at];
        if depends_on_more(&case.script) {
            continue;
        }
        let stops = errors[0] != json!(0);
        let fails = errors[1] != json!([]);
        let is_error = case.told.iter().any(|told| told.starts_with("error "));
        // What goes wrong on a first visit alone is a warning, and this is one.
        let may_stop = is_error || case.told.iter().any(|told| told.starts_with("warning "));
        if (is_error && !stops) || (stops && !may_stop) || (fails && case.told.is_empty()) {
            wrong.push((*at, format!("{case:?}: {errors}")));
        }
    }
    wrong
}
