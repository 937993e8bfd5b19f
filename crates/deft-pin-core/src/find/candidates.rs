//! The selectors that an element could go by, each with what it costs to lean on it.
//!
//! Costs are of one scale: an ID that a person wrote costs next to nothing, a position among
//! siblings much, a name that a machine made more than any position.

use cssparser::{serialize_identifier, serialize_string};
use html5ever::{local_name, ns};

use super::quality::{NameQuality, quality};
use super::reason::Reason;
use crate::markup::{ElementRef, NodeData};

/// A selector that an element could go by.
#[derive(Clone, Debug)]
pub(super) struct Candidate {
    pub(super) selector: String,
    pub(super) cost: u32,
    pub(super) reasons: Vec<Reason>,
}

impl Candidate {
    fn new(selector: String, cost: u32, reason: Reason) -> Self {
        Candidate { selector, cost, reasons: vec![reason] }
    }

    /// This one in front of another, with a combinator between them.
    pub(super) fn then(&self, combinator: &str, inner: &Candidate, cost: u32) -> Self {
        let mut reasons = self.reasons.clone();
        for reason in &inner.reasons {
            if !reasons.contains(reason) {
                reasons.push(reason.clone());
            }
        }
        Candidate {
            selector: format!("{}{combinator}{}", self.selector, inner.selector),
            cost: self.cost + inner.cost + cost,
            reasons,
        }
    }
}

/// What it costs to look for something inside of something else.
pub(super) const INSIDE: u32 = 4;
/// What it costs to lean on a child being a child: a wrapper breaks it.
pub(super) const CHILD: u32 = 9;
/// What it costs to lean on what comes right before.
pub(super) const NEXT: u32 = 26;
/// What it costs to lean on a place among siblings of a kind.
pub(super) const POSITION: u32 = 40;

/// What it costs to lean on a name that a machine made: more than any chain of places.
pub(super) const GENERATED: u32 = 400;

pub(super) fn identifier(name: &str) -> String {
    let mut text = String::new();
    let _ = serialize_identifier(name, &mut text);
    text
}

fn string(value: &str) -> String {
    let mut text = String::new();
    let _ = serialize_string(value, &mut text);
    text
}

/// The type selector of an element. Names are matched in any case, so they are written as found.
pub(super) fn tag(element: ElementRef<'_>) -> String {
    identifier(&element.data().name.local)
}

/// Elements of which a page has one, or few: what a page is made of.
pub(super) fn is_landmark(element: ElementRef<'_>) -> bool {
    element.data().name.ns == ns!(html)
        && matches!(&*element.data().name.local, "main" | "nav" | "header" | "footer" | "aside" | "search")
}

/// By ID, by attributes, by classes and by kind: cheapest first. Every one of them matches the
/// element; whether it matches others too has to be tried.
pub(super) fn own(element: ElementRef<'_>) -> Vec<Candidate> {
    let mut found = Vec::new();
    by_id(element, &mut found);
    by_attribute(element, &mut found);
    by_class(element, &mut found);
    let cost = if is_landmark(element) { 6 } else { 12 };
    let reason = if is_landmark(element) { Reason::Landmark } else { Reason::Kind };
    found.push(Candidate::new(tag(element), cost, reason));
    found.sort_by_key(|candidate| candidate.cost);
    found
}

fn by_id(element: ElementRef<'_>, found: &mut Vec<Candidate>) {
    let Some(id) = element.data().id() else { return };
    let (cost, reason) = match quality(id) {
        NameQuality::Written => (1, Reason::WrittenId),
        NameQuality::Numbered => (3, Reason::WrittenId),
        NameQuality::Passing => (5, Reason::WrittenId),
        NameQuality::Generated => (GENERATED, Reason::Generated(id.to_owned())),
    };
    found.push(Candidate::new(format!("#{}", identifier(id)), cost, reason));
}

/// Attributes that say what an element is for, and what each costs.
fn attribute_cost(name: &str) -> Option<u32> {
    Some(match name {
        "name" | "for" | "itemprop" | "property" | "role" | "rel" => 8,
        "aria-label" | "aria-labelledby" | "aria-controls" => 10,
        "type" | "scope" | "lang" | "method" => 11,
        "href" | "action" => 15,
        "alt" | "title" | "placeholder" | "datetime" | "value" | "content" => 20,
        "src" => 22,
        _ if name.starts_with("data-") => 9,
        _ => return None,
    })
}

const LONGEST_VALUE: usize = 60;

fn by_attribute(element: ElementRef<'_>, found: &mut Vec<Candidate>) {
    let data = element.data();
    for attribute in data.attrs.iter().filter(|attribute| attribute.name.ns == ns!()) {
        let name = &*attribute.name.local;
        let Some(mut cost) = attribute_cost(name) else { continue };
        let value = &*attribute.value;
        if value.len() > LONGEST_VALUE || value.contains(['\n', '\r', '\0']) {
            continue;
        }
        let is_address = matches!(name, "href" | "src" | "action");
        let words = if is_address { address_quality(value) } else { words_quality(value) };
        let mut reason = Reason::Attribute(name.to_owned());
        match words {
            NameQuality::Written => {}
            NameQuality::Numbered => cost += 2,
            NameQuality::Passing => cost += 6,
            NameQuality::Generated => {
                cost += GENERATED;
                reason = Reason::Generated(value.to_owned());
            }
        }
        cost += value.len() as u32 / 12;
        let test = match value {
            "" => format!("[{}]", identifier(name)),
            value => format!("[{}={}]", identifier(name), string(value)),
        };
        // An attribute of a common name says more together with the kind of element.
        let text = if name.starts_with("data-") { test } else { format!("{}{test}", tag(element)) };
        found.push(Candidate::new(text, cost, reason));
    }
}

fn words_quality(value: &str) -> NameQuality {
    value.split_whitespace().map(quality).max().unwrap_or(NameQuality::Written)
}

fn address_quality(value: &str) -> NameQuality {
    let parts = value.split(['/', '?', '&', '=', '#', '.']).filter(|part| !part.is_empty());
    match parts.map(quality).max() {
        Some(NameQuality::Passing) | None => NameQuality::Written,
        Some(quality) => quality,
    }
}

fn by_class(element: ElementRef<'_>, found: &mut Vec<Candidate>) {
    let cost_of = |class: &str| match quality(class) {
        NameQuality::Written => 7,
        NameQuality::Numbered => 12,
        NameQuality::Passing => 26,
        NameQuality::Generated => GENERATED,
    };
    let mut classes: Vec<(u32, &str)> =
        element.data().classes().map(|class| (cost_of(class), class)).collect();
    classes.sort_by_key(|(cost, _)| *cost);
    classes.dedup();
    classes.truncate(6);
    let reason = |class: &str| match quality(class) {
        NameQuality::Generated => Reason::Generated(class.to_owned()),
        NameQuality::Passing => Reason::Passing(class.to_owned()),
        _ => Reason::Class,
    };
    for (number, (cost, class)) in classes.iter().enumerate() {
        let dotted = format!(".{}", identifier(class));
        found.push(Candidate::new(dotted.clone(), *cost, reason(class)));
        found.push(Candidate::new(format!("{}{dotted}", tag(element)), cost + 3, reason(class)));
        for (more, other) in &classes[number + 1..] {
            let mut both =
                Candidate::new(format!("{dotted}.{}", identifier(other)), cost + more, reason(class));
            if !both.reasons.contains(&reason(other)) {
                both.reasons.push(reason(other));
            }
            found.push(both);
        }
    }
}

/// By something inside that has a name of its own: `section:has(#fares)`.
pub(super) fn holding(element: ElementRef<'_>) -> Vec<Candidate> {
    let document = element.document();
    let mut found: Vec<Candidate> = Vec::new();
    for (distance, id) in document.descendants(element.id).enumerate().take(400) {
        let NodeData::Element(_) = document.node(id).data else { continue };
        let Some(inner) = document.element(id) else { continue };
        let is_child = inner.parent() == Some(element);
        let mut names = Vec::new();
        by_id(inner, &mut names);
        by_attribute(inner, &mut names);
        for name in names.into_iter().filter(|name| name.cost < 40) {
            let combinator = if is_child { "> " } else { "" };
            let selector = format!("{}:has({combinator}{})", tag(element), name.selector);
            let cost = name.cost + 14 + (distance as u32 / 8).min(12);
            let mut reasons = vec![Reason::Holds];
            reasons.extend(name.reasons);
            found.push(Candidate { selector, cost, reasons });
        }
        if found.len() > 24 {
            break;
        }
    }
    found.sort_by_key(|candidate| candidate.cost);
    found.truncate(6);
    found
}

/// By its place among the siblings of its kind.
pub(super) fn positioned(element: ElementRef<'_>) -> Candidate {
    let name = tag(element);
    let same = |other: &ElementRef<'_>| other.data().name == element.data().name;
    let (mut before, mut behind, mut seen) = (0, 0, false);
    for other in siblings(element).filter(same) {
        match (other == element, seen) {
            (true, _) => seen = true,
            (false, false) => before += 1,
            (false, true) => behind += 1,
        }
    }
    match (before, behind) {
        (0, 0) => Candidate::new(name, 12, Reason::OnlyOfItsKind),
        (0, _) => Candidate::new(format!("{name}:first-of-type"), POSITION - 8, Reason::Position),
        (_, 0) => Candidate::new(format!("{name}:last-of-type"), POSITION - 8, Reason::Position),
        _ => Candidate::new(format!("{name}:nth-of-type({})", before + 1), POSITION, Reason::Position),
    }
}

/// The children of an element's parent, itself among them. The root has no siblings.
pub(super) fn siblings<'d>(element: ElementRef<'d>) -> impl Iterator<Item = ElementRef<'d>> {
    let document = element.document();
    let parent = element.parent();
    let children = parent.into_iter().flat_map(move |parent| document.children(parent.id));
    children.filter_map(move |id| document.element(id))
}

/// The whole way from the root, which is unique on any page: what is left if nothing better is.
pub(super) fn path_from_root(element: ElementRef<'_>) -> Candidate {
    let mut steps = Vec::new();
    let mut at = element;
    while let Some(parent) = at.parent() {
        let place = siblings(at).position(|other| other == at).unwrap_or(0) + 1;
        steps.push(format!("{}:nth-child({place})", tag(at)));
        at = parent;
    }
    steps.push(":root".to_owned());
    steps.reverse();
    let cost = POSITION * steps.len() as u32 * 2;
    Candidate { selector: steps.join(" > "), cost, reasons: vec![Reason::WholePath] }
}

/// Whether an element may serve as the start of a way to another.
pub(super) fn is_anchor(element: ElementRef<'_>) -> bool {
    !element.data().is_html(&local_name!("html")) && !element.data().is_html(&local_name!("body"))
}
