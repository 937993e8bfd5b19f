//! Findings about declarations of pins that do nothing, and about pins that fight each other.

use std::collections::BTreeMap;

use super::Ground;
use super::fight::{Fight, Rival};
use super::finding::{Code, Finding, Place, Severity, counted};
use crate::plan::{Owner, PinStyle};
use crate::source::Span;
use crate::style::Step;

/// What a declaration comes to over all pages.
#[derive(Default)]
struct Sum<'f> {
    wins: u32,
    loses: u32,
    needs_importance: bool,
    changes: bool,
    /// The first page on which it loses for each rival.
    rivals: Vec<(&'f Rival, Vec<usize>)>,
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (pin, planned) in ground.plan.pins.iter().enumerate() {
        let Some(style) = &planned.style else { continue };
        let mut sums: BTreeMap<Span, Sum<'_>> = BTreeMap::new();
        for (page, facts) in ground.pages_of(pin) {
            for fight in &facts.fights {
                add(sums.entry(fight.span).or_default(), page, fight);
            }
        }
        let first = findings.len();
        for (span, sum) in sums {
            one(ground, style, span, &sum, findings);
        }
        let name = ground.plan.name_of(Owner::Pin(pin));
        findings[first..].iter_mut().for_each(|finding| finding.pin = Some(name.to_owned()));
    }
}

fn add<'f>(sum: &mut Sum<'f>, page: usize, fight: &'f Fight) {
    sum.wins += fight.wins;
    sum.loses += fight.loses;
    sum.needs_importance |= fight.needs_importance;
    sum.changes |= fight.changes;
    let Some(rival) = &fight.rival else { return };
    match sum.rivals.iter_mut().find(|(known, _)| known.place == rival.place) {
        Some((_, pages)) => pages.push(page),
        None => sum.rivals.push((rival, vec![page])),
    }
}

fn one(ground: &Ground<'_>, style: &PinStyle, span: Span, sum: &Sum<'_>, findings: &mut Vec<Finding>) {
    let place = || Place::new(&style.file.path, &style.file.text, span);
    let text = style.file.text.slice(span);
    let is_important = text.trim_end().to_ascii_lowercase().ends_with("important");
    // A clash between pins is told as that, once for each of the other pins.
    let (pins, others): (Vec<_>, Vec<_>) = sum.rivals.iter().partition(|(rival, _)| rival.pin.is_some());
    for (rival, pages) in &pins {
        findings.push(clash(rival, text, place()).pages(ground.paths(pages.iter().copied())));
    }
    if let Some((rival, _)) = others.first() {
        let pages: Vec<usize> = others.iter().flat_map(|(_, pages)| pages.iter().copied()).collect();
        let mut pages = pages;
        pages.sort_unstable();
        pages.dedup();
        findings.push(beaten(rival, text, sum, place()).pages(ground.paths(pages)));
    }
    if sum.wins > 0 && sum.loses == 0 && is_important && !sum.needs_importance {
        let message = format!("`{text}` wins without its `!important` everywhere that it is for");
        let finding = Finding::new(Code::NeedlessImportant, Severity::Note, place(), message);
        findings.push(finding.help("take it out, so that what comes later can still win"));
    }
    if sum.wins > 0 && sum.loses == 0 && !sum.changes {
        let message = format!("`{text}` changes nothing: what it is for has that already, wherever it wins");
        findings.push(Finding::new(Code::NoChange, Severity::Note, place(), message).help("take it out"));
    }
}

fn specificity([a, b, c]: [u32; 3]) -> String {
    format!("({a},{b},{c})")
}

fn by(rival: &Rival) -> String {
    match rival.step {
        Step::Specificity => {
            format!("by specificity, {} over {}", specificity(rival.specificity), specificity(rival.over))
        }
        Step::Order => "by order: it comes later".to_owned(),
        Step::Importance => "by its `!important`".to_owned(),
        Step::Inline => "as a style attribute does".to_owned(),
        Step::Layer => "by layer".to_owned(),
        Step::Scope => "by scope: its root is nearer".to_owned(),
        Step::Alone | Step::Origin => String::new(),
    }
}

fn named(rival: &Rival) -> String {
    match &rival.selector {
        Some(selector) => format!("`{}` under `{selector}`", rival.text),
        None => format!("`{}` in the style attribute of `{}`", rival.text, rival.element),
    }
}

fn beaten(rival: &Rival, text: &str, sum: &Sum<'_>, place: Place) -> Finding {
    let lost = counted(sum.loses as usize, "element", "elements");
    let (code, severity, message) = match sum.wins {
        0 => (
            Code::Beaten,
            Severity::Error,
            format!(
                "`{text}` wins on none of the {lost} that it is for, so it does nothing: {} beats it {}",
                named(rival),
                by(rival)
            ),
        ),
        wins => (
            Code::PartlyBeaten,
            Severity::Warning,
            format!(
                "`{text}` loses on {lost} of {}: there {} beats it {}",
                wins + sum.loses,
                named(rival),
                by(rival)
            ),
        ),
    };
    let message = message
        .replace("none of the 1 element that", "the one element that")
        .replace("wins on the one", "does not win on the one");
    Finding::new(code, severity, place, message).help(turn(rival)).related("this wins", rival.place.clone())
}

/// The smallest change that would turn it.
fn turn(rival: &Rival) -> String {
    match rival.step {
        Step::Specificity => format!(
            "a selector of more than {} wins: put an ID or class of something around it in front, or give the pin a `within` with an ID",
            specificity(rival.specificity)
        ),
        Step::Importance => {
            "only `!important` beats `!important`: here too, with a selector that is as specific".to_owned()
        }
        Step::Inline => "only `!important` beats a style attribute".to_owned(),
        Step::Layer => {
            "what stands in no layer wins over what does; among layers the later one wins".to_owned()
        }
        Step::Scope => "name an element that is nearer in `@scope`".to_owned(),
        Step::Order | Step::Alone | Step::Origin => {
            "as specific, and later on the page: one more class in the selector wins".to_owned()
        }
    }
}

fn clash(rival: &Rival, text: &str, place: Place) -> Finding {
    let other = rival.pin.as_deref().unwrap_or_default();
    let only = if rival.step == Step::Order { ": the order alone decides" } else { "" };
    let message = format!(
        "`{text}` and {} of the pin `{other}` are for the same `{}`; that of `{other}` wins {}{only}",
        named(rival),
        rival.element,
        by(rival)
    );
    Finding::new(Code::PinClash, Severity::Warning, place, message)
        .help("keep one of them, or part their targets")
        .related("this wins", rival.place.clone())
}
