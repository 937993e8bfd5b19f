//! Sheets, targets and scripts as nobody should write them get an answer: no panic, no hang, and
//! nothing much longer than what went in. `fuzz/` goes further.

mod odd_pages;

use std::sync::Arc;

use deft_pin_core::markup::{parse, parse_selectors};
use deft_pin_core::script::{Frame, ScriptKind, facts};
use deft_pin_core::style::{
    Cascade, Fence, PageSheet, Sheet, Strength, StyleRules, Viewport, apply, fence, flaws, longest_fenced,
    losses,
};
use odd_pages::{config, page};
use proptest::prelude::*;

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
    fn a_fence_is_refused_or_stays_a_sheet_of_its_rules(text in sheet(), within in target()) {
        if parse_selectors(&within).is_err() {
            return Ok(());
        }
        let sheet = Sheet::parse(&text);
        let around = Fence::around(&within, "pin", Strength::Raise, &[]);
        let Ok(confined) = fence(&text, &sheet, &around) else { return Ok(()) };
        let fenced = apply(&text, confined.edits);
        prop_assert!(fenced.len() <= longest_fenced(&text, &within));
        let rules = Sheet::parse(&fenced).rules.len() + confined.left_out.len();
        prop_assert!(!flaws(&text).is_empty() || rules >= sheet.rules.len(), "{within:?} {text:?} {fenced:?}");
    }

    #[test]
    fn scripts_get_an_answer(text in script()) {
        facts(&text, ScriptKind::Classic, &[]);
        facts(&text, ScriptKind::Module, &[]);
        let share = vec!["a".to_owned(), "value".to_owned()];
        facts(&text, ScriptKind::Confined, &share);
        let frame = Frame { within: Some(text.clone()), share, waits: true, source: text.clone() };
        frame.around(&text);
    }
}

#[test]
fn a_sheet_made_to_grow_is_refused() {
    let list = vec!["a"; 20_000].join(",");
    let text = format!("{list} {{ {} }}", "b: c; d { e: f } ".repeat(5_000));
    let around = Fence::around("#s", "pin", Strength::Raise, &[]);
    assert!(fence(&text, &Sheet::parse(&text), &around).is_err());
    StyleRules::new(text);
}
