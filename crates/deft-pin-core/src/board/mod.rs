//! The board, `deft-pin.toml`: its text to pins, libraries and targets that need no more checking.

mod host;
mod mistake;
mod model;
mod pattern;
mod read;
pub mod schema;
mod values;

pub use host::{BoxReach, Host, HostKind};
pub use mistake::Mistake;
pub use model::{Board, Expect, Library, Pin, SelectorText, Spanned};
pub use pattern::PagePattern;
