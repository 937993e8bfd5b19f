//! Functions of the language itself: of arrays, texts, objects, numbers (ECMA-262, 19 to 28).

use std::sync::Arc;

use super::arguments::Arguments;
use super::arguments::Items;
use super::machine::{Machine, Run, Stop};
use super::platform::{self, Interface};
use super::value::{Absence, Doubt, Kind, Value};
use crate::script::globals::is_browser_global;
use crate::source::Span;

/// Attributes of `Window` that are `[Replaceable]` (HTML, CSSOM View).
const REPLACEABLE: &[&str] = &[
    "devicePixelRatio", "event", "external", "frames", "innerHeight", "innerWidth", "length", "locationbar",
    "menubar", "origin", "outerHeight", "outerWidth", "pageXOffset", "pageYOffset", "parent", "performance",
    "personalbar", "screen", "screenLeft", "screenTop", "screenX", "screenY", "scrollX", "scrollY",
    "scrollbars", "self", "statusbar", "toolbar", "visualViewport",
];

impl Machine<'_> {
    /// A global that browsers have by themselves.
    pub(super) fn platform_global(&mut self, name: &Arc<str>) -> Option<Value> {
        let value = match &**name {
            "document" => Value::Object(super::machine::DOCUMENT),
            "location" => self.location(),
            "localStorage" | "sessionStorage" => self.storage(name),
            // While the script runs from top to bottom nothing has happened (DOM, "current event").
            "event" if self.is_replaced(name, false) => return None,
            "event" if self.turn.is_none() && !self.is_later => {
                Value::Undefined(Some(self.absent(Absence::Place { name: name.to_string() })))
            }
            "event" => Value::OPEN,
            "NodeFilter" => self.node_filter(),
            "console" => self.made(Kind::Constructor("console")),
            "Proxy" => self.made(Kind::Constructor("Proxy")),
            _ => match platform::global(name) {
                Some(member) if self.is_replaced(name, member.is_function) => return None,
                Some(member) if member.is_function => self.made(Kind::Native("Window", Arc::clone(name))),
                Some(member) => self.typed(member.result),
                None => match platform::interface(name) {
                    Some(_) if self.is_replaced(name, true) => return None,
                    Some(of) => self.made(Kind::Constructor(of)),
                    None if is_browser_global(name) => Value::OPEN,
                    None => return None,
                },
            },
        };
        Some(value)
    }

    /// Whether another script has put its own in the place of a global of the platform. An attribute of `Window` that
    /// is set stays what it is (Web IDL, "Attributes"), unless it is `[Replaceable]` or a declaration stands before it.
    fn is_replaced(&self, name: &str, is_function: bool) -> bool {
        self.world.is_made(name)
            && (is_function || REPLACEABLE.contains(&name) || self.world.is_lexical(name))
    }

    /// A call of a function of the platform or of the language. What one throws that gives a promise, the promise is
    /// rejected by (WebIDL, "create an operation function").
    pub(super) fn call_native(
        &mut self,
        of: Interface,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let first_fault = self.faults.len();
        match self.call_native_itself(of, name, this, arguments, span) {
            thrown @ Err(Stop::Throw(_)) if platform::gives_promise(of, name) => {
                self.promise_of(thrown, None, first_fault)
            }
            result => result,
        }
    }

    fn call_native_itself(
        &mut self,
        of: Interface,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        self.check_vain_call(of, name, &arguments, span);
        if let Some(stop) = self.refused_value(of, name, &arguments, span) {
            return Err(stop);
        }
        match of {
            "Iterator" if name == "next" => {
                self.hand_over_all(&arguments)?;
                Ok(self.next_item(&this))
            }
            "Window" => self.call_window(name, this, arguments, span),
            "jQuery" => self.call_query_static(name, &arguments, span),
            "Function" => self.call_function_method(name, this, arguments, span),
            "Promise" if self.is_constructor(&this) => self.call_promise_itself(name, &arguments, span),
            "Promise" => Ok(self.call_promise(name, &this, &arguments)),
            "Array" if platform::static_member("Array", name).is_some() => {
                self.call_array_itself(name, arguments, span)
            }
            "Array" => {
                self.changes_frozen(name, &this, span)?;
                self.call_array(name, this, arguments, span)
            }
            "NodeList" | "DOMTokenList" | "HTMLCollection"
                if matches!(name, "forEach" | "entries" | "values" | "keys") =>
            {
                self.call_array(name, this, arguments, span)
            }
            "String"
                if name == "localeCompare"
                    && self.refused_language(name, &arguments.get(1), span).is_some() =>
            {
                Err(Stop::Throw(Value::OPEN))
            }
            "String" => self.call_text(name, &this, &arguments, span),
            "Boolean" if name == "toString" => Ok(match self.as_text(&this) {
                Ok(text) => Value::Text(text),
                Err(doubt) => Value::Some("String", doubt.without_markup()),
            }),
            "Number" => self.call_number(name, &this, &arguments, span),
            "Math" if arguments.values.iter().any(|value| value.primitive() == Some("BigInt")) => {
                Err(self.mixes("`Math` takes no BigInt", span))
            }
            "Math" => Ok(self.call_math(name, &arguments)),
            "Object" => self.call_object(name, this, arguments, span),
            "Date" => self.call_date(name, &this, &arguments, span),
            "CSS" if name == "escape" && matches!(arguments.get(0), Value::Text(_)) => {
                let text = self.as_text(&arguments.get(0)).unwrap_or_default();
                Ok(self.bounded(&super::selector_checks::escaped(&text)))
            }
            "JSON" if name == "parse" => self.parse_json(&arguments, span),
            "JSON" if name == "stringify" => self.write_json(&arguments, span),
            "Reflect" => self.call_reflect(name, &arguments, span),
            "Symbol" if name == "for" && matches!(arguments.get(0), Value::Text(_)) => {
                let name = format!("for {}", self.as_text(&arguments.get(0)).unwrap_or_default());
                Ok(self.known_symbol(&name))
            }
            "Intl" => self.call_intl(name, &arguments, span),
            "JSON" | "Symbol" => Ok(Value::Unknown(
                arguments.values.iter().filter_map(Value::doubt).max().unwrap_or(Doubt::Open),
            )),
            _ => {
                let value = self.call_platform(of, name, this.clone(), arguments.clone(), span)?;
                let value = self.called(name, &this, &arguments, value);
                self.reacts()?;
                Ok(value)
            }
        }
    }

    pub(super) fn is_constructor(&self, value: &Value) -> bool {
        matches!(self.kind(value), Some(Kind::Constructor(_)))
    }

    /// `call`, `apply` and `bind`.
    fn call_function_method(
        &mut self,
        name: &str,
        function: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let this = arguments.get(0);
        let rest = arguments.values.get(1..).unwrap_or_default().to_vec();
        match name {
            "call" => {
                let given = Arguments { values: rest, expressions: Vec::new(), is_open: arguments.is_open };
                self.call(&function, this, given, span)
            }
            "apply" => {
                let list = arguments.get(1);
                let items = match list {
                    Value::Undefined(_) | Value::Null(_) => Items::default(),
                    ref list => self.array_like(list, span)?,
                };
                let given =
                    Arguments { values: items.known, expressions: Vec::new(), is_open: items.more.is_some() };
                self.call(&function, this, given, span)
            }
            "bind" => Ok(self.made(Kind::Bound(function, this, rest))),
            _ => Ok(Value::OPEN),
        }
    }
}
