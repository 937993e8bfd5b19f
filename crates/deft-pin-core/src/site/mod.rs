//! A site: a folder of rendered pages, named by their URL paths, what these load, and the shelf on
//! which its sheets and scripts are kept.

mod event_handlers;
mod links;
mod loads;
mod modules;
mod name_sources;
mod pages;
mod parsed;
mod policy;
mod sheets;
mod shelf;
mod steps;

pub use event_handlers::{EventHandler, event_handlers};
pub use links::{Link, LinkTo, links, links_of_script, links_of_sheet};
pub use loads::{Base, Load, base_url, loads};
pub use modules::{ImportFlaw, ImportFlawKind, import_map};
pub use name_sources::{NameSource, Naming, name_source};
pub use pages::{Page, PagePath, Site};
pub use parsed::{ParsedPage, ServedRow, ServedText};
pub use policy::{PagePolicy, Request, Stop, policies};
pub use sheets::{PageSheets, PlacedSheet, SheetPlace, TextStart, page_sheets};
pub use shelf::{Shelf, ShelfSheet};
pub use steps::{PagePart, PageStep, PlacedStep, StepCode, StepScript, page_steps, with_placed};
