//! Findings about what of a pin's sheet goes beyond its elements by a name or a count: names that are the page's,
//! which the site has already or which have to stay as they are, counters, quotes and view transitions.

use serde::Serialize;

use super::code::{Code, Severity};
use super::declarations::place_in_sheet;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::leaking_values::{FeltValue, LeakingValue, leaking_values};
use super::page_checker::PageChecker;
use crate::code::{Origin, PinId};
use crate::source::Span;
use crate::style::{AtRuleKind, Definition};

pub(super) struct Leaks;

/// What of a pin's sheet goes beyond its elements.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum Leak {
    /// A name that it defines for the whole page, and that the site has already.
    Defined {
        /// The pin.
        pin: PinId,
        /// Where the pin defines it, in its sheet as it was written.
        span: Span,
        /// The at-rule that does.
        kind: String,
        /// The name.
        name: String,
        /// Where the site does.
        place: Place,
    },
    /// A registered property of a pin with a fence that keeps its name.
    Kept {
        /// The pin.
        pin: PinId,
        /// Where the pin registers it, in its sheet as it was written.
        span: Span,
        /// The name.
        name: String,
    },
    /// A value that elements outside of the fence feel.
    Value {
        /// The pin.
        pin: PinId,
        /// Where the declaration stands, in the pin's sheet as it was written.
        span: Span,
        /// What it does.
        value: LeakingValue,
        /// What of the site feels it: a declaration; none for an element.
        place: Option<Place>,
    },
}

impl Leak {
    fn pin(&self) -> PinId {
        match self {
            Leak::Defined { pin, .. } | Leak::Kept { pin, .. } | Leak::Value { pin, .. } => *pin,
        }
    }

    fn span(&self) -> Span {
        match self {
            Leak::Defined { span, .. } | Leak::Kept { span, .. } | Leak::Value { span, .. } => *span,
        }
    }
}

impl Family for Leaks {
    type Fact = Leak;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<Leak>) {
        for pin in page.styled_pins() {
            let Some(rules) = page.page.context().sheets.of_pin(pin) else { continue };
            let own = &page.page.context().plan.board.pins[pin];
            let (is_fenced, prefix) = (own.within.is_some(), format!("--{}-", own.name.value));
            for definition in rules.definitions.iter().filter(|one| one.kind != AtRuleKind::FontFace) {
                let (_, span) = rules.source(definition.span);
                let name = definition.name.clone();
                let keeps_its_name = || {
                    is_fenced
                        && definition.kind == AtRuleKind::Property
                        && !name.starts_with(&prefix)
                        && !own.share.contains(&name)
                };
                match site_definition(page, definition) {
                    Some(place) => {
                        facts.push(Leak::Defined {
                            pin,
                            span,
                            kind: definition.at_rule.clone(),
                            name,
                            place,
                        });
                    }
                    None if keeps_its_name() => facts.push(Leak::Kept { pin, span, name }),
                    None => {}
                }
            }
            if is_fenced {
                let felt = leaking_values(page, pin, rules).into_iter();
                facts.extend(felt.map(|FeltValue { span, value, place }| Leak::Value {
                    pin,
                    span,
                    value,
                    place,
                }));
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<Leak>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(|leak| (leak.pin(), leak.span())) {
            let (pin, span) = (shared.first.pin(), shared.first.span());
            let finding = |message: String, help: String| {
                // Of a rule its head is shown.
                let text = input.sheet_text(pin, span);
                let head = text.find('{').map_or(span.end, |at| span.start + at as u32);
                let own = input.in_sheet(pin, Span { end: head, ..span })?;
                let finding = Finding::new(Code::Leak, own, message).help(help);
                Some(finding.pin(input.pin_name(pin)).pages(input.paths(shared.pages.iter().copied())))
            };
            findings.extend(match shared.first {
                Leak::Defined { kind, name, place, .. } => finding(
                    format!("`@{kind} {name}` meets one of the site of the same name: what uses it there changes too"),
                    "give it a name of your own; in a pin with `within` it gets one by itself".to_owned(),
                )
                .map(|finding| finding.related("the site has it here", place.clone())),
                Leak::Kept { name, .. } => finding(
                    format!(
                        "`@property {name}` keeps its name, since a script or another sheet may set it: it counts for the whole page"
                    ),
                    "take care that nothing else on the page uses that name".to_owned(),
                )
                .map(|finding| finding.severity(Severity::Note)),
                Leak::Value { value, place, .. } => finding(value.message(), value.help()).map(|finding| match place {
                    Some(place) => finding.related("the site uses it here", place.clone()),
                    None => finding,
                }),
            });
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
