//! The members that objects have by themselves: listed, taken over, deleted (ECMA-262, "EnumerableOwnProperties",
//! "CopyDataProperties", "The delete Operator").

use std::sync::Arc;

use super::arguments::{Arguments, Items};
use super::arrays::HOLES;
use super::machine::{Machine, Run};
use super::present_sets::data_name;
use super::symbols::is_symbol;
use super::value::{Doubt, Kind, ObjectId, Value, in_order};
use crate::source::Span;

/// The members of an object with their names.
type Listed = Vec<(Arc<str>, Value)>;

/// More items of one value are not gone over.
const MOST: usize = 300;

impl Machine<'_> {
    /// The members that a value lists as its own, in order; none where these are not known. Getters are called.
    pub(super) fn listed(&mut self, value: &Value, span: Span) -> Run<Option<Listed>> {
        let value = &self.unproxied(value)?;
        let Some(members) = self.listed_as_set(value) else { return Ok(None) };
        let mut out = Vec::with_capacity(members.len());
        for (key, own) in members {
            let own = match self.kind(&own).cloned() {
                Some(Kind::Getter(getter)) => {
                    self.call(&getter, value.clone(), Arguments::default(), span)?
                }
                _ => own,
            };
            out.push((key, own));
        }
        Ok(Some(out))
    }

    /// The same, with getters as they are.
    fn listed_as_set(&mut self, value: &Value) -> Option<Listed> {
        let at = |place: usize| Arc::from(place.to_string());
        let id = match value {
            Value::Unknown(_) | Value::Some("String", _) | Value::Pieced(..) => return None,
            Value::Text(text) => {
                let is_short = text.len() <= MOST && text.chars().all(|c| c.len_utf16() == 1);
                let letters = text.chars().enumerate();
                return is_short
                    .then(|| letters.map(|(n, c)| (at(n), Value::text(&c.to_string()))).collect());
            }
            Value::Object(id) => *id,
            _ => return Some(Vec::new()),
        };
        self.tells_present(id);
        let object = self.object(id);
        if object.is_open {
            return None;
        }
        match &object.kind {
            Kind::Plain | Kind::Function(_) => {
                self.charge(object.members.len() / 8);
                let is_function = matches!(object.kind, Kind::Function(_));
                let is_hidden = |key: &Arc<str>| {
                    is_symbol(key)
                        || object.marks.get(key).is_some_and(|own| own.is_unlisted)
                        || is_function && (&**key == "prototype" || key.starts_with('#'))
                };
                Some(in_order(&object.members).into_iter().filter(|(key, _)| !is_hidden(key)).collect())
            }
            Kind::Array(items) if items.len() <= MOST && !object.members.contains_key(HOLES) => {
                self.charge(items.len() / 8);
                Some(items.iter().enumerate().map(|(n, item)| (at(n), item.clone())).collect())
            }
            Kind::List("NodeList", items) if items.len() <= MOST => {
                Some(items.iter().enumerate().map(|(n, item)| (at(n), item.clone())).collect())
            }
            Kind::Dataset(element) => Some(self.data_at_present(*element)?.into_iter().collect()),
            _ => None,
        }
    }

    /// Takes over the members of a value.
    pub(super) fn copy_members(&mut self, from: &Value, to: ObjectId, span: Span) -> Run<()> {
        if let Some(members) = self.listed(from, span)? {
            self.charge(members.len() / 8);
            self.object_mut(to).members.extend(members);
            return Ok(());
        }
        // What is known of it is there, and there may be more.
        if let Value::Object(id) = from {
            let members = self.object(*id).members.clone();
            self.charge(members.len() / 8);
            let members = members.into_iter().filter(|(key, _)| !key.starts_with('#'));
            self.object_mut(to).members.extend(members);
        }
        self.object_mut(to).is_open = true;
        Ok(())
    }

    /// The names of the members of a value, as `for … in` goes over them.
    pub(super) fn keys(&mut self, value: &Value) -> Items {
        if let (Value::Object(id), Some(Kind::List(of, items))) = (value, self.kind(value))
            && !self.object(*id).is_open
        {
            let names: &[&str] = match *of {
                "NodeList" => &["length", "item", "entries", "forEach", "keys", "values"],
                _ => &["length", "item", "namedItem"],
            };
            let places = (0..items.len()).map(|at| Value::text(&at.to_string()));
            let known = places.chain(names.iter().map(|name| Value::text(name))).collect();
            return Items { known, more: None };
        }
        if let Some(members) = self.listed_as_set(value) {
            let known = members.into_iter().map(|(key, _)| Value::Text(key)).collect();
            return Items { known, more: None };
        }
        // What is known comes first.
        let known = match value {
            Value::Object(id) if matches!(self.object(*id).kind, Kind::Plain) => {
                in_order(&self.object(*id).members).into_iter().map(|(key, _)| Value::Text(key)).collect()
            }
            _ => Vec::new(),
        };
        Items { known, more: Some(value.doubt().unwrap_or(Doubt::Open)) }
    }

    /// `delete` of a member.
    pub(super) fn deletes(&mut self, object: &Value, key: Option<Arc<str>>) -> Run<()> {
        let Value::Object(id) = object else { return Ok(()) };
        if self.proxied(*id).is_some() {
            return self.deletes_of_proxy(*id, key);
        }
        let id = *id;
        let Some(key) = key else {
            // Any of them may be gone.
            let object = self.object_mut(id);
            object.is_open = true;
            object.members.values_mut().for_each(|value| *value = Value::OPEN);
            if let Kind::Array(items) = &mut object.kind {
                items.clear();
            }
            if matches!(object.kind, Kind::Dataset(_)) {
                self.is_vague_attribute(&Value::text("*"));
            }
            return Ok(());
        };
        let is_strong = self.is_strong(self.object(id).born);
        match &self.object(id).kind {
            Kind::Dataset(element) => {
                let element = *element;
                let name = data_name(&key);
                self.object_mut(id).members.shift_remove(&key);
                self.touched.attributes.insert(Arc::from(name.as_str()));
                if let Some(node) = self.node_of(&Value::Object(element)) {
                    self.gives_at_present(node, Some(&name), Some(None));
                }
            }
            Kind::Window => {
                self.touched.attributes.insert(Arc::from(format!("window {key}")));
                let is_own = self.globals.contains_key(&key);
                if is_own && is_strong && self.certainty == super::value::Certainty::Certain {
                    self.globals.remove(&key);
                } else {
                    self.globals.insert(key, Value::OPEN);
                }
            }
            Kind::Instance("Storage") => {
                let given = Arguments::of(vec![Value::Text(key)]);
                self.call_storage("removeItem", id, &given);
            }
            Kind::Array(_) if let Ok(place) = key.parse::<usize>() => {
                let object = self.object_mut(id);
                if let Kind::Array(items) = &mut object.kind
                    && let Some(item) = items.get_mut(place)
                {
                    *item = if is_strong { Value::UNDEFINED } else { Value::OPEN };
                    object.members.insert(Arc::from(HOLES), Value::NULL);
                }
            }
            _ => {
                let object = self.object_mut(id);
                if is_strong {
                    object.members.shift_remove(&key);
                } else {
                    object.is_open = true;
                    object.members.insert(key, Value::OPEN);
                }
            }
        }
        Ok(())
    }
}
