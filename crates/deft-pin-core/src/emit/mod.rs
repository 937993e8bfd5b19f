//! Placements into bytes: the files that go along with the pages, and the pages with what was
//! put into them.

mod assets;
mod page;
mod policy;
mod proof;
mod run;
mod tags;

pub use assets::{Assets, Part};
pub use page::{Manner, Refused, customise};
pub use run::{PageOutcome, Run};
