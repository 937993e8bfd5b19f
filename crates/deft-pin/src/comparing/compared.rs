//! What came of comparing pages.

use deft_pin_core::compare::{Area, Rectangle};
use serde::Serialize;

use deft_pin_core::compare::How;

/// A page, compared.
#[derive(Debug, Serialize)]
pub struct ComparedPage {
    /// Its place among the pages that were compared.
    #[serde(skip)]
    pub number: usize,
    /// Its path.
    pub page: String,
    /// Whether a pin is for it.
    pub meant: bool,
    /// The pins on it.
    pub pins: Vec<String>,
    /// Those of them that nothing narrows: they are for all of every page.
    #[serde(skip)]
    pub for_all: Vec<String>,
    /// What was seen at each width.
    pub widths: Vec<ComparedWidth>,
    /// What the console says with the pins, and not without.
    pub console: Vec<ConsoleLine>,
    /// Why nothing was seen.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub failed: Option<String>,
}

impl ComparedPage {
    /// Whether it is as it was at every width.
    pub fn is_same(&self) -> bool {
        self.failed.is_none() && self.widths.iter().all(|width| width.same)
    }

    /// Whether something is wrong: it changed and was not meant to, or fails with its pins.
    pub fn is_wrong(&self) -> bool {
        let fails = self.console.iter().any(|line| line.severity == "error");
        self.failed.is_some() || fails || !self.meant && !self.is_same()
    }
}

/// How far a pin goes that nothing narrows.
#[derive(Debug, PartialEq, Eq, Serialize)]
pub struct Everywhere {
    /// The pin.
    pub pin: String,
    /// How many pages it changed.
    pub changed: usize,
}

/// The pins that are for all of every page, with how many pages they changed: whoever meant one page alone sees it.
pub fn everywhere(pages: &[ComparedPage]) -> Vec<Everywhere> {
    let mut names: Vec<&String> = pages.iter().flat_map(|page| &page.for_all).collect();
    names.sort();
    names.dedup();
    let is_changed_by = |page: &ComparedPage, name: &String| {
        page.widths.iter().flat_map(|width| &width.elements).any(|own| own.pin.as_ref() == Some(name))
    };
    let row = |name: &String| Everywhere {
        pin: name.clone(),
        changed: pages.iter().filter(|page| is_changed_by(page, name)).count(),
    };
    names.into_iter().map(row).filter(|row| row.changed > 1).collect()
}

/// A page at a width.
#[derive(Debug, Serialize)]
pub struct ComparedWidth {
    /// The width, in CSS pixels.
    pub width: u32,
    /// Whether nothing differs.
    pub same: bool,
    /// How many pixels differ.
    pub differing_pixels: u64,
    /// The picture before, a file beside.
    pub before: String,
    /// The picture after.
    pub after: String,
    /// Where they differ: the one after in grey, with what differs in colour. None where nothing does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub difference: Option<String>,
    /// How high the pictures are, in pixels.
    pub heights: [u32; 2],
    /// The areas that differ.
    pub areas: Vec<Area>,
    /// The elements that changed, outermost first.
    pub elements: Vec<ComparedElement>,
    /// Whether both came to rest in time; or else this is what had been seen by then.
    pub settled: bool,
}

/// An element that changed.
#[derive(Debug, Serialize)]
pub struct ComparedElement {
    /// Its selector.
    pub element: String,
    /// How it changed: `look`, `new`, `gone`, or `pushed` by something else.
    pub how: How,
    /// The pin that is behind it.
    pub pin: Option<String>,
    /// All pins that may be.
    pub pins: Vec<String>,
    /// Its box before: left, top, width and height.
    pub box_before: Option<Rectangle>,
    /// Its box after.
    pub box_after: Option<Rectangle>,
    /// The properties whose computed values differ.
    pub properties: Vec<String>,
    /// Its own text before and after, where that differs.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub text: Option<[String; 2]>,
}

/// A line of the console.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct ConsoleLine {
    /// `error` or `warning`.
    pub severity: String,
    /// What it says.
    pub message: String,
}
