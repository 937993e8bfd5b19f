//! Classes of elements, and what is set in their style (DOM, "DOMTokenList"; CSSOM, "CSSStyleDeclaration").

use crate::markup::NamedPart;
use crate::script::style_names::property_of;
use crate::style;
use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::value::{Absence, Certainty, Node, ObjectId, Value};
use crate::source::Span;

impl Machine<'_> {
    /// `classList` and its like.
    pub(super) fn call_tokens(
        &mut self,
        name: &str,
        element: ObjectId,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        let node = self.node_of(&Value::Object(element));
        if matches!(name, "add" | "remove" | "toggle" | "replace") {
            for value in &arguments.values {
                if let Value::Text(text) = value {
                    let text = Arc::clone(text);
                    self.check_class(name, &text, span)?;
                }
            }
            self.forgets_kept(element, &Value::text("class"));
        }
        let first = arguments.get(0);
        Ok(match name {
            "toggle" if arguments.values.len() == 1 && self.surely_has(node, &first) => {
                if let (Some(Node::Page(node)), Ok(text)) = (node, self.as_text(&first)) {
                    self.loses(node, NamedPart::Class((&*text).into()));
                    self.touched.taken.insert(text);
                }
                Value::Boolean(false)
            }
            "add" | "toggle" | "replace" | "remove" => {
                for (at, value) in arguments.values.iter().enumerate() {
                    let is_flag = name == "toggle" && at == 1;
                    if is_flag {
                        continue;
                    }
                    if name != "remove" {
                        let choices = self.choices(arguments, at).unwrap_or_else(|| vec![value.clone()]);
                        choices.iter().for_each(|choice| self.gives_names(choice, false));
                    }
                    if name == "remove"
                        && let (Some(Node::Page(node)), Ok(text)) = (node, self.as_text(value))
                    {
                        self.loses(node, NamedPart::Class((&*text).into()));
                    }
                    if name != "add"
                        && let Ok(text) = self.as_text(value)
                    {
                        self.touched.taken.insert(text);
                    }
                }
                if matches!(name, "toggle" | "replace") { Value::A_BOOLEAN } else { Value::UNDEFINED }
            }
            "contains" => match (node, self.as_text(&first)) {
                (_, Ok(text)) if text.starts_with(['.', '#']) => {
                    let takes = "the name of a class, without `.`";
                    self.gives_vainly("classList.contains", &text, takes, Some(text[1..].to_owned()), span);
                    Value::Boolean(false)
                }
                (_, Ok(text)) if text.trim().contains(char::is_whitespace) => {
                    self.gives_vainly("classList.contains", &text, "the name of one class", None, span);
                    Value::Boolean(false)
                }
                (Some(Node::Page(_)), Ok(class)) => {
                    let is_changed = self.touched.own_words.is_some()
                        || self.touched.classes.contains(&class)
                        || self.touched.taken.contains(&class)
                        || self.touched.anything
                        || self.world.acts_with(&class);
                    let has = node
                        .and_then(|node| self.page_node(node))
                        .is_some_and(|element| NamedPart::Class((&*class).into()).is_of(element.data()));
                    if is_changed { Value::A_BOOLEAN } else { Value::Boolean(has) }
                }
                _ => Value::OPEN,
            },
            "forEach" => match self.classes_at_present(element) {
                Some(classes) => {
                    let names = classes.split_ascii_whitespace().map(Value::text).collect();
                    let list = self.array(names, false);
                    return self.call_array("forEach", list, arguments.clone(), span);
                }
                None => {
                    self.hand_over(&first)?;
                    Value::UNDEFINED
                }
            },
            "item" => match self.as_number(&first) {
                Ok(at) => match self.token_member(element, &(at as usize).to_string()) {
                    Some(Value::Undefined(absence)) => Value::Null(absence),
                    Some(class) => class,
                    None => Value::OPEN,
                },
                _ => Value::OPEN,
            },
            _ => Value::OPEN,
        })
    }

    /// Whether an element has a class for certain, where the script comes there each time.
    fn surely_has(&self, node: Option<Node>, class: &Value) -> bool {
        let (Some(node), Ok(class)) = (node, self.as_text(class)) else { return false };
        let is_changed = self.touched.own_words.is_some()
            || self.touched.classes.contains(&class)
            || self.touched.taken.contains(&class)
            || self.touched.anything
            || self.world.acts_with(&class)
            || self.is_later
            || self.certainty != Certainty::Certain
            || self.thrown.is_some();
        let has = self
            .page_node(node)
            .is_some_and(|element| NamedPart::Class((&*class).into()).is_of(element.data()));
        !is_changed && has
    }

    /// The classes that an element has at present, as they are written; none where that cannot be told.
    pub(super) fn classes_at_present(&mut self, element: ObjectId) -> Option<Arc<str>> {
        let node = self.node_of(&Value::Object(element))?;
        if self.presence.vague.has_names() || self.others_give_classes() {
            return None;
        }
        match self.attribute_at_present(node, "class")? {
            Value::Text(value) => Some(value),
            _ => Some(Arc::from("")),
        }
    }

    /// What a list of classes has by its places, and how many there are.
    pub(super) fn token_member(&mut self, element: ObjectId, key: &str) -> Option<Value> {
        let is_asked = matches!(key, "length" | "value") || key.parse::<usize>().is_ok();
        let value = if is_asked { self.classes_at_present(element)? } else { return None };
        let classes: Vec<&str> = value.split_ascii_whitespace().collect();
        Some(match key {
            "length" => Value::Number(classes.len() as f64),
            "value" => Value::Text(Arc::clone(&value)),
            key => match key.parse::<usize>().ok().and_then(|at| classes.get(at)) {
                Some(class) => Value::text(class),
                None => Value::Undefined(Some(self.absent(Absence::Place { name: key.to_owned() }))),
            },
        })
    }

    fn others_give_classes(&mut self) -> bool {
        self.once("#classes", |this| {
            !this.world.knows_all()
                || ["classList", "className", "addClass"].iter().any(|word| this.world.acts_with(word))
        })
    }

    pub(super) fn check_class(&mut self, name: &str, text: &str, span: Span) -> Run<()> {
        let method = format!("classList.{name}");
        if text.is_empty() || text.contains(|c: char| c.is_ascii_whitespace()) {
            let words: Vec<String> =
                text.split_ascii_whitespace().map(|word| format!("\"{word}\"")).collect();
            let kind = RunFaultKind::RefusedArgument {
                method,
                given: text.to_owned(),
                takes: "one class in each argument".to_owned(),
                write: (!words.is_empty()).then(|| words.join(", ")),
            };
            return Err(self.throws(span, kind));
        }
        if text.contains(',') {
            let words: Vec<String> = text.split(',').map(|word| format!("\"{}\"", word.trim())).collect();
            let takes = "one class in each argument";
            self.gives_vainly(&method, text, takes, Some(words.join(", ")), span);
        }
        if let Some(bare) = text.strip_prefix(['.', '#']) {
            let kind = RunFaultKind::VainArgument {
                method,
                given: text.to_owned(),
                takes: "the name of a class, without `.`".to_owned(),
                write: Some(bare.to_owned()),
            };
            self.note(span, kind);
        }
        Ok(())
    }

    pub(super) fn call_style(&mut self, name: &str, arguments: &Arguments, span: Span) -> Value {
        if matches!(name, "setProperty" | "removeProperty") {
            self.touched.attributes.insert(Arc::from("style"));
            self.presence.vague.attributes.insert(Arc::from("style"));
        }
        let Ok(property) = self.as_text(&arguments.get(0)) else {
            return if name == "setProperty" { Value::UNDEFINED } else { Value::A_TEXT };
        };
        if name != "setProperty" {
            let dashed = property_of(&property);
            let is_named = matches!(name, "removeProperty" | "getPropertyValue" | "getPropertyPriority");
            if is_named && dashed != *property && !property.starts_with("--") && style::is_property(&dashed) {
                self.gives_vainly(name, &property, "the name of a property", Some(dashed), span);
            }
            return Value::A_TEXT;
        }
        if property.starts_with("--") {
            return Value::UNDEFINED;
        }
        if !style::is_property(&property.to_ascii_lowercase()) {
            let dashed = property_of(&property);
            let near = if style::is_property(&dashed) {
                Some(dashed)
            } else {
                style::nearest_property(&property).map(str::to_owned)
            };
            let kind = RunFaultKind::VainArgument {
                method: "style.setProperty".to_owned(),
                given: property.to_string(),
                takes: "the name of a property".to_owned(),
                write: near,
            };
            self.note(span, kind);
        } else if let (Ok(text), false) =
            (self.as_text(&arguments.get(1)), matches!(arguments.get(1), Value::Null(_)))
        {
            self.check_style_value(|| "style.setProperty".to_owned(), &property, &text, span);
        }
        Value::UNDEFINED
    }
}
