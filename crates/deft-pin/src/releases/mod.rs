//! Releases: what was published, numbered and kept whole, in a folder beside the board. Plain JSON for each, and the
//! bytes of every file once, by their hash.
//!
//! `releases/7/release.json` is there from one moment to the next, when all that it names is on the disk: a run that
//! stops at any time leaves whole releases alone.

mod difference;
mod parts;
mod release;
mod snapshot;
mod store;

pub use difference::{FileDifference, Since, difference_lines, differences};
pub use parts::{parts_of_page, parts_of_piece};
pub use release::{
    PinChanges, Release, StoredFile, StoredFinding, StoredPage, StoredPart, StoredPiece, StoredUpload,
};
pub use snapshot::{Snapshot, snapshot};
pub use store::{ReleaseFiles, Store, hash_of};
