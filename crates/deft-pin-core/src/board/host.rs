//! Hosts: what the place that serves a site accepts.

use serde::{Deserialize, Serialize};

/// The kind of place that serves a site.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum HostKind {
    /// Whole files can be changed: everything, on exactly the pages meant.
    #[default]
    Files,
    /// One head and one foot for the whole site: pages are told apart at run time.
    SiteSlots,
    /// Head and foot for the site and for each page, and one box of CSS for the site.
    PageSlots,
    /// A block of HTML inside a page, and nothing else.
    Blocks,
    /// As `blocks`, in a sandboxed frame.
    FramedBlocks,
}

impl HostKind {
    /// Every kind.
    pub const ALL: [HostKind; 5] =
        [HostKind::Files, HostKind::SiteSlots, HostKind::PageSlots, HostKind::Blocks, HostKind::FramedBlocks];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            HostKind::Files => "files",
            HostKind::SiteSlots => "site-slots",
            HostKind::PageSlots => "page-slots",
            HostKind::Blocks => "blocks",
            HostKind::FramedBlocks => "framed-blocks",
        }
    }
}
