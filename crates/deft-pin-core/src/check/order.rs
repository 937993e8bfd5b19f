//! What does not work out on a page's timeline: globals that nothing defines, or too late, or in a
//! race; elements that are looked up before they are there, or that are not there at all.

use rustc_hash::FxHashMap;

use super::kept::kept;
use super::names::unknown_names;
use super::overwrites::overwrites;
use super::trouble::{Scene, Trouble, TroubleKind};
use crate::markup::{Assume, Matcher};
use crate::markup::{Document, NamedPart, names_in, parse_selectors};
use crate::script::{Execution, GlobalUse, LookUp, ScriptFacts, ScriptKind, When};
use crate::site::{PageStep, SheetOrigin};
use crate::source::{Span, nearest};

/// Execution many globals a page may have for the nearest of them to be looked for.
const FEW: usize = 3000;

/// Who on a page defines what.
struct Definers<'p> {
    /// The steps that define a global, in the order of the document.
    steps: FxHashMap<&'p str, Vec<usize>>,
    /// The steps that may define anything.
    hidden: Vec<usize>,
}

impl<'p> Definers<'p> {
    fn of(steps: &'p [PageStep]) -> Self {
        let mut definers = Definers { steps: FxHashMap::default(), hidden: Vec::new() };
        for (at, step) in steps.iter().enumerate() {
            for own in step.all_facts().flat_map(|facts| &facts.defines) {
                let known = definers.steps.entry(own.name.as_str()).or_default();
                if known.last() != Some(&at) {
                    known.push(at);
                }
            }
            if step.may_define_anything() {
                definers.hidden.push(at);
            }
        }
        definers
    }
}

/// What does not work out on a page.
pub fn troubles(page: &Scene<'_>) -> Vec<Trouble> {
    let definers = Definers::of(page.steps);
    let mut found = Vec::new();
    let wanted = |step: &&PageStep| !page.of_board || step.origin != SheetOrigin::Site;
    for (at, step) in page.steps.iter().enumerate().filter(|(_, step)| wanted(step)) {
        let Some(facts) = step.facts() else { continue };
        for read in facts.reads.iter().filter(|read| !read.guarded) {
            found.extend(page.read(at, read, &definers).map(|kind| Trouble {
                step: at,
                span: read.span,
                kind,
            }));
        }
        found.extend(page.early_body(at).map(|(span, kind)| Trouble { step: at, span, kind }));
        for looked in &facts.looks_up {
            found.extend(page.look_up(at, looked).map(|kind| Trouble { step: at, span: looked.span, kind }));
        }
    }
    kept(page, &mut found);
    overwrites(page, &mut found);
    unknown_names(page, &mut found);
    found
}

/// Whether an element that a selector finds is on a page, as an answer says it.
pub fn is_found(selector: &str, document: &Document) -> Option<bool> {
    let list = parse_selectors(selector).ok()?;
    let mut matcher = Matcher::new();
    Some(document.elements().any(|element| matcher.matches_any(&list, element, Assume::May)))
}

impl Scene<'_> {
    fn read(&self, at: usize, read: &GlobalUse, known: &Definers<'_>) -> Option<TroubleKind> {
        if read.when == When::Perhaps {
            return None;
        }
        let is_later = |other: usize| read.when == When::Now && self.timeline.is_before(at, other);
        let (mut definers, mut waiting) = (Vec::new(), Vec::new());
        // What cannot be looked into may define anything, unless it is certain to come later.
        let mut unclear = known.hidden.iter().any(|other| *other != at && !is_later(*other));
        let named = known.steps.get(read.name.as_str()).into_iter().flatten().copied();
        for other in named.filter(|other| *other != at) {
            let defined = self.steps[other].all_facts().flat_map(|facts| &facts.defines);
            let earliest = defined.filter(|own| own.name == read.name).min_by_key(|own| own.when);
            match earliest.map(|own| (own.when, own.scheduled)) {
                Some((When::Now, _)) => definers.push(other),
                Some((When::Later, true)) if !is_later(other) => waiting.push(other),
                Some(_) => unclear = true,
                None => {}
            }
        }
        let own = &self.steps[at];
        unclear |= own.may_define_anything();
        // What it imports has run before it.
        if own
            .imported
            .iter()
            .any(|module| module.facts(ScriptKind::Module).defines.iter().any(|own| own.name == read.name))
        {
            return None;
        }
        if definers.iter().any(|by| self.timeline.is_before(*by, at)) || self.is_element(&read.name) {
            return None;
        }
        let name = read.name.clone();
        match (definers.first(), read.when) {
            // What runs later finds what has been defined by then, as far as anybody can tell.
            (Some(_), When::Later) => None,
            (Some(&by), _) if definers.iter().all(|by| self.timeline.is_before(at, *by)) => {
                (!unclear).then_some(TroubleKind::Late { name, by })
            }
            (Some(&by), _) => (!unclear).then_some(TroubleKind::Race { name, by }),
            // Who asks for the very name that a pin keeps to itself means that one.
            (None, _) if unclear && !self.is_kept(&name) => None,
            // What is defined once something happens may not have happened yet.
            (None, When::Later) if !waiting.is_empty() => None,
            (None, _) if !waiting.is_empty() => Some(TroubleKind::Race { name, by: waiting[0] }),
            (None, when) => {
                // Of more names than anybody has, none is looked for.
                let few = (known.steps.len() <= FEW).then(|| {
                    let mut names: Vec<&str> = known.steps.keys().copied().collect();
                    names.sort_unstable();
                    nearest(&name, names).map(str::to_owned)
                });
                let near = few.flatten();
                Some(TroubleKind::Missing { name, when, near })
            }
        }
    }

    /// Whether a pin's script declares a name and keeps it to itself.
    fn is_kept(&self, name: &str) -> bool {
        let mut kept = self.steps.iter().filter_map(PageStep::facts).flat_map(|facts| &facts.keeps);
        kept.any(|(own, _)| own == name)
    }

    /// Elements with an ID, some with a name, and frames are globals too (HTML 7.2.2.3).
    pub(super) fn is_element(&self, name: &str) -> bool {
        self.document.elements().any(|element| {
            let data = element.data();
            let is_named =
                matches!(&*data.name.local, "embed" | "form" | "iframe" | "frame" | "img" | "object");
            data.id() == Some(name) || (is_named && data.attr(&html5ever::local_name!("name")) == Some(name))
        })
    }

    fn look_up(&self, at: usize, looked: &LookUp) -> Option<TroubleKind> {
        let selector = self.steps[at].selector(looked).into_owned();
        let list = parse_selectors(&selector).ok()?;
        let mut matcher = Matcher::new();
        let first =
            self.document.elements().find(|element| matcher.matches_any(&list, *element, Assume::May));
        let Some(first) = first else {
            let names: Vec<NamedPart> = list.slice().iter().flat_map(names_in).collect();
            if names.iter().any(|name| self.adds.iter().any(|own| own == name.name())) {
                return None;
            }
            let maker = names.iter().find_map(|name| Some((self.maker(name)?, name)));
            let unclear = self.steps.iter().any(PageStep::hides_something);
            if unclear || looked.guarded {
                return None;
            }
            if let Some((by, name)) = maker {
                let is_in_time = by == at || self.timeline.is_before(by, at) || looked.when != When::Now;
                let name = name.to_string();
                return (!is_in_time).then_some(TroubleKind::Made { selector, by, name });
            }
            let absent = names.iter().find(|name| !self.has(name));
            let near = absent.and_then(|name| self.near(name));
            return Some(TroubleKind::Lost {
                selector,
                when: looked.when,
                name: absent.map(ToString::to_string),
                near,
            });
        };
        let step = &self.steps[at];
        let is_early = looked.when == When::Now
            && matches!(step.timing.execution, Execution::Classic)
            && first.data().start() >= step.at
            && !looked.guarded;
        let line = self.document.position(first, self.text).line;
        is_early.then_some(TroubleKind::Early { selector, line })
    }

    /// A script that uses the body before it is there.
    fn early_body(&self, at: usize) -> Option<(Span, TroubleKind)> {
        let step = &self.steps[at];
        let span = step.facts()?.needs_body?;
        let body = self.document.body()?;
        let is_early = step.timing.execution == Execution::Classic && body.data().start() >= step.at;
        let line = self.document.position(body, self.text).line;
        is_early.then(|| (span, TroubleKind::Early { selector: "body".to_owned(), line }))
    }

    /// The step whose script adds a name to the page.
    fn maker(&self, name: &NamedPart) -> Option<usize> {
        let is_id = matches!(name, NamedPart::Id(_));
        self.steps.iter().position(|step| {
            let adds = |facts: &ScriptFacts| {
                facts.adds.iter().any(|added| added.name == name.name() && added.is_id == is_id)
            };
            step.all_facts().any(adds)
        })
    }

    fn has(&self, name: &NamedPart) -> bool {
        self.document.elements().any(|element| name.is_of(element.data()))
    }

    fn near(&self, name: &NamedPart) -> Option<String> {
        let elements = || self.document.elements().map(|element| element.data());
        let (mark, found) = match name {
            NamedPart::Id(wanted) => ("#", nearest(wanted, elements().filter_map(|own| own.id()))),
            NamedPart::Class(wanted) => (".", nearest(wanted, elements().flat_map(|own| own.classes()))),
            NamedPart::Tag(wanted) => ("", nearest(wanted, elements().map(|own| &*own.name.local))),
        };
        found.map(|found| format!("{mark}{found}"))
    }
}
