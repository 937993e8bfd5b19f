//! Events that the script makes, and what they say (DOM, "Event"; UI Events; HTML).

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::Machine;
use super::platform::{self, Interface};
use super::value::{EXACT, Kind, Members, Value};

/// What is said of an event where it is made, and what it has where nothing is said.
enum Said {
    Flag,
    Number,
    Text,
    /// Anything, and nothing.
    Any,
}

/// The members of the dictionaries that events are made from, by their interfaces.
const DICTIONARIES: &[(Interface, Said, &[&str])] = &[
    ("Event", Said::Flag, &["bubbles", "cancelable", "composed"]),
    ("CustomEvent", Said::Any, &["detail"]),
    ("UIEvent", Said::Number, &["detail"]),
    ("UIEvent", Said::Any, &["view"]),
    ("MouseEvent", Said::Number, &["screenX", "screenY", "clientX", "clientY", "button", "buttons"]),
    ("MouseEvent", Said::Flag, &["ctrlKey", "shiftKey", "altKey", "metaKey"]),
    ("MouseEvent", Said::Any, &["relatedTarget"]),
    ("KeyboardEvent", Said::Text, &["key", "code"]),
    ("KeyboardEvent", Said::Number, &["location", "keyCode", "charCode"]),
    ("KeyboardEvent", Said::Flag, &["ctrlKey", "shiftKey", "altKey", "metaKey", "repeat", "isComposing"]),
    ("InputEvent", Said::Any, &["data"]),
    ("InputEvent", Said::Text, &["inputType"]),
    ("InputEvent", Said::Flag, &["isComposing"]),
    ("FocusEvent", Said::Any, &["relatedTarget"]),
    ("WheelEvent", Said::Number, &["deltaX", "deltaY", "deltaZ", "deltaMode"]),
    ("PointerEvent", Said::Number, &["pointerId", "pressure"]),
    ("PointerEvent", Said::Text, &["pointerType"]),
    ("PointerEvent", Said::Flag, &["isPrimary"]),
    ("DragEvent", Said::Any, &["dataTransfer"]),
    ("ClipboardEvent", Said::Any, &["clipboardData"]),
    ("MessageEvent", Said::Any, &["data"]),
    ("MessageEvent", Said::Text, &["origin", "lastEventId"]),
    ("StorageEvent", Said::Any, &["key", "oldValue", "newValue"]),
    ("StorageEvent", Said::Text, &["url"]),
    ("HashChangeEvent", Said::Text, &["oldURL", "newURL"]),
    ("PopStateEvent", Said::Any, &["state"]),
    ("SubmitEvent", Said::Any, &["submitter"]),
    ("ToggleEvent", Said::Text, &["oldState", "newState"]),
    ("ProgressEvent", Said::Number, &["loaded", "total"]),
    ("ProgressEvent", Said::Flag, &["lengthComputable"]),
    ("AnimationEvent", Said::Text, &["animationName", "pseudoElement"]),
    ("AnimationEvent", Said::Number, &["elapsedTime"]),
    ("TransitionEvent", Said::Text, &["propertyName", "pseudoElement"]),
    ("TransitionEvent", Said::Number, &["elapsedTime"]),
];

impl Machine<'_> {
    /// `new Event(…)` and its like; none where it is not known what is said of it.
    pub(super) fn new_event(&mut self, of: Interface, arguments: &Arguments) -> Option<Value> {
        let (Value::Text(name), true) = (arguments.get(0), platform::extends(of, "Event")) else {
            return None;
        };
        let given = match arguments.get(1) {
            Value::Object(id) => {
                let object = self.object(id);
                let is_known =
                    matches!(object.kind, Kind::Plain) && !object.is_open && object.parent.is_none();
                is_known.then(|| object.members.clone())?
            }
            Value::Undefined(_) | Value::Null(_) => Members::default(),
            _ => return None,
        };
        let id = self.make(Kind::Instance(of));
        let mut members = vec![
            (EXACT, Value::NULL),
            ("type", Value::Text(name)),
            ("isTrusted", Value::Boolean(false)),
            ("defaultPrevented", Value::Boolean(false)),
            ("target", Value::NULL),
            ("currentTarget", Value::NULL),
        ];
        for (_, said, keys) in DICTIONARIES.iter().filter(|(own, ..)| platform::extends(of, own)) {
            for key in *keys {
                let own = given.get(*key).filter(|own| !matches!(own, Value::Undefined(_)));
                let value = match (own, said) {
                    (None, Said::Flag) => Value::Boolean(false),
                    (None, Said::Number) => Value::Number(0.0),
                    (None, Said::Text) => Value::text(""),
                    (None, Said::Any) => Value::NULL,
                    (Some(own), Said::Flag) => self.kept_truth(own),
                    (Some(own), Said::Number) => self.number_value(own),
                    (Some(own), Said::Text) => self.kept_text(own.clone()),
                    (Some(own), Said::Any) => own.clone(),
                };
                members.push((key, value));
            }
        }
        let members = members.into_iter().map(|(key, value)| (Arc::from(key), value));
        self.object_mut(id).members.extend(members);
        Some(Value::Object(id))
    }

    /// An event that a method makes happen.
    pub(super) fn made_event(&mut self, name: &str, bubbles: bool) -> Value {
        let id = self.make(Kind::Instance(if name == "click" { "PointerEvent" } else { "Event" }));
        let object = self.object_mut(id);
        object.members.insert(Arc::from("type"), Value::text(name));
        object.members.insert(Arc::from("bubbles"), Value::Boolean(bubbles));
        Value::Object(id)
    }
}
