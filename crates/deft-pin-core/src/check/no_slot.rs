//! Findings about slots that pages have no place for.

use serde::Serialize;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PinId;
use crate::markup::Slot;

pub(super) struct LackingSlots;

/// A slot that code was meant for and a page has no place for.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct LackingSlot {
    slot: Slot,
    /// A pin whose code was meant for it.
    pin: PinId,
    /// Whether there is a place, and what is put there would not be read as it is meant.
    is_misread: bool,
}

impl Family for LackingSlots {
    type Fact = LackingSlot;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<LackingSlot>) {
        let pins = &page.page.context().plan.board.pins;
        let on_page = page.page.pins();
        for slot in page.emitted.refused() {
            let own = on_page.iter().find(|pin| *pins[**pin].slot == slot);
            let is_misread = page.page.document().slots().gap(slot).is_some();
            facts.extend(own.or(on_page.first()).map(|pin| LackingSlot { slot, pin: *pin, is_misread }));
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<LackingSlot>, findings: &mut Vec<Finding>) {
        for lacking in facts.shared(|lacking| (lacking.slot, lacking.is_misread)) {
            let LackingSlot { slot, pin, is_misread } = *lacking.first;
            let paths = input.paths(lacking.pages);
            let (have, them) = match paths.as_slice() {
                [only] => (format!("`{only}` has"), "it"),
                [first, rest @ ..] => (format!("`{first}` and {} more have", rest.len()), "them"),
                [] => continue,
            };
            let why = match is_misread {
                true => "what is put there would become part of something that the page leaves open",
                false => "a page of frames has no body",
            };
            let message =
                format!("{have} no place for the slot `{slot}` ({why}), so nothing was put into {them}");
            let place = input.on_board(input.plan().board.pins[pin].name.span);
            let help = format!("leave these pages out with `skip`, or use another slot than `{slot}`");
            findings.push(
                Finding::new(Code::NoSlot, place, message).help(help).pin(input.pin_name(pin)).pages(paths),
            );
        }
    }
}
