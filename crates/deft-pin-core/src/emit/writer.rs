//! One page with its placements, as bytes: the page's own, and between them what is put in.

use std::ops::Range;

use super::emitter::{Embedding, Emitter, Refused};
use super::proof::stands_as_meant;
use super::tags::{Link, inlined, linked};
use crate::code::{Owner, beside_marks_in, encode_segment};
use crate::markup::{Document, Gap, Slot};
use crate::page::PageAnalysis;
use crate::plan::{CodeSource, Placement};
use crate::site::Base;
use crate::source::{Decoded, offset, unshifted};

/// Writes the placements of one page.
pub(super) struct Writer<'w> {
    emitter: Emitter<'w>,
    page: &'w PageAnalysis<'w>,
    decoded: &'w Decoded<'w>,
    document: &'w Document,
    base: Base,
}

/// What has been written so far that must not be written twice.
#[derive(Default)]
struct State {
    body_opened: bool,
    closed_at: Option<u32>,
}

/// How far into a page a browser looks for its encoding (HTML, "prescan a byte stream to determine
/// its encoding").
const PRESCAN_BYTES: u32 = 1024;

impl<'w> Writer<'w> {
    pub(super) fn new(emitter: Emitter<'w>, page: &'w PageAnalysis<'w>) -> Self {
        let (decoded, document) = (&page.parsed().decoded, page.document());
        Writer { emitter, page, decoded, document, base: Base::of(document, page.page()) }
    }

    /// The element of each placement; none for one that cannot be written there.
    pub(super) fn elements(&self) -> Vec<Option<String>> {
        let element = |placement: &Placement| self.element(placement, self.page.gap(placement.at)?);
        self.page.placements().iter().map(element).collect()
    }

    /// The bytes of the page with these elements in their slots, and every other byte as it was.
    pub(super) fn write(&self, elements: &[Option<String>]) -> Result<Vec<u8>, Refused> {
        let placements = self.page.placements();
        let bytes = &*self.page.parsed().bytes;
        let is_wanted = |slot: &Slot| placements.iter().any(|placement| placement.at.slot() == *slot);
        let wanted: Vec<Slot> = Slot::ALL.into_iter().filter(is_wanted).collect();
        let gap = |slot: Slot| self.document.slots().gap(slot);
        let lacking: Vec<Slot> = wanted.iter().copied().filter(|slot| gap(*slot).is_none()).collect();
        if !lacking.is_empty() {
            return Err(Refused(lacking));
        }
        let mut out = Vec::with_capacity(bytes.len() + 256 * placements.len());
        let mut inserted = Vec::new();
        let mut done = 0;
        let mut addresses = self.addresses().into_iter().peekable();
        let write_address =
            |out: &mut Vec<u8>, done: &mut usize, (range, address): (Range<usize>, Vec<u8>)| {
                out.extend_from_slice(bytes.get(*done..range.start).unwrap_or_default());
                out.extend_from_slice(&address);
                *done = range.end;
            };
        let mut state = State::default();
        for slot in wanted {
            let of_slot =
                placements.iter().zip(elements).filter(|(placement, _)| placement.at.slot() == slot);
            let elements: Option<Vec<&str>> = of_slot.map(|(_, element)| element.as_deref()).collect();
            let insertion = gap(slot)
                .zip(elements)
                .and_then(|(gap, elements)| Some((gap, self.insertion(slot, gap, &elements, &mut state)?)));
            let Some((gap, mut insertion)) = insertion else { return Err(Refused(vec![slot])) };
            let at = self.decoded.origin(self.place(slot, gap, insertion.len())) as usize;
            if self.decoded.encoding() == encoding_rs::ISO_2022_JP {
                insertion = unshifted(insertion, bytes, at);
            }
            while let Some(address) = addresses.next_if(|(range, _)| range.end <= at) {
                write_address(&mut out, &mut done, address);
            }
            out.extend_from_slice(bytes.get(done..at).unwrap_or_default());
            inserted.push(out.len()..out.len() + insertion.len());
            out.extend_from_slice(&insertion);
            done = at.max(done);
        }
        for address in addresses {
            write_address(&mut out, &mut done, address);
        }
        out.extend_from_slice(bytes.get(done..).unwrap_or_default());
        if self.document.slots().plain() {
            return Ok(out);
        }
        let wrong = stands_as_meant(&out, placements, &inserted);
        if wrong.is_empty() { Ok(out) } else { Err(Refused(wrong)) }
    }

    /// The addresses in markup of pins of files that go along: the bytes of what stands for each, and those of itself.
    fn addresses(&self) -> Vec<(Range<usize>, Vec<u8>)> {
        if !self.page.has_beside_marks() {
            return Vec::new();
        }
        let text = self.decoded.text();
        let place = |range: Range<usize>| {
            let (start, end) = (offset(range.start), offset(range.end));
            // A base on another host leaves no relative way.
            let prefix = self.prefix_at(start).unwrap_or_default();
            let address =
                self.emitter.files.addressed(&text[range], &|url| format!("{prefix}{}", url.name()));
            let bytes = self.decoded.encode(&address)?.into_owned();
            Some((self.decoded.origin(start) as usize..self.decoded.origin(end) as usize, bytes))
        };
        beside_marks_in(text).filter_map(|(range, _)| place(range)).collect()
    }

    /// Where a slot's code is written: at its gap, or behind the `<meta>` that names the page's
    /// encoding where the code would push that too far down.
    fn place(&self, slot: Slot, gap: &Gap, length: usize) -> u32 {
        match self.document.slots().meta_end() {
            Some(end) if slot == Slot::HeadStart && gap.at < end => {
                let pushed =
                    self.decoded.origin(end).saturating_add(u32::try_from(length).unwrap_or(u32::MAX));
                if pushed > PRESCAN_BYTES { end } else { gap.at }
            }
            _ => gap.at,
        }
    }

    /// What is written at a slot's gap, in the page's encoding.
    fn insertion(&self, slot: Slot, gap: &Gap, elements: &[&str], state: &mut State) -> Option<Vec<u8>> {
        let mut out = Vec::new();
        let mut write = |text: &str| -> Option<()> {
            out.extend_from_slice(&self.decoded.encode(text)?);
            Some(())
        };
        if state.closed_at != Some(gap.at) {
            write(&gap.closers.0)?;
            state.closed_at = Some(gap.at);
        }
        if gap.opens_body && !std::mem::replace(&mut state.body_opened, true) {
            write("<body>")?;
        }
        // Blanks between elements of the head are nothing to anybody; in the body they are text.
        let line_end = if self.decoded.text().contains("\r\n") { "\r\n" } else { "\n" };
        for element in elements {
            if slot == Slot::HeadStart {
                write(line_end)?;
            }
            write(element)?;
            if slot == Slot::Head {
                write(line_end)?;
            }
        }
        Some(out)
    }

    fn element(&self, placement: &Placement, gap: &Gap) -> Option<String> {
        let (plan, files) = (self.emitter.plan, self.emitter.files);
        let owner = plan.name_of(placement.code.owner);
        let kind = placement.code.kind;
        match plan.code(placement.code)? {
            CodeSource::Remote(url) => {
                let integrity = match placement.code.owner {
                    Owner::Library(library) => plan.board.libraries[library].integrity.get(url),
                    Owner::Pin(_) => None,
                };
                let load = plan.load_of(placement.code);
                let link = Link::Remote { url, integrity: integrity.map(String::as_str), load };
                Some(linked(kind, owner, &link))
            }
            CodeSource::File(..) => {
                let code = files.code(placement.code)?;
                let prefix = self.prefix(gap);
                // A base on another host leaves no relative way to the folder of assets.
                if self.emitter.embedding == Embedding::Inline || prefix.is_none() {
                    let element = inlined(kind, owner, code, prefix.as_deref().unwrap_or_default());
                    if let Some(element) = element.filter(|text| self.decoded.encode(text).is_some()) {
                        return Some(element);
                    }
                }
                let says_charset = !self.decoded.says_utf8();
                Some(linked(kind, owner, &Link::File { code, prefix: &prefix?, says_charset }))
            }
        }
    }

    /// The way from the page to the folder of assets. What stands before the page's `<base>` is
    /// loaded before the base counts.
    fn prefix(&self, gap: &Gap) -> Option<String> {
        self.prefix_at(gap.at)
    }

    fn prefix_at(&self, at: u32) -> Option<String> {
        let based = self
            .base
            .element
            .and_then(|id| self.document.element(id))
            .is_some_and(|base| base.data().start() < at);
        let up = if based { self.base.up? } else { self.base.own_up };
        Some(format!("{}{}/", "../".repeat(up as usize), encode_segment(&self.emitter.files.folder)))
    }
}
