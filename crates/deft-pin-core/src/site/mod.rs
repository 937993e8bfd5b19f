//! A site: a folder of rendered pages, named by their URL paths, and what these load.

mod address;
mod loads;
mod names;
mod pages;

pub(crate) use address::encode_segment;
pub use loads::{Base, Load, LoadKind, LoadTarget, loads, style_imports};
pub use names::ScriptNames;
pub(crate) use names::words;
pub use pages::{Page, PagePath, Site};
