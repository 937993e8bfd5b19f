//! What pages that are open are told: what changed since they were made.

use serde::Serialize;

/// A change.
#[derive(Clone, Debug, Default, Serialize)]
pub struct News {
    /// Which reading of the board this is about.
    pub number: u64,
    /// Whether the board or something that it names changed.
    pub board: bool,
    /// The site's own files that changed, by their paths in addresses.
    pub files: Vec<String>,
    /// Why the board cannot be used as it is now; the last good one is served.
    pub trouble: Option<String>,
    /// Whether what a check found is there.
    pub findings: bool,
}
