//! What jQuery's sets tell of their elements, and lists that are made of them.

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::present_sets::data_name;
use super::value::{Kind, Value};
use crate::source::Span;

/// Before the name of what `.data(…)` has kept with an element.
const KEPT: &str = "#data ";

impl Machine<'_> {
    /// What a method comes to that asks a known set for its elements, or calls a function for each; none for others, and
    /// where that cannot be told.
    pub(super) fn query_value(
        &mut self,
        name: &str,
        elements: &[Value],
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        let first = arguments.get(0);
        let is_function = matches!(self.kind(&first), Some(Kind::Function(_) | Kind::Bound(..)));
        Ok(match name {
            "toArray" => Some(self.array(elements.to_vec(), false)),
            "get" if arguments.values.is_empty() => Some(self.array(elements.to_vec(), false)),
            "size" => Some(Value::Number(elements.len() as f64)),
            "slice" => {
                let list = self.array(elements.to_vec(), false);
                let part = self.call_array("slice", list, arguments.clone(), span)?;
                match self.kind(&part).cloned() {
                    Some(Kind::Array(items)) => Some(self.query(Some(items), None)),
                    _ => None,
                }
            }
            "sort" if is_function => {
                let list = self.array(elements.to_vec(), false);
                let sorted = self.call_array("sort", list, arguments.clone(), span)?;
                let is_open = matches!(&sorted, Value::Object(id) if self.object(*id).is_open);
                match self.kind(&sorted).cloned() {
                    Some(Kind::Array(items)) if !is_open => Some(self.query(Some(items), None)),
                    _ => Some(self.query(None, None)),
                }
            }
            "even" | "odd" => {
                let rest = usize::from(name == "odd");
                let kept = elements.iter().enumerate().filter(|(at, _)| at % 2 == rest);
                let kept = kept.map(|(_, own)| own.clone()).collect();
                Some(self.query(Some(kept), None))
            }
            "map" if is_function => {
                let mut results = Vec::new();
                let mut is_known = true;
                for (at, element) in elements.iter().enumerate() {
                    let given = Arguments::of(vec![Value::Number(at as f64), element.clone()]);
                    let result = self.call(&first, element.clone(), given, span)?;
                    is_known &= result.is_nothing().is_ok();
                    results.push(result);
                }
                results.retain(|result| result.is_nothing() != Ok(true));
                let flat = self.flattened(&results).filter(|_| is_known);
                Some(self.query(flat, None))
            }
            "filter" | "not" if is_function => {
                let mut kept = Vec::new();
                for (at, element) in elements.iter().enumerate() {
                    let given = Arguments::of(vec![Value::Number(at as f64), element.clone()]);
                    match self.call(&first, element.clone(), given, span)?.truth() {
                        Ok(is_met) if is_met == (name == "filter") => kept.push(element.clone()),
                        Ok(_) => {}
                        Err(_) => return Ok(Some(self.query(None, None))),
                    }
                }
                Some(self.query(Some(kept), None))
            }
            "data" => self.query_data(elements, arguments),
            "prop" if arguments.values.len() == 1 => match (self.as_text(&first), elements.first()) {
                // jQuery's `propFix` has other names for some.
                (Ok(key), Some(element))
                    if !matches!(&*key, "for" | "class") && key.chars().all(char::is_lowercase) =>
                {
                    match self.member_at(element, Some(&key), span)? {
                        value @ Value::Undefined(_) if !self.world.acts_with("prop") => Some(value),
                        Value::Undefined(_) => None,
                        value => value.primitive().is_some().then_some(value),
                    }
                }
                _ => None,
            },
            "serializeArray" => match elements {
                [form] => self.fields_of_form(form),
                _ => None,
            },
            _ => None,
        })
    }

    /// `.data(key)` and `.data(key, value)`: what was kept with an element, or its attribute.
    fn query_data(&mut self, elements: &[Value], arguments: &Arguments) -> Option<Value> {
        if arguments.values.is_empty() {
            return self.all_data(elements.first()?);
        }
        let key = match arguments.get(0) {
            Value::Text(key) => data_name(&key)["data-".len()..].to_owned(),
            _ => return None,
        };
        let place: Arc<str> = Arc::from(format!("{KEPT}{key}"));
        if arguments.values.len() > 1 {
            for element in elements {
                if let Value::Object(id) = element {
                    self.put_member(*id, Arc::clone(&place), arguments.get(1));
                }
            }
            return Some(self.query(Some(elements.to_vec()), None));
        }
        let Some(Value::Object(id)) = elements.first() else { return None };
        if let Some(kept) = self.object(*id).members.get(&place) {
            return Some(kept.clone());
        }
        // Another element's may be kept with it as well, where it is not known which that is.
        let is_kept = ["'", "\""].iter().any(|quote| {
            let given = arguments.get(0);
            let name = self.as_text(&given).unwrap_or_default();
            self.text.contains(&format!(".data({quote}{name}{quote},"))
        });
        if is_kept || self.text.contains(".data({") || self.world.acts_with("data") {
            return None;
        }
        let node = self.node_of(&elements[0])?;
        Some(match self.attribute_at_present(node, &format!("data-{key}"))? {
            Value::Null(absence) => Value::Undefined(absence),
            Value::Text(text) => self.read_data(&text),
            other => other,
        })
    }

    /// `.data()`: all that an element's attributes say, where nothing else was kept with one.
    fn all_data(&mut self, element: &Value) -> Option<Value> {
        let Value::Object(id) = element else { return None };
        let keeps = |this: &Self| this.text.matches(".data(").count() > this.text.matches(".data()").count();
        if self.once("#kept data", keeps) || self.world.acts_with("data") {
            return None;
        }
        let data = self.data_at_present(*id)?;
        let made = self.make(Kind::Plain);
        for (key, value) in data {
            let read = match &value {
                Value::Text(text) => self.read_data(text),
                _ => value,
            };
            self.object_mut(made).members.insert(key, read);
        }
        Some(Value::Object(made))
    }

    /// What jQuery makes of an attribute's text.
    fn read_data(&mut self, text: &str) -> Value {
        match text {
            "true" => Value::Boolean(true),
            "false" => Value::Boolean(false),
            "null" => Value::NULL,
            _ if text.starts_with(['{', '[']) => match serde_json::from_str(text) {
                Ok(parsed) => self.of_json(&parsed),
                Err(_) => Value::text(text),
            },
            // A number is one where it is written as a number is.
            _ => match text.parse::<f64>() {
                Ok(number) if number.is_finite() && number.to_string() == text => Value::Number(number),
                _ => Value::text(text),
            },
        }
    }
}
