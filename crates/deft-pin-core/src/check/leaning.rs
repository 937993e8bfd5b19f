//! Selectors of pins that lean on something brittle, and on a page what would find the same and is
//! likely to last.

use crate::find::{PageIndex, Reason, lasting_selectors, weaknesses};
use crate::markup::{Document, Selector, SelectorList};
use crate::plan::Plan;
use crate::source::Span;

/// What finds the same as a brittle selector.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Better {
    /// Where the brittle one stands.
    pub leaning: Leaning,
    /// A selector that is likely to last, if there is one.
    pub selector: Option<String>,
    /// Whether the brittle one matches one element alone.
    pub alone: bool,
}

/// Where a selector stands that leans on something brittle.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Leaning {
    /// In the pin's `having`.
    Having,
    /// In the pin's `within`.
    Within,
    /// In its sheet: the selector of this number.
    Rule(usize),
}

/// A selector that leans on something brittle.
pub(super) struct Brittle {
    pub(super) leaning: Leaning,
    pub(super) selector: SelectorList,
    pub(super) reasons: Vec<Reason>,
    pub(super) span: Span,
}

/// The brittle selectors of a pin.
pub(super) fn brittle_of(plan: &Plan<'_>, pin: usize) -> Vec<Brittle> {
    let board = &plan.board.pins[pin];
    let mut found = Vec::new();
    let mut add = |leaning, selectors: &[Selector], span| {
        for selector in selectors {
            let reasons = weaknesses(selector);
            if !reasons.is_empty() {
                let selector = SelectorList::from_one(selector.clone());
                found.push(Brittle { leaning, selector, reasons, span });
            }
        }
    };
    if let Some(having) = &board.having {
        add(Leaning::Having, having.list.slice(), having.span);
    }
    if let Some(within) = &board.within {
        add(Leaning::Within, within.list.slice(), within.span);
    }
    let rules = plan.pins[pin].style.iter().flat_map(|style| &style.rules);
    for (number, test) in rules.flat_map(|rule| &rule.selectors).enumerate() {
        add(Leaning::Rule(number), std::slice::from_ref(&test.own), test.span);
    }
    found
}

/// What would find the same element of a page, and is likely to last.
pub(super) fn better(brittle: &Brittle, document: &Document) -> Option<Better> {
    let index = PageIndex::new(document);
    let found = index.matched(&brittle.selector, 2);
    let element = document.element(*found.first()?)?;
    if found.len() > 1 {
        return Some(Better { leaning: brittle.leaning, selector: None, alone: false });
    }
    let best = lasting_selectors(&index, element, 1).into_iter().find(|best| best.is_strong());
    Some(Better { leaning: brittle.leaning, selector: best.map(|best| best.selector), alone: true })
}
