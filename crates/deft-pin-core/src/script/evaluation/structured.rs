//! Values that are copied whole: `structuredClone`, messages, states (HTML, "Safe passing of structured data").

use std::sync::Arc;

use super::machine::Machine;
use super::value::{Kind, Value};

impl Machine<'_> {
    /// Whether a value is a function or an element, or has one in it: no copy is made of those (HTML,
    /// "StructuredSerializeInternal").
    pub(super) fn holds_function(&self, value: &Value, depth: u32) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        match &object.kind {
            Kind::Function(_) | Kind::Element(_) | Kind::Document | Kind::Window => true,
            Kind::Plain if depth < 5 => {
                object.members.values().any(|own| self.holds_function(own, depth + 1))
            }
            Kind::Array(items) if depth < 5 => items.iter().any(|own| self.holds_function(own, depth + 1)),
            _ => false,
        }
    }

    /// A copy of a value with all that is in it (HTML, "StructuredSerializeInternal").
    pub(super) fn cloned(&mut self, value: &Value, depth: u32) -> Value {
        let Value::Object(id) = value else { return value.clone() };
        let object = self.object(*id);
        let (kind, is_open) = (object.kind.clone(), object.is_open);
        let members: Vec<(Arc<str>, Value)> =
            object.members.iter().map(|(key, own)| (Arc::clone(key), own.clone())).collect();
        self.charge(members.len());
        let made = match kind {
            _ if depth > 5 => return Value::OPEN,
            Kind::Array(items) => {
                self.charge(items.len());
                let copies = items.iter().map(|item| self.cloned(item, depth + 1)).collect();
                self.make(Kind::Array(copies))
            }
            Kind::Plain => self.make(Kind::Plain),
            Kind::Date(moment) => self.make(Kind::Date(moment)),
            _ => return Value::OPEN,
        };
        for (key, own) in members {
            let copy = self.cloned(&own, depth + 1);
            self.object_mut(made).members.insert(key, copy);
        }
        self.object_mut(made).is_open = is_open;
        Value::Object(made)
    }
}
