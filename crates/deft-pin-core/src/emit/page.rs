//! One page with its placements: the page's own bytes, and between them what is put in.

use super::assets::Assets;
use super::proof::stands_as_meant;
use super::tags::{inlined, linked};
use crate::markup::{Document, Gap, Slot};
use crate::plan::{Content, Owner, Placement, Plan};
use crate::site::{Base, Page, encode_segment};
use crate::source::Decoded;

/// Execution code is put into pages.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Manner {
    /// As elements that link files.
    #[default]
    Linked,
    /// As elements that hold the text, wherever it can stand in the page.
    Inline,
}

/// The slots that a page has no place for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Refused(pub Vec<Slot>);

/// The bytes of a page with its placements in their slots, and every other byte as it was.
///
/// # Errors
/// The page has no place for some slot; then nothing is put into it.
pub fn customise(
    plan: &Plan<'_>,
    assets: &Assets,
    manner: Manner,
    page: &Page,
    bytes: &[u8],
    (decoded, document): (&Decoded<'_>, &Document),
    placements: &[Placement<'_>],
) -> Result<Vec<u8>, Refused> {
    let lacking =
        |slot: &Slot| document.slots().gap(*slot).is_none() && placements.iter().any(|p| p.slot == *slot);
    let lacking: Vec<Slot> = Slot::ALL.into_iter().filter(lacking).collect();
    if !lacking.is_empty() {
        return Err(Refused(lacking));
    }
    let writer = Writer { plan, assets, manner, decoded, base: Base::of(document, page), document };
    let mut out = Vec::with_capacity(bytes.len() + 256 * placements.len());
    let mut done = 0;
    let mut state = State::default();
    for slot in Slot::ALL {
        let Some(gap) = document.slots().gap(slot).filter(|_| placements.iter().any(|p| p.slot == slot))
        else {
            continue;
        };
        let Some(insertion) = writer.insertion(slot, gap, placements, &mut state) else {
            return Err(Refused(vec![slot]));
        };
        let at = decoded.origin(writer.place(slot, gap, insertion.len())) as usize;
        out.extend_from_slice(bytes.get(done..at).unwrap_or_default());
        out.extend_from_slice(&insertion);
        done = at.max(done);
    }
    out.extend_from_slice(bytes.get(done..).unwrap_or_default());
    if document.slots().plain() {
        return Ok(out);
    }
    let wrong = stands_as_meant(&out, placements);
    if wrong.is_empty() { Ok(out) } else { Err(Refused(wrong)) }
}

/// The elements of some placements as they are written into a page; none for one that cannot be.
pub(super) fn elements(
    plan: &Plan<'_>,
    assets: &Assets,
    manner: Manner,
    page: &Page,
    (decoded, document): (&Decoded<'_>, &Document),
    placements: &[Placement<'_>],
) -> Vec<Option<String>> {
    let writer = Writer { plan, assets, manner, decoded, base: Base::of(document, page), document };
    let element = |placement| writer.element(placement, document.slots().gap(placement.slot)?);
    placements.iter().map(element).collect()
}

/// What has been written so far that must not be written twice.
#[derive(Default)]
struct State {
    body_opened: bool,
    closed_at: Option<u32>,
}

struct Writer<'w> {
    plan: &'w Plan<'w>,
    assets: &'w Assets,
    manner: Manner,
    decoded: &'w Decoded<'w>,
    base: Base,
    document: &'w Document,
}

/// Execution far into a page a browser looks for its encoding (HTML 13.2.3.2).
const PRESCAN_BYTES: u32 = 1024;

impl Writer<'_> {
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
    fn insertion(
        &self,
        slot: Slot,
        gap: &Gap,
        placements: &[Placement<'_>],
        state: &mut State,
    ) -> Option<Vec<u8>> {
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
        for placement in placements.iter().filter(|placement| placement.slot == slot) {
            if slot == Slot::HeadStart {
                write(line_end)?;
            }
            write(&self.element(placement, gap)?)?;
            if slot == Slot::Head {
                write(line_end)?;
            }
        }
        Some(out)
    }

    fn element(&self, placement: &Placement<'_>, gap: &Gap) -> Option<String> {
        let owner = self.plan.name_of(placement.part.owner);
        let part = self.assets.part(placement.part);
        let prefix = self.prefix(gap);
        let inline = |prefix: &str| {
            let element = inlined(placement, part?, owner, prefix)?;
            self.decoded.encode(&element).is_some().then_some(element)
        };
        if placement.content == Content::Local {
            // A base on another host leaves no relative way to the folder of assets.
            let wanted = self.manner == Manner::Inline || prefix.is_none();
            if let Some(element) = wanted.then(|| inline(prefix.as_deref().unwrap_or_default())).flatten() {
                return Some(element);
            }
        }
        let charset = self.decoded.encoding() != encoding_rs::UTF_8;
        let prefix = match placement.content {
            Content::Local => prefix?,
            Content::Remote(_) => String::new(),
        };
        let integrity = match (placement.content, placement.part.owner) {
            (Content::Remote(url), Owner::Library(at)) => self.plan.board.libraries[at].integrity.get(url),
            _ => None,
        };
        Some(linked(placement, part, owner, &prefix, charset, integrity.map(String::as_str)))
    }

    /// The way from the page to the folder of assets. What stands before the page's `<base>` is
    /// loaded before the base counts.
    fn prefix(&self, gap: &Gap) -> Option<String> {
        let based = self
            .base
            .element
            .and_then(|id| self.document.element(id))
            .is_some_and(|base| base.start() < gap.at);
        let up = if based { self.base.up? } else { self.base.own_up };
        Some(format!("{}{}/", "../".repeat(up), encode_segment(&self.assets.folder)))
    }
}
