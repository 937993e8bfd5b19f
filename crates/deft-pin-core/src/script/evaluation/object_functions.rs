//! Functions of `Object` and `Reflect` (ECMA-262, "Properties of the Object Constructor", "The Reflect Object").

use super::arguments::Arguments;
use super::machine::{Machine, Run, Stop};
use super::platform::{self};
use super::symbols::is_symbol;
use super::value::{Doubt, Kind, Mark, ObjectId, Value, in_order};
use crate::source::Span;
use std::sync::Arc;

impl Machine<'_> {
    pub(super) fn call_object(
        &mut self,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let first = arguments.get(0);
        // Those of `Object` itself ask for no `this`.
        if platform::static_member("Object", name).is_none() {
            return Ok(match (name, self.key_of(&first)) {
                ("hasOwnProperty", Ok(key)) => self.has_own(&this, &key),
                ("toString", _) => match self.tag_of_value(&this) {
                    Some(tag) => Value::text(&format!("[object {tag}]")),
                    None => Value::OPEN,
                },
                _ => Value::OPEN,
            });
        }
        const OF_SOMETHING: &[&str] =
            &["assign", "entries", "getOwnPropertyNames", "keys", "setPrototypeOf", "values"];
        match name {
            "defineProperty" | "defineProperties"
                if first.primitive().is_some() || first.is_nothing() == Ok(true) =>
            {
                let (given, method) = (self.written(span), format!("Object.{name}"));
                Err(self.refused(&method, given, "an object", None, span))
            }
            _ if OF_SOMETHING.contains(&name) && first.is_nothing() == Ok(true) => {
                Err(self.no_members(&first, span).unwrap_or(Stop::Halt))
            }
            "keys" | "values" | "entries" => {
                let Some(members) = self.listed(&first, span)? else {
                    return Ok(self.array(Vec::new(), true));
                };
                let mut out = Vec::new();
                for (key, value) in members {
                    let key = Value::Text(key);
                    out.push(match name {
                        "keys" => key,
                        "values" => value,
                        _ => self.array(vec![key, value], false),
                    });
                }
                Ok(self.array(out, false))
            }
            "assign" => {
                for source in arguments.values.iter().skip(1) {
                    self.assign_members(&first, source, span)?;
                }
                Ok(first)
            }
            "groupBy" => {
                let result = self.make(Kind::Plain);
                self.object_mut(result).is_bare = true;
                let function = arguments.get(1);
                let mut groups: Vec<(Arc<str>, Vec<Value>)> = Vec::new();
                let mut is_open = false;
                let more =
                    self.for_items(&first, &function, &Value::UNDEFINED, span, |machine, item, key| {
                        match machine.as_text(&key) {
                            Ok(key) => match groups.iter_mut().find(|(own, _)| *own == key) {
                                Some((_, items)) => items.push(item.clone()),
                                None => groups.push((key, vec![item.clone()])),
                            },
                            Err(_) => is_open = true,
                        }
                        true
                    })?;
                is_open |= more.is_some();
                for (key, items) in groups {
                    let items = self.array(items, is_open);
                    self.object_mut(result).members.insert(key, items);
                }
                self.object_mut(result).is_open = is_open;
                Ok(Value::Object(result))
            }
            "freeze" => {
                if let Value::Object(id) = &first {
                    let is_surely = self.is_strong(self.object(*id).born);
                    self.object_mut(*id).is_frozen = is_surely;
                }
                Ok(first)
            }
            "seal" | "preventExtensions" => Ok(first),
            "setPrototypeOf" => {
                self.hand_over_all(&arguments)?;
                if let Value::Object(id) = &first {
                    self.object_mut(*id).is_open = true;
                }
                Ok(first)
            }
            "fromEntries" if self.query_of(&first).is_some() => {
                let id = self.make(Kind::Plain);
                for (key, value) in self.query_of(&first).unwrap_or_default() {
                    self.object_mut(id).members.insert(Arc::from(key), Value::text(&value));
                }
                Ok(Value::Object(id))
            }
            "fromEntries" if matches!(&first, Value::Text(text) if !text.is_empty()) => {
                let given = self.as_text(&first).unwrap_or_default();
                let takes = "pairs of a name and a value";
                Err(self.refused("Object.fromEntries", &*given, takes, None, span))
            }
            "fromEntries" if matches!(&first, Value::Object(_) | Value::Text(_)) => {
                if let Some(made) = self.object_of_form(&first) {
                    return Ok(made);
                }
                let items = self.iterated(&first, span)?;
                let id = self.make(Kind::Plain);
                self.object_mut(id).is_open = items.more.is_some();
                for item in items.known {
                    let parts = self.iterated(&item, span)?;
                    match (parts.known.first().map(|key| self.as_text(key)), parts.known.get(1)) {
                        (Some(Ok(key)), Some(value)) => {
                            self.object_mut(id).members.insert(key, value.clone());
                        }
                        (Some(Ok(key)), None) if parts.more.is_none() => {
                            self.object_mut(id).members.insert(key, Value::UNDEFINED);
                        }
                        _ => self.object_mut(id).is_open = true,
                    }
                }
                Ok(Value::Object(id))
            }
            "create" => {
                let id = self.make(Kind::Plain);
                match first {
                    Value::Object(parent) => self.object_mut(id).parent = Some(parent),
                    Value::Null(_) => self.object_mut(id).is_bare = true,
                    _ => self.object_mut(id).is_open = true,
                }
                match (self.listed(&arguments.get(1), span)?, arguments.get(1)) {
                    (Some(all), Value::Object(_)) => {
                        all.into_iter().try_for_each(|(key, own)| self.define(id, key, &own))?
                    }
                    (_, Value::Undefined(_)) => {}
                    _ => self.object_mut(id).is_open = true,
                }
                Ok(Value::Object(id))
            }
            "hasOwn" => Ok(match self.key_of(&arguments.get(1)) {
                Ok(key) => self.has_own(&first, &key),
                Err(_) => Value::A_BOOLEAN.of_page(),
            }),
            "is" => {
                let other = arguments.get(1);
                let is_zero = |value: &Value| matches!(value, Value::Number(own) if *own == 0.0);
                Ok(match self.strictly_equal(&first, &other) {
                    _ if is_zero(&first) && is_zero(&other) => {
                        let is_negative =
                            |value: &Value| matches!(value, Value::Number(own) if own.is_sign_negative());
                        Value::Boolean(is_negative(&first) == is_negative(&other))
                    }
                    Ok(is_equal) => Value::Boolean(is_equal || first.is_same(&other)),
                    Err(doubt) => Value::Some("Boolean", doubt),
                })
            }
            "isFrozen" => Ok(match &first {
                Value::Object(id) if self.object(*id).is_frozen => Value::Boolean(true),
                Value::Object(_) | Value::Unknown(_) => Value::OPEN,
                _ => Value::Boolean(true),
            }),
            "getOwnPropertyNames" if matches!(self.kind(&first), Some(Kind::Plain)) => {
                let Value::Object(id) = first else { return Ok(Value::OPEN) };
                let is_open = self.object(id).is_open;
                let names = in_order(&self.object(id).members).into_iter().map(|(key, _)| key);
                let names: Vec<Value> = names.filter(|key| !is_symbol(key)).map(Value::Text).collect();
                Ok(self.array(if is_open { Vec::new() } else { names }, is_open))
            }
            "defineProperty" => {
                if let (Value::Object(id), Ok(key)) = (&first, self.key_of(&arguments.get(1))) {
                    self.define(*id, key, &arguments.get(2))?;
                } else if let Value::Object(id) = &first {
                    self.hand_over(&arguments.get(2))?;
                    self.object_mut(*id).is_open = true;
                }
                Ok(first)
            }
            "defineProperties" => {
                let all = self.listed(&arguments.get(1), span)?;
                match (&first, all) {
                    (Value::Object(id), Some(all)) => {
                        all.into_iter().try_for_each(|(key, own)| self.define(*id, key, &own))?
                    }
                    (Value::Object(id), None) => self.object_mut(*id).is_open = true,
                    _ => {}
                }
                Ok(first)
            }
            "getPrototypeOf" => Ok(match &first {
                Value::Object(id) => match (self.object(*id).parent, &self.object(*id).kind) {
                    (Some(parent), Kind::Plain) => Value::Object(parent),
                    _ => Value::OPEN,
                },
                _ => Value::OPEN,
            }),
            _ => {
                self.hand_over_all(&arguments)?;
                Ok(Value::OPEN)
            }
        }
    }

    /// Whether a value has a member by itself.
    fn has_own(&self, value: &Value, key: &Arc<str>) -> Value {
        let Value::Object(id) = value else { return Value::OPEN };
        let object = self.object(*id);
        let is_place = |items: &[Value]| key.parse::<usize>().is_ok_and(|at| at < items.len());
        match &object.kind {
            _ if object.is_open => Value::OPEN,
            Kind::Plain => Value::Boolean(object.members.contains_key(key)),
            Kind::List(_, items) => Value::Boolean(is_place(items)),
            Kind::Array(items) => Value::Boolean(is_place(items) || &**key == "length"),
            _ => Value::OPEN,
        }
    }

    /// Gives an object a member as it is described (ECMA-262, "ToPropertyDescriptor").
    pub(super) fn define(&mut self, id: ObjectId, key: Arc<str>, described: &Value) -> Run<()> {
        let own = |name: &str| match described {
            Value::Object(described) => self.object(*described).members.get(name).cloned(),
            _ => None,
        };
        let is_known = matches!(self.kind(described), Some(Kind::Plain))
            && matches!(described, Value::Object(described) if !self.object(*described).is_open);
        let (value, getter, setter) = (own("value"), own("get"), own("set"));
        let is_fixed = is_known
            && value.is_some()
            && own("writable").is_none_or(|own| own.truth() == Ok(false))
            && self.is_strong(self.object(id).born);
        let is_listed = own("enumerable").is_some_and(|own| own.truth() != Ok(false));
        let value = match (value, getter) {
            _ if !is_known => Value::OPEN,
            (Some(value), _) => value,
            (None, Some(getter @ Value::Object(_))) => self.made(Kind::Getter(getter)),
            (None, _) => Value::OPEN,
        };
        if matches!(self.object(id).kind, Kind::Window) {
            let value = if matches!(self.kind(&value), Some(Kind::Getter(_))) { Value::OPEN } else { value };
            self.set_global(key, value);
            return Ok(());
        }
        self.put_member(id, Arc::clone(&key), value);
        let mark = Mark { is_unlisted: !is_listed, is_fixed };
        self.object_mut(id).marks.insert(Arc::clone(&key), mark);
        match setter {
            Some(setter) => self.give_setter(id, Some(key), setter),
            None => Ok(()),
        }
    }

    /// The name by which a member is kept that a value names.
    pub(super) fn key_of(&self, value: &Value) -> Result<Arc<str>, Doubt> {
        match value {
            Value::Object(id) if let Some(key) = self.symbol_key(*id) => Ok(key),
            value => self.as_text(value),
        }
    }

    /// `Reflect`: what the language does with objects, by its functions (ECMA-262, "The Reflect Object").
    pub(super) fn call_reflect(&mut self, name: &str, arguments: &Arguments, span: Span) -> Run<Value> {
        let (target, key) = (arguments.get(0), self.key_of(&arguments.get(1)).ok());
        Ok(match name {
            "get" => self.member_at(&target, key.as_ref(), span)?,
            "set" => {
                if let Value::Object(id) = target {
                    self.set_member_of(id, key, arguments.get(2), span)?;
                }
                Value::Boolean(true)
            }
            "has" => match key {
                Some(key) => match self.has_member(&target, &key)? {
                    Ok(has) => Value::Boolean(has),
                    Err(doubt) => Value::Some("Boolean", doubt),
                },
                None => Value::A_BOOLEAN,
            },
            "deleteProperty" => {
                self.deletes(&target, key)?;
                Value::Boolean(true)
            }
            "apply" => {
                let items = self.array_like(&arguments.get(2), span)?;
                let given =
                    Arguments { values: items.known, expressions: Vec::new(), is_open: items.more.is_some() };
                self.call(&target, arguments.get(1), given, span)?
            }
            "ownKeys" => match self.listed(&target, span)? {
                Some(all) => {
                    let keys = all.into_iter().map(|(key, _)| Value::Text(key)).collect();
                    self.array(keys, false)
                }
                None => self.array(Vec::new(), true),
            },
            "defineProperty" | "getPrototypeOf" | "setPrototypeOf" => {
                self.call_object(name, Value::UNDEFINED, arguments.clone(), span)?
            }
            _ => {
                self.hand_over_all(arguments)?;
                Value::OPEN
            }
        })
    }

    /// `Object.assign`: each member is set, as an assignment does.
    pub(super) fn assign_members(&mut self, to: &Value, from: &Value, span: Span) -> Run<()> {
        let (Value::Object(id), Value::Object(source)) = (to, from) else {
            match (to, from) {
                (Value::Object(id), Value::Text(_)) => {
                    for (key, value) in self.listed(from, span)?.unwrap_or_default() {
                        self.put_member(*id, key, value);
                    }
                }
                (Value::Object(id), Value::Unknown(_)) => {
                    self.object_mut(*id).is_open = true;
                    self.takes_anything(to);
                }
                (Value::Unknown(_), Value::Object(source)) => {
                    for (key, value) in self.object(*source).members.clone() {
                        self.sets_somewhere(&key, &value);
                    }
                }
                _ => {}
            }
            return Ok(());
        };
        let known = self.listed(from, span)?;
        let is_open = known.is_none();
        let members = known.unwrap_or_else(|| {
            let all = self.object(*source).members.iter();
            let all = all.filter(|(key, _)| !key.starts_with('#'));
            all.map(|(key, value)| (Arc::clone(key), value.clone())).collect()
        });
        let is_platform = matches!(
            self.object(*id).kind,
            Kind::Element(_) | Kind::Style | Kind::Dataset(_) | Kind::Document
        );
        for (key, value) in members {
            if matches!(self.object(*id).kind, Kind::Window) {
                self.set_window_member(&key, value, span);
            } else if !is_platform || !self.set_platform_member(*id, &key, &value, span)? {
                if matches!(self.object(*id).kind, Kind::Instance(of) if super::platform::extends(of, "Node"))
                {
                    self.sets_somewhere(&key, &value);
                }
                self.keeps_member(*id, key, value);
            }
        }
        self.object_mut(*id).is_open |= is_open && !is_platform;
        if is_open {
            self.takes_anything(to);
        }
        Ok(())
    }

    /// An element may have been given any members.
    fn takes_anything(&mut self, to: &Value) {
        if matches!(self.kind(to), Some(Kind::Element(_) | Kind::Dataset(_) | Kind::Document)) {
            self.touched.anything = true;
            self.presence.lose();
        }
    }
}
