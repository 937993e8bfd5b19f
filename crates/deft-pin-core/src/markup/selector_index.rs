//! Selectors, sorted by the name that an element needs to match them, so that for an element only
//! those are tried that may match it.

use html5ever::LocalName;
use rustc_hash::FxHashMap;

use super::anatomy::{NamedPart, key_of};
use super::document::Element;
use super::selector::Selector;

/// Rows that are found by the selector that each is added with. Names are sorted without regard to
/// case, as pages in quirks mode match them; whether a selector really matches is another question.
#[derive(Clone, Debug)]
pub struct SelectorIndex<T> {
    ids: FxHashMap<LocalName, Vec<T>>,
    classes: FxHashMap<LocalName, Vec<T>>,
    tags: FxHashMap<LocalName, Vec<T>>,
    anywhere: Vec<T>,
}

impl<T> Default for SelectorIndex<T> {
    fn default() -> Self {
        SelectorIndex {
            ids: FxHashMap::default(),
            classes: FxHashMap::default(),
            tags: FxHashMap::default(),
            anywhere: Vec::new(),
        }
    }
}

impl<T: Copy> SelectorIndex<T> {
    /// Adds a row, which is found for the elements that a selector may match.
    pub fn add(&mut self, selector: &Selector, row: T) {
        let rows = match key_of(selector) {
            Some(NamedPart::Id(name)) => self.ids.entry(name.to_ascii_lowercase()).or_default(),
            Some(NamedPart::Class(name)) => self.classes.entry(name.to_ascii_lowercase()).or_default(),
            Some(NamedPart::Tag(name)) => self.tags.entry(name.to_ascii_lowercase()).or_default(),
            None => &mut self.anywhere,
        };
        rows.push(row);
    }

    /// Whether there is no row.
    pub fn is_empty(&self) -> bool {
        self.anywhere.is_empty() && [&self.ids, &self.classes, &self.tags].iter().all(|rows| rows.is_empty())
    }

    /// Calls for each row whose selector may match an element; for a class that an element has
    /// twice, twice.
    pub fn each_candidate(&self, element: &Element, mut found: impl FnMut(T)) {
        let mut look = |rows: &FxHashMap<LocalName, Vec<T>>, name: &LocalName| {
            if rows.is_empty() {
                return;
            }
            // Few names on a page have capitals.
            let rows = match name.bytes().any(|byte| byte.is_ascii_uppercase()) {
                true => rows.get(&name.to_ascii_lowercase()),
                false => rows.get(name),
            };
            rows.into_iter().flatten().for_each(|row| found(*row));
        };
        look(&self.tags, &element.name.local);
        element.id.iter().for_each(|id| look(&self.ids, id));
        element.classes.iter().for_each(|class| look(&self.classes, class));
        self.anywhere.iter().for_each(|row| found(*row));
    }
}

#[cfg(test)]
mod tests {
    use super::super::{parse, parse_selectors};
    use super::*;

    #[test]
    fn candidates_are_those_that_have_the_name() {
        let mut index = SelectorIndex::default();
        assert!(index.is_empty());
        for (row, text) in ["p", ".Storm", "#tides", "*", "main .wide", "linearGradient", ":is(.a, .b)"]
            .into_iter()
            .enumerate()
        {
            index.add(&parse_selectors(text).unwrap().slice()[0], row);
        }
        let html =
            "<!doctype html><p class='storm x'><b id=Tides></b><svg><lineargradient/></svg><i class=a>";
        let (_, document) = parse(html.as_bytes());
        let found: Vec<(String, Vec<usize>)> = document
            .elements()
            .map(|element| {
                let mut rows = Vec::new();
                index.each_candidate(element.data(), |row| rows.push(row));
                rows.sort_unstable();
                (element.data().name.local.to_string(), rows)
            })
            .collect();
        let of = |tag: &str| found.iter().find(|(name, _)| name == tag).unwrap().1.clone();
        assert_eq!(of("p"), [0, 1, 3, 6]);
        assert_eq!(of("b"), [2, 3, 6]);
        assert_eq!(of("linearGradient"), [3, 5, 6]);
        assert_eq!(of("i"), [3, 6]);
    }
}
