//! One page on the plan: what a page has by itself, what the plan puts there, and what comes of both.
//! Made once for a page, and asked by every command.

mod analysis;
mod block;
mod content;
mod content_edits;
mod content_proof;
mod context;
mod existing_copies;
mod marked_tags;
mod pin_matches;
mod planned_steps;
mod put;
mod reach;

pub use analysis::PageAnalysis;
pub use content::{ContentOutcome, ContentPart, ContentTrouble};
pub use content_proof::Standing;
pub use context::SiteContext;
pub use existing_copies::version_of;
pub use pin_matches::{PinMatches, PinSelectors};
pub use reach::{Reached, count_unfenced, reach};
