//! One piece of code at one insertion point of a page, and which pieces a page gets, in which order.

use std::collections::BTreeMap;

use super::code_key::CodeKey;
use super::existing_copies::ExistingCopies;
use super::library::LibraryFile;
use super::plan::Plan;
use crate::code::{CodeKind, LibraryId, Owner, PinId};
use crate::markup::{InsertionPoint, Slot};

/// One piece of code, at one insertion point of one page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Placement {
    /// Which code.
    pub code: CodeKey,
    /// Where in the document.
    pub at: InsertionPoint,
    /// What keeps it to its pages, where the place that the host offers is on more of them.
    pub guard: Option<Guard>,
}

/// What keeps a piece of code to its pages at run time.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Guard {
    /// The pins whose pages it is for: any of them will do.
    pub pins: Vec<PinId>,
}

impl Plan<'_> {
    /// What stands on a page that these pins are on, in the order of the document.
    ///
    /// Styles stand in the head: libraries by their needs, then pins, those for the whole site
    /// before those for some pages before those for a part of a page, else as the board lists
    /// them. Scripts stand in their pin's slot: libraries by their needs, each in the first slot
    /// in which something needs it, then pins, each behind those that it comes after.
    ///
    /// `copies` are what the page has by itself: what serves is not brought in again.
    pub fn placements(&self, pins: &[PinId], copies: &ExistingCopies) -> Vec<Placement> {
        let needed = self.needed_libraries(pins, &copies.globals);
        let mut placements = Vec::new();
        let is_brought = |id: &LibraryId, kind| needed.contains_key(id) && !copies.serve(*id, kind);
        for &id in self.library_order.iter().filter(|id| is_brought(id, CodeKind::Style)) {
            placements.extend(self.of_library(id, CodeKind::Style, Slot::Head, pins));
        }
        for &id in self.style_order.iter().filter(|id| pins.contains(id)) {
            if self.pins[id].style.as_ref().is_some_and(|style| style.is_placeable()) {
                placements.push(self.of_pin(id, CodeKind::Style, Slot::Head));
            }
        }
        for slot in Slot::ALL {
            let here = |id: &LibraryId| needed.get(id) == Some(&slot) && is_brought(id, CodeKind::Script);
            for &id in self.library_order.iter().filter(|id| here(id)) {
                placements.extend(self.of_library(id, CodeKind::Script, slot, pins));
            }
            for &id in self.script_order.iter().filter(|id| pins.contains(id)) {
                if self.pins[id].script.is_some() && *self.board.pins[id].slot == slot {
                    placements.push(self.of_pin(id, CodeKind::Script, slot));
                }
            }
        }
        placements.sort_by_key(|placement| placement.at);
        placements
    }

    fn of_pin(&self, id: PinId, kind: CodeKind, slot: Slot) -> Placement {
        let code = CodeKey { owner: Owner::Pin(id), kind, number: 0 };
        Placement { code, at: InsertionPoint::Slot(slot), guard: self.guard(&[id]) }
    }

    fn of_library(
        &self,
        id: LibraryId,
        kind: CodeKind,
        slot: Slot,
        pins: &[PinId],
    ) -> impl Iterator<Item = Placement> {
        let there = (0..).zip(self.libraries[id].files(kind));
        let there = there.filter(|(_, file)| !matches!(file, LibraryFile::Missing));
        let guard = if self.board.host.tells_pages_apart() {
            let needs_it = |pin: &PinId| self.needed_libraries(&[*pin], &[]).contains_key(&id);
            self.guard(&pins.iter().copied().filter(needs_it).collect::<Vec<_>>())
        } else {
            None
        };
        there.map(move |(number, _)| Placement {
            code: CodeKey { owner: Owner::Library(id), kind, number },
            at: InsertionPoint::Slot(slot),
            guard: guard.clone(),
        })
    }

    /// What keeps code to the pages of some pins; none where it is for every page, or the host has
    /// a place for it on its pages alone.
    pub fn guard(&self, pins: &[PinId]) -> Option<Guard> {
        let is_everywhere = pins.iter().any(|pin| !self.board.pins[*pin].is_for_some_pages());
        let is_guarded = self.board.host.tells_pages_apart() && !is_everywhere;
        is_guarded.then(|| Guard { pins: pins.to_vec() })
    }

    /// Whether some pins need any library.
    pub fn brings_libraries(&self, pins: &[PinId]) -> bool {
        !self.needed_libraries(pins, &[]).is_empty()
    }

    /// The libraries that some pins need on a page that has these globals by itself, and the first
    /// slot in which each is needed.
    pub fn needed_libraries(&self, pins: &[PinId], globals: &[String]) -> BTreeMap<LibraryId, Slot> {
        let mut slots = BTreeMap::new();
        let mut waiting: Vec<(LibraryId, Slot)> = Vec::new();
        for &id in pins {
            let pin = &self.board.pins[id];
            waiting.extend(pin.needs.iter().map(|need| (need.value, *pin.slot)));
            let forgotten = self.needs.forgotten(id).filter(|need| !globals.contains(&need.global));
            waiting.extend(forgotten.map(|need| (need.library, *pin.slot)));
        }
        while let Some((id, slot)) = waiting.pop() {
            if slots.get(&id).is_none_or(|earlier| slot < *earlier) {
                slots.insert(id, slot);
                waiting.extend(self.needs.libraries[id].iter().map(|need| (need.value, slot)));
            }
        }
        slots
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::board::Board;
    use crate::code::Id as _;
    use crate::source::MemoryFiles;

    const BOARD: &str = "[site]\nroot = 'site'\n[library.chart]\nstyle = 'v/chart.css'\nscript = 'v/chart.js'\nneeds = ['base']\n\
        [library.base]\nscript = ['v/base.js', 'https://cdn.example/more.js']\n[library.idle]\nscript = 'v/base.js'\n\
        [pin.part]\nwithin = '#a'\nstyle = 'p.css'\n[pin.some]\npages = ['/']\nstyle = 'p.css'\nscript = 'p.js'\nafter = ['late']\nneeds = ['chart']\n\
        [pin.all]\nstyle = 'p.css'\nscript = 'p.js'\nslot = 'head'\nneeds = ['base']\n[pin.late]\nscript = 'p.js'\n[pin.gone]\nscript = 'p.js'\noff = true\n";

    fn files() -> MemoryFiles {
        MemoryFiles::from([
            ("v/chart.css", ""),
            ("v/chart.js", ""),
            ("v/base.js", ""),
            ("p.css", "p{}"),
            ("p.js", ""),
        ])
    }

    fn drawn(plan: &Plan<'_>, pins: &[PinId]) -> Vec<String> {
        let draw = |p: &Placement| {
            format!("{} {} {:?} {}", p.at.slot(), plan.name_of(p.code.owner), p.code.kind, p.code.number)
        };
        plan.placements(pins, &ExistingCopies::default()).iter().map(draw).collect()
    }

    #[test]
    fn placements_follow_needs_breadth_and_the_board() {
        let board = Board::parse(BOARD).unwrap();
        let plan = Plan::new(&board, &files());
        assert_eq!(plan.problems, []);
        let all = plan
            .pins_for(&crate::site::Page::new(crate::source::FilePath::parse("index.html").unwrap()).path);
        let expected = [
            "head chart Style 0", "head all Style 0", "head some Style 0", "head part Style 0",
            "head base Script 0", "head base Script 1", "head all Script 0", "foot chart Script 0",
            "foot late Script 0", "foot some Script 0",
        ];
        assert_eq!(drawn(&plan, &all), expected);
        assert_eq!(drawn(&plan, &[PinId::new(0)]), ["head part Style 0"]);
    }

    #[test]
    fn what_cannot_be_ordered_or_read_is_told() {
        let text = BOARD
            .replace("[library.base]", "[library.base]\nneeds = ['chart']")
            .replace("slot = 'head'", "slot = 'head'\nafter = ['late']");
        let board = Board::parse(&text).unwrap();
        let mut files = files();
        files.insert("p.js", b"\xff".to_vec());
        let plan = Plan::new(&board, &files);
        let kinds: Vec<_> = plan
            .problems
            .iter()
            .map(|p| format!("{p:?}").split([' ', '{']).next().unwrap_or_default().to_owned())
            .collect();
        assert_eq!(kinds, ["NotUtf8", "NotUtf8", "NotUtf8", "Cycle", "EarlySlot"]);
    }

    #[test]
    fn where_one_text_is_on_every_page_code_for_some_pages_is_guarded() {
        for (host, guarded) in [("files", ""), ("page-slots", ""), ("site-slots", "some base chart some")] {
            let board = Board::parse(&format!("{BOARD}[host]\nkind = '{host}'\n")).unwrap();
            let plan = Plan::new(&board, &files());
            let some = board.pins.find(|pin| *pin.name == "some").unwrap();
            let all = board.pins.find(|pin| *pin.name == "all").unwrap();
            let guards = |pins: &[PinId]| {
                let placements = plan.placements(pins, &ExistingCopies::default()).into_iter();
                let guarded = placements.filter(|placement| placement.guard.is_some());
                let mut names: Vec<_> = guarded.map(|placement| plan.name_of(placement.code.owner)).collect();
                names.dedup();
                names.join(" ")
            };
            let expected: Vec<&str> = guarded.split(' ').filter(|name| !name.is_empty()).collect();
            let found = guards(&[some]);
            assert!(expected.iter().all(|name| found.contains(name)), "{host}: {found}");
            assert_eq!(found.is_empty(), expected.is_empty(), "{host}: {found}");
            assert!(!guards(&[all]).contains("all"), "{host}");
        }
    }
}
