//! The scripts and sheets of a plan, as steps of a page's timeline.

use std::sync::Arc;

use super::copies::Copies;
use super::key::{Owner, PartKind};
use super::placement::{Content, Plan};
use crate::markup::{Assume, Document, Matcher, parse_selectors};
use crate::script::{Execution, Frame};
use crate::site::{PlacedStep, SheetOrigin};

/// The steps that a plan puts into a page that these pins are on, in the order of the document.
pub fn placed_steps(
    plan: &Plan<'_>,
    (pins, copies): (&[usize], &Copies),
    document: &Document,
) -> Vec<PlacedStep> {
    let steps = plan.placements(pins, copies).into_iter().filter_map(|placement| {
        let gap = document.slots().gap(placement.slot)?;
        let part = placement.part;
        let name = plan.name_of(part.owner).to_owned();
        let (origin, file) = match part.owner {
            Owner::Pin(at) => {
                let pin = &plan.pins[at];
                let file = match part.kind {
                    PartKind::Style => pin.style.as_ref().map(|style| &style.file),
                    PartKind::Script => pin.script.as_ref(),
                };
                (SheetOrigin::Pin(name), file)
            }
            Owner::Library(at) => {
                let library = &plan.libraries[at];
                let parts = match part.kind {
                    PartKind::Style => &library.styles,
                    PartKind::Script => &library.scripts,
                };
                (SheetOrigin::Library(name), parts[part.index].local())
            }
        };
        let path = match placement.content {
            Content::Remote(address) => address.to_owned(),
            Content::Local => file.map(|file| file.path.to_string())?,
        };
        let script = file.and_then(|file| file.script.as_ref()).map(Arc::clone);
        let frame = script.as_ref().and_then(|script| script.frame.as_ref());
        let execution = match frame {
            _ if part.kind == PartKind::Style => Execution::Link,
            Some(frame) if !has_target(frame, document) => Execution::Never,
            Some(frame) if frame.waits => Execution::Ready,
            _ => Execution::Classic,
        };
        Some(PlacedStep { at: gap.at, slot: placement.slot, origin, file: path, script, execution })
    });
    steps.collect()
}

/// Whether there is something on a page that a script is for; without that it does not run.
fn has_target(frame: &Frame, document: &Document) -> bool {
    let Some(list) = frame.within.as_ref().and_then(|within| parse_selectors(within).ok()) else {
        return true;
    };
    let mut matcher = Matcher::new();
    document.elements().any(|element| matcher.matches_any(&list, element, Assume::May))
}
