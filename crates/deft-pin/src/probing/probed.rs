//! What probing found.

use deft_pin_core::live::{Held, PartState};

/// What probing found.
pub struct Probed {
    /// The address that was probed.
    pub url: String,
    /// The release that is held against it.
    pub release: u32,
    /// The pages, in order.
    pub pages: Vec<ProbedPage>,
    /// The files that go along.
    pub assets: Vec<ProbedAsset>,
    /// How many pages something is on that were left out of this.
    pub not_asked: usize,
}

/// A page.
pub struct ProbedPage {
    /// Its path.
    pub page: String,
    /// The address that was asked for.
    pub address: String,
    /// The status; none where nothing was answered.
    pub status: Option<u16>,
    /// What is to be said of the page itself.
    pub message: Option<String>,
    /// Whether the page could be held against the release.
    pub is_read: bool,
    /// Its parts.
    pub parts: Vec<Held>,
}

/// A file that goes along with pages.
#[derive(Clone, Debug)]
pub struct ProbedAsset {
    /// Its place in the site.
    pub place: String,
    /// Its address; none where it is not known.
    pub address: Option<String>,
    /// The status; none where nothing was answered.
    pub status: Option<u16>,
    /// What has come of it.
    pub state: PartState,
    /// The release whose bytes are there.
    pub release: Option<u32>,
    /// What is to be said of it; nothing where all is well.
    pub message: String,
}

impl Probed {
    /// Whether everything is live.
    pub fn is_live(&self) -> bool {
        let is_live =
            |page: &ProbedPage| page.is_read && page.parts.iter().all(|part| part.state == PartState::Live);
        self.pages.iter().all(is_live) && self.assets.iter().all(|own| own.state == PartState::Live)
    }
}
