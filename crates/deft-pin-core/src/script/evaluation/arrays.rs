//! Arrays and their methods, which go over lists of elements as well (ECMA-262, "Array Objects").

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::value::{Certainty, Doubt, Kind, Value};
use crate::source::Span;

/// Whether places of a list are empty: what goes over it leaves those out.
pub(super) const HOLES: &str = "#holes";

impl Machine<'_> {
    /// Calls a function for each item, as methods of lists do. Gives back what it came to for each that is known, and
    /// whether there may be more.
    pub(super) fn for_items(
        &mut self,
        list: &Value,
        function: &Value,
        this: &Value,
        span: Span,
        mut then: impl FnMut(&mut Self, &Value, Value) -> bool,
    ) -> Run<Option<Doubt>> {
        let mut items = self.iterated(list, span)?;
        if self.has_holes(list) {
            items.known.retain(|item| !matches!(item, Value::Undefined(None)));
            items.more = Some(Doubt::Open);
        }
        if items.known.is_empty() && items.more.is_none() {
            return Ok(None);
        }
        if !matches!(function, Value::Object(_) | Value::Unknown(_)) {
            return Err(self.throws(span, RunFaultKind::NotAFunction { what: self.written(span) }));
        }
        let seen = self.state_of(list);
        for (at, item) in items.known.iter().enumerate() {
            let given = Arguments::of(vec![item.clone(), Value::Number(at as f64), list.clone()]);
            let result = self.call(function, this.clone(), given, span)?;
            if !then(self, item, result) {
                return Ok(None);
            }
        }
        self.was_gone_over(seen);
        if let Some(doubt) = items.more {
            let certainty = Certainty::from(doubt);
            let given = Arguments::of(vec![Value::OPEN, Value::OPEN, list.clone()]);
            let result = self
                .perhaps(certainty, |this_machine| this_machine.call(function, this.clone(), given, span));
            if let Err(stop) = result {
                self.may_stop(stop, certainty)?;
            }
        }
        Ok(items.more)
    }

    pub(super) fn call_array(
        &mut self,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let (function, own_this) = (arguments.get(0), arguments.get(1));
        match name {
            "forEach" => {
                self.for_items(&this, &function, &own_this, span, |_, _, _| true)?;
                Ok(Value::UNDEFINED)
            }
            "map" | "flatMap" => {
                let mut results = Vec::new();
                let more = self.for_items(&this, &function, &own_this, span, |_, _, result| {
                    results.push(result);
                    true
                })?;
                let mut is_open = more.is_some();
                if name == "flatMap" {
                    let flat = self.flattened(&results);
                    is_open |= flat.is_none();
                    results = flat.unwrap_or_default();
                }
                let list = self.array(results, is_open);
                self.keep_absence(&this, &list);
                Ok(list)
            }
            "filter" => {
                let mut kept = Vec::new();
                let mut doubt = None;
                let more = self.for_items(&this, &function, &own_this, span, |_, item, result| {
                    match result.truth() {
                        Ok(true) => kept.push(item.clone()),
                        Ok(false) => {}
                        Err(own) => doubt = Some(own),
                    }
                    true
                })?;
                let list = if doubt.is_some() { Vec::new() } else { kept };
                let list = self.array(list, more.is_some() || doubt.is_some());
                self.keep_absence(&this, &list);
                Ok(list)
            }
            // The same from the end.
            "findLast" if self.iterated(&this, span)?.more.is_none() && !self.has_holes(&this) => {
                let items = self.iterated(&this, span)?.known;
                let backwards = self.array(items.into_iter().rev().collect(), false);
                self.keep_absence(&this, &backwards);
                self.call_array("find", backwards, arguments, span)
            }
            "find" | "findLast" | "findIndex" | "some" | "every" => {
                let mut doubt = None;
                let mut found = None;
                let wanted = name != "every";
                let (certainty, region) = (self.certainty, self.region);
                let more = self.for_items(&this, &function, &own_this, span, |machine, item, result| {
                    match result.truth() {
                        Ok(truth) if truth == wanted => {
                            found = Some(item.clone());
                            false
                        }
                        Ok(_) => true,
                        Err(own) => {
                            doubt = doubt.max(Some(own));
                            // Whether it goes on is not known then.
                            machine.weaken(own.into());
                            true
                        }
                    }
                })?;
                if self.thrown.is_none() {
                    (self.certainty, self.region) = (certainty, region);
                }
                let doubt = doubt.max(more);
                Ok(match (name, found, doubt) {
                    ("find" | "findLast", _, Some(doubt))
                        if more.is_none() && self.is_without_markup(&this) =>
                    {
                        Value::Unknown(doubt.without_markup())
                    }
                    (_, _, Some(doubt)) => Value::Unknown(doubt),
                    ("some", found, None) => Value::Boolean(found.is_some()),
                    ("every", found, None) => Value::Boolean(found.is_none()),
                    ("find" | "findLast", Some(item), None) => item,
                    ("findIndex", Some(_), None) => Value::OPEN,
                    ("findIndex", None, None) => Value::Number(-1.0),
                    (_, None, None) => Value::Undefined(self.absence_of_item(&this)),
                    _ => Value::OPEN,
                })
            }
            "reduce" | "reduceRight" => {
                let items = self.iterated(&this, span)?;
                if items.more.is_some() || self.has_holes(&this) {
                    self.hand_over(&function)?;
                    return Ok(Value::OPEN);
                }
                let mut known: Vec<(usize, Value)> = items.known.into_iter().enumerate().collect();
                if name == "reduceRight" {
                    known.reverse();
                }
                let mut known = known.into_iter();
                let mut result = match arguments.values.get(1) {
                    Some(first) => first.clone(),
                    None => match known.next() {
                        Some((_, first)) => first,
                        None => {
                            let kind = RunFaultKind::RefusedArgument {
                                method: name.to_owned(),
                                given: "nothing to begin with".to_owned(),
                                takes: "for an empty list a first value".to_owned(),
                                write: None,
                            };
                            return Err(self.throws(span, kind));
                        }
                    },
                };
                for (at, item) in known {
                    let at = Value::Number(at as f64);
                    let given = Arguments::of(vec![result, item, at, this.clone()]);
                    result = self.call(&function, Value::UNDEFINED, given, span)?;
                }
                Ok(result)
            }
            "sort" | "toSorted" if self.compares_nothing(&function) => {
                let given = arguments.expressions.first().map(|own| self.written(self.program.span(*own)));
                let given = given.unwrap_or_default();
                Err(self.refused(name, given, "a function that compares two, or nothing", None, span))
            }
            "push" | "unshift" | "pop" | "shift" | "splice" | "sort" | "reverse" | "fill" => {
                if let (Value::Object(id), "fill") = (&this, name) {
                    self.object_mut(*id).members.shift_remove(HOLES);
                }
                self.change_array(name, &this, arguments, span)
            }
            "toSorted" => {
                let items = self.iterated(&this, span)?;
                if items.more.is_some() {
                    return Ok(self.array(Vec::new(), true));
                }
                let sorted = self.sorted(items.known, &function, span)?;
                Ok(self.array(sorted, false))
            }
            "concat" | "slice" | "toReversed" | "with" | "flat" => {
                let items = self.iterated(&this, span)?;
                let mut known = items.known;
                let mut more = items.more.is_some();
                let has_holes =
                    self.has_holes(&this) || arguments.values.iter().any(|value| self.has_holes(value));
                match name {
                    "concat" => {
                        for value in &arguments.values {
                            match self.kind(value) {
                                // Where it comes to stand nobody knows.
                                _ if more => {}
                                Some(Kind::Array(own)) => {
                                    known.extend(own.iter().cloned());
                                    more |= matches!(value, Value::Object(id) if self.object(*id).is_open);
                                }
                                _ => known.push(value.clone()),
                            }
                        }
                    }
                    "slice" if !more => {
                        let length = known.len() as f64;
                        let at = |value: Value, otherwise: f64| match (&value, self.as_number(&value)) {
                            (Value::Undefined(_), _) => Ok(otherwise),
                            (_, Ok(at)) if at < 0.0 => Ok((length + at).max(0.0)),
                            (_, Ok(at)) => Ok(at.min(length)),
                            (_, Err(doubt)) => Err(doubt),
                        };
                        match (at(arguments.get(0), 0.0), at(arguments.get(1), length)) {
                            (Ok(start), Ok(end)) if start <= end => {
                                known = known[start as usize..end as usize].to_vec();
                            }
                            (Ok(_), Ok(_)) => known.clear(),
                            _ => (known, more) = (Vec::new(), true),
                        }
                    }
                    "toReversed" if !more => known.reverse(),
                    "flat" if !more => {
                        let depth = match arguments.get(0) {
                            Value::Undefined(_) => Ok(1.0),
                            given => self.as_number(&given),
                        };
                        match depth.ok().and_then(|depth| self.flattened_to(known, depth)) {
                            Some(flat) => known = flat,
                            None => (known, more) = (Vec::new(), true),
                        }
                    }
                    "with" if !more => {
                        let length = known.len() as f64;
                        let at = self
                            .as_number(&arguments.get(0))
                            .map(|at| if at < 0.0 { length + at } else { at });
                        match at {
                            Ok(at) if (0.0..length).contains(&at) => known[at as usize] = arguments.get(1),
                            _ => more = true,
                        }
                    }
                    "flat" | "with" => more = true,
                    _ => {}
                }
                let list = self.array(if more && name != "concat" { Vec::new() } else { known }, more);
                self.keep_absence(&this, &list);
                if let Value::Object(id) = list
                    && has_holes
                {
                    self.object_mut(id).members.insert(Arc::from(HOLES), Value::NULL);
                }
                Ok(list)
            }
            "at" => {
                self.asks_by_chance(&arguments.get(0));
                let items = self.iterated(&this, span)?;
                Ok(match (self.as_number(&arguments.get(0)), items.more) {
                    (Ok(at), None) => {
                        let at = if at < 0.0 { items.known.len() as f64 + at } else { at };
                        let found = if at < 0.0 { None } else { items.known.get(at as usize) };
                        found.cloned().unwrap_or(Value::Undefined(self.absence_of_item(&this)))
                    }
                    _ => Value::OPEN,
                })
            }
            "includes" | "indexOf" => {
                let items = self.iterated(&this, span)?;
                let mut doubt = items.more;
                let wanted = arguments.get(0);
                let is_nan = |value: &Value| matches!(value, Value::Number(own) if own.is_nan());
                for (at, item) in items.known.iter().enumerate() {
                    let is_same_nan = name == "includes" && is_nan(&wanted) && is_nan(item);
                    match if is_same_nan { Ok(true) } else { self.strictly_equal(item, &wanted) } {
                        Ok(true) => {
                            return Ok(if name == "includes" {
                                Value::Boolean(true)
                            } else {
                                Value::Number(at as f64)
                            });
                        }
                        Ok(false) => {}
                        Err(own) => doubt = doubt.max(Some(own)),
                    }
                }
                Ok(match doubt {
                    Some(doubt) => Value::Unknown(doubt),
                    None if name == "includes" => Value::Boolean(false),
                    None => Value::Number(-1.0),
                })
            }
            "join" => {
                let items = self.iterated(&this, span)?;
                let between = match arguments.get(0) {
                    Value::Undefined(_) => Ok(Arc::from(",")),
                    ref own => self.as_text(own),
                };
                let (Ok(between), None) = (between, items.more) else { return Ok(Value::OPEN) };
                let mut parts = Vec::with_capacity(items.known.len() * 2);
                for (at, item) in items.known.into_iter().enumerate() {
                    if at > 0 {
                        parts.push(Value::Text(Arc::clone(&between)));
                    }
                    if item.is_nothing() != Ok(true) {
                        parts.push(item);
                    }
                }
                Ok(match self.put_together(&parts) {
                    Value::Some(..) => Value::OPEN,
                    text => text,
                })
            }
            "entries" | "keys" | "values" => {
                let items = self.iterated(&this, span)?;
                let mut out = Vec::new();
                for (at, item) in items.known.into_iter().enumerate() {
                    let at = Value::Number(at as f64);
                    out.push(match name {
                        "entries" => self.array(vec![at, item], false),
                        "keys" => at,
                        _ => item,
                    });
                }
                let list = self.make(Kind::List(super::iterators::ITERATOR, out));
                self.object_mut(list).is_open = items.more.is_some();
                Ok(Value::Object(list))
            }
            _ => {
                self.hand_over_all(&arguments)?;
                Ok(Value::OPEN)
            }
        }
    }

    pub(super) fn change_array(
        &mut self,
        name: &str,
        this: &Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let Value::Object(id) = this else { return Ok(Value::OPEN) };
        let is_strong = self.is_strong(self.object(*id).born);
        if name == "sort" {
            let sorted = match &self.object(*id).kind {
                Kind::Array(items) if is_strong && !self.object(*id).is_open => Some(items.clone()),
                _ => None,
            };
            if let Some(items) = sorted {
                self.check_sorted(&items, &arguments.get(0), span);
                let sorted = self.sorted(items, &arguments.get(0), span)?;
                self.object_mut(*id).kind = Kind::Array(sorted);
                return Ok(this.clone());
            }
            self.hand_over(&arguments.get(0))?;
        }
        let places = match &self.object(*id).kind {
            Kind::Array(items) if name == "splice" => self.spliced(items.len(), &arguments),
            _ => None,
        };
        if let Some((from, to)) = places.filter(|_| is_strong && !self.object(*id).is_open) {
            let Kind::Array(items) = &mut self.object_mut(*id).kind else { return Ok(Value::OPEN) };
            let removed = items.splice(from..to, arguments.values.into_iter().skip(2)).collect();
            return Ok(self.array(removed, false));
        }
        let object = self.object_mut(*id);
        let is_open = object.is_open;
        let Kind::Array(items) = &mut object.kind else { return Ok(Value::OPEN) };
        if !is_strong {
            // It has been done or not; what it gives is what is there.
            let given = match name {
                "pop" if !is_open => items.last().cloned().unwrap_or(Value::UNDEFINED),
                "shift" if !is_open => items.first().cloned().unwrap_or(Value::UNDEFINED),
                _ => Value::OPEN,
            };
            object.is_open = true;
            if name != "push" {
                items.clear();
            }
            return Ok(given);
        }
        if items.len() + arguments.values.len() > 2000 {
            object.is_open = true;
            return Ok(Value::OPEN);
        }
        object.is_open |= arguments.is_open;
        Ok(match name {
            "push" if !is_open => {
                items.extend(arguments.values);
                Value::Number(items.len() as f64)
            }
            "unshift" if !is_open => {
                items.splice(0..0, arguments.values);
                Value::Number(items.len() as f64)
            }
            "pop" if !is_open => items.pop().unwrap_or(Value::UNDEFINED),
            "shift" if !is_open => {
                if items.is_empty() {
                    Value::UNDEFINED
                } else {
                    items.remove(0)
                }
            }
            "reverse" if !is_open => {
                items.reverse();
                this.clone()
            }
            "push" => Value::OPEN,
            "fill" if !is_open && arguments.values.len() <= 1 => {
                let value = arguments.get(0);
                items.iter_mut().for_each(|item| *item = value.clone());
                this.clone()
            }
            _ => {
                items.clear();
                object.is_open = true;
                if matches!(name, "sort" | "fill" | "reverse") { this.clone() } else { Value::OPEN }
            }
        })
    }
}
