//! Which pins are for which pages, without asking every pin of every page.

use std::collections::HashMap;

use rustc_hash::FxBuildHasher;

use crate::board::{Board, Pin};
use crate::code::PinId;
use crate::site::PagePath;

/// The pins that are on, by the paths of their pages.
#[derive(Debug, Default)]
pub(super) struct PinsByPath {
    /// Those that name their pages one by one, by each path as a URL has it.
    named: HashMap<String, Vec<PinId>, FxBuildHasher>,
    /// The others, in the order of the board.
    others: Vec<PinId>,
}

impl PinsByPath {
    pub(super) fn of(board: &Board) -> Self {
        let mut by_path = PinsByPath::default();
        for (id, pin) in board.active_pins() {
            match paths_named_by(pin) {
                Some(paths) => paths.into_iter().for_each(|path| {
                    by_path.named.entry(path.to_owned()).or_default().push(id);
                }),
                None => by_path.others.push(id),
            }
        }
        by_path
    }

    /// The pins that are for a page as far as its path tells, as the board lists them.
    pub(super) fn pins_for(&self, board: &Board, path: &PagePath) -> Vec<PinId> {
        let url = path.url();
        let named = self.named.get(url.path()).into_iter().flatten();
        let mut pins: Vec<PinId> = named.chain(&self.others).copied().collect();
        pins.sort_unstable();
        pins.dedup();
        pins.retain(|pin| board.pins[*pin].is_for_url(&url));
        pins
    }
}

/// The paths that a pin names; none where it has a pattern, or is for every page.
fn paths_named_by(pin: &Pin) -> Option<Vec<&str>> {
    let paths: Option<Vec<&str>> = pin.pages.iter().map(|pattern| pattern.only_path()).collect();
    paths.filter(|paths| !paths.is_empty())
}
