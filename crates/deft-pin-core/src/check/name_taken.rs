//! Findings about names that a pin brings in and that mean something to the site already.

use serde::Serialize;

use super::code::Code;
use super::declarations::place_in_sheet;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{Origin, PinId};
use crate::markup::NamedPart;
use crate::source::Span;

pub(super) struct NamesTaken;

/// A class or an ID that a pin's script adds and its sheet has rules for, and that the page has a
/// meaning for by itself.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct NameTaken {
    pin: PinId,
    /// The name, as in a selector.
    name: String,
    /// Where the pin's script adds it.
    span: Span,
    /// Where a sheet of the site has a selector with it; none where an element of the page has it.
    in_sheet: Option<Place>,
}

impl Family for NamesTaken {
    type Fact = NameTaken;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<NameTaken>) {
        for pin in page.styled_pins() {
            for (name, span) in &page.pins.added[pin] {
                let in_sheet = site_selector(page, name);
                if in_sheet.is_some() || page.page.names().has(name) {
                    facts.push(NameTaken { pin, name: name.to_string(), span: *span, in_sheet });
                }
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<NameTaken>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(|taken| (taken.pin, taken.name.clone(), taken.in_sheet.is_some())) {
            let NameTaken { pin, name, span, in_sheet } = shared.first;
            let Some(script) = &input.plan().pins[*pin].script else { continue };
            let place = Place::new(&script.path, &script.text, *span);
            let (meets, follows) = match in_sheet {
                Some(_) => {
                    ("the site's own sheet has rules for it", "they apply to what the script gives it to")
                }
                None => ("the page has elements with it", "the pin's rules apply to them too"),
            };
            let message = format!("this script adds `{name}`, and {meets}: {follows}");
            let mut finding = Finding::new(Code::NameTaken, place, message)
                .help("give it a name of your own, unless that is meant");
            if let Some(place) = in_sheet {
                finding = finding.related("the site has it here", place.clone());
            }
            findings.push(finding.pin(input.pin_name(*pin)).pages(input.paths(shared.pages)));
        }
    }
}

/// Where a sheet of the site has a selector with a name.
fn site_selector(page: &PageChecker<'_>, name: &NamedPart) -> Option<Place> {
    let sheets = page.page.sheets();
    let mut of_site = (0..sheets.places.len()).filter(|number| sheets.places[*number].origin == Origin::Site);
    of_site.find_map(|number| {
        let span = *sheets.sheets[number].rules.names().get(name)?;
        Some(place_in_sheet(page.page, number, span))
    })
}
