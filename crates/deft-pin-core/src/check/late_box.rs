//! Findings about an order that would hold in the slots that pins ask for, and does not in the boxes of the host.

use serde::Serialize;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::BoxPlace;
use crate::code::{CodeKind, Origin, Owner, PinId};
use crate::markup::{NamedPart, Slot, names_in, parse_selectors};
use crate::script::{Execution, When};
use crate::site::PageStep;
use crate::source::FilePath;

pub(super) struct LateBoxes;

/// A step of the site that comes before something that it leans on, since a box of the host comes late.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct LateBox {
    pin: PinId,
    /// What the step leans on: a global, or a name of the pin's markup.
    name: String,
    by: LeansOn,
    /// The file of the step, and the line of its element.
    file: FilePath,
    line: u32,
    /// Where the code stands.
    at: BoxPlace,
}

/// How a step leans on something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
enum LeansOn {
    /// It reads a global that the pin gives to the page.
    Global,
    /// It looks up an element of the pin's markup.
    Markup,
    /// It is the pin's own script, and waits for an event of the page that may be past.
    Event,
}

impl Family for LateBoxes {
    type Fact = LateBox;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<LateBox>) {
        let context = page.page.context();
        if !context.layout.has_boxes {
            return;
        }
        late_globals(page, facts);
        past_events(page, facts);
        late_markup(page, facts);
        facts.sort();
        facts.dedup();
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<LateBox>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(|late| (late.pin, late.name.clone(), late.file.clone())) {
            let LateBox { pin, name, by, file, line, at } = shared.first;
            let own = &input.plan().board.pins[*pin];
            let step = format!("the script of `{file}` (line {line})");
            let host = input.plan().board.host.kind.name();
            let (place, message, help) = match by {
                LeansOn::Event => (
                    own.script.as_ref().map_or(own.name.span, |script| script.span),
                    format!(
                        "this script waits for `{name}`, which may be past when `{host}` puts it in: then what it waits with never runs"
                    ),
                    "ask first whether the page is there already (`document.readyState`), or say `start = \"ready\"` or `start = \"loaded\"` on the board",
                ),
                LeansOn::Global => (
                    own.slot.span,
                    format!(
                        "in the slot `{}` this would run before {step}, which reads `{name}`; in the `{}` of `{host}` it runs after it",
                        own.slot.value,
                        at.name()
                    ),
                    "let that script wait for the page, or look for a box that comes earlier",
                ),
                LeansOn::Markup => (
                    own.markup.first().map_or(own.name.span, |markup| markup.span),
                    format!(
                        "{step} looks up `{name}` while the page is read; on `{host}` this markup comes with a script in the `{}`, after that",
                        at.name()
                    ),
                    "let that script wait for the page (`DOMContentLoaded`), or let the pin's own script do what it does",
                ),
            };
            let severity = match by {
                LeansOn::Event => Severity::Warning,
                LeansOn::Global | LeansOn::Markup => Severity::Error,
            };
            findings.push(
                Finding::new(Code::LateBox, input.on_board(place), message)
                    .severity(severity)
                    .help(help)
                    .pin(input.pin_name(*pin))
                    .pages(input.paths(shared.pages)),
            );
        }
    }
}

/// Scripts of the site that run while the page is read, with the place at which they stand.
fn running<'p>(page: &PageChecker<'p>) -> impl Iterator<Item = (usize, &'p PageStep)> {
    let steps = page.page.steps().iter().enumerate();
    steps.filter(|(_, step)| {
        matches!(step.origin, Origin::Site)
            && step.kind() == CodeKind::Script
            && !step.timing.execution.waits_for_the_parser()
    })
}

fn late_globals(page: &PageChecker<'_>, facts: &mut Vec<LateBox>) {
    let plan = page.page.context().plan;
    for (number, own) in page.page.steps().iter().enumerate() {
        let Origin::Board(Owner::Pin(pin)) = own.origin else { continue };
        let Some(script) = own.script() else { continue };
        let Some(frame) = &script.file.frame else { continue };
        let placements = page.page.placements().iter();
        let placed = placements
            .filter(|placed| placed.code.owner == Owner::Pin(pin) && placed.code.kind == CodeKind::Script)
            .find_map(|placed| placed.in_box);
        let (Some(of), slot) = (placed, *plan.board.pins[pin].slot) else { continue };
        // Where it stands as early as it would, it may still wait for all of the page.
        let waits = !frame.waits && own.timing.execution == Execution::Ready;
        if of.place <= BoxPlace::of(slot) && !waits {
            continue;
        }
        let Some(wanted) = page.page.document().slots().gap(slot).map(|gap| gap.at) else { continue };
        let defines = own.facts().into_iter().flat_map(|facts| &facts.defines);
        let given: Vec<&str> = frame
            .share
            .iter()
            .map(String::as_str)
            .chain(defines.map(|defined| defined.name.as_str()))
            .collect();
        for (other, step) in running(page) {
            if step.at < wanted || page.page.timeline().is_before(number, other) {
                continue;
            }
            let reads = step.facts().into_iter().flat_map(|facts| &facts.reads);
            let reads = reads.filter(|read| read.when == When::Now && given.contains(&read.name.as_str()));
            facts.extend(reads.map(|read| LateBox {
                pin,
                name: read.name.clone(),
                by: LeansOn::Global,
                file: file_of(page, step),
                line: step.line,
                at: of.place,
            }));
        }
    }
}

/// Scripts that wait for an event of the page, where the host puts them in at any time.
fn past_events(page: &PageChecker<'_>, facts: &mut Vec<LateBox>) {
    if !page.page.context().plan.board.host.inserts {
        return;
    }
    for step in page.page.steps() {
        let Origin::Board(Owner::Pin(pin)) = step.origin else { continue };
        let (Some(own), Some(script)) = (step.facts(), step.script()) else { continue };
        // A script that asks how far the page is knows what to do.
        let asks = script.file.text.as_str().contains("readyState");
        facts.extend(own.listens.iter().filter(|_| !asks).map(|event| LateBox {
            pin,
            name: event.name().to_owned(),
            by: LeansOn::Event,
            file: file_of(page, step),
            line: step.line,
            at: BoxPlace::Foot,
        }));
    }
}

fn late_markup(page: &PageChecker<'_>, facts: &mut Vec<LateBox>) {
    let context = page.page.context();
    let (plan, host) = (context.plan, &context.plan.board.host);
    let Some(at) = host.place_for(Slot::Foot, CodeKind::Script).filter(|_| !host.is_framed) else { return };
    let with_content: Vec<PinId> =
        page.page.pins().iter().copied().filter(|pin| plan.has_served_content(*pin)).collect();
    if with_content.is_empty() {
        return;
    }
    for (_, step) in running(page) {
        for looked in step.facts().into_iter().flat_map(|facts| &facts.looks_up) {
            if looked.when != When::Now || looked.guarded {
                continue;
            }
            let Ok(list) = parse_selectors(&step.selector(looked)) else { continue };
            let names: Vec<NamedPart> = list.slice().iter().flat_map(names_in).collect();
            for pin in &with_content {
                let brings = |name: &&NamedPart| {
                    !matches!(name, NamedPart::Tag(_))
                        && plan.pins[*pin].markup.iter().any(|markup| markup.names.contains(name))
                };
                facts.extend(names.iter().filter(brings).map(|name| LateBox {
                    pin: *pin,
                    name: name.to_string(),
                    by: LeansOn::Markup,
                    file: file_of(page, step),
                    line: step.line,
                    at,
                }));
            }
        }
    }
}

fn file_of(page: &PageChecker<'_>, step: &PageStep) -> FilePath {
    let own = &page.page.page().file;
    FilePath::parse(step.file_name(own)).unwrap_or_else(|_| own.clone())
}
