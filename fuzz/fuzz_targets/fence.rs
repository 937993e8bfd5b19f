//! Any sheet around any target is either refused or fenced, and what is fenced is no longer than
//! its input allows, and stays a sheet of as many rules or more.

#![no_main]

use deft_pin_core::markup::parse_selectors;
use deft_pin_core::style::{Fence, Sheet, Strength, apply, fence, flaws};
use libfuzzer_sys::fuzz_target;

fuzz_target!(|input: (&str, &str, bool)| {
    let (within, text, keep) = input;
    // A target that is broken inside of a forgiving list may take up what follows it.
    if parse_selectors(within).is_err() || !flaws(within).is_empty() {
        return;
    }
    let strength = if keep { Strength::Keep } else { Strength::Raise };
    let sheet = Sheet::parse(text);
    let Ok(confined) = fence(text, &sheet, &Fence::around(within, "pin", strength, &[])) else { return };
    let fenced = apply(text, confined.edits);
    assert!(fenced.len() <= deft_pin_core::style::longest_fenced(text, within));
    // What is broken already is told, and may come to anything. No element has a name that starts with
    // dashes, and `--a:is(…) {` is no rule (css-syntax-3, 5.5.4); escaped dashes are dashes, too.
    let is_odd = !flaws(text).is_empty() || has_dashes(text);
    assert!(is_odd || Sheet::parse(&fenced).rules.len() + confined.left_out.len() >= sheet.rules.len());
});

/// Whether some name may start with two dashes, each of them written out or escaped.
fn has_dashes(text: &str) -> bool {
    let lower = text.to_ascii_lowercase();
    let escaped = lower.match_indices('\\').any(|(at, _)| lower[at + 1..].trim_start_matches('0').starts_with("2d"));
    escaped || text.replace('\\', "").contains("--")
}
