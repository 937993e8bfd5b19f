//! The pieces that a script of the host puts in, each on its own pages.

use super::piece::{Piece, PiecePart};
use super::piece_maker::{Draft, PieceMaker};
use crate::board::HostBox;
use crate::code::PageId;
use crate::plan::Part;
use crate::start::PinTest;

impl PieceMaker<'_> {
    /// Pieces that a script of the host puts in, each on its own pages.
    pub(super) fn inserted(&mut self, of: HostBox) -> Vec<Piece> {
        let parts = self.parts_in(of, |part| self.on.contains_key(&part));
        let mut held = Vec::new();
        let mut found: Vec<Piece> = self.content_piece(of, &parts, &mut held).into_iter().collect();
        let parts = parts.into_iter().filter(|part| matches!(part, Part::Code(_)));
        // What is for the same pages goes together, as long as nothing of other pages has to come between.
        let mut groups: Vec<(Vec<PageId>, Vec<PinTest>, Vec<Part>)> = Vec::new();
        for part in parts {
            let mut pages = self.meant(part);
            if let Some(lacking) = self.lacking.get(&part) {
                pages.retain(|page| !lacking.contains(page));
            }
            let meets = |other: &[PageId]| other.iter().any(|page| pages.binary_search(page).is_ok());
            let mut at = None;
            let tests = self.paths_of(part);
            for (number, (own, of_own, _)) in groups.iter().enumerate().rev() {
                if *own == pages && *of_own == tests {
                    at = Some(number);
                    break;
                }
                if meets(own) {
                    break;
                }
            }
            match at {
                Some(at) => groups[at].2.push(part),
                None => groups.push((pages, tests, vec![part])),
            }
        }
        for (pages, _, parts) in groups {
            let mut draft = Draft::default();
            for part in &parts {
                let Part::Code(code) = *part else { continue };
                let inner = self.test_in(*part, &held).and_then(|test| test.without_paths());
                let Some(text) = self.code(of, code, inner.as_ref(), &mut draft) else { continue };
                let on = self.on.get(part).cloned().unwrap_or_default();
                draft.add(self.plan, *part, &on, PiecePart::of(text, *part));
            }
            let Some(mut piece) = draft.into_piece(of, Vec::new()) else { continue };
            let Some(first) = parts.first() else { continue };
            let is_everywhere = self.plan.is_everywhere(*first) && !self.lacking.contains_key(first);
            let shown_on = (!is_everywhere).then_some(pages);
            if shown_on.is_some() {
                for pin in self.plan.pins_of(*first) {
                    let own = &self.plan.board.pins[pin];
                    piece.patterns.extend(own.pages.iter().map(|pattern| pattern.as_str().to_owned()));
                    piece.but.extend(own.skip.iter().map(|pattern| pattern.as_str().to_owned()));
                }
                let lacking = self.lacking.get(first).into_iter().flatten();
                piece.but.extend(lacking.map(|page| self.page(*page).path.as_str().to_owned()));
                for list in [&mut piece.patterns, &mut piece.but] {
                    list.sort();
                    list.dedup();
                }
            }
            piece.parts.iter_mut().for_each(|part| part.shown_on = shown_on.clone());
            found.push(piece);
        }
        found
    }

    /// What pins put in beside style and script, as one piece: none of it sees what others put in. Each has its own
    /// test; the host shows it where any of them is.
    fn content_piece(&mut self, of: HostBox, parts: &[Part], held: &mut Vec<Part>) -> Option<Piece> {
        let contents: Vec<Part> =
            parts.iter().copied().filter(|part| matches!(part, Part::Content(_))).collect();
        let mut draft = Draft::default();
        self.holding(of, parts, &mut draft);
        self.content(of, &contents, &mut draft, true);
        held.append(&mut draft.held);
        let mut piece = draft.into_piece(of, Vec::new())?;
        // What pages hold is noted wherever something asks for it.
        if held.is_empty() && !contents.iter().any(|part| self.plan.is_everywhere(*part)) {
            let mut pages: Vec<PageId> = contents.iter().flat_map(|part| self.meant(*part)).collect();
            pages.sort_unstable();
            pages.dedup();
            piece.parts.iter_mut().for_each(|part| part.shown_on = Some(pages.clone()));
            // One that is for all pages but some is shown on these too, where its test stops it.
            let pins = contents.iter().flat_map(|part| self.plan.pins_of(*part));
            let pins: Vec<_> = pins.map(|pin| &self.plan.board.pins[pin]).collect();
            if pins.iter().all(|pin| !pin.pages.is_empty()) {
                let patterns = pins.iter().flat_map(|pin| &pin.pages);
                piece.patterns = patterns.map(|pattern| pattern.as_str().to_owned()).collect();
                piece.patterns.sort();
                piece.patterns.dedup();
            } else {
                piece.parts.iter_mut().for_each(|part| part.shown_on = None);
            }
        }
        Some(piece)
    }

    /// The paths that a part is for, without what pages have to hold.
    fn paths_of(&self, part: Part) -> Vec<PinTest> {
        let pins = self.plan.pins_of(part).into_iter();
        let mut tests: Vec<PinTest> =
            pins.map(|pin| PinTest { having: None, ..PinTest::of(&self.plan.board.pins[pin]) }).collect();
        tests.dedup();
        tests
    }
}
