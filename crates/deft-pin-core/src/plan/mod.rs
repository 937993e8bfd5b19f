//! The plan: what each pin and library really puts into pages, and in which order.

mod asked;
mod assets;
mod code_key;
mod code_reader;
mod existing_copies;
mod file_text;
mod fill;
mod imports;
mod layout;
mod library;
mod markup;
mod needs;
mod order;
mod pin_style;
mod pins_by_path;
mod placement;
#[allow(clippy::module_inception, reason = "the room is named after its central noun")]
mod plan;
mod problem;
mod ready_sheets;

mod touch;

pub use asked::Asked;
pub use assets::{Asset, Assets, LocalUrl, UrlForm};
pub use code_key::CodeKey;
pub use existing_copies::{ExistingCopies, ExistingCopy, RecognisedBy, Version};
pub use file_text::FileText;
pub use fill::Fill;
pub use layout::{Layout, Part};
pub use library::{LibraryFile, PlannedLibrary, PlannedPin};
pub use markup::PlannedMarkup;
pub use needs::{InferredNeed, Needs};
pub use pin_style::{BadSelector, FencedSelector, PinStyle, RuleSelectors};
pub use placement::Placement;
pub use plan::{CodeSource, Plan};
pub use problem::Problem;
pub use ready_sheets::{ReadySheet, ReadySheets};
