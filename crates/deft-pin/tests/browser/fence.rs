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
    for number in 0..cases(45) {
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

/// What a small framework of the usual kind does: it names its colours and sizes at the root, sets the page in
/// `html` and `body`, and looks up from its parts to a class of the page.
const FRAMEWORK: &str = ":root, :host { --f-gap: 3px; --f-spin: f-turn; --f-font: 'F Icons'; color-scheme: light }
    :root { --f-ink: rgb(1, 2, 3); accent-color: red } @media (min-width: 1px) { :root { --f-gap: 5px } }
    *, ::before, ::after { box-sizing: border-box } html { line-height: 1.5; text-align: left }
    body { margin: 0; color: var(--f-ink); font: 14px/inherit serif; line-height: inherit; letter-spacing: 1px }
    html body .deep { text-indent: 2px } body.dark .x, .x { padding: var(--f-gap) } :root:not(.dark) a { top: 1px }
    body > section { order: 3 } html { scroll-padding: 7px } :is(html, body) p { word-spacing: 2px }
    @keyframes f-turn { to { rotate: 1turn } } .spin { animation: var(--f-spin) 3s infinite paused }
    .spin::before { content: 'x'; font-family: var(--f-font) !important }
    @layer base { body { text-transform: uppercase } } .x { &.deep { margin: 1px; body & { margin: 2px } } }
    @function --twice(--n) { result: calc(var(--n) * 2) } .x { z-index: 2; position: relative; left: --twice(2px) }";

#[test]
fn a_framework_looks_in_its_target_as_on_a_page_of_its_own() {
    let parts = "<section class=x><p class=deep>p <a href=/>a</a></p><i class=spin>i</i><div class='x deep'>d</div></section>";
    let page = |head: &str, body: &str| {
        format!(
            "<!doctype html><html><head><meta charset=utf-8><style>@layer site {{ body {{ margin: 0 }} }}</style>{head}</head><body>{body}</body></html>"
        )
    };
    let on_site = format!("<div id=m>{parts}</div><p id=other class='x deep'>o</p>");
    let session = Session::with(&[
        ("site/index.html", &page("", &on_site)),
        ("open.html", &page(&format!("<style>{FRAMEWORK}</style>"), parts)),
        ("p.css", FRAMEWORK),
        ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.p]\nwithin = '#m'\nas-page = true\nstyle = 'p.css'\n"),
    ]);
    session.run("build --out out --anyway");
    let browser = Browser::open();
    browser.resize(1280, 800);
    let look = |file: &str, at: &str| {
        browser.go(&format!("file://{}", session.path(file).display()));
        let all = "return [...document.querySelectorAll(arguments[0])].map(e => [null, '::before'].map(part => {
            const style = getComputedStyle(e, part);
            return [e.localName, ...[...style, '--f-gap', '--f-ink'].map(name => name + ': ' + style.getPropertyValue(name))];
          }))";
        let value: Value = browser.run(all, vec![json!(at)]);
        // Its own names have the pin's in front, and the names of places in the page are as wide as the page.
        serde_json::to_string_pretty(&value).unwrap().replace("p-f-turn", "f-turn")
    };
    let (open, fenced) = (look("open.html", "body *"), look("out/index.html", "#m *"));
    assert!(open.contains("--f-gap: 5px") && open.contains("animation-name: f-turn"), "{open}");
    let differing: Vec<_> =
        open.lines().zip(fenced.lines()).filter(|(open, fenced)| open != fenced).collect();
    assert_eq!(differing, [], "{}", fenced_text(&session));
    let outside = ["html", "body", "#other"].map(|at| {
        let kept = |file: &str| {
            let sizes = ["height", "block-size", "origin"];
            let text = look(file, at);
            text.lines()
                .filter(|line| !sizes.iter().any(|size| line.contains(size)))
                .map(str::to_owned)
                .collect::<Vec<_>>()
        };
        (kept("site/index.html"), kept("out/index.html"))
    });
    for (bare, built) in outside {
        assert_eq!(bare, built);
    }
}

fn fenced_text(session: &Session) -> String {
    session.files("out/_pins").values().map(|bytes| String::from_utf8_lossy(bytes)).collect()
}
