//! Findings about what stays in view: a fixed or sticky element that others cover.

use serde::Serialize;

use super::code::Code;
use super::declarations::{FixedElement, PinDeclaration};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::find::label;
use crate::markup::Document;
use crate::style::{Cascade, StackingLevel, Viewport};

pub(super) struct Under;

/// A fixed or sticky element of a pin, and one that covers it by what is declared.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct Covered {
    /// The pin's declaration of `position`.
    declaration: PinDeclaration,
    /// The element, as people name it.
    element: String,
    /// The one around it that lies as deep, where that is not itself.
    inside: Option<String>,
    /// The `z-index` of that, or its own.
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
            let Covered { declaration: PinDeclaration { pin, span }, element, inside, depth, by, by_depth } =
                shared.first;
            let Some(place) = input.in_sheet(*pin, *span) else { continue };
            let with = match inside {
                Some(around) => format!("in `{around}` with `z-index: {depth}`"),
                None => format!("with `z-index: {depth}`"),
            };
            let message = format!(
                "`{element}` stays in view {with}, and `{by}` with `z-index: {by_depth}` lies over it wherever they meet"
            );
            let what = match inside {
                Some(around) => format!("give `{around}`, which it cannot leave, a `z-index`"),
                None => "give it a `z-index`".to_owned(),
            };
            let finding = Finding::new(Code::Under, place, message)
                .help(format!("{what} of more than {by_depth}, if it is to be on top"));
            findings.push(finding.pin(input.pin_name(*pin)).pages(input.paths(shared.pages)));
        }
    }
}

/// What covers the elements that declarations of pins keep in view.
fn covered<'d>(fixed: &[FixedElement], document: &'d Document, cascade: &mut Cascade<'d>) -> Vec<Covered> {
    let all = cascade.stacked_elements(document.elements());
    let mut found = Vec::new();
    for kept in fixed {
        let Some(own) = all.iter().find(|one| one.element.id == kept.element && one.stays) else { continue };
        // The first level on which two differ decides.
        let rivals = all.iter().filter_map(|other| {
            let mut levels = other.levels.iter().zip(&own.levels);
            let (above, below) = levels.find(|(above, below)| above.element != below.element)?;
            (above.depth > below.depth).then_some((*above, *below))
        });
        let top: Option<(StackingLevel, StackingLevel)> = rivals.max_by_key(|(above, _)| above.depth);
        let Some((above, below)) = top else { continue };
        let name = |level: StackingLevel| document.element(level.element).map(label);
        found.extend(name(above).map(|by| Covered {
            declaration: kept.declaration,
            element: label(own.element),
            inside: name(below).filter(|_| below.element != own.element.id),
            depth: below.depth,
            by,
            by_depth: above.depth,
        }));
    }
    found
}
