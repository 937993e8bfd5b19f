//! What gives its items one by one (ECMA-262, "Iterator Objects", "Generator Objects").

use std::sync::Arc;

use super::arguments::{Arguments, Items};
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::presence::Yielded;
use super::value::{Certainty, Closure, Doubt, Kind, ObjectId, Value};
use crate::script::program::FunctionKind;
use crate::source::Span;

/// So many items of a generator are worked out; it may well have more.
const MOST: usize = 50;
/// The member of an iterator that says how many of its items were given.
const GIVEN: &str = "#given";

impl Machine<'_> {
    /// What an iteration over a value gives (ECMA-262, "Operations on Iterator Objects").
    pub(super) fn iterated(&mut self, value: &Value, span: Span) -> Run<Items> {
        const MOST: usize = 300;
        const MOST_ELEMENTS: usize = 50;
        let value = &self.unproxied(value)?;
        if let Value::Object(id) = value {
            if let Kind::Tokens(element) = self.object(*id).kind
                && let Some(classes) = self.classes_at_present(element)
            {
                let known = classes.split_ascii_whitespace().map(Value::text).collect();
                return Ok(Items { known, more: None });
            }
            self.tells_present(*id);
            if let Kind::Array(items) | Kind::List(_, items) = &self.object(*id).kind {
                self.charge(items.len() / 8);
            }
        }
        Ok(match value {
            Value::Unknown(doubt) => Items { known: Vec::new(), more: Some(*doubt) },
            Value::Text(text) => Items {
                known: text.chars().take(MOST).map(|c| Value::text(&c.to_string())).collect(),
                more: None,
            },
            Value::Undefined(_) | Value::Null(_) => match self.no_members(value, span) {
                Some(stop) => return Err(stop),
                None => Items::default(),
            },
            Value::Some("String", doubt) | Value::Pieced(_, doubt) => {
                Items { known: Vec::new(), more: Some(*doubt) }
            }
            Value::Boolean(_) | Value::Number(_) | Value::Some(..) => return Err(self.not_iterable(span)),
            Value::Object(id) => {
                let object = self.object(*id);
                let more = object.is_open.then_some(Doubt::Open);
                match &object.kind {
                    Kind::Instance("Map" | "Set") => self.items_of_collection(*id),
                    Kind::Instance("URLSearchParams") if more.is_none() => match self.query_of(value) {
                        Some(pairs) => {
                            let texts = |(key, own): (String, String)| {
                                self.array(vec![Value::text(&key), Value::text(&own)], false)
                            };
                            Items { known: pairs.into_iter().take(MOST).map(texts).collect(), more: None }
                        }
                        None => Items { known: Vec::new(), more: Some(Doubt::Visit) },
                    },
                    Kind::Instance("NamedNodeMap") => match self.items_of_attributes(*id) {
                        Some(items) => items,
                        None => Items { known: Vec::new(), more: Some(Doubt::Open) },
                    },
                    Kind::Instance("FormData") if more.is_none() => match self.items_of_form(*id) {
                        Some(items) => items,
                        None => Items { known: Vec::new(), more: Some(Doubt::Open) },
                    },
                    Kind::List(ITERATOR, _) => self.rest_of(*id),
                    Kind::Array(items) | Kind::List(_, items) => {
                        // What is done to many elements is done to the first of them.
                        let most = if matches!(object.kind, Kind::List(..)) { MOST_ELEMENTS } else { MOST };
                        let more = if items.len() > most { Some(Doubt::Open) } else { more };
                        Items { known: items.iter().take(most).cloned().collect(), more }
                    }
                    Kind::Query(Some(elements), _) => Items {
                        known: elements.iter().take(MOST_ELEMENTS).cloned().collect(),
                        more: (elements.len() > MOST_ELEMENTS).then_some(Doubt::Open),
                    },
                    Kind::Plain => match self.method_by_symbol(*id, "iterator") {
                        Ok(Some(method)) => {
                            let iterator = self.call(&method, value.clone(), Arguments::default(), span)?;
                            self.items_of_iterator(&iterator, span)?
                        }
                        Ok(None) => return Err(self.not_iterable(span)),
                        Err(()) => Items { known: Vec::new(), more: Some(Doubt::Open) },
                    },
                    // These have what is in them by its places.
                    Kind::Element(node) if matches!(&*self.tag_of(*node), "form" | "select") => {
                        let key = if &*self.tag_of(*node) == "form" { "elements" } else { "options" };
                        let list = self.member_at(value, Some(&Arc::from(key)), span)?;
                        match self.kind(&list) {
                            Some(Kind::List(..)) => self.iterated(&list, span)?,
                            _ => Items { known: Vec::new(), more: Some(Doubt::Open) },
                        }
                    }
                    Kind::Element(_)
                    | Kind::Date(_)
                    | Kind::Dataset(_)
                    | Kind::Promise(_)
                    | Kind::Document
                    | Kind::Function(_)
                    | Kind::RegExp(_) => return Err(self.not_iterable(span)),
                    _ => Items { known: Vec::new(), more: Some(Doubt::Open) },
                }
            }
        })
    }

    /// What an iterator gives (ECMA-262, "IteratorStepValue").
    fn items_of_iterator(&mut self, iterator: &Value, span: Span) -> Run<Items> {
        if let (Value::Object(id), Some(Kind::List(ITERATOR, _))) = (iterator, self.kind(iterator)) {
            return Ok(self.rest_of(*id));
        }
        let mut known = Vec::new();
        for _ in 0..MOST {
            let next = self.member_at(iterator, Some(&Arc::from("next")), span)?;
            let result = self.call(&next, iterator.clone(), Arguments::default(), span)?;
            let done = self.member_at(&result, Some(&Arc::from("done")), span)?;
            match done.truth() {
                Ok(true) => return Ok(Items { known, more: None }),
                Ok(false) => known.push(self.member_at(&result, Some(&Arc::from("value")), span)?),
                Err(doubt) => return Ok(Items { known, more: Some(doubt) }),
            }
        }
        Ok(Items { known, more: Some(Doubt::Open) })
    }

    /// The items of what has them by number (ECMAScript, "CreateListFromArrayLike"): any object does.
    pub(super) fn array_like(&mut self, value: &Value, span: Span) -> Run<Items> {
        const MOST: f64 = 300.0;
        let Value::Object(id) = value else {
            return if matches!(value, Value::Text(_)) {
                Err(self.not_iterable(span))
            } else {
                self.iterated(value, span)
            };
        };
        let object = self.object(*id);
        if !matches!(object.kind, Kind::Plain) {
            let is_list = matches!(object.kind, Kind::Array(_) | Kind::List(..));
            let open = Items { known: Vec::new(), more: Some(Doubt::Open) };
            return if is_list { self.iterated(value, span) } else { Ok(open) };
        }
        let is_whole = !object.is_open && object.parent.is_none();
        Ok(match object.members.get("length") {
            Some(Value::Number(length)) if is_whole && *length <= MOST => {
                let item = |at: u32| object.members.get(at.to_string().as_str()).cloned();
                let items = (0..length.max(0.0) as u32).map(|at| item(at).unwrap_or(Value::OPEN));
                Items { known: items.collect(), more: None }
            }
            None if is_whole => Items::default(),
            _ => Items { known: Vec::new(), more: Some(Doubt::Open) },
        })
    }

    fn not_iterable(&mut self, span: Span) -> Stop {
        let what = self.written(span);
        self.throws(span, RunFaultKind::NotAFunction { what: format!("{what}[Symbol.iterator]") })
    }

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
        let is_async = self.function_of(closure).kind == FunctionKind::AsyncGenerator;
        let of = if is_async { ASYNC_ITERATOR } else { ITERATOR };
        let list = self.make(Kind::List(of, own.values));
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
    pub(super) fn gives_all(&mut self, value: &Value, span: Span) -> Run<Value> {
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

/// What stands for the interface of what an asynchronous generator gives.
pub(super) const ASYNC_ITERATOR: &str = "AsyncGenerator";
/// The interface of iterators.
pub(super) const ITERATOR: &str = "Iterator";
