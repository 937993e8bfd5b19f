//! Tasks: what is called later, and in which order (HTML, "Event loops").

use super::arguments::Arguments;
use super::machine::{Machine, Run, Stop, Task, Turn};
use super::value::{Certainty, Kind, PromiseState, Value};
use crate::source::Span;

impl Machine<'_> {
    pub(super) fn schedule(&mut self, turn: Turn, mut task: Task) {
        task.span = self.codes.here(task.span);
        if self.tasks.len() < 2000 {
            self.task_count += 1;
            let at = match turn {
                Turn::Timer => self.now.saturating_add(task.delay.clamp(0.0, 1e9) as u64),
                _ => 0,
            };
            self.tasks.insert((turn, at, self.task_count), task);
        }
    }

    pub(super) fn drain_microtasks(&mut self) -> Run<()> {
        while let Some(entry) = self.tasks.first_entry() {
            if entry.key().0 != Turn::Microtask {
                return Ok(());
            }
            let task = entry.remove();
            self.run_task(task)?;
        }
        Ok(())
    }

    /// Runs all that waits, in order.
    pub(super) fn run_tasks(&mut self) -> Run<()> {
        while let Some(((turn, at, _), task)) = self.tasks.pop_first() {
            self.now = self.now.max(at);
            self.turn = self.turn.max(Some(turn));
            self.is_in_order = match turn {
                Turn::Microtask => self.is_in_order,
                Turn::Parsed | Turn::Loaded => true,
                Turn::Timer => self.is_alone(at, &task),
                Turn::Visitor => false,
            };
            self.call_repeatedly(turn, &task)?;
            self.asked_targets.clear();
            self.asked_member = None;
            self.asked_variables.clear();
            self.asked_choices.clear();
            let kept = (turn == Turn::Visitor && task.arguments.len() == 1).then(|| task.clone());
            let before = kept.as_ref().filter(|_| self.may_repeat()).map(|_| self.presence.clone());
            self.run_task(task)?;
            if let (Some(task), Some(before)) = (kept, before) {
                let after = std::mem::replace(&mut self.presence, before);
                self.call_for_targets(turn, &task)?;
                self.presence = after;
            }
        }
        Ok(())
    }

    /// Whether no other timer comes at about the time of one.
    fn is_alone(&self, at: u64, task: &Task) -> bool {
        /// Timers that are so many milliseconds apart come one after the other.
        const APART: u64 = 50;
        let next = self.tasks.keys().find(|(turn, ..)| *turn >= Turn::Timer);
        task.is_timed && next.is_none_or(|(turn, next, _)| *turn > Turn::Timer || *next > at + APART)
    }

    fn run_task(&mut self, task: Task) -> Run<()> {
        let Task { function, this, arguments, certainty, is_later, settles, keeps, span, .. } = task;
        let outer = (self.certainty, self.region, self.is_later, self.thrown.take(), self.tries);
        self.certainty = certainty;
        self.is_later = is_later;
        self.tries = 0;
        self.region = if certainty == Certainty::Certain { 0 } else { self.new_region() };
        let first_fault = self.faults.len();
        let mut arguments = Arguments::of(arguments);
        arguments.is_open = false;
        let changes = self.begins_task();
        let result = self.call(&function, this, arguments, span);
        if let Ok(answer) = &result {
            self.check_idle_answer(&function, answer);
        }
        self.ends_task(changes, certainty);
        let is_certain = self.thrown.is_none() && certainty == Certainty::Certain;
        (self.certainty, self.region, self.is_later, self.thrown, self.tries) = outer;
        let mut faults: Vec<usize> = (first_fault..self.faults.len()).collect();
        faults.append(&mut self.carried);
        let (is_fulfilled, value) = match result {
            Err(Stop::Halt) => return Err(Stop::Halt),
            Err(Stop::Throw(error)) => (false, error),
            Err(_) => (true, Value::UNDEFINED),
            Ok(value) => match keeps {
                Some((is_fulfilled, kept)) => (is_fulfilled, kept),
                None => (true, value),
            },
        };
        let Some(promise) = settles else { return Ok(()) };
        if !is_fulfilled {
            // A later `catch` may cope with it.
            self.has_failed(promise, faults);
        }
        if is_certain {
            self.settle(promise, is_fulfilled, value);
        } else if is_fulfilled {
            let value = match self.kind(&value) {
                Some(Kind::Promise(other)) => match &other.state {
                    PromiseState::Fulfilled(value) | PromiseState::Waiting(value) => value.clone(),
                    _ => Value::OPEN,
                },
                _ => value,
            };
            self.hand_on(promise, true, value, Certainty::SomeVisit);
        } else if certainty < Certainty::Perhaps {
            self.hand_on(promise, false, value, Certainty::SomeVisit);
        }
        Ok(())
    }

    /// A function that is called once some time has passed.
    pub(super) fn later(
        &mut self,
        function: Value,
        arguments: Vec<Value>,
        turn: Turn,
        certainty: Certainty,
        span: Span,
    ) {
        self.later_on(function, Value::UNDEFINED, arguments, turn, certainty, span);
    }

    pub(super) fn later_on(
        &mut self,
        function: Value,
        this: Value,
        arguments: Vec<Value>,
        turn: Turn,
        certainty: Certainty,
        span: Span,
    ) {
        self.calls_later(None, (function, this), arguments, (turn, certainty), span);
    }
}
