//! The layout: which box of the host each piece of the plan's code goes into.
//!
//! What several pages share goes once into a box of the site, and into the boxes of pages what is for one page alone;
//! but what stands in a box of the site comes before what stands in the page's own, so whatever has to come before
//! something of the site goes there as well.

use std::collections::{BTreeMap, HashMap};

use super::code_key::CodeKey;
use super::library::LibraryFile;
use super::plan::Plan;
use crate::board::{BoxPlace, BoxReach, BoxTakes, HostBox};
use crate::code::{CodeKind, Id as _, LibraryId, Owner, PageId, PinId, Table};
use crate::markup::Slot;
use crate::site::Page;

/// A part of the plan that goes into a box.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Part {
    /// The markup and the marks of a pin, as a script.
    Content(PinId),
    /// A sheet or a script.
    Code(CodeKey),
}

impl Part {
    fn is_style(self) -> bool {
        matches!(self, Part::Code(CodeKey { kind: CodeKind::Style, .. }))
    }
}

/// Which box of the host each part goes into.
#[derive(Debug, Default)]
pub struct Layout {
    /// Whether there are boxes at all; else code stands on exactly the pages meant.
    pub has_boxes: bool,
    boxes: HashMap<Part, HostBox>,
    ranks: HashMap<Part, usize>,
    slots: BTreeMap<LibraryId, Slot>,
    guarded_by_rules: Vec<CodeKey>,
}

/// A part with the pages that it is for, as far as their paths tell.
struct Row {
    part: Part,
    place: BoxPlace,
    /// The boxes at that place that can hold it.
    boxes: Vec<HostBox>,
    pages: PageSet,
    is_everywhere: bool,
}

/// Some pages of a site.
#[derive(Clone)]
struct PageSet(Vec<u64>);

impl PageSet {
    fn none(count: usize) -> Self {
        PageSet(vec![0; count.div_ceil(64)])
    }

    fn add(&mut self, page: PageId) {
        self.0[page.index() / 64] |= 1 << (page.index() % 64);
    }

    fn join(&mut self, other: &PageSet) {
        self.0.iter_mut().zip(&other.0).for_each(|(own, other)| *own |= other);
    }

    fn meets(&self, other: &PageSet) -> bool {
        self.0.iter().zip(&other.0).any(|(own, other)| own & other != 0)
    }

    fn count(&self) -> u32 {
        self.0.iter().map(|word| word.count_ones()).sum()
    }
}

impl Layout {
    /// The layout of a plan over the pages of its site. Where files can be changed there are no boxes.
    pub fn new(plan: &Plan<'_>, pages: &Table<PageId, Page>) -> Self {
        if plan.board.host.changes_files {
            return Layout::default();
        }
        let every: Vec<PinId> = plan.board.active_pins().map(|(id, _)| id).collect();
        let slots = plan.needed_libraries(&every, &[]);
        let mut layout = Layout { has_boxes: true, slots, ..Layout::default() };
        let mut sets: BTreeMap<PinId, PageSet> =
            every.iter().map(|pin| (*pin, PageSet::none(pages.len()))).collect();
        for (id, page) in pages.entries() {
            for pin in plan.pins_for(&page.path) {
                if let Some(set) = sets.get_mut(&pin) {
                    set.add(id);
                }
            }
        }
        let mut rows = layout.rows(plan, &every, &sets);
        rows.sort_by_key(|row| row.place);
        layout.assign(&rows, plan.board.host.prefer);
        layout.ranks = rows.iter().enumerate().map(|(rank, row)| (row.part, rank)).collect();
        layout.guarded_by_rules = rows.iter().filter_map(|row| layout.guarded_by_a_rule(plan, row)).collect();
        layout
    }

    /// The parts of the plan in the order in which they stand at each place.
    fn rows(&self, plan: &Plan<'_>, every: &[PinId], sets: &BTreeMap<PinId, PageSet>) -> Vec<Row> {
        let host = &plan.board.host;
        let mut users: BTreeMap<LibraryId, Vec<PinId>> = BTreeMap::new();
        for pin in every {
            for library in plan.needed_libraries(&[*pin], &[]).into_keys() {
                users.entry(library).or_default().push(*pin);
            }
        }
        let mut rows = Vec::new();
        let mut add = |part: Part, slot: Slot, kind: CodeKind, pins: &[PinId]| {
            let Some(place) = host.place_for(slot, kind) else { return };
            let mut pages = PageSet(vec![0; sets.values().next().map_or(0, |set| set.0.len())]);
            pins.iter().filter_map(|pin| sets.get(pin)).for_each(|set| pages.join(set));
            let is_everywhere = pins.iter().any(|pin| !plan.board.pins[*pin].is_for_some_pages());
            rows.push(Row { part, place, boxes: host.boxes_at(place, kind), pages, is_everywhere });
        };
        for pin in every.iter().filter(|pin| plan.has_served_content(**pin)) {
            add(Part::Content(*pin), Slot::Foot, CodeKind::Script, &[*pin]);
        }
        let code = |owner: Owner, kind, number| Part::Code(CodeKey { owner, kind, number });
        let files = |id: LibraryId, kind| {
            let there = (0..).zip(plan.libraries[id].files(kind));
            there.filter(|(_, file)| !matches!(file, LibraryFile::Missing)).map(|(number, _)| number)
        };
        for id in plan.library_order.iter().filter(|id| users.contains_key(id)) {
            for number in files(*id, CodeKind::Style) {
                let part = code(Owner::Library(*id), CodeKind::Style, number);
                add(part, Slot::Head, CodeKind::Style, &users[id]);
            }
        }
        for pin in plan.style_order.iter().filter(|pin| !plan.board.pins[*pin].off) {
            add(code(Owner::Pin(pin), CodeKind::Style, 0), Slot::Head, CodeKind::Style, &[pin]);
        }
        for slot in Slot::ALL {
            for id in plan.library_order.iter().filter(|id| self.slots.get(id) == Some(&slot)) {
                for number in files(*id, CodeKind::Script) {
                    let part = code(Owner::Library(*id), CodeKind::Script, number);
                    add(part, slot, CodeKind::Script, &users[id]);
                }
            }
            for pin in plan.script_order.iter().filter(|pin| !plan.board.pins[*pin].off) {
                if *plan.board.pins[pin].slot == slot {
                    add(code(Owner::Pin(pin), CodeKind::Script, 0), slot, CodeKind::Script, &[pin]);
                }
            }
        }
        rows
    }

    fn guarded_by_a_rule(&self, plan: &Plan<'_>, row: &Row) -> Option<CodeKey> {
        let host = &plan.board.host;
        let of = self.of(row.part)?;
        match row.part {
            Part::Code(code) if code.kind == CodeKind::Style && of.reach == BoxReach::Site => {
                let has_media = !host.strips.has_attribute("media") && host.holds(of, CodeKind::Script);
                let is_bare = of.takes == BoxTakes::Css || !has_media;
                (is_bare && host.only.is_none() && !row.is_everywhere).then_some(code)
            }
            _ => None,
        }
    }

    /// Gives each row its box, from the last to the first at each place.
    fn assign(&mut self, rows: &[Row], prefer: BoxReach) {
        // The pages on which something of the site of that kind comes behind. Between sheets and scripts the order
        // says nothing.
        let mut all_behind: BTreeMap<(BoxPlace, bool), PageSet> = BTreeMap::new();
        for row in rows.iter().rev() {
            let none = || PageSet(vec![0; row.pages.0.len()]);
            let behind = all_behind.entry((row.place, row.part.is_style())).or_insert_with(none);
            let of = |reach| row.boxes.iter().find(|of| of.reach == reach);
            let is_for_few = match prefer {
                BoxReach::Site => row.pages.count() <= 1,
                BoxReach::Page => true,
            };
            let wants_page = is_for_few && !row.is_everywhere && !row.pages.meets(behind);
            let found = if wants_page { of(BoxReach::Page) } else { None };
            let found = found.or_else(|| of(BoxReach::Site)).or_else(|| of(BoxReach::Page));
            let Some(found) = found else { continue };
            if found.reach == BoxReach::Site {
                behind.join(&row.pages);
            }
            self.boxes.insert(row.part, *found);
        }
    }

    /// The box that a part goes into; none where the host has none for it.
    pub fn of(&self, part: Part) -> Option<HostBox> {
        self.boxes.get(&part).copied()
    }

    /// The parts that go into a box, in the order in which they stand there.
    pub fn in_box(&self, of: HostBox) -> Vec<Part> {
        let mut parts: Vec<Part> =
            self.boxes.iter().filter(|(_, own)| **own == of).map(|(part, _)| *part).collect();
        parts.sort_by_key(|part| self.ranks.get(part));
        parts
    }

    /// The sheets that are kept to their pages by what stands in their rules: they go into a box of CSS for the site,
    /// or into one whose host takes out scripts.
    pub fn guarded_by_rules(&self) -> &[CodeKey] {
        &self.guarded_by_rules
    }

    /// The first slot in which any pin needs a library.
    pub fn slot_of(&self, library: LibraryId) -> Option<Slot> {
        self.slots.get(&library).copied()
    }
}
