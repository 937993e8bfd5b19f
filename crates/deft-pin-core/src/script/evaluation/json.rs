//! Values written as JSON, and JSON read as values (ECMA-262, "The JSON Object").

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::value::{Doubt, Kind, Moment, ObjectId, Value};
use crate::script::program::{Expression, Key};
use crate::source::Span;

/// How deep objects may stand in each other.
const DEEPEST: usize = 20;

impl Machine<'_> {
    /// `JSON.stringify`.
    pub(super) fn write_json(&mut self, arguments: &Arguments, span: Span) -> Run<Value> {
        let given = arguments.get(0);
        if self.holds_big(&given, 0) {
            return Err(self.mixes("a BigInt cannot be written as JSON", span));
        }
        let is_whole = arguments.values.len() == 1;
        if is_whole && self.holds_itself(&given, &mut Vec::new()) {
            let given = self.written(span);
            return Err(self.refused("JSON.stringify", given, "what does not hold itself", None, span));
        }
        if !matches!(self.kind(&given), Some(Kind::Plain | Kind::Array(_))) {
            let doubt = arguments.values.iter().filter_map(Value::doubt).max();
            return Ok(Value::Unknown(doubt.unwrap_or(Doubt::Open)));
        }
        let text = is_whole.then(|| self.as_json(&given, 0)).flatten();
        self.written_json = None;
        Ok(match text {
            Some(text) => self.bounded(&text),
            None => {
                self.written_json = is_whole.then(|| self.through_json(&given, 0));
                Value::Some("String", Doubt::Open)
            }
        })
    }

    /// Whether a value is among those that it stands in, or has one in it that is.
    fn holds_itself(&self, value: &Value, around: &mut Vec<ObjectId>) -> bool {
        let Value::Object(id) = value else { return false };
        if around.contains(id) {
            return true;
        }
        let object = self.object(*id);
        if around.len() > DEEPEST || object.members.contains_key("toJSON") {
            return false;
        }
        self.charge(1 + object.members.len());
        around.push(*id);
        let holds = match &object.kind {
            Kind::Plain => object.members.values().any(|own| self.holds_itself(own, around)),
            Kind::Array(items) => items.iter().any(|own| self.holds_itself(own, around)),
            _ => false,
        };
        around.pop();
        holds
    }

    /// What becomes of a value that is written as JSON and read again.
    fn through_json(&mut self, value: &Value, depth: usize) -> Value {
        let id = match value {
            Value::Undefined(_) => return Value::NULL,
            Value::Number(own) if !own.is_finite() => return Value::NULL,
            Value::Object(id) if depth < DEEPEST => *id,
            Value::Object(_) => return Value::OPEN,
            value => return value.clone(),
        };
        let object = self.object(id);
        if object.is_open || object.parent.is_some() || object.members.contains_key("toJSON") {
            return Value::OPEN;
        }
        match object.kind.clone() {
            Kind::Date(Moment::At(time)) if time.is_nan() => Value::NULL,
            Kind::Date(_) => Value::Some("String", Doubt::Now),
            Kind::Function(_) => Value::NULL,
            Kind::Instance("Map" | "Set" | "WeakMap" | "WeakSet") | Kind::RegExp(_) => self.made(Kind::Plain),
            Kind::Array(items) => {
                self.charge(items.len());
                let items = items.iter().map(|item| self.through_json(item, depth + 1)).collect();
                self.array(items, false)
            }
            Kind::Plain => {
                let members = object.members.clone();
                self.charge(members.len());
                let made = self.make(Kind::Plain);
                for (key, own) in members {
                    // What has no value, and functions, are left out.
                    if !matches!(own, Value::Undefined(_))
                        && !matches!(self.kind(&own), Some(Kind::Function(_)))
                    {
                        let own = self.through_json(&own, depth + 1);
                        self.object_mut(made).members.insert(key, own);
                    }
                }
                Value::Object(made)
            }
            _ => Value::OPEN,
        }
    }

    /// What is read again at once where it was written: `JSON.parse(JSON.stringify(…))`.
    fn just_written(&mut self, arguments: &Arguments) -> Option<Value> {
        let Expression::Call { callee, .. } = self.program.expression(*arguments.expressions.first()?) else {
            return None;
        };
        match self.program.expression(*callee) {
            Expression::Member { key: Key::Name(name), .. } if &**name == "stringify" => {
                self.written_json.take()
            }
            _ => None,
        }
    }

    /// `JSON.parse`.
    pub(super) fn parse_json(&mut self, arguments: &Arguments, span: Span) -> Run<Value> {
        if let (Some(Kind::Plain), Some(written)) =
            (self.kind(&arguments.get(0)), arguments.expressions.first())
        {
            let given = self.written(self.program.span(*written));
            return Err(self.refused("JSON.parse", given, "a text with JSON, and no object", None, span));
        }
        let text = match self.as_text(&arguments.get(0)) {
            Ok(text) => text,
            Err(doubt) => return Ok(self.just_written(arguments).unwrap_or(Value::Unknown(doubt))),
        };
        self.charge(text.len() / 16);
        match serde_json::from_str(&text) {
            Ok(parsed) if arguments.values.len() > 1 => {
                let parsed = self.of_json(&parsed);
                self.revived(parsed, "", &arguments.get(1), &mut 0, span)
            }
            Ok(parsed) => Ok(self.of_json(&parsed)),
            Err(_) if text.contains("\\u") => Ok(Value::OPEN),
            Err(error) => {
                let kind = RunFaultKind::RefusedArgument {
                    method: "JSON.parse".to_owned(),
                    given: text.chars().take(40).collect(),
                    takes: format!("JSON: {error}"),
                    write: None,
                };
                Err(self.throws(span, kind))
            }
        }
    }

    /// What a function makes of a value that was read, and of what is in it, from the inside out (ECMA-262,
    /// "InternalizeJSONProperty").
    fn revived(
        &mut self,
        value: Value,
        key: &str,
        function: &Value,
        count: &mut usize,
        span: Span,
    ) -> Run<Value> {
        const MOST: usize = 200;
        *count += 1;
        if *count > MOST || !matches!(self.kind(function), Some(Kind::Function(_))) {
            return Ok(Value::OPEN);
        }
        if let Value::Object(id) = value {
            match self.copied_kind(id) {
                Kind::Array(items) => {
                    let mut made = Vec::new();
                    for (at, item) in items.into_iter().enumerate() {
                        made.push(self.revived(item, &at.to_string(), function, count, span)?);
                    }
                    self.object_mut(id).kind = Kind::Array(made);
                }
                _ => {
                    let members: Vec<(Arc<str>, Value)> = self
                        .object(id)
                        .members
                        .iter()
                        .map(|(key, own)| (Arc::clone(key), own.clone()))
                        .collect();
                    for (key, own) in members {
                        let made = self.revived(own, &key, function, count, span)?;
                        self.object_mut(id).members.insert(key, made);
                    }
                }
            }
        }
        let given = Arguments::of(vec![Value::text(key), value]);
        self.call(function, Value::OPEN, given, span)
    }

    /// A value written as JSON (ECMA-262, "SerializeJSONProperty"); none where it is not known, or has a way of its own.
    fn as_json(&self, value: &Value, depth: usize) -> Option<String> {
        let id = match value {
            Value::Null(_) => return Some("null".to_owned()),
            Value::Boolean(own) => return Some(own.to_string()),
            Value::Text(own) => return serde_json::to_string(&**own).ok(),
            Value::Number(own) if own.is_finite() => return Some(self.as_text(value).ok()?.to_string()),
            Value::Number(_) => return Some("null".to_owned()),
            Value::Object(id) if depth < DEEPEST => *id,
            _ => return None,
        };
        let object = self.object(id);
        self.charge(1 + object.members.len());
        if object.is_open || object.parent.is_some() || object.members.contains_key("toJSON") {
            return None;
        }
        match &object.kind {
            Kind::Array(items) if items.len() <= 500 => {
                let items: Option<Vec<String>> =
                    items.iter().map(|item| self.as_json(item, depth + 1)).collect();
                Some(format!("[{}]", items?.join(",")))
            }
            Kind::Plain => {
                let mut parts = Vec::new();
                for (key, value) in &object.members {
                    // Numbers would come first.
                    if key.starts_with(|c: char| c == '#' || c.is_ascii_digit()) {
                        return None;
                    }
                    // What has no value is left out.
                    if !matches!(value, Value::Undefined(_)) {
                        let value = self.as_json(value, depth + 1)?;
                        parts.push(format!("{}:{value}", serde_json::to_string(&**key).ok()?));
                    }
                }
                Some(format!("{{{}}}", parts.join(",")))
            }
            _ => None,
        }
    }

    pub(super) fn of_json(&mut self, parsed: &serde_json::Value) -> Value {
        match parsed {
            serde_json::Value::Null => Value::NULL,
            serde_json::Value::Bool(own) => Value::Boolean(*own),
            serde_json::Value::Number(own) => own.as_f64().map_or(Value::OPEN, Value::Number),
            serde_json::Value::String(own) => self.bounded(own),
            serde_json::Value::Array(items) => {
                let items = items.iter().map(|item| self.of_json(item)).collect();
                self.array(items, false)
            }
            serde_json::Value::Object(members) => {
                let id = self.make(Kind::Plain);
                for (key, value) in members {
                    let value = self.of_json(value);
                    self.object_mut(id).members.insert(Arc::from(key.as_str()), value);
                }
                Value::Object(id)
            }
        }
    }
}
