//! Libraries that a page gets for nothing: no script there uses what they define, no rule of
//! theirs matches.

use std::collections::BTreeMap;
use std::sync::Arc;

use super::Ground;
use super::finding::{Code, Finding, Severity, share};
use crate::markup::{Document, NamedPart};
use crate::plan::{Owner, PartKind, Plan, scripts_of};
use crate::site::{PageStep, ScriptFile, SheetOrigin};
use crate::source::offset;
use crate::style::{Cascade, PageSheet, StyleRules, Viewport};

/// A part of a library that a page gets for nothing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Spare {
    /// The library: its place in the board's list.
    pub library: u32,
    /// Its sheets or its scripts.
    pub kind: PartKind,
}

/// What of the libraries on a page nothing there uses. `sheet` gives a library's sheets.
pub(super) fn spare(
    plan: &Plan<'_>,
    steps: &[PageStep],
    document: &Document,
    sheets: &dyn Fn(usize) -> Vec<Arc<StyleRules>>,
) -> Vec<Spare> {
    let mut found = Vec::new();
    for (at, library) in plan.libraries.iter().enumerate().filter(|(_, library)| library.is_known()) {
        let origin = SheetOrigin::Library(plan.name_of(Owner::Library(at)).to_owned());
        let own = |kind| {
            let is_sheet = kind == PartKind::Style;
            steps.iter().any(|step| step.origin == origin && step.timing.execution.is_sheet() == is_sheet)
        };
        let others = || steps.iter().filter(|step| step.origin != origin);
        // What could not be read may use it.
        let is_broken = others().any(|step| step.facts().is_some_and(|facts| !facts.flaws.is_empty()))
            || leans_on(plan, at).any(|other| !plan.libraries[other].is_known());
        let mut add = |kind| found.push(Spare { library: offset(at), kind });
        if own(PartKind::Script) {
            let globals = &plan.needs.globals[at];
            let acts = scripts_of(library).any(|(_, facts)| {
                facts.acts || !facts.looks_up.is_empty() || !facts.adds.is_empty() || !facts.flaws.is_empty()
            });
            let is_used = others().any(|step| {
                let runs = !step.timing.execution.is_sheet();
                let uses = |script: &Arc<ScriptFile>| globals.iter().any(|name| script.has_word(name));
                runs && (step.hides_something() || step.script.iter().chain(&step.imported).any(uses))
            });
            if !is_broken && !acts && !globals.is_empty() && !is_used && !in_handlers(document, globals) {
                add(PartKind::Script);
            }
        }
        if own(PartKind::Style) {
            let sheets = sheets(at);
            let has_rules = sheets.iter().any(|sheet| !sheet.rules.is_empty());
            let shares =
                sheets.iter().any(|sheet| !sheet.definitions.is_empty() || !sheet.imports.is_empty());
            if has_rules && !shares && !sheets.iter().any(|sheet| is_used(sheet, steps, document)) {
                add(PartKind::Style);
            }
        }
    }
    found
}

/// The libraries that come after one.
fn leans_on<'p>(plan: &'p Plan<'_>, library: usize) -> impl Iterator<Item = usize> + 'p {
    let before = plan.needs.before.iter().enumerate();
    before.filter(move |(_, needs)| needs.iter().any(|need| need.value == library)).map(|(at, _)| at)
}

/// Whether an attribute for an event says one of some names.
fn in_handlers(document: &Document, globals: &[String]) -> bool {
    let mut handlers = document.elements().flat_map(|element| {
        let attributes = element.data().attrs.iter().filter(|own| own.name.local.starts_with("on"));
        attributes.map(|own| own.value.to_string()).collect::<Vec<_>>()
    });
    handlers.any(|text| globals.iter().any(|name| text.contains(name.as_str())))
}

/// Whether a rule of a sheet matches something, or may once scripts have added a name.
fn is_used(sheet: &Arc<StyleRules>, steps: &[PageStep], document: &Document) -> bool {
    let sheets = [PageSheet::alone(Arc::clone(sheet))];
    let mut cascade = Cascade::new(document, &sheets, Viewport::default(), Vec::new());
    if document.elements().any(|element| !cascade.matching(element).is_empty()) {
        return true;
    }
    let scripts = || steps.iter().flat_map(|step| step.script.iter().chain(&step.imported));
    sheet.names().keys().any(|name| {
        !matches!(name, NamedPart::Tag(_)) && scripts().any(|script| script.has_word(name.name()))
    })
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let mut found: BTreeMap<Spare, Vec<usize>> = BTreeMap::new();
    for facts in ground.facts {
        for spare in &facts.spare {
            found.entry(*spare).or_default().push(facts.page);
        }
    }
    for (spare, pages) in found {
        let at = spare.library as usize;
        let library = &ground.plan.board.libraries[at];
        let (pages, all) = (ground.paths(pages), ground.pages_with(at));
        let place = ground.on_board(library.name.span);
        let name = &*library.name;
        let finding = match spare.kind {
            PartKind::Script => {
                let message = format!(
                    "no script uses what the library `{name}` defines {}, and it does nothing by itself: visitors load it for nothing",
                    share(&pages, all)
                );
                Finding::new(Code::UnusedLibrary, Severity::Warning, place, message)
            }
            PartKind::Style => {
                let message = format!(
                    "no rule of the library `{name}` matches anything {}: visitors load its sheet for nothing",
                    share(&pages, all)
                );
                Finding::new(Code::UnusedStyle, Severity::Warning, place, message)
            }
        };
        findings.push(
            finding
                .help("narrow the pins that need it to the pages that use it: `pages`, `having`")
                .pages(pages),
        );
    }
}

impl Ground<'_> {
    /// On how many pages a library is.
    fn pages_with(&self, library: usize) -> usize {
        let with = self.facts.iter().filter(|facts| facts.libraries.contains(&offset(library)));
        with.count()
    }
}
