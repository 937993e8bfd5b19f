//! Sheets, targets and scripts as nobody should write them get an answer: no panic, no hang, and
//! nothing much longer than what went in. `fuzz/` goes further.

use std::sync::Arc;

use crate::odd_pages::{config, page};
use deft_pin_core::markup::{parse, parse_selectors};
use deft_pin_core::script::{Frame, ScriptKind, facts};
use deft_pin_core::style::{
    Cascade, Fence, PageSheet, Sheet, Strength, StyleRules, Viewport, apply, fence, flaws, longest_fenced,
    losses,
};
use proptest::prelude::*;
use proptest::strategy::ValueTree as _;

const PIECES: &[&str] = &[
    "a", ".b", "#c", "*", "&", ":scope", ":is(", ":not(", ":has(", ":hover", "::before", ":nth-child(2n+1)",
    "[d='", "[e]", ")", "(", "]", "{", "}", "{{", ";", ",", ">", "+", "~", " ", "\n", "\r", "\0", "\\",
    "\\31", "'", "\"", "/*", "*/", "//", "<!--", "-->", "@media", "@media (min-width: 1px)", "@layer x",
    "@layer x, y;", "@scope (.b) to (a)", "@keyframes k", "@font-face", "@import 'x';",
    "@import url(y) layer(z) screen;", "@page", "@property --p", "@container", "@supports (a: b)",
    "@charset \"x\";", "@", "color: red", "color", ":", "--p: {", "--p: 1", "width: 10",
    "margin: 1px !important", "!important", "!", "animation: k 1s", "font: 1px F", "all: revert-layer",
    "url(", "url(x y)", "var(--p", "calc(1px + ", "1e999px", "\u{1f6a2}",
];

const SCRIPT: &[&str] = &[
    "var a", "=", "window", ".", "x", "(", ")", "{", "}", "[", "]", "function", "=>", "async", "await",
    "class A", "this", "document", ".getElementById('i')", "typeof", "if", "else", "return", "?", ":", "&&",
    "||", ",", ";", "'s'", "`t${", "}`", "new", "\n", "try", "catch", "Object.assign(window, {b})",
    "!function(){", "}()", "..",
];

fn sheet() -> impl Strategy<Value = String> {
    proptest::collection::vec(prop::sample::select(PIECES), 0..40).prop_map(|pieces| pieces.join(" "))
}

/// Rules as people write them, to be mixed with odd pieces: most of what comes of it can be fenced.
const RULES: &[&str] = &[
    "a { color: red }", ".b > .c, #d { margin: 0 auto }", "p::before { content: '}' }",
    "@media (min-width: 40em) { a { color: navy } }", "@keyframes k { to { top: 0 } }",
    "li { & > a { top: 0 } }", "@layer x { .y { color: teal } }",
    "@font-face { font-family: F; src: url(f.woff2) }", "a { animation: k 1s }",
    "@supports (display: grid) { .g { display: grid } }", ":scope > h2 { top: 0 }", "/* a { */",
];

fn mostly_good_sheet() -> impl Strategy<Value = String> {
    let piece = prop_oneof![9 => prop::sample::select(RULES), 1 => prop::sample::select(PIECES)];
    proptest::collection::vec(piece, 1..8).prop_map(|pieces| pieces.join("\n"))
}

fn script() -> impl Strategy<Value = String> {
    proptest::collection::vec(prop::sample::select(SCRIPT), 0..30).prop_map(|pieces| pieces.join(" "))
}

fn target() -> impl Strategy<Value = String> {
    proptest::collection::vec(prop::sample::select(&PIECES[..24]), 1..6).prop_map(|pieces| pieces.concat())
}

proptest! {
    #![proptest_config(config(600))]

    #[test]
    fn sheets_get_an_answer(text in sheet(), other in sheet(), page in page()) {
        losses(&text, &Sheet::parse(&text));
        let (_, document) = parse(page.as_bytes());
        let sheets =
            [&text, &other].map(|text| PageSheet::alone(Arc::new(StyleRules::new(text.clone()))));
        let mut cascade = Cascade::new(&document, &sheets, Viewport::default(), vec!["hover".to_owned()]);
        for element in document.elements() {
            cascade.outcomes(element, None);
        }
    }

    #[test]
    fn a_fence_is_refused_or_stays_a_sheet_of_its_rules(text in prop_oneof![sheet(), mostly_good_sheet()], within in target()) {
        if parse_selectors(&within).is_err() {
            return Ok(());
        }
        fenced_keeps_its_rules(&text, &within)?;
    }

    #[test]
    fn scripts_get_an_answer(text in script()) {
        facts(&text, ScriptKind::Classic, &[]);
        facts(&text, ScriptKind::Module, &[]);
        let share = vec!["a".to_owned(), "value".to_owned()];
        facts(&text, ScriptKind::Confined, &share);
        let frame = Frame { within: Some(text.clone()), share, waits: true, source: text.clone(), ..Frame::default() };
        frame.around(&text);
    }
}

/// Fences a sheet, and says whether it could be: what comes of it is no longer than is foreseen, and
/// has as many rules.
fn fenced_keeps_its_rules(text: &str, within: &str) -> Result<bool, TestCaseError> {
    let sheet = Sheet::parse(text);
    let Ok(confined) = fence(text, &sheet, &Fence::around(within, "pin", Strength::Raise, &[])) else {
        return Ok(false);
    };
    let fenced = apply(text, confined.edits);
    prop_assert!(fenced.len() <= longest_fenced(text, within));
    let rules = Sheet::parse(&fenced).rules.len() + confined.left_out.len();
    prop_assert!(!flaws(text).is_empty() || rules >= sheet.rules.len(), "{within:?} {text:?} {fenced:?}");
    Ok(true)
}

#[test]
fn most_sheets_of_mostly_good_rules_are_fenced() {
    let mut runner = proptest::test_runner::TestRunner::new(config(300));
    let (mut all, mut fenced) = (0, 0);
    for _ in 0..300 {
        let text = mostly_good_sheet().new_tree(&mut runner).unwrap().current();
        all += 1;
        fenced += usize::from(fenced_keeps_its_rules(&text, "#fares").unwrap());
    }
    assert!(fenced * 10 > all * 7, "{fenced} of {all}");
}

#[test]
fn a_sheet_made_to_grow_is_refused() {
    let list = vec!["a"; 20_000].join(",");
    let text = format!("{list} {{ {} }}", "b: c; d { e: f } ".repeat(5_000));
    let around = Fence::around("#s", "pin", Strength::Raise, &[]);
    assert!(fence(&text, &Sheet::parse(&text), &around).is_err());
    StyleRules::new(text);
}
