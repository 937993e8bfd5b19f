//! The board, `deft-pin.toml`: its text to pins, libraries and targets that need no more checking.

mod filling;
mod host;
mod mistake;
mod model;
mod moment;
mod pattern;
mod read;
mod read_content;
mod read_host;
pub mod schema;
mod spanned;
mod start;
mod strips;
mod value;
mod values;

pub use filling::{Filled, FilledKind, Placeholder, fill, placeholders};
pub use host::{BoxPlace, BoxReach, BoxTakes, ClassNames, CssBox, Host, HostBox, HostKind, MarksBy, Only};
pub use mistake::Mistake;
pub use model::{Board, Expect, Library, Mark, Markup, MarkupSource, Pin, ScriptLoad};
pub use moment::Moment;
pub use pattern::PagePattern;
pub(crate) use pattern::has_parts;
pub use spanned::{SelectorText, Spanned};
pub use start::{Once, Scroll, Start};
pub use strips::Strips;
pub use value::{Misfit, Value, ValueKind, literal};
