//! Selectors that are asked of many elements, as `querySelectorAll` does.

use std::cell::RefCell;

use html5ever::tree_builder::QuirksMode;
use rustc_hash::FxHashMap;

use super::anatomy::{NamedPart, is_beside_elements, key_of};
use super::document::ElementRef;
use super::matching::{Matcher, State};
use super::reading::parse_selectors;
use super::selector::{Assume, Selector, SelectorList};
use super::selector_flaws::SelectorError;

/// Selectors with the name that each needs an element to have: by that most elements are turned down at once.
pub struct Sought<'s> {
    selectors: Vec<(&'s Selector, Option<NamedPart>)>,
    matcher: Matcher,
    is_untouched: bool,
}

impl<'s> Sought<'s> {
    /// What a list asks of elements; what it asks of pseudo-elements finds none.
    pub fn by(list: &'s SelectorList) -> Self {
        let elements = list.slice().iter().filter(|selector| !is_beside_elements(selector));
        Sought {
            selectors: elements.map(|selector| (selector, key_of(selector))).collect(),
            matcher: Matcher::new(),
            is_untouched: false,
        }
    }

    /// The same of a page as it stands before anybody touches it.
    pub fn untouched(list: &'s SelectorList) -> Self {
        Sought { is_untouched: true, ..Sought::by(list) }
    }

    /// Whether an element matches one of them; `:scope` is what is looked in.
    pub fn finds(&mut self, element: ElementRef<'_>, assume: Assume, scope: Option<ElementRef<'_>>) -> bool {
        let data = element.data();
        let is_quirky = element.document().quirks() == QuirksMode::Quirks;
        let state = State { is_untouched: self.is_untouched, ..State::default() };
        let mut selectors = self.selectors.iter();
        selectors.any(|(selector, key)| {
            key.as_ref().is_none_or(|key| key.may_be_of(data, is_quirky))
                && self.matcher.matches_in(selector, element, assume, state, scope)
        })
    }

    /// The same; none where that depends on what happens on the page.
    pub fn surely_finds(&mut self, element: ElementRef<'_>, scope: Option<ElementRef<'_>>) -> Option<bool> {
        let may = self.finds(element, Assume::May, scope);
        (!may || self.finds(element, Assume::Must, scope)).then_some(may)
    }
}

/// Parses selectors that scripts ask for, on each page anew: each thread parses the last of them once.
pub(crate) fn asked_selectors(text: &str) -> Result<SelectorList, SelectorError> {
    /// So many are kept, of so many bytes each.
    const MOST: usize = 500;
    const LONGEST: usize = 200;
    thread_local! {
        static ASKED: RefCell<FxHashMap<String, Result<SelectorList, SelectorError>>> = RefCell::default();
    }
    if text.len() > LONGEST {
        return parse_selectors(text);
    }
    ASKED.with_borrow_mut(|asked| {
        if let Some(known) = asked.get(text) {
            return known.clone();
        }
        let list = parse_selectors(text);
        if asked.len() >= MOST {
            asked.clear();
        }
        asked.insert(text.to_owned(), list.clone());
        list
    })
}

#[cfg(test)]
mod tests {
    use super::super::{parse, parse_selectors};
    use super::*;

    /// What is found is what the matcher finds that looks at each element.
    #[test]
    fn nothing_is_turned_down_that_matches() {
        let page = "<main id=Fares class='wide Note'><p class=note>x<a href=#x>y</a></p><svg><linearGradient id=g/></svg></main>";
        for doctype in ["<!doctype html>", ""] {
            let (_, document) = parse(format!("{doctype}{page}").as_bytes());
            for text in [
                "#fares", "#Fares", ".note", ".NOTE", "main > .note", "P", "linearGradient",
                "lineargradient", "*", ":is(p, a)", "main :not(p)", "a:hover", "p::before", ".note, svg",
                ":scope > main", "[class~=note i]", "html:root", "#fares a:link",
            ] {
                let list = parse_selectors(text).unwrap();
                let mut sought = Sought::by(&list);
                let mut matcher = Matcher::new();
                for element in document.elements() {
                    for assume in [Assume::May, Assume::Must] {
                        let mut all = list.slice().iter().filter(|own| !is_beside_elements(own));
                        let expected =
                            all.any(|own| matcher.matches_in(own, element, assume, State::default(), None));
                        let tag = &element.data().name.local;
                        assert_eq!(sought.finds(element, assume, None), expected, "{text} {tag} {doctype}");
                    }
                }
            }
        }
    }
}
