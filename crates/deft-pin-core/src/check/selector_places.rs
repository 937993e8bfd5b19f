//! Selectors of pins that lean on something brittle, and what on a page would find the same and is
//! likely to last.

use crate::code::PinId;
use crate::find::{PageIndex, Reason, lasting_selectors, weaknesses};
use crate::markup::{Document, Selector, SelectorList};
use crate::plan::Plan;
use crate::source::{Span, offset};

/// Where a selector of a pin stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum SelectorPlace {
    /// In the pin's `having`.
    Having,
    /// In the pin's `within`.
    Within,
    /// In its sheet: the selector of this number.
    Rule(u32),
}

/// A selector that leans on something brittle.
#[derive(Debug)]
pub struct BrittleSelector {
    pub(super) place: SelectorPlace,
    pub(super) selector: SelectorList,
    pub(super) reasons: Vec<Reason>,
    pub(super) span: Span,
}

/// What finds the same element as a brittle selector.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LastingSelector {
    /// A selector that is likely to last, if there is one.
    pub selector: Option<String>,
    /// Whether the brittle one matches one element alone.
    pub is_alone: bool,
}

/// The brittle selectors of a pin.
pub(super) fn brittle_selectors(plan: &Plan<'_>, pin: PinId) -> Vec<BrittleSelector> {
    let board = &plan.board.pins[pin];
    let mut found = Vec::new();
    let mut add = |place, selectors: &[Selector], span| {
        for selector in selectors {
            let reasons = weaknesses(selector);
            if !reasons.is_empty() {
                let selector = SelectorList::from_one(selector.clone());
                found.push(BrittleSelector { place, selector, reasons, span });
            }
        }
    };
    if let Some(having) = &board.having {
        add(SelectorPlace::Having, having.list.slice(), having.span);
    }
    if let Some(within) = &board.within {
        add(SelectorPlace::Within, within.list.slice(), within.span);
    }
    let selectors = plan.pins[pin].style.iter().flat_map(|style| style.selectors());
    for (number, selector) in selectors.enumerate() {
        let place = SelectorPlace::Rule(offset(number));
        add(place, std::slice::from_ref(&selector.written), selector.span);
    }
    found
}

/// What would find the same element of a page, and is likely to last; none where the brittle
/// selector matches nothing there.
pub(super) fn lasting_alternative(brittle: &BrittleSelector, document: &Document) -> Option<LastingSelector> {
    let index = PageIndex::new(document);
    let found = index.matched(&brittle.selector, 2);
    let element = document.element(*found.first()?)?;
    if found.len() > 1 {
        return Some(LastingSelector { selector: None, is_alone: false });
    }
    let best = lasting_selectors(&index, element, 1).into_iter().find(|best| best.is_strong());
    Some(LastingSelector { selector: best.map(|best| best.selector), is_alone: true })
}
