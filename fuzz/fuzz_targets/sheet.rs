//! Any text as a style sheet gets an answer: what is lost in it, what it loads, and its rules as
//! the cascade takes them.

#![no_main]

use deft_pin_core::style::{Sheet, StyleRules, flaws, inline_safe, losses, urls};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    let sheet = Sheet::parse(text);
    losses(text, &sheet);
    flaws(text);
    urls(text);
    let _ = inline_safe(text);
    StyleRules::new(text.to_owned());
});
