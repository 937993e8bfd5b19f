//! What `$` of jQuery has itself: `$.each`, `$.noConflict` and the like.

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::platform;
use super::query_events::EXTEND;
use super::value::{Absence, Kind, ObjectId, Value};
use super::world::GlobalState;
use crate::source::Span;

/// What `$` has itself by names that the platform gives to something else.
const STATICS: &[&str] = &[
    "attr", "contains", "css", "data", "dir", "error", "event", "filter", "find", "fx", "get", "length",
    "map", "matches", "name", "now", "offset", "prop", "speed", "style", "support", "text", "type", "unique",
];

impl Machine<'_> {
    /// A member of `$` itself.
    pub(super) fn query_static(&mut self, key: &Arc<str>) -> Value {
        match &**key {
            "noConflict" => self.made(Kind::Native("jQuery", Arc::clone(key))),
            "ready" | "each" | "extend" | "when" | "map" | "grep" | "makeArray" | "parseJSON" => {
                self.made(Kind::Native("jQuery", Arc::clone(key)))
            }
            _ if result_of(key).is_some() && self.world.mentions(key) && !self.is_set_here(key) => {
                self.made(Kind::Native("jQuery", Arc::clone(key)))
            }
            "fn" => self.query_prototype(),
            name => {
                // All that it has itself stands in its own text.
                let is_set = [format!(".{name} ="), format!(".{name}="), "extend".to_owned()];
                let is_its = STATICS.contains(&name) || !platform::is_member_of_any(name);
                let is_known = (if is_its { self.world.mentions(name) } else { self.world.acts_with(name) })
                    || !self.world.knows_all()
                    || is_set.iter().any(|set| self.text.contains(set));
                match is_known {
                    true => Value::Unknown(super::value::Doubt::Script),
                    false => Value::Undefined(Some(
                        self.absent(Absence::Member { of: "jQuery", name: Arc::clone(key) }),
                    )),
                }
            }
        }
    }

    /// Whether `each` goes on behind a call: `false` stops it. Where that is not known, what else it does is not either.
    pub(super) fn goes_on(&mut self, answer: &Value, function: &Value) -> Run<bool> {
        match answer.truth() {
            Ok(true) => Ok(true),
            Ok(false) => Ok(!matches!(answer, Value::Boolean(false))),
            Err(_) => {
                self.hand_over(function)?;
                Ok(false)
            }
        }
    }

    /// Goes over the members of an object: `$.each({ … }, function (key, value) { … })`.
    fn each_member(&mut self, id: ObjectId, function: &Value, span: Span) -> Run<Value> {
        let object = self.object(id);
        let is_open = object.is_open;
        let mut members: Vec<(Arc<str>, Value)> =
            object.members.iter().map(|(key, value)| (Arc::clone(key), value.clone())).collect();
        members.sort_by(|(key, _), (other, _)| key.cmp(other));
        for (key, value) in members.into_iter().filter(|(key, _)| !key.starts_with('#')).take(50) {
            let given = Arguments::of(vec![Value::Text(key), value.clone()]);
            let answer = self.call(function, value, given, span)?;
            if !self.goes_on(&answer, function)? {
                return Ok(Value::Object(id));
            }
        }
        if is_open {
            self.hand_over(function)?;
        }
        Ok(Value::Object(id))
    }

    /// `$.extend(true, …)`: objects in objects are merged as well, and copies are made of them.
    fn merges(&mut self, into: &Value, from: &Value, depth: u32, span: Span) -> Run<()> {
        const DEEPEST: u32 = 5;
        if from.is_nothing() == Ok(true) {
            return Ok(());
        }
        let (Value::Object(id), Some(members)) = (into, self.listed(from, span)?) else {
            return self.assign_members(into, from, span);
        };
        for (key, value) in members {
            if matches!(value, Value::Undefined(_)) {
                continue;
            }
            let is_plain = matches!(self.kind(&value), Some(Kind::Plain)) && depth < DEEPEST;
            let before = self.object(*id).members.get(&key).cloned();
            let given = match before.filter(|own| matches!(self.kind(own), Some(Kind::Plain))) {
                Some(before) if is_plain => {
                    self.merges(&before, &value, depth + 1, span)?;
                    continue;
                }
                _ if is_plain || matches!(self.kind(&value), Some(Kind::Array(_))) => self.cloned(&value, 0),
                _ => value,
            };
            self.put_member(*id, key, given);
        }
        Ok(())
    }

    /// A method of `$` itself.
    pub(super) fn call_query_static(&mut self, name: &str, arguments: &Arguments, span: Span) -> Run<Value> {
        match name {
            "noConflict" => {
                let names: &[&str] = match arguments.get(0).truth() {
                    Ok(true) => &["$", "jQuery"],
                    _ => &["$"],
                };
                for name in names {
                    // What stood there before jQuery stands there again.
                    let is_its = self.world.global(name, self.is_later) == GlobalState::Query;
                    let value = match is_its {
                        true => {
                            Value::Undefined(Some(self.absent(Absence::Global { name: (*name).to_owned() })))
                        }
                        false => Value::OPEN,
                    };
                    self.globals.insert(Arc::from(*name), value);
                }
                Ok(self.made(Kind::QueryFunction))
            }
            "ready" => {
                self.ready(arguments.get(0), span);
                Ok(Value::OPEN)
            }
            "each" => {
                let first = arguments.get(0);
                let is_list =
                    matches!(self.kind(&first), Some(Kind::Array(_) | Kind::List(..) | Kind::Query(..)));
                if let (Some(Kind::Plain), Value::Object(id)) = (self.kind(&first), &first) {
                    return self.each_member(*id, &arguments.get(1), span);
                }
                // It passes over what is nothing.
                if !is_list {
                    self.hand_over(&arguments.get(1))?;
                    return Ok(first);
                }
                let items = self.iterated(&first, span)?;
                for (at, item) in items.known.into_iter().take(50).enumerate() {
                    let given = Arguments::of(vec![Value::Number(at as f64), item.clone()]);
                    let answer = self.call(&arguments.get(1), item, given, span)?;
                    if !self.goes_on(&answer, &arguments.get(1))? {
                        return Ok(first);
                    }
                }
                if items.more.is_some() {
                    self.hand_over(&arguments.get(1))?;
                }
                Ok(arguments.get(0))
            }
            "isArray" | "inArray"
                if matches!(
                    self.kind(&arguments.get(usize::from(name == "inArray"))),
                    Some(Kind::Array(_))
                ) =>
            {
                match name {
                    "isArray" => Ok(Value::Boolean(true)),
                    _ => {
                        let given = Arguments::of(vec![arguments.get(0)]);
                        self.call_array("indexOf", arguments.get(1), given, span)
                    }
                }
            }
            "trim" => Ok(match arguments.get(0) {
                Value::Text(text) => Value::text(text.trim()),
                Value::Undefined(_) | Value::Null(_) => Value::text(""),
                _ => Value::A_TEXT,
            }),
            _ if let Some(result) = result_of(name) => {
                self.hand_over_all(arguments)?;
                Ok(result)
            }
            "parseJSON" if arguments.values.len() == 1 => self.parse_json(arguments, span),
            "map" | "grep" | "makeArray"
                if matches!(self.kind(&arguments.get(0)), Some(Kind::Array(_) | Kind::List(..))) =>
            {
                let list = arguments.get(0);
                let given = Arguments::of(vec![arguments.get(1)]);
                match name {
                    "makeArray" => {
                        let items = self.iterated(&list, span)?;
                        Ok(self.array(items.known, items.more.is_some()))
                    }
                    "grep" if arguments.values.len() == 2 => self.call_array("filter", list, given, span),
                    "map" => self.call_array("flatMap", list, given, span),
                    _ => Ok(Value::OPEN),
                }
            }
            EXTEND => {
                let prototype = self.query_prototype();
                self.assign_members(&prototype, &arguments.get(0), span)?;
                Ok(prototype)
            }
            "extend" if matches!(arguments.get(0), Value::Boolean(_)) && arguments.values.len() > 2 => {
                let is_deep = arguments.get(0).truth() == Ok(true);
                let into = arguments.get(1);
                for source in arguments.values.iter().skip(2) {
                    match is_deep {
                        true => self.merges(&into, source, 0, span)?,
                        false => self.assign_members(&into, source, span)?,
                    }
                }
                Ok(into)
            }
            "extend" if matches!(self.kind(&arguments.get(0)), Some(Kind::Plain)) => {
                for source in arguments.values.iter().skip(1) {
                    self.assign_members(&arguments.get(0), source, span)?;
                }
                Ok(arguments.get(0))
            }
            _ => {
                self.hand_over_all(arguments)?;
                Ok(match (name, arguments.get(0)) {
                    ("extend", first @ Value::Object(_)) => first,
                    _ => Value::OPEN,
                })
            }
        }
    }
}

/// What functions of `$` come to that do nothing but answer.
fn result_of(name: &str) -> Option<Value> {
    Some(match name {
        "contains" | "isArray" | "isEmptyObject" | "isFunction" | "isNumeric" | "isPlainObject"
        | "isWindow" => Value::A_BOOLEAN,
        "inArray" => Value::A_NUMBER,
        "param" | "trim" | "type" => Value::A_TEXT,
        _ => return None,
    })
}
