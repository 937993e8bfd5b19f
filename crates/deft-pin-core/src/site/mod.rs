//! A site: a folder of rendered pages, named by their URL paths, and what these load.

mod address;
mod handlers;
mod loads;
mod modules;
mod pages;
mod policy;
mod scripts;
mod sheets;
mod steps;

pub use address::encode_segment as encoded_name;
pub(crate) use address::encode_segment;
pub use handlers::{Handler, handlers};
pub use loads::{Base, Load, LoadKind, LoadTarget, address_in, loads};
pub use pages::{Page, PagePath, Site};
pub use policy::{Policy, Request, Stop, policies};
pub use scripts::{Bringer, ScriptFile, ScriptFiles, brings};
pub use sheets::{PageSheets, PlacedSheet, SheetFiles, SheetOrigin, SheetPlace, page_sheets};
pub use steps::{PageStep, PlacedStep, page_steps, with_placed};
