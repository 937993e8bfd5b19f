//! Findings about what stays in view: a fixed or sticky element that others cover.

use std::collections::BTreeMap;

use rustc_hash::FxHashMap;

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::markup::{Document, ElementRef, NodeId};
use crate::plan::Owner;
use crate::source::Span;
use crate::style::Cascade;

/// A fixed or sticky element of a pin, and one that covers it by what is declared.
#[derive(Clone, Debug)]
pub struct Covered {
    /// The pin's declaration of `position`, in its sheet as it was written.
    pub span: Span,
    /// The element, as people name it.
    pub element: String,
    /// Its `z-index`.
    pub depth: i64,
    /// The one that covers it.
    pub by: String,
    /// That one's `z-index`.
    pub by_depth: i64,
}

/// An element with a place in the stack (CSS 2, appendix E): the `z-index` of each positioned
/// ancestor that starts a stacking context, and its own.
struct Stacked<'d> {
    element: ElementRef<'d>,
    path: Vec<i64>,
    stays: bool,
}

/// What covers the elements that a pin's declarations keep in view.
pub(super) fn covered<'d>(
    fixed: &[(NodeId, Span)],
    document: &'d Document,
    cascade: &mut Cascade<'d>,
) -> Vec<Covered> {
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
    for (id, span) in fixed {
        let Some(own) = all.iter().find(|one| one.element.id == *id && one.stays) else { continue };
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
            span: *span,
            element: crate::find::label(own.element),
            depth: own.path.last().copied().unwrap_or(0),
            by: crate::find::label(top.element),
            by_depth: top.path.last().copied().unwrap_or(0),
        });
    }
    found
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (pin, planned) in ground.plan.pins.iter().enumerate() {
        let Some(style) = &planned.style else { continue };
        let mut found: BTreeMap<Span, (&Covered, Vec<usize>)> = BTreeMap::new();
        for (page, facts) in ground.pages_of(pin) {
            for covered in &facts.covered {
                found.entry(covered.span).or_insert((covered, Vec::new())).1.push(page);
            }
        }
        for (span, (covered, pages)) in found {
            let Covered { element, depth, by, by_depth, .. } = covered;
            let place = Place::new(&style.file.path, &style.file.text, span);
            let message = format!(
                "`{element}` stays in view with `z-index: {depth}`, and `{by}` with `z-index: {by_depth}` lies over it wherever they meet"
            );
            let finding = Finding::new(Code::Under, Severity::Note, place, message)
                .help(format!("give it a `z-index` of more than {by_depth}, if it is to be on top"));
            findings.push(finding.pin(ground.plan.name_of(Owner::Pin(pin))).pages(ground.paths(pages)));
        }
    }
}
