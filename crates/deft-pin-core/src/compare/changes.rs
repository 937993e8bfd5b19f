//! The elements of a page that changed between two looks at it.

use serde::Serialize;

use crate::style::PropertyId;

use super::alignment::align;
use super::seen::{Addresses, Rectangle, SeenElement, SeenPage};

/// How an element changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum How {
    /// It looks different, or says something else.
    Look,
    /// It was not there before.
    New,
    /// It is there no more.
    Gone,
    /// It looks as it did, and stands elsewhere or has another size: something else pushed it.
    Pushed,
}

/// An element that changed.
#[derive(Clone, Debug)]
pub struct ElementChange {
    /// Its selector: on the page after, or before where it is gone.
    pub address: String,
    /// How it changed.
    pub how: How,
    /// Its place among the elements before.
    pub before: Option<usize>,
    /// Its place among the elements after.
    pub after: Option<usize>,
    /// Its box before.
    pub box_before: Option<Rectangle>,
    /// Its box after.
    pub box_after: Option<Rectangle>,
    /// The properties whose computed values differ.
    pub properties: Vec<String>,
    /// Its own text before and after, where that differs.
    pub text: Option<(String, String)>,
}

impl ElementChange {
    fn at(self, address: String) -> Self {
        ElementChange { address, ..self }
    }
}

/// Properties whose computed values follow from the box alone, or from other properties that are named as well.
fn follows(property: &str) -> bool {
    let is_logical = property.contains("-inline") && !property.contains("inline-size")
        || property.contains("-block") && !property.contains("block-size");
    is_logical
        || matches!(
            property,
            "width"
                | "height"
                | "inline-size"
                | "block-size"
                | "perspective-origin"
                | "transform-origin"
                | "inset-block-start"
                | "inset-block-end"
                | "inset-inline-start"
                | "inset-inline-end"
                | "min-inline-size"
                | "max-inline-size"
                | "min-block-size"
                | "max-block-size"
                | "top"
                | "right"
                | "bottom"
                | "left"
                | "margin-left"
                | "margin-right"
                | "grid-template-columns"
                | "grid-template-rows"
        )
}

/// Whether a property stands for others, which are named themselves.
fn is_shorthand(property: &str) -> bool {
    PropertyId::of(property).longhands().len() > 1
}

/// Whether a property is a colour that follows `color` where nothing else is said (`currentcolor`). Engines get more of
/// them with time.
fn may_follow_color(property: &str) -> bool {
    property.ends_with("-color") || property == "text-decoration"
}

/// The elements that changed, in tree order: the outermost first.
pub fn changes(before: &SeenPage, after: &SeenPage) -> Vec<ElementChange> {
    let alignment = align(before, after);
    let (old, new) = (Addresses::of(before), Addresses::of(after));
    let mut changes: Vec<ElementChange> = Vec::new();
    let gone = |own: usize| {
        let element: &SeenElement = &before.elements[own];
        let is_outermost = element.parent.is_none_or(|parent| alignment.after[parent].is_some());
        (alignment.after[own].is_none() && element.rectangle.is_some() && is_outermost).then(|| {
            ElementChange {
                address: old.get(own),
                how: How::Gone,
                before: Some(own),
                after: None,
                box_before: element.rectangle,
                box_after: None,
                properties: Vec::new(),
                text: None,
            }
        })
    };
    let mut next = 0;
    for (own, pair) in alignment.before.iter().enumerate() {
        let Some(pair) = *pair else {
            let element = &after.elements[own];
            if element.rectangle.is_some() {
                changes.push(ElementChange {
                    address: new.get(own),
                    how: How::New,
                    before: None,
                    after: Some(own),
                    box_before: None,
                    box_after: element.rectangle,
                    properties: Vec::new(),
                    text: None,
                });
            }
            continue;
        };
        // What is gone stands where it was.
        if pair >= next {
            changes.extend((next..pair).filter_map(gone));
            next = pair + 1;
        }
        changes.extend(changed(before, after, pair, own).map(|change| change.at(new.get(own))));
    }
    changes.extend((next..before.elements.len()).filter_map(gone));
    changes
}

/// What changed about an element that is on both pages.
fn changed(before: &SeenPage, after: &SeenPage, was: usize, is: usize) -> Option<ElementChange> {
    let (old, new) = (&before.elements[was], &after.elements[is]);
    let is_rendered = old.rectangle.is_some() || new.rectangle.is_some();
    let is_same_box = match (&old.rectangle, &new.rectangle) {
        (Some(old), Some(new)) => old.is_like(new),
        (None, None) => true,
        _ => false,
    };
    let text =
        (is_rendered && !is_same_text(&old.text, &new.text)).then(|| (old.text.clone(), new.text.clone()));
    let properties = properties(before, after, was, is);
    let is_shown_otherwise = old.rectangle.is_some() != new.rectangle.is_some();
    if is_same_box && text.is_none() && properties.is_empty() {
        return None;
    }
    let how = match is_shown_otherwise || text.is_some() || !properties.is_empty() {
        true => How::Look,
        false => How::Pushed,
    };
    Some(ElementChange {
        address: String::new(),
        how,
        before: Some(was),
        after: Some(is),
        box_before: old.rectangle,
        box_after: new.rectangle,
        properties,
        text,
    })
}

/// Whether two texts say the same: blanks between words are one to a reader.
fn is_same_text(old: &str, new: &str) -> bool {
    old == new || old.split_whitespace().eq(new.split_whitespace())
}

/// The properties of an element that differ, where it is rendered on both pages.
fn properties(before: &SeenPage, after: &SeenPage, was: usize, is: usize) -> Vec<String> {
    let (old, new) = (&before.elements[was].style, &after.elements[is].style);
    if old.is_empty() || new.is_empty() {
        // What is not rendered on one of them is shown or hidden: that is what changed.
        return if old.is_empty() == new.is_empty() { Vec::new() } else { vec!["display".to_owned()] };
    }
    let mut differing = Vec::new();
    let mut derived = Vec::new();
    for (number, name) in after.properties.iter().enumerate() {
        if before.value(was, number) == after.value(is, number) {
            continue;
        }
        if is_shorthand(name) {
            continue;
        }
        if follows(name) { derived.push(name.clone()) } else { differing.push(name.clone()) }
    }
    if differing.iter().any(|name| name == "color") {
        let number = |name: &str| after.properties.iter().position(|own| own == name);
        let colour = number("color").map(|own| (before.value(was, own), after.value(is, own)));
        differing.retain(|name| {
            let values = number(name).map(|own| (before.value(was, own), after.value(is, own)));
            let is_with = may_follow_color(name);
            let is_same = values
                .zip(colour)
                .is_some_and(|(own, colour)| own.0.contains(colour.0) && own.1.contains(colour.1));
            name == "color" || !(is_with && is_same)
        });
    }
    // The sizes and places of a box follow from what pushes it, but where something was said of it as well.
    if !differing.is_empty() {
        let is_said = |name: &&String| {
            matches!(name.as_str(), "margin-left" | "margin-right" | "top" | "left" | "right" | "bottom")
        };
        differing.extend(derived.iter().filter(is_said).cloned());
        differing.sort();
    }
    differing
}
