//! Functions of the language itself: of arrays, texts, objects, numbers (ECMA-262, 19 to 28).

use std::sync::Arc;

use super::arguments::Arguments;
use super::arguments::Items;
use super::machine::{Machine, Run, Stop};
use super::platform::{self, Interface};
use super::value::{Doubt, Kind, ObjectId, Value, in_order};
use crate::script::globals::is_browser_global;
use crate::source::Span;

impl Machine<'_> {
    /// A global that browsers have by themselves.
    pub(super) fn platform_global(&mut self, name: &Arc<str>) -> Option<Value> {
        let value = match &**name {
            "document" => Value::Object(super::machine::DOCUMENT),
            "location" => self.location(),
            "localStorage" | "sessionStorage" => self.storage(name),
            "event" => Value::OPEN,
            "NodeFilter" => self.node_filter(),
            "console" => self.made(Kind::Constructor("console")),
            _ => match platform::global(name) {
                Some(member) if member.is_function => self.made(Kind::Native("Window", Arc::clone(name))),
                Some(member) => self.typed(member.result),
                None => match platform::interface(name) {
                    Some(of) => self.made(Kind::Constructor(of)),
                    None if is_browser_global(name) => Value::OPEN,
                    None => return None,
                },
            },
        };
        Some(value)
    }

    /// A call of a function of the platform.
    pub(super) fn call_native(
        &mut self,
        of: Interface,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        match of {
            "Iterator" if name == "next" => {
                self.hand_over_all(&arguments)?;
                Ok(self.next_item(&this))
            }
            "Window" => self.call_window(name, this, arguments, span),
            "jQuery" => self.call_query_static(name, &arguments, span),
            "Function" => self.call_function_method(name, this, arguments, span),
            "Promise" if self.is_constructor(&this) => self.call_promise_itself(name, &arguments, span),
            "Promise" => Ok(self.call_promise(name, &this, &arguments)),
            "Array" if platform::static_member("Array", name).is_some() => {
                self.call_array_itself(name, arguments, span)
            }
            "Array" => {
                self.changes_frozen(name, &this, span)?;
                self.call_array(name, this, arguments, span)
            }
            "NodeList" | "DOMTokenList" | "HTMLCollection"
                if matches!(name, "forEach" | "entries" | "values" | "keys") =>
            {
                self.call_array(name, this, arguments, span)
            }
            "String" => self.call_text(name, &this, &arguments, span),
            "Number" => self.call_number(name, &this, &arguments, span),
            "Math" if arguments.values.iter().any(|value| value.primitive() == Some("BigInt")) => {
                Err(self.mixes("`Math` takes no BigInt", span))
            }
            "Math" => Ok(self.call_math(name, &arguments)),
            "Object" => self.call_object(name, this, arguments, span),
            "Date" => self.call_date(name, &this, &arguments, span),
            "CSS" if name == "escape" && matches!(arguments.get(0), Value::Text(_)) => {
                let text = self.as_text(&arguments.get(0)).unwrap_or_default();
                Ok(self.bounded(&super::lookups::escaped(&text)))
            }
            "JSON" if name == "parse" => self.parse_json(&arguments, span),
            "JSON" if name == "stringify" => self.write_json(&arguments, span),
            "Reflect"
                if name == "set" && matches!(arguments.get(0), Value::Object(super::machine::WINDOW)) =>
            {
                if let Ok(key) = self.as_text(&arguments.get(1)) {
                    self.set_window_member(&key, arguments.get(2), span);
                }
                Ok(Value::Boolean(true))
            }
            "JSON" | "Reflect" | "Symbol" | "Intl" => Ok(Value::Unknown(
                arguments.values.iter().filter_map(Value::doubt).max().unwrap_or(Doubt::Open),
            )),
            _ => {
                let value = self.call_platform(of, name, this.clone(), arguments.clone(), span)?;
                let value = self.called(name, &this, &arguments, value);
                self.reacts()?;
                Ok(value)
            }
        }
    }

    pub(super) fn is_constructor(&self, value: &Value) -> bool {
        matches!(self.kind(value), Some(Kind::Constructor(_)))
    }

    /// `call`, `apply` and `bind`.
    fn call_function_method(
        &mut self,
        name: &str,
        function: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let this = arguments.get(0);
        let rest = arguments.values.get(1..).unwrap_or_default().to_vec();
        match name {
            "call" => {
                let given = Arguments { values: rest, expressions: Vec::new(), is_open: arguments.is_open };
                self.call(&function, this, given, span)
            }
            "apply" => {
                let list = arguments.get(1);
                let items = match list {
                    Value::Undefined(_) | Value::Null(_) => Items::default(),
                    ref list => self.array_like(list, span)?,
                };
                let given =
                    Arguments { values: items.known, expressions: Vec::new(), is_open: items.more.is_some() };
                self.call(&function, this, given, span)
            }
            "bind" => Ok(self.made(Kind::Bound(function, this, rest))),
            _ => Ok(Value::OPEN),
        }
    }

    fn call_object(&mut self, name: &str, this: Value, arguments: Arguments, span: Span) -> Run<Value> {
        let first = arguments.get(0);
        // Those of `Object` itself ask for no `this`.
        if platform::static_member("Object", name).is_none() {
            return Ok(match (name, self.as_text(&first)) {
                ("hasOwnProperty", Ok(key)) => match &this {
                    Value::Object(id) if !self.object(*id).is_open => {
                        let object = self.object(*id);
                        let is_place =
                            |items: &[Value]| key.parse::<usize>().is_ok_and(|at| at < items.len());
                        match &object.kind {
                            Kind::Plain => Value::Boolean(object.members.contains_key(&key)),
                            Kind::List(_, items) => Value::Boolean(is_place(items)),
                            Kind::Array(items) => Value::Boolean(is_place(items) || &*key == "length"),
                            _ => Value::OPEN,
                        }
                    }
                    _ => Value::OPEN,
                },
                _ => Value::OPEN,
            });
        }
        match name {
            "keys" | "values" | "entries" => {
                if let Value::Undefined(_) | Value::Null(_) = first {
                    return Err(self.no_members(&first, span).unwrap_or(Stop::Halt));
                }
                let (Value::Object(id), Some(Kind::Plain)) = (&first, self.kind(&first)) else {
                    return Ok(self.array(Vec::new(), true));
                };
                let is_open = self.object(*id).is_open;
                let members = in_order(&self.object(*id).members);
                let mut out = Vec::new();
                for (key, value) in members {
                    let key = Value::Text(key);
                    out.push(match name {
                        "keys" => key,
                        "values" => value,
                        _ => self.array(vec![key, value], false),
                    });
                }
                Ok(self.array(if is_open { Vec::new() } else { out }, is_open))
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
            "fromEntries" if matches!(&first, Value::Object(_)) => {
                if let Some(made) = self.object_of_form(&first) {
                    return Ok(made);
                }
                let items = self.iterated(&first, span)?;
                let id = self.make(Kind::Plain);
                self.object_mut(id).is_open = items.more.is_some();
                for item in items.known {
                    let parts = self.iterated(&item, span)?.known;
                    match (parts.first().map(|key| self.as_text(key)), parts.get(1)) {
                        (Some(Ok(key)), Some(value)) => {
                            self.object_mut(id).members.insert(key, value.clone());
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
                if arguments.values.len() > 1 {
                    self.object_mut(id).is_open = true;
                }
                Ok(Value::Object(id))
            }
            "defineProperty" | "defineProperties" => {
                if let (Value::Object(id), Ok(key)) = (&first, self.as_text(&arguments.get(1))) {
                    self.define(*id, Arc::clone(&key));
                    if let Value::Object(given) = arguments.get(2)
                        && let Some(setter) = self.object(given).members.get("set").cloned()
                    {
                        self.give_setter(*id, Some(key), setter)?;
                    }
                } else if let Value::Object(id) = &first {
                    self.object_mut(*id).is_open = true;
                }
                Ok(first)
            }
            _ => {
                self.hand_over_all(&arguments)?;
                Ok(Value::OPEN)
            }
        }
    }

    fn define(&mut self, id: ObjectId, key: Arc<str>) {
        if matches!(self.object(id).kind, Kind::Window) {
            self.set_global(key, Value::OPEN);
        } else {
            self.put_member(id, key, Value::OPEN);
        }
    }

    /// `Object.assign`: each member is set, as an assignment does.
    pub(super) fn assign_members(&mut self, to: &Value, from: &Value, span: Span) -> Run<()> {
        let (Value::Object(id), Value::Object(source)) = (to, from) else {
            match (to, from) {
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
        let members: Vec<(Arc<str>, Value)> = self
            .object(*source)
            .members
            .iter()
            .map(|(key, value)| (Arc::clone(key), value.clone()))
            .collect();
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
        let is_open = self.object(*source).is_open;
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
