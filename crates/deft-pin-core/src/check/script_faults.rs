//! Findings about the scripts of pins and libraries on a page's timeline.

use serde::Serialize;

use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use super::run_fault_words::{import_words, run_fault_words, what_follows};
use super::script_fault::{Asker, FaultKind, OtherDefiner};
use super::timeline_faults::{FaultScope, timeline_faults};
use crate::board::ScriptLoad;
use crate::code::{CodeKind, LibraryId, Owner};
use crate::page::version_of;
use crate::plan::{CodeKey, Plan, Version};
use crate::script::{Certainty, RunFaultKind, When, is_browser_global};
use crate::site::PageStep;
use crate::source::Span;

pub(super) struct ScriptFaults;

/// Stands for what is in the page itself: on each page that is another file, and what is said of it is the same.
const OF_PAGE: &str = "";

/// What does not work out for a script of the board on a page.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct ScriptFault {
    /// The script.
    code: CodeKey,
    /// Where in it.
    span: Span,
    /// How certain it is that the script comes there.
    certainty: Certainty,
    /// What. Other scripts are named by their files.
    kind: FaultKind<String>,
}

impl Family for ScriptFaults {
    type Fact = ScriptFault;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<ScriptFault>) {
        let plan = page.page.context().plan;
        let has_script = page.page.pins().iter().any(|pin| plan.pins[*pin].script.is_some());
        let brings_script =
            || page.page.libraries().iter().any(|own| !plan.libraries[*own].scripts.is_empty());
        if !has_script && !brings_script() {
            return;
        }
        let steps = page.page.steps();
        let file = &page.page.page().file;
        for fault in timeline_faults(page.page, FaultScope::Board) {
            let Some(code) = key_of(plan, &steps[fault.step]) else { continue };
            let name_of = |step: usize| match steps[step].address() {
                None => OF_PAGE.to_owned(),
                Some(_) => steps[step].file_name(file).to_owned(),
            };
            let kind = fault.kind.with_steps(name_of);
            facts.push(ScriptFault { code, span: fault.span, certainty: fault.certainty, kind });
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<ScriptFault>, findings: &mut Vec<Finding>) {
        // A circle has one cause, and is told as such.
        let is_circular = |fault: &ScriptFault| {
            let mut circular = input.plan().needs.circular.iter();
            circular.any(|need| need.owner == fault.code.owner && need.span == fault.span)
        };
        let all = facts
            .shared(|fault| (fault.code, fault.span, fault.certainty, fault.kind.clone().without_examples()));
        // Two versions are told once, of the later library.
        let is_told_of_other = |fault: &ScriptFault| match (&fault.kind, fault.code.owner) {
            (FaultKind::Overwrites { by: OtherDefiner::Step(by), .. }, Owner::Library(own)) => {
                versions(input, fault.code.owner, by).is_some_and(|(other, ..)| own < other)
            }
            _ => false,
        };
        let is_told = |fault: &ScriptFault| !is_circular(fault) && !is_told_of_other(fault);
        for shared in all.into_iter().filter(|shared| is_told(shared.first)) {
            let fault = shared.first;
            let Some(file) = input.plan().code(fault.code).and_then(|code| code.file()) else { continue };
            let place = Place::new(&file.path, &file.text, fault.span);
            // What is not on some pages of a pin may well be for the others.
            let is_empty = matches!(
                fault.kind,
                FaultKind::Runs(RunFaultKind::EmptySet { .. } | RunFaultKind::HandedOver { .. })
            );
            let pin = fault.code.owner.pin().filter(|_| is_empty);
            if pin.is_some_and(|pin| shared.pages.len() < input.count_of_pages(pin)) {
                continue;
            }
            let file = shared.pages.first().map(|page| &input.site().pages[*page].file);
            let paths = input.paths(shared.pages);
            // A line is one of the first page.
            let (of_page, itself) = match (paths.as_slice(), file) {
                ([first, _, ..], _) => (format!("of `{first}`"), "the page itself".to_owned()),
                (_, file) => {
                    ("of the page".to_owned(), file.map_or_else(String::new, |file| format!("`{file}`")))
                }
            };
            let finding = told(input, fault, place, (&of_page, &itself)).pages(paths);
            findings.push(match fault.code.owner {
                Owner::Pin(pin) => finding.pin(input.pin_name(pin)),
                Owner::Library(_) => finding,
            });
        }
    }
}

/// Which script of the board a step is.
fn key_of(plan: &Plan<'_>, step: &PageStep) -> Option<CodeKey> {
    let owner = match step.origin {
        crate::code::Origin::Board(owner) => owner,
        _ => return None,
    };
    let key = |number| CodeKey { owner, kind: CodeKind::Script, number };
    match owner {
        Owner::Pin(_) => Some(key(0)),
        Owner::Library(library) => {
            let mut numbered = (0..).zip(&plan.libraries[library].scripts);
            let is_it = |file: &crate::plan::LibraryFile| {
                file.read().is_some_and(|file| Some(file.path.as_str()) == step.address())
            };
            numbered.find(|(_, file)| is_it(file)).map(|(number, _)| key(number))
        }
    }
}

fn told(
    input: &CheckInput<'_>,
    fault: &ScriptFault,
    place: Place,
    (of_page, itself): (&str, &str),
) -> Finding {
    let (kind, severity) = (&fault.kind, fault.kind.severity(fault.certainty));
    let named = |by: &String| if by == OF_PAGE { itself.to_owned() } else { format!("`{by}`") };
    let finding = |message: String| Finding::new(kind.code(), place.clone(), message).severity(severity);
    let then =
        |when: When| what_follows(if when == When::Now { fault.certainty } else { Certainty::SomeVisit });
    match kind {
        FaultKind::Missing { name, when, near } => {
            let message = format!("nothing on the page defines `{name}`, {}", then(*when));
            let finding = finding(message);
            match (library_with(input, name), near) {
                (Some(library), _) => {
                    finding.help(format!("the library `{library}` defines it: add it to `needs`"))
                }
                (None, _) if pin_with(input, name).is_some() => {
                    let pin = pin_with(input, name).unwrap_or_default();
                    finding.help(format!("the pin `{pin}` keeps it to itself: let it `share = [\"{name}\"]`"))
                }
                (None, Some(near)) => finding.help(format!("did you mean `{near}`?")),
                (None, None) => {
                    finding.help("bring in the library that defines it, or ask for it first: `typeof` tells")
                }
            }
        }
        FaultKind::Late { name, by } => {
            let message = format!(
                "`{name}` is defined by {}, which comes later on the page, so the script stops here",
                named(by)
            );
            let help = match (library_with(input, name), loaded_by(input, by)) {
                (_, Some((library, load))) => format!(
                    "take `load = \"{load}\"` off the library `{library}`, or wait for the page: `DOMContentLoaded`"
                ),
                (Some(library), None) => format!("put `{library}` into `needs`, so that it comes first"),
                (None, None) => "use a later slot, or wait for the page: `DOMContentLoaded`".to_owned(),
            };
            finding(message).help(help)
        }
        FaultKind::Race { name, by } => {
            let message = format!(
                "`{name}` is defined by {}, which runs whenever it is there: before this script or after it, and then the script stops here",
                named(by)
            );
            match loaded_by(input, by) {
                Some((library, load)) => finding(message).help(format!(
                    "take `load = \"{load}\"` off the library `{library}`, or wait for the event `load`"
                )),
                None => finding(message).help("take `async` away there, or wait for `load`"),
            }
        }
        FaultKind::Early { selector, line } => {
            let message = format!(
                "`{selector}` is looked up before it is there (it begins on line {line} {of_page}), {}",
                then(When::Now)
            );
            finding(message)
                .help("use the slot `foot`, wait for `DOMContentLoaded`, or ask whether it was found")
        }
        FaultKind::Made { selector, name, by } => {
            let message = format!(
                "`{selector}` is not on the page as it is served: `{name}` is added at run time by {}, which nothing puts before this",
                named(by)
            );
            finding(message).help("look it up once it is there, or ask whether it was found")
        }
        FaultKind::Unshared { name, by } => {
            let asks = match by {
                Asker::EventHandler { attribute, line } => format!("`{attribute}` on line {line} {of_page}"),
                Asker::Step(file) => named(file),
            };
            let message =
                format!("{asks} asks for `{name}`, which stays in this script, so that fails there");
            finding(message).help(format!("let the page have it: `share = [\"{name}\"]`"))
        }
        FaultKind::Overwrites { name, by: OtherDefiner::Step(by) } if is_handler(name) => {
            let event = &name[2..];
            let message =
                format!("{} sets `{name}` too, and only the one that is set last is called", named(by));
            finding(message).help(format!("use `addEventListener(\"{event}\", …)`: then both are called"))
        }
        FaultKind::Overwrites { name, by: OtherDefiner::Step(by) }
            if let Some((_, own, other)) = versions(input, fault.code.owner, by) =>
        {
            let message = format!(
                "this is version {own} of what `{by}` brings as version {other}: whichever runs last is what everybody finds as `{name}`"
            );
            finding(message).help("keep one of the two libraries, and let the pins of both need that one")
        }
        FaultKind::Overwrites { name, by: OtherDefiner::Step(by) } => {
            let message =
                format!("{} defines `{name}` too: whichever runs last is what both find there", named(by));
            finding(message).help("give it a name of your own, or keep what is there: `x = x || …`")
        }
        FaultKind::Overwrites { name, by: OtherDefiner::Browser } => {
            let message =
                format!("`{name}` is the browser's own, and every script on the page gets this one instead");
            finding(message).help("give it a name of your own")
        }
        FaultKind::DeclaredTwice { name, by, comes_first } => {
            let message = match comes_first {
                true => {
                    format!("{} declares `{name}` before, so a browser runs none of this script", named(by))
                }
                false => {
                    format!(
                        "{} declares `{name}` too, after this, so a browser runs none of that script",
                        named(by)
                    )
                }
            };
            finding(message).help("bring in one of them only, or give one another name: with `let`, `const` and `class` a name is declared once")
        }
        FaultKind::Runs(kind) => {
            let words = run_fault_words(kind, fault.certainty);
            match words.help {
                Some(help) => finding(words.message).help(help),
                None => finding(words.message),
            }
        }
        FaultKind::Import { module, kind } => {
            let words = import_words(module.as_deref(), kind);
            let finding = finding(words.message);
            match words.help {
                Some(help) => finding.help(help),
                None => finding,
            }
        }
        FaultKind::UnknownName { name, near, in_rule } => {
            let knows = if *in_rule { "a rule has" } else { "the page has" };
            let message = format!(
                "this adds `{name}`, which no rule, element or script on the page knows; {knows} `{near}`"
            );
            finding(message).help(format!("did you mean `{near}`?"))
        }
        FaultKind::Lost { selector, when, name, near } => {
            let message = format!("`{selector}` finds nothing on the page, {}", then(*when));
            let finding = finding(message);
            match (name, near) {
                (Some(name), Some(near)) => {
                    finding.help(format!("there is no `{name}`; did you mean `{near}`?"))
                }
                _ => finding.help("ask whether it was found, or narrow the pin to pages that have it"),
            }
        }
    }
}

/// The library of the board that an address is a script of, where the page does not wait for it.
fn loaded_by<'g>(input: &CheckInput<'g>, address: &str) -> Option<(&'g str, &'static str)> {
    let mut libraries = input.plan().board.libraries.iter();
    let library = libraries.find(|library| {
        library.load != ScriptLoad::Blocking
            && library.scripts.iter().any(|source| source.value.as_str() == address)
    })?;
    Some((&library.name, library.load.name()))
}

/// For a library of the board that brings what another one brings, that one, with both versions where they are known.
fn versions(input: &CheckInput<'_>, owner: Owner, by: &str) -> Option<(LibraryId, Version, Version)> {
    let plan = input.plan();
    let other = plan
        .board
        .libraries
        .entries()
        .find(|(_, library)| library.scripts.iter().any(|source| source.value.as_str() == by));
    let version = |library| version_of(plan, library, CodeKind::Script);
    let (Owner::Library(own), (other, _)) = (owner, other?) else { return None };
    Some((other, version(own)?, version(other)?))
}

/// Whether a global of the browser is called when something happens.
fn is_handler(name: &str) -> bool {
    name.starts_with("on") && is_browser_global(name)
}

/// The pin of the board whose script declares a name and keeps it to itself.
fn pin_with<'g>(input: &CheckInput<'g>, name: &str) -> Option<&'g str> {
    let pin = input.plan().pins.find(|pin| {
        pin.script_facts().is_some_and(|facts| facts.keeps.iter().any(|(kept, _)| kept == name))
    })?;
    Some(input.pin_name(pin))
}

/// The library of the board that defines a global.
fn library_with<'g>(input: &CheckInput<'g>, name: &str) -> Option<&'g str> {
    let library = input.plan().libraries.find(|library| {
        let mut defined = library.script_facts().flat_map(|(_, facts)| &facts.defines);
        defined.any(|own| own.name == name && own.when != When::Later)
    })?;
    Some(&input.plan().board.libraries[library].name)
}
