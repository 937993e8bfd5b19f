//! Findings about what a page gets twice: a library by two routes, a pin's text that was pasted
//! already.

use std::collections::BTreeMap;

use serde::Serialize;

use super::code::{Code, Severity};
use super::facts::{FactsByPage, SharedFact};
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{CodeKind, PinId};
use crate::page::PageAnalysis;
use crate::plan::{ExistingCopy, RecognisedBy};

pub(super) struct Twice;

/// Something that a page has by itself and the board would bring.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum DoubledCode {
    /// A copy of a library.
    Library(ExistingCopy),
    /// The text of a pin.
    Pin {
        /// The pin.
        pin: PinId,
        /// Its sheet or its script.
        kind: CodeKind,
        /// The line of the page that has it, or loads it.
        line: u32,
    },
}

impl Family for Twice {
    type Fact = DoubledCode;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<DoubledCode>) {
        // A copy that serves is told only where it is another version.
        let copies = page.page.copies().found.iter();
        let told = copies.filter(|copy| !copy.serves || copy.is_other_version());
        facts.extend(told.cloned().map(DoubledCode::Library));
        pasted(page.page, facts);
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<DoubledCode>, findings: &mut Vec<Finding>) {
        // The line is one of the first page, and told as such.
        let without_line = |fact: &DoubledCode| match fact.clone() {
            DoubledCode::Library(copy) => DoubledCode::Library(ExistingCopy { line: 0, ..copy }),
            DoubledCode::Pin { pin, kind, .. } => DoubledCode::Pin { pin, kind, line: 0 },
        };
        for shared in facts.shared(without_line) {
            findings.extend(match shared.first {
                DoubledCode::Library(copy) => Some(of_copy(input, copy, &shared)),
                DoubledCode::Pin { pin, kind, line } => of_pin(input, *pin, *kind, *line, &shared),
            });
        }
        of_libraries(input, findings);
    }
}

/// The pins whose text a page has by itself.
fn pasted(page: &PageAnalysis<'_>, facts: &mut Vec<DoubledCode>) {
    let plan = page.context().plan;
    for &pin in page.pins() {
        if let Some(script) =
            plan.pins[pin].script_file().filter(|script| !script.text.as_str().trim().is_empty())
        {
            let same = page
                .own_steps()
                .iter()
                .filter(|step| step.script().is_some_and(|own| own.file.is_like(script)));
            let kind = CodeKind::Script;
            facts.extend(same.map(|step| DoubledCode::Pin { pin, kind, line: step.line }));
        }
        let Some(style) = &plan.pins[pin].style else { continue };
        let mut wanted = style.file.text.as_str().split_whitespace().peekable();
        if wanted.peek().is_none() {
            continue;
        }
        let elements = page.document().elements().filter(|element| &*element.data().name.local == "style");
        let same = elements.filter(|element| {
            let text = page.document().text_of(element.id);
            text.split_whitespace().eq(wanted.clone())
        });
        let kind = CodeKind::Style;
        facts.extend(same.map(|element| DoubledCode::Pin {
            pin,
            kind,
            line: page.parsed().line_of(element),
        }));
    }
}

fn of_pin(
    input: &CheckInput<'_>,
    pin: PinId,
    kind: CodeKind,
    line: u32,
    shared: &SharedFact<'_, DoubledCode>,
) -> Option<Finding> {
    let board = &input.plan().board.pins[pin];
    let (file, follows) = match kind {
        CodeKind::Style => (board.style.as_ref()?, "it applies twice"),
        CodeKind::Script => (board.script.as_ref()?, "it runs twice"),
    };
    let paths = input.paths(shared.pages.iter().copied());
    let page = paths.first()?;
    let message =
        format!("the page has the text of this {kind} by itself (`{page}`, line {line}), so that {follows}");
    let finding = Finding::new(Code::Twice, input.on_board(file.span), message)
        .help("take it out of the page, or the pin off it with `skip`");
    Some(finding.pin(&board.name).pages(paths))
}

fn of_copy(input: &CheckInput<'_>, copy: &ExistingCopy, shared: &SharedFact<'_, DoubledCode>) -> Finding {
    let library = &input.plan().board.libraries[copy.library];
    let name = &*library.name;
    let shown = |version: &Option<_>| match version {
        Some(version) => format!(" {version}"),
        None => String::new(),
    };
    let (own, boards) = (shown(&copy.version), shown(&copy.board_version));
    let known = match copy.by {
        RecognisedBy::Selector => "by `present`",
        RecognisedBy::Text => "by its text",
        RecognisedBy::FileName => "by its name",
        RecognisedBy::Globals => "by what it defines",
    };
    let page = match &copy.address {
        Some(address) => format!("`{address}`, line {} of the page", copy.line),
        None => format!("line {} of the page", copy.line),
    };
    let (severity, message, help) = if copy.serves {
        let message =
            format!("the page's own copy of `{name}`{own} ({page}) is used, and not the board's{boards}");
        (Severity::Note, message, "write `present = \":not(*)\"` if the board's own is to come all the same")
    } else {
        let message = format!(
            "the page has a copy of `{name}`{own} by itself ({page}; known {known}), and gets the board's{boards} as well: both run"
        );
        (
            Severity::Warning,
            message,
            "take one of both away; a copy of the page's own is used where it comes before the pin and has the same major version",
        )
    };
    Finding::new(Code::Twice, input.on_board(library.name.span), message)
        .severity(severity)
        .help(help)
        .pages(input.paths(shared.pages.iter().copied()))
}

/// Libraries of the board that load the same.
fn of_libraries(input: &CheckInput<'_>, findings: &mut Vec<Finding>) {
    let board = input.plan().board;
    let mut seen: BTreeMap<&str, &str> = BTreeMap::new();
    for library in &board.libraries {
        for source in library.styles.iter().chain(&library.scripts) {
            match seen.insert(source.value.as_str(), &library.name) {
                Some(other) if other != library.name.as_str() => {
                    let message = format!(
                        "the library `{}` loads this file, and so does `{other}`: a page with both gets it twice",
                        *library.name
                    );
                    let help = format!("let one need the other: `needs = [\"{other}\"]`");
                    findings.push(Finding::new(Code::Twice, input.on_board(source.span), message).help(help));
                }
                _ => {}
            }
        }
    }
}
