//! Findings about targets: what `having` and `within` match on the pages that a pin is for.

use super::Ground;
use super::facts::{Missing, PinFacts};
use super::finding::{Code, Finding, Severity, counted, share};
use crate::board::{SelectorText, Spanned};
use crate::markup::Slot;
use crate::plan::Owner;
use crate::site::{Bringer, PagePath};

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (at, pin) in ground.plan.board.pins.iter().enumerate() {
        let pages: Vec<_> = ground.pages_of(at).collect();
        if pages.is_empty() {
            continue;
        }
        if let Some(having) = &pin.having
            && pages.iter().all(|(_, facts)| !facts.having)
        {
            findings.push(no_having(ground, at, having, &pages));
        }
        if let Some(within) = &pin.within {
            let held: Vec<_> = pages.into_iter().filter(|(_, facts)| facts.having).collect();
            no_within(ground, at, within, &held, findings);
            many_within(ground, at, within, &held, findings);
        }
    }
    lacking_slots(ground, findings);
}

fn no_having(
    ground: &Ground<'_>,
    pin: usize,
    having: &Spanned<SelectorText>,
    pages: &[(usize, &PinFacts)],
) -> Finding {
    let name = ground.plan.name_of(Owner::Pin(pin));
    let paths = ground.paths(pages.iter().map(|(page, _)| *page));
    let missing = telling(pages.iter().filter_map(|(_, facts)| facts.missing_target()));
    let message = format!(
        "`having = {:?}` matches nothing on {}, so the pin `{name}` is on none",
        having.text,
        counted(paths.len(), "the one page that it is for", "pages that it is for")
            .replace("1 the one", "the one")
    );
    let finding = Finding::new(
        code_of(severity_of(missing)),
        severity_of(missing),
        ground.on_board(having.span),
        message,
    );
    finding.help(help_for(missing, &having.text)).pin(name).pages(paths)
}

fn no_within(
    ground: &Ground<'_>,
    pin: usize,
    within: &Spanned<SelectorText>,
    pages: &[(usize, &PinFacts)],
    findings: &mut Vec<Finding>,
) {
    let name = ground.plan.name_of(Owner::Pin(pin));
    let announced = |facts: &PinFacts| facts.missing_target().is_some_and(|missing| missing.announced);
    let bare: Vec<_> = pages.iter().filter(|(_, facts)| facts.targets == 0 && !announced(facts)).collect();
    // A name that a script may add is another matter than one that nothing will ever bring in.
    let (later, never): (Vec<_>, Vec<_>) =
        bare.into_iter().partition(|(_, facts)| by_script(facts.missing_target()).is_some());
    for group in [never, later] {
        if group.is_empty() {
            continue;
        }
        let paths = ground.paths(group.iter().map(|(page, _)| *page));
        let missing = telling(group.iter().filter_map(|(_, facts)| facts.missing_target()));
        let severity = severity_of(missing);
        let follows = if severity == Severity::Note {
            "at first, so the pin waits for a script there"
        } else {
            "there, so the pin does nothing there"
        };
        let message = format!(
            "`{}` is {} of `{name}` and matches no element {follows}",
            within.text,
            share_of_target(&paths, pages.len())
        );
        let mut help = help_for(missing, &within.text);
        if severity == Severity::Error && paths.len() < pages.len() {
            help.push_str(&format!("; for the pages that have it alone, add `having = {:?}`", within.text));
        }
        findings.push(
            Finding::new(code_of(severity), severity, ground.on_board(within.span), message)
                .help(help)
                .pin(name)
                .pages(paths),
        );
    }
}

/// "the target on `/fares/`, one of the 4 pages"
fn share_of_target(paths: &[PagePath], all: usize) -> String {
    format!("the target {}", share(paths, all).replace("its ", "the "))
}

/// Of what several pages lack, what tells the most: the first that has something near, else the
/// first.
fn telling<'m>(missing: impl Iterator<Item = &'m Missing> + Clone) -> Option<&'m Missing> {
    missing.clone().find(|missing| missing.near.is_some()).or_else(|| missing.into_iter().next())
}

fn by_script(missing: Option<&Missing>) -> Option<&Bringer> {
    missing.and_then(|missing| missing.script.as_ref())
}

fn severity_of(missing: Option<&Missing>) -> Severity {
    if by_script(missing).is_some() { Severity::Note } else { Severity::Error }
}

fn code_of(severity: Severity) -> Code {
    if severity == Severity::Note { Code::AtRunTime } else { Code::NoElement }
}

fn help_for(missing: Option<&Missing>, selector: &str) -> String {
    match missing {
        Some(Missing { name: Some(name), script: Some(script), .. }) => {
            let does = if script.line.is_some() { "adds it" } else { "names it and may add it" };
            format!("the page has no `{name}` as it is served; `{script}` {does} at run time")
        }
        Some(Missing { name: Some(name), near: Some(near), .. }) => {
            format!("there is no `{name}`; did you mean `{near}`?")
        }
        Some(Missing { name: Some(name), .. }) => {
            format!("there is no `{name}`, nor anything of nearly that name")
        }
        _ => format!("each of the names in `{selector}` is there, but not in this relation to each other"),
    }
}

fn many_within(
    ground: &Ground<'_>,
    pin: usize,
    within: &Spanned<SelectorText>,
    pages: &[(usize, &PinFacts)],
    findings: &mut Vec<Finding>,
) {
    let is_id = within
        .text
        .strip_prefix('#')
        .is_some_and(|id| id.chars().all(|c| c.is_alphanumeric() || c == '-' || c == '_'));
    let many: Vec<_> = pages.iter().filter(|(_, facts)| is_id && facts.targets > 1).collect();
    let Some((_, first)) = many.first() else { return };
    let name = ground.plan.name_of(Owner::Pin(pin));
    let paths = ground.paths(many.iter().map(|(page, _)| *page));
    let places = first.detail.as_ref().map_or(&[][..], |detail| &detail.places);
    let lines: Vec<_> = places.iter().map(|place| place.line.to_string()).collect();
    let message = format!(
        "`{}` is to be one element, and {} has it {} times (lines {}{}): CSS reaches all of them, a script finds the first alone",
        within.text,
        if paths.len() == 1 {
            format!("`{}`", paths[0])
        } else {
            format!("each of {} pages, such as `{}`,", paths.len(), paths[0])
        },
        first.targets,
        lines.join(", "),
        if first.targets as usize > places.len() { ", …" } else { "" }
    );
    findings.push(
        Finding::new(Code::ManyElements, Severity::Warning, ground.on_board(within.span), message)
            .help(format!("name the section around the one that is meant: `main {}`, say", within.text))
            .pin(name)
            .pages(paths),
    );
}

fn lacking_slots(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for slot in Slot::ALL {
        let pages: Vec<_> = ground.facts.iter().filter(|facts| facts.lacking.contains(&slot)).collect();
        let Some(first) = pages.first() else { continue };
        let pin = first
            .pins
            .iter()
            .find(|facts| facts.having && *ground.plan.board.pins[facts.pin as usize].slot == slot);
        let pin = pin.or(first.pins.first()).map_or(0, |facts| facts.pin as usize);
        let name = ground.plan.name_of(Owner::Pin(pin));
        let paths = ground.paths(pages.iter().map(|facts| facts.page));
        let (have, them) = match paths.len() {
            1 => (format!("`{}` has", paths[0]), "it"),
            more => (format!("`{}` and {} more have", paths[0], more - 1), "them"),
        };
        let message = format!(
            "{have} no place for the slot `{slot}` (a page of frames has no body), so nothing was put into {them}"
        );
        let place = ground.on_board(ground.plan.board.pins[pin].name.span);
        let help = format!("leave these pages out with `skip`, or use another slot than `{slot}`");
        findings.push(
            Finding::new(Code::NoSlot, Severity::Error, place, message).help(help).pin(name).pages(paths),
        );
    }
}
