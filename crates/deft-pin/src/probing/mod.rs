//! Probing: the pages that a server serves, held against the releases.

mod assets;
mod probe;
mod probed;
mod publication;
mod sources;

pub use probe::Probe;
pub use probed::{Probed, ProbedAsset, ProbedPage};
pub use publication::Publication;
pub use sources::Looking;
