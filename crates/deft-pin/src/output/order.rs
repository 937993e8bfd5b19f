//! The answer of `order`.
//!
//! It is long since the JSON and the drawing of a timeline say the same of each kind of step: side by
//! side, one is not forgotten where the other changes.

use std::borrow::Cow;
use std::collections::HashSet;

use anstyle::{AnsiColor, Style};
use deft_pin_core::board::Once;
use deft_pin_core::check::{
    Asker, FaultKind, OtherDefiner, StepFault, import_words, is_found, run_fault_words,
};
use deft_pin_core::code::{Origin, Owner};
use deft_pin_core::find::label;
use deft_pin_core::page::PageAnalysis;
use deft_pin_core::script::{Execution, GlobalUse, PageEvent, When};
use deft_pin_core::site::{EventHandler, PagePart, PageStep};
use serde::Serialize;

use super::json::printed;
use super::notes::{FAINT, NOTE};
use super::text::{columns, counted, plain, shortened, wrapped};

/// A page with its timeline, and what does not work out on it.
pub struct Timed<'s> {
    /// The page.
    pub page: &'s PageAnalysis<'s>,
    /// What does not work out.
    pub faults: &'s [StepFault],
}

impl<'s> Timed<'s> {
    pub(super) fn steps(&self) -> &'s [PageStep] {
        self.page.steps()
    }

    pub(super) fn path(&self) -> &'s str {
        self.page.page().path.as_str()
    }

    /// The name of a step's file, or its address; the page's own file for what stands in the page.
    pub(super) fn file_of(&self, step: &'s PageStep) -> &'s str {
        step.file_name(&self.page.page().file)
    }

    /// "pin night", "library tidegraph"; none for what the page has by itself.
    pub(super) fn owner(&self, step: &PageStep) -> Option<String> {
        let name = |owner| self.page.context().plan.name_of(owner);
        match step.origin {
            Origin::Site | Origin::Attribute => None,
            Origin::Board(owner @ Owner::Pin(_)) => Some(format!("pin {}", name(owner))),
            Origin::Board(owner @ Owner::Library(_)) => Some(format!("library {}", name(owner))),
        }
    }

    /// What the script of a pin waits for, and how often it begins; none for one that does not wait.
    fn start_of(&self, step: &PageStep) -> Option<String> {
        let pin = step.origin.pin().filter(|_| !step.timing.execution.is_sheet())?;
        let beginning = self.page.context().plan.pins[pin].beginning.as_ref()?;
        let once = beginning.once.as_ref().map_or("", |(once, _)| match once {
            Once::Page => ", once a page",
            Once::Session => ", once a session",
            Once::Visitor => ", once a visitor",
        });
        let dates =
            if beginning.from.is_some() || beginning.until.is_some() { ", between its dates" } else { "" };
        Some(format!("{}{once}{dates}", beginning.start))
    }

    fn element_of(&self, handler: &EventHandler) -> (String, u32) {
        match self.page.document().element(handler.element) {
            Some(element) => (label(element), self.page.parsed().line_of(element)),
            None => (String::new(), 0),
        }
    }
}

#[derive(Serialize)]
struct OrderJson<'a> {
    version: u32,
    page: &'a str,
    steps: Vec<StepJson<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    handlers: Vec<HandlerJson<'a>>,
    findings: Vec<FaultJson<'a>>,
}

#[derive(Serialize)]
struct StepJson<'a> {
    id: String,
    what: &'static str,
    how: &'static str,
    inline: bool,
    file: &'a str,
    line: u32,
    slot: String,
    origin: String,
    after: Vec<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    starts: Option<String>,
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    unread: bool,
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    holds_parser: bool,
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    inserts_scripts: bool,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    listens: Vec<&'static str>,
    defines: Vec<&'a str>,
    reads_now: Vec<&'a str>,
    reads_later: Vec<&'a str>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    guarded: Vec<&'a str>,
    looks_up: Vec<LookUpJson<'a>>,
    adds: Vec<AddedJson<'a>>,
}

#[derive(Serialize)]
struct HandlerJson<'a> {
    element: String,
    line: u32,
    attribute: &'a str,
    reads: Vec<&'a str>,
    looks_up: Vec<&'a str>,
}

#[derive(Serialize)]
struct LookUpJson<'a> {
    selector: Cow<'a, str>,
    when: &'static str,
    found: &'static str,
}

#[derive(Serialize)]
#[serde(rename_all = "lowercase")]
enum AddedJson<'a> {
    Class(&'a str),
    Id(&'a str),
}

#[derive(Serialize)]
struct FaultJson<'a> {
    code: &'static str,
    severity: &'static str,
    step: String,
    file: &'a str,
    line: u32,
    column: u32,
    message: String,
}

fn id(at: usize) -> String {
    format!("s{at}")
}

/// The answer for programs.
pub fn order_json(all: &Timed<'_>) -> serde_json::Result<String> {
    let steps = all.steps().iter().enumerate().map(|(at, step)| step_json(all, at, step));
    let findings = all.faults.iter().map(|fault| {
        let step = &all.steps()[fault.step];
        let position = step.script().map(|script| script.file.text.position(fault.span.start));
        FaultJson {
            code: fault.kind.code().name(),
            severity: fault.severity().name(),
            step: id(fault.step),
            file: all.file_of(step),
            line: position.map_or(1, |position| position.line),
            column: position.map_or(1, |position| position.column),
            message: said(fault),
        }
    });
    let handlers = all.page.event_handlers().iter().map(|handler| {
        let (element, line) = all.element_of(handler);
        HandlerJson {
            element,
            line,
            attribute: &handler.name,
            reads: handler.reads().map(|read| read.name.as_str()).collect(),
            looks_up: handler.looks_up().collect(),
        }
    });
    let answer = OrderJson {
        version: 1,
        page: all.path(),
        steps: steps.collect(),
        handlers: handlers.collect(),
        findings: findings.collect(),
    };
    printed(&answer)
}

fn step_json<'a>(all: &'a Timed<'a>, at: usize, step: &'a PageStep) -> StepJson<'a> {
    let facts = step.facts();
    let names = |uses: &'a [GlobalUse], wanted: &dyn Fn(&GlobalUse) -> bool| {
        uses.iter().filter(|own| wanted(own)).map(|own| own.name.as_str()).collect::<Vec<_>>()
    };
    let reads = facts.map_or(&[][..], |facts| &facts.reads);
    let looks_up = facts.map_or(&[][..], |facts| &facts.looks_up).iter().map(|own| LookUpJson {
        selector: step.selector(own),
        when: own.when.name(),
        found: match is_found(&step.selector(own), all.page.document()) {
            Some(true) => "yes",
            Some(false) => "no",
            None => "unknown",
        },
    });
    let adds = facts.map_or(&[][..], |facts| &facts.adds).iter();
    let adds = adds.map(|own| if own.is_id { AddedJson::Id(&own.name) } else { AddedJson::Class(&own.name) });
    StepJson {
        id: id(at),
        what: if step.timing.execution.is_sheet() { "style" } else { "script" },
        how: if step.timing.execution.is_sheet() { "style" } else { step.timing.execution.name() },
        inline: step.is_inline(),
        file: all.file_of(step),
        line: step.line,
        slot: step.part.to_string(),
        origin: all.owner(step).map_or("site".to_owned(), |owner| owner.replace(' ', ":")),
        after: all.page.timeline().right_before(at).into_iter().map(id).collect(),
        starts: all.start_of(step),
        unread: step.is_unread(),
        holds_parser: holds_parser(step),
        inserts_scripts: step.inserts_scripts(),
        listens: facts.map_or(&[][..], |facts| &facts.listens).iter().map(|event| event.name()).collect(),
        defines: defines(step),
        reads_now: names(reads, &|own| own.when == When::Now),
        reads_later: names(reads, &|own| own.when != When::Now),
        guarded: names(reads, &|own| own.guarded),
        looks_up: looks_up.collect(),
        adds: adds.collect(),
    }
}

/// The globals that a step defines by itself, and by what it imports.
pub(super) fn defines(step: &PageStep) -> Vec<&str> {
    let all = step.all_facts().flat_map(|facts| &facts.defines).filter(|own| own.when != When::Later);
    let mut names: Vec<&str> = all.map(|own| own.name.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    names
}

/// The first few of some names.
fn shown(names: &[&str]) -> String {
    let more = names.len().saturating_sub(8);
    let shown = names[..names.len() - more].join(", ");
    if more > 0 { format!("{shown} and {more} more") } else { shown }
}

/// Whether the parser waits for a script to be loaded.
fn holds_parser(step: &PageStep) -> bool {
    step.timing.execution == Execution::Classic && !step.is_inline()
}

/// What does not work out, in words.
pub(super) fn said(fault: &StepFault) -> String {
    match &fault.kind {
        FaultKind::DeclaredTwice { name, by, comes_first: true } => {
            format!("s{by} declares `{name}` before, so none of this script runs")
        }
        FaultKind::DeclaredTwice { name, by, .. } => {
            format!("s{by} declares `{name}` too, so none of that script runs")
        }
        FaultKind::Runs(kind) => run_fault_words(kind, fault.certainty).message,
        FaultKind::Import { module, kind } => import_words(module.as_deref(), kind).message,
        FaultKind::Missing { name, when, near } => {
            let near = near.as_ref().map(|near| format!("; did you mean `{near}`?")).unwrap_or_default();
            let then = if *when == When::Now { "it stops here" } else { "it fails once it comes to that" };
            format!("nothing on this page defines `{name}`: {then}{near}")
        }
        FaultKind::Late { name, by } => {
            format!("`{name}` is defined by s{by}, which comes later: it stops here")
        }
        FaultKind::Race { name, by } => {
            format!("`{name}` is defined by s{by}, which may come before it or after: nothing settles that")
        }
        FaultKind::Early { selector, line } => {
            format!("`{selector}` is looked up before it is there: it begins on line {line}")
        }
        FaultKind::Made { selector, by, name } => {
            format!(
                "`{selector}` is not there as the page is served: s{by} adds `{name}`, and nothing puts that before"
            )
        }
        FaultKind::Unshared { name, by } => {
            let asks = match by {
                Asker::Step(by) => format!("s{by}"),
                Asker::EventHandler { attribute, line } => format!("`{attribute}` on line {line}"),
            };
            format!("{asks} asks for `{name}`, which stays in this script")
        }
        FaultKind::Overwrites { name, by: OtherDefiner::Step(by) } => format!("s{by} defines `{name}` too"),
        FaultKind::Overwrites { name, by: OtherDefiner::Browser } => {
            format!("`{name}` is the browser's own")
        }
        FaultKind::UnknownName { name, near, .. } => {
            format!("nothing on this page knows `{name}`, which it adds; did you mean `{near}`?")
        }
        FaultKind::Lost { selector, name, near, .. } => {
            let name = name.as_ref().map(|name| format!("; there is no `{name}`")).unwrap_or_default();
            let near = near.as_ref().map(|near| format!(", did you mean `{near}`?")).unwrap_or_default();
            format!("`{selector}` finds nothing on this page, and the script fails on that{name}{near}")
        }
    }
}

const RUNS: Style = AnsiColor::Green.on_default();
const WRONG: Style = AnsiColor::Red.on_default();

/// The answer for a person: what runs while the page is parsed, what once it is, what at any
/// time, and what never.
pub fn order(all: &Timed<'_>) -> String {
    let mut drawn = format!(
        "{}  {}, {}\n",
        plain(all.path()),
        counted(all.steps().iter().filter(|step| !step.timing.execution.is_sheet()).count(), "script"),
        counted(all.steps().iter().filter(|step| step.timing.execution.is_sheet()).count(), "style sheet"),
    );
    let parts: [(&str, &dyn Fn(Execution) -> bool); 4] = [
        (
            "while the page is parsed, from top to bottom; ━ holds the parser up until it has come and run",
            &|how| how == Execution::Classic || how.is_sheet(),
        ),
        ("once it is parsed, in this order", &|how| how.waits_for_the_parser()),
        ("as soon as each is there, at any time", &|how| how.is_async()),
        ("never", &|how| how == Execution::Never),
    ];
    for (number, (title, belongs)) in parts.into_iter().enumerate() {
        let own: Vec<_> =
            all.steps().iter().enumerate().filter(|(_, step)| belongs(step.timing.execution)).collect();
        if number == 2 {
            drawn.push_str(&events(all));
        }
        if own.is_empty() {
            continue;
        }
        drawn.push_str(&format!("\n  {title}\n"));
        for (place, (at, step)) in own.iter().enumerate() {
            let (rail, turn) = match (place == 0, place + 1 == own.len()) {
                _ if step.timing.execution.is_async() || step.timing.execution == Execution::Never => {
                    (' ', '·')
                }
                (true, true) => (' ', '╶'),
                (true, false) => ('│', '┌'),
                (false, true) => (' ', '└'),
                (false, false) => ('│', '├'),
            };
            drawn.push_str(&drawn_step(all, *at, step, (rail, turn)));
        }
    }
    drawn.push_str(&drawn_handlers(all));
    let wrong = all.faults.len();
    if wrong > 0 {
        drawn.push_str(&format!(
            "\n{NOTE}note{NOTE:#} {} on this timeline; `deft-pin check` tells those of pins with their lines\n",
            counted(wrong, "thing does not work out").replace("thing does not work outs", "things do not work out")
        ));
    }
    drawn
}

/// How many attributes for events are shown.
const HANDLERS: usize = 8;

/// The attributes for events that need something.
fn drawn_handlers(all: &Timed<'_>) -> String {
    let needs = |own: &&EventHandler| own.reads().next().is_some() || own.looks_up().next().is_some();
    let own: Vec<&EventHandler> = all.page.event_handlers().iter().filter(needs).collect();
    if own.is_empty() {
        return String::new();
    }
    let mut drawn = String::from("\n  on events, by attributes\n");
    for handler in own.iter().take(HANDLERS) {
        let reads: Vec<&str> = handler.reads().map(|read| read.name.as_str()).collect();
        let (element, line) = all.element_of(handler);
        let what = format!("{} of {element}, line {line}", handler.name);
        drawn.push_str(&format!("   · {}\n", shortened(&what, columns().saturating_sub(6))));
        for (label, names) in [("needs", reads), ("looks up", handler.looks_up().collect())] {
            if !names.is_empty() {
                drawn.push_str(&format!("         {FAINT}{label:<10}{FAINT:#}{}\n", plain(&shown(&names))));
            }
        }
    }
    if own.len() > HANDLERS {
        drawn.push_str(&format!("     {FAINT}and {} more{FAINT:#}\n", own.len() - HANDLERS));
    }
    drawn
}

/// The events that tell how far the page is, with the scripts that go on there.
fn events(all: &Timed<'_>) -> String {
    let mut drawn = String::new();
    for event in [PageEvent::Parsed, PageEvent::Loaded] {
        let waiting = all
            .steps()
            .iter()
            .enumerate()
            .filter(|(_, step)| step.all_facts().any(|facts| facts.listens.contains(&event)));
        let waiting: Vec<String> = waiting.map(|(at, _)| id(at)).collect();
        if !waiting.is_empty() {
            let verb = if waiting.len() == 1 { "goes" } else { "go" };
            drawn.push_str(&format!(
                "\n  at {}  {FAINT}{} {verb} on{FAINT:#}\n",
                event.name(),
                waiting.join(", ")
            ));
        }
    }
    drawn
}

fn drawn_step(all: &Timed<'_>, at: usize, step: &PageStep, (rail, turn): (char, char)) -> String {
    let how = step.timing.execution;
    let style = if how == Execution::Never { FAINT } else { RUNS };
    let what = if step.is_inline() && !how.is_sheet() {
        format!("inline {}", how.name())
    } else if how == Execution::Never {
        "script".to_owned()
    } else {
        how.name().to_owned()
    };
    let owner = match all.owner(step) {
        None => format!("{}, line {}", step.part, step.line),
        Some(owner) if step.part == PagePart::Block => format!("{owner}, in the block"),
        Some(owner) => format!("{owner}, slot {}", step.part),
    };
    let hold = if holds_parser(step) { '━' } else { ' ' };
    let file = step.address().map(|address| format!("  {}", plain(address))).unwrap_or_default();
    let head = shortened(&format!("{what:<8}{file}"), columns().saturating_sub(owner.len() + 16));
    let mut drawn = format!(
        "   {turn}{hold}{FAINT}{:<4}{FAINT:#}{style}{head}{style:#}  {FAINT}{owner}{FAINT:#}\n",
        id(at)
    );
    let mut line = |label: &str, style: Style, text: &str| {
        let indent = format!("   {rail}               ");
        let body = wrapped(text, &indent, &indent);
        let rest = body.strip_prefix(&indent).unwrap_or(&body);
        drawn.push_str(&format!("   {rail}     {style}{label:<10}{style:#}{rest}\n"));
    };
    if let Some(start) = all.start_of(step) {
        line("starts", FAINT, &plain(&start));
    }
    if let Some(facts) = step.facts() {
        let names = |uses: &[GlobalUse], wanted: &dyn Fn(&GlobalUse) -> bool| {
            let names: Vec<&str> =
                uses.iter().filter(|own| wanted(own)).map(|own| own.name.as_str()).collect();
            shown(&names)
        };
        let mut tell = |label: &str, text: String| {
            if !text.is_empty() {
                line(label, FAINT, &plain(&text));
            }
        };
        tell("gives", shown(&defines(step)));
        tell("needs", names(&facts.reads, &|own| own.when == When::Now && !own.guarded));
        tell("later", names(&facts.reads, &|own| own.when != When::Now && !own.guarded));
        let now = facts.looks_up.iter().filter(|own| own.when == When::Now);
        let mut looked: Vec<String> = now.map(|own| step.selector(own).into_owned()).collect();
        let mut seen = HashSet::new();
        looked.retain(|own| seen.insert(own.clone()));
        looked.truncate(6);
        tell("looks up", looked.join(", "));
        let added: Vec<String> = facts
            .adds
            .iter()
            .take(8)
            .map(|own| format!("{}{}", if own.is_id { "#" } else { "." }, own.name))
            .collect();
        tell("adds", added.join(", "));
        if step.inserts_scripts() {
            tell("inserts", "more scripts, or runs a text: what these do is not known here".to_owned());
        }
        if let Some(flaw) = facts.flaws.first() {
            tell("", format!("a browser cannot read it: {}", flaw.message));
        }
    } else if step.is_unread() {
        line("", FAINT, "not looked into: it is not among the files here");
    }
    for fault in all.faults.iter().filter(|fault| fault.step == at) {
        line("wrong", WRONG, &plain(&said(fault)));
    }
    drawn
}
