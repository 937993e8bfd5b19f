//! Where markup stands, as seen from an element, and the bytes of a page's text where that is.

use html5ever::{local_name, ns};
use serde::{Deserialize, Serialize};

use super::document::{Document, Element, ElementRef, NodeData, NodeId, Origin};
use super::parse::is_void;
use crate::source::Span;

/// Where markup stands, as seen from an element: the words of the DOM standard, and `wrap`.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, schemars::JsonSchema,
)]
#[serde(rename_all = "lowercase")]
pub enum MarkupPlace {
    /// Before the element.
    Before,
    /// In the element, before all that it holds.
    Prepend,
    /// In the element, behind all that it holds.
    Append,
    /// Behind the element.
    After,
    /// In the element's stead.
    Replace,
    /// Around the element.
    Wrap,
}

impl MarkupPlace {
    /// All places.
    pub const ALL: [MarkupPlace; 6] = [
        MarkupPlace::Before,
        MarkupPlace::Prepend,
        MarkupPlace::Append,
        MarkupPlace::After,
        MarkupPlace::Replace,
        MarkupPlace::Wrap,
    ];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            MarkupPlace::Before => "before",
            MarkupPlace::Prepend => "prepend",
            MarkupPlace::Append => "append",
            MarkupPlace::After => "after",
            MarkupPlace::Replace => "replace",
            MarkupPlace::Wrap => "wrap",
        }
    }

    /// Whether what is put in stands beside the element, and not in it.
    pub fn is_beside(self) -> bool {
        !matches!(self, MarkupPlace::Prepend | MarkupPlace::Append)
    }
}

/// The end of an element in the text: where it is over, and the end tags that have to be written first for what
/// is left open in it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ElementEnd {
    /// Where its end tag begins, or what ends it.
    pub inner: u32,
    /// Where it is over.
    pub outer: u32,
    /// End tags for the open elements in it, innermost first.
    pub closers: String,
    /// Whether an end tag of its own has to be written as well before something can stand behind it.
    pub is_open: bool,
}

impl ElementEnd {
    /// End tags for all that has to be over before something can stand behind the element.
    pub fn closers_behind(&self, element: ElementRef<'_>) -> String {
        if self.is_open { format!("{}</{}>", self.closers, element.name.local) } else { String::new() }
    }
}

impl Document {
    /// The start tag of an element; none of one that has none in the text.
    pub fn start_tag(&self, element: ElementRef<'_>) -> Option<Span> {
        match element.data().origin {
            Origin::Tag(span) => Some(span),
            Origin::Implied(_) => None,
        }
    }

    /// Where what an element holds begins in the text: behind its tag, or where the parser made it up for that. None
    /// where it made it up for something else.
    pub fn inside_of(&self, element: ElementRef<'_>) -> Option<u32> {
        if holds_nothing(element.data(), "") || element.is_html(&local_name!("template")) {
            return None;
        }
        // What is opened again in it takes up what is written there.
        let first = self.children(element.id).next().and_then(|id| self.element(id));
        let is_tagged = matches!(element.data().origin, Origin::Tag(_));
        let reopens = |first: ElementRef<'_>| {
            matches!(first.data().origin, Origin::Implied(_))
                && !matches!(
                    first.name.local,
                    local_name!("tbody") | local_name!("tr") | local_name!("colgroup")
                )
        };
        if is_tagged && first.is_some_and(reopens) {
            return None;
        }
        let is_for_what_follows = matches!(
            element.name.local,
            local_name!("body") | local_name!("tbody") | local_name!("tr") | local_name!("colgroup")
        );
        match element.data().origin {
            Origin::Tag(span) => Some(span.end),
            Origin::Implied(at) => is_for_what_follows.then_some(at),
        }
    }

    /// Whether something stands right before an element that is written in it: a browser moves out of a table what
    /// does not belong there (HTML, "foster parent").
    pub fn has_fostered(&self, element: ElementRef<'_>, text: &str) -> bool {
        let Some(tag) = self.start_tag(element) else { return false };
        match self.node(element.id).previous.map(|id| &self.node(id).data) {
            Some(NodeData::Text(before)) => {
                before.ends_with(|c: char| !c.is_ascii_whitespace())
                    && text[..tag.start as usize].ends_with('>')
            }
            Some(NodeData::Element(before)) => before.start() > tag.start,
            _ => false,
        }
    }

    /// Whether what stands right behind an element is opened again there by the parser: what is written between them
    /// stands in that.
    pub fn is_reopened(&self, element: ElementRef<'_>) -> bool {
        let next = self.node(element.id).next.and_then(|id| self.element(id));
        next.is_some_and(|next| matches!(next.data().origin, Origin::Implied(_)))
    }

    /// Where an element ends in the text; `text` is the page's. None where that cannot be told.
    pub fn end_of(&self, element: ElementRef<'_>, text: &str) -> Option<ElementEnd> {
        let data = element.data();
        if element.is_html(&local_name!("body")) && data.end_tag.is_none() {
            let foot = self.slots().gap(super::Slot::Foot)?;
            let closers = format!("{}{}", self.open_below(element.id, text), foot.closers.0);
            return Some(ElementEnd { inner: foot.at, outer: foot.at, closers, is_open: true });
        }
        let tag = match data.origin {
            Origin::Tag(span) => span,
            Origin::Implied(_) => self.inside_of(element).map(|at| Span { start: at, end: at })?,
        };
        if matches!(data.origin, Origin::Tag(_)) && holds_nothing(data, &text[tag.range()]) {
            return Some(ElementEnd {
                inner: tag.end,
                outer: tag.end,
                closers: String::new(),
                is_open: false,
            });
        }
        let closers = self.open_below(element.id, text);
        let end = match data.end_tag {
            Some(end) => ElementEnd { inner: end.start, outer: end.end, closers, is_open: false },
            None => {
                let at = self.what_ends(element, text)?;
                ElementEnd { inner: at, outer: at, closers, is_open: true }
            }
        };
        // What is ended only behind it is opened again there.
        let last = self.last_element(element.id).and_then(|last| last.data().end_tag);
        (end.inner >= tag.end && last.is_none_or(|last| last.end <= end.inner)).then_some(end)
    }

    /// The byte at which something ends an element that has no end tag: a tag behind it, or the end of what it
    /// stands in.
    fn what_ends(&self, element: ElementRef<'_>, text: &str) -> Option<u32> {
        let mut id = element.id;
        loop {
            let mut next = self.node(id).next;
            while let Some(after) = next {
                match &self.node(after).data {
                    // Behind a comment or a text nobody knows where they begin.
                    NodeData::Element(after) => {
                        return match after.origin {
                            Origin::Tag(span) => Some(span.start),
                            Origin::Implied(_) => None,
                        };
                    }
                    NodeData::Text(text) if text.bytes().all(|b| b.is_ascii_whitespace()) => {
                        next = self.node(after).next
                    }
                    _ => return None,
                }
            }
            id = self.node(id).parent?;
            match &self.node(id).data {
                NodeData::Element(parent) => match parent.end_tag {
                    Some(end) => return Some(end.start),
                    None if matches!(parent.origin, Origin::Implied(_)) || parent.name.ns == ns!(html) => {}
                    None => return None,
                },
                _ => return u32::try_from(text.len()).ok(),
            }
        }
    }

    /// End tags for what an element ends in and no end tag closes, innermost first.
    fn open_below(&self, id: NodeId, text: &str) -> String {
        let mut open = Vec::new();
        let mut id = id;
        while let Some(last) = self.last_element(id) {
            let data = last.data();
            if data.end_tag.is_some()
                || matches!(data.origin, Origin::Implied(_))
                || self.is_empty(last, text)
            {
                break;
            }
            open.push(format!("</{}>", data.name.local));
            id = last.id;
        }
        open.reverse();
        open.concat()
    }

    /// End tags for what stands right before an element and no tag ends, innermost first.
    pub fn open_before(&self, element: ElementRef<'_>, text: &str) -> String {
        let before = self.node(element.id).previous.and_then(|id| self.element(id));
        let Some(before) = before else { return String::new() };
        let data = before.data();
        if matches!(data.origin, Origin::Implied(_)) || data.end_tag.is_some() || self.is_empty(before, text)
        {
            return String::new();
        }
        format!("{}</{}>", self.open_below(before.id, text), data.name.local)
    }

    /// Whether an element has no end tag because it cannot hold anything.
    fn is_empty(&self, element: ElementRef<'_>, text: &str) -> bool {
        let tag = self.start_tag(element).map_or("", |tag| &text[tag.range()]);
        holds_nothing(element.data(), tag)
    }

    fn last_element(&self, id: NodeId) -> Option<ElementRef<'_>> {
        let mut last = self.node(id).last_child;
        while let Some(child) = last {
            match &self.node(child).data {
                NodeData::Element(_) => return self.element(child),
                NodeData::Text(text) if text.bytes().all(|b| b.is_ascii_whitespace()) => {
                    last = self.node(child).previous
                }
                _ => return None,
            }
        }
        None
    }
}

/// Whether an element cannot hold anything: a void one, or one of SVG or MathML that its tag ends.
fn holds_nothing(element: &Element, tag: &str) -> bool {
    if element.name.ns != ns!(html) {
        return tag.ends_with("/>");
    }
    // Some of old hold nothing either.
    let is_old = matches!(
        element.name.local,
        local_name!("param")
            | local_name!("frame")
            | local_name!("basefont")
            | local_name!("bgsound")
            | local_name!("keygen")
    );
    is_void(&element.name.local) || is_old
}
