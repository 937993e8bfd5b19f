//! The plan: what each pin and library really puts into pages, and in which order.

mod copies;
mod file;
mod imports;
mod key;
mod loaded;
mod needs;
mod order;
mod part;
mod placement;
mod present;
mod problem;
mod reach;
mod sheets;
mod steps;
mod style;

pub use copies::{Copies, OwnCopy, Recognised, Version};
pub use file::FileText;
pub use key::{Owner, PartKey, PartKind};
pub use loaded::{LoadedFile, LoadedFiles, LocalUrl};
pub use needs::{Inferred, Needs, scripts_of};
pub use part::{LibraryPart, PlannedLibrary, PlannedPin};
pub use placement::{Content, Placement, Plan};
pub use present::{copies_on, held_on};
pub use problem::Problem;
pub use reach::{Reached, count_unfenced, reach};
pub use sheets::PlannedSheets;
pub use steps::placed_steps;
pub use style::{PinStyle, RuleTest, SelectorTest};
