//! Names of pins' scripts that something outside of them asks the page for: attributes for events, addresses with a
//! callback, markup and scripts of other pins. The page gets them from there without being asked to on the board.

use std::collections::BTreeSet;
use std::sync::LazyLock;

use regex::bytes::Regex;

use super::not_shared::unshared_names;
use super::script_fault::{Asker, FaultKind};
use crate::code::{Origin, Owner, PinId};
use crate::page::PageAnalysis;
use crate::plan::{Asked, Plan};
use crate::script::AskedName;
use crate::site::PagePath;

/// Names that pins keep to themselves, and that something else may ask for.
pub struct Keeping<'p> {
    plan: &'p Plan<'p>,
    kept: Vec<Kept<'p>>,
    asked: Asked,
}

/// A name that a pin keeps to itself.
struct Kept<'p> {
    pin: PinId,
    name: &'p str,
    /// The pins whose scripts read it.
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
        let reads = |pin: PinId| plan.pins[pin].script_facts().map_or(&[][..], |facts| &facts.reads);
        let of_libraries: BTreeSet<&str> = plan
            .libraries
            .iter()
            .flat_map(|library| library.script_facts())
            .flat_map(|(_, facts)| &facts.defines)
            .map(|defined| defined.name.as_str())
            .chain(plan.board.libraries.iter().flat_map(|library| &library.defines).map(String::as_str))
            .collect();
        let mut keeping = Keeping { plan, kept: Vec::new(), asked: Asked::new() };
        for (pin, planned) in plan.pins.entries() {
            let Some(facts) = planned.script_facts() else { continue };
            for (name, span) in &facts.keeps {
                let others = plan.board.active_pins().map(|(id, _)| id).filter(|id| *id != pin);
                // What a library brings is meant by its name.
                let is_read = |id: &PinId| {
                    !of_libraries.contains(name.as_str())
                        && reads(*id).iter().any(|read| read.name == *name && !read.guarded)
                };
                let readers: Vec<PinId> = others.clone().filter(is_read).collect();
                let keeps_too = |id: PinId| {
                    plan.pins[id]
                        .script_facts()
                        .is_some_and(|facts| facts.keeps.iter().any(|(own, _)| own == name))
                };
                // Markup of another pin is of the board as well: it means the one pin that has the name.
                let is_in_markup = others.clone().any(|id| {
                    !keeps_too(id)
                        && plan.pins[id]
                            .markup
                            .iter()
                            .any(|own| own.codes.iter().any(|code| has_word(code, name)))
                });
                if is_in_markup && !others.clone().any(keeps_too) {
                    let own = AskedName { name: name.clone(), span: *span };
                    keeping.asked.entry(pin).or_default().insert(own);
                    continue;
                }
                keeping.kept.push(Kept { pin, name, readers, looks: 0 });
            }
        }
        keeping
    }

    /// Whether pages have nothing to say to it.
    pub fn is_settled(&self) -> bool {
        self.kept.is_empty()
    }

    /// Whether a page, of which the bytes are given, may ask for a name that some pin for it keeps. Of each name so many
    /// pages are looked at as tell enough.
    pub fn may_ask(&mut self, path: &PagePath, codes: &BTreeSet<String>) -> bool {
        let pins = self.plan.pins_for(path);
        let mut may = false;
        for own in self.kept.iter_mut().filter(|own| own.looks < PAGES && pins.contains(&own.pin)) {
            if codes.contains(own.name) || own.readers.iter().any(|reader| pins.contains(reader)) {
                own.looks += 1;
                may = true;
            }
        }
        may
    }

    /// The kept names in code of a page's attributes and addresses, as far as bytes tell.
    pub fn named_by(&self, path: &PagePath, bytes: &[u8]) -> BTreeSet<String> {
        let pins = self.plan.pins_for(path);
        let kept: Vec<&str> =
            self.kept.iter().filter(|own| pins.contains(&own.pin)).map(|own| own.name).collect();
        let mut found = BTreeSet::new();
        if kept.is_empty() {
            return found;
        }
        for hit in CODE.captures_iter(bytes) {
            for code in hit.iter().skip(1).flatten() {
                let code = String::from_utf8_lossy(code.as_bytes());
                found.extend(kept.iter().filter(|name| has_word(&code, name)).map(|name| (*name).to_owned()));
            }
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

fn has_word(code: &str, name: &str) -> bool {
    let is_part = |c: char| c.is_alphanumeric() || c == '_' || c == '$' || c == '.';
    code.match_indices(name).any(|(at, _)| {
        let before = code[..at].chars().next_back();
        let after = code[at + name.len()..].chars().next();
        !before.is_some_and(is_part) && !after.is_some_and(|c| is_part(c) && c != '.')
    })
}
