//! What pins and libraries need: what the board says, and what it forgot and their scripts tell for
//! certain.

use super::key::Owner;
use super::part::{LibraryPart, PlannedLibrary, PlannedPin};
use crate::board::{Board, Spanned};
use crate::script::{GlobalUse, ScriptFacts, ScriptKind, When};
use crate::source::Span;

/// A need that the board does not say.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Inferred {
    /// Who needs it.
    pub owner: Owner,
    /// Which library: its place in the board's list.
    pub library: usize,
    /// The global that is read, and that library alone defines.
    pub global: String,
    /// Which of the owner's scripts reads it.
    pub script: usize,
    /// Where.
    pub span: Span,
}

/// All needs of a board.
#[derive(Clone, Debug, Default)]
pub struct Needs {
    /// For each library, those that it cannot do without.
    pub libraries: Vec<Vec<Spanned<usize>>>,
    /// For each library, those that come before it where they are on the same page.
    pub before: Vec<Vec<Spanned<usize>>>,
    /// Those that the board does not say.
    pub inferred: Vec<Inferred>,
    /// Those that no order can satisfy: what is read needs the reader.
    pub circular: Vec<Inferred>,
    /// For each library, the globals that it defines.
    pub globals: Vec<Vec<String>>,
}

impl Needs {
    pub(super) fn of(board: &Board, libraries: &[PlannedLibrary], pins: &[PlannedPin]) -> Self {
        let globals: Vec<Vec<String>> =
            libraries.iter().enumerate().map(|(at, library)| globals_of(board, at, library)).collect();
        let mut needs = Needs {
            libraries: board.libraries.iter().map(|library| library.needs.clone()).collect(),
            before: board.libraries.iter().map(|library| library.needs.clone()).collect(),
            inferred: Vec::new(),
            circular: Vec::new(),
            globals: Vec::new(),
        };
        for (at, library) in libraries.iter().enumerate().filter(|(at, _)| !board.libraries[*at].says_needs) {
            for (script, facts) in scripts_of(library) {
                for read in facts.reads.iter().filter(|read| read.when != When::Perhaps) {
                    let Some(other) = only_definer(&globals, &read.name).filter(|other| *other != at) else {
                        continue;
                    };
                    // What needs this one already is no need of it.
                    if reaches(&needs.before, other, at) {
                        if !read.guarded && read.when == When::Now {
                            needs.circular.push(inferred(Owner::Library(at), other, script, read));
                        }
                        continue;
                    }
                    let need = Spanned { value: other, span: board.libraries[at].name.span };
                    if !reaches(&needs.before, at, other) {
                        needs.before[at].push(need.clone());
                    }
                    if !read.guarded && !reaches(&needs.libraries, at, other) {
                        needs.libraries[at].push(need);
                        needs.inferred.push(inferred(Owner::Library(at), other, script, read));
                    }
                }
            }
        }
        for (at, pin) in pins.iter().enumerate().filter(|(at, _)| !board.pins[*at].off) {
            let script = pin.script.as_ref().and_then(|file| file.script.as_ref());
            let Some(facts) = script.map(|script| script.facts(ScriptKind::Confined)) else { continue };
            let mut said: Vec<usize> = board.pins[at].needs.iter().map(|need| need.value).collect();
            for read in facts.reads.iter().filter(|read| !read.guarded && read.when != When::Perhaps) {
                let Some(library) = only_definer(&globals, &read.name) else { continue };
                let by_pin =
                    pins.iter().enumerate().any(|(other, pin)| other != at && gives(pin, &read.name));
                if by_pin
                    || said.iter().any(|own| *own == library || reaches(&needs.libraries, *own, library))
                {
                    continue;
                }
                said.push(library);
                needs.inferred.push(inferred(Owner::Pin(at), library, 0, read));
            }
        }
        needs.globals = globals;
        needs
    }

    /// The libraries that a pin needs and the board does not say, with the global that tells.
    pub fn forgotten(&self, pin: usize) -> impl Iterator<Item = &Inferred> {
        self.inferred.iter().filter(move |own| own.owner == Owner::Pin(pin))
    }
}

fn inferred(owner: Owner, library: usize, script: usize, read: &GlobalUse) -> Inferred {
    Inferred { owner, library, global: read.name.clone(), script, span: read.span }
}

/// The globals of a library: those that the board says, or else those that its scripts define.
fn globals_of(board: &Board, at: usize, library: &PlannedLibrary) -> Vec<String> {
    let said = &board.libraries[at].defines;
    if !said.is_empty() {
        return said.clone();
    }
    let defined = scripts_of(library).flat_map(|(_, facts)| &facts.defines);
    let mut names: Vec<String> =
        defined.filter(|own| own.when != When::Later).map(|own| own.name.clone()).collect();
    names.sort();
    names.dedup();
    names
}

/// The facts of a library's scripts, as far as they are beside the board, with their places.
pub fn scripts_of(library: &PlannedLibrary) -> impl Iterator<Item = (usize, &ScriptFacts)> {
    let files = library.scripts.iter().enumerate().filter_map(|(at, part)| Some((at, part.local()?)));
    files.filter_map(|(at, file)| Some((at, file.script.as_ref()?.facts(ScriptKind::Classic))))
}

fn gives(pin: &PlannedPin, name: &str) -> bool {
    let script = pin.script.as_ref().and_then(|file| file.script.as_ref());
    script.is_some_and(|script| script.facts(ScriptKind::Confined).defines.iter().any(|own| own.name == name))
}

/// The one library that defines a global.
fn only_definer(globals: &[Vec<String>], name: &str) -> Option<usize> {
    let mut all = (0..globals.len()).filter(|at| globals[*at].iter().any(|own| own == name));
    all.next().filter(|_| all.next().is_none())
}

/// Whether one library needs another, by whatever way.
fn reaches(needs: &[Vec<Spanned<usize>>], from: usize, to: usize) -> bool {
    let mut seen = vec![false; needs.len()];
    let mut waiting = vec![from];
    while let Some(at) = waiting.pop() {
        if at == to {
            return true;
        }
        if !std::mem::replace(&mut seen[at], true) {
            waiting.extend(needs[at].iter().map(|need| need.value));
        }
    }
    false
}

impl PlannedLibrary {
    /// Whether all of its files could be read here.
    pub fn is_known(&self) -> bool {
        self.scripts.iter().chain(&self.styles).all(|part| matches!(part, LibraryPart::Local(_)))
    }
}
