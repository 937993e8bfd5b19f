//! Findings about pins that touch more than they should: expectations that are not held, and names
//! that meet those of the site.

use std::collections::BTreeMap;

use super::Ground;
use super::facts::PinFacts;
use super::fight::Leak;
use super::finding::{Code, Finding, Place, Severity, counted};
use crate::plan::Owner;
use crate::source::Span;

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (at, pin) in ground.plan.board.pins.iter().enumerate().filter(|(_, pin)| !pin.off) {
        let name = ground.plan.name_of(Owner::Pin(at));
        let held: Vec<(usize, &PinFacts)> = ground.pages_of(at).filter(|(_, facts)| facts.having).collect();
        if let Some(pages) = &pin.expect.pages
            && pages.value != held.len()
        {
            let message = format!(
                "the pin `{name}` is on {}, and it expects to be on {}",
                counted(held.len(), "page", "pages"),
                pages.value
            );
            let finding = Finding::new(Code::TooWide, Severity::Error, ground.on_board(pages.span), message);
            findings.push(finding.pin(name).pages(ground.paths(held.iter().map(|(page, _)| *page))));
        }
        if let Some(elements) = &pin.expect.elements {
            let touched =
                |facts: &PinFacts| if pin.within.is_some() { facts.targets } else { facts.touched } as usize;
            let wrong: Vec<_> = held.iter().filter(|(_, facts)| touched(facts) != elements.value).collect();
            if let Some((page, facts)) = wrong.first() {
                let message = format!(
                    "the pin `{name}` touches {} on `{}`, and it expects to touch {}",
                    counted(touched(facts), "element", "elements"),
                    ground.site.pages[*page].path,
                    elements.value
                );
                let finding =
                    Finding::new(Code::TooWide, Severity::Error, ground.on_board(elements.span), message);
                findings.push(finding.pin(name).pages(ground.paths(wrong.iter().map(|(page, _)| *page))));
            }
        }
        leaks(ground, at, &held, findings);
    }
}

fn leaks(ground: &Ground<'_>, pin: usize, held: &[(usize, &PinFacts)], findings: &mut Vec<Finding>) {
    let Some(style) = &ground.plan.pins[pin].style else { return };
    let mut found: BTreeMap<Span, (&Leak, Vec<usize>)> = BTreeMap::new();
    for (page, facts) in held {
        for leak in &facts.leaks {
            found.entry(leak.span).or_insert((leak, Vec::new())).1.push(*page);
        }
    }
    let name = ground.plan.name_of(Owner::Pin(pin));
    for (span, (leak, pages)) in found {
        let head = style.file.text.slice(span).find('{').map_or(span.end, |at| span.start + at as u32);
        let place = Place::new(&style.file.path, &style.file.text, Span { end: head, ..span });
        let message = format!(
            "`@{} {}` meets one of the site of the same name: what uses it there changes too",
            leak.kind, leak.name
        );
        let finding = Finding::new(Code::Leak, Severity::Warning, place, message)
            .help("give it a name of your own; in a pin with `within` it gets one by itself")
            .related("the site has it here", leak.place.clone());
        findings.push(finding.pin(name).pages(ground.paths(pages)));
    }
}
