//! One page as the families of findings ask it.

use std::cell::OnceCell;
use std::collections::HashSet;

use serde::Serialize;

use super::declarations::PageDeclarations;
use super::file_leftovers::{Leftover, leftovers_of};
use super::selector_places::{BrittleSelector, brittle_selectors};
use crate::code::{CodeKind, PageId, PinId, Table};
use crate::emit::EmittedPage;
use crate::markup::{InsertionPoint, NamedPart, Selector, Slot, names_in};
use crate::page::PageAnalysis;
use crate::plan::{FencedSelector, Plan, PlannedPin};
use crate::site::NameSource;
use crate::source::Span;

/// What is known of pins before any page is looked at.
pub(super) struct PinFacts {
    /// For each pin the names that its script adds and its sheet has rules for.
    pub(super) added: Table<PinId, Vec<(NamedPart, Span)>>,
    /// For each pin the selectors that lean on something brittle.
    pub(super) brittle: Table<PinId, Vec<BrittleSelector>>,
    /// For each pin whether its sheet names something of markup that comes later.
    pub(super) styles_later: Table<PinId, bool>,
    /// For each pin what looks as if it was left to be filled in.
    pub(super) leftovers: Table<PinId, Vec<Leftover>>,
}

impl PinFacts {
    pub(super) fn of(plan: &Plan<'_>) -> Self {
        let late = plan.pins.iter().filter(|pin| pin.beginning.is_some());
        let later: HashSet<&NamedPart> =
            late.flat_map(|pin| &pin.markup).flat_map(|markup| &markup.names).collect();
        PinFacts {
            added: plan.pins.map(|(_, pin)| pin.added_and_styled()),
            brittle: plan.pins.map(|(pin, _)| brittle_selectors(plan, pin)),
            styles_later: plan.pins.map(|(_, pin)| styles_any_of(pin, &later)),
            leftovers: plan.pins.map(|(_, pin)| leftovers_of(pin)),
        }
    }
}

/// Whether the sheet of a pin has a selector that may match what has some names.
fn styles_any_of(pin: &PlannedPin, names: &HashSet<&NamedPart>) -> bool {
    let has_some = |selector: &FencedSelector| {
        let own = names_in(&selector.written);
        own.is_empty() || own.iter().any(|name| names.contains(name))
    };
    !names.is_empty() && pin.style.as_ref().is_some_and(|style| style.selectors().any(has_some))
}

/// One page as the families ask it.
pub(super) struct PageChecker<'c> {
    pub(super) pins: &'c PinFacts,
    pub(super) emitted: &'c EmittedPage<'c>,
    pub(super) page: &'c PageAnalysis<'c>,
    declarations: OnceCell<PageDeclarations>,
    settled: OnceCell<Option<PageAnalysis<'c>>>,
}

/// What a selector that matches nothing on a page still waits for.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum Awaited {
    /// Nothing: it cannot come to match.
    Nothing,
    /// Names that the pin's author says scripts add.
    Announced,
    /// A name that a script of the page may bring in.
    Script {
        /// The name, as in a selector.
        name: String,
        /// The script.
        source: NameSource,
    },
}

impl<'c> PageChecker<'c> {
    pub(super) fn new(pins: &'c PinFacts, emitted: &'c EmittedPage<'c>) -> Self {
        PageChecker {
            pins,
            emitted,
            page: emitted.page(),
            declarations: OnceCell::new(),
            settled: OnceCell::new(),
        }
    }

    pub(super) fn id(&self) -> PageId {
        self.page.id
    }

    /// The pins whose sheets are put into the page.
    pub(super) fn styled_pins(&self) -> impl Iterator<Item = PinId> {
        let styles = self.page.placements().iter().filter(|placement| placement.code.kind == CodeKind::Style);
        styles.filter_map(|placement| placement.code.owner.pin())
    }

    /// Whether the sheet of a pin stands in the head.
    pub(super) fn is_in_head(&self, pin: PinId) -> bool {
        let mut own = self.page.placements().iter().filter(|placement| {
            placement.code.kind == CodeKind::Style && placement.code.owner.pin() == Some(pin)
        });
        own.all(|own| {
            own.in_box.is_none() && matches!(own.at, InsertionPoint::Slot(Slot::HeadStart | Slot::Head))
        })
    }

    /// What the declarations of pins come to on the page.
    pub(super) fn declarations(&self) -> &PageDeclarations {
        self.declarations.get_or_init(|| PageDeclarations::of(self.settled()))
    }

    /// The page once all of its pins have begun, where a sheet of a pin has to do with what comes then.
    pub(super) fn settled(&self) -> &PageAnalysis<'c> {
        if !self.styled_pins().any(|pin| self.pins.styles_later[pin]) {
            return self.page;
        }
        self.settled.get_or_init(|| self.page.settled()).as_ref().unwrap_or(self.page)
    }

    /// Whether a pin puts in markup of that name once it begins.
    fn is_brought(&self, pin: PinId, name: &NamedPart) -> bool {
        let planned = &self.page.context().plan.pins[pin];
        planned.beginning.is_some() && planned.markup.iter().any(|markup| markup.names.contains(name))
    }

    /// Whether a script, or whoever the pin's author says, may bring in what selectors of a pin are for.
    pub(super) fn is_awaited(&self, pin: PinId, selectors: &[Selector]) -> bool {
        self.awaited(pin, selectors) != Awaited::Nothing
    }

    /// What selectors of a pin that match nothing on the page wait for. One of them comes to match
    /// only if all of its names come.
    pub(super) fn awaited(&self, pin: PinId, selectors: &[Selector]) -> Awaited {
        let adds = &self.page.context().plan.board.pins[pin].adds;
        for selector in selectors {
            let mut first = None;
            for name in names_in(selector).iter().filter(|name| !self.page.names().has(name)) {
                let awaited = match adds.iter().any(|added| added == name.name()) {
                    true => Awaited::Announced,
                    false if self.page.is_of_library(name) || self.page.lacks_content(name) => {
                        Awaited::Announced
                    }
                    false if self.is_brought(pin, name) => Awaited::Announced,
                    false => match self.page.bringing_script(name.name()) {
                        Some(source) => Awaited::Script { name: name.to_string(), source },
                        None => Awaited::Nothing,
                    },
                };
                if awaited == Awaited::Nothing {
                    first = None;
                    break;
                }
                first = first.or(Some(awaited));
            }
            if let Some(awaited) = first {
                return awaited;
            }
        }
        Awaited::Nothing
    }
}
