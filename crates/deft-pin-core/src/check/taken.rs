//! Findings about names that a pin brings in and that mean something to the site already.

use std::collections::BTreeMap;

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::markup::{Document, NamedPart, names_in};
use crate::plan::{Owner, PlannedPin};
use crate::script::ScriptKind;
use crate::site::{PageSheets, SheetOrigin};
use crate::source::Span;

/// A class or an ID that a pin's script adds and its sheet has rules for, and that the page has a
/// meaning for by itself.
#[derive(Clone, Debug)]
pub struct Taken {
    /// The name, as in a selector.
    pub name: String,
    /// Where the pin's script adds it.
    pub span: Span,
    /// The sheet of the site that has a selector with it, and which; none where an element has it.
    pub by: Option<(usize, Span)>,
    /// That place, once it is known.
    pub place: Option<Place>,
}

/// The names that a pin brings in: its script adds them, and its sheet says how they look.
pub(super) fn brought(planned: &PlannedPin) -> Vec<(NamedPart, Span)> {
    let Some(script) = planned.script.as_ref().and_then(|file| file.script.as_ref()) else {
        return Vec::new();
    };
    let rules = planned.style.iter().flat_map(|style| &style.rules).flat_map(|rule| &rule.selectors);
    let mut styled: Vec<NamedPart> = rules.flat_map(|test| names_in(&test.own)).collect();
    styled.sort();
    styled.dedup();
    let adds = &script.facts(ScriptKind::Classic).adds;
    let span_of = |name: &NamedPart| {
        let is_id = matches!(name, NamedPart::Id(_));
        let is_tag = matches!(name, NamedPart::Tag(_));
        let added = adds.iter().find(|added| added.is_id == is_id && added.name == name.name());
        added.filter(|_| !is_tag).map(|added| added.span)
    };
    styled.into_iter().filter_map(|name| span_of(&name).map(|span| (name, span))).collect()
}

/// Those of the names that the page's own sheets or its markup have.
pub(super) fn taken(brought: &[(NamedPart, Span)], sheets: &PageSheets, document: &Document) -> Vec<Taken> {
    let site = || (0..sheets.places.len()).filter(|at| sheets.places[*at].origin == SheetOrigin::Site);
    let found = brought.iter().filter_map(|(name, span)| {
        let by = site().find_map(|at| Some((at, *sheets.sheets[at].rules.names().get(name)?)));
        let mut elements = document.elements();
        let is_taken = by.is_some() || elements.any(|element| name.is_of(element.data()));
        is_taken.then(|| Taken { name: name.to_string(), span: *span, by, place: None })
    });
    found.collect()
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (pin, planned) in ground.plan.pins.iter().enumerate() {
        let Some(script) = &planned.script else { continue };
        let mut found: BTreeMap<&str, (&Taken, Vec<usize>)> = BTreeMap::new();
        for (page, facts) in ground.pages_of(pin) {
            for taken in &facts.taken {
                found.entry(&taken.name).or_insert((taken, Vec::new())).1.push(page);
            }
        }
        for (name, (taken, pages)) in found {
            let place = Place::new(&script.path, &script.text, taken.span);
            let (meets, follows) = match taken.by {
                Some(_) => {
                    ("the site's own sheet has rules for it", "they apply to what the script gives it to")
                }
                None => ("the page has elements with it", "the pin's rules apply to them too"),
            };
            let message = format!("this script adds `{name}`, and {meets}: {follows}");
            let mut finding = Finding::new(Code::NameTaken, Severity::Warning, place, message)
                .help("give it a name of your own, unless that is meant");
            if let Some(place) = &taken.place {
                finding = finding.related("the site has it here", place.clone());
            }
            findings.push(finding.pin(ground.plan.name_of(Owner::Pin(pin))).pages(ground.paths(pages)));
        }
    }
}
