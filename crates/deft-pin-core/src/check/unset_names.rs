//! Findings about names that a pin's sheet uses and nothing on a page sets: keyframes, and custom
//! properties.

use serde::Serialize;

use super::code::Code;
use super::declarations::PinDeclaration;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PinId;
use crate::source::{Span, nearest};
use crate::style::{StyleRules, UsedName, variables};

pub(super) struct UnsetNames;

/// A name that a pin's sheet uses and nothing on a page sets.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct UnsetName {
    pin: PinId,
    /// The declaration, in the pin's sheet as it was written.
    span: Span,
    name: UsedName,
    /// One of nearly that name that is set there.
    near: Option<String>,
}

impl Family for UnsetNames {
    type Fact = UnsetName;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<UnsetName>) {
        let ready = &page.page.context().sheets;
        for pin in page.styled_pins().filter(|pin| !ready.names_of(*pin).is_empty()) {
            // A sheet that could not be looked into may set any name.
            if let Some(rules) = ready.of_pin(pin).filter(|_| page.page.sheets().unread.is_empty()) {
                of_pin(page, pin, rules, facts);
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<UnsetName>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(UnsetName::clone) {
            let UnsetName { pin, span, name, near } = shared.first;
            let Some(place) = input.in_sheet(*pin, *span) else { continue };
            let text = input.sheet_text(*pin, *span);
            let (message, what) = match name {
                UsedName::Keyframes(name) => (
                    format!("nothing there has `@keyframes {name}`, so `{text}` moves nothing"),
                    format!("write `@keyframes {name} {{ … }}`, or take the animation out"),
                ),
                UsedName::Property(name) => (
                    format!(
                        "nothing there sets `{name}`, so `{text}` counts for nothing: the property is as if it were `unset`"
                    ),
                    format!("set it, or give another value for that case: `var({name}, …)`"),
                ),
            };
            let help = near.as_ref().map_or(what, |near| format!("did you mean `{near}`?"));
            let finding = Finding::new(Code::UnsetName, place, message).help(help);
            findings.push(finding.pin(input.pin_name(*pin)).pages(input.paths(shared.pages)));
        }
    }
}

fn of_pin(page: &PageChecker<'_>, pin: PinId, rules: &StyleRules, facts: &mut Vec<UnsetName>) {
    let analysis = page.page;
    let sheets = &analysis.sheets().sheets;
    for used in analysis.context().sheets.names_of(pin) {
        if sheets.iter().any(|sheet| sheet.rules.set_names().contains(&used.name)) {
            continue;
        }
        // What `var()` cannot name is told as dropped.
        if matches!(&used.name, UsedName::Property(name) if !name.starts_with("--")) {
            continue;
        }
        let (name, is_property) = match &used.name {
            UsedName::Keyframes(name) => (name, false),
            UsedName::Property(name) => (name, true),
        };
        // A script may set it, and so may a style attribute.
        if analysis.name_source(name).is_some() || is_property && is_set_by_attribute(page, name) {
            continue;
        }
        // Where it is for nothing on the page, or something else wins, it does not matter.
        let span = rules.source(used.span).1;
        let wins =
            page.declarations().results.get(&PinDeclaration { pin, span }).is_some_and(|own| own.wins > 0);
        if !wins {
            continue;
        }
        let all = sheets.iter().flat_map(|sheet| sheet.rules.set_names());
        let mut known: Vec<&str> = all
            .filter_map(|set| match (set, is_property) {
                (UsedName::Keyframes(set), false) | (UsedName::Property(set), true) => Some(set.as_str()),
                _ => None,
            })
            .collect();
        known.sort_unstable();
        let near = nearest(name, known).map(str::to_owned);
        facts.push(UnsetName { pin, span, name: used.name.clone(), near });
    }
}

/// Whether the style attribute of some element sets a custom property.
fn is_set_by_attribute(page: &PageChecker<'_>, name: &str) -> bool {
    let mut elements = page.page.document().elements();
    elements.any(|element| {
        let style = element.data().attr(&html5ever::local_name!("style")).unwrap_or_default();
        style.contains(name) && !variables(style).iter().any(|used| used.name == name)
    })
}
