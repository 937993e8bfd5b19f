//! The scripts whose code runs in an evaluation: the script itself, and those whose functions it calls.

use rustc_hash::FxHashMap;

use super::value::{EnvironmentId, Value};
use crate::script::program::{Program, Variable};
use crate::source::Span;

/// The code of a script.
#[derive(Clone, Copy, Debug)]
pub struct Code<'c> {
    pub(in crate::script) program: &'c Program,
    pub(in crate::script) text: &'c str,
    /// Whether what is declared at its top level is global.
    pub(in crate::script) has_globals: bool,
}

/// The scripts whose code runs in an evaluation, by their places.
pub(super) struct Codes<'m> {
    pub(super) all: Vec<(Code<'m>, EnvironmentId)>,
    /// Those that are looked for by their numbers; none for what is not to be run.
    pub(super) places: FxHashMap<u32, Option<u16>>,
    /// Which of them runs.
    pub(super) running: u16,
    /// Where the script has called what runs of another.
    pub(super) called_at: Span,
    /// What variables of others are, each asked once.
    pub(super) variables: FxHashMap<(u16, Variable), Value>,
}

impl<'m> Codes<'m> {
    pub(super) fn new(program: &'m Program, text: &'m str) -> Self {
        Codes {
            all: vec![(Code { program, text, has_globals: false }, EnvironmentId(0))],
            places: FxHashMap::default(),
            running: 0,
            called_at: Span { start: 0, end: 0 },
            variables: FxHashMap::default(),
        }
    }

    /// Whether a variable of what runs is a global.
    pub(super) fn is_global(&self, variable: Variable) -> bool {
        let code = &self.all[usize::from(self.running)].0;
        code.has_globals && code.program.is_at_top(variable)
    }

    /// The script itself.
    pub(super) fn own(&self) -> &'m Program {
        self.all[0].0.program
    }

    /// The text that runs.
    pub(super) fn text(&self) -> &'m str {
        self.all[usize::from(self.running)].0.text
    }

    /// Goes back to what there was with so many objects and scopes.
    pub(super) fn cut(&mut self, objects: usize, environments: usize) {
        self.all.retain(|(_, environment)| (environment.0 as usize) < environments);
        let count = self.all.len();
        self.places.retain(|_, place| place.is_none_or(|place| usize::from(place) < count));
        self.variables.retain(|(place, _), value| {
            usize::from(*place) < count && !matches!(value, Value::Object(id) if id.0 as usize >= objects)
        });
    }

    /// A place in what runs as one in the script itself.
    pub(super) fn here(&self, span: Span) -> Span {
        self.called_at().unwrap_or(span)
    }

    /// Where a call stands in the script itself; none for what is its own.
    pub(super) fn called_at(&self) -> Option<Span> {
        (self.running > 0).then_some(self.called_at)
    }
}
