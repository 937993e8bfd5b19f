//! The scripts and sheets of a plan, as steps of a page's timeline.

use std::sync::Arc;

use super::key::{Owner, PartKind};
use super::placement::{Content, Plan};
use crate::markup::Document;
use crate::site::{PlacedStep, SheetOrigin};

/// The steps that a plan puts into a page that these pins are on, in the order of the document.
pub fn placed_steps(plan: &Plan<'_>, pins: &[usize], document: &Document) -> Vec<PlacedStep> {
    let steps = plan.placements(pins).into_iter().filter_map(|placement| {
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
        Some(PlacedStep {
            at: gap.at,
            slot: placement.slot,
            origin,
            file: path,
            script: file.and_then(|file| file.script.as_ref()).map(Arc::clone),
            is_sheet: part.kind == PartKind::Style,
        })
    });
    steps.collect()
}
