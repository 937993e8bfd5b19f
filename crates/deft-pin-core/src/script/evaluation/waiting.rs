//! Async functions: left where they wait, and gone on with once that is settled (ECMA-262, "Await").
//!
//! A function that waits is left as by `return`. What it is in keeps, one by one, what is still to run there: the rest of a
//! block, further rounds of a loop, a `catch`. The statement that waits runs once more then, and its `await` has its answer.

use super::arguments::{Arguments, Items};
use super::machine::{Machine, Run, Stop, Task, Turn};
use super::unfinished::{Left, Part, Rest};
use super::value::{Certainty, Kind, ObjectId, PromiseState, Value};
use crate::script::program::ExpressionId;
use crate::source::Span;

/// So many functions that wait are kept.
const MOST: usize = 500;

impl<'m> Machine<'m> {
    /// `await`.
    pub(super) fn wait_for(&mut self, id: ExpressionId, inner: ExpressionId) -> Run<Value> {
        if let Some((_, known)) = self.frame.answers.iter().find(|(own, _)| *own == id) {
            return Ok(known.clone());
        }
        let value = self.expression(inner)?;
        if self.may_be_left() {
            let promise = match &value {
                Value::Unknown(_) => None,
                Value::Object(id) => match &self.object(*id).kind {
                    Kind::Promise(_) => Some(*id),
                    Kind::Element(_) | Kind::List(..) | Kind::Array(_) => self.kept(value.clone()),
                    _ => self.adopted(&value),
                },
                _ => self.kept(value.clone()),
            };
            if let Some(promise) = promise {
                self.waiting.awaited = Some((promise, id));
                return Err(Stop::Wait);
            }
        }
        // What comes next changes the page once what runs has ended: in which order is not followed.
        self.presence.region = None;
        self.frame.has_waited = true;
        self.awaited(value)
    }

    /// `for await`: what its items come to. When, is not followed.
    pub(super) fn waits_for_each(&mut self, items: &mut Items) {
        self.presence.region = None;
        self.frame.has_waited = true;
        for item in &mut items.known {
            let Value::Object(id) = *item else { continue };
            let Some(id) = self.promise_at(id).map(|_| id).or_else(|| self.adopted(item)) else { continue };
            let Some(promise) = self.promise_at(id) else { continue };
            let state = promise.state.clone();
            self.is_coped_with(id);
            *item = match state {
                PromiseState::Fulfilled(value) => value,
                _ => Value::OPEN,
            };
        }
    }

    fn kept(&mut self, value: Value) -> Option<ObjectId> {
        match self.settled(true, value) {
            Value::Object(promise) => Some(promise),
            _ => None,
        }
    }

    /// Whether what runs can be left here, and gone on with later.
    fn may_be_left(&self) -> bool {
        self.frame.may_wait
            && !self.waiting.is_held
            && self.certainty == Certainty::Certain
            && self.region == 0
            && self.thrown.is_none()
            && self.waiting.left.len() < MOST
    }

    /// Runs what is never left half-way.
    pub(super) fn at_once<T>(&mut self, run: impl FnOnce(&mut Self) -> T) -> T {
        let outer = std::mem::replace(&mut self.frame.may_wait, false);
        let result = run(self);
        self.frame.may_wait = outer;
        result
    }

    /// An expression that runs once more where it waits.
    pub(super) fn answered(&mut self, id: ExpressionId) -> Run<Value> {
        let result = self.expression(id);
        if !matches!(result, Err(Stop::Wait)) {
            self.frame.answers.clear();
        }
        result
    }

    /// Keeps what is still to run where a function is left.
    pub(super) fn keep_rest<T>(&mut self, result: &Run<T>, part: impl FnOnce() -> Part<'m>) -> bool {
        let is_left = matches!(result, Err(Stop::Wait));
        if is_left {
            self.waiting.rests.push(Rest { part: part(), environment: self.environment });
        }
        is_left
    }

    /// The same for the statement that waits itself.
    pub(super) fn keep_first<T>(&mut self, result: &Run<T>, part: impl FnOnce() -> Part<'m>) {
        if self.waiting.rests.is_empty() {
            self.keep_rest(result, part);
        }
    }

    /// Leaves the function that waits. Gives what it comes to.
    pub(super) fn leave(&mut self) -> Value {
        let rests = std::mem::take(&mut self.waiting.rests);
        let Some((promise, at)) = self.waiting.awaited.take() else { return Value::OPEN };
        let catches = rests.iter().any(Rest::catches);
        let number = self.waiting.left.len() as u32;
        self.waiting.left.push(Left { rests, frame: self.frame.clone(), at, has_gone_on: false });
        let fulfilled = self.made(Kind::GoesOn(number, true));
        let rejected = if catches { self.made(Kind::GoesOn(number, false)) } else { Value::UNDEFINED };
        self.then(&Value::Object(promise), fulfilled, rejected, false)
    }

    /// Goes on with a function that has waited.
    pub(super) fn go_on(&mut self, number: u32, is_fulfilled: bool, arguments: &Arguments) -> Run<Value> {
        let Some(left) = self.waiting.left.get_mut(number as usize) else { return Ok(Value::OPEN) };
        left.has_gone_on = true;
        let left = left.clone();
        let environment = left.rests.first().map_or(self.environment, |rest| rest.environment);
        self.in_code_of(environment, |machine| machine.go_on_here(left, is_fulfilled, arguments))
    }

    fn go_on_here(&mut self, left: Left<'m>, is_fulfilled: bool, arguments: &Arguments) -> Run<Value> {
        let Left { rests, mut frame, at, .. } = left;
        let value = arguments.values.first().cloned().unwrap_or(Value::OPEN);
        self.charge(rests.len());
        let mut result: Run<()> = match is_fulfilled {
            true => {
                frame.answers.push((at, value));
                Ok(())
            }
            false => Err(Stop::Throw(value)),
        };
        let outer_environment = self.environment;
        let outer_frame = std::mem::replace(&mut self.frame, frame);
        let (certainty, region, tries) = (self.certainty, self.region, self.tries);
        self.tries = rests.iter().filter(|rest| rest.catches()).count() as u32;
        // What is thrown there keeps the statement that waits from going on.
        let mut rests = rests.into_iter().skip(usize::from(!is_fulfilled));
        while let Some(rest) = rests.next() {
            self.environment = rest.environment;
            self.tries -= u32::from(rest.catches());
            result = self.run_rest(rest.part, result, (certainty, region));
            if matches!(result, Err(Stop::Wait)) {
                self.waiting.rests.extend(rests);
                break;
            }
        }
        let value = match result {
            Err(Stop::Wait) => Ok(self.leave()),
            Ok(()) => Ok(Value::UNDEFINED),
            Err(Stop::Return(value)) => Ok(value),
            Err(other) => Err(other),
        };
        let returned = self.frame.returned.take();
        (self.certainty, self.region, self.tries) = (certainty, region, tries);
        self.environment = outer_environment;
        self.frame = outer_frame;
        Ok(match returned {
            Some(other) => value?.or(other),
            None => value?,
        })
    }

    fn run_rest(&mut self, part: Part<'m>, result: Run<()>, before: (Certainty, u32)) -> Run<()> {
        match part {
            Part::Statement(id) => result.and_then(|()| self.statement(id)),
            Part::Variables(kind, all) => result.and_then(|()| self.variables(kind, all)),
            Part::Expression(id) => {
                result?;
                Err(Stop::Return(self.body_expression(id)?))
            }
            Part::Statements(statements) => result.and_then(|()| self.statements(statements)),
            Part::Loop(rounds, round) => self.go_round(&rounds, round, Some(result)),
            Part::Each(each, items) => self.go_over(each, items, Some(result)),
            Part::Try(handler, finalizer) => self.after_block(result, handler, finalizer, before, None),
            Part::Finally(finalizer) => {
                self.at_once(|this| this.statement(finalizer))?;
                result
            }
            Part::Cases(cases) => {
                let result = result.and_then(|()| self.fall_through(cases));
                match result {
                    Err(Stop::Break(None)) => Ok(()),
                    other => other,
                }
            }
            Part::Labeled(label) => match result {
                Err(Stop::Break(Some(own)) | Stop::Continue(Some(own))) if own == *label => Ok(()),
                other => other,
            },
        }
    }

    /// Goes on with what waits for what nothing here settles.
    pub(super) fn go_on_with_all(&mut self) {
        for number in 0..self.waiting.left.len() {
            if !self.waiting.left[number].has_gone_on {
                let function = self.made(Kind::GoesOn(number as u32, true));
                let span = Span { start: 0, end: 0 };
                let task = Task::later(function, Value::UNDEFINED, Vec::new(), Certainty::SomeVisit, span);
                self.schedule(Turn::Visitor, task);
            }
        }
    }
}
