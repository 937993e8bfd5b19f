//! The pins that are on a page, and the copies of their libraries that it has by itself.

use std::sync::LazyLock;

use regex::Regex;

use super::copies::{Copies, OwnCopy, Recognised, Version};
use super::key::PartKind;
use super::part::{LibraryPart, PlannedLibrary};
use super::placement::Plan;
use super::sheets::PlannedSheets;
use crate::markup::{Assume, Document, Matcher, Slot};
use crate::script::{Execution, When};
use crate::site::{Page, PageStep, ScriptFiles, Site, page_steps};
use crate::source::Files;

/// What a page has of the libraries that some pins need. `steps` are the page's own.
pub fn copies_on(plan: &Plan<'_>, pins: &[usize], steps: &[PageStep], page: (&str, &Document)) -> Copies {
    let document = page.1;
    let mut copies = Copies { found: Vec::new(), globals: Vec::new() };
    if pins.iter().any(|pin| plan.needs.forgotten(*pin).next().is_some()) {
        let foot = document.slots().gap(Slot::Foot).map_or(u32::MAX, |gap| gap.at);
        for facts in steps.iter().filter(|step| is_before(step, foot)).filter_map(PageStep::facts) {
            let now = facts.defines.iter().filter(|own| own.when == When::Now);
            copies.globals.extend(now.map(|own| own.name.clone()));
        }
    }
    for (library, slot) in plan.library_slots(pins, &copies.globals) {
        let at = document.slots().gap(slot).map_or(u32::MAX, |gap| gap.at);
        copies.found.extend(copy_of(plan, library, at, steps, page));
    }
    copies
}

/// The pins that are on a page, and what it has by itself of what they need.
pub fn held_on(
    plan: &Plan<'_>,
    page: &Page,
    (text, document): (&str, &Document),
    place: (&dyn Files, &Site),
    known: &ScriptFiles,
) -> (Vec<usize>, Copies) {
    let held = PlannedSheets::held(plan, &page.path, document);
    let steps = match plan.brings_libraries(&held) {
        true => page_steps((text, document), page, place, known),
        false => Vec::new(),
    };
    let copies = copies_on(plan, &held, &steps, (text, document));
    (held, copies)
}

fn is_before(step: &PageStep, at: u32) -> bool {
    step.timing.execution == Execution::Classic && step.at <= at
}

fn copy_of(
    plan: &Plan<'_>,
    at: usize,
    slot: u32,
    steps: &[PageStep],
    (text, document): (&str, &Document),
) -> Vec<OwnCopy> {
    let board = &plan.board.libraries[at];
    let planned = &plan.libraries[at];
    let globals = &plan.needs.globals[at];
    let mut found = Vec::new();
    let copy = |step: &PageStep, kind, by| {
        let versions = (version_of_step(step), version_of(plan, at, kind));
        let is_other = matches!(&versions, (Some(own), Some(boards)) if own.major() != boards.major());
        let is_there = match kind {
            PartKind::Style => !step.timing.is_loose,
            PartKind::Script => is_before(step, slot),
        };
        let (file, line) = (step.file.clone(), step.line);
        OwnCopy {
            library: at,
            kind,
            by,
            file,
            line,
            versions,
            serves: is_there && (!is_other || by == Recognised::Selector),
        }
    };
    if let Some(present) = &board.present {
        let mut matcher = Matcher::new();
        let shown = document.elements().find(|e| matcher.matches_any(&present.list, *e, Assume::May));
        if let Some(shown) = shown {
            let step = steps.iter().find(|step| step.at == shown.data().start());
            for kind in [PartKind::Style, PartKind::Script] {
                found.push(
                    match step.filter(|step| step.timing.execution.is_sheet() == (kind == PartKind::Style)) {
                        Some(step) => copy(step, kind, Recognised::Selector),
                        None => OwnCopy {
                            library: at,
                            kind,
                            by: Recognised::Selector,
                            file: String::new(),
                            line: document.position(shown, text).line,
                            versions: (None, None),
                            serves: true,
                        },
                    },
                );
            }
        }
        return found;
    }
    for kind in [PartKind::Style, PartKind::Script] {
        let own = steps.iter().filter(|step| {
            step.timing.execution != Execution::Never
                && step.timing.execution.is_sheet() == (kind == PartKind::Style)
        });
        let names = names_of(plan, at, kind);
        let is_whole = is_whole(plan, at, kind, steps);
        let recognised = own.filter_map(|step| {
            let by = if kind == PartKind::Script && is_same_text(planned, step) {
                Recognised::Text
            } else if !step.is_inline && names.contains(&stem(&step.file)) {
                Recognised::FileName
            } else if kind == PartKind::Script && defines_all(step, globals) {
                Recognised::Globals
            } else {
                return None;
            };
            let mut copy = copy(step, kind, by);
            copy.serves &= is_whole || by == Recognised::Globals;
            Some(copy)
        });
        // One that serves tells more than one that does not.
        let mut all: Vec<OwnCopy> = recognised.collect();
        all.sort_by_key(|copy| !copy.serves);
        found.extend(all.into_iter().next());
    }
    found
}

/// The files of a library of one kind: what the board calls each, and what was read of it.
fn files_of<'p>(
    plan: &'p Plan<'_>,
    at: usize,
    kind: PartKind,
) -> impl Iterator<Item = (&'p str, &'p LibraryPart)> {
    let (library, planned) = (&plan.board.libraries[at], &plan.libraries[at]);
    let (sources, parts) = match kind {
        PartKind::Style => (&library.styles, &planned.styles),
        PartKind::Script => (&library.scripts, &planned.scripts),
    };
    sources.iter().map(|source| source.value.address()).zip(parts)
}

/// Whether a page has each of a library's files: one of several is no copy that serves.
fn is_whole(plan: &Plan<'_>, at: usize, kind: PartKind, steps: &[PageStep]) -> bool {
    files_of(plan, at, kind).all(|(address, part)| {
        let name = stem(address);
        let text = part.local().map(|file| file.text.as_str().trim());
        steps.iter().any(|step| {
            let is_same =
                step.script.as_ref().is_some_and(|script| Some(script.text.as_str().trim()) == text);
            is_same || (!step.is_inline && stem(&step.file) == name)
        })
    })
}

fn is_same_text(library: &PlannedLibrary, step: &PageStep) -> bool {
    let Some(script) = &step.script else { return false };
    let mut files = library.scripts.iter().filter_map(LibraryPart::local);
    let text = script.text.as_str().trim();
    !text.is_empty() && files.any(|file| file.text.as_str().trim() == text)
}

fn defines_all(step: &PageStep, globals: &[String]) -> bool {
    let Some(facts) = step.facts().filter(|_| !globals.is_empty()) else { return false };
    globals.iter().all(|name| facts.defines.iter().any(|own| own.name == *name && own.when == When::Now))
}

/// The names by which a library's files are known, without those that say nothing.
fn names_of(plan: &Plan<'_>, at: usize, kind: PartKind) -> Vec<String> {
    let names = files_of(plan, at, kind).map(|(address, _)| stem(address));
    names.filter(|name| name.len() > 1 && !GENERIC.contains(&name.as_str())).collect()
}

/// Names of files that many have.
const GENERIC: &[&str] = &[
    "all", "app", "browser", "bundle", "common", "core", "custom", "dist", "global", "index", "init", "lib",
    "main", "page", "plugin", "plugins", "script", "scripts", "site", "style", "styles", "theme", "util",
    "utils", "vendor",
];

static TRIMMINGS: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(
        r"(?i)(?:[-._@]v?\d+(?:\.\d+)*|[-._](?:min|slim|umd|iife|bundle|prod|production|[0-9a-f]{8,}))$",
    )
    .ok()
});

/// What a library's file is called, without version, kind and the like: `tidegraph` for
/// `https://…/tidegraph-2.4.1.min.js?x`.
fn stem(address: &str) -> String {
    let path = address.split(['?', '#']).next().unwrap_or_default();
    let name = path.rsplit('/').next().unwrap_or_default().to_ascii_lowercase();
    let name = [".js", ".mjs", ".css"].iter().find_map(|end| name.strip_suffix(end)).unwrap_or(&name);
    let mut name = name.to_owned();
    while let Some(trimmed) = TRIMMINGS.as_ref().and_then(|all| all.find(&name)).filter(|own| own.start() > 0)
    {
        name.truncate(trimmed.start());
    }
    name
}

/// Execution much of a file is looked at for the comment that says its version.
const BANNER: usize = 300;

fn version_in(address: &str, text: Option<&str>) -> Option<Version> {
    // The host of an address may look like a version.
    let path =
        address.split_once("://").map_or(address, |(_, rest)| rest.split_once('/').map_or("", |cut| cut.1));
    Version::in_text(path).or_else(|| {
        let text = text?.trim_start();
        let start =
            text.get(..BANNER.min(text.len())).or_else(|| text.get(..text.floor_char_boundary(BANNER)))?;
        let comment = start.starts_with("/*").then(|| start.split("*/").next()).flatten();
        let line = || start.starts_with("//").then(|| start.lines().next()).flatten();
        Version::in_text(comment.or_else(line)?)
    })
}

fn version_of_step(step: &PageStep) -> Option<Version> {
    let address = if step.is_inline { "" } else { &step.file };
    version_in(address, step.script.as_ref().map(|script| script.text.as_str()))
}

fn version_of(plan: &Plan<'_>, at: usize, kind: PartKind) -> Option<Version> {
    files_of(plan, at, kind)
        .find_map(|(address, part)| version_in(address, part.local().map(|file| file.text.as_str())))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_are_known_by_their_stems_and_versions() {
        let table = [
            ("vendor/tidegraph.js", "tidegraph", ""),
            ("https://cdn.9.example/tidegraph@2.4.1/dist/tidegraph.min.js?x=1.2", "tidegraph", "2.4.1"),
            ("js/tidegraph-3.0.min.js", "tidegraph", "3.0"),
            ("js/tide-graph.bundle.1a2b3c4d5e.js", "tide-graph", ""),
            ("js/3.js", "3", ""),
            ("a/b.v12.1.css", "b", "12.1"),
        ];
        for (address, name, version) in table {
            let found = version_in(address, None).map(|own| own.to_string()).unwrap_or_default();
            assert_eq!((stem(address).as_str(), found.as_str()), (name, version), "{address}");
        }
        let banner = version_in("tide.js", Some("\n/*! Tide v1.9.2 | MIT */\n(function () {})()"));
        assert_eq!(banner.map(|own| own.to_string()).as_deref(), Some("1.9.2"));
        assert_eq!(version_in("tide.js", Some("var a = 1.5")), None);
    }
}
