//! What members of the platform keep of the values that they are given (WebIDL, "JavaScript type mapping"; HTML,
//! "Reflecting content attributes in IDL attributes").

use std::sync::Arc;

use super::machine::Machine;
use super::platform;
use super::present_sets::attribute_of;
use super::value::{Doubt, Kind, Node, ObjectId, Value};

/// Members that give something else than what was set: what an address comes to, what a control or a place makes of it.
const ANEW: &[&str] = &[
    "action", "as", "autocapitalize", "background", "cite", "codeBase", "contentEditable", "crossOrigin",
    "currentTime", "data", "decoding", "defaultChecked", "defaultSelected", "defaultValue", "dir", "enctype",
    "enterKeyHint", "fetchPriority", "formAction", "formEnctype", "formMethod", "hash", "host", "hostname",
    "href", "inputMode", "kind", "length", "loading", "longDesc", "method", "origin", "password", "pathname",
    "popover", "port", "poster", "preload", "protocol", "referrerPolicy", "scope", "scrollLeft", "scrollTop",
    "search", "selected", "selectedIndex", "shape", "src", "type", "username",
];
/// Elements whose values are told by what they are.
const WITH_VALUES: &[&str] = &["input", "option", "output", "select", "textarea"];

impl Machine<'_> {
    /// A value as a member keeps it that is not the script's own; none where what it gives later is another thing.
    pub(super) fn as_kept(&mut self, object: ObjectId, key: &str, value: Value) -> Option<Value> {
        let of = match &self.object(object).kind {
            Kind::Element(node) => {
                let node = *node;
                let tag = self.tag_of(node);
                let is_own = platform::member(self.interface_of_node(node), key).is_some();
                if matches!(&*tag, "meter" | "progress") && key == "value" {
                    return Some(self.kept_in_bounds(node, &value));
                }
                let is_choice = key == "checked" && !matches!(&*tag, "input");
                if is_own
                    && (ANEW.contains(&key) || key == "value" && WITH_VALUES.contains(&&*tag) || is_choice)
                {
                    return None;
                }
                self.interface_of_node(node)
            }
            Kind::Document => "HTMLDocument",
            Kind::Dataset(_) | Kind::Instance("Storage") => return Some(self.kept_text(value)),
            Kind::Instance(of) => *of,
            _ => return Some(value),
        };
        let Some(member) = platform::member(of, key).filter(|member| !member.is_function) else {
            return Some(value);
        };
        let is_nothing = value.is_nothing();
        let kept = match member.result {
            // Colours and fonts are written in another way.
            _ if of == "CanvasRenderingContext2D" && matches!(value, Value::Text(_)) => match member.result {
                "number" => self.kept_number(&value),
                _ => Value::Some("String", Doubt::Page),
            },
            "any" if of == "CanvasRenderingContext2D" && value.primitive().is_some() => Value::OPEN,
            "any" if key == "hidden" => match &value {
                Value::Text(text) if text.eq_ignore_ascii_case("until-found") => value,
                value => self.kept_truth(value),
            },
            "string" if matches!(value, Value::Null(_)) => Value::Some("String", Doubt::Page),
            "string?" | "number?" if is_nothing == Ok(true) => Value::NULL,
            "string?" | "number?" if is_nothing.is_err() => Value::OPEN,
            "string" | "string?" => self.kept_text(value),
            "number" | "number?" => self.kept_number(&value),
            "boolean" => self.kept_truth(&value),
            _ => value,
        };
        Some(kept)
    }

    /// Gives a member of an object a value, as it keeps it.
    pub(super) fn keeps_member(&mut self, object: ObjectId, key: Arc<str>, value: Value) {
        match self.as_kept(object, &key, value) {
            Some(kept) => self.put_member(object, key, kept),
            None => {
                self.object_mut(object).members.shift_remove(&key);
            }
        }
    }

    /// What members have kept that give an attribute is that no more: the attribute was given something else.
    pub(super) fn forgets_kept(&mut self, element: ObjectId, attribute: &Value) {
        let attribute = self.as_text(attribute).ok();
        self.object_mut(element).members.retain(|key, _| match &attribute {
            Some(attribute) => key.starts_with('#') || !attribute_of(key).eq_ignore_ascii_case(attribute),
            None => key.starts_with('#'),
        });
    }

    pub(super) fn kept_text(&self, value: Value) -> Value {
        match self.as_text(&value) {
            Ok(text) => Value::Text(text),
            Err(_) if matches!(value, Value::Pieced(..)) => value,
            Err(doubt) => Value::Some("String", doubt),
        }
    }

    /// The value of a bar, which is no more than the most that it may have.
    fn kept_in_bounds(&mut self, bar: Node, value: &Value) -> Value {
        let most = match self.attribute_at_present(bar, "max") {
            Some(Value::Text(most)) => most.trim().parse().unwrap_or(1.0),
            Some(Value::Null(_)) => 1.0,
            _ => 0.0,
        };
        match self.as_number(value) {
            Ok(number) if (0.0..=most).contains(&number) => Value::Number(number),
            _ => Value::Some("Number", Doubt::Page),
        }
    }

    /// Whole numbers are kept as they are; others may be cut or bounded.
    fn kept_number(&self, value: &Value) -> Value {
        match self.as_number(value) {
            Ok(number) if (0.0..1e6).contains(&number) && number.fract() == 0.0 => Value::Number(number),
            Ok(_) => Value::Some("Number", Doubt::Page),
            Err(doubt) => Value::Some("Number", doubt),
        }
    }

    pub(super) fn kept_truth(&self, value: &Value) -> Value {
        match value.truth() {
            Ok(truth) => Value::Boolean(truth),
            Err(doubt) => Value::Some("Boolean", doubt),
        }
    }
}
