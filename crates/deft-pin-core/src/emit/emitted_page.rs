//! Pages with their placements: the elements that are put in, the bytes that come out, and the slots
//! that a page has no place for. What nobody asks for is not worked out.

use std::cell::OnceCell;

use encoding_rs::{UTF_8, UTF_16BE, UTF_16LE};

use super::emitter::{Emitter, Refused};
use super::writer::Writer;
use crate::markup::Slot;
use crate::page::PageAnalysis;

/// A page with its placements.
pub struct EmittedPage<'e> {
    emitter: Emitter<'e>,
    page: &'e PageAnalysis<'e>,
    elements: OnceCell<Vec<Option<String>>>,
    bytes: OnceCell<Result<Vec<u8>, Refused>>,
}

impl<'a> Emitter<'a> {
    /// A page with its placements.
    pub fn page(self, page: &'a PageAnalysis<'a>) -> EmittedPage<'a> {
        EmittedPage { emitter: self, page, elements: OnceCell::new(), bytes: OnceCell::new() }
    }
}

impl<'e> EmittedPage<'e> {
    /// The page.
    pub fn page(&self) -> &'e PageAnalysis<'e> {
        self.page
    }

    fn writer(&self) -> Writer<'e> {
        Writer::new(self.emitter, self.page)
    }

    /// For each placement of the page its element as it is written; none for one that cannot be.
    pub fn elements(&self) -> &[Option<String>] {
        self.elements.get_or_init(|| self.writer().elements())
    }

    fn written(&self) -> &Result<Vec<u8>, Refused> {
        self.bytes.get_or_init(|| self.writer().write(self.elements()))
    }

    /// The bytes of the page with its placements in their slots, and every other byte as it was;
    /// none where nothing is put into it.
    pub fn bytes(&self) -> Option<&[u8]> {
        let parsed = self.page.parsed();
        let is_written = self.page.placements().is_empty() && !self.page.has_beside_marks();
        match is_written {
            true => parsed.served().map(|_| &*parsed.bytes),
            false => self.written().as_deref().ok(),
        }
    }

    /// The slots that code was meant for and the page has no place for. Most pages tell by their
    /// tree; odd ones have to be written for that.
    pub fn refused(&self) -> Vec<Slot> {
        let placements = self.page.placements();
        if self.page.context().layout.has_boxes {
            return Vec::new();
        }
        let document = self.page.document();
        let is_wanted = |slot: &Slot| placements.iter().any(|placement| placement.at.slot() == *slot);
        let lacking: Vec<Slot> = Slot::ALL
            .into_iter()
            .filter(|slot| is_wanted(slot) && document.slots().gap(*slot).is_none())
            .collect();
        let encoding = self.page.parsed().encoding();
        let takes_any_text = encoding == UTF_8 || encoding == UTF_16LE || encoding == UTF_16BE;
        let is_plain = document.slots().plain() && takes_any_text && document.base().is_none();
        if !lacking.is_empty() || is_plain || placements.is_empty() {
            return lacking;
        }
        self.written().as_ref().err().map(|refused| refused.0.clone()).unwrap_or_default()
    }
}
