//! The pieces that a script of the host puts in, each on its own pages.

use super::piece::{Piece, PiecePart};
use super::piece_maker::{Draft, PieceMaker};
use crate::board::HostBox;
use crate::code::PageId;
use crate::plan::Part;

impl PieceMaker<'_> {
    /// Draft that a script of the host puts in, each on its own pages.
    pub(super) fn inserted(&mut self, of: HostBox) -> Vec<Piece> {
        let parts = self.parts_in(of, |part| self.on.contains_key(&part));
        // What is for the same pages goes together, as long as nothing of other pages has to come between.
        let mut groups: Vec<(Vec<PageId>, Vec<Part>)> = Vec::new();
        for part in parts {
            let mut pages = self.meant(part);
            if let Some(lacking) = self.lacking.get(&part) {
                pages.retain(|page| !lacking.contains(page));
            }
            let meets = |other: &[PageId]| other.iter().any(|page| pages.binary_search(page).is_ok());
            let mut at = None;
            for (number, (own, _)) in groups.iter().enumerate().rev() {
                if *own == pages {
                    at = Some(number);
                    break;
                }
                if meets(own) {
                    break;
                }
            }
            match at {
                Some(at) => groups[at].1.push(part),
                None => groups.push((pages, vec![part])),
            }
        }
        let mut found = Vec::new();
        for (_, parts) in groups {
            let mut draft = Draft::default();
            self.content(of, &parts, &mut draft, false);
            for part in &parts {
                let Part::Code(code) = *part else { continue };
                let inner = self.test(*part).and_then(|test| test.without_paths());
                let Some(text) = self.code(of, code, inner.as_ref(), &mut draft) else { continue };
                let on = self.on.get(part).cloned().unwrap_or_default();
                draft.add(self.plan, *part, &on, PiecePart::of(text, *part));
            }
            let Some(mut piece) = draft.into_piece(of, Vec::new()) else { continue };
            let Some(first) = parts.first() else { continue };
            let shown_on: Option<Vec<PageId>> = match self.plan.is_everywhere(*first)
                && !self.lacking.contains_key(first)
            {
                true => None,
                false => Some(
                    self.meant(*first)
                        .into_iter()
                        .filter(|page| !self.lacking.get(first).is_some_and(|lacking| lacking.contains(page)))
                        .collect(),
                ),
            };
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
}
