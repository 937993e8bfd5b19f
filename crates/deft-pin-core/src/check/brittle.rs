//! Findings about selectors that the next change of a template breaks, with those that are likely
//! to outlive it.

use serde::Serialize;

use super::code::Code;
use super::explanations::{Question, Questions};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use super::selector_places::{BrittleSelector, SelectorPlace, brittle_selectors};
use crate::code::PinId;
use crate::find::Reason;

pub(super) struct BrittleTargets;

/// A brittle selector of a pin that matches on a page.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct BrittleMatch {
    pin: PinId,
    place: SelectorPlace,
}

impl Family for BrittleTargets {
    type Fact = BrittleMatch;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<BrittleMatch>) {
        for matches in page.page.matches().iter().filter(|matches| matches.is_on_page) {
            let pin = matches.pin;
            let is_matched = |brittle: &&BrittleSelector| match brittle.place {
                SelectorPlace::Having => true,
                SelectorPlace::Within => !matches.targets.is_empty(),
                SelectorPlace::Rule(number) => matches.matched[number as usize],
            };
            let brittle = page.pins.brittle[pin].iter().filter(is_matched);
            facts.extend(brittle.map(|brittle| BrittleMatch { pin, place: brittle.place }));
        }
    }

    fn questions(_: &CheckInput<'_>, facts: &FactsByPage<BrittleMatch>, questions: &mut Questions) {
        for (fact, pages) in facts.iter() {
            // The first page on which it matches speaks for the others.
            questions.ask_some(&pages[..1], Question::LastingAlternative(fact.pin, fact.place));
        }
    }

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<BrittleMatch>, findings: &mut Vec<Finding>) {
        for pin in input.plan().board.pins.ids() {
            let brittle = brittle_selectors(input.plan(), pin);
            findings.extend(brittle.iter().filter_map(|brittle| finding(input, pin, brittle)));
        }
    }
}

fn finding(input: &CheckInput<'_>, pin: PinId, brittle: &BrittleSelector) -> Option<Finding> {
    let question = Question::LastingAlternative(pin, brittle.place);
    let (page, alternative) = input.explanations.alternative(question)?;
    let is_generated = brittle.reasons.iter().any(|reason| matches!(reason, Reason::Generated(_)));
    // A pattern over many elements counts on purpose.
    if !is_generated && !alternative.is_alone {
        return None;
    }
    let reasons: Vec<String> = brittle.reasons.iter().map(ToString::to_string).collect();
    let (place, text) = match brittle.place {
        SelectorPlace::Rule(_) => (input.in_sheet(pin, brittle.span)?, input.sheet_text(pin, brittle.span)),
        SelectorPlace::Having | SelectorPlace::Within => {
            let text = input.plan().board.text.slice(brittle.span).trim_matches(['"', '\'']);
            (input.on_board(brittle.span), text)
        }
    };
    let message = format!("`{text}` may not last: {}", reasons.join("; "));
    let path = input.path(page);
    let help = match &alternative.selector {
        Some(selector) => format!("`{selector}` finds the same element of `{path}`, and nothing else there"),
        None => "nothing stronger finds it: it has no name of its own, nor has anything around it".to_owned(),
    };
    let finding = Finding::new(Code::BrittleTarget, place, message).help(help);
    Some(finding.pin(input.pin_name(pin)).pages(vec![path.clone()]))
}
