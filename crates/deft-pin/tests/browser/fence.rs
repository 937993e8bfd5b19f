//! The fence: a sheet that is confined to a target changes nothing outside of it, and inside of it
//! everything that it changed before, with the same winners.

use serde_json::{Value, json};

use crate::cascade::Maker;
use crate::dice::{Dice, cases};
use crate::driver::Browser;
use crate::session::Session;

/// For each element of the body: whether it is in the target, and what properties that are not
/// inherited come to on it and on its `::before`.
const COMPUTED: &str = "const names = ['z-index', 'order', 'outline-offset', 'margin-top', 'margin-left', 'margin-right', 'margin-bottom',
    'padding-left', 'padding-right', 'padding-top', 'padding-bottom', 'scroll-margin-top', 'animation-name', 'font-family'];
  return [...document.querySelectorAll('body *:not(style, script)')].map(e => [
    e.closest(arguments[0]) !== null,
    [null, '::before'].map(pseudo => { const s = getComputedStyle(e, pseudo); return names.map(n => s.getPropertyValue(n)); }),
  ]);";

#[test]
fn a_fenced_sheet_is_the_sheet_cut_down_to_its_target() {
    let mut dice = Dice::seeded(1931);
    let browser = Browser::open();
    browser.resize(1280, 800);
    let (mut held, mut refused, mut changed) = (0, 0, 0);
    for number in 0..cases(60) {
        let mut maker = Maker { dice: &mut dice, number: 0, ids: 0, wide: false, shadows: false };
        let body: String = (0..3).map(|_| maker.element(0)).collect();
        let sheet = maker.sheet();
        let within = dice.pick(&[".a", "#i0", ".b, .c", "div > .d", "body > :first-child", "section"]);
        let strength = dice.pick(&["raise", "keep"]);
        // What browsers set by themselves is taken away first, weaker than anything.
        let page = |style: &str| {
            format!(
                "<!doctype html><html><head><meta charset=utf-8><style>@layer first {{ p, body {{ margin: 0 }} }}</style>{style}</head><body>{body}</body></html>"
            )
        };
        let session = Session::with(&[
            ("site/index.html", &page("")),
            ("open.html", &page(&format!("<style>{sheet}</style>"))),
            ("p.css", &sheet),
            (
                "deft-pin.toml",
                &format!(
                    "[site]\nroot = 'site'\n[pin.p]\nwithin = '{within}'\nstyle = 'p.css'\nstrength = '{strength}'\n"
                ),
            ),
        ]);
        let built = session.run("build --out out --anyway --format json").json();
        if built["findings"].as_array().unwrap().iter().any(|finding| finding["code"] == "not-confined") {
            refused += 1;
            continue;
        }
        let look = |file: &str| {
            browser.go(&format!("file://{}", session.path(file).display()));
            browser.run(COMPUTED, vec![json!(within)])
        };
        let (bare, open, fenced) = (look("site/index.html"), look("open.html"), look("out/index.html"));
        let rows = |value: &Value| value.as_array().unwrap().clone();
        for ((bare, open), fenced) in rows(&bare).iter().zip(rows(&open)).zip(rows(&fenced)) {
            let expected = if bare[0] == true { &open[1] } else { &bare[1] };
            changed += usize::from(*expected != bare[1]);
            held += 1;
            assert_eq!(
                fenced[1],
                *expected,
                "case {number}, within {within}, {strength}:\n{sheet}\n{body}\n{}",
                fenced_text(&session)
            );
        }
    }
    println!("{held} elements held, {changed} of them changed by a sheet, {refused} sheets refused");
    assert!(changed > 60, "{changed}");
}

fn fenced_text(session: &Session) -> String {
    session.files("out/_pins").values().map(|bytes| String::from_utf8_lossy(bytes)).collect()
}
