//! The plan: what each pin and library really puts into pages, and in which order.

mod loaded;
mod order;
mod part;
mod placement;
mod problem;
mod style;

pub use loaded::{LoadedFile, LoadedFiles, LocalUrl};
pub use part::{FileText, LibraryPart, PlannedLibrary, PlannedPin};
pub use placement::{Content, Owner, PartKey, PartKind, Placement, Plan};
pub use problem::Problem;
pub use style::{PinStyle, RuleTest, SelectorTest};
