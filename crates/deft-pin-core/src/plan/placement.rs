//! One piece of code at one insertion point of a page, and which pieces a page gets, in which order.

use std::collections::BTreeMap;

use super::code_key::CodeKey;
use super::existing_copies::ExistingCopies;
use super::layout::{Layout, Part};
use super::library::LibraryFile;
use super::plan::Plan;
use crate::board::HostBox;
use crate::code::{CodeKind, LibraryId, Owner, PinId};
use crate::markup::{InsertionPoint, Slot};

/// One piece of code, at one insertion point of one page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Placement {
    /// Which code.
    pub code: CodeKey,
    /// Where in the document.
    pub at: InsertionPoint,
    /// The box of the host that it is in; none where files can be changed.
    pub in_box: Option<HostBox>,
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
    pub fn placements(&self, pins: &[PinId], copies: &ExistingCopies, layout: &Layout) -> Vec<Placement> {
        let mut needed = self.needed_libraries(pins, &copies.globals);
        // A box of the site holds a library for all that need it.
        needed.iter_mut().for_each(|(id, slot)| *slot = layout.slot_of(*id).unwrap_or(*slot));
        let mut placements = Vec::new();
        let is_brought = |id: &LibraryId, kind| needed.contains_key(id) && !copies.serve(*id, kind);
        for &id in self.library_order.iter().filter(|id| is_brought(id, CodeKind::Style)) {
            placements.extend(self.of_library(id, CodeKind::Style, Slot::Head, layout));
        }
        for id in self.style_order.of(pins) {
            if self.pins[id].style.as_ref().is_some_and(|style| style.is_placeable()) {
                placements.extend(self.of_pin(id, CodeKind::Style, Slot::Head, layout));
            }
        }
        let scripts = self.script_order.of(pins);
        for slot in Slot::ALL {
            let here = |id: &LibraryId| needed.get(id) == Some(&slot) && is_brought(id, CodeKind::Script);
            for &id in self.library_order.iter().filter(|id| here(id)) {
                placements.extend(self.of_library(id, CodeKind::Script, slot, layout));
            }
            for &id in &scripts {
                if self.pins[id].script.is_some() && *self.board.pins[id].slot == slot {
                    placements.extend(self.of_pin(id, CodeKind::Script, slot, layout));
                }
            }
        }
        placements.sort_by_key(|placement| (placement.at, placement.in_box));
        placements
    }

    fn of_pin(&self, id: PinId, kind: CodeKind, slot: Slot, layout: &Layout) -> Option<Placement> {
        self.placed(CodeKey { owner: Owner::Pin(id), kind, number: 0 }, slot, layout)
    }

    fn of_library(
        &self,
        id: LibraryId,
        kind: CodeKind,
        slot: Slot,
        layout: &Layout,
    ) -> impl Iterator<Item = Placement> {
        let there = (0..).zip(self.libraries[id].files(kind));
        let there = there.filter(|(_, file)| !matches!(file, LibraryFile::Missing));
        there.filter_map(move |(number, _)| {
            self.placed(CodeKey { owner: Owner::Library(id), kind, number }, slot, layout)
        })
    }

    /// Where code for a slot stands; none where the host has no box for it.
    fn placed(&self, code: CodeKey, slot: Slot, layout: &Layout) -> Option<Placement> {
        if !layout.has_boxes {
            return Some(Placement { code, at: InsertionPoint::Slot(slot), in_box: None });
        }
        let in_box = layout.of(Part::Code(code))?;
        let at = in_box.place.slot().map_or(InsertionPoint::Block, InsertionPoint::Slot);
        Some(Placement { code, at, in_box: Some(in_box) })
    }

    /// The pins for whose pages a part of the plan is. A library is for those of all pins that need it.
    pub fn pins_of(&self, part: Part) -> Vec<PinId> {
        match part {
            Part::Content(pin) => vec![pin],
            Part::Code(CodeKey { owner: Owner::Pin(pin), .. }) => vec![pin],
            Part::Code(CodeKey { owner: Owner::Library(library), .. }) => {
                let active = self.board.active_pins().map(|(id, _)| id);
                active.filter(|pin| self.needed_libraries(&[*pin], &[]).contains_key(&library)).collect()
            }
        }
    }

    /// Whether a part of the plan is for every page.
    pub fn is_everywhere(&self, part: Part) -> bool {
        self.pins_of(part).into_iter().any(|pin| !self.board.pins[pin].is_for_some_pages())
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
    use crate::code::{Id as _, PageId, Table};
    use crate::site::Page;
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
        plan.placements(pins, &ExistingCopies::default(), &Layout::default()).iter().map(draw).collect()
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
    fn what_several_pages_share_goes_once_into_a_box_of_the_site() {
        let text = "[site]\nroot = 'site'\n[host]\nkind = 'page-slots'\n[pin.first]\npages = ['/a/']\nscript = 'p.js'\n[pin.all]\nscript = 'p.js'\n\
            [pin.some]\npages = ['/a/', '/b/']\nstyle = 'p.css'\n[pin.one]\npages = ['/b/']\nstyle = 'p.css'\nscript = 'p.js'\n[pin.other]\npages = ['/c/']\nwithin = 'p'\nstyle = 'p.css'\n";
        let pages: Vec<_> = ["a", "b", "c"].map(|name| format!("{name}/index.html")).into();
        let pages: Table<PageId, Page> =
            pages.iter().map(|file| Page::new(crate::source::FilePath::parse(file).unwrap())).collect();
        let boxes = |more: &str| {
            let text = text.replace("'page-slots'\n", &format!("'page-slots'\n{more}\n"));
            let board = Board::parse(&text).unwrap();
            let plan = Plan::new(&board, &files());
            let layout = Layout::new(&plan, &pages);
            let named = board.pins.entries().flat_map(|(id, pin)| {
                let code = |kind| Part::Code(CodeKey { owner: Owner::Pin(id), kind, number: 0 });
                let there = [CodeKind::Style, CodeKind::Script].map(|kind| {
                    let is_there = match kind {
                        CodeKind::Style => pin.style.is_some(),
                        CodeKind::Script => pin.script.is_some(),
                    };
                    layout
                        .of(code(kind))
                        .filter(|_| is_there)
                        .map(|of| format!("{} {}", *pin.name, of.name()))
                });
                there.into_iter().flatten().collect::<Vec<_>>()
            });
            named.collect::<Vec<_>>().join(", ")
        };
        // The script of the first pin comes before one that is on every page.
        let expected =
            "first site-foot, all site-foot, some site-head, one page-head, one page-foot, other page-head";
        assert_eq!(boxes(""), expected);
        let expected =
            "first site-foot, all site-foot, some page-head, one page-head, one page-foot, other page-head";
        assert_eq!(boxes("prefer = 'page'"), expected);
        let expected = "first site-scripts, all site-scripts, some site-styles, one site-styles, one site-scripts, other site-styles";
        assert_eq!(boxes("site = []\npage = []\nstyles = 'site'\nscripts = 'site'"), expected);
    }
}
