//! What methods of jQuery's sets do to names and to what is on the page, and what they tell of which nothing more is known.

use super::arguments::Arguments;
use super::machine::Machine;
use super::query::asks;
use super::value::{Kind, Value};
use std::sync::Arc;

impl Machine<'_> {
    /// What a method comes to that asks the elements of a set for something, and that is not known.
    pub(super) fn some_of_query(
        &mut self,
        name: &str,
        elements: Option<&[Value]>,
        arguments: &Arguments,
    ) -> Value {
        // These come to something of their kind, whatever is in the set.
        match name {
            "is" | "hasClass" => return Value::A_BOOLEAN,
            "index" => return Value::A_NUMBER,
            "serialize" => return Value::A_TEXT,
            "text" if asks(name, arguments.values.len()) => return Value::A_TEXT,
            _ => {}
        }
        let Some(first) = elements.and_then(<[Value]>::first) else { return Value::OPEN };
        let tag = self.node_of(first).map(|node| self.tag_of(node));
        match name {
            "val" if tag.is_some_and(|tag| matches!(&*tag, "input" | "textarea" | "select" | "button")) => {
                Value::A_TEXT
            }
            "css" if matches!(arguments.values.as_slice(), [Value::Text(_)]) => Value::A_TEXT,
            "css" => match self.kind(&arguments.get(0)).cloned() {
                Some(Kind::Array(names)) => {
                    let texts = self.make(Kind::Plain);
                    let names: Vec<_> = names.iter().filter_map(|name| self.as_text(name).ok()).collect();
                    for name in names {
                        self.object_mut(texts).members.insert(name, Value::A_TEXT);
                    }
                    Value::Object(texts)
                }
                _ => Value::OPEN,
            },
            "prop" => {
                const STATES: &[&str] =
                    &["checked", "disabled", "selected", "readonly", "required", "hidden"];
                match arguments.get(0) {
                    Value::Text(name) if STATES.contains(&&*name) => Value::A_BOOLEAN,
                    _ => Value::OPEN,
                }
            }
            "width" | "height" | "outerHeight" | "outerWidth" | "innerHeight" | "innerWidth"
            | "scrollTop" | "scrollLeft" => Value::A_NUMBER,
            "offset" | "position" if arguments.values.is_empty() => {
                let place = self.make(Kind::Plain);
                for side in ["top", "left"] {
                    self.object_mut(place).members.insert(Arc::from(side), Value::A_NUMBER);
                }
                Value::Object(place)
            }
            _ => Value::OPEN,
        }
    }

    /// The names that a method of a set gives to elements, and the elements that it brings in or takes out.
    pub(super) fn query_effects(&mut self, name: &str, arguments: &Arguments) {
        let first = arguments.get(0);
        match name {
            "addClass" | "toggleClass" => self.gives_names(&first, false),
            "removeClass" => {
                if let Ok(text) = self.as_text(&first) {
                    self.touched.taken.extend(text.split_ascii_whitespace().map(Arc::from));
                }
            }
            "attr" | "prop" => {
                let second = arguments.get(1);
                match self.as_text(&first) {
                    Ok(key) if &*key == "id" => self.gives_names(&second, true),
                    Ok(key) if &*key == "class" => self.gives_names(&second, false),
                    Ok(key) => {
                        self.touched.attributes.insert(key);
                    }
                    Err(_) => self.names_of_attributes(&first),
                }
            }
            "html" | "append" | "prepend" | "after" | "before" | "replaceWith" | "wrap" | "wrapInner"
            | "wrapAll"
                if !arguments.values.is_empty() =>
            {
                match self.kind(&first) {
                    Some(Kind::Query(..) | Kind::Element(_)) => self.touched.is_moved = true,
                    _ => self.brings_markup(&first),
                }
                if matches!(name, "html" | "replaceWith") {
                    self.touched.is_moved = true;
                }
            }
            "unwrap" | "remove" | "empty" | "detach" | "appendTo" | "prependTo" | "insertAfter"
            | "insertBefore" | "text" | "load" => {
                self.touched.is_moved = true;
            }
            _ => {}
        }
    }

    /// The names in an object of attributes: `$("<p>", { id: … })`.
    pub(super) fn names_of_attributes(&mut self, value: &Value) {
        let Value::Object(id) = value else { return };
        let object = self.object(*id);
        let named: Vec<(bool, Value)> = object
            .members
            .iter()
            .filter(|(key, _)| matches!(&***key, "id" | "class" | "className" | "html"))
            .map(|(key, value)| (&**key == "id", value.clone()))
            .collect();
        for (is_id, value) in named {
            self.gives_names(&value, is_id);
            self.brings_markup(&value);
        }
    }
}
