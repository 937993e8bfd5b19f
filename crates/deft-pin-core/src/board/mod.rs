//! The board, `deft-pin.toml`: its text to pins, libraries and targets that need no more checking.

mod host;
mod mistake;
mod pattern;
mod read;
pub mod schema;

pub use host::HostKind;
pub use mistake::Mistake;
pub use pattern::PagePattern;
pub use read::{Board, Expect, Library, Pin, Placed, SelectorText, Source};
