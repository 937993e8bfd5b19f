//! Findings about what stays in view: a fixed or sticky element that others cover.

use rustc_hash::FxHashMap;
use serde::Serialize;

use super::code::Code;
use super::declarations::{FixedElement, PinDeclaration};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::find::label;
use crate::markup::{Document, ElementRef, NodeId};
use crate::style::{Cascade, Viewport};

pub(super) struct Under;

/// A fixed or sticky element of a pin, and one that covers it by what is declared.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct Covered {
    /// The pin's declaration of `position`.
    declaration: PinDeclaration,
    /// The element, as people name it.
    element: String,
    /// Its `z-index`.
    depth: i64,
    /// The one that covers it.
    by: String,
    /// That one's `z-index`.
    by_depth: i64,
}

impl Family for Under {
    type Fact = Covered;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<Covered>) {
        let fixed = &page.declarations().fixed;
        if fixed.is_empty() {
            return;
        }
        let settled = page.settled();
        let (document, sheets) = (settled.document(), &settled.sheets().sheets);
        let mut cascade = Cascade::new(document, sheets, Viewport::default(), Vec::new());
        facts.extend(covered(fixed, document, &mut cascade));
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<Covered>, findings: &mut Vec<Finding>) {
        // What covers it may be another element on each page; how deep both lie is said.
        for shared in facts.shared(|covered| (covered.declaration, covered.depth, covered.by_depth)) {
            let Covered { declaration: PinDeclaration { pin, span }, element, depth, by, by_depth } =
                shared.first;
            let Some(place) = input.in_sheet(*pin, *span) else { continue };
            let message = format!(
                "`{element}` stays in view with `z-index: {depth}`, and `{by}` with `z-index: {by_depth}` lies over it wherever they meet"
            );
            let finding = Finding::new(Code::Under, place, message)
                .help(format!("give it a `z-index` of more than {by_depth}, if it is to be on top"));
            findings.push(finding.pin(input.pin_name(*pin)).pages(input.paths(shared.pages)));
        }
    }
}

/// An element with a place in the stack (CSS 2, appendix E): the `z-index` of each positioned
/// ancestor that starts a stacking context, and its own.
struct Stacked<'d> {
    element: ElementRef<'d>,
    path: Vec<i64>,
    stays: bool,
}

/// What covers the elements that declarations of pins keep in view.
fn covered<'d>(fixed: &[FixedElement], document: &'d Document, cascade: &mut Cascade<'d>) -> Vec<Covered> {
    let mut depths: FxHashMap<NodeId, i64> = FxHashMap::default();
    let mut all: Vec<Stacked<'_>> = Vec::new();
    for element in document.elements() {
        let Some(position) = cascade.certain_value(element, "position") else { continue };
        let stays = matches!(position.as_str(), "fixed" | "sticky");
        if !stays && !matches!(position.as_str(), "relative" | "absolute") {
            continue;
        }
        let depth = cascade.certain_value(element, "z-index").and_then(|value| value.parse().ok());
        depth.map(|depth| depths.insert(element.id, depth));
        let ancestors = std::iter::successors(element.parent(), |at| at.parent());
        let mut path: Vec<i64> = ancestors.filter_map(|at| depths.get(&at.id).copied()).collect();
        path.reverse();
        path.push(depth.unwrap_or(0));
        all.push(Stacked { element, path, stays });
    }
    let mut found = Vec::new();
    for kept in fixed {
        let Some(own) = all.iter().find(|one| one.element.id == kept.element && one.stays) else { continue };
        let apart = |other: &&Stacked<'_>| {
            !other.element.is_within(own.element) && !own.element.is_within(other.element)
        };
        let above = all.iter().filter(apart).filter(|other| {
            // The first level on which they differ decides.
            let differs = other.path.iter().zip(&own.path).find(|(a, b)| a != b);
            differs.is_some_and(|(a, b)| a > b)
        });
        let Some(top) = above.max_by_key(|other| other.path.clone()) else { continue };
        found.push(Covered {
            declaration: kept.declaration,
            element: label(own.element),
            depth: own.path.last().copied().unwrap_or(0),
            by: label(top.element),
            by_depth: top.path.last().copied().unwrap_or(0),
        });
    }
    found
}
