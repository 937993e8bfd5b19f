//! The data of a form (XHR, "FormData"; HTML, "constructing the entry list").

use std::sync::Arc;

use super::arguments::{Arguments, Items};
use super::iterators::ITERATOR;
use super::machine::{Machine, Run};
use super::value::{Doubt, Kind, Node, ObjectId, Value};
use crate::source::Span;

/// Where the form is kept that data was taken from.
pub(super) const FORM: &str = "#form";
/// Before the name of what the script has put in, and of what it has set or taken out.
const APPENDED: &str = "#appended ";
const SET: &str = "#set ";
/// Controls of which nothing goes along, unless they send the form.
const BUTTONS: &[&str] = &["button", "image", "reset", "submit"];

/// Names with their values.
type Pairs = Vec<(Value, Value)>;

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
        let key = self.as_text(&arguments.get(0));
        if matches!(name, "set" | "append" | "delete") {
            let value = match (name, self.as_text(&arguments.get(1))) {
                ("delete", _) => Value::NULL,
                (_, Ok(text)) => Value::Text(text),
                (_, Err(doubt)) if arguments.get(1).primitive().is_some() => Value::Some("String", doubt),
                _ => Value::OPEN,
            };
            match key {
                Ok(key) => {
                    let place = if name == "append" { APPENDED } else { SET };
                    self.put_member(of, Arc::from(format!("{place}{key}")), value);
                }
                Err(_) => self.object_mut(of).is_open = true,
            }
            return Some(Value::UNDEFINED);
        }
        if matches!(name, "entries" | "keys" | "values") && !self.object(of).is_open {
            let Items { known, more } = self.parts_of_form(name, of)?;
            let list = self.make(Kind::List(ITERATOR, known));
            self.object_mut(list).is_open = more.is_some();
            return Some(Value::Object(list));
        }
        if !matches!(name, "get" | "has") || self.object(of).is_open {
            return None;
        }
        let key = key.ok()?;
        if let Some(set) = self.object(of).members.get(&*format!("{SET}{key}")).cloned() {
            return match (name, set.is_nothing()) {
                ("get", _) => Some(set),
                (_, Ok(is_gone)) => Some(Value::Boolean(!is_gone)),
                (_, Err(_)) => None,
            };
        }
        let entries = self.entries_of_form(of)?;
        let mut found = Vec::new();
        for (own, entry) in entries {
            match entry {
                Entry::Perhaps if own == key => return None,
                Entry::There(value) if own == key => found.push(value),
                _ => {}
            }
        }
        found.extend(self.object(of).members.get(&*format!("{APPENDED}{key}")).cloned());
        Some(match (name, found.into_iter().next()) {
            ("get", Some(value)) => value,
            ("get", None) => Value::NULL,
            (_, found) => Value::Boolean(found.is_some()),
        })
    }

    /// The names in the data of a form with their values, and whether there may be more; none where that is not known.
    fn pairs_of_form(&mut self, of: ObjectId) -> Option<(Pairs, Option<Doubt>)> {
        let mut all = Vec::new();
        let mut more = None;
        for (name, entry) in self.entries_of_form(of)? {
            match entry {
                Entry::There(value) => all.push((Value::Text(name), value)),
                Entry::Missing => {}
                Entry::Perhaps => more = Some(Doubt::Visit),
            }
        }
        for (key, value) in &self.object(of).members {
            match key.strip_prefix(APPENDED) {
                Some(name) => all.push((Value::text(name), value.clone())),
                None if key.starts_with(SET) => return None,
                None => {}
            }
        }
        Some((all, more))
    }

    /// What is gone over in the data of a form: pairs of a name and a value; none where that is not known.
    pub(super) fn items_of_form(&mut self, of: ObjectId) -> Option<Items> {
        self.parts_of_form("entries", of)
    }

    /// What `entries()`, `keys()` and `values()` of the data of a form give.
    fn parts_of_form(&mut self, name: &str, of: ObjectId) -> Option<Items> {
        let (pairs, more) = self.pairs_of_form(of)?;
        let part = |(key, value): (Value, Value)| match name {
            "keys" => key,
            "values" => value,
            _ => self.array(vec![key, value], false),
        };
        Some(Items { known: pairs.into_iter().map(part).collect(), more })
    }

    /// `forEach()` of the data of a form; none where that is not known.
    pub(super) fn each_of_form(
        &mut self,
        of: ObjectId,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        let Some((pairs, None)) = self.pairs_of_form(of) else { return Ok(None) };
        for (key, value) in pairs {
            let given = Arguments::of(vec![value, key, Value::Object(of)]);
            self.call(&arguments.get(0), Value::UNDEFINED, given, span)?;
        }
        Ok(Some(Value::UNDEFINED))
    }

    /// Gives a query what the data of a form has (URL, "new URLSearchParams").
    pub(super) fn keep_form(&mut self, query: ObjectId, data: &Value) {
        let Value::Object(data) = data else { return };
        if !matches!(self.object(*data).kind, Kind::Instance("FormData")) {
            return;
        }
        let data = self.object(*data);
        let (is_open, members) = (data.is_open, data.members.clone());
        let object = self.object_mut(query);
        object.is_open = is_open;
        object.members.extend(members);
    }

    /// Whether what is in it comes from a form.
    pub(super) fn is_of_form(&self, of: ObjectId) -> bool {
        self.object(of).members.contains_key(FORM)
    }

    /// What `Object.fromEntries` makes of the data of a form; none where that is not known.
    pub(super) fn object_of_form(&mut self, data: &Value) -> Option<Value> {
        let Value::Object(of) = data else { return None };
        let entries = self.entries_of_form(*of)?;
        let changes =
            self.object(*of).members.keys().any(|key| key.starts_with(SET) || key.starts_with(APPENDED));
        let is_open = changes || self.object(*of).is_open;
        let made = self.make(Kind::Plain);
        self.object_mut(made).is_open = is_open;
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

    /// What jQuery's `serializeArray` makes of a form; none where that is not known.
    pub(super) fn fields_of_form(&mut self, form: &Value) -> Option<Value> {
        if &*self.tag_of(self.node_of(form)?) != "form" {
            return None;
        }
        let data = self.make(Kind::Instance("FormData"));
        self.object_mut(data).members.insert(Arc::from(FORM), form.clone());
        let mut fields = Vec::new();
        for (name, entry) in self.entries_of_form(data)? {
            let value = match entry {
                Entry::There(value) => value,
                Entry::Missing => continue,
                Entry::Perhaps => return Some(self.array(Vec::new(), true)),
            };
            let field = self.make(Kind::Plain);
            self.object_mut(field).members.insert(Arc::from("name"), Value::Text(name));
            self.object_mut(field).members.insert(Arc::from("value"), value);
            fields.push(Value::Object(field));
        }
        Some(self.array(fields, false))
    }

    fn entries_of_form(&mut self, data: ObjectId) -> Option<Vec<(Arc<str>, Entry)>> {
        let form = self.object(data).members.get(FORM).cloned()?;
        if let Value::Undefined(_) = form {
            return Some(Vec::new());
        }
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
        self.charge(items.len());
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
