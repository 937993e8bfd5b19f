//! The tags that marks write into: each once, with all that marks give to its element.

use html5ever::{LocalName, local_name};

use super::content_edits::{Edits, Rank};
use crate::board::Mark;
use crate::markup::{ElementRef, TagAttribute, tag_attributes};
use crate::source::Span;

/// A tag with all that marks give to its element.
pub(super) struct MarkedTag {
    tag: Span,
    set: Vec<Given>,
}

/// An attribute with its whole value, and for classes what is added.
pub(super) type Given = (LocalName, String, Option<String>);

impl MarkedTag {
    pub(super) fn new(tag: Span) -> Self {
        MarkedTag { tag, set: Vec::new() }
    }

    /// Adds what a mark gives, and says what counts of it: of the same attribute twice the first, of classes all.
    pub(super) fn add(&mut self, set: Vec<Given>) -> Vec<Given> {
        let mut counting = Vec::new();
        for (name, value, added) in set {
            let known = self.set.iter_mut().find(|(own, ..)| *own == name);
            match (known, added) {
                (None, added) => {
                    self.set.push((name.clone(), value.clone(), added.clone()));
                    counting.push((name, value, added));
                }
                (Some((_, whole, Some(before))), Some(added)) => {
                    before.push_str(&added);
                    *whole = value.clone();
                    counting.push((name, value, Some(added)));
                }
                (Some(_), _) => {}
            }
        }
        counting
    }
}

/// What a mark sets on an element: names and whole values, and for classes what is added.
pub(super) fn attributes_of(mark: &Mark, element: ElementRef<'_>) -> Vec<Given> {
    let mut set = Vec::new();
    if let Some(id) = mark.id.as_ref().filter(|id| element.id() != Some(id.as_str())) {
        set.push((local_name!("id"), id.value.clone(), None));
    }
    let new = mark.classes.iter().filter(|class| !element.classes().any(|own| own == class.as_str()));
    let new: Vec<&str> = new.map(|class| class.as_str()).collect();
    if !new.is_empty() {
        let own = element.attr(&local_name!("class")).unwrap_or_default();
        let added = new.join(" ");
        let blank = if own.is_empty() || own.ends_with(' ') { "" } else { " " };
        set.push((local_name!("class"), format!("{own}{blank}{added}"), Some(format!("{blank}{added}"))));
    }
    for (name, value) in &mark.attributes {
        set.push((LocalName::from(name.as_str()), value.value.clone(), None));
    }
    set
}

/// Writes attributes into a tag: new ones behind its name, others in the stead of what they were.
pub(super) fn mark_tag(edits: &mut Edits, text: &str, MarkedTag { tag, set }: &MarkedTag) {
    let tag = *tag;
    let written = &text[tag.range()];
    let (name_end, attributes) = tag_attributes(written);
    let at = |place: usize| tag.start + Span::at(place).start;
    for (name, value, added) in set {
        let named = |own: &&TagAttribute| written[own.name.range()].eq_ignore_ascii_case(name);
        let Some(own) = attributes.iter().find(named) else {
            let value = if value.is_empty() { String::new() } else { format!("=\"{}\"", escaped(value)) };
            edits.insert(at(name_end), Rank::TAG, format!(" {name}{value}"));
            continue;
        };
        match (own.value, own.quote, added) {
            // Behind what stands there, within its quotes.
            (Some(span), Some(_), Some(added)) => {
                edits.insert(at(span.end as usize), Rank::TAG, escaped(added))
            }
            (Some(span), None, Some(added)) if !span.range().is_empty() => {
                edits.insert(at(span.start as usize), Rank::TAG, "\"".to_owned());
                edits.insert(at(span.end as usize), Rank::TAG, format!("{}\"", escaped(added)));
            }
            (Some(span), Some(_), None) => {
                edits.replace(
                    Span { start: at(span.start as usize), end: at(span.end as usize) },
                    escaped(value),
                );
            }
            (Some(span), None, _) => {
                let span = Span { start: at(span.start as usize), end: at(span.end as usize) };
                edits.replace(span, format!("\"{}\"", escaped(value)));
            }
            (None, _, _) => {
                edits.insert(at(own.name.end as usize), Rank::TAG, format!("=\"{}\"", escaped(value)))
            }
        }
    }
}

/// Whether an attribute has no part in how a page is read.
pub(super) fn is_plain_attribute(name: &str) -> bool {
    matches!(name, "id" | "class" | "title" | "alt" | "role" | "hidden" | "style" | "lang" | "tabindex")
        || name.starts_with("data-")
        || name.starts_with("aria-")
}

fn escaped(value: &str) -> String {
    value.replace('&', "&amp;").replace('"', "&quot;").replace('\'', "&#39;")
}
