//! Constructors of the platform and of the language, with `new` and without (ECMA-262, WebIDL).

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::made_node::{Contents, FRAGMENT};
use super::platform::{self, Interface};
use super::value::{Absence, Doubt, EXACT, Kind, ObjectId, Value};
use crate::script::regular::Regular;
use crate::source::Span;
use std::sync::Arc;

/// Constructors that may be called without `new`.
const MAY_BE_CALLED: &[&str] = &[
    "AggregateError", "Array", "BigInt", "Boolean", "Date", "Error", "EvalError", "Function", "Number",
    "Object", "RangeError", "ReferenceError", "RegExp", "String", "Symbol", "SyntaxError", "TypeError",
    "URIError",
];

impl Machine<'_> {
    /// What `String` makes of a value.
    fn text_of(&mut self, value: &Value) -> Value {
        match self.as_text(value) {
            Ok(text) => Value::Text(text),
            Err(_) => match self.put_together(std::slice::from_ref(value)) {
                Value::Pieced(_, doubt) => Value::Some("String", doubt),
                text => text,
            },
        }
    }

    /// A constructor that is called without `new`.
    pub(super) fn call_constructor(&mut self, of: Interface, arguments: Arguments, span: Span) -> Run<Value> {
        let first = arguments.get(0);
        Ok(match of {
            "String" if arguments.values.is_empty() => Value::text(""),
            "String" => {
                let first = self.primitive_of(&first, true, span)?;
                self.text_of(&first)
            }
            "Number" => {
                let first = self.primitive_of(&first, false, span)?;
                self.number_value(&first)
            }
            "Boolean" => match first.truth() {
                Ok(truth) => Value::Boolean(truth),
                Err(doubt) => Value::Some("Boolean", doubt),
            },
            "Array" | "Error" | "Object" | "RegExp" | "Function" => {
                return self.construct_platform(of, arguments, span);
            }
            "Date" => Value::Some("String", Doubt::Now),
            "Symbol" => self.new_symbol(&first),
            "BigInt" if let Some(stop) = self.refused_bigint(&first, span) => return Err(stop),
            "BigInt" if first.primitive().is_some() => Value::Some("BigInt", Doubt::Page),
            _ if !MAY_BE_CALLED.contains(&of) => {
                let what = format!("{of}` without `new");
                return Err(self.throws(span, RunFaultKind::NotAFunction { what }));
            }
            _ => {
                self.hand_over_all(&arguments)?;
                Value::OPEN
            }
        })
    }

    /// `new` of an interface of the platform.
    pub(super) fn construct_platform(
        &mut self,
        of: Interface,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        self.check_options(of, &arguments, span);
        let stop = self.refused_call(of, "new", &arguments, span);
        if let Some(stop) = stop.or_else(|| self.refused_value(of, "new", &arguments, span)) {
            return Err(stop);
        }
        Ok(match of {
            "Promise" => self.new_promise(&arguments, span)?,
            "Date" => self.new_date(&arguments, span),
            "Array" if matches!(arguments.values.as_slice(), [Value::Number(length)] if *length < 0.0 || length.fract() != 0.0) =>
            {
                return Err(self.out_of_range(
                    "new Array",
                    &arguments.get(0),
                    "a length, a whole number from 0 on",
                    span,
                ));
            }
            "Array" => match (arguments.values.as_slice(), self.as_number(&arguments.get(0))) {
                ([Value::Number(_)], Ok(length)) if (0.0..300.0).contains(&length) => {
                    let list = self.array(vec![Value::UNDEFINED; length as usize], false);
                    if let Value::Object(id) = list {
                        self.object_mut(id).members.insert(Arc::from(super::arrays::HOLES), Value::NULL);
                    }
                    list
                }
                ([_], _) => self.array(Vec::new(), true),
                _ => self.array(arguments.values, arguments.is_open),
            },
            "Object" if arguments.values.is_empty() => self.made(Kind::Plain),
            "CSSStyleSheet" => self.made_sheet(Some(0)),
            "AbortController" => self.new_abort(),
            "DocumentFragment" => self.make_node(Arc::from(FRAGMENT), Contents::Own),
            "IntersectionObserver" | "MutationObserver" | "ResizeObserver" | "PerformanceObserver" => {
                self.new_observer(of, &arguments, span)?
            }
            "Image" | "Audio" | "Option" => {
                let tag = match of {
                    "Image" => "img",
                    "Audio" => "audio",
                    _ => "option",
                };
                if of == "Audio" {
                    self.asks_for_file(&arguments.get(0), span);
                }
                let made = self.make_element(tag);
                self.gives_first(&made, of, &arguments);
                made
            }
            "Proxy" => self.new_proxy(&arguments, span)?,
            "Function" | "Object" | "String" | "Number" | "Boolean" => Value::OPEN,
            "RegExp" => {
                let flags = match arguments.get(1) {
                    Value::Undefined(_) => Ok(Arc::from("")),
                    given => self.as_text(&given),
                };
                match (arguments.get(0), flags) {
                    (Value::Text(pattern), Ok(flags)) if self.is_no_expression(&pattern, &flags) => {
                        let takes = "a regular expression: its brackets do not match";
                        return Err(self.refused("new RegExp", &*pattern, takes, None, span));
                    }
                    (Value::Text(pattern), Ok(flags)) => {
                        self.made(Kind::RegExp(Arc::new(Regular::new(&pattern, &flags))))
                    }
                    _ => Value::OPEN,
                }
            }
            "Map" | "Set" | "WeakMap" | "WeakSet" => self.new_collection(of, &arguments, span)?,
            "FormData" => {
                let made = self.make(Kind::Instance(of));
                self.object_mut(made).members.insert(Arc::from(super::form_data::FORM), arguments.get(0));
                Value::Object(made)
            }
            "URL" if self.is_no_address(&arguments) => {
                let kind = RunFaultKind::RefusedArgument {
                    method: "new URL".to_owned(),
                    given: self.as_text(&arguments.get(0)).unwrap_or_default().to_string(),
                    takes: "a whole address, or one with what it is relative to".to_owned(),
                    write: (arguments.values.len() == 1).then(|| "new URL(…, location.href)".to_owned()),
                };
                return Err(self.throws(span, kind));
            }
            "WeakRef"
                if !matches!(arguments.get(0), Value::Object(_)) && arguments.get(0).doubt().is_none() =>
            {
                let given = arguments.get(0);
                return Err(match self.no_node("new WeakRef", &given, &arguments, 0, span) {
                    Some(stop) => stop,
                    None => self.refused("new WeakRef", self.written(span), "an object", None, span),
                });
            }
            "Worker" | "SharedWorker" => {
                self.asks_for_file(&arguments.get(0), span);
                self.hand_over_all(&arguments)?;
                self.made(Kind::Instance(of))
            }
            "URL" | "URLSearchParams" => {
                let made = self.make(Kind::Instance(of));
                self.keep_query(made, &arguments);
                self.keep_address(made, &arguments);
                Value::Object(made)
            }
            _ if let Some(event) = self.new_event(of, &arguments) => event,
            _ => {
                // An error keeps what it is given, and does nothing with it.
                if !platform::extends(of, "Error") {
                    self.hand_over_all(&arguments)?;
                }
                let made = self.make(Kind::Instance(of));
                // Events carry what was put into them.
                let is_open = platform::extends(of, "Event");
                self.object_mut(made).is_open = is_open;
                self.gives_message(made, &arguments);
                if !is_open {
                    self.object_mut(made).members.insert(Arc::from(EXACT), Value::NULL);
                }
                Value::Object(made)
            }
        })
    }

    /// Gives an element what its constructor was given (HTML, "legacy factory function").
    fn gives_first(&mut self, made: &Value, of: Interface, arguments: &Arguments) {
        let Some(node) = self.node_of(made) else { return };
        let names: &[&str] = match of {
            "Image" => &["width", "height"],
            "Audio" => &["src"],
            _ => &["text", "value", "defaultSelected"],
        };
        for (at, name) in names.iter().enumerate() {
            let value = arguments.get(at);
            if !matches!(value, Value::Undefined(_)) {
                self.set_at_present(node, name, &value);
            }
        }
    }

    /// Keeps with an error what it says, where that is known.
    pub(super) fn gives_message(&mut self, made: ObjectId, arguments: &Arguments) {
        if let (Kind::Instance(of), Value::Undefined(_)) = (&self.object(made).kind, arguments.get(1))
            && platform::extends(of, "Error")
        {
            let absence = self.absent(Absence::Place { name: "cause".to_owned() });
            self.object_mut(made).members.insert(Arc::from("cause"), Value::Undefined(Some(absence)));
        }
        if let Some(cause) = self.option(&arguments.get(1), "cause") {
            self.object_mut(made).members.insert(Arc::from("cause"), cause);
        }
        let object = self.object_mut(made);
        let is_error = matches!(object.kind, Kind::Instance(of) if platform::extends(of, "Error"));
        let is_other = matches!(object.kind, Kind::Instance("AggregateError"));
        if let (true, false, Value::Text(text)) = (is_error, is_other, arguments.get(0)) {
            object.members.insert(Arc::from("message"), Value::Text(text));
        }
    }

    /// Whether a text is no regular expression, as far as its brackets tell (ECMA-262, 22.2.1).
    fn is_no_expression(&self, pattern: &str, flags: &str) -> bool {
        if flags.contains('v') || pattern.len() > 2_000 {
            return false;
        }
        let (mut depth, mut in_class, mut is_escaped) = (0_i32, false, false);
        for c in pattern.chars() {
            match c {
                _ if is_escaped => is_escaped = false,
                '\\' => is_escaped = true,
                ']' if in_class => in_class = false,
                _ if in_class => {}
                '[' => in_class = true,
                '(' => depth += 1,
                ')' if depth == 0 => return true,
                ')' => depth -= 1,
                _ => {}
            }
        }
        in_class || depth > 0 || is_escaped || pattern.starts_with(['*', '+', '?'])
    }
}
