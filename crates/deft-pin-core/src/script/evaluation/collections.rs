//! Maps and sets with what is in them (ECMA-262, "Map Objects", "Set Objects").

use std::sync::Arc;

use super::arguments::{Arguments, Items};
use super::machine::{Machine, Run};
use super::platform::Interface;
use super::value::{Absence, Doubt, Kind, ObjectId, Value};
use crate::source::Span;

/// Before what an entry is kept under, as a member of its collection.
const ENTRY: &str = "#entry ";
/// Larger ones are not kept.
const MOST_ENTRIES: usize = 300;

/// Under what an entry of a key is kept; none for one that is not known.
fn place_of(key: &Value) -> Option<Arc<str>> {
    let text = match key {
        Value::Text(own) => format!("{ENTRY}text {own}"),
        Value::Number(own) => format!("{ENTRY}number {}", own + 0.0),
        Value::Boolean(own) => format!("{ENTRY}boolean {own}"),
        Value::Object(own) => format!("{ENTRY}object {}", own.0),
        Value::Undefined(_) => format!("{ENTRY}undefined"),
        Value::Null(_) => format!("{ENTRY}null"),
        Value::Unknown(_) | Value::Some(..) | Value::Pieced(..) => return None,
    };
    Some(Arc::from(text))
}

impl Machine<'_> {
    /// `new Map(…)` and its like.
    pub(super) fn new_collection(&mut self, of: Interface, arguments: &Arguments, span: Span) -> Run<Value> {
        let made = self.make(Kind::Instance(of));
        let entries = arguments.get(0);
        match entries.is_nothing() {
            Ok(true) => {}
            Ok(false) => {
                let items = self.iterated(&entries, span)?;
                self.object_mut(made).is_open = items.more.is_some();
                for item in items.known.iter().take(MOST_ENTRIES) {
                    if of.ends_with("Set") {
                        self.put_entry(made, item, item.clone());
                        continue;
                    }
                    if item.primitive().is_some() {
                        let given = self.as_text(item).unwrap_or_default().to_string();
                        let takes = "a list of pairs: `[[key, value], …]`";
                        return Err(self.refused(&format!("new {of}"), given, takes, None, span));
                    }
                    match self.pair(item) {
                        Some((key, value)) => self.put_entry(made, &key, value),
                        None => self.object_mut(made).is_open = true,
                    }
                }
            }
            Err(_) => self.object_mut(made).is_open = true,
        }
        Ok(Value::Object(made))
    }

    fn pair(&self, item: &Value) -> Option<(Value, Value)> {
        let Value::Object(id) = item else { return None };
        match &self.object(*id).kind {
            Kind::Array(parts) if !self.object(*id).is_open => Some((
                parts.first().cloned().unwrap_or(Value::UNDEFINED),
                parts.get(1).cloned().unwrap_or(Value::UNDEFINED),
            )),
            _ => None,
        }
    }

    fn put_entry(&mut self, id: ObjectId, key: &Value, value: Value) {
        match place_of(key).filter(|_| self.object(id).members.len() < MOST_ENTRIES) {
            Some(place) => {
                let pair = self.array(vec![key.clone(), value], false);
                self.put_member(id, place, pair);
            }
            None => self.object_mut(id).is_open = true,
        }
    }

    /// The entries of a collection, and whether there may be others.
    fn entries_of(&self, id: ObjectId) -> (Vec<(Value, Value)>, bool) {
        let object = self.object(id);
        let mut is_open = object.is_open;
        let mut found = Vec::new();
        for (_, pair) in object.members.iter().filter(|(place, _)| place.starts_with(ENTRY)) {
            match self.pair(pair) {
                Some(pair) => found.push(pair),
                None => is_open = true,
            }
        }
        (found, is_open)
    }

    fn is_weak(&self, id: ObjectId) -> bool {
        matches!(self.object(id).kind, Kind::Instance("WeakMap" | "WeakSet"))
    }

    /// What goes over a map or a set gets.
    pub(super) fn items_of_collection(&mut self, id: ObjectId) -> Items {
        let is_set = matches!(self.object(id).kind, Kind::Instance("Set"));
        let (entries, is_open) = self.entries_of(id);
        if is_open {
            return Items { known: Vec::new(), more: Some(Doubt::Open) };
        }
        let known = entries
            .into_iter()
            .map(|(key, value)| if is_set { key } else { self.array(vec![key, value], false) })
            .collect();
        Items { known, more: None }
    }

    /// `size` of a map or a set.
    pub(super) fn size_of(&self, id: ObjectId) -> Value {
        match self.entries_of(id) {
            (entries, false) => Value::Number(entries.len() as f64),
            _ => Value::A_NUMBER,
        }
    }

    /// Methods of maps and sets; none of those that are not known.
    pub(super) fn call_collection(
        &mut self,
        name: &str,
        id: ObjectId,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        if arguments.is_open {
            self.object_mut(id).is_open = true;
            return Ok(None);
        }
        let key = arguments.get(0);
        let known = |this: &Self| {
            let place = place_of(&key)?;
            this.object(id).members.get(&place).cloned().map(|pair| this.pair(&pair))
        };
        let is_lacking =
            |this: &Self| place_of(&key).is_some() && known(this).is_none() && !this.object(id).is_open;
        Ok(Some(match name {
            "set" | "add" if self.is_weak(id) && key.primitive().is_some() => {
                let given = self.as_text(&key).unwrap_or_default().to_string();
                let takes = "an object as key: this collection is a weak one";
                return Err(self.refused(name, given, takes, None, span));
            }
            "set" => {
                self.put_entry(id, &key, arguments.get(1));
                Value::Object(id)
            }
            "add" => {
                self.put_entry(id, &key, key.clone());
                Value::Object(id)
            }
            "get" => match known(self) {
                Some(Some((_, value))) => value,
                None if is_lacking(self) => {
                    let name = arguments.expressions.first().map(|own| self.written(self.program.span(*own)));
                    let name = format!("get({})", name.unwrap_or_default());
                    Value::Undefined(Some(self.absent(Absence::Place { name })))
                }
                _ => Value::OPEN,
            },
            "has" => match known(self) {
                Some(Some(_)) => Value::Boolean(true),
                None if is_lacking(self) => Value::Boolean(false),
                _ => Value::A_BOOLEAN,
            },
            "delete" => {
                let is_strong = self.is_strong(self.object(id).born);
                match place_of(&key).filter(|_| is_strong) {
                    Some(place) => {
                        self.object_mut(id).members.shift_remove(&place);
                    }
                    None => self.object_mut(id).is_open = true,
                }
                Value::A_BOOLEAN
            }
            "clear" => {
                let is_strong = self.is_strong(self.object(id).born);
                let object = self.object_mut(id);
                match is_strong {
                    true => {
                        object.members.retain(|place, _| !place.starts_with(ENTRY));
                        object.is_open = false;
                    }
                    false => object.is_open = true,
                }
                Value::UNDEFINED
            }
            "forEach" => {
                let (entries, is_open) = self.entries_of(id);
                if is_open {
                    return Ok(None);
                }
                for (key, value) in entries {
                    let given = Arguments::of(vec![value, key, Value::Object(id)]);
                    self.call(&arguments.get(0), Value::UNDEFINED, given, span)?;
                }
                Value::UNDEFINED
            }
            "keys" | "values" | "entries" => {
                let (entries, is_open) = self.entries_of(id);
                let is_set = matches!(self.object(id).kind, Kind::Instance("Set"));
                let mut items = Vec::new();
                for (key, value) in entries {
                    items.push(match name {
                        "keys" => key,
                        "values" => value,
                        _ if is_set => self.array(vec![key.clone(), key], false),
                        _ => self.array(vec![key, value], false),
                    });
                }
                let list = self
                    .make(Kind::List(super::iterators::ITERATOR, if is_open { Vec::new() } else { items }));
                self.object_mut(list).is_open = is_open;
                Value::Object(list)
            }
            _ => return Ok(None),
        }))
    }
}
