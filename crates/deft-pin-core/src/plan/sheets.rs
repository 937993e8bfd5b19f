//! The sheets of a plan, ready for the cascade, and where each stands on a page.

use std::sync::Arc;

use super::copies::Copies;
use super::key::{Owner, PartKind};
use super::placement::Plan;
use crate::markup::{Assume, Document, Matcher, Slot};
use crate::site::{PlacedSheet, SheetOrigin};
use crate::source::FilePath;
use crate::style::StyleRules;

/// The sheets of a plan, each made ready once.
#[derive(Default)]
pub struct PlannedSheets {
    pins: Vec<Option<Planned>>,
    libraries: Vec<Vec<Option<Planned>>>,
}

struct Planned {
    rules: Arc<StyleRules>,
    file: FilePath,
}

impl PlannedSheets {
    /// Makes the sheets of a plan ready, confined as they will be.
    pub fn new(plan: &Plan<'_>) -> Self {
        let pins = plan.pins.iter().map(|pin| {
            let style = pin.style.as_ref()?;
            let rules = StyleRules::edited(&style.file.text, style.edits.clone());
            Some(Planned { rules: Arc::new(rules), file: style.file.path.clone() })
        });
        let libraries = plan.libraries.iter().map(|library| {
            let sheets = library.styles.iter().map(|part| {
                let file = part.local()?;
                let rules = StyleRules::new(file.text.as_str().to_owned());
                Some(Planned { rules: Arc::new(rules), file: file.path.clone() })
            });
            sheets.collect()
        });
        PlannedSheets { pins: pins.collect(), libraries: libraries.collect() }
    }

    /// The rules of a pin's sheet.
    pub fn of_pin(&self, pin: usize) -> Option<&Arc<StyleRules>> {
        self.pins.get(pin)?.as_ref().map(|planned| &planned.rules)
    }

    /// The rules of a library's sheets, as far as they are beside the board.
    pub fn of_library(&self, library: usize) -> Vec<Arc<StyleRules>> {
        let sheets = self.libraries.get(library).into_iter().flatten().flatten();
        sheets.map(|planned| Arc::clone(&planned.rules)).collect()
    }

    /// The sheets that a plan puts into a page, in order.
    pub fn placed(
        &self,
        plan: &Plan<'_>,
        (pins, copies): (&[usize], &Copies),
        document: &Document,
    ) -> Vec<PlacedSheet> {
        let mut placed = Vec::new();
        for placement in
            plan.placements(pins, copies).iter().filter(|placement| placement.part.kind == PartKind::Style)
        {
            let planned = match placement.part.owner {
                Owner::Pin(at) => self.pins[at].as_ref(),
                Owner::Library(at) => self.libraries[at].get(placement.part.index).and_then(Option::as_ref),
            };
            let Some((planned, gap)) = planned.zip(document.slots().gap(Slot::Head)) else { continue };
            let name = plan.name_of(placement.part.owner).to_owned();
            let origin = match placement.part.owner {
                Owner::Pin(_) => SheetOrigin::Pin(name),
                Owner::Library(_) => SheetOrigin::Library(name),
            };
            placed.push(PlacedSheet {
                at: gap.at,
                rules: Arc::clone(&planned.rules),
                origin,
                file: planned.file.clone(),
            });
        }
        placed
    }

    /// The pins that are on a page: those for its path whose `having` it holds.
    pub fn held(plan: &Plan<'_>, path: &crate::site::PagePath, document: &Document) -> Vec<usize> {
        let mut matcher = Matcher::new();
        let mut holds = |pin: &usize| {
            let having = plan.board.pins[*pin].having.as_ref();
            having.is_none_or(|having| {
                document.elements().any(|e| matcher.matches_any(&having.list, e, Assume::May))
            })
        };
        plan.pins_for(path).into_iter().filter(|pin| holds(pin)).collect()
    }
}
