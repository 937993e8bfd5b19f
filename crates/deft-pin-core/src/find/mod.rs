//! Finding what a customisation is for: the pages and sections of a site, the elements on them,
//! and selectors for these that are likely to last.

mod candidates;
mod index;
mod lasting;
mod lift;
mod marker;
mod name_filter;
mod outline;
mod page_names;
mod quality;
mod reason;
mod search;
mod survey;

pub use index::PageIndex;
pub use lasting::{Lasting, address, lasting_selectors, weaknesses};
pub use lift::{Lift, Lifted, lift};
pub use marker::{Feature, Marker, Markers, features};
pub use name_filter::{AskedNames, NameFilter};
pub use outline::{Outline, Section, outline};
pub use page_names::PageNames;
pub use quality::{NameQuality, quality};
pub use reason::Reason;
pub use search::{Hit, HitKind, Query, ancestors, label, search};
pub use survey::{Detail, IdSurvey, PageSurvey, SectionSurvey, survey};
