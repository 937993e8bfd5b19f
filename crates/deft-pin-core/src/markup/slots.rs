//! The slots of a document, and the exact bytes of its text where code for them goes.

use std::fmt;

use html5ever::QualName;
use html5ever::{local_name, ns};
use serde::{Deserialize, Serialize};

/// A place in a document where code can stand. In the order of the document.
#[derive(
    Clone,
    Copy,
    Debug,
    Default,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    schemars::JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum Slot {
    /// The start of the head.
    HeadStart,
    /// The end of the head, after the site's own sheets and scripts there.
    Head,
    /// The start of the body.
    BodyStart,
    /// The end of the body, after everything that the site has there.
    #[default]
    Foot,
}

impl Slot {
    /// Every slot, in the order of the document.
    pub const ALL: [Slot; 4] = [Slot::HeadStart, Slot::Head, Slot::BodyStart, Slot::Foot];

    /// The name that boards and answers use.
    pub fn name(self) -> &'static str {
        match self {
            Slot::HeadStart => "head-start",
            Slot::Head => "head",
            Slot::BodyStart => "body-start",
            Slot::Foot => "foot",
        }
    }
}

impl fmt::Display for Slot {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

/// Where in a document a piece of code is put.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum InsertionPoint {
    /// A slot of the document.
    Slot(Slot),
    /// A block of the host, inside the page.
    Block,
}

impl InsertionPoint {
    /// The slot that it is, or lies in.
    pub fn slot(self) -> Slot {
        match self {
            InsertionPoint::Slot(slot) => slot,
            // Something of the body stands before it, and something behind.
            InsertionPoint::Block => Slot::BodyStart,
        }
    }
}

/// A gap in the page's text: code written there ends up in the slot.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Gap {
    /// The byte of the text to write at.
    pub at: u32,
    /// What has to be written first, so that what follows is not swallowed by something that the
    /// page left open.
    pub closers: Closers,
    /// Whether a `<body>` tag has to be written first, since the page has none there yet.
    pub opens_body: bool,
}

/// End tags for what the page left open around a gap, innermost first.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Closers(pub String);

/// The gaps of a page, by slot.
#[derive(Clone, Debug, Default)]
pub struct Slots {
    pub(super) gaps: [Option<Gap>; 4],
    pub(super) plain: bool,
    pub(super) meta_end: Option<u32>,
    pub(super) head_tag: bool,
    pub(super) body_tag: bool,
}

impl Slots {
    /// Where code for a slot is written; `None` where the page has no such slot: a page of
    /// frames has no body.
    pub fn gap(&self, slot: Slot) -> Option<&Gap> {
        self.gaps[slot as usize].as_ref()
    }

    /// Whether the page is made as most are, so that the gaps need no proof: a `<body>` with an
    /// end tag after all of its content, and nothing left open that swallows what follows.
    pub fn plain(&self) -> bool {
        self.plain
    }

    /// The end of the first `<meta>` in the head that names the page's encoding. A browser looks
    /// for it in the first 1024 bytes (HTML, "specifying the document's character encoding"), so little may be put before it.
    pub fn meta_end(&self) -> Option<u32> {
        self.meta_end
    }

    /// Whether the page has a `<head>` tag.
    pub fn has_head_tag(&self) -> bool {
        self.head_tag
    }

    /// Whether the page has a `<body>` tag.
    pub fn has_body_tag(&self) -> bool {
        self.body_tag
    }
}

/// Elements whose contents are text to the tokenizer: a tag in there is no tag (HTML, "parsing elements that contain only text").
pub(super) fn holds_raw_text(name: &QualName) -> bool {
    name.ns == ns!(html)
        && matches!(
            name.local,
            local_name!("script")
                | local_name!("style")
                | local_name!("title")
                | local_name!("textarea")
                | local_name!("xmp")
                | local_name!("iframe")
                | local_name!("noembed")
                | local_name!("noframes")
                | local_name!("noscript")
                | local_name!("plaintext")
        )
}

/// Whether an end tag after the end of the file changes nothing about an element of text but
/// that it is closed.
pub(super) fn can_be_closed(name: &QualName) -> bool {
    !matches!(name.local, local_name!("script") | local_name!("plaintext"))
}

/// Whether a script put into an element would not run as the page's own, or not be one at all.
pub(super) fn is_trap(name: &QualName) -> bool {
    name.ns != ns!(html) || name.local == local_name!("template") || holds_raw_text(name)
}
