//! Findings about what a page gets twice: a library by two routes, a pin's text that was pasted
//! already.

use std::collections::BTreeMap;

use super::Ground;
use super::finding::{Code, Finding, Severity};
use crate::markup::Document;
use crate::plan::{OwnCopy, PartKind, Plan, Recognised};
use crate::site::{PageStep, SheetOrigin};
use crate::source::offset;

/// A pin's text that a page has by itself.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Pasted {
    /// The pin: its place in the board's list.
    pub pin: u32,
    /// Its sheet or its script.
    pub kind: PartKind,
    /// Where the page has it: a file, or its own.
    pub file: String,
    /// The line of the page that has it, or loads it.
    pub line: u32,
}

/// The pins whose text a page has by itself.
pub(super) fn pasted(
    plan: &Plan<'_>,
    held: &[usize],
    steps: &[PageStep],
    (text, document): (&str, &Document),
) -> Vec<Pasted> {
    let squeezed = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
    let mut found = Vec::new();
    let mut sheets: Option<Vec<(String, u32)>> = None;
    for &pin in held {
        let planned = &plan.pins[pin];
        let script = planned.script.as_ref().and_then(|file| file.script.as_ref());
        if let Some(script) = script.filter(|script| !script.text.as_str().trim().is_empty()) {
            let own = steps.iter().filter(|step| step.origin == SheetOrigin::Site);
            let same = own.filter(|step| step.script.as_ref().is_some_and(|own| own.is_like(script)));
            found.extend(same.map(|step| Pasted {
                pin: offset(pin),
                kind: PartKind::Script,
                file: step.file.clone(),
                line: step.line,
            }));
        }
        if let Some(style) = planned.style.as_ref().map(|style| squeezed(style.file.text.as_str())) {
            let sheets = sheets.get_or_insert_with(|| {
                let elements = document.elements().filter(|element| &*element.name.local == "style");
                elements
                    .map(|own| (squeezed(&document.text_of(own.id)), document.position(own, text).line))
                    .collect()
            });
            let same = sheets.iter().filter(|(own, _)| *own == style && !style.is_empty());
            found.extend(same.map(|(_, line)| Pasted {
                pin: offset(pin),
                kind: PartKind::Style,
                file: String::new(),
                line: *line,
            }));
        }
    }
    found
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    of_copies(ground, findings);
    of_libraries(ground, findings);
    let mut found: BTreeMap<(u32, PartKind), (&Pasted, Vec<usize>)> = BTreeMap::new();
    for facts in ground.facts {
        for pasted in &facts.pasted {
            found.entry((pasted.pin, pasted.kind)).or_insert((pasted, Vec::new())).1.push(facts.page);
        }
    }
    for ((pin, kind), (pasted, pages)) in found {
        let pin = &ground.plan.board.pins[pin as usize];
        let (what, file) = match kind {
            PartKind::Style => ("sheet", &pin.style),
            PartKind::Script => ("script", &pin.script),
        };
        let Some(file) = file else { continue };
        let paths = ground.paths(pages);
        let page = paths.first().map(ToString::to_string).unwrap_or_default();
        let follows = if kind == PartKind::Style { "it applies twice" } else { "it runs twice" };
        let message = format!(
            "the page has the text of this {what} by itself (`{page}`, line {}), so that {follows}",
            pasted.line
        );
        findings.push(
            Finding::new(Code::Twice, Severity::Warning, ground.on_board(file.span), message)
                .help("take it out of the page, or the pin off it with `skip`")
                .pin(&pin.name)
                .pages(paths),
        );
    }
}

/// Copies that a page has of a library. One that serves is told only where it is another version.
fn of_copies(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let mut found: BTreeMap<(usize, &str, bool), (&OwnCopy, Vec<usize>)> = BTreeMap::new();
    for facts in ground.facts {
        for copy in &facts.copies.found {
            let is_other = matches!(&copy.versions, (Some(own), Some(boards)) if own != boards);
            if !copy.serves || is_other {
                let key = (copy.library, &*copy.file, copy.serves);
                found.entry(key).or_insert((copy, Vec::new())).1.push(facts.page);
            }
        }
    }
    for (copy, pages) in found.into_values() {
        let library = &ground.plan.board.libraries[copy.library];
        let name = &*library.name;
        let version = |version: &Option<_>| match version {
            Some(version) => format!(" {version}"),
            None => String::new(),
        };
        let (own, boards) = (version(&copy.versions.0), version(&copy.versions.1));
        let known = match copy.by {
            Recognised::Selector => "by `present`",
            Recognised::Text => "by its text",
            Recognised::FileName => "by its name",
            Recognised::Globals => "by what it defines",
        };
        let page = format!("`{}`, line {} of the page", copy.file, copy.line);
        let (severity, message, help) = if copy.serves {
            let message =
                format!("the page's own copy of `{name}`{own} ({page}) is used, and not the board's{boards}");
            (
                Severity::Note,
                message,
                "write `present = \":not(*)\"` if the board's own is to come all the same",
            )
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
        findings.push(
            Finding::new(Code::Twice, severity, ground.on_board(library.name.span), message)
                .help(help)
                .pages(ground.paths(pages)),
        );
    }
}

/// Libraries of the board that load the same.
fn of_libraries(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let board = ground.plan.board;
    let mut seen: BTreeMap<&str, &str> = BTreeMap::new();
    for library in &board.libraries {
        for source in library.styles.iter().chain(&library.scripts) {
            match seen.insert(source.value.address(), &library.name) {
                Some(other) if other != library.name.as_str() => {
                    let message = format!(
                        "the library `{}` loads this file, and so does `{other}`: a page with both gets it twice",
                        *library.name
                    );
                    let help = format!("let one need the other: `needs = [\"{other}\"]`");
                    findings.push(
                        Finding::new(Code::Twice, Severity::Warning, ground.on_board(source.span), message)
                            .help(help),
                    );
                }
                _ => {}
            }
        }
    }
}
