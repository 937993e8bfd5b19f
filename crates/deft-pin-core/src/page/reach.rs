//! Reach: the elements of a page that the rules of a sheet touch.

use std::sync::Arc;

use crate::markup::{Assume, Document, Matcher, NodeId};
use crate::style::{Cascade, PageSheet, StyleRules, Truth, Viewport};

/// An element that a sheet touches.
#[derive(Clone, Debug)]
pub struct Reached {
    /// The element; for a pseudo-element, the one that it belongs to.
    pub element: NodeId,
    /// The rules that match it, by where they stand in the sheet, and whether for certain.
    pub rules: Vec<(usize, Truth)>,
}

/// The elements that a sheet touches, in tree order.
pub fn reach(rules: &Arc<StyleRules>, document: &Document) -> Vec<Reached> {
    let sheets = [PageSheet::alone(Arc::clone(rules))];
    let mut cascade = Cascade::new(document, &sheets, Viewport::default(), Vec::new());
    let touched = document.elements().filter_map(|element| {
        let rules = cascade.matching(element);
        (!rules.is_empty()).then_some(Reached { element: element.id, rules })
    });
    touched.collect()
}

/// How many elements of a page some selectors match, as they were written.
pub fn count_unfenced(selectors: &[&crate::markup::Selector], document: &Document) -> usize {
    let mut matcher = Matcher::new();
    let mut is_matched =
        |element| selectors.iter().any(|selector| matcher.matches(selector, element, Assume::May));
    document.elements().filter(|element| is_matched(*element)).count()
}
