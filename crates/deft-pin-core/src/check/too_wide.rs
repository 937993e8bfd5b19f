//! Findings about pins that are on other pages, or touch other numbers of elements, than they expect.

use serde::Serialize;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, counted};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{PageId, PinId};

pub(super) struct TooWide;

/// A pin that is on a page, where it expects something.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct PinWidth {
    pin: PinId,
    /// How many elements it touches: its target, or without one what its rules match; 0 where it
    /// expects no number.
    touched: usize,
}

impl Family for TooWide {
    type Fact = PinWidth;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<PinWidth>) {
        let pins = &page.page.context().plan.board.pins;
        for matches in page.page.matches().iter().filter(|matches| matches.is_on_page) {
            let pin = &pins[matches.pin];
            let touched = match (&pin.expect.elements, &pin.within) {
                (None, _) if pin.expect.pages.is_none() => continue,
                (None, _) => 0,
                (Some(_), Some(_)) => matches.targets.len(),
                (Some(_), None) => {
                    page.declarations().touched.get(&matches.pin).map_or(0, |count| *count as usize)
                }
            };
            facts.push(PinWidth { pin: matches.pin, touched });
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<PinWidth>, findings: &mut Vec<Finding>) {
        let mut by_pin = facts.by_subject(|width| width.pin);
        for (id, pin) in input.plan().board.active_pins() {
            let name = &*pin.name;
            let on: Vec<(PageId, &PinWidth)> = by_pin.remove(&id).unwrap_or_default();
            if let Some(pages) = pin.expect.pages.as_ref().filter(|pages| pages.value != on.len()) {
                let message = format!(
                    "the pin `{name}` is on {}, and it expects to be on {}",
                    counted(on.len(), "page", "pages"),
                    pages.value
                );
                let finding = Finding::new(Code::TooWide, input.on_board(pages.span), message);
                findings.push(finding.pin(name).pages(input.paths(on.iter().map(|(page, _)| *page))));
            }
            let Some(elements) = &pin.expect.elements else { continue };
            let wrong: Vec<_> = on.iter().filter(|(_, width)| width.touched != elements.value).collect();
            if let Some((page, width)) = wrong.first() {
                let message = format!(
                    "the pin `{name}` touches {} on `{}`, and it expects to touch {}",
                    counted(width.touched, "element", "elements"),
                    input.path(*page),
                    elements.value
                );
                let finding = Finding::new(Code::TooWide, input.on_board(elements.span), message);
                findings.push(finding.pin(name).pages(input.paths(wrong.iter().map(|(page, _)| *page))));
            }
        }
    }
}
