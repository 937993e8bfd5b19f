//! Likeness: which elements of a page all of its rules treat alike, so that one answer serves them
//! all.
//!
//! Most selectors ask for names, attributes and ancestors alone. Two elements of the same name, with
//! the same of those classes, IDs and attributes that some selector asks for, below parents that are
//! alike, match the same of them. Selectors that ask for more (positions, siblings, contents, a
//! language, a scope) are tried on each element, and what they say is part of its likeness.

use html5ever::tree_builder::QuirksMode;
use html5ever::{LocalName, Namespace, local_name};
use rustc_hash::FxHashMap;

use super::on_page::PageSheet;
use super::presentational_hints::presentational_hints;
use super::sharing::SharingFacts;
use crate::markup::{ElementRef, NodeId};

/// What elements have in common that are alike.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Likeness(u32);

/// The likenesses of a page's elements, worked out for those that are asked for.
pub(super) struct Likenesses<'p> {
    facts: Vec<&'p SharingFacts>,
    is_quirks: bool,
    /// For each node its kind, by names, attributes and ancestors alone; 0 where nobody asked yet.
    kinds: Vec<u32>,
    /// The numbers of names and of texts: 0 for those that no selector asks for.
    tags: FxHashMap<LocalName, u32>,
    classes: FxHashMap<LocalName, u32>,
    ids: FxHashMap<LocalName, u32>,
    attributes: FxHashMap<LocalName, u32>,
    texts: FxHashMap<Box<str>, u32>,
    kinds_by_key: FxHashMap<Box<[u32]>, u32>,
    likenesses_by_key: FxHashMap<Box<[u32]>, u32>,
    /// Lists that are used again and again.
    above: Vec<ElementRef<'p>>,
    key: Vec<u32>,
}

/// Stands between the parts of a key; no number is as large.
const BETWEEN: u32 = u32::MAX;

impl<'p> Likenesses<'p> {
    /// Makes ready for the sheets of a page; none where elements cannot share answers.
    pub(super) fn new(sheets: &'p [PageSheet], quirks: QuirksMode) -> Option<Self> {
        let facts: Vec<_> = sheets.iter().map(|sheet| sheet.rules.sharing()).collect();
        if facts.iter().any(|facts| facts.turns_text) {
            return None;
        }
        Some(Likenesses {
            facts,
            is_quirks: quirks == QuirksMode::Quirks,
            kinds: Vec::new(),
            tags: FxHashMap::default(),
            classes: FxHashMap::default(),
            ids: FxHashMap::default(),
            attributes: FxHashMap::default(),
            texts: FxHashMap::default(),
            kinds_by_key: FxHashMap::default(),
            likenesses_by_key: FxHashMap::default(),
            above: Vec::new(),
            key: Vec::new(),
        })
    }

    /// The likeness of an element, given what particular selectors say of it.
    pub(super) fn of(&mut self, element: ElementRef<'p>, particular: &mut Vec<u32>) -> Likeness {
        particular.push(self.kind_of(element));
        Likeness(number_of(&mut self.likenesses_by_key, particular))
    }

    fn known_kind(&self, id: NodeId) -> u32 {
        self.kinds.get(id.index()).copied().unwrap_or(0)
    }

    fn kind_of(&mut self, element: ElementRef<'p>) -> u32 {
        if let known @ 1.. = self.known_kind(element.id) {
            return known;
        }
        // From the nearest ancestor whose kind is known down to the element.
        let mut above = std::mem::take(&mut self.above);
        above.push(element);
        let mut kind = 0;
        loop {
            let top = above[above.len() - 1];
            match self.known_kind(top.id) {
                0 => match top.parent() {
                    Some(parent) => above.push(parent),
                    None => break,
                },
                known => {
                    kind = known;
                    above.pop();
                    break;
                }
            }
        }
        let mut key = std::mem::take(&mut self.key);
        while let Some(at) = above.pop() {
            key.clear();
            self.note_key(at, kind, &mut key);
            kind = number_of(&mut self.kinds_by_key, &key);
            let index = at.id.index();
            if self.kinds.len() <= index {
                self.kinds.resize(index + 1, 0);
            }
            self.kinds[index] = kind;
        }
        (self.above, self.key) = (above, key);
        kind
    }

    /// All that selectors can ask of an element by its own tag, and the kind of its parent.
    fn note_key(&mut self, element: ElementRef<'p>, parent: u32, key: &mut Vec<u32>) {
        let data = element.data();
        let tag = match self.tags.get(&data.name.local) {
            Some(number) => *number,
            None => {
                let number = self.tags.len() as u32 + 1;
                self.tags.insert(data.name.local.clone(), number);
                number
            }
        };
        key.extend([parent, tag, u32::from(element.is_a_link()), namespace_number(&data.name.ns)]);
        let fold = self.is_quirks;
        key.extend(data.id.iter().map(|id| {
            asked_number(&mut self.ids, id, fold, |id| self.facts.iter().any(|facts| facts.ids.contains(id)))
        }));
        key.push(BETWEEN);
        for class in &data.classes {
            let is_asked = |class: &LocalName| self.facts.iter().any(|facts| facts.classes.contains(class));
            let number = asked_number(&mut self.classes, class, fold, is_asked);
            if number > 0 {
                key.push(number);
            }
        }
        key.push(BETWEEN);
        for attribute in &data.attrs {
            let name = &attribute.name.local;
            let is_whole = matches!(*name, local_name!("style") | local_name!("dir"));
            let is_asked = |name: &LocalName| {
                is_whole || self.facts.iter().any(|facts| facts.attributes.contains_key(name))
            };
            let number = asked_number(&mut self.attributes, name, false, is_asked);
            if number == 0 {
                continue;
            }
            key.extend([BETWEEN, number, namespace_number(&attribute.name.ns)]);
            if is_whole {
                key.push(text_number(&mut self.texts, &attribute.value));
            }
            // What is asked of it counts, not what it says.
            let tests = self.facts.iter().filter_map(|facts| facts.attributes.get(name)).flatten();
            key.extend(tests.map(|test| test.holds(&attribute.value)));
        }
        if may_have_hints(element) {
            let hints = presentational_hints(element);
            if !hints.is_empty() {
                key.extend([BETWEEN, BETWEEN, text_number(&mut self.texts, &hints)]);
            }
        }
    }
}

/// Whether an element can have presentational hints: cells have those of their table, others those
/// of their own attributes.
fn may_have_hints(element: ElementRef<'_>) -> bool {
    let data = element.data();
    let is_plain = |name: &LocalName| {
        matches!(
            *name,
            local_name!("class")
                | local_name!("id")
                | local_name!("style")
                | local_name!("href")
                | local_name!("title")
                | local_name!("name")
        )
    };
    matches!(data.name.local, local_name!("td") | local_name!("th"))
        || data.attrs.iter().any(|attribute| !is_plain(&attribute.name.local))
}

fn namespace_number(namespace: &Namespace) -> u32 {
    use html5ever::ns;
    match *namespace {
        ns!() => 0,
        ns!(html) => 1,
        ns!(svg) => 2,
        ns!(mathml) => 3,
        ns!(xlink) => 4,
        ns!(xml) => 5,
        _ => 6,
    }
}

/// The number of a name, from 1; 0 where no selector asks for it.
fn asked_number(
    numbers: &mut FxHashMap<LocalName, u32>,
    name: &LocalName,
    fold: bool,
    is_asked: impl Fn(&LocalName) -> bool,
) -> u32 {
    if let Some(number) = numbers.get(name) {
        return *number;
    }
    let folded = if fold { name.to_ascii_lowercase() } else { name.clone() };
    let number = match numbers.get(&folded) {
        Some(number) => *number,
        None if is_asked(&folded) => numbers.len() as u32 + 1,
        None => 0,
    };
    numbers.insert(name.clone(), number);
    numbers.insert(folded, number);
    number
}

fn text_number(numbers: &mut FxHashMap<Box<str>, u32>, text: &str) -> u32 {
    if let Some(number) = numbers.get(text) {
        return *number;
    }
    let number = numbers.len() as u32 + 1;
    numbers.insert(text.into(), number);
    number
}

fn number_of(numbers: &mut FxHashMap<Box<[u32]>, u32>, key: &[u32]) -> u32 {
    if let Some(number) = numbers.get(key) {
        return *number;
    }
    let number = numbers.len() as u32 + 1;
    numbers.insert(key.into(), number);
    number
}
