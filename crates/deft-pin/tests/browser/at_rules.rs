//! At-rules, conditions and odd blocks as people write them, right and wrong: what is said to apply,
//! Chromium applies.

use std::sync::Arc;

use deft_pin_core::markup::parse;
use deft_pin_core::style::{Cascade, PageSheet, PropertyId, Sheet, StyleRules, Truth, Viewport, losses};
use serde_json::json;

use crate::driver::Browser;

/// Whether a sheet makes the one element of the page red; `None` where that is said to be settled at
/// run time.
fn is_red(sheet: &str) -> Option<bool> {
    let (_, document) = parse(b"<!doctype html><body><p class=x>x</p>");
    let sheets = [PageSheet::alone(Arc::new(StyleRules::new(sheet.to_owned())))];
    let viewport = Viewport { width: Some(1200.0), height: Some(700.0), ..Viewport::default() };
    let mut cascade = Cascade::new(&document, &sheets, viewport, Vec::new());
    let element =
        document.elements().find(|element| element.data().classes().any(|class| class == "x")).unwrap();
    let color = PropertyId::of("color");
    let outcomes = cascade.outcomes(element, None);
    let Some(outcome) = outcomes.iter().find(|outcome| outcome.property == color) else { return Some(false) };
    let is_open = outcome.winner.matched == Truth::AtRunTime || !outcome.may_win.is_empty();
    (!is_open).then(|| outcome.winner.value(&sheets) == "red")
}

#[test]
fn at_rules_that_people_write_are_judged_as_chromium_judges_them() {
    let rows: Vec<String> = include_str!("at_rules.txt").lines().map(|row| row.replace('X', ".x")).collect();
    assert!(rows.len() > 300);
    let browser = Browser::open();
    browser.go("data:text/html,<!doctype html><iframe id=f style='width: 1200px; height: 700px'></iframe>");
    let script = "const frame = document.getElementById('f'); return arguments[0].map(sheet => { \
        const page = frame.contentDocument; page.open(); page.write('<!doctype html><body><p class=x>x</p>'); page.close(); \
        const style = page.head.appendChild(page.createElement('style')); style.textContent = sheet; \
        return frame.contentWindow.getComputedStyle(page.querySelector('.x')).color === 'rgb(255, 0, 0)' })";
    let found = browser.run(script, vec![json!(rows)]);
    let (mut wrong, mut open) = (Vec::new(), 0);
    for (row, red) in rows.iter().zip(found.as_array().unwrap()) {
        match is_red(row) {
            None => open += 1,
            Some(said) if Some(said) != red.as_bool() => wrong.push(format!("{row}: Chromium says {red}")),
            Some(_) => {}
        }
    }
    println!("{} rows, {open} left to the run", rows.len());
    assert!(wrong.is_empty(), "{wrong:#?}");
    assert!(open * 6 < rows.len(), "{open} of {}", rows.len());
}

/// At-rules that give something a name, ask or set something for the page: what Chromium drops whole is told, and what
/// it keeps is not.
#[test]
fn at_rules_that_are_dropped_whole_are_told() {
    let rows: Vec<&str> = include_str!("defining_rules.txt").lines().collect();
    assert!(rows.len() > 100);
    let browser = Browser::open();
    browser.go("data:text/html,<!doctype html>");
    let script = "const style = document.head.appendChild(document.createElement('style')); \
        return arguments[0].map(sheet => { style.textContent = sheet; return style.sheet.cssRules.length === 0 })";
    let found = browser.run(script, vec![json!(rows)]);
    let told = |row: &str| !losses(row, &Sheet::parse(row)).is_empty();
    let wrong = rows
        .iter()
        .zip(found.as_array().unwrap())
        .filter(|(row, is_dropped)| Some(told(row)) != is_dropped.as_bool());
    let wrong: Vec<_> = wrong.map(|(row, is_dropped)| format!("{row}: dropped {is_dropped}")).collect();
    assert!(wrong.is_empty(), "{wrong:#?}");
}
