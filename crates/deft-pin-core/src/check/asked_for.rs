//! Names of pins' scripts that something outside of them asks the page for: attributes for events, addresses with a
//! callback, markup and scripts of other pins. The page gets them from there without being asked to on the board.

use std::collections::BTreeSet;
use std::sync::LazyLock;

use regex::bytes::Regex;
use rustc_hash::{FxHashMap, FxHashSet};

use super::not_shared::unshared_names;
use super::script_fault::{Asker, FaultKind};
use crate::code::{Origin, Owner, PinId};
use crate::page::PageAnalysis;
use crate::plan::{Asked, Plan};
use crate::script::AskedName;
use crate::site::PagePath;
use crate::source::Span;

/// Names that pins keep to themselves, and that something else may ask for.
pub struct Keeping<'p> {
    plan: &'p Plan<'p>,
    kept: FxHashMap<&'p str, Vec<Kept>>,
    /// Those of them that other pins read.
    read: Vec<&'p str>,
    asked: Asked,
}

/// That a pin keeps a name to itself.
struct Kept {
    pin: PinId,
    /// Where it is declared.
    span: Span,
    /// Other pins whose scripts read it.
    readers: Vec<PinId>,
    /// How many pages were looked at for it.
    looks: usize,
}

/// So many pages say whether a name is the pin's own there.
const PAGES: usize = 20;

/// Code in attributes for events, in addresses, and names of callbacks in addresses.
static CODE: LazyLock<Regex> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "the pattern is our own, and a test reads it")]
    Regex::new(
        r#"(?i-u)[\s"'/]on[a-z]{3,30}\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s"'>]+))|javascript:([^"'>]*)|[?&;](?:callback|onload|cb|jsonp|jsonpcallback)=([\w$]+)"#,
    )
    .expect("a pattern of our own")
});

impl<'p> Keeping<'p> {
    /// What the pins of a plan keep to themselves.
    pub fn of(plan: &'p Plan<'p>) -> Self {
        let of_libraries = plan.libraries.iter().flat_map(|library| library.script_facts());
        let mut brought: FxHashSet<&str> =
            of_libraries.flat_map(|(_, facts)| &facts.defines).map(|own| own.name.as_str()).collect();
        brought.extend(plan.board.libraries.iter().flat_map(|library| &library.defines).map(String::as_str));
        // Who reads a name, and whose markup has it.
        let mut readers: FxHashMap<&str, Vec<PinId>> = FxHashMap::default();
        let mut in_markup: FxHashMap<&str, Vec<PinId>> = FxHashMap::default();
        for (pin, planned) in plan.pins.entries() {
            let reads = planned.script_facts().into_iter().flat_map(|facts| &facts.reads);
            for read in reads.filter(|read| !read.guarded && !brought.contains(read.name.as_str())) {
                readers.entry(&read.name).or_default().push(pin);
            }
            for word in planned.markup.iter().flat_map(|own| &own.codes).flat_map(|code| names_in_code(code))
            {
                in_markup.entry(word).or_default().push(pin);
            }
        }
        let mut kept: FxHashMap<&str, Vec<Kept>> = FxHashMap::default();
        for (pin, planned) in plan.pins.entries() {
            for (name, span) in planned.script_facts().into_iter().flat_map(|facts| &facts.keeps) {
                let readers = readers.get(name.as_str()).into_iter().flatten().filter(|own| **own != pin);
                kept.entry(name).or_default().push(Kept {
                    pin,
                    span: *span,
                    readers: readers.copied().collect(),
                    looks: 0,
                });
            }
        }
        // Markup of another pin is of the board as well: it means the one pin that has the name.
        let mut asked = Asked::new();
        kept.retain(|name, pins| {
            let [only] = pins.as_slice() else { return true };
            let mut others = in_markup.get(name).into_iter().flatten();
            if !others.any(|other| *other != only.pin) {
                return true;
            }
            let own = AskedName { name: (*name).to_owned(), span: only.span };
            asked.entry(only.pin).or_default().insert(own);
            false
        });
        let is_read = |all: &Vec<Kept>| all.iter().any(|own| !own.readers.is_empty());
        let read = kept.iter().filter(|(_, all)| is_read(all)).map(|(name, _)| *name).collect();
        Keeping { plan, kept, read, asked }
    }

    /// Whether pages have nothing to say to it.
    pub fn is_settled(&self) -> bool {
        self.kept.is_empty()
    }

    /// Whether a page may ask for a name that some pin for it keeps; `named` are those in its code. Of each name so many
    /// pages are looked at as tell enough.
    pub fn may_ask(&mut self, path: &PagePath, named: &BTreeSet<String>) -> bool {
        let pins = self.plan.pins_for(path);
        let mut may = false;
        for name in named.iter().map(String::as_str).chain(self.read.iter().copied()) {
            for own in self.kept.get_mut(name).into_iter().flatten() {
                let is_read = || own.readers.iter().any(|reader| pins.contains(reader));
                let is_asked = pins.contains(&own.pin) && (named.contains(name) || is_read());
                if is_asked && own.looks < PAGES {
                    own.looks += 1;
                    may = true;
                }
            }
        }
        may
    }

    /// The kept names in code of a page's attributes and addresses, as far as its bytes tell.
    pub fn named_by(&self, bytes: &[u8]) -> BTreeSet<String> {
        let mut found = BTreeSet::new();
        for code in CODE.captures_iter(bytes).flat_map(|hit| hit.iter().skip(1).flatten().collect::<Vec<_>>())
        {
            let code = String::from_utf8_lossy(code.as_bytes());
            let kept = names_in_code(&code).filter(|name| self.kept.contains_key(name));
            found.extend(kept.map(str::to_owned));
        }
        found
    }

    /// Takes in what a page asks for.
    pub fn add(&mut self, names: Vec<(PinId, AskedName)>) {
        for (pin, name) in names {
            self.asked.entry(pin).or_default().insert(name);
        }
    }

    /// What is asked for.
    pub fn into_asked(self) -> Asked {
        self.asked
    }
}

/// The names that something on a page asks for, and that stay in a pin's script.
pub fn asked_on(page: &PageAnalysis<'_>) -> Vec<(PinId, AskedName)> {
    let steps = page.steps();
    let faults = unshared_names(page).into_iter();
    let asked = faults.filter_map(|fault| {
        let FaultKind::Unshared { name, by } = fault.kind else { return None };
        // What a script of the site reads may come from elsewhere.
        let is_meant = match by {
            Asker::EventHandler { .. } => true,
            Asker::Step(step) => steps[step].origin != Origin::Site || steps[step].is_unread(),
        };
        let Origin::Board(Owner::Pin(pin)) = steps.get(fault.step)?.origin else { return None };
        is_meant.then_some((pin, AskedName { name, span: fault.span }))
    });
    asked.collect()
}

/// The names in a piece of code that stand for themselves, and are no members.
fn names_in_code(code: &str) -> impl Iterator<Item = &str> {
    let is_part = |c: char| c.is_alphanumeric() || c == '_' || c == '$' || c == '.';
    let words = code.split(move |c: char| !is_part(c)).filter(|word| !word.starts_with('.'));
    words.filter_map(|word| word.split('.').next()).filter(|name| !name.is_empty())
}
