//! Values that elements outside of a pin's fence feel: counts that go on behind it, quotes that stay open, and names
//! of view transitions, which a page may have once.

use html5ever::local_name;
use rustc_hash::FxHashSet;
use serde::Serialize;

use super::declarations::place_in_sheet;
use super::finding::Place;
use super::page_checker::PageChecker;
use crate::code::{Origin, PinId};
use crate::markup::{Assume, ElementRef, Matcher, NodeId};
use crate::page::PageAnalysis;
use crate::source::Span;
use crate::style::{PropertyId, StyleDeclaration, StyleRules, is_wide, plain_words, shown_counters};

/// What a value does to elements outside of its fence.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum LeakingValue {
    /// It counts on a counter of the site.
    Counter(String),
    /// It opens quotes that nothing closes, or closes some that nothing opened.
    Quotes,
    /// It gives a part of view transitions a name that another one has.
    Transition(String),
}

impl LeakingValue {
    pub(super) fn message(&self) -> String {
        match self {
            LeakingValue::Counter(name) => {
                format!(
                    "this counts on `{name}`, which the site shows behind the elements of this pin: its numbers change there"
                )
            }
            LeakingValue::Quotes => {
                "this sheet opens and closes quotes unevenly: those of what comes behind are of another level"
                    .to_owned()
            }
            LeakingValue::Transition(name) => {
                format!(
                    "the site has a `view-transition-name: {name}` too: with one name twice, browsers leave the transition out"
                )
            }
        }
    }

    pub(super) fn help(&self) -> String {
        match self {
            LeakingValue::Counter(name) => {
                format!(
                    "set one of your own with `counter-reset: {name}` on an element of this pin: it gets a name of its own then"
                )
            }
            LeakingValue::Quotes => {
                "write `close-quote`, or `no-close-quote`, in the `::after` of the same element".to_owned()
            }
            LeakingValue::Transition(_) => "give it a name of its own".to_owned(),
        }
    }
}

/// A value that does something outside of its fence.
pub(super) struct FeltValue {
    /// Where its declaration stands, in the pin's sheet as it was written.
    pub(super) span: Span,
    pub(super) value: LeakingValue,
    /// What of the site feels it: a declaration; none for an element.
    pub(super) place: Option<Place>,
}

/// What a pin with a fence does to a page outside of it by values.
pub(super) fn leaking_values(page: &PageChecker<'_>, pin: PinId, rules: &StyleRules) -> Vec<FeltValue> {
    let mut found = Vec::new();
    let set = |property: &str| -> Vec<(Span, &str)> {
        let property = PropertyId::of(property);
        let of_rules = rules.setters(&property).flat_map(|rule| &rule.declarations);
        let own = of_rules.filter(|own| own.property == property);
        own.map(|own| (rules.source(own.span).1, rules.text.slice(own.value))).collect()
    };
    let outside = Outside { page: page.page, pin };
    const COUNTING: [&str; 3] = ["counter-increment", "counter-set", "counter-reset"];
    for property in COUNTING {
        for (span, value) in set(property) {
            let counts = plain_words(value).into_iter().find_map(|name| {
                // Without a counter of that name around it, the pin's is a new one, which ends with its parent.
                let counts = |value: &str| plain_words(value).contains(&name);
                COUNTING
                    .iter()
                    .find_map(|counting| outside.site_declaration(counting, &counts, &Outside::around))?;
                let shows = |value: &str| shown_counters(value).contains(&name);
                Some((outside.site_declaration("content", &shows, &Outside::behind)?, name.clone()))
            });
            found.extend(counts.map(|(place, name)| FeltValue {
                span,
                value: LeakingValue::Counter(name),
                place: Some(place),
            }));
        }
    }
    for (span, value) in set("view-transition-name") {
        let Some(name) = plain_words(value).pop().filter(|_| !is_keyword(value)) else { continue };
        let is_same = |other: &str| other.trim() == name;
        if let Some(place) = outside.site_declaration("view-transition-name", &is_same, &Outside::all) {
            found.push(FeltValue { span, value: LeakingValue::Transition(name), place: Some(place) });
        }
    }
    let quotes = set("content");
    let has = |words: [&str; 2]| quotes.iter().find(|(_, value)| names_any(value, &words));
    let uneven = match (has(["open-quote", "no-open-quote"]), has(["close-quote", "no-close-quote"])) {
        (Some(one), None) | (None, Some(one)) => one,
        _ => return found,
    };
    let place = outside.site_declaration(
        "content",
        &|value| names_any(value, &["open-quote", "close-quote", "no-open-quote", "no-close-quote"]),
        &Outside::behind,
    );
    if place.is_some() || outside.behind().iter().any(|element| element.is_html(&local_name!("q"))) {
        found.push(FeltValue { span: uneven.0, value: LeakingValue::Quotes, place });
    }
    found
}

fn is_keyword(value: &str) -> bool {
    let value = value.trim();
    is_wide(value) || ["none", "auto", "match-element"].iter().any(|word| value.eq_ignore_ascii_case(word))
}

fn names_any(value: &str, names: &[&str]) -> bool {
    plain_words(value).iter().any(|word| names.iter().any(|name| word.eq_ignore_ascii_case(name)))
}

/// What of a page is in no target of a pin.
struct Outside<'c> {
    page: &'c PageAnalysis<'c>,
    pin: PinId,
}

impl<'c> Outside<'c> {
    fn targets(&self) -> &'c [NodeId] {
        let own = self.page.matches().iter().find(|matches| matches.pin == self.pin);
        own.map(|own| own.targets.as_slice()).unwrap_or_default()
    }

    fn all(&self) -> Vec<ElementRef<'c>> {
        let targets: FxHashSet<NodeId> = self.targets().iter().copied().collect();
        let is_in = |element: &ElementRef<'_>| element.and_ancestors().any(|at| targets.contains(&at.id));
        self.page.document().elements().filter(|element| !is_in(element)).collect()
    }

    /// Those behind the first target.
    fn behind(&self) -> Vec<ElementRef<'c>> {
        let Some(first) = self.targets().first() else { return Vec::new() };
        self.all().into_iter().filter(|element| element.id > *first).collect()
    }

    /// Those whose counters the first target takes over: what is around it, and what stands before it or before
    /// something around it (css-lists-3, 4.5, "inheriting counters").
    fn around(&self) -> Vec<ElementRef<'c>> {
        let first = self.targets().first().and_then(|id| self.page.document().element(*id));
        let Some(first) = first else { return Vec::new() };
        let around: FxHashSet<NodeId> = first.and_ancestors().skip(1).map(|at| at.id).collect();
        let is_it = |element: &ElementRef<'_>| {
            let is_child = element.parent().is_some_and(|parent| around.contains(&parent.id));
            element.id < first.id && (is_child || around.contains(&element.id))
        };
        self.all().into_iter().filter(is_it).collect()
    }

    /// Where the site gives one of some elements a property with a value that counts.
    fn site_declaration(
        &self,
        property: &str,
        is_it: &dyn Fn(&str) -> bool,
        elements: &dyn Fn(&Self) -> Vec<ElementRef<'c>>,
    ) -> Option<Place> {
        let property = PropertyId::of(property);
        let sheets = self.page.sheets();
        let mut matcher = Matcher::new();
        let mut known = None;
        for (number, sheet) in sheets.sheets.iter().enumerate() {
            if sheets.places[number].origin != Origin::Site || sheet.shadow.is_some() {
                continue;
            }
            for rule in sheet.rules.setters(&property) {
                let of_it = |own: &&StyleDeclaration| {
                    own.property == property && is_it(sheet.rules.text.slice(own.value))
                };
                let Some(own) = rule.declarations.iter().find(of_it) else { continue };
                let elements = known.get_or_insert_with(|| elements(self));
                let is_matched = rule.selectors.iter().any(|selector| {
                    elements.iter().any(|element| matcher.matches(&selector.selector, *element, Assume::Must))
                });
                if is_matched {
                    return Some(place_in_sheet(self.page, number, own.span));
                }
            }
        }
        None
    }
}
