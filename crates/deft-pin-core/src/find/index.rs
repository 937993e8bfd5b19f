//! The elements of a page by their names, so that a selector is tried on those alone that may
//! match it.

use html5ever::LocalName;
use html5ever::tree_builder::QuirksMode;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::markup::{
    Assume, Document, ElementRef, Matcher, NamedPart, NodeId, SelectorList, key_of, parse_selectors,
};

/// The elements of one page, in tree order, sorted by name.
pub struct PageIndex<'d> {
    document: &'d Document,
    elements: Vec<NodeId>,
    ids: FxHashMap<&'d str, Vec<NodeId>>,
    classes: FxHashMap<&'d str, Vec<NodeId>>,
    tags: FxHashMap<LocalName, Vec<NodeId>>,
}

impl<'d> PageIndex<'d> {
    /// Sorts the elements of a page.
    pub fn new(document: &'d Document) -> Self {
        let mut index = PageIndex {
            document,
            elements: Vec::new(),
            ids: FxHashMap::default(),
            classes: FxHashMap::default(),
            tags: FxHashMap::default(),
        };
        for element in document.elements() {
            let data = element.data();
            index.elements.push(element.id);
            if let Some(id) = data.id() {
                index.ids.entry(id).or_default().push(element.id);
            }
            for class in data.classes() {
                let list = index.classes.entry(class).or_default();
                if list.last() != Some(&element.id) {
                    list.push(element.id);
                }
            }
            let tag = data.name.local.to_ascii_lowercase();
            index.tags.entry(tag).or_default().push(element.id);
        }
        index
    }

    /// The page.
    pub fn document(&self) -> &'d Document {
        self.document
    }

    /// Every element, in tree order.
    pub fn elements(&self) -> impl Iterator<Item = ElementRef<'d>> + '_ {
        self.elements.iter().filter_map(|id| self.document.element(*id))
    }

    /// How many elements have an ID.
    pub fn times(&self, id: &str) -> usize {
        self.ids.get(id).map_or(0, Vec::len)
    }

    /// The IDs of the page.
    pub fn ids(&self) -> impl Iterator<Item = &'d str> + '_ {
        self.ids.keys().copied()
    }

    /// The classes of the page.
    pub fn classes(&self) -> impl Iterator<Item = &'d str> + '_ {
        self.classes.keys().copied()
    }

    /// The first `limit` elements that a list of selectors may match, in tree order. A selector
    /// with a pseudo-element finds the element that it belongs to.
    pub fn matched(&self, list: &SelectorList, limit: usize) -> Vec<NodeId> {
        // The matcher's caches know selectors by where they are in memory: a new one for each list.
        let mut matcher = Matcher::new();
        let mut found = Vec::new();
        for selector in list.slice() {
            let mut of_this = 0;
            for &id in self.candidates(key_of(selector)) {
                let Some(element) = self.document.element(id) else { continue };
                if matcher.matches(selector, element, Assume::May) {
                    found.push(id);
                    of_this += 1;
                    if of_this == limit {
                        break;
                    }
                }
            }
        }
        if list.slice().len() > 1 {
            let either: FxHashSet<NodeId> = found.into_iter().collect();
            found = self.elements.iter().copied().filter(|id| either.contains(id)).take(limit).collect();
        }
        found
    }

    fn candidates(&self, key: Option<NamedPart>) -> &[NodeId] {
        if self.document.quirks() == QuirksMode::Quirks && !matches!(key, Some(NamedPart::Tag(_))) {
            return &self.elements;
        }
        let list = match &key {
            Some(NamedPart::Id(name)) => self.ids.get(&**name),
            Some(NamedPart::Class(name)) => self.classes.get(&**name),
            Some(NamedPart::Tag(name)) => self.tags.get(name),
            None => return &self.elements,
        };
        list.map_or(&[], Vec::as_slice)
    }

    /// Whether a selector's text matches this element and no other on the page.
    pub fn is_unique(&self, selector: &str, element: NodeId) -> bool {
        parse_selectors(selector).is_ok_and(|list| self.matched(&list, 2) == [element])
    }
}
