//! Findings about libraries that a page gets for nothing: no script there uses what they define, no
//! rule of theirs matches.

use std::sync::Arc;

use serde::Serialize;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, share};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{CodeKind, LibraryId, Origin, Owner};
use crate::markup::NamedPart;
use crate::page::PageAnalysis;
use crate::plan::Plan;
use crate::script::ScriptFile;
use crate::site::PageStep;
use crate::style::{Cascade, PageSheet, StyleRules, Viewport};

pub(super) struct UnusedLibraries;

/// A library that a page gets.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct LibraryUse {
    library: LibraryId,
    /// Whether nothing there uses its scripts.
    has_unused_script: bool,
    /// Whether no rule of its sheets matches there.
    has_unused_style: bool,
}

impl Family for UnusedLibraries {
    type Fact = LibraryUse;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<LibraryUse>) {
        for library in page.page.libraries() {
            let is_known = page.page.context().plan.libraries[library].is_known();
            facts.push(LibraryUse {
                library,
                has_unused_script: is_known && has_unused_script(page.page, library),
                has_unused_style: is_known && has_unused_style(page.page, library),
            });
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<LibraryUse>, findings: &mut Vec<Finding>) {
        for (id, all) in facts.by_subject(|own| own.library) {
            let library = &input.plan().board.libraries[id];
            let name = &*library.name;
            for kind in CodeKind::ALL {
                let is_unused = |own: &LibraryUse| match kind {
                    CodeKind::Style => own.has_unused_style,
                    CodeKind::Script => own.has_unused_script,
                };
                let pages = all.iter().filter(|(_, own)| is_unused(own)).map(|(page, _)| *page);
                let pages = input.paths(pages);
                if pages.is_empty() {
                    continue;
                }
                let where_unused = share(&pages, all.len());
                let (code, message) = match kind {
                    CodeKind::Script => (
                        Code::UnusedLibrary,
                        format!(
                            "no script uses what the library `{name}` defines {where_unused}, and it does nothing by itself: visitors load it for nothing"
                        ),
                    ),
                    CodeKind::Style => (
                        Code::UnusedStyle,
                        format!(
                            "no rule of the library `{name}` matches anything {where_unused}: visitors load its sheet for nothing"
                        ),
                    ),
                };
                findings.push(
                    Finding::new(code, input.on_board(library.name.span), message)
                        .help("narrow the pins that need it to the pages that use it: `pages`, `having`")
                        .pages(pages),
                );
            }
        }
    }
}

/// The steps of a page that are of a library, and those that are not.
fn is_of(library: LibraryId, step: &PageStep) -> bool {
    step.origin == Origin::Board(Owner::Library(library))
}

fn brings(page: &PageAnalysis<'_>, library: LibraryId, kind: CodeKind) -> bool {
    page.placements()
        .iter()
        .any(|placement| placement.code.owner == Owner::Library(library) && placement.code.kind == kind)
}

/// Whether a page gets scripts of a library, and nothing there uses what they define.
fn has_unused_script(page: &PageAnalysis<'_>, library: LibraryId) -> bool {
    let plan = page.context().plan;
    let globals = &plan.needs.globals[library];
    if globals.is_empty() || !brings(page, library, CodeKind::Script) {
        return false;
    }
    let acts = plan.libraries[library].script_facts().any(|(_, facts)| {
        facts.acts || !facts.looks_up.is_empty() || !facts.adds.is_empty() || !facts.flaws.is_empty()
    });
    let others = || page.steps().iter().filter(|step| !is_of(library, step));
    // What could not be read may use it.
    let is_broken = others().any(|step| step.facts().is_some_and(|facts| !facts.flaws.is_empty()))
        || leaning_on(plan, library).any(|other| !plan.libraries[other].is_known());
    let uses = |script: &Arc<ScriptFile>| globals.iter().any(|name| script.has_global(name));
    let is_used = || {
        others().any(|step| {
            step.kind() == CodeKind::Script && (step.hides_something() || step.scripts().any(uses))
        })
    };
    let in_handlers = || {
        let handlers = page.event_handlers().iter().map(|handler| handler.script.text.as_str());
        handlers.into_iter().any(|text| globals.iter().any(|name| text.contains(name.as_str())))
    };
    !acts && !is_broken && !is_used() && !in_handlers()
}

/// The libraries that come after one.
fn leaning_on<'p>(plan: &'p Plan<'_>, library: LibraryId) -> impl Iterator<Item = LibraryId> + 'p {
    let before = plan.needs.before.entries();
    before.filter(move |(_, needs)| needs.iter().any(|need| need.value == library)).map(|(id, _)| id)
}

/// Whether a page gets sheets of a library, and no rule of theirs matches there.
fn has_unused_style(page: &PageAnalysis<'_>, library: LibraryId) -> bool {
    let sheets = || page.context().sheets.of_library(library);
    let has_rules = || sheets().any(|sheet| !sheet.rules.is_empty());
    let shares = || sheets().any(|sheet| !sheet.definitions.is_empty() || !sheet.imports.is_empty());
    brings(page, library, CodeKind::Style)
        && has_rules()
        && !shares()
        && !sheets().any(|sheet| is_used(sheet, page))
}

/// Whether a rule of a sheet matches something, or may once scripts have added a name.
fn is_used(sheet: &Arc<StyleRules>, page: &PageAnalysis<'_>) -> bool {
    let sheets = [PageSheet::alone(Arc::clone(sheet))];
    let mut cascade = Cascade::new(page.document(), &sheets, Viewport::default(), Vec::new());
    if page.document().elements().any(|element| !cascade.matching(element).is_empty()) {
        return true;
    }
    let scripts = || page.steps().iter().flat_map(PageStep::scripts);
    sheet.names().keys().any(|name| {
        !matches!(name, NamedPart::Tag(_)) && scripts().any(|script| script.may_build(name.name()))
    })
}
