//! Which code stands in which slot of a page, in which order.

use std::collections::BTreeMap;

use super::copies::Copies;
use super::key::{Owner, PartKey, PartKind};
use super::loaded::{LoadedFiles, Loader};
use super::needs::Needs;
use super::order::{Circle, ordered};
use super::part::{LibraryPart, PartReader, PlannedLibrary, PlannedPin};
use super::problem::Problem;
use crate::board::{Board, Pin};
use crate::markup::Slot;
use crate::site::PagePath;
use crate::source::Files;

/// Where the code of a placement comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Content<'p> {
    /// A file of the board's folder.
    Local,
    /// An address on another host.
    Remote(&'p str),
}

/// One piece of code in one slot.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Placement<'p> {
    /// Which part of the plan.
    pub part: PartKey,
    /// The slot.
    pub slot: Slot,
    /// Where the code comes from.
    pub content: Content<'p>,
}

/// A board with everything that its files say, in order.
#[derive(Debug)]
pub struct Plan<'b> {
    /// The board.
    pub board: &'b Board,
    /// The board's libraries with their files.
    pub libraries: Vec<PlannedLibrary>,
    /// The board's pins with their files.
    pub pins: Vec<PlannedPin>,
    /// The files that their sheets load.
    pub loaded: LoadedFiles,
    /// What could not be read or put in order.
    pub problems: Vec<Problem>,
    /// What its libraries and pins need.
    pub needs: Needs,
    library_order: Vec<usize>,
    style_order: Vec<usize>,
    script_order: Vec<usize>,
}

impl<'b> Plan<'b> {
    /// Reads what the board names, and puts it in order.
    pub fn new(board: &'b Board, files: &dyn Files) -> Self {
        let mut reader = PartReader(Loader { files, loaded: LoadedFiles::new(), problems: Vec::new() });
        let libraries: Vec<PlannedLibrary> =
            board.libraries.iter().enumerate().map(|(at, library)| reader.library(at, library)).collect();
        let pins: Vec<PlannedPin> =
            board.pins.iter().enumerate().map(|(at, pin)| reader.pin(at, pin)).collect();
        let Loader { loaded, mut problems, .. } = reader.0;
        let needs = Needs::of(board, &libraries, &pins);
        let (library_order, circles) = ordered(board.libraries.len(), |at| &needs.before[at]);
        problems.extend(circles.into_iter().map(|circle| cycle(circle, Owner::Library)));
        let (script_order, circles) = ordered(board.pins.len(), |at| &board.pins[at].after);
        problems.extend(circles.into_iter().map(|circle| cycle(circle, Owner::Pin)));
        problems.extend(early_slots(board));
        let mut style_order: Vec<usize> = (0..board.pins.len()).collect();
        style_order.sort_by_key(|&at| (breadth(&board.pins[at]), at));
        Plan { board, libraries, pins, loaded, problems, needs, library_order, style_order, script_order }
    }

    /// The pins that are for a page as far as its path tells, as the board lists them.
    pub fn pins_for(&self, path: &PagePath) -> Vec<usize> {
        let url = path.url();
        (0..self.board.pins.len()).filter(|&at| is_for(&self.board.pins[at], &url)).collect()
    }

    /// Whether a pin is for a page as far as its path tells.
    pub fn is_for(&self, pin: usize, path: &PagePath) -> bool {
        is_for(&self.board.pins[pin], &path.url())
    }

    /// The name of an owner.
    pub fn name_of(&self, owner: Owner) -> &'b str {
        match owner {
            Owner::Library(at) => &self.board.libraries[at].name,
            Owner::Pin(at) => &self.board.pins[at].name,
        }
    }

    /// What stands on a page that these pins are on, in the order of the document.
    ///
    /// Styles stand in the head: libraries by their needs, then pins, those for the whole site
    /// before those for some pages before those for a part of a page, else as the board lists
    /// them. Scripts stand in their pin's slot: libraries by their needs, each in the first slot
    /// in which something needs it, then pins, each behind those that it comes after.
    ///
    /// `copies` are what the page has by itself: what serves is not brought in again.
    pub fn placements(&self, pins: &[usize], copies: &Copies) -> Vec<Placement<'_>> {
        let slots = self.library_slots(pins, &copies.globals);
        let mut placements = Vec::new();
        let is_brought = |at: usize, kind| slots.contains_key(&at) && !copies.serve(at, kind);
        for &at in self.library_order.iter().filter(|at| is_brought(**at, PartKind::Style)) {
            placements.extend(library_parts(
                Owner::Library(at),
                PartKind::Style,
                &self.libraries[at].styles,
                Slot::Head,
            ));
        }
        for &at in self.style_order.iter().filter(|at| pins.contains(at)) {
            if self.pins[at].style.as_ref().is_some_and(|style| style.is_placeable()) {
                let part = PartKey { owner: Owner::Pin(at), kind: PartKind::Style, index: 0 };
                placements.push(Placement { part, slot: Slot::Head, content: Content::Local });
            }
        }
        for slot in Slot::ALL {
            let here = |at: &usize| slots.get(at) == Some(&slot) && is_brought(*at, PartKind::Script);
            for at in self.library_order.iter().filter(|at| here(at)) {
                placements.extend(library_parts(
                    Owner::Library(*at),
                    PartKind::Script,
                    &self.libraries[*at].scripts,
                    slot,
                ));
            }
            for &at in self.script_order.iter().filter(|at| pins.contains(at)) {
                if self.pins[at].script.is_some() && *self.board.pins[at].slot == slot {
                    let part = PartKey { owner: Owner::Pin(at), kind: PartKind::Script, index: 0 };
                    placements.push(Placement { part, slot, content: Content::Local });
                }
            }
        }
        placements.sort_by_key(|placement| placement.slot);
        placements
    }

    /// Whether some pins need any library.
    pub fn brings_libraries(&self, pins: &[usize]) -> bool {
        !self.library_slots(pins, &[]).is_empty()
    }

    /// The libraries that some pins need on a page that has these globals by itself, and the first
    /// slot in which each is needed.
    pub(super) fn library_slots(&self, pins: &[usize], globals: &[String]) -> BTreeMap<usize, Slot> {
        let mut slots = BTreeMap::new();
        let mut waiting: Vec<(usize, Slot)> = Vec::new();
        for &at in pins {
            let pin = &self.board.pins[at];
            waiting.extend(pin.needs.iter().map(|need| (need.value, *pin.slot)));
            let forgotten = self.needs.forgotten(at).filter(|own| !globals.contains(&own.global));
            waiting.extend(forgotten.map(|own| (own.library, *pin.slot)));
        }
        while let Some((at, slot)) = waiting.pop() {
            if slots.get(&at).is_none_or(|earlier| slot < *earlier) {
                slots.insert(at, slot);
                waiting.extend(self.needs.libraries[at].iter().map(|need| (need.value, slot)));
            }
        }
        slots
    }
}

fn library_parts(
    owner: Owner,
    kind: PartKind,
    parts: &[LibraryPart],
    slot: Slot,
) -> impl Iterator<Item = Placement<'_>> {
    parts.iter().enumerate().filter_map(move |(index, part)| {
        let content = match part {
            LibraryPart::Local(_) => Content::Local,
            LibraryPart::Remote(url) => Content::Remote(url),
            LibraryPart::Lost => return None,
        };
        Some(Placement { part: PartKey { owner, kind, index }, slot, content })
    })
}

fn is_for(pin: &Pin, url: &url::Url) -> bool {
    !pin.off
        && (pin.pages.is_empty() || pin.pages.iter().any(|pattern| pattern.matches_url(url)))
        && !pin.skip.iter().any(|pattern| pattern.matches_url(url))
}

/// Execution far a pin reaches: the whole site, some pages, a part of pages.
fn breadth(pin: &Pin) -> u8 {
    if pin.within.is_some() {
        2
    } else {
        u8::from(!pin.pages.is_empty() || !pin.skip.is_empty() || pin.having.is_some())
    }
}

fn cycle(circle: Circle, owner: fn(usize) -> Owner) -> Problem {
    Problem::Cycle { circle: circle.into_iter().map(|(at, span)| (owner(at), span)).collect() }
}

fn early_slots(board: &Board) -> impl Iterator<Item = Problem> {
    board.pins.iter().enumerate().flat_map(|(at, pin)| {
        let early = pin.after.iter().filter(|after| {
            let earlier = &board.pins[after.value];
            !pin.off
                && !earlier.off
                && *pin.slot < *earlier.slot
                && earlier.script.is_some()
                && pin.script.is_some()
        });
        early.map(move |after| Problem::EarlySlot { pin: at, after: after.value, place: after.span })
    })
}

#[cfg(test)]
mod tests {
    use super::*;
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

    fn drawn(plan: &Plan<'_>, pins: &[usize]) -> Vec<String> {
        let draw = |p: &Placement<'_>| {
            format!("{} {} {:?} {}", p.slot, plan.name_of(p.part.owner), p.part.kind, p.part.index)
        };
        plan.placements(pins, &Copies::default()).iter().map(draw).collect()
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
        assert_eq!(drawn(&plan, &[0]), ["head part Style 0"]);
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
}
