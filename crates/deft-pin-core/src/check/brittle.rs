//! Findings about selectors that the next change of a template breaks, with those that are likely
//! to outlive it.

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use super::leaning::{Brittle, Leaning, brittle_of};
use crate::find::Reason;
use crate::plan::Owner;

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for pin in 0..ground.plan.board.pins.len() {
        for brittle in brittle_of(ground.plan, pin) {
            findings.extend(finding(ground, pin, &brittle));
        }
    }
}

fn finding(ground: &Ground<'_>, pin: usize, brittle: &Brittle) -> Option<Finding> {
    // The first page on which it matches speaks for the others.
    let (page, better) = ground.pages_of(pin).find_map(|(page, facts)| {
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
