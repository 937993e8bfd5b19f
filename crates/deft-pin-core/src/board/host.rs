//! Hosts: what the place that serves a site accepts. A kind is a name for some capabilities; what
//! follows from a host follows from these alone.

use serde::{Deserialize, Serialize};

use crate::markup::Slot;

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

/// How far a box of a host reaches.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum BoxReach {
    /// What stands in it is on every page.
    Site,
    /// There is one for each page.
    Page,
}

/// What a host accepts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Host {
    /// The kind that the board names.
    pub kind: HostKind,
    /// Whether the files of the site can be changed, so that code stands on exactly the pages meant.
    pub changes_files: bool,
    /// The slots that it has boxes for, and how far each reaches.
    pub boxes: Vec<(Slot, BoxReach)>,
    /// Whether a block of HTML can stand in a page.
    pub has_blocks: bool,
    /// Whether such a block stands in a frame, from which the page around it cannot be reached.
    pub is_framed: bool,
}

impl Host {
    /// What a kind of host accepts.
    pub fn of(kind: HostKind) -> Self {
        let site = [(Slot::Head, BoxReach::Site), (Slot::Foot, BoxReach::Site)];
        let page = [(Slot::Head, BoxReach::Page), (Slot::Foot, BoxReach::Page)];
        let bare =
            Host { kind, changes_files: false, boxes: Vec::new(), has_blocks: false, is_framed: false };
        match kind {
            HostKind::Files => Host { changes_files: true, ..bare },
            HostKind::SiteSlots => Host { boxes: site.to_vec(), ..bare },
            HostKind::PageSlots => Host { boxes: [site, page].concat(), ..bare },
            HostKind::Blocks => Host { has_blocks: true, ..bare },
            HostKind::FramedBlocks => Host { has_blocks: true, is_framed: true, ..bare },
        }
    }

    /// Whether code for one page can only be put where every page has it, so that pages have to be
    /// told apart there.
    pub fn tells_pages_apart(&self) -> bool {
        let reaches = |wanted| self.boxes.iter().any(|(_, reach)| *reach == wanted);
        !self.changes_files && reaches(BoxReach::Site) && !reaches(BoxReach::Page)
    }
}

impl Default for Host {
    fn default() -> Self {
        Host::of(HostKind::default())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_boxes_of_the_whole_site_leave_pages_to_be_told_apart() {
        for kind in HostKind::ALL {
            let host = Host::of(kind);
            assert_eq!(host.tells_pages_apart(), kind == HostKind::SiteSlots, "{}", kind.name());
            assert_eq!(host.changes_files, kind == HostKind::Files, "{}", kind.name());
            assert!(host.has_blocks || !host.is_framed, "{}", kind.name());
        }
    }
}
