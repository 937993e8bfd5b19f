//! A site: a folder of rendered pages, named by their URL paths, and what these load.

mod loads;
mod names;
mod pages;

pub use loads::{Base, Load, LoadKind, LoadTarget, loads, style_imports};
pub use names::ScriptNames;
pub(crate) use names::words;
pub use pages::{Page, PagePath, Site};
