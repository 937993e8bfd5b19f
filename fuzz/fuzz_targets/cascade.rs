//! Any page with any two sheets: every element gets its winners.

#![no_main]

use std::sync::Arc;

use deft_pin_core::markup::parse;
use deft_pin_core::style::{Cascade, PageSheet, StyleRules, Viewport};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|input: (&str, &str, &[u8])| {
    let (first, second, page) = input;
    let (_, document) = parse(page);
    let sheets = [first, second].map(|text| PageSheet::alone(Arc::new(StyleRules::new(text.to_owned()))));
    let mut cascade = Cascade::new(&document, &sheets, Viewport::default(), vec!["hover".to_owned()]);
    for element in document.elements().take(60) {
        for pseudo in [None, Some("before")] {
            cascade.outcomes(element, pseudo);
        }
    }
});
