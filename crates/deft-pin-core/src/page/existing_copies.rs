//! The copies of a board's libraries that a page has by itself: how they are recognised.

use std::sync::LazyLock;

use regex::Regex;

use crate::code::{Address, CodeKind, LibraryId, PinId};
use crate::markup::{Assume, Matcher, Slot};
use crate::plan::{ExistingCopies, ExistingCopy, LibraryFile, Plan, RecognisedBy, Version};
use crate::script::{Execution, When};
use crate::site::{PageStep, ParsedPage};

/// What a page has by itself of the libraries that its pins need.
pub(super) fn existing_copies(
    plan: &Plan<'_>,
    pins: &[PinId],
    page: &ParsedPage<'_>,
    steps: &[PageStep],
) -> ExistingCopies {
    let mut copies = ExistingCopies::default();
    let place_of = |slot| page.document.slots().gap(slot).map_or(u32::MAX, |gap| gap.at);
    if pins.iter().any(|pin| plan.needs.forgotten(*pin).next().is_some()) {
        let foot = place_of(Slot::Foot);
        let before = steps.iter().filter(|step| is_before(step, foot));
        for facts in before.filter_map(PageStep::facts) {
            let now = facts.defines.iter().filter(|defined| defined.when == When::Now);
            copies.globals.extend(now.map(|defined| defined.name.clone()));
        }
    }
    for (library, slot) in plan.needed_libraries(pins, &copies.globals) {
        copies.found.extend(copies_of(plan, library, page, steps, place_of(slot)));
    }
    copies
}

fn is_before(step: &PageStep, at: u32) -> bool {
    step.timing.execution == Execution::Classic && step.at <= at
}

/// The copies that a page has of a library; `slot` is the byte of its text at which the board's own
/// would stand.
fn copies_of(
    plan: &Plan<'_>,
    library: LibraryId,
    page: &ParsedPage<'_>,
    steps: &[PageStep],
    slot: u32,
) -> Vec<ExistingCopy> {
    let copy = |step: &PageStep, kind, by| {
        let (version, board_version) = (version_of_step(step), version_of(plan, library, kind));
        let is_other =
            matches!((&version, &board_version), (Some(own), Some(boards)) if own.major() != boards.major());
        let is_there = match kind {
            CodeKind::Style => !step.timing.is_loose,
            CodeKind::Script => is_before(step, slot),
        };
        ExistingCopy {
            library,
            kind,
            by,
            address: step.address().map(str::to_owned),
            line: step.line,
            version,
            board_version,
            serves: is_there && (!is_other || by == RecognisedBy::Selector),
        }
    };
    if let Some(present) = &plan.board.libraries[library].present {
        let mut matcher = Matcher::new();
        let shown = page.document.elements().find(|e| matcher.matches_any(&present.list, *e, Assume::May));
        let Some(shown) = shown else { return Vec::new() };
        let step = steps.iter().find(|step| step.at == shown.data().start());
        let of_kind = |kind| match step.filter(|step| step.kind() == kind) {
            Some(step) => copy(step, kind, RecognisedBy::Selector),
            None => ExistingCopy {
                library,
                kind,
                by: RecognisedBy::Selector,
                address: None,
                line: page.line_of(shown),
                version: None,
                board_version: None,
                serves: true,
            },
        };
        return CodeKind::ALL.map(of_kind).into();
    }
    let mut found = Vec::new();
    for kind in CodeKind::ALL {
        let running =
            steps.iter().filter(|step| step.timing.execution != Execution::Never && step.kind() == kind);
        let names = names_of(plan, library, kind);
        let is_whole = is_whole(plan, library, kind, steps);
        let recognised = running.filter_map(|step| {
            let by = if kind == CodeKind::Script && is_same_text(plan, library, step) {
                RecognisedBy::Text
            } else if step.address().is_some_and(|address| names.contains(&stem(address))) {
                RecognisedBy::FileName
            } else if kind == CodeKind::Script && defines_all(step, &plan.needs.globals[library]) {
                RecognisedBy::Globals
            } else {
                return None;
            };
            let mut copy = copy(step, kind, by);
            copy.serves &= is_whole || by == RecognisedBy::Globals;
            Some(copy)
        });
        // One that serves tells more than one that does not.
        let mut all: Vec<ExistingCopy> = recognised.collect();
        all.sort_by_key(|copy| !copy.serves);
        found.extend(all.into_iter().next());
    }
    found
}

/// The files of a library of one kind: what the board calls each, and what was read of it.
fn files_of<'p>(
    plan: &'p Plan<'_>,
    library: LibraryId,
    kind: CodeKind,
) -> impl Iterator<Item = (&'p str, &'p LibraryFile)> {
    let board = &plan.board.libraries[library];
    let sources = match kind {
        CodeKind::Style => &board.styles,
        CodeKind::Script => &board.scripts,
    };
    let addresses = sources.iter().map(|source| Address::as_str(&source.value));
    addresses.zip(plan.libraries[library].files(kind))
}

/// Whether a page has each of a library's files: one of several is no copy that serves.
fn is_whole(plan: &Plan<'_>, library: LibraryId, kind: CodeKind, steps: &[PageStep]) -> bool {
    files_of(plan, library, kind).all(|(address, file)| {
        let name = stem(address);
        let text = file.read().map(|file| file.text.as_str().trim());
        steps.iter().any(|step| {
            let is_same = step.script().is_some_and(|script| Some(script.file.text.as_str().trim()) == text);
            is_same || step.address().is_some_and(|address| stem(address) == name)
        })
    })
}

fn is_same_text(plan: &Plan<'_>, library: LibraryId, step: &PageStep) -> bool {
    let Some(script) = step.script() else { return false };
    let mut files = plan.libraries[library].scripts.iter().filter_map(LibraryFile::read);
    let text = script.file.text.as_str().trim();
    !text.is_empty() && files.any(|file| file.text.as_str().trim() == text)
}

fn defines_all(step: &PageStep, globals: &[String]) -> bool {
    let Some(facts) = step.facts().filter(|_| !globals.is_empty()) else { return false };
    globals.iter().all(|name| facts.defines.iter().any(|own| own.name == *name && own.when == When::Now))
}

/// The names by which a library's files are known, without those that say nothing.
fn names_of(plan: &Plan<'_>, library: LibraryId, kind: CodeKind) -> Vec<String> {
    let names = files_of(plan, library, kind).map(|(address, _)| stem(address));
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

/// How much of a file is looked at for the comment that says its version.
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
    let text = step.script().map(|script| script.file.text.as_str());
    version_in(step.address().unwrap_or_default(), text)
}

/// The version of a library's sheets or scripts, where their names or texts say it.
pub fn version_of(plan: &Plan<'_>, library: LibraryId, kind: CodeKind) -> Option<Version> {
    files_of(plan, library, kind)
        .find_map(|(address, file)| version_in(address, file.read().map(|file| file.text.as_str())))
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
