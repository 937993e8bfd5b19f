//! What the globals of a script are, as sketches, and what it does to those of others.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::handled::Handlings;
use super::sketch::Sketch;
use super::{ClassId, ExpressionId, Variable};
use crate::script::record::PageEvent;

/// Of scripts that set more members than so many nobody tells what is not there.
const MOST_SET: usize = 300;

/// What a global is, as far as the scripts of a page tell.
#[derive(Clone, Debug)]
pub struct SketchedGlobal {
    /// What it is.
    pub sketch: Sketch,
    /// The names of members that it may have as well, it or what is in it.
    pub perhaps: FxHashSet<Arc<str>>,
    /// Which script it is of: objects by the same numbers are the same.
    pub script: usize,
    /// What it is at first, until an event of the page, where that has no value.
    pub(in crate::script) at_first: Option<(Sketch, PageEvent)>,
    /// Whether other scripts that make it take what is there.
    is_shared: bool,
    /// What it is made with, where that is made of literals alone and left as it is: the number of the program and that of
    /// the expression there.
    pub(in crate::script) made_with: Option<(u32, ExpressionId)>,
}

impl SketchedGlobal {
    /// Whether it is declared, and nothing of the script tells that it gives it a value.
    pub fn is_without_value(&self) -> bool {
        matches!(self.sketch, Sketch::Nothing | Sketch::Null)
    }

    /// The same where members by some names may have been set to something else.
    pub fn with_sets(mut self, is_set: &dyn Fn(&str) -> bool) -> SketchedGlobal {
        let mut names = FxHashSet::default();
        self.sketch.names(&mut names);
        names.retain(|name| is_set(name));
        self.sketch = self.sketch.with_sets(&names);
        self
    }

    /// The same global as two scripts make it; none where one takes the place of the other.
    pub fn and(self, other: SketchedGlobal) -> Option<SketchedGlobal> {
        let mut perhaps = self.perhaps;
        perhaps.extend(other.perhaps);
        let is_shared = self.is_shared && other.is_shared;
        let sketch = self.sketch.together(other.sketch);
        (self.is_shared || other.is_shared).then_some(SketchedGlobal {
            sketch,
            perhaps,
            is_shared,
            script: self.script,
            at_first: None,
            made_with: None,
        })
    }
}

/// What the globals of a script are, and what it does to those of others.
#[derive(Debug)]
pub(in crate::script) struct Sketches {
    /// The number of the program.
    pub(super) number: u32,
    /// The globals that are made of literals, and with what.
    pub(super) of_literals: FxHashMap<Arc<str>, ExpressionId>,
    pub(super) declared: FxHashMap<Arc<str>, Sketch>,
    /// What globals are at first that have no value until an event of the page.
    pub(super) at_first: FxHashMap<Arc<str>, (Sketch, PageEvent)>,
    /// The globals that it takes where they are there, and makes where they are not.
    pub(super) shared: FxHashSet<Arc<str>>,
    pub(super) handlings: Handlings,
    /// What its variables are of which there is one, whenever they are asked for.
    pub(super) variables: FxHashMap<Variable, Sketch>,
    /// What its classes are where they are declared.
    pub(super) classes: FxHashMap<ClassId, Sketch>,
}

impl Sketches {
    /// What a variable of the script is, whenever it is asked for.
    pub(in crate::script) fn variable(&self, variable: Variable) -> Option<SketchedGlobal> {
        let sketch = self.variables.get(&variable).filter(|sketch| **sketch != Sketch::Unknown)?;
        let global = SketchedGlobal {
            sketch: sketch.clone(),
            perhaps: FxHashSet::default(),
            script: std::ptr::from_ref(self) as usize,
            at_first: None,
            is_shared: false,
            made_with: None,
        };
        self.with_sets("", global)
    }

    /// Whether a class is as it is declared.
    pub(in crate::script) fn is_untouched(&self, class: ClassId, sketch: &Sketch) -> bool {
        self.classes.get(&class) == Some(sketch)
    }

    /// What a global is that the script defines; none where that cannot be told.
    pub(in crate::script) fn of(&self, name: &str) -> Option<SketchedGlobal> {
        let handlings = &self.handlings;
        let is_left = !handlings.sets_any && !handlings.sets_globals && handlings.set_names.is_empty();
        let made_with = self.of_literals.get(name).filter(|_| is_left);
        let sketch = self.declared.get(name);
        let at_first = self.at_first.get(name).filter(|_| is_left);
        let is_known =
            |sketch: &&Sketch| **sketch != Sketch::Unknown || made_with.is_some() || at_first.is_some();
        let sketch = sketch.filter(is_known)?;
        if self.handlings.is_in_code(name) {
            return None;
        }
        let global = SketchedGlobal {
            sketch: sketch.clone(),
            perhaps: FxHashSet::default(),
            script: std::ptr::from_ref(self) as usize,
            at_first: at_first.cloned(),
            is_shared: self.shared.contains(name),
            made_with: made_with.map(|id| (self.number, *id)),
        };
        self.with_sets(name, global)
    }

    /// What a global of another script is, after what this one does to it; none where that cannot be told.
    pub(in crate::script) fn applied_to(&self, name: &str, global: SketchedGlobal) -> Option<SketchedGlobal> {
        if self.handlings.is_in_code(name) {
            return None;
        }
        let global = SketchedGlobal { made_with: None, ..global };
        let Some(handling) = self.handlings.globals.get(name) else {
            let is_same = !self.handlings.sets_globals;
            let sketch = if is_same { global.sketch } else { global.sketch.without_value() };
            return Some(SketchedGlobal { sketch, ..global });
        };
        if handling.times_set > 0 {
            return None;
        }
        let sketch = global.sketch.handled(handling, |_| (Sketch::Unknown, false));
        self.with_sets(name, SketchedGlobal { sketch, ..global })
    }

    fn with_sets(&self, name: &str, mut global: SketchedGlobal) -> Option<SketchedGlobal> {
        let handlings = &self.handlings;
        // What sets it may be given the global object: `this.mode = "later"`.
        if handlings.sets_any || handlings.sets_globals || handlings.set_names.contains(name) {
            global.sketch = global.sketch.without_value();
        }
        let sketch = match handlings.changes_lists {
            true => global.sketch.without_items(),
            false => global.sketch,
        };
        if handlings.sets_any || handlings.set_names.len() > MOST_SET {
            let sketch = sketch.without_members();
            return (sketch != Sketch::Unknown).then_some(SketchedGlobal { sketch, ..global });
        }
        global.perhaps.extend(handlings.set_names.iter().cloned());
        Some(SketchedGlobal { sketch: sketch.with_sets(&handlings.set_names), ..global })
    }
}
