//! Promises, and what is called later (ECMA-262, "Promise Objects"; HTML, "Event loops").

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop, Task, Turn};
use super::value::{Certainty, Kind, ObjectId, Promise, PromiseState, Reaction, Value};
use crate::source::Span;

/// Longer lines of objects that inherit from each other are not followed.
const LONGEST_CHAIN: usize = 50;

impl Machine<'_> {
    /// A promise that the platform settles, in some visit with that value.
    pub(super) fn waiting(&mut self, value: Value) -> Value {
        let promise = Promise { state: PromiseState::Waiting(value), ..Promise::default() };
        Value::Object(self.promise(promise))
    }

    /// A promise that has that value already.
    pub(super) fn settled(&mut self, is_fulfilled: bool, value: Value) -> Value {
        if let Some(promise) = self.adopted(&value).filter(|_| is_fulfilled) {
            return Value::Object(promise);
        }
        let state = if is_fulfilled { PromiseState::Fulfilled(value) } else { PromiseState::Rejected(value) };
        Value::Object(self.promise(Promise { state, ..Promise::default() }))
    }

    pub(super) fn promise_at(&mut self, id: ObjectId) -> Option<&mut Promise> {
        match &mut self.object_mut(id).kind {
            Kind::Promise(promise) => Some(promise),
            _ => None,
        }
    }

    /// The promise that is settled by an object with a method `then`, which is called soon (ECMA-262, "Promise Resolve
    /// Functions"); none for other values.
    pub(super) fn adopted(&mut self, value: &Value) -> Option<ObjectId> {
        let Value::Object(id) = value else { return None };
        let then = std::iter::successors(Some(*id), |at| self.object(*at).parent)
            .take(LONGEST_CHAIN)
            .find_map(|at| self.object(at).members.get("then"))?
            .clone();
        let is_called =
            matches!(self.kind(&then), Some(Kind::Function(_) | Kind::Bound(..) | Kind::Other(..)));
        if !is_called || matches!(self.kind(value), Some(Kind::Promise(_))) {
            return None;
        }
        let promise = self.promise(Promise::default());
        let settlers = [true, false].map(|own| self.made(Kind::Settler(promise, own)));
        let task = Task::later(then, value.clone(), settlers.to_vec(), self.certainty, self.called_at);
        self.schedule(Turn::Microtask, task);
        Some(promise)
    }

    /// Settles a promise, and calls what waits for it.
    pub(super) fn settle(&mut self, id: ObjectId, is_fulfilled: bool, value: Value) {
        let value = match self.adopted(&value).filter(|_| is_fulfilled) {
            Some(promise) => Value::Object(promise),
            None => value,
        };
        let is_strong = self.is_strong(self.object(id).born);
        if let (Value::Object(other), true) = (&value, is_fulfilled)
            && *other != id
            && let Some(other) = self.promise_at(*other)
        {
            // What is settled by another promise waits for that one.
            if matches!(other.state, PromiseState::Pending) {
                let (fulfilled, rejected) = (Value::UNDEFINED, Value::UNDEFINED);
                other.reactions.push(Reaction { fulfilled, rejected, result: id, is_final: false });
                return;
            }
            other.is_handled = true;
            let faults = std::mem::take(&mut other.faults);
            self.has_failed(id, faults);
        }
        let state = match self.kind(&value) {
            Some(Kind::Promise(other)) if is_fulfilled => other.state.clone(),
            _ if !is_strong && !is_fulfilled => PromiseState::Failing(value),
            _ if !is_strong => PromiseState::Waiting(value),
            _ if is_fulfilled => PromiseState::Fulfilled(value),
            _ => PromiseState::Rejected(value),
        };
        let Some(promise) = self.promise_at(id) else { return };
        match (&promise.state, &state) {
            (PromiseState::Pending, PromiseState::Waiting(_) | PromiseState::Failing(_)) => {
                promise.otherwise = promise.reactions.clone();
            }
            (PromiseState::Pending, _) => {}
            // Some visits have it this way, others that way.
            (PromiseState::Waiting(_), PromiseState::Failing(_))
            | (PromiseState::Failing(_), PromiseState::Waiting(_)) => {
                promise.reactions = std::mem::take(&mut promise.otherwise);
            }
            _ => return,
        }
        promise.state = state;
        self.has_settled(id);
    }

    /// Calls what waits for a promise that has settled.
    fn has_settled(&mut self, id: ObjectId) {
        let Some(promise) = self.promise_at(id) else { return };
        let (gathers, state) = (promise.gathers, promise.state.clone());
        for reaction in std::mem::take(&mut promise.reactions) {
            self.react(id, reaction);
        }
        if let Some(place) = gathers {
            self.gathers(place, state);
        }
    }

    /// The script rejects a promise itself: where nothing copes with that, it is reported.
    pub(super) fn rejects(&mut self, id: ObjectId, reason: Value, span: Span) {
        // Of what comes later, something else may have settled it before.
        let is_told = self.certainty == Certainty::Certain && self.turn <= Some(Turn::Microtask);
        let is_pending =
            self.promise_at(id).is_some_and(|promise| matches!(promise.state, PromiseState::Pending));
        let fault = match is_told && is_pending {
            true => self.note(span, RunFaultKind::Thrown),
            false => None,
        };
        self.settle(id, false, reason);
        let faults: Vec<usize> = fault.into_iter().collect();
        self.has_failed(id, faults);
    }

    /// A promise was rejected by faults: they are told unless something copes with them.
    pub(super) fn has_failed(&mut self, id: ObjectId, faults: Vec<usize>) {
        if self.is_handled_later(id, 0) {
            self.handle(&faults);
        } else if let Some(own) = self.promise_at(id) {
            own.faults.extend(faults);
        }
    }

    /// Something that is not known has got a promise, and may cope with what goes wrong in it.
    pub(super) fn is_coped_with(&mut self, id: ObjectId) {
        let Some(own) = self.promise_at(id) else { return };
        own.is_handled = true;
        let faults = std::mem::take(&mut own.faults);
        self.handle(&faults);
    }

    /// What follows upon a promise.
    pub(super) fn then(
        &mut self,
        promise: &Value,
        fulfilled: Value,
        rejected: Value,
        is_final: bool,
    ) -> Value {
        let result = self.promise(Promise::default());
        let handles = !matches!(rejected, Value::Undefined(_) | Value::Null(_)) && !is_final;
        let Value::Object(id) = promise else { return Value::Object(result) };
        let reaction = Reaction { fulfilled, rejected, result, is_final };
        let Some(own) = self.promise_at(*id) else { return Value::Object(result) };
        own.is_handled |= handles;
        if handles {
            let faults = std::mem::take(&mut own.faults);
            self.handle(&faults);
        } else {
            // What is thrown goes on to the next.
            let faults = std::mem::take(&mut own.faults);
            if let Some(next) = self.promise_at(result) {
                next.faults = faults;
            }
        }
        if let Some(own) = self.promise_at(*id)
            && matches!(own.state, PromiseState::Pending)
        {
            own.reactions.push(reaction);
            return Value::Object(result);
        }
        self.react(*id, reaction);
        Value::Object(result)
    }

    /// Faults that something copes with are not told.
    pub(super) fn handle(&mut self, faults: &[usize]) {
        for fault in faults {
            if let Some((_, is_told)) = self.faults.get_mut(*fault) {
                *is_told = false;
            }
        }
    }

    pub(super) fn react(&mut self, id: ObjectId, reaction: Reaction) {
        let Some(promise) = self.promise_at(id) else { return };
        let state = promise.state.clone();
        let Reaction { fulfilled, rejected, result, is_final } = reaction;
        let mut calls: Vec<(Value, Value, Certainty, bool)> = Vec::new();
        match state {
            PromiseState::Pending => return,
            PromiseState::Waiting(value) => {
                calls.push((fulfilled, value, Certainty::SomeVisit, true));
                if !is_final {
                    calls.push((rejected, Value::OPEN, Certainty::Perhaps, false));
                }
            }
            PromiseState::Failing(value) => {
                calls.push((rejected, value, Certainty::SomeVisit, false));
                if !is_final {
                    calls.push((fulfilled, Value::OPEN, Certainty::Perhaps, true));
                }
            }
            PromiseState::Fulfilled(value) => calls.push((fulfilled, value, Certainty::Certain, true)),
            PromiseState::Rejected(value) => calls.push((rejected, value, Certainty::Certain, false)),
        }
        for (function, value, certainty, is_fulfilled) in calls {
            let is_function = matches!(function, Value::Object(_) | Value::Unknown(_));
            if !is_function {
                // Without a function the value is handed on.
                if certainty != Certainty::Perhaps {
                    self.hand_on(result, is_fulfilled, value, certainty);
                }
                continue;
            }
            let is_later = self.is_later || certainty != Certainty::Certain;
            let is_settled = certainty != Certainty::Perhaps;
            let keeps = is_final.then(|| (is_fulfilled, value.clone()));
            let arguments = if is_final { Vec::new() } else { vec![value] };
            let certainty = self.certainty.max(certainty);
            let task = Task {
                is_later,
                settles: is_settled.then_some(result),
                keeps,
                ..Task::later(function, Value::UNDEFINED, arguments, certainty, Span { start: 0, end: 0 })
            };
            self.schedule(Turn::Microtask, task);
        }
    }

    pub(super) fn hand_on(
        &mut self,
        result: ObjectId,
        is_fulfilled: bool,
        value: Value,
        certainty: Certainty,
    ) {
        if certainty == Certainty::Certain {
            self.settle(result, is_fulfilled, value);
            return;
        }
        let Some(promise) = self.promise_at(result) else { return };
        promise.state =
            if is_fulfilled { PromiseState::Waiting(value) } else { PromiseState::Failing(value) };
        self.has_settled(result);
    }

    /// `await`: what comes behind runs once the promise is settled.
    pub(super) fn awaited(&mut self, value: Value) -> Run<Value> {
        let Value::Object(id) = value else { return Ok(value) };
        let id = match self.object(id).kind {
            Kind::Promise(_) => id,
            _ => match self.adopted(&value) {
                Some(promise) => promise,
                None => return Ok(value),
            },
        };
        self.drain_microtasks()?;
        let is_tried = self.tries > 0;
        let Some(promise) = self.promise_at(id) else { return Ok(Value::OPEN) };
        promise.is_handled = true;
        let faults = std::mem::take(&mut promise.faults);
        let (state, waits_for_timer) = (promise.state.clone(), promise.waits_for_timer);
        match is_tried {
            true => self.handle(&faults),
            false => self.carried = faults,
        }
        match state {
            PromiseState::Pending if waits_for_timer => {
                self.is_later = true;
                Ok(Value::OPEN)
            }
            PromiseState::Fulfilled(value) => Ok(value),
            PromiseState::Rejected(error) => Err(Stop::Throw(error)),
            PromiseState::Waiting(value) => {
                self.is_later = true;
                self.weaken(Certainty::SomeVisit);
                Ok(value)
            }
            PromiseState::Failing(error) => {
                self.is_later = true;
                self.may_stop(Stop::Throw(error), Certainty::SomeVisit)?;
                self.weaken(Certainty::SomeVisit);
                Ok(Value::OPEN)
            }
            PromiseState::Pending => {
                self.is_later = true;
                self.weaken(Certainty::SomeVisit);
                Ok(Value::OPEN)
            }
        }
    }

    fn is_handled_later(&mut self, promise: ObjectId, depth: u32) -> bool {
        let Some(own) = self.promise_at(promise) else { return false };
        if own.is_handled {
            return true;
        }
        let gathers = own.gathers;
        let mut next: Vec<ObjectId> = own.reactions.iter().map(|reaction| reaction.result).collect();
        if let Some((number, _)) = gathers {
            match self.is_left_to(number) {
                Some(all) => next.push(all),
                None => return true,
            }
        }
        depth < 30 && next.into_iter().any(|next| self.is_handled_later(next, depth + 1))
    }

    /// The methods of promises, and of `Promise` itself.
    pub(super) fn call_promise(&mut self, name: &str, this: &Value, arguments: &Arguments) -> Value {
        match name {
            "then" if arguments.values.len() == 1 => {
                self.check_listener(arguments, 0, self.called_at);
                self.then(this, arguments.get(0), Value::UNDEFINED, false)
            }
            "then" => self.then(this, arguments.get(0), arguments.get(1), false),
            "catch" => self.then(this, Value::UNDEFINED, arguments.get(0), false),
            "finally" => self.then(this, arguments.get(0), arguments.get(0), true),
            _ => Value::OPEN,
        }
    }

    /// `new Promise(…)`.
    pub(super) fn new_promise(&mut self, arguments: &Arguments, span: Span) -> Run<Value> {
        if !matches!(arguments.get(0), Value::Object(_) | Value::Unknown(_)) {
            let kind = RunFaultKind::RefusedArgument {
                method: "new Promise".to_owned(),
                given: self.written(span),
                takes: "a function".to_owned(),
                write: None,
            };
            return Err(self.throws(span, kind));
        }
        let promise = self.promise(Promise::default());
        let resolve = self.made(Kind::Settler(promise, true));
        let reject = self.made(Kind::Settler(promise, false));
        let executor = arguments.get(0);
        let first_fault = self.faults.len();
        let timers = |machine: &Self| machine.tasks.keys().filter(|key| key.0 == Turn::Timer).count();
        let before = timers(self);
        let result = self.call(&executor, Value::UNDEFINED, Arguments::of(vec![resolve, reject]), span);
        let waits = timers(self) > before;
        if let Some(own) = self.promise_at(promise) {
            own.waits_for_timer = waits;
        }
        match result {
            Err(Stop::Throw(error)) => {
                let faults: Vec<usize> = (first_fault..self.faults.len()).collect();
                self.settle(promise, false, error);
                if let Some(own) = self.promise_at(promise) {
                    own.faults = faults;
                }
            }
            Err(other) => return Err(other),
            Ok(_) => {}
        }
        Ok(Value::Object(promise))
    }

    /// The method of a listener object that is called (DOM, "handleEvent").
    pub(super) fn listener(&mut self, value: &Value) -> Value {
        let Value::Object(id) = value else { return value.clone() };
        let around = std::iter::successors(Some(*id), |at| self.object(*at).parent).take(20);
        let handler = around.filter_map(|at| self.object(at).members.get("handleEvent")).next();
        match (&self.object(*id).kind, handler) {
            (Kind::Plain, Some(handler)) => {
                let handler = handler.clone();
                self.made(Kind::Bound(handler, value.clone(), Vec::new()))
            }
            _ => value.clone(),
        }
    }

    pub(super) fn name(text: &str) -> Arc<str> {
        Arc::from(text)
    }
}
