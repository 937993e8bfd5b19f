//! Members that are set.

use crate::script::program::{Expression, ExpressionId, Key};
use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::present_sets::data_name;
use super::value::{Kind, ObjectId, Value};
use crate::source::Span;

impl Machine<'_> {
    /// A member of some element is set, nobody knows of which: the names and the markup that it is given are noted.
    pub(super) fn sets_somewhere(&mut self, key: &str, value: &Value) {
        match key {
            "id" => self.gives_names(value, true),
            "className" | "classList" => self.gives_names(value, false),
            "innerHTML" | "outerHTML" => self.brings_markup(value),
            _ => {}
        }
        self.set_somewhere(key, value);
    }

    /// Sets a member.
    pub(super) fn set_member(
        &mut self,
        object: &Value,
        key: Option<Arc<str>>,
        value: Value,
        of: ExpressionId,
        span: Span,
    ) -> Run<()> {
        let id = match object {
            Value::Object(id) => *id,
            Value::Undefined(absence) | Value::Null(absence) => {
                return Err(self.of_nothing(*absence, of, None));
            }
            _ => {
                if let Some(key) = &key {
                    self.sets_on_primitive(object, key, span)?;
                }
                // It may be an element.
                match key.as_deref() {
                    Some("id" | "className" | "classList" | "innerHTML" | "outerHTML") | None => {}
                    Some(key) if super::platform::is_member_of_any(key) => {
                        self.touched.attributes.insert(Arc::from(key.to_ascii_lowercase()));
                    }
                    Some(_) => {}
                }
                // What is known of an element by its data stands in its attributes.
                let is_data = matches!(
                    self.program.expression(of),
                    Expression::Member { key: Key::Name(name), .. } if &**name == "dataset"
                );
                match &key {
                    Some(key) if is_data => {
                        self.touched.attributes.insert(Arc::from(data_name(key)));
                        self.is_vague_attribute(&Value::text(&data_name(key)));
                    }
                    None if is_data => {
                        self.touched.attributes.insert(Arc::from("*"));
                        self.is_vague_attribute(&Value::text("*"));
                    }
                    Some(key) => self.sets_somewhere(key, &value),
                    None => self.presence.lose(),
                }
                return self.hand_over(&value);
            }
        };
        self.set_member_of(id, key, value, span)
    }

    /// Sets a member of an object.
    pub(super) fn set_member_of(
        &mut self,
        id: ObjectId,
        key: Option<Arc<str>>,
        value: Value,
        span: Span,
    ) -> Run<()> {
        if self.proxied(id).is_some() {
            return self.set_on_proxy(id, key, value, span);
        }
        let Some(key) = key else {
            match self.kind(&Value::Object(id)) {
                Some(Kind::Dataset(_)) => self.is_vague_attribute(&Value::text("*")),
                Some(Kind::Element(_) | Kind::Document | Kind::List(..)) => self.presence.lose(),
                Some(Kind::Instance(of)) if super::platform::extends(of, "Node") => self.presence.lose(),
                _ => {}
            }
            self.hand_over(&value)?;
            self.object_mut(id).is_open = true;
            return Ok(());
        };
        if &*key == "__proto__" {
            self.hand_over(&value)?;
            self.object_mut(id).is_open = true;
            return Ok(());
        }
        if self.cannot_change(id, &key, span)? {
            return Ok(());
        }
        self.refused_place(id, &key, &value, span)?;
        match self.copied_kind(id) {
            Kind::Window => {
                // A name that is declared otherwise means what it meant.
                let value = if self.world.is_lexical(&key) { Value::OPEN } else { value };
                self.set_window_member(&key, value, span);
                return Ok(());
            }
            Kind::Document
            | Kind::Element(_)
            | Kind::Style
            | Kind::Dataset(_)
            | Kind::List(..)
            | Kind::Query(..)
                if self.set_platform_member(id, &key, &value, span)? =>
            {
                return Ok(());
            }
            // It begins with its mark, whether that is given or not (HTML, "location.hash").
            Kind::Instance("Location") if &*key == "hash" => {
                let hash = match &value {
                    Value::Text(hash) => {
                        let bare = hash.strip_prefix('#').unwrap_or(hash);
                        Value::text(&if bare.is_empty() { String::new() } else { format!("#{bare}") })
                    }
                    _ => Value::OPEN,
                };
                self.put_member(id, key, hash);
                return Ok(());
            }
            Kind::Instance(of) => {
                self.check_kept(id, &key, &value, span);
                if self.check_writable(id, of, &key, span)? {
                    return Ok(());
                }
                self.refused_attribute(id, of, &key, &value, span)?;
                if of == "URL" {
                    // Its other parts change with it.
                    self.object_mut(id).members.clear();
                    return Ok(());
                }
                if of == "DOMStringMap" {
                    self.is_vague_attribute(&Value::text(&data_name(&key)));
                }
                if super::platform::extends(of, "Node") {
                    self.sets_somewhere(&key, &value);
                }
                let handler = value.clone();
                if key.starts_with("on") {
                    self.later(
                        handler,
                        vec![Value::OPEN],
                        super::machine::Turn::Visitor,
                        super::value::Certainty::SomeVisit,
                        span,
                    );
                    return Ok(());
                }
            }
            Kind::Array(_) => {
                let is_strong = self.is_strong(self.object(id).born);
                let object = self.object_mut(id);
                if let Kind::Array(items) = &mut object.kind {
                    match key.parse::<usize>() {
                        Ok(at) if at < 1000 && is_strong => {
                            // Between what is there and what is set nothing is.
                            if at > items.len() {
                                object.members.insert(Arc::from(super::arrays::HOLES), Value::NULL);
                            }
                            if at >= items.len() {
                                items.resize(at + 1, Value::UNDEFINED);
                            }
                            items[at] = value;
                            return Ok(());
                        }
                        _ if &*key == "length" => {
                            match value {
                                Value::Number(length) if is_strong && (0.0..1000.0).contains(&length) => {
                                    items.resize(length as usize, Value::UNDEFINED);
                                    object.is_open &= length > 0.0;
                                }
                                _ => {
                                    items.clear();
                                    object.is_open = true;
                                }
                            }
                            return Ok(());
                        }
                        Ok(_) => {
                            object.is_open = true;
                            items.clear();
                            return Ok(());
                        }
                        Err(_) => {}
                    }
                }
            }
            _ => {}
        }
        if let Some(setter) = self.setter(id, &key) {
            self.call(&setter, Value::Object(id), Arguments::of(vec![value]), span)?;
            return Ok(());
        }
        self.keeps_member(id, key, value);
        Ok(())
    }

    /// Gives an object a setter for a member; nobody knows for which, where the key is not known.
    pub(super) fn give_setter(&mut self, id: ObjectId, key: Option<Arc<str>>, setter: Value) -> Run<()> {
        let Some(key) = key else {
            self.object_mut(id).is_open = true;
            return self.hand_over(&setter);
        };
        let object = self.object_mut(id);
        object.members.entry(Arc::clone(&key)).or_insert(Value::OPEN);
        object.setters.push((key, setter));
        Ok(())
    }

    /// What is called where a member of an object is set (ECMA-262, "OrdinarySet").
    fn setter(&self, id: ObjectId, key: &Arc<str>) -> Option<Value> {
        let mut at = Some(id);
        while let Some(own) = at {
            let object = self.object(own);
            if let Some((_, setter)) = object.setters.iter().rev().find(|(own, _)| own == key) {
                return Some(setter.clone());
            }
            at = object.parent.filter(|_| !object.members.contains_key(key));
        }
        None
    }

    /// Puts a member on an object itself.
    pub(super) fn put_member(&mut self, id: ObjectId, key: Arc<str>, value: Value) {
        let is_strong = self.is_strong(self.object(id).born);
        let either = if self.is_later { Value::or_more } else { Value::or };
        let object = self.object_mut(id);
        let value = match object.members.get(&key) {
            Some(before) if !is_strong => either(before.clone(), value),
            // It is there perhaps.
            None if !is_strong => Value::OPEN,
            _ => value,
        };
        if object.members.len() < 5000 {
            object.members.insert(key, value);
        } else {
            object.is_open = true;
        }
    }
}
