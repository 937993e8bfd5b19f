//! Names of a confined sheet: what moves, counts and is anchored inside of the target does so as with the
//! sheet as it was written, and nothing outside of it changes.

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::Session;

const BODY: &str = "<div class='spinner big'></div><p class=a>one <i>two</i></p><p class=b>three</p><ol class=c><li>x<li>y</ol>";

/// Sheets whose names go by all the ways that names go.
const SHEETS: &[&str] = &[
    "@keyframes spin { to { rotate: 1turn } } .spinner { animation: spin 3s linear infinite }",
    "@keyframes spin { to { rotate: 1turn } } .spinner { --name: spin; animation: 3s linear infinite var(--name) }",
    "@keyframes spin { to { rotate: 1turn } } .spinner { --speed: 3s; --all: var(--speed) linear infinite spin; animation: var(--all) }",
    "@keyframes spin { to { rotate: 1turn } } .big { --name: spin } .spinner { animation-duration: 3s; animation-name: var(--name, none) }",
    "@keyframes spin { to { rotate: 1turn } } .spinner { animation: 3s var(--unset, spin) }",
    "@keyframes spin { to { rotate: 1turn } } .spinner { --a: var(--b); --b: spin; animation: 3s var(--a) }",
    "@keyframes a { to { opacity: .5 } } @keyframes b { to { rotate: 9deg } } .spinner { --list: a 2s, b 3s; animation: var(--list) }",
    "@keyframes infinite { to { opacity: .5 } } .spinner { animation: infinite 2s infinite }",
    "@keyframes 'my spin' { to { opacity: .5 } } .spinner { animation: 'my spin' 2s }",
    "@keyframes spin { to { opacity: .5 } } .spinner { & { animation: spin 2s } @media screen { &.big { animation-duration: 4s } } }",
    "@font-face { font-family: Quay; src: local('x') } .a { --f: Quay, serif; font-family: var(--f) } .b { font-family: var(--g, 'Quay'), serif }",
    "@font-face { font-family: 'Quay Sans'; src: local('x') } .a { --title: 700 2em/1.2 'Quay Sans', serif; font: var(--title) }",
    "@counter-style dots { system: cyclic; symbols: '•' } @counter-style more { system: extends dots; suffix: ') ' } .c { list-style: more } .a::before { content: counter(n, dots) }",
    ".c { counter-reset: step 4 } .c li { counter-increment: step 2 } .c li::before { content: counter(step) '. ' counters(step, '/') }",
    ".a { anchor-name: --pier } .b { position: absolute; position-anchor: --pier; top: anchor(bottom); left: anchor(--pier right) }",
    ".c { scroll-timeline: --tide block; height: 9px; overflow: auto } @keyframes up { to { opacity: 0 } } .c li { animation: up linear; animation-timeline: --tide }",
    "@property --deep { syntax: '<color>'; inherits: true; initial-value: teal } .a { --deep: navy; color: var(--deep) } .b { color: var(--deep) }",
    "@layer low, high; @layer high { .a { color: teal } } @layer low { .a { color: navy } } .b { @layer low { color: teal } color: red; @layer high { top: 1px } }",
    ".c { container: list / inline-size } @container list (width > 1px) { .c li { color: teal } }",
];

/// Of every element of both sections all computed values, of its pseudo-elements too, and the animations that run.
const LOOK: &str = "const own = e => [null, '::before', '::marker'].map(part => { const s = getComputedStyle(e, part); \
  return [...s].filter(n => !n.startsWith('--')).map(n => n + ': ' + s.getPropertyValue(n)) }).flat(); \
  const inside = id => [...document.querySelectorAll('#' + id + ' *')].map(e => own(e)); \
  const running = id => document.getAnimations().filter(a => a.effect.target.closest('#' + id)).map(a => a.animationName).sort(); \
  document.getAnimations().forEach(a => { a.pause(); if (typeof a.currentTime == 'number') a.currentTime = 500 }); \
  return [inside('m'), running('m'), inside('n'), running('n')]";

/// A look without the name of the pin, which names of its own have in front.
fn bare(look: &Value) -> String {
    let plain = look.to_string().replace("--p-", "--").replace("p-", "").replace("\\\"p ", "\\\"");
    plain.replace(['"', '\\'], "")
}

#[test]
fn names_mean_inside_what_they_meant_and_nothing_outside() {
    let browser = Browser::open();
    // Whether the other section is there: with the sheet as it was written its names would be the same.
    let page = |head: &str, other: &str| {
        format!(
            "<!doctype html><html><head>{head}</head><body><div id=m>{BODY}</div><div id=n>{other}</div></body></html>"
        )
    };
    let mut wrong = Vec::new();
    for sheet in SHEETS {
        let session = Session::with(&[
            (
                "deft-pin.toml",
                "[site]\nroot = 'site'\n[pin.p]\nwithin = '#m'\nstrength = 'keep'\nstyle = 'p.css'\n",
            ),
            ("p.css", sheet),
            ("site/index.html", &page("", BODY)),
            ("whole.html", &page(&format!("<style>{sheet}</style>"), "")),
        ]);
        session.good("build --out out --anyway -q");
        let look = |file: &str| {
            browser.go(&format!("file://{}", session.path(file).display()));
            browser.run(LOOK, vec![json!(null)])
        };
        let (plain, whole, fenced) = (look("site/index.html"), look("whole.html"), look("out/index.html"));
        if bare(&fenced[0]) != bare(&whole[0]) || bare(&fenced[1]) != bare(&whole[1]) {
            let (a, b) = (bare(&fenced[0]), bare(&whole[0]));
            let differs = a.split(',').zip(b.split(',')).find(|(a, b)| a != b);
            wrong.push(format!("inside: {sheet}: {differs:?} {} {}", fenced[1], whole[1]));
        }
        if fenced[2] != plain[2] || fenced[3] != plain[3] {
            wrong.push(format!("outside: {sheet}"));
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
}
