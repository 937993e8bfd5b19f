//! Findings about selectors that the next change of a template breaks, with those that are likely
//! to outlive it.

use super::Ground;
use super::facts::Better;
use super::finding::{Code, Finding, Place, Severity};
use super::target::pages_of;
use crate::find::{PageIndex, Reason, lasting_selectors, weaknesses};
use crate::markup::{Document, Selector, SelectorList};
use crate::plan::{Owner, Plan};
use crate::source::Span;

/// Where a selector stands that leans on something brittle.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Leaning {
    /// In the pin's `having`.
    Having,
    /// In the pin's `within`.
    Within,
    /// In its sheet: the selector of this number.
    Rule(usize),
}

/// A selector that leans on something brittle.
pub(super) struct Brittle {
    pub(super) leaning: Leaning,
    pub(super) selector: SelectorList,
    reasons: Vec<Reason>,
    span: Span,
}

/// The brittle selectors of a pin.
pub(super) fn brittle_of(plan: &Plan<'_>, pin: usize) -> Vec<Brittle> {
    let board = &plan.board.pins[pin];
    let mut found = Vec::new();
    let mut add = |leaning, selectors: &[Selector], span| {
        for selector in selectors {
            let reasons = weaknesses(selector);
            if !reasons.is_empty() {
                let selector = SelectorList::from_one(selector.clone());
                found.push(Brittle { leaning, selector, reasons, span });
            }
        }
    };
    if let Some(having) = &board.having {
        add(Leaning::Having, having.list.slice(), having.span);
    }
    if let Some(within) = &board.within {
        add(Leaning::Within, within.list.slice(), within.span);
    }
    let rules = plan.pins[pin].style.iter().flat_map(|style| &style.rules);
    for (number, test) in rules.flat_map(|rule| &rule.selectors).enumerate() {
        add(Leaning::Rule(number), std::slice::from_ref(&test.own), test.span);
    }
    found
}

/// What would find the same element of a page, and is likely to last.
pub(super) fn better(brittle: &Brittle, document: &Document) -> Option<Better> {
    let index = PageIndex::new(document);
    let found = index.matched(&brittle.selector, 2);
    let element = document.element(*found.first()?)?;
    if found.len() > 1 {
        return Some(Better { leaning: brittle.leaning, selector: None, alone: false });
    }
    let best = lasting_selectors(&index, element, 1).into_iter().find(|best| best.is_strong());
    Some(Better { leaning: brittle.leaning, selector: best.map(|best| best.selector), alone: true })
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for pin in 0..ground.plan.board.pins.len() {
        for brittle in brittle_of(ground.plan, pin) {
            findings.extend(finding(ground, pin, &brittle));
        }
    }
}

fn finding(ground: &Ground<'_>, pin: usize, brittle: &Brittle) -> Option<Finding> {
    // The first page on which it matches speaks for the others.
    let (page, better) = pages_of(ground, pin).find_map(|(page, facts)| {
        let detail = facts.detail.as_ref()?;
        Some((page, detail.better.iter().find(|better| better.leaning == brittle.leaning)?))
    })?;
    let generated = brittle.reasons.iter().any(|reason| matches!(reason, Reason::Generated(_)));
    // A pattern over many elements counts on purpose.
    if !generated && !better.alone {
        return None;
    }
    let reasons: Vec<String> = brittle.reasons.iter().map(ToString::to_string).collect();
    let (place, text) = match brittle.leaning {
        Leaning::Rule(_) => {
            let style = ground.plan.pins[pin].style.as_ref()?;
            let text = style.file.text.slice(brittle.span);
            (Place::new(&style.file.path, &style.file.text, brittle.span), text.to_owned())
        }
        _ => (
            ground.on_board(brittle.span),
            ground.plan.board.text.slice(brittle.span).trim_matches(['"', '\'']).to_owned(),
        ),
    };
    let message = format!("`{text}` may not last: {}", reasons.join("; "));
    let path = &ground.site.pages[page].path;
    let help = match &better.selector {
        Some(selector) => format!("`{selector}` finds the same element of `{path}`, and nothing else there"),
        None => "nothing stronger finds it: it has no name of its own, nor has anything around it".to_owned(),
    };
    let finding = Finding::new(Code::BrittleTarget, Severity::Warning, place, message).help(help);
    Some(finding.pin(ground.plan.name_of(Owner::Pin(pin))).pages(vec![path.clone()]))
}
