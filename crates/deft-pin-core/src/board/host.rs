//! Hosts: what the place that serves a site accepts. A kind is a starting point; every key of
//! `[host]` stands above it, and what follows from a host follows from these alone.

use serde::{Deserialize, Serialize};

use super::spanned::{SelectorText, Spanned};
use super::strips::Strips;
use crate::code::CodeKind;
use crate::markup::Slot;
use crate::source::Span;

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
    /// Pieces that a script of the host puts into the page at run time, each on pages of its own.
    Inserted,
    /// A block of HTML inside a page, and nothing else.
    Blocks,
    /// As `blocks`, in a sandboxed frame.
    FramedBlocks,
}

impl HostKind {
    /// Every kind.
    pub const ALL: [HostKind; 6] = [
        HostKind::Files,
        HostKind::SiteSlots,
        HostKind::PageSlots,
        HostKind::Inserted,
        HostKind::Blocks,
        HostKind::FramedBlocks,
    ];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            HostKind::Files => "files",
            HostKind::SiteSlots => "site-slots",
            HostKind::PageSlots => "page-slots",
            HostKind::Inserted => "inserted",
            HostKind::Blocks => "blocks",
            HostKind::FramedBlocks => "framed-blocks",
        }
    }
}

/// How far a box of a host reaches.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, schemars::JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum BoxReach {
    /// What stands in it is on every page.
    Site,
    /// There is one for each page.
    Page,
}

impl BoxReach {
    /// The name that answers use.
    pub fn name(self) -> &'static str {
        match self {
            BoxReach::Site => "site",
            BoxReach::Page => "page",
        }
    }
}

/// Where the code of a box stands in a page, in the order of the document.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, schemars::JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum BoxPlace {
    /// The start of the head.
    HeadStart,
    /// The end of the head.
    Head,
    /// The start of the body.
    BodyStart,
    /// In a block inside the page.
    Block,
    /// The end of the body.
    Foot,
}

impl BoxPlace {
    /// Every place, in the order of the document.
    pub const ALL: [BoxPlace; 5] =
        [BoxPlace::HeadStart, BoxPlace::Head, BoxPlace::BodyStart, BoxPlace::Block, BoxPlace::Foot];

    /// The name that boards and answers use.
    pub fn name(self) -> &'static str {
        match self.slot() {
            Some(slot) => slot.name(),
            None => "block",
        }
    }

    /// The slot of the document that it is; none for a block.
    pub fn slot(self) -> Option<Slot> {
        match self {
            BoxPlace::HeadStart => Some(Slot::HeadStart),
            BoxPlace::Head => Some(Slot::Head),
            BoxPlace::BodyStart => Some(Slot::BodyStart),
            BoxPlace::Block => None,
            BoxPlace::Foot => Some(Slot::Foot),
        }
    }

    /// The place that a slot of the document is.
    pub fn of(slot: Slot) -> Self {
        match slot {
            Slot::HeadStart => BoxPlace::HeadStart,
            Slot::Head => BoxPlace::Head,
            Slot::BodyStart => BoxPlace::BodyStart,
            Slot::Foot => BoxPlace::Foot,
        }
    }
}

/// What a box takes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum BoxTakes {
    /// CSS alone.
    Css,
    /// HTML, and with it styles and scripts.
    Html,
    /// JavaScript alone.
    Js,
}

impl BoxTakes {
    /// The name that answers use.
    pub fn name(self) -> &'static str {
        match self {
            BoxTakes::Css => "css",
            BoxTakes::Html => "html",
            BoxTakes::Js => "js",
        }
    }
}

/// A box of a host.
///
/// Their order is that of the document: a box of CSS stands in the head, one of scripts at the foot,
/// and at one place a box for the site stands before that of the page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct HostBox {
    /// Where its code stands.
    pub place: BoxPlace,
    /// What it takes.
    pub takes: BoxTakes,
    /// How far it reaches.
    pub reach: BoxReach,
}

impl HostBox {
    /// The name of its place in answers: that of the slot, or `styles` and `scripts` for boxes of these alone.
    pub fn place_name(self) -> &'static str {
        match self.takes {
            BoxTakes::Css => "styles",
            BoxTakes::Html => self.place.name(),
            BoxTakes::Js => "scripts",
        }
    }

    /// The name by which pieces and answers call it: `site-head`, `page-styles`.
    pub fn name(self) -> String {
        format!("{}-{}", self.reach.name(), self.place_name())
    }
}

/// What a box of CSS alone takes of CSS.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CssBox {
    /// Whether it takes rules in rules.
    pub nested: bool,
    /// The at-rules that it takes, without the `@`; none said means all.
    pub at_rules: Option<Vec<String>>,
}

/// Text that keeps a piece in a box of the site to some pages, by the host's own means.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Only {
    /// What stands before the code.
    pub before: String,
    /// What stands behind it.
    pub behind: String,
}

/// What becomes of class names that are given in the host's editor.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ClassNames {
    /// They stay as they are.
    #[default]
    Kept,
    /// Lower case, and dashes for blanks.
    LowerDashed,
}

impl ClassNames {
    /// Every way.
    pub const ALL: [ClassNames; 2] = [ClassNames::Kept, ClassNames::LowerDashed];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            ClassNames::Kept => "kept",
            ClassNames::LowerDashed => "lower-dashed",
        }
    }

    /// What becomes of some class names.
    pub fn rewritten(self, classes: &str) -> String {
        match self {
            ClassNames::Kept => classes.to_owned(),
            ClassNames::LowerDashed => {
                classes.split_ascii_whitespace().collect::<Vec<_>>().join("-").to_lowercase()
            }
        }
    }
}

/// How elements come by the IDs and classes that pins give them.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MarksBy {
    /// In the host's editor.
    ByHand,
    /// By a script in a piece.
    #[default]
    ByScript,
}

impl MarksBy {
    /// Every way.
    pub const ALL: [MarksBy; 2] = [MarksBy::ByHand, MarksBy::ByScript];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            MarksBy::ByHand => "by-hand",
            MarksBy::ByScript => "by-script",
        }
    }
}

/// What a host accepts.
#[derive(Clone, Debug)]
pub struct Host {
    /// The kind that the board names.
    pub kind: HostKind,
    /// Where the board says so.
    pub span: Span,
    /// Whether the files of the site can be changed, so that code stands on exactly the pages meant.
    pub changes_files: bool,
    /// Its boxes, in the order of the document.
    pub boxes: Vec<HostBox>,
    /// Whether a script puts what is in its boxes into the page at run time, on pages that are said for each piece.
    pub inserts: bool,
    /// Whether its blocks stand in a frame, from which the page around it cannot be reached.
    pub is_framed: bool,
    /// What that frame allows: the keywords of `sandbox`.
    pub frame: Vec<String>,
    /// The element at whose end a block stands; without one, at the end of `main` or of the body.
    pub block: Option<Spanned<SelectorText>>,
    /// What its boxes of CSS take.
    pub css: CssBox,
    /// How it keeps a piece in a box of the site to some pages.
    pub only: Option<Only>,
    /// The address of files that are uploaded, with a slash at its end; none where none can be.
    pub files: Option<String>,
    /// The longest text that a box takes, in characters.
    pub longest: Option<Spanned<usize>>,
    /// What does not survive in its boxes.
    pub strips: Strips,
    /// What becomes of class names.
    pub class_names: ClassNames,
    /// Patterns of class names, IDs and globals that its own code uses; `*` stands for any text.
    pub reserved: Vec<Spanned<String>>,
    /// How elements come by IDs and classes.
    pub marks: MarksBy,
    /// The boxes in which what is for some pages is put, where both can hold it.
    pub prefer: BoxReach,
}

impl Host {
    /// What a kind of host accepts.
    pub fn of(kind: HostKind) -> Self {
        let html = |reach, place| HostBox { reach, place, takes: BoxTakes::Html };
        let slots = |reach| [html(reach, BoxPlace::Head), html(reach, BoxPlace::Foot)].to_vec();
        let styles = HostBox { reach: BoxReach::Site, place: BoxPlace::Head, takes: BoxTakes::Css };
        let mut boxes = match kind {
            HostKind::Files => Vec::new(),
            HostKind::SiteSlots | HostKind::Inserted => slots(BoxReach::Site),
            HostKind::PageSlots => [slots(BoxReach::Site), slots(BoxReach::Page), vec![styles]].concat(),
            HostKind::Blocks | HostKind::FramedBlocks => vec![html(BoxReach::Page, BoxPlace::Block)],
        };
        boxes.sort_unstable();
        Host {
            kind,
            span: Span::default(),
            changes_files: kind == HostKind::Files,
            boxes,
            inserts: kind == HostKind::Inserted,
            is_framed: kind == HostKind::FramedBlocks,
            frame: match kind {
                HostKind::FramedBlocks => vec!["allow-scripts".to_owned()],
                _ => Vec::new(),
            },
            block: None,
            css: CssBox { nested: true, at_rules: None },
            only: None,
            files: None,
            longest: None,
            strips: Strips::default(),
            class_names: ClassNames::default(),
            reserved: Vec::new(),
            marks: MarksBy::default(),
            prefer: BoxReach::Site,
        }
    }

    /// Whether a box can hold a kind of code so that it works there.
    pub fn holds(&self, of: HostBox, kind: CodeKind) -> bool {
        match (of.takes, kind) {
            (BoxTakes::Html, CodeKind::Style) => {
                !(self.strips.has_tag("style") && self.strips.has_tag("link"))
            }
            (BoxTakes::Html, CodeKind::Script) => !self.strips.has_tag("script"),
            (BoxTakes::Css, kind) => kind == CodeKind::Style,
            (BoxTakes::Js, kind) => kind == CodeKind::Script,
        }
    }

    /// Whether it has any box that can hold a kind of code.
    pub fn takes(&self, kind: CodeKind) -> bool {
        self.boxes.iter().any(|of| self.holds(*of, kind))
    }

    /// The place at which code for a slot stands: that slot, or the next one behind it that there is a box for, or
    /// the last before it. None where no box takes such code. Sheets stand in the head where they can.
    pub fn place_for(&self, slot: Slot, kind: CodeKind) -> Option<BoxPlace> {
        let wanted = BoxPlace::of(if kind == CodeKind::Style { Slot::Head } else { slot });
        let mut places = self.boxes.iter().filter(|of| self.holds(**of, kind)).map(|of| of.place);
        let later = places.clone().find(|place| *place >= wanted);
        later.or_else(|| places.rfind(|place| *place < wanted))
    }

    /// The boxes at a place that hold a kind of code: of HTML where there are such, for they need no guard in rules.
    pub fn boxes_at(&self, place: BoxPlace, kind: CodeKind) -> Vec<HostBox> {
        let here = || self.boxes.iter().filter(|of| of.place == place && self.holds(**of, kind));
        let best = here().map(|of| of.takes).find(|takes| *takes == BoxTakes::Html);
        here().filter(|of| best.is_none_or(|takes| of.takes == takes)).copied().collect()
    }

    /// Whether a script that is meant for a slot may run before all of the page is parsed, where that would not be so
    /// in its slot.
    pub fn stands_early(&self, slot: Slot) -> bool {
        if self.changes_files {
            return slot != Slot::Foot;
        }
        self.inserts
            || slot != Slot::Foot
            || self.place_for(slot, CodeKind::Script).is_some_and(|place| place < BoxPlace::Foot)
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
    fn each_kind_has_a_place_for_what_it_can_hold() {
        let drawn = |kind| {
            let host = Host::of(kind);
            let places = Slot::ALL.map(|slot| host.place_for(slot, CodeKind::Script));
            let names: Vec<String> = host.boxes.iter().map(|of| of.name()).collect();
            let at: Vec<&str> = places.iter().flatten().map(|place| place.name()).collect();
            format!("{} | {} | {}", kind.name(), names.join(" "), at.join(" "))
        };
        let expected = [
            "files |  | ",
            "site-slots | site-head site-foot | head head foot foot",
            "page-slots | site-styles site-head page-head site-foot page-foot | head head foot foot",
            "inserted | site-head site-foot | head head foot foot",
            "blocks | page-block | block block block block",
            "framed-blocks | page-block | block block block block",
        ];
        assert_eq!(HostKind::ALL.map(drawn), expected);
    }

    #[test]
    fn class_names_are_rewritten_as_the_board_says() {
        assert_eq!(ClassNames::LowerDashed.rewritten("Storm  Notice"), "storm-notice");
        assert_eq!(ClassNames::Kept.rewritten("Storm  Notice"), "Storm  Notice");
    }
}
