//! A page that has been read: its text and its tree.

use std::cell::OnceCell;

use encoding_rs::Encoding;

use super::pages::Page;
use crate::markup::{Document, ElementRef, parse};
use crate::source::{Decoded, LineIndex, Position};

/// A page of a site with its text and its tree.
pub struct ParsedPage<'a> {
    /// The page.
    pub page: &'a Page,
    /// Its bytes, as they were read.
    pub bytes: &'a [u8],
    /// Its characters.
    pub decoded: Decoded<'a>,
    /// Its tree.
    pub document: Document,
    lines: OnceCell<LineIndex>,
}

impl<'a> ParsedPage<'a> {
    /// Parses a page.
    pub fn new(page: &'a Page, bytes: &'a [u8]) -> Self {
        let (decoded, document) = parse(bytes);
        ParsedPage { page, bytes, decoded, document, lines: OnceCell::new() }
    }

    /// Its text.
    pub fn text(&self) -> &str {
        self.decoded.text()
    }

    /// The encoding that it is in.
    pub fn encoding(&self) -> &'static Encoding {
        self.decoded.encoding()
    }

    /// The line and column of a byte of its text.
    pub fn position(&self, at: u32) -> Position {
        self.lines.get_or_init(|| LineIndex::new(self.text())).position(self.text(), at)
    }

    /// The line that an element begins on, from 1.
    pub fn line_of(&self, element: ElementRef<'_>) -> u32 {
        self.position(element.data().start()).line
    }
}
