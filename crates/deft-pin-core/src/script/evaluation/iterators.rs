//! What gives its items one by one (ECMA-262, "Iterator Objects", "Generator Objects").

use std::sync::Arc;

use super::arguments::{Arguments, Items};
use super::machine::{Machine, Run, Stop};
use super::value::{Certainty, Closure, Doubt, Kind, ObjectId, Value};

/// So many items of a generator are worked out; it may well have more.
const MOST: usize = 50;
/// The member of an iterator that says how many of its items were given.
const GIVEN: &str = "#given";

/// What a generator that runs has given so far.
#[derive(Clone, Debug, Default)]
pub(super) struct Yielded {
    values: Vec<Value>,
    is_cut: bool,
}

impl Machine<'_> {
    /// A generator that is called: its items, worked out at once, though nobody may ask for them.
    pub(super) fn generator(&mut self, closure: &Closure, this: Value, arguments: Arguments) -> Run<Value> {
        let outer = self.yielded.replace(Yielded::default());
        let thrown = self.thrown.take();
        let result = self.perhaps(Certainty::Perhaps, |machine| machine.run_body(closure, this, arguments));
        self.thrown = thrown;
        let own = std::mem::replace(&mut self.yielded, outer).unwrap_or_default();
        let is_whole = match result {
            Err(Stop::Halt) => return Err(Stop::Halt),
            Err(_) => false,
            Ok(_) => !own.is_cut,
        };
        let list = self.make(Kind::List(ITERATOR, own.values));
        self.object_mut(list).is_open = !is_whole;
        Ok(Value::Object(list))
    }

    /// `yield`: what is given. Past the bound the generator is left.
    pub(super) fn gives(&mut self, value: Value) -> Run<Value> {
        let is_certain = self.certainty != Certainty::Perhaps || self.yielded.is_some();
        let Some(own) = self.yielded.as_mut().filter(|_| is_certain) else {
            self.hand_over(&value)?;
            return Ok(Value::OPEN);
        };
        if own.values.len() >= MOST {
            own.is_cut = true;
            return Err(Stop::Return(Value::UNDEFINED));
        }
        own.values.push(value);
        Ok(Value::OPEN)
    }

    /// `yield*`: all that something gives.
    pub(super) fn gives_all(&mut self, value: &Value, span: crate::source::Span) -> Run<Value> {
        let Items { known, more } = self.iterated(value, span)?;
        for item in known {
            self.gives(item)?;
        }
        if more.is_some() {
            if let Some(own) = self.yielded.as_mut() {
                own.is_cut = true;
            }
            return Err(Stop::Return(Value::UNDEFINED));
        }
        Ok(Value::OPEN)
    }

    /// What an iterator has left, which is taken.
    pub(super) fn rest_of(&mut self, id: ObjectId) -> Items {
        let Kind::List(_, items) = &self.object(id).kind else { return Items::default() };
        let (at, count) = (self.given_of(id), items.len());
        let Some(at) = at else { return Items { known: Vec::new(), more: Some(Doubt::Open) } };
        let known: Vec<Value> = items.iter().skip(at).cloned().collect();
        self.charge(known.len() / 8);
        let more = self.object(id).is_open.then_some(Doubt::Open);
        self.put_member(id, Arc::from(GIVEN), Value::Number(count as f64));
        Items { known, more }
    }

    /// How many of its items an iterator has given; none where that is not known.
    fn given_of(&self, id: ObjectId) -> Option<usize> {
        match self.object(id).members.get(GIVEN) {
            None => Some(0),
            Some(Value::Number(at)) => Some(*at as usize),
            Some(_) => None,
        }
    }

    /// `next()` of an iterator.
    pub(super) fn next_item(&mut self, this: &Value) -> Value {
        let Value::Object(id) = this else { return Value::OPEN };
        let Kind::List(_, items) = &self.object(*id).kind else { return Value::OPEN };
        let Some(at) = self.given_of(*id) else { return Value::OPEN };
        let (value, done) = match items.get(at) {
            Some(item) => (item.clone(), Value::Boolean(false)),
            None if self.object(*id).is_open => return Value::OPEN,
            None => (Value::UNDEFINED, Value::Boolean(true)),
        };
        self.put_member(*id, Arc::from(GIVEN), Value::Number((at + 1) as f64));
        let result = self.make(Kind::Plain);
        self.object_mut(result).members.insert(Arc::from("value"), value);
        self.object_mut(result).members.insert(Arc::from("done"), done);
        Value::Object(result)
    }
}

/// The interface of iterators.
pub(super) const ITERATOR: &str = "Iterator";
