//! The data of a form (XHR, "FormData"; HTML, "constructing the entry list").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::Machine;
use super::value::{Kind, Node, ObjectId, Value};
use crate::source::Span;

/// Where the form is kept that data was taken from.
pub(super) const FORM: &str = "#form";
/// Controls of which nothing goes along, unless they send the form.
const BUTTONS: &[&str] = &["button", "image", "reset", "submit"];

/// What of a control is in the data.
enum Entry {
    There(Value),
    Missing,
    Perhaps,
}

impl Machine<'_> {
    /// A method of the data of a form; none for others, and where that is not known.
    pub(super) fn call_form_data(
        &mut self,
        name: &str,
        of: ObjectId,
        arguments: &Arguments,
    ) -> Option<Value> {
        if matches!(name, "set" | "append" | "delete") {
            self.object_mut(of).members.shift_remove(FORM);
            return Some(Value::UNDEFINED);
        }
        if !matches!(name, "get" | "has") {
            return None;
        }
        let key = self.as_text(&arguments.get(0)).ok()?;
        let entries = self.entries_of_form(of)?;
        let mut found = Vec::new();
        for (own, entry) in entries {
            match entry {
                Entry::Perhaps if own == key => return None,
                Entry::There(value) if own == key => found.push(value),
                _ => {}
            }
        }
        Some(match (name, found.into_iter().next()) {
            ("get", Some(value)) => value,
            ("get", None) => Value::NULL,
            (_, found) => Value::Boolean(found.is_some()),
        })
    }

    /// What `Object.fromEntries` makes of the data of a form; none where that is not known.
    pub(super) fn object_of_form(&mut self, data: &Value) -> Option<Value> {
        let Value::Object(of) = data else { return None };
        let entries = self.entries_of_form(*of)?;
        let made = self.make(Kind::Plain);
        for (name, entry) in entries {
            let value = match entry {
                Entry::There(value) => value,
                Entry::Perhaps => Value::OPEN,
                Entry::Missing => continue,
            };
            self.object_mut(made).members.insert(name, value);
        }
        Some(Value::Object(made))
    }

    fn entries_of_form(&mut self, data: ObjectId) -> Option<Vec<(Arc<str>, Entry)>> {
        let form = self.object(data).members.get(FORM).cloned()?;
        if !matches!(self.kind(&form), Some(Kind::Element(_))) {
            return None;
        }
        let nowhere = Span { start: 0, end: 0 };
        let Value::Object(list) = self.member_at(&form, Some(&Arc::from("elements")), nowhere).ok()? else {
            return None;
        };
        let Kind::List(_, items) = self.object(list).kind.clone() else { return None };
        if self.object(list).is_open || self.text.contains("formdata") {
            return None;
        }
        let mut entries = Vec::new();
        for item in items {
            let node = self.node_of(&item)?;
            match self.attribute(node, "name") {
                Value::Text(name) if !name.is_empty() => {
                    let entry = self.entry_of(node);
                    entries.push((name, entry));
                }
                Value::Text(_) | Value::Null(_) => {}
                _ => return None,
            }
        }
        Some(entries)
    }

    fn entry_of(&mut self, node: Node) -> Entry {
        match self.attribute(node, "disabled") {
            Value::Null(_) => {}
            Value::Text(_) => return Entry::Missing,
            _ => return Entry::Perhaps,
        }
        let tag = self.tag_of(node);
        let kind = match (&*tag, self.attribute(node, "type")) {
            ("input", Value::Text(kind)) => kind.to_ascii_lowercase(),
            ("input", Value::Null(_)) => "text".to_owned(),
            ("textarea" | "select", _) => String::new(),
            ("button", _) => return Entry::Missing,
            _ => return Entry::Perhaps,
        };
        match &*kind {
            kind if BUTTONS.contains(&kind) => Entry::Missing,
            "checkbox" | "radio" => match self.control_member(node, "checked") {
                Some(Value::Boolean(true)) => Entry::There(Value::A_TEXT),
                Some(Value::Boolean(false)) => Entry::Missing,
                _ => Entry::Perhaps,
            },
            "file" => Entry::Perhaps,
            _ if &*tag == "select" => Entry::Perhaps,
            _ => Entry::There(self.control_member(node, "value").unwrap_or(Value::A_TEXT)),
        }
    }
}
