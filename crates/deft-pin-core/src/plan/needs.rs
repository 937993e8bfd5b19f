//! What pins and libraries need: what the board says, and what it forgot and their scripts tell for
//! certain.

use super::library::{PlannedLibrary, PlannedPin};
use crate::board::{Board, Spanned};
use crate::code::{Id as _, LibraryId, Owner, PinId, Table};
use crate::script::{GlobalUse, When};
use crate::source::Span;

/// A need that the board does not say.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct InferredNeed {
    /// Who needs it.
    pub owner: Owner,
    /// Which library.
    pub library: LibraryId,
    /// The global that is read, and that library alone defines.
    pub global: String,
    /// Which of the owner's scripts reads it, counted from 0.
    pub script: u32,
    /// Where.
    pub span: Span,
}

/// All needs of a board.
#[derive(Clone, Debug, Default)]
pub struct Needs {
    /// For each library, those that it cannot do without.
    pub libraries: Table<LibraryId, Vec<Spanned<LibraryId>>>,
    /// For each library, those that come before it where they are on the same page.
    pub before: Table<LibraryId, Vec<Spanned<LibraryId>>>,
    /// Those that the board does not say.
    pub inferred: Vec<InferredNeed>,
    /// Those that no order can satisfy: what is read needs the reader.
    pub circular: Vec<InferredNeed>,
    /// For each library, the globals that it defines.
    pub globals: Table<LibraryId, Vec<String>>,
}

impl Needs {
    pub(super) fn of(
        board: &Board,
        libraries: &Table<LibraryId, PlannedLibrary>,
        pins: &Table<PinId, PlannedPin>,
    ) -> Self {
        let said = || board.libraries.map(|(_, library)| library.needs.clone());
        let mut needs = Needs {
            libraries: said(),
            before: said(),
            inferred: Vec::new(),
            circular: Vec::new(),
            globals: libraries.map(|(id, library)| globals_of(board, id, library)),
        };
        for (id, library) in libraries.entries().filter(|(id, _)| !board.libraries[*id].says_needs) {
            for (script, facts) in library.script_facts() {
                for read in facts.reads.iter().filter(|read| read.when != When::Perhaps) {
                    needs.of_library(board, id, script, read);
                }
            }
        }
        for (id, _) in board.active_pins() {
            let Some(facts) = pins[id].script_facts() else { continue };
            let mut said: Vec<LibraryId> = board.pins[id].needs.iter().map(|need| need.value).collect();
            for read in facts.reads.iter().filter(|read| !read.guarded && read.when != When::Perhaps) {
                let Some(library) = needs.only_definer(&read.name) else { continue };
                let by_pin = pins.entries().any(|(other, pin)| other != id && gives(pin, &read.name));
                let is_said =
                    said.iter().any(|own| *own == library || reaches(&needs.libraries, *own, library));
                if !by_pin && !is_said {
                    said.push(library);
                    needs.inferred.push(inferred(Owner::Pin(id), library, 0, read));
                }
            }
        }
        needs
    }

    /// What follows from a global that a script of a library reads.
    fn of_library(&mut self, board: &Board, id: LibraryId, script: u32, read: &GlobalUse) {
        let Some(other) = self.only_definer(&read.name).filter(|other| *other != id) else { return };
        // What needs this one already is no need of it.
        if reaches(&self.before, other, id) {
            if !read.guarded && read.when == When::Now {
                self.circular.push(inferred(Owner::Library(id), other, script, read));
            }
            return;
        }
        let need = Spanned { value: other, span: board.libraries[id].name.span };
        if !reaches(&self.before, id, other) {
            self.before[id].push(need.clone());
        }
        if !read.guarded && !reaches(&self.libraries, id, other) {
            self.libraries[id].push(need);
            self.inferred.push(inferred(Owner::Library(id), other, script, read));
        }
    }

    /// The one library that defines a global.
    fn only_definer(&self, name: &str) -> Option<LibraryId> {
        let defines = |(_, globals): &(LibraryId, &Vec<String>)| globals.iter().any(|own| own == name);
        let mut all = self.globals.entries().filter(defines).map(|(id, _)| id);
        all.next().filter(|_| all.next().is_none())
    }

    /// The libraries that some pins need, and those that these need, each once.
    pub(super) fn of_pins(&self, board: &Board, pins: &[PinId]) -> Vec<LibraryId> {
        let mut waiting: Vec<LibraryId> = Vec::new();
        for pin in pins {
            waiting.extend(board.pins[*pin].needs.iter().map(|need| need.value));
            waiting.extend(self.forgotten(*pin).map(|need| need.library));
        }
        let mut needed = Vec::new();
        while let Some(library) = waiting.pop() {
            if !needed.contains(&library) {
                needed.push(library);
                waiting.extend(self.libraries[library].iter().map(|need| need.value));
            }
        }
        needed
    }

    /// The way from one library to another that it needs: each needs the next. Empty where there is none.
    pub fn way(&self, from: LibraryId, to: LibraryId) -> Vec<LibraryId> {
        let mut ways = vec![vec![from]];
        let mut seen = vec![false; self.before.len()];
        while let Some(way) = ways.first().cloned() {
            ways.remove(0);
            let Some(&at) = way.last() else { continue };
            if at == to {
                return way;
            }
            if !std::mem::replace(&mut seen[at.index()], true) {
                let next = self.before[at].iter().map(|need| [&way[..], &[need.value]].concat());
                ways.extend(next);
            }
        }
        Vec::new()
    }

    /// The libraries that a pin needs and the board does not say, with the global that tells.
    pub fn forgotten(&self, pin: PinId) -> impl Iterator<Item = &InferredNeed> {
        self.inferred.iter().filter(move |own| own.owner == Owner::Pin(pin))
    }
}

fn inferred(owner: Owner, library: LibraryId, script: u32, read: &GlobalUse) -> InferredNeed {
    InferredNeed { owner, library, global: read.name.clone(), script, span: read.span }
}

/// The globals of a library: those that the board says, or else those that its scripts define.
fn globals_of(board: &Board, id: LibraryId, library: &PlannedLibrary) -> Vec<String> {
    let said = &board.libraries[id].defines;
    if !said.is_empty() {
        return said.clone();
    }
    let defined = library.script_facts().flat_map(|(_, facts)| &facts.defines);
    let mut names: Vec<String> =
        defined.filter(|own| own.when != When::Later).map(|own| own.name.clone()).collect();
    names.sort();
    names.dedup();
    names
}

fn gives(pin: &PlannedPin, name: &str) -> bool {
    pin.script_facts().is_some_and(|facts| facts.defines.iter().any(|own| own.name == name))
}

/// Whether one library needs another, by whatever way.
fn reaches(needs: &Table<LibraryId, Vec<Spanned<LibraryId>>>, from: LibraryId, to: LibraryId) -> bool {
    let mut seen = vec![false; needs.len()];
    let mut waiting = vec![from];
    while let Some(at) = waiting.pop() {
        if at == to {
            return true;
        }
        if !std::mem::replace(&mut seen[at.index()], true) {
            waiting.extend(needs[at].iter().map(|need| need.value));
        }
    }
    false
}
