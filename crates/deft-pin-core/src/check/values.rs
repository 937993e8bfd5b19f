//! Findings about values: names without one, values that are not what they are said to be, dates that are past,
//! lists that do not go with the page, and what nothing uses.

use std::collections::BTreeSet;

use serde::Serialize;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, Place, counted};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::{FilledKind, Moment, Pin, Placeholder, Value, ValueKind};
use crate::code::{PageId, PinId};
use crate::markup::{Assume, Matcher};
use crate::plan::Fill;
use crate::script::{TextPlace, syntax_flaws, text_places};
use crate::source::nearest;

pub(super) struct Values;

/// Of so many names in a file that have no value each is told.
const MOST_NAMES: usize = 100;

/// A list that is to have an entry for each of some elements.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct ListCount {
    pin: PinId,
    name: String,
    /// How many elements the page has.
    elements: usize,
}

impl Family for Values {
    type Fact = ListCount;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<ListCount>) {
        let plan = page.page.context().plan;
        for pin in page.page.pins() {
            let own = &plan.board.pins[*pin];
            let lists = plan.board.values_of(own).into_iter().filter(|value| value.each.is_some());
            for value in lists.filter(|value| is_used(&plan.pins[*pin], own, value)) {
                let Some(each) = &value.each else { continue };
                let mut matcher = Matcher::new();
                let targets = page.page.matches().iter().find(|matches| matches.pin == *pin);
                let targets = targets.map_or(&[][..], |matches| &matches.targets);
                let is_in_target = |element: crate::markup::ElementRef<'_>| {
                    own.within.is_none() || element.and_ancestors().any(|around| targets.contains(&around.id))
                };
                let document = page.page.document();
                let found = document.elements().filter(|element| {
                    matcher.matches_any(&each.list, *element, Assume::May) && is_in_target(*element)
                });
                let elements = found.count();
                let is_late = elements == 0 && page.is_awaited(*pin, each.list.slice());
                if elements != value.items.len() && !is_late {
                    facts.push(ListCount { pin: *pin, name: value.name.value.clone(), elements });
                }
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<ListCount>, findings: &mut Vec<Finding>) {
        let board = input.plan().board;
        let meant = meant_by_unfilled(input);
        let is_meant = |value: &Value| meant.contains(value.name.value.as_str());
        for value in board.values.iter() {
            let mut pins = board.active_pins();
            let is_unused = !pins.any(|(id, pin)| {
                let is_hidden = pin.values.iter().any(|own| *own.name == *value.name);
                !is_hidden && is_used(&input.plan().pins[id], pin, value)
            });
            of_value(input, None, value, is_unused && !is_meant(value), findings);
        }
        for (id, pin) in board.active_pins() {
            for value in &pin.values {
                let is_unused = !is_used(&input.plan().pins[id], pin, value);
                of_value(input, Some(id), value, is_unused && !is_meant(value), findings);
            }
            for fill in &input.plan().pins[id].fills {
                of_fill(input, id, fill, findings);
            }
        }
        for shared in facts.shared(|fact| fact.clone()) {
            findings.extend(count_differs(input, shared.first, shared.pages));
        }
    }
}

/// Values that names without one most likely mean: they are not used, and that is told there.
fn meant_by_unfilled<'i>(input: &CheckInput<'i>) -> BTreeSet<&'i str> {
    let board = input.plan().board;
    let mut meant = BTreeSet::new();
    for (id, pin) in board.active_pins() {
        let values = board.values_of(pin);
        let unfilled = input.plan().pins[id].fills.iter().flat_map(|fill| &fill.unfilled);
        let names: BTreeSet<&str> = unfilled.map(|own| own.name.as_str()).collect();
        for own in names.into_iter().take(MOST_NAMES) {
            meant.extend(nearest(own, values.iter().map(|value| value.name.value.as_str())));
        }
    }
    meant
}

/// Whether a pin names a value somewhere.
fn is_used(planned: &crate::plan::PlannedPin, pin: &Pin, value: &Value) -> bool {
    let name = value.name.value.as_str();
    let by_script = || {
        planned.script_file().is_some_and(|script| {
            script.has_word("values") && (script.has_word(name) || takes_any(script.text.as_str()))
        })
    };
    pin.used_values.iter().any(|used| used == name)
        || planned.fills.iter().any(|fill| fill.used.contains(name))
        || by_script()
}

/// Whether a script takes the values as a whole, or by a name that it works out.
fn takes_any(script: &str) -> bool {
    let is_name = |c: char| c.is_alphanumeric() || c == '_' || c == '$' || c == '.';
    script.match_indices("values").any(|(at, word)| {
        let before = script[..at].chars().next_back();
        let after = script[at + word.len()..].trim_start();
        !before.is_some_and(is_name) && !after.starts_with(is_name) && !after.starts_with("?.")
    })
}

fn of_value(
    input: &CheckInput<'_>,
    pin: Option<PinId>,
    value: &Value,
    is_unused: bool,
    findings: &mut Vec<Finding>,
) {
    let told = |finding: Finding| match pin {
        Some(pin) => finding.pin(input.pin_name(pin)),
        None => finding,
    };
    for misfit in value.misfits() {
        let place = input.on_board(misfit.span);
        findings.push(told(Finding::new(Code::BadValue, place, misfit.message).help(misfit.help)));
    }
    if is_unused {
        let message = format!("nothing names the value `{}`", *value.name);
        let whose = if pin.is_some() { "the pin's files" } else { "files of pins" };
        let help = format!("write `{{{{{}}}}}` in {whose}, or take it off the board", *value.name);
        findings
            .push(told(Finding::new(Code::UnusedValue, input.on_board(value.name.span), message).help(help)));
    }
    let Some(today) = input.context.today.filter(|_| value.kind == ValueKind::Date && !is_unused) else {
        return;
    };
    for item in &value.items {
        if Moment::parse(item).is_some_and(|moment| moment.day < today) {
            let message = format!("the date `{}` is past: it is {today} today", **item);
            let finding = Finding::new(Code::PastDate, input.on_board(item.span), message);
            findings.push(told(
                finding.help("write a date that is still to come, or take the pin off the board"),
            ));
        }
    }
}

fn of_fill(input: &CheckInput<'_>, pin: PinId, fill: &Fill, findings: &mut Vec<Finding>) {
    let board = input.plan().board;
    let values = board.values_of(&board.pins[pin]);
    let names = || values.iter().map(|value| value.name.value.as_str());
    let place = |own: &Placeholder| Place::new(&fill.path, &fill.text, own.span);
    for own in &fill.misplaced {
        let message = format!(
            "no value can stand here: `{{{{{}}}}}` is the name of a tag or an attribute, or in a script",
            own.name
        );
        let help = "values stand in texts and in the values of attributes";
        findings.push(Finding::new(Code::BadValue, place(own), message).help(help).pin(input.pin_name(pin)));
    }
    // What is filled whole need not be parsed for this.
    if fill.unfilled.is_empty() {
        return;
    }
    let is_broken = fill.kind == FilledKind::Script && !syntax_flaws(fill.text.as_str()).is_empty();
    let texts = if fill.kind == FilledKind::Script { text_places(fill.text.as_str()) } else { Vec::new() };
    let mut told: BTreeSet<&str> = BTreeSet::new();
    for own in fill.unfilled.iter().filter(|own| told.insert(&own.name)).take(MOST_NAMES) {
        let near = nearest(&own.name, names());
        let after = texts.partition_point(|(span, _)| span.start <= own.span.start);
        let around = texts[..after].last().filter(|(span, _)| own.span.end <= span.end);
        let is_comment = around.is_some_and(|(_, place)| *place == TextPlace::Comment);
        // Other tools write braces too: in the texts of a script they may be theirs.
        let severity = match fill.kind {
            _ if is_comment => continue,
            FilledKind::Style => Severity::Error,
            _ if near.is_some() => Severity::Error,
            FilledKind::Script if around.is_none() && is_broken => Severity::Error,
            FilledKind::Script => continue,
            FilledKind::Markup => Severity::Warning,
        };
        let message = format!("`{{{{{}}}}}` names a value, and there is none of that name", own.name);
        let help = match near {
            Some(near) => format!("did you mean `{{{{{near}}}}}`?"),
            None => format!("add `{} = \"…\"` under `[pin.{}.values]`", own.name, input.pin_name(pin)),
        };
        let finding = Finding::new(Code::Unfilled, place(own), message).severity(severity);
        findings.push(finding.help(help).pin(input.pin_name(pin)));
    }
}

fn count_differs(input: &CheckInput<'_>, fact: &ListCount, pages: Vec<PageId>) -> Option<Finding> {
    let board = input.plan().board;
    let values = board.values_of(&board.pins[fact.pin]);
    let value = values.into_iter().find(|value| *value.name == fact.name)?;
    let each = value.each.as_ref()?;
    let paths = input.paths(pages);
    let message = format!(
        "the list `{}` has {}, and {} {} of `{}`",
        fact.name,
        counted(value.items.len(), "entry", "entries"),
        match paths.as_slice() {
            [only] => format!("`{only}` has"),
            [first, rest @ ..] => format!("`{first}` and {} more have", rest.len()),
            [] => return None,
        },
        fact.elements,
        each.text,
    );
    let help = match fact.elements {
        0 => format!(
            "make `each` a selector that is on these pages, or take them off the pin with `skip`; there is no `{}`",
            each.text
        ),
        elements if elements > value.items.len() => {
            format!(
                "add {}, or make `each` narrower",
                counted(elements - value.items.len(), "entry", "entries")
            )
        }
        elements => format!("take {} away", counted(value.items.len() - elements, "entry", "entries")),
    };
    let place = input.on_board(value.span());
    Some(
        Finding::new(Code::CountDiffers, place, message)
            .help(help)
            .pin(input.pin_name(fact.pin))
            .pages(paths),
    )
}
