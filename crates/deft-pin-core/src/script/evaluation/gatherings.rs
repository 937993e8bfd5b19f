//! What `Promise` itself gives: promises that are settled, and those of several others (ECMA-262, "Properties of the Promise
//! Constructor").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run, Stop};
use super::value::{Certainty, Gathering, Kind, ObjectId, Promise, PromiseState, Reaction, Until, Value};
use crate::source::Span;

/// So many promises are waited for together.
const MOST: usize = 100;

impl Machine<'_> {
    /// The methods of `Promise` itself.
    pub(super) fn call_promise_itself(
        &mut self,
        name: &str,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        let value = arguments.get(0);
        let until = match name {
            "resolve" => {
                return Ok(match self.kind(&value) {
                    Some(Kind::Promise(_)) => value,
                    _ => self.settled(true, value),
                });
            }
            "reject" => {
                let promise = self.promise(Promise::default());
                self.rejects(promise, value, span);
                return Ok(Value::Object(promise));
            }
            "try" => {
                let given = Arguments::of(arguments.values.get(1..).unwrap_or_default().to_vec());
                return match self.call(&value, Value::UNDEFINED, given, span) {
                    Ok(value) if matches!(self.kind(&value), Some(Kind::Promise(_))) => Ok(value),
                    Ok(value) => Ok(self.settled(true, value)),
                    Err(Stop::Throw(error)) => Ok(self.settled(false, error)),
                    Err(other) => Err(other),
                };
            }
            "withResolvers" => {
                let promise = self.promise(Promise::default());
                let made = self.make(Kind::Plain);
                let resolve = self.made(Kind::Settler(promise, true));
                let reject = self.made(Kind::Settler(promise, false));
                let members = [("promise", Value::Object(promise)), ("resolve", resolve), ("reject", reject)];
                for (name, value) in members {
                    self.object_mut(made).members.insert(Arc::from(name), value);
                }
                return Ok(Value::Object(made));
            }
            "all" => Until::All,
            "allSettled" => Until::AllSettled,
            "any" => Until::Any,
            "race" => Until::Race,
            _ => return Ok(self.waiting(Value::OPEN)),
        };
        Ok(match self.kind(&value) {
            Some(Kind::Array(items)) if items.len() <= MOST => {
                let items = items.clone();
                let is_open = matches!(&value, Value::Object(id) if self.object(*id).is_open);
                if is_open {
                    self.cope_with(&items);
                    self.waiting(Value::OPEN)
                } else {
                    self.gathering(until, items)
                }
            }
            _ if self.is_no_list(&value)
                || value.primitive().is_some_and(|of| of != "String")
                || value.is_nothing() == Ok(true) =>
            {
                let first_fault = self.faults.len();
                let written = arguments.expressions.iter().map(|own| self.written(self.program.span(*own)));
                let all: Vec<String> = written.collect();
                // Several that stand there are meant as a list.
                let write = (all.len() > 1).then(|| format!("Promise.{name}([{}])", all.join(", ")));
                let given = all.into_iter().next().unwrap_or_else(|| "nothing".to_owned());
                let method = format!("Promise.{name}");
                let stop = self.refused(&method, given, "a list of promises", write.as_deref(), span);
                return self.promise_of(Err(stop), None, first_fault);
            }
            _ => self.waiting(Value::OPEN),
        })
    }

    /// Something copes with what goes wrong in these.
    fn cope_with(&mut self, items: &[Value]) {
        for item in items {
            if let Value::Object(id) = item {
                self.is_coped_with(*id);
            }
        }
    }

    /// The promise of several.
    fn gathering(&mut self, until: Until, items: Vec<Value>) -> Value {
        let number = self.gatherings.len();
        let result = self.promise(Promise::default());
        let values = vec![None; items.len()];
        self.gatherings.push(Gathering { until, values, waits: false, faults: Vec::new(), result });
        if items.is_empty() {
            match until {
                Until::All | Until::AllSettled => {
                    let list = self.array(Vec::new(), false);
                    self.settle(result, true, list);
                }
                Until::Any => {
                    let error = self.made(Kind::Instance("AggregateError"));
                    self.rejects(result, error, self.called_at);
                }
                // It is never settled.
                Until::Race => return self.waiting(Value::OPEN),
            }
        }
        for (at, item) in items.into_iter().enumerate() {
            let id = match item {
                Value::Object(id) if matches!(self.object(id).kind, Kind::Promise(_)) => id,
                other => match self.settled(true, other) {
                    Value::Object(id) => id,
                    _ => continue,
                },
            };
            let one = self.promise(Promise { gathers: Some((number, at)), ..Promise::default() });
            let (fulfilled, rejected) = (Value::UNDEFINED, Value::UNDEFINED);
            let reaction = Reaction { fulfilled, rejected, result: one, is_final: false };
            let Some(promise) = self.promise_at(id) else { continue };
            if matches!(promise.state, PromiseState::Pending) {
                promise.reactions.push(reaction);
                continue;
            }
            promise.is_handled = true;
            let faults = std::mem::take(&mut promise.faults);
            match self.is_left_to(number) {
                Some(result) if until != Until::Any => self.has_failed(result, faults),
                _ => {
                    self.handle(&faults);
                    self.gatherings[number].faults.extend(faults);
                }
            }
            self.react(id, reaction);
        }
        Value::Object(result)
    }

    /// The promise that is rejected by what is thrown in one of several; none where that is of no account.
    pub(super) fn is_left_to(&mut self, number: usize) -> Option<ObjectId> {
        let (until, result) = (self.gatherings[number].until, self.gatherings[number].result);
        let promise = self.promise_at(result)?;
        // The first tells.
        let is_open = matches!(promise.state, PromiseState::Pending) && promise.faults.is_empty();
        (is_open && until != Until::AllSettled).then_some(result)
    }

    /// One of several promises has settled.
    pub(super) fn gathers(&mut self, (number, at): (usize, usize), state: PromiseState) {
        let (until, result) = (self.gatherings[number].until, self.gatherings[number].result);
        let (is_fulfilled, value, waits) = match state {
            PromiseState::Pending => return,
            PromiseState::Fulfilled(value) => (true, value, false),
            PromiseState::Waiting(value) => (true, value, true),
            PromiseState::Failing(_) => (true, Value::OPEN, true),
            PromiseState::Rejected(error) => (false, error, false),
        };
        let certainty = if waits { Certainty::SomeVisit } else { Certainty::Certain };
        let value = match (until, is_fulfilled) {
            (Until::All, false) => return self.settle(result, false, value),
            // Which of them comes first is not known.
            (Until::Race | Until::Any, true) if waits => {
                return self.hand_on(result, true, Value::OPEN, certainty);
            }
            (Until::Race, is_fulfilled) => return self.settle(result, is_fulfilled, value),
            (Until::Any, true) => return self.settle(result, true, value),
            (Until::AllSettled, _) => self.outcome(is_fulfilled, value, waits),
            (Until::All, true) | (Until::Any, false) => value,
        };
        let gathering = &mut self.gatherings[number];
        gathering.values[at] = Some(value);
        gathering.waits |= waits;
        let certainty = if gathering.waits { Certainty::SomeVisit } else { Certainty::Certain };
        let Some(values) = gathering.values.iter().cloned().collect::<Option<Vec<Value>>>() else { return };
        if until == Until::Any {
            let error = self.make(Kind::Instance("AggregateError"));
            self.object_mut(error).is_open = true;
            let faults: Vec<usize> = self.gatherings[number].faults.iter().take(1).copied().collect();
            for fault in &faults {
                self.faults[*fault].1 = true;
            }
            self.has_failed(result, faults);
            return self.settle(result, false, Value::Object(error));
        }
        let list = self.array(values, false);
        self.hand_on(result, true, list, certainty);
    }

    /// What `allSettled` tells of one.
    fn outcome(&mut self, is_fulfilled: bool, value: Value, waits: bool) -> Value {
        let made = self.make(Kind::Plain);
        let object = self.object_mut(made);
        // What the platform settles may be rejected as well.
        object.is_open = waits;
        let (status, name) = if is_fulfilled { ("fulfilled", "value") } else { ("rejected", "reason") };
        let status = if waits { Value::A_TEXT } else { Value::text(status) };
        object.members.insert(Arc::from("status"), status);
        if !waits {
            object.members.insert(Arc::from(name), value);
        }
        Value::Object(made)
    }
}
