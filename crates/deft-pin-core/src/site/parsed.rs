//! A page that has been read: its text and its tree.

use std::borrow::Cow;
use std::cell::OnceCell;

use encoding_rs::Encoding;

use super::pages::Page;
use crate::markup::{Document, ElementRef, parse};
use crate::source::{Decoded, LineIndex, Position};

/// A page of a site with its text and its tree.
pub struct ParsedPage<'a> {
    /// The page.
    pub page: &'a Page,
    /// Its bytes, with what was put in before it was read.
    pub bytes: Cow<'a, [u8]>,
    /// Its characters.
    pub decoded: Decoded<'a>,
    /// Its tree.
    pub document: Document,
    lines: OnceCell<LineIndex>,
    /// The page as it is served, where something was put in.
    served: Option<ServedText>,
}

/// The text of a page as it is served, and where each part of it stands now.
#[derive(Debug, Default)]
pub struct ServedText {
    /// The text.
    pub text: String,
    /// From each of these offsets of the text as it is now on, what was served from the offset beside it; what was
    /// put in stands where it was put.
    pub rows: Vec<ServedRow>,
}

/// A stretch of a text that something was put into.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct ServedRow {
    /// Where it begins now.
    pub at: u32,
    /// Where it begins, or was put, in the text as it is served.
    pub served: u32,
    /// Whether it was put in.
    pub is_new: bool,
}

impl ServedText {
    fn row(&self, at: u32) -> Option<&ServedRow> {
        let after = self.rows.partition_point(|row| row.at <= at);
        self.rows[..after].last()
    }

    /// The place in the text as it is served that a place is now.
    pub fn place(&self, at: u32) -> u32 {
        match self.row(at) {
            Some(row) if row.is_new => row.served,
            Some(row) => row.served + (at - row.at),
            None => at,
        }
    }

    /// Whether a place is in something that was put in.
    pub fn is_new(&self, at: u32) -> bool {
        self.row(at).is_some_and(|row| row.is_new)
    }
}

impl<'a> ParsedPage<'a> {
    /// Parses a page.
    pub fn new(page: &'a Page, bytes: &'a [u8]) -> Self {
        let (decoded, document) = parse(bytes);
        let bytes = Cow::Borrowed(bytes);
        ParsedPage { page, bytes, decoded, document, lines: OnceCell::new(), served: None }
    }

    /// Parses a page that something was put into.
    pub fn with_content(page: &'a Page, bytes: Vec<u8>, served: ServedText) -> Self {
        let (decoded, document) = parse(&bytes);
        let decoded = decoded.into_owned();
        let bytes = Cow::Owned(bytes);
        ParsedPage { page, bytes, decoded, document, lines: OnceCell::new(), served: Some(served) }
    }

    /// The same page with what was put in, in a tree that is made of the old one.
    pub fn grown(
        self,
        bytes: Vec<u8>,
        decoded: Decoded<'a>,
        served: ServedText,
        grow: impl FnOnce(Document) -> Document,
    ) -> Self {
        let (page, bytes) = (self.page, Cow::Owned(bytes));
        let document = grow(self.document);
        ParsedPage { page, bytes, decoded, document, lines: OnceCell::new(), served: Some(served) }
    }

    /// The page as it is served, where something was put in.
    pub fn served(&self) -> Option<&ServedText> {
        self.served.as_ref()
    }

    /// Its text.
    pub fn text(&self) -> &str {
        self.decoded.text()
    }

    /// The encoding that it is in.
    pub fn encoding(&self) -> &'static Encoding {
        self.decoded.encoding()
    }

    /// The line and column of a byte of its text, in the page as it is served.
    pub fn position(&self, at: u32) -> Position {
        let (text, at) = match &self.served {
            Some(served) => (served.text.as_str(), served.place(at)),
            None => (self.text(), at),
        };
        self.lines.get_or_init(|| LineIndex::new(text)).position(text, at)
    }

    /// The line that an element begins on, from 1.
    pub fn line_of(&self, element: ElementRef<'_>) -> u32 {
        self.position(element.data().start()).line
    }
}
