//! Any board: it is read, or its mistakes are told with places inside of it.

#![no_main]

use deft_pin_core::board::Board;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    if let Err(mistakes) = Board::parse(text) {
        assert!(!mistakes.is_empty());
        for mistake in mistakes {
            assert!(text.get(mistake.span.range()).is_some(), "{mistake:?}");
        }
    }
});
