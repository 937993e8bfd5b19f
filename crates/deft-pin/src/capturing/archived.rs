//! An answer in an archive.

use url::Url;

use crate::fetching::Fetched;

/// An answer in an archive.
pub(super) enum Archived {
    /// One with its body.
    Answer(Fetched),
    /// One whose body is not in the archive.
    WithoutBody(Url, u16),
    /// The same as was sent for another address before.
    Again(Url, Url),
}
