//! A served page, what it is held against, and what has come of each part.

use super::archive::{Archive, ReleaseNumber};
use super::part_kind::PartKind;
use super::published::PublishedPart;
use super::served::{AssetText, ServedPage};

/// What has come of a part.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PartState {
    /// It is there, once, as it was published.
    Live,
    /// An earlier release's is there.
    Stale,
    /// It is not there.
    Missing,
    /// It is there more than once.
    Doubled,
    /// Somebody or the host has changed it.
    Altered,
    /// Something is there that is of no release.
    Stray,
}

impl PartState {
    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            PartState::Live => "live",
            PartState::Stale => "stale",
            PartState::Missing => "missing",
            PartState::Doubled => "doubled",
            PartState::Altered => "altered",
            PartState::Stray => "stray",
        }
    }
}

/// What has come of one part on one page.
#[derive(Clone, Debug)]
pub struct Held {
    /// The pin or library that it is marked with.
    pub name: Option<String>,
    /// The pins that it is for.
    pub pins: Vec<String>,
    /// What it is.
    pub kind: PartKind,
    /// The piece that it was pasted in.
    pub piece: Option<String>,
    /// What has come of it.
    pub state: PartState,
    /// The release whose text is there; none where that is of none.
    pub release: Option<ReleaseNumber>,
    /// What is to be said of it; nothing where all is well.
    pub message: String,
    /// What was published and what is there, where these differ.
    pub texts: Option<(String, String)>,
    /// The address of the file that it links.
    pub address: Option<String>,
    /// The line of the page where it is, from 1.
    pub line: Option<u32>,
}

/// What a page is held against.
pub struct HeldPage<'h> {
    /// The page as it is served.
    pub page: &'h ServedPage,
    /// The files that it links, and that could be read.
    pub assets: &'h [&'h AssetText],
    /// What the last release has for the page.
    pub parts: &'h [&'h PublishedPart],
    /// What it has for other pages, and may stand on this one too.
    pub others: &'h [&'h PublishedPart],
    /// Everything that was published.
    pub archive: &'h Archive,
    /// The last release.
    pub release: ReleaseNumber,
    /// Whether scripts have run in it: they take what kept a sheet back.
    pub has_run: bool,
}
