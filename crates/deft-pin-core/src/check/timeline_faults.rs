//! What does not work out on a page's timeline: globals that nothing defines, or too late, or in a
//! race; elements that are looked up before they are there, or that are not there at all.

use rustc_hash::FxHashMap;

use super::declared_twice::declared_twice;
use super::name_mismatch::unknown_names;
use super::not_shared::unshared_names;
use super::overwrites::overwrites;
use super::script_fault::{FaultKind, StepFault};
use crate::board::Start;
use crate::code::{CodeKind, Origin};
use crate::markup::{Assume, Document, Matcher, NamedPart, names_in, parse_selectors};
use crate::page::PageAnalysis;
use crate::script::{Certainty, Execution, GlobalUse, LookUp, ScriptFacts, ScriptKind, When};
use crate::site::PageStep;
use crate::source::{Span, nearest};

/// How many globals a page may have for the nearest of them to be looked for.
const FEW: usize = 3000;

/// Whose scripts are looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FaultScope {
    /// Those of the board alone.
    Board,
    /// All of the page.
    Page,
}

/// Who on a page defines what.
pub(super) struct Definers<'p> {
    /// The steps that define a global, in the order of the document.
    pub(super) steps: FxHashMap<&'p str, Vec<usize>>,
    /// The steps that may define anything.
    hidden: Vec<usize>,
    /// Libraries of other hosts, of which the board says what they define.
    said: Vec<usize>,
}

impl<'p> Definers<'p> {
    fn of(page: &'p PageAnalysis<'_>, steps: &'p [PageStep]) -> Self {
        let mut definers = Definers { steps: FxHashMap::default(), hidden: Vec::new(), said: Vec::new() };
        let globals = &page.context().plan.needs.globals;
        for (at, step) in steps.iter().enumerate() {
            let said = step.origin.library().filter(|_| step.is_unread()).map(|library| &globals[library]);
            let said = said.filter(|said| !said.is_empty() && step.kind() == CodeKind::Script);
            let defined = step.all_facts().flat_map(|facts| &facts.defines).map(|own| own.name.as_str());
            for name in defined.chain(said.into_iter().flatten().map(String::as_str)) {
                let known = definers.steps.entry(name).or_default();
                if known.last() != Some(&at) {
                    known.push(at);
                }
            }
            if said.is_some() {
                definers.said.push(at);
            } else if step.may_define_anything() {
                definers.hidden.push(at);
            }
        }
        definers
    }

    /// The first of those that may define anything, where each is a library of the board that the page does not wait
    /// for: what nothing else defines comes from there, if it comes at all.
    fn not_awaited(&self, steps: &[PageStep], at: usize) -> Option<usize> {
        let is_not_awaited = |by: &&usize| {
            let step = &steps[**by];
            step.origin.library().is_some()
                && step.is_unread()
                && matches!(step.timing.execution, Execution::Async | Execution::Defer)
        };
        let others = || self.hidden.iter().filter(|by| **by != at);
        others().all(|by| is_not_awaited(&by)).then(|| others().next().copied()).flatten()
    }
}

/// What does not work out on a page.
pub fn timeline_faults(page: &PageAnalysis<'_>, scope: FaultScope) -> Vec<StepFault> {
    let steps = page.steps();
    let definers = Definers::of(page, steps);
    let mut found = Vec::new();
    let wanted = |step: &PageStep| scope == FaultScope::Page || step.origin != Origin::Site;
    let looker = Looker { page, steps };
    for (at, step) in steps.iter().enumerate().filter(|(_, step)| wanted(step)) {
        let Some(facts) = step.facts() else { continue };
        let unlinked = found.len();
        found.extend(import_faults(at, step));
        if found.len() > unlinked {
            continue;
        }
        if let Some(faults) = looker.run(at, &definers) {
            found.extend(faults);
            continue;
        }
        let fault = |span, when: When, kind: FaultKind<usize>| {
            let certainty = if when == When::Now { Certainty::Certain } else { Certainty::SomeVisit };
            StepFault { step: at, span, certainty, kind }
        };
        // What somebody else's library does later may never be asked of it.
        let is_told = |when: When| when == When::Now || step.origin.library().is_none();
        let first = found.len();
        for read in facts.reads.iter().filter(|read| !read.guarded && is_told(read.when)) {
            found.extend(looker.read(at, read, &definers).map(|kind| fault(read.span, read.when, kind)));
        }
        found.extend(looker.early_body(at).map(|(span, kind)| fault(span, When::Now, kind)));
        for looked in facts.looks_up.iter().filter(|looked| is_told(looked.when)) {
            found.extend(looker.look_up(at, looked).map(|kind| fault(looked.span, looked.when, kind)));
        }
        // Its text alone tells what it may come to; whether it does, only that it is run.
        if found.len() > first {
            let certain = looker.run_anyway(at, &definers);
            let happens = |fault: &StepFault| {
                certain.iter().any(|own| own.span == fault.span || own.kind == fault.kind)
            };
            let suspected = found.split_off(first);
            found.extend(suspected.into_iter().filter(happens));
        }
    }
    // Markup that comes later has handlers as well.
    let settled = has_late_handlers(page).then(|| page.settled()).flatten();
    found.extend(unshared_names(settled.as_ref().unwrap_or(page)));
    found.extend(overwrites(page));
    found.extend(declared_twice(page));
    found.extend(unknown_names(page));
    found.retain(|fault| wanted(&steps[fault.step]));
    found
}

/// What keeps a module from running in what it imports.
fn import_faults(at: usize, step: &PageStep) -> impl Iterator<Item = StepFault> {
    let flaws = step.script().into_iter().flat_map(|script| &script.import_flaws);
    flaws.map(move |flaw| {
        let module = flaw.module.as_ref().filter(|_| flaw.span.is_none()).map(ToString::to_string);
        let kind = FaultKind::Import { module, kind: flaw.kind.clone() };
        StepFault::of(at, flaw.span.unwrap_or_default(), kind)
    })
}

/// Whether markup that a pin of the page puts in later has code in attributes.
fn has_late_handlers(page: &PageAnalysis<'_>) -> bool {
    let pins = page.pins().iter().map(|pin| &page.context().plan.pins[*pin]);
    let mut late = pins.filter(|pin| pin.beginning.is_some()).flat_map(|pin| &pin.markup);
    late.any(|markup| !markup.codes.is_empty())
}

/// Looks at what scripts read and look up.
pub(super) struct Looker<'p> {
    pub(super) page: &'p PageAnalysis<'p>,
    pub(super) steps: &'p [PageStep],
}

/// Whether an element that a selector finds is on a page, as an answer says it.
pub fn is_found(selector: &str, document: &Document) -> Option<bool> {
    let list = parse_selectors(selector).ok()?;
    let mut matcher = Matcher::new();
    Some(document.elements().any(|element| matcher.matches_any(&list, element, Assume::May)))
}

impl Looker<'_> {
    pub(super) fn read(&self, at: usize, read: &GlobalUse, known: &Definers<'_>) -> Option<FaultKind<usize>> {
        if read.when == When::Perhaps {
            return None;
        }
        let is_later = |other: usize| read.when == When::Now && self.page.timeline().is_before(at, other);
        let waits_itself = self.begins_behind_page(at);
        let (mut definers, mut waiting) = (Vec::new(), Vec::new());
        // What cannot be looked into may define anything, unless it is certain to come later.
        let mut unclear = known.hidden.iter().any(|other| *other != at && !is_later(*other));
        let named = known.steps.get(read.name.as_str()).into_iter().flatten().copied();
        for other in named.filter(|other| *other != at) {
            if known.said.contains(&other) {
                definers.push(other);
                continue;
            }
            let defined = self.steps[other].all_facts().flat_map(|facts| &facts.defines);
            let earliest = defined.filter(|own| own.name == read.name).min_by_key(|own| own.when);
            match earliest.map(|own| (own.when, own.scheduled)) {
                Some((When::Now, _)) => definers.push(other),
                // What itself waits for something may well come behind it.
                Some((When::Later, true)) if !is_later(other) && !waits_itself => waiting.push(other),
                Some(_) => unclear = true,
                None => {}
            }
        }
        let own = &self.steps[at];
        // A script that it inserts by an address never runs before it has ended.
        unclear |=
            own.hides_something() || own.inserts_scripts() && (read.when != When::Now || own.inserts_code());
        // What it imports has run before it.
        let imported = own.script().into_iter().flat_map(|script| &script.imported);
        let mut defined = imported.flat_map(|module| &module.facts(ScriptKind::Module).defines);
        if defined.any(|defined| defined.name == read.name) {
            return None;
        }
        if definers.iter().any(|by| self.page.timeline().is_before(*by, at))
            || self.page.document().has_window_name(&read.name)
        {
            return None;
        }
        let name = read.name.clone();
        if definers.is_empty()
            && waiting.is_empty()
            && read.when == When::Now
            && self.may_be_not_awaited(at)
            && let Some(by) = known.not_awaited(self.steps, at)
        {
            // What nothing else defines has not come from there yet, where the script goes on at once.
            return Some(match self.page.timeline().is_before(at, by) {
                true => FaultKind::Late { name, by },
                false => FaultKind::Race { name, by },
            });
        }
        match (definers.first(), read.when) {
            // What runs later finds what has been defined by then, as far as anybody can tell.
            (Some(_), When::Later) => None,
            (Some(&by), _) if definers.iter().all(|by| self.page.timeline().is_before(at, *by)) => {
                (!unclear).then_some(FaultKind::Late { name, by })
            }
            (Some(&by), _) => (!unclear).then_some(FaultKind::Race { name, by }),
            // Who asks for the very name that a pin keeps to itself means that one.
            (None, _) if unclear && !self.is_kept(&name) => None,
            // What is defined once something happens may not have happened yet.
            (None, When::Later) if !waiting.is_empty() => None,
            (None, _) if !waiting.is_empty() => Some(FaultKind::Race { name, by: waiting[0] }),
            (None, when) => {
                // Of more names than anybody has, none is looked for.
                let few = (known.steps.len() <= FEW).then(|| {
                    let mut names: Vec<&str> = known.steps.keys().copied().collect();
                    names.sort_unstable();
                    nearest(&name, names).map(str::to_owned)
                });
                let near = few.flatten();
                Some(FaultKind::Missing { name, when, near })
            }
        }
    }

    /// Whether a step begins once its page has been parsed, and the page's own listeners for that have been called, or at a
    /// time that nothing settles.
    fn begins_behind_page(&self, at: usize) -> bool {
        let step = &self.steps[at];
        let pins = &self.page.context().plan.board.pins;
        let is_ready =
            step.origin.pin().is_some_and(|pin| matches!(pins[pin].start.value, Start::Now | Start::Ready));
        match step.timing.execution {
            Execution::Later => !is_ready,
            execution => execution == Execution::Inserted,
        }
    }

    /// Whether what a step reads at once may come from a library that the page does not wait for.
    fn may_be_not_awaited(&self, at: usize) -> bool {
        let step = &self.steps[at];
        step.origin.pin().is_some() && !step.hides_something() && !step.inserts_scripts()
    }

    /// Whether a pin's script declares a name and keeps it to itself.
    fn is_kept(&self, name: &str) -> bool {
        let mut kept = self.steps.iter().filter_map(PageStep::facts).flat_map(|facts| &facts.keeps);
        kept.any(|(own, _)| own == name)
    }

    pub(super) fn look_up(&self, at: usize, looked: &LookUp) -> Option<FaultKind<usize>> {
        let selector = self.steps[at].selector(looked).into_owned();
        let list = parse_selectors(&selector).ok()?;
        let mut matcher = Matcher::new();
        let first =
            self.page.document().elements().find(|element| matcher.matches_any(&list, *element, Assume::May));
        let Some(first) = first else {
            let names: Vec<NamedPart> = list.slice().iter().flat_map(names_in).collect();
            if names.iter().any(|name| self.is_announced(name.name())) {
                return None;
            }
            let maker = names.iter().find_map(|name| Some((self.maker(name)?, name)));
            let unclear = self.steps.iter().any(PageStep::hides_something);
            if unclear || looked.guarded {
                return None;
            }
            if let Some((by, name)) = maker {
                let is_in_time =
                    by == at || self.page.timeline().is_before(by, at) || looked.when != When::Now;
                let name = name.to_string();
                return (!is_in_time).then_some(FaultKind::Made { selector, by, name });
            }
            let absent = names.iter().find(|name| !self.page.names().has(name));
            let near = absent.and_then(|name| self.page.names().near(name));
            return Some(FaultKind::Lost {
                selector,
                when: looked.when,
                name: absent.map(ToString::to_string),
                near,
            });
        };
        let step = &self.steps[at];
        let is_early = looked.when == When::Now
            && step.timing.execution == Execution::Classic
            && first.data().start() >= step.at
            && !looked.guarded;
        let line = self.page.parsed().line_of(first);
        is_early.then_some(FaultKind::Early { selector, line })
    }

    /// A script that uses the body before it is there.
    fn early_body(&self, at: usize) -> Option<(Span, FaultKind<usize>)> {
        let step = &self.steps[at];
        let span = step.facts()?.needs_body?;
        let body = self.page.document().body()?;
        let is_early = step.timing.execution == Execution::Classic && body.data().start() >= step.at;
        let line = self.page.parsed().line_of(body);
        is_early.then(|| (span, FaultKind::Early { selector: "body".to_owned(), line }))
    }

    /// The step whose script adds a name to the page.
    pub(super) fn maker(&self, name: &NamedPart) -> Option<usize> {
        let is_id = matches!(name, NamedPart::Id(_));
        self.steps.iter().position(|step| {
            let adds = |facts: &ScriptFacts| {
                facts.adds.iter().any(|added| added.name == name.name() && added.is_id == is_id)
            };
            step.all_facts().any(adds)
        })
    }

    /// Whether the author of a pin on the page says that scripts add a name.
    pub(super) fn is_announced(&self, name: &str) -> bool {
        let pins = &self.page.context().plan.board.pins;
        self.page.pins().iter().any(|pin| pins[*pin].adds.iter().any(|added| added == name))
    }
}
