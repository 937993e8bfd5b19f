//! The pieces for the boxes of pages, and for blocks inside them.

use std::collections::BTreeMap;

use super::left_out::fits_frame;
use super::paste_page::PastePage;
use super::piece::{Piece, PiecePart};
use super::piece_maker::{Draft, PieceMaker};
use crate::board::HostBox;
use crate::code::{CodeKind, PageId};
use crate::plan::Part;

impl PieceMaker<'_> {
    /// The pieces for the boxes of pages; those of the same text are one.
    pub(super) fn of_pages(&mut self, of: HostBox) -> Vec<Piece> {
        let in_box = self.context.layout.in_box(of);
        let mut by_parts: BTreeMap<Vec<Part>, Vec<PageId>> = BTreeMap::new();
        for page in self.pages {
            let parts: Vec<Part> = in_box.iter().copied().filter(|part| page.parts.contains(part)).collect();
            let parts = match self.host.is_framed {
                true => self.framed_parts(page),
                false => parts,
            };
            if !parts.is_empty() {
                by_parts.entry(parts).or_default().push(page.page);
            }
        }
        let mut found: Vec<Piece> = Vec::new();
        for (parts, pages) in by_parts {
            let mut draft = Draft::default();
            if self.host.is_framed {
                self.framed(of, &parts, &pages, &mut draft);
            } else {
                self.content(of, &parts, &mut draft, false);
            }
            for part in &parts {
                let Part::Code(code) = *part else { continue };
                if self.host.is_framed && code.kind == CodeKind::Style {
                    continue;
                }
                let Some(text) = self.code(of, code, None, &mut draft) else { continue };
                draft.add(self.plan, *part, &pages, PiecePart::of(text, *part));
            }
            found.extend(draft.into_piece(of, pages));
        }
        found.sort_by_key(|piece| piece.pages.first().copied());
        found
    }

    /// What of a page can stand in a frame: pins whose markup is for the very place of the block.
    fn framed_parts(&self, page: &PastePage) -> Vec<Part> {
        let fits = |part: &&Part| self.plan.pins_of(**part).iter().any(|pin| fits_frame(self.plan, *pin));
        let mut parts: Vec<Part> = page.parts.iter().filter(fits).copied().collect();
        // A style counts before what it is for is seen, and a script finds it there.
        parts.sort_by_key(|part| match part {
            Part::Code(code) if code.kind == CodeKind::Style => 0,
            Part::Content(_) => 1,
            Part::Code(_) => 2,
        });
        parts
    }

    /// The sheets and the markup of pins, as they stand in a frame of their own.
    fn framed(&mut self, of: HostBox, parts: &[Part], pages: &[PageId], draft: &mut Draft) {
        for part in parts {
            match *part {
                Part::Code(code) if code.kind == CodeKind::Style => {
                    let Some(text) = self.code(of, code, None, draft) else { continue };
                    draft.add(self.plan, *part, pages, PiecePart::of(text, *part));
                }
                Part::Content(pin) => {
                    let html: String =
                        self.plan.pins[pin].markup.iter().map(|own| own.text.text.as_str()).collect();
                    let html = self.writer.assets.markup(&html);
                    let end = if html.ends_with('\n') { "" } else { "\n" };
                    draft.add(self.plan, *part, pages, PiecePart::of(format!("{html}{end}"), *part));
                }
                Part::Code(_) => {}
            }
        }
    }
}
