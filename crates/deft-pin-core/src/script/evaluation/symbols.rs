//! Symbols, and what objects give where a primitive value is wanted (ECMA-262, "The Symbol Type", "ToPrimitive").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::platform::Interface;
use super::value::{Kind, ObjectId, Value};
use crate::source::Span;

/// What the names begin with by which members are kept that have symbols.
const MARK: &str = "@@";
/// The name of a symbol that is the same everywhere.
const KNOWN: &str = "#known";

/// Whether a member is kept by a symbol.
pub(super) fn is_symbol(key: &str) -> bool {
    key.starts_with(MARK)
}

impl Machine<'_> {
    /// `Symbol(…)`.
    pub(super) fn new_symbol(&mut self, description: &Value) -> Value {
        let made = self.make(Kind::Instance("Symbol"));
        let description = match (description, self.as_text(description)) {
            (Value::Undefined(_), _) => Value::UNDEFINED,
            (_, Ok(text)) => Value::Text(text),
            (_, Err(doubt)) => Value::Some("String", doubt),
        };
        self.object_mut(made).members.insert(Arc::from("description"), description);
        Value::Object(made)
    }

    /// A symbol that is the same everywhere: `Symbol.iterator`, and what `Symbol.for` gives.
    pub(super) fn known_symbol(&mut self, name: &str) -> Value {
        let place: Arc<str> = Arc::from(format!("#{MARK}{name}"));
        if let Some(known) = self.globals.get(&place) {
            return known.clone();
        }
        let region = std::mem::replace(&mut self.region, 0);
        let made = self.new_symbol(&Value::text(name.strip_prefix("for ").unwrap_or(name)));
        self.region = region;
        if let Value::Object(id) = made {
            self.object_mut(id).members.insert(Arc::from(KNOWN), Value::text(name));
        }
        self.globals.insert(place, made.clone());
        made
    }

    /// By which name a member is kept that has a symbol; none for what is no symbol.
    pub(super) fn symbol_key(&self, id: ObjectId) -> Option<Arc<str>> {
        let object = self.object(id);
        if !matches!(object.kind, Kind::Instance("Symbol")) {
            return None;
        }
        match object.members.get(KNOWN) {
            Some(Value::Text(name)) => Some(Arc::from(format!("{MARK}{name}"))),
            _ => Some(Arc::from(format!("{MARK}{}", id.0))),
        }
    }

    /// What an object of the platform has by a symbol; none of the script's own.
    pub(super) fn member_by_symbol(&mut self, id: ObjectId, key: &Arc<str>) -> Option<Value> {
        let object = self.object(id);
        if object.members.contains_key(key) {
            return None;
        }
        let of = match &object.kind {
            Kind::Plain => return None,
            Kind::Array(_) => "Array",
            Kind::List(of, _) => of,
            Kind::Instance(of @ ("Map" | "Set")) => of,
            _ => return Some(Value::OPEN),
        };
        Some(self.iterator_of(of, Some(key)))
    }

    /// The function by which something of the platform is gone over.
    pub(super) fn iterator_of(&mut self, of: Interface, key: Option<&Arc<str>>) -> Value {
        match (of, key.and_then(|key| key.strip_prefix(MARK))) {
            ("Map", Some("iterator")) => self.made(Kind::Native(of, Arc::from("entries"))),
            ("Array" | "NodeList" | "Set", Some("iterator")) => {
                self.made(Kind::Native(of, Arc::from("values")))
            }
            _ => Value::OPEN,
        }
    }

    /// A function of the script that an object has by a symbol of the language; none where it has none for certain, and
    /// an error where that is not known.
    pub(super) fn method_by_symbol(&self, id: ObjectId, name: &str) -> Result<Option<Value>, ()> {
        self.method_of_own(id, &format!("{MARK}{name}"))
    }

    /// A function of the script that an object has, by itself or by what it inherits from.
    fn method_of_own(&self, id: ObjectId, key: &str) -> Result<Option<Value>, ()> {
        const LONGEST: usize = 20;
        let line = std::iter::successors(Some(id), |at| self.object(*at).parent).take(LONGEST);
        for at in line {
            let object = self.object(at);
            match object.members.get(key) {
                Some(own) if matches!(self.kind(own), Some(Kind::Function(_) | Kind::Bound(..))) => {
                    return Ok(Some(own.clone()));
                }
                Some(_) => return Err(()),
                None if object.is_open || !matches!(object.kind, Kind::Plain) => return Err(()),
                None => {}
            }
        }
        Ok(None)
    }

    /// What `Object.prototype.toString` calls a value (ECMA-262, "Object.prototype.toString"); none where that is not known.
    pub(super) fn tag_of_value(&self, value: &Value) -> Option<&'static str> {
        Some(match value {
            Value::Undefined(_) => "Undefined",
            Value::Null(_) => "Null",
            Value::Object(id) => match self.object(*id).kind {
                Kind::Array(_) => "Array",
                Kind::Function(_)
                | Kind::Native(..)
                | Kind::Bound(..)
                | Kind::Class(..)
                | Kind::Other(..) => "Function",
                Kind::Date(_) => "Date",
                Kind::RegExp(_) => "RegExp",
                Kind::Plain if matches!(self.method_by_symbol(*id, "toStringTag"), Ok(None)) => "Object",
                _ => return None,
            },
            value => value.primitive().filter(|of| matches!(*of, "String" | "Number" | "Boolean"))?,
        })
    }

    /// The primitive value that an object of the script is taken for; the value itself where that is not known.
    pub(super) fn primitive_of(&mut self, value: &Value, wants_text: bool, span: Span) -> Run<Value> {
        let Value::Object(id) = value else { return Ok(value.clone()) };
        if !matches!(self.object(*id).kind, Kind::Plain) {
            return Ok(value.clone());
        }
        let hint = Arguments::of(vec![Value::text(if wants_text { "string" } else { "default" })]);
        let names = if wants_text { ["toString", "valueOf"] } else { ["valueOf", "toString"] };
        let Ok(own) = self.method_by_symbol(*id, "toPrimitive") else { return Ok(value.clone()) };
        if let Some(own) = own {
            return self.call(&own, value.clone(), hint, span);
        }
        for name in names {
            let Ok(own) = self.method_of_own(*id, name) else { return Ok(value.clone()) };
            match own {
                Some(own) => {
                    let given = self.call(&own, value.clone(), Arguments::default(), span)?;
                    if !matches!(given, Value::Object(_)) {
                        return Ok(given);
                    }
                }
                // Those of `Object` itself: an object is itself as a value.
                None if name == "valueOf" => {}
                None => {
                    let is_named = !matches!(self.method_by_symbol(*id, "toStringTag"), Ok(None));
                    let is_bare = self.object(*id).is_bare;
                    let plain =
                        if is_named || is_bare { value.clone() } else { Value::text("[object Object]") };
                    return Ok(plain);
                }
            }
        }
        Ok(value.clone())
    }
}
