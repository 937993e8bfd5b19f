//! What is called again and again: intervals, and listeners of what a visitor does several times. Each call finds what
//! the last one left.

use super::arguments::Arguments;
use super::machine::{Environment, Machine, Run, Stop, Task, Turn};
use super::made_node::MadeNode;
use super::presence::Presence;
use super::touched::{Gone, Touched};
use super::value::{Certainty, Kind, Node, Object, ObjectId, Value};
use rustc_hash::FxHashMap;
use std::collections::BTreeMap;
use std::sync::Arc;

/// So often it is called.
const MOST_CALLS: u32 = 12;
/// So many tasks of a script are.
const MOST_TASKS: u32 = 12;
/// So many objects may there be for that.
const MOST_OBJECTS: usize = 5_000;
/// What happens within so many milliseconds happens on each visit.
const SOON: f64 = 10_000.0;

/// The state of an evaluation, to come back to.
pub(super) struct Snapshot {
    environments: Vec<Environment>,
    objects: Vec<Object>,
    globals: FxHashMap<Arc<str>, Value>,
    elements: FxHashMap<Node, ObjectId>,
    made_nodes: Vec<MadeNode>,
    touched: Touched,
    gone: Vec<Gone>,
    presence: Presence,
    tasks: BTreeMap<(Turn, u64, u32), Task>,
    callbacks: usize,
}

impl Machine<'_> {
    /// Calls a task's function several times, each with what the last one left, and notes what goes wrong. After that all
    /// is as before.
    pub(super) fn call_repeatedly(&mut self, turn: Turn, task: &Task) -> Run<()> {
        let certainty = match (turn, task.interval) {
            (_, Some(_)) => Certainty::Certain,
            (Turn::Visitor, None) => Certainty::SomeVisit,
            _ => return Ok(()),
        };
        let is_worth = task.certainty == certainty
            && (task.interval.is_some() || self.changes_something(&task.function));
        if !is_worth || !self.may_repeat() {
            return Ok(());
        }
        self.repeated += 1;
        self.charge(self.objects.len() / 4);
        let before = self.snapshot();
        let first = self.faults.len();
        let result = self.calls(task, certainty, first);
        self.restore(before);
        result
    }

    fn calls(&mut self, task: &Task, certainty: Certainty, first: usize) -> Run<()> {
        for call in 1..=MOST_CALLS {
            let is_soon = task.interval.is_none_or(|delay| delay * f64::from(call) <= SOON);
            self.certainty = if is_soon { certainty } else { Certainty::SomeVisit };
            (self.is_later, self.tries, self.region, self.thrown) = (true, 0, 0, None);
            self.presence.region = Some(0);
            let arguments = Arguments::of(task.arguments.clone());
            let result = self.call(&task.function, task.this.clone(), arguments, task.span);
            if matches!(result, Err(Stop::Halt)) {
                return Err(Stop::Halt);
            }
            let is_wrong = self.faults.len() > first || matches!(result, Err(Stop::Throw(_)));
            let is_over = task.timer.is_some_and(|timer| self.cleared.contains(&timer));
            if is_wrong || is_over || self.thrown.is_some() {
                return Ok(());
            }
        }
        Ok(())
    }

    /// Whether the script is small enough for that.
    pub(super) fn may_repeat(&self) -> bool {
        self.repeated < MOST_TASKS && self.objects.len() <= MOST_OBJECTS
    }

    /// Whether a function of the script counts something up or down, or takes something away.
    fn changes_something(&self, function: &Value) -> bool {
        const SIGNS: &[&str] =
            &["++", "--", "+=", "-=", "= !", ".shift(", ".pop(", ".splice(", ".remove(", "= null", ".next("];
        let Some(Kind::Function(closure)) = self.kind(function) else { return false };
        let span = self.program_of(closure.environment).function(closure.function).span;
        let text = self.text.get(span.start as usize..span.end as usize).unwrap_or_default();
        SIGNS.iter().any(|sign| text.contains(sign))
    }

    pub(super) fn snapshot(&mut self) -> Snapshot {
        self.waiting.is_held = true;
        Snapshot {
            environments: self.environments.clone(),
            objects: self.objects.clone(),
            globals: self.globals.clone(),
            elements: self.elements.clone(),
            made_nodes: self.made_nodes.clone(),
            touched: self.touched.clone(),
            gone: self.gone.clone(),
            presence: self.presence.clone(),
            tasks: self.tasks.clone(),
            callbacks: self.callbacks.len(),
        }
    }

    pub(super) fn restore(&mut self, before: Snapshot) {
        self.waiting.is_held = false;
        self.environments = before.environments;
        self.objects = before.objects;
        self.globals = before.globals;
        self.elements = before.elements;
        self.made_nodes = before.made_nodes;
        self.made_within.clear();
        self.touched = before.touched;
        self.gone = before.gone;
        self.presence = before.presence;
        let count = self.objects.len();
        self.recipes.retain(|list, _| (list.0 as usize) < count);
        self.texts.retain(|text, _| (text.0 as usize) < count);
        self.scripts.retain(|_, perhaps| (perhaps.0 as usize) < count);
        self.sketched_by.retain(|(perhaps, _), own| (perhaps.0.max(own.0) as usize) < count);
        self.codes.cut(count, self.environments.len());
        self.tasks = before.tasks;
        self.callbacks.truncate(before.callbacks);
        self.cleared.clear();
        (self.certainty, self.region, self.thrown, self.tries, self.is_later) =
            (Certainty::Certain, 0, None, 0, false);
    }
}
