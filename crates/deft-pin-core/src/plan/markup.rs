//! A pin's markup, read.

use super::file_text::FileText;
use crate::board::{Markup, Pin, SelectorText};
use crate::markup::{
    LocalName, MarkupFlaw, MarkupPiece, MarkupPlace, NamedPart, markup_flaws, markup_pieces, tag_attributes,
};
use crate::source::Span;
use crate::start::LateMarkup;

/// Markup that a pin puts into pages.
#[derive(Debug)]
pub struct PlannedMarkup {
    /// Its text.
    pub text: FileText,
    /// Where it stands, as seen from an element.
    pub place: MarkupPlace,
    /// The elements: a selector. None for the pin's target.
    pub at: Option<SelectorText>,
    /// Where the board says which elements.
    pub at_span: Span,
    /// The IDs, classes and kinds of elements in it, each once.
    pub names: Vec<NamedPart>,
    /// The code in its attributes for events and its `javascript:` addresses.
    pub codes: Vec<String>,
    /// What is wrong with it by itself.
    pub flaws: Vec<MarkupFlaw>,
}

impl PlannedMarkup {
    pub(super) fn new(text: FileText, markup: &Markup) -> Self {
        let (names, codes) = said_by(text.text.as_str());
        let at = markup.at.as_ref().map(|at| at.value.clone());
        let at_span = markup.at.as_ref().map_or(markup.span, |at| at.span);
        let flaws = markup_flaws(text.text.as_str());
        PlannedMarkup { text, place: markup.place, at, at_span, names, codes, flaws }
    }

    /// The same as something that a script puts in.
    pub fn late(&self, pin: &Pin) -> LateMarkup {
        LateMarkup {
            html: self.text.text.as_str().to_owned(),
            place: self.place,
            at: self.at.as_ref().map(|at| at.text.clone()),
            within: pin.within.as_ref().map(|within| within.text.clone()),
        }
    }
}

/// The names in a piece of markup, and the code in it.
fn said_by(html: &str) -> (Vec<NamedPart>, Vec<String>) {
    let (mut names, mut codes) = (Vec::new(), Vec::new());
    for (span, piece) in markup_pieces(html) {
        let MarkupPiece::StartTag { name, .. } = piece else { continue };
        names.push(NamedPart::Tag(LocalName::from(name.as_str())));
        let tag = &html[span.range()];
        for attribute in tag_attributes(tag).1 {
            let value = attribute.value.map_or("", |value| &tag[value.range()]);
            match tag[attribute.name.range()].to_ascii_lowercase().as_str() {
                "id" if !value.is_empty() => names.push(NamedPart::Id(LocalName::from(value))),
                "class" => {
                    let classes = value.split_ascii_whitespace();
                    names.extend(classes.map(|class| NamedPart::Class(LocalName::from(class))));
                }
                other if other.starts_with("on") => codes.push(value.to_owned()),
                _ => codes.extend(value.trim_start().strip_prefix("javascript:").map(str::to_owned)),
            }
        }
    }
    names.sort();
    names.dedup();
    (names, codes)
}
