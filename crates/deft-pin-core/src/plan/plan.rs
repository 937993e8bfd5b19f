//! The plan: a board with everything that its files say, in order.

use super::asked::Asked;
use super::assets::{AssetReader, Assets};
use super::code_key::CodeKey;
use super::code_reader::CodeReader;
use super::file_text::FileText;
use super::library::{LibraryFile, PlannedLibrary, PlannedPin};
use super::needs::Needs;
use super::order::{Circle, Order, ordered};
use super::pins_by_path::PinsByPath;
use super::problem::Problem;
use crate::board::{Board, Pin, ScriptLoad};
use crate::code::{CodeKind, LibraryId, Owner, PinId, Table};
use crate::site::PagePath;
use crate::source::Files;
use crate::style::Edit;

/// A board with everything that its files say, in order.
#[derive(Debug)]
pub struct Plan<'b> {
    /// The board.
    pub board: &'b Board,
    /// The board's libraries with their files.
    pub libraries: Table<LibraryId, PlannedLibrary>,
    /// The board's pins with their files.
    pub pins: Table<PinId, PlannedPin>,
    /// The files that their sheets load.
    pub assets: Assets,
    /// What could not be read or put in order.
    pub problems: Vec<Problem>,
    /// What its libraries and pins need.
    pub needs: Needs,
    pub(super) library_order: Vec<LibraryId>,
    pub(super) style_order: Order<PinId>,
    pub(super) script_order: Order<PinId>,
    by_path: PinsByPath,
}

/// What a piece of code of the board is.
#[derive(Clone, Copy, Debug)]
pub enum CodeSource<'p> {
    /// A file beside the board, with the edits that confine it.
    File(&'p FileText, &'p [Edit]),
    /// A file on another host, by its URL.
    Remote(&'p str),
}

impl<'p> CodeSource<'p> {
    /// The file, where it is one beside the board.
    pub fn file(self) -> Option<&'p FileText> {
        match self {
            CodeSource::File(file, _) => Some(file),
            CodeSource::Remote(_) => None,
        }
    }
}

impl<'b> Plan<'b> {
    /// Reads what the board names, and puts it in order.
    pub fn new(board: &'b Board, files: &dyn Files) -> Self {
        Plan::giving(board, files, &Asked::new())
    }

    /// The same, where pages get names of pins' scripts that something on them asks for.
    pub fn giving(board: &'b Board, files: &dyn Files, asked: &Asked) -> Self {
        let mut reader = CodeReader::new(board, files, asked);
        let libraries = board.libraries.map(|(id, library)| reader.library(id, library));
        let pins = board.pins.map(|(id, pin)| reader.pin(id, pin));
        reader.assets.follow();
        let AssetReader { assets, mut problems, .. } = reader.assets;
        let needs = Needs::of(board, &libraries, &pins);
        let (library_order, circles) = ordered(board.libraries.len(), |id| &needs.before[id]);
        problems.extend(circles.into_iter().map(|circle| cycle(circle, Owner::Library)));
        let (script_order, circles) = ordered(board.pins.len(), |id| &board.pins[id].after);
        problems.extend(circles.into_iter().map(|circle| cycle(circle, Owner::Pin)));
        problems.extend(early_slots(board));
        let mut by_breadth: Vec<PinId> = board.pins.ids().collect();
        by_breadth.sort_by_key(|&id| (breadth(&board.pins[id]), id));
        Plan {
            board,
            libraries,
            pins,
            assets,
            problems,
            needs,
            library_order,
            style_order: Order::new(by_breadth),
            script_order: Order::new(script_order),
            by_path: PinsByPath::of(board),
        }
    }

    /// How a piece of code is loaded, where it is a script of another host.
    pub fn load_of(&self, key: CodeKey) -> ScriptLoad {
        match (key.owner, self.code(key)) {
            (Owner::Library(library), Some(CodeSource::Remote(_))) if key.kind == CodeKind::Script => {
                self.board.libraries[library].load
            }
            _ => ScriptLoad::Blocking,
        }
    }

    /// The pins that are for a page as far as its path tells, as the board lists them.
    pub fn pins_for(&self, path: &PagePath) -> Vec<PinId> {
        self.by_path.pins_for(self.board, path)
    }

    /// Whether a pin holds something for pages beside style and script: marks, or markup.
    pub fn has_content(&self, pin: PinId) -> bool {
        let own = &self.board.pins[pin];
        let is_bare = own.marks.is_empty() && self.pins[pin].markup.is_empty();
        !(own.off || is_bare)
    }

    /// Whether a pin gives names to elements, or has markup that is there from the beginning.
    pub fn has_served_content(&self, pin: PinId) -> bool {
        let own = &self.board.pins[pin];
        let has_markup = !self.pins[pin].markup.is_empty() && self.pins[pin].beginning.is_none();
        !own.off && (has_markup || !own.marks.is_empty())
    }

    /// The libraries that some pins need, and those that these need, each once.
    pub fn libraries_for(&self, pins: &[PinId]) -> Vec<LibraryId> {
        self.needs.of_pins(self.board, pins)
    }

    /// Whether a pin is for a page as far as its path tells.
    pub fn is_for(&self, pin: PinId, path: &PagePath) -> bool {
        let pin = &self.board.pins[pin];
        !pin.off && pin.is_for_url(&path.url())
    }

    /// The name of an owner.
    pub fn name_of(&self, owner: Owner) -> &'b str {
        self.board.name_of(owner)
    }

    /// What a piece of code is; none for one that could not be read.
    pub fn code(&self, key: CodeKey) -> Option<CodeSource<'_>> {
        match (key.owner, key.kind) {
            (Owner::Pin(id), CodeKind::Style) => {
                let style = self.pins.get(id)?.style.as_ref()?;
                Some(CodeSource::File(&style.file, &style.edits))
            }
            (Owner::Pin(id), CodeKind::Script) => {
                Some(CodeSource::File(self.pins.get(id)?.script.as_ref()?, &[]))
            }
            (Owner::Library(id), kind) => {
                match self.libraries.get(id)?.files(kind).get(key.number as usize)? {
                    LibraryFile::Read(file) => Some(CodeSource::File(file, &[])),
                    LibraryFile::Remote(url) => Some(CodeSource::Remote(url)),
                    LibraryFile::Missing => None,
                }
            }
        }
    }
}

/// How far a pin reaches: the whole site, some pages, a part of pages.
fn breadth(pin: &Pin) -> u8 {
    if pin.within.is_some() { 2 } else { u8::from(pin.is_for_some_pages()) }
}

fn cycle<I>(circle: Circle<I>, owner: fn(I) -> Owner) -> Problem {
    Problem::Cycle { circle: circle.into_iter().map(|(id, span)| (owner(id), span)).collect() }
}

fn early_slots(board: &Board) -> impl Iterator<Item = Problem> {
    board.active_pins().flat_map(|(id, pin)| {
        let early = pin.after.iter().filter(|after| {
            let earlier = &board.pins[after.value];
            !earlier.off && *pin.slot < *earlier.slot && earlier.script.is_some() && pin.script.is_some()
        });
        early.map(move |after| Problem::EarlySlot { pin: id, after: after.value, place: after.span })
    })
}
