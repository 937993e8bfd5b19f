//! Findings about names that a pin's sheet defines for the whole page and that the site has already.

use serde::Serialize;

use super::code::Code;
use super::declarations::place_in_sheet;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{Origin, PinId};
use crate::source::Span;
use crate::style::{AtRuleKind, Definition};

pub(super) struct Leaks;

/// A name that a pin's sheet defines for the whole page, and that the site has already.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Leak {
    pin: PinId,
    /// Where the pin defines it, in its sheet as it was written.
    span: Span,
    /// The at-rule that does.
    kind: String,
    /// The name.
    name: String,
    /// Where the site does.
    place: Place,
}

impl Family for Leaks {
    type Fact = Leak;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<Leak>) {
        for pin in page.styled_pins() {
            let Some(rules) = page.page.context().sheets.of_pin(pin) else { continue };
            let shared =
                rules.definitions.iter().filter(|definition| definition.kind != AtRuleKind::FontFace);
            facts.extend(shared.filter_map(|definition| {
                let place = site_definition(page, definition)?;
                let (_, span) = rules.source(definition.span);
                let (kind, name) = (definition.at_rule.clone(), definition.name.clone());
                Some(Leak { pin, span, kind, name, place })
            }));
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<Leak>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(|leak| (leak.pin, leak.span)) {
            let Leak { pin, span, kind, name, place } = shared.first;
            let head = input.sheet_text(*pin, *span).find('{').map_or(span.end, |at| span.start + at as u32);
            let Some(own) = input.in_sheet(*pin, Span { end: head, ..*span }) else { continue };
            let message = format!(
                "`@{kind} {name}` meets one of the site of the same name: what uses it there changes too"
            );
            let finding = Finding::new(Code::Leak, own, message)
                .help("give it a name of your own; in a pin with `within` it gets one by itself")
                .related("the site has it here", place.clone());
            findings.push(finding.pin(input.pin_name(*pin)).pages(input.paths(shared.pages)));
        }
    }
}

/// Where the site defines the same by the same name.
fn site_definition(page: &PageChecker<'_>, definition: &Definition) -> Option<Place> {
    let sheets = page.page.sheets();
    let of_site = (0..sheets.places.len()).filter(|number| sheets.places[*number].origin == Origin::Site);
    of_site.into_iter().find_map(|number| {
        let is_same =
            |other: &&Definition| (&other.at_rule, &other.name) == (&definition.at_rule, &definition.name);
        let same = sheets.sheets[number].rules.definitions.iter().find(is_same)?;
        Some(place_in_sheet(page.page, number, same.span))
    })
}
