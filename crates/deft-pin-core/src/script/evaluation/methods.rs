//! Functions of the platform: of the window, the document and elements (HTML, DOM, CSSOM).

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::made_node::{Contents, FRAGMENT};
use super::number_texts::{leading_number, whole_number};
use super::platform::{self, Interface};
use super::value::{Absence, Certainty, Doubt, EXACT, Kind, Node, ObjectId, Value};
use crate::script::regular::Regular;
use crate::source::Span;

/// What `encodeURIComponent` writes anew (ECMA-262, "encodeURIComponent").
const COMPONENT: &percent_encoding::AsciiSet = &percent_encoding::NON_ALPHANUMERIC
    .remove(b'-')
    .remove(b'_')
    .remove(b'.')
    .remove(b'!')
    .remove(b'~')
    .remove(b'*')
    .remove(b'\'')
    .remove(b'(')
    .remove(b')');

/// Constructors that may be called without `new`.
const MAY_BE_CALLED: &[&str] = &[
    "AggregateError", "Array", "BigInt", "Boolean", "Date", "Error", "EvalError", "Function", "Number",
    "Object", "RangeError", "ReferenceError", "RegExp", "String", "Symbol", "SyntaxError", "TypeError",
    "URIError",
];

/// Interfaces whose methods take nothing else for `this`.
const OF_THE_PAGE: &[&str] = &[
    "Crypto", "DOMTokenList", "FormData", "Headers", "History", "Location", "MediaQueryList", "Navigator",
    "Performance", "Storage", "URLSearchParams",
];

impl Machine<'_> {
    /// Whether a value is an object that is written out, and nothing else.
    fn is_written_out(&self, value: &Value) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        matches!(object.kind, Kind::Plain) && object.parent.is_none() && !object.is_open
    }

    pub(super) fn call_window(
        &mut self,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        const OF_THE_LANGUAGE: &[&str] = &[
            "decodeURI", "decodeURIComponent", "encodeURI", "encodeURIComponent", "escape", "eval",
            "isFinite", "isNaN", "parseFloat", "parseInt", "unescape",
        ];
        if self.is_written_out(&this) && !OF_THE_LANGUAGE.contains(&name) {
            return Err(self.throws(span, RunFaultKind::Detached { name: name.to_owned() }));
        }
        let first = arguments.get(0);
        if !matches!(name, "addEventListener" | "getComputedStyle")
            && let Some(stop) = self.refused_call("Window", name, &arguments, span)
        {
            return Err(stop);
        }
        Ok(match name {
            "setTimeout"
            | "setInterval"
            | "requestAnimationFrame"
            | "requestIdleCallback"
            | "queueMicrotask" => self.call_timer(name, &arguments, span)?,
            "addEventListener" => {
                if arguments.get(1).primitive().is_some()
                    && let Some(stop) = self.refused_call("Window", name, &arguments, span)
                {
                    return Err(stop);
                }
                let window = Value::Object(super::machine::WINDOW);
                let this = if matches!(this, Value::Object(_)) { this } else { window };
                self.add_listener(&this, &arguments, span)
            }
            "removeEventListener" => {
                let window = Value::Object(super::machine::WINDOW);
                let this = if matches!(this, Value::Object(_)) { this } else { window };
                self.remove_listener(&this, &arguments);
                Value::UNDEFINED
            }
            "dispatchEvent" if matches!(arguments.get(0), Value::Object(_)) => {
                self.dispatches(&Value::Object(super::machine::WINDOW), &first, span)?
            }
            "scrollTo" | "scrollBy" | "scroll"
                if arguments.values.len() == 1 && first.primitive().is_some() =>
            {
                let given = self.written(span);
                let write = format!("{name}(0, …)");
                return Err(self.refused(name, given, "two numbers, or an object", Some(&write), span));
            }
            "atob" | "btoa" => match self.refused_text(name, &first, span) {
                Some(stop) => return Err(stop),
                None => Value::Some("String", Doubt::Open),
            },
            "structuredClone" if self.holds_function(&first, 0) => {
                let (given, takes) = (self.written(span), "values without functions and elements in them");
                return Err(self.refused(name, given, takes, None, span));
            }
            "structuredClone" => self.cloned(&first, 0),
            "clearInterval" | "clearTimeout" | "cancelAnimationFrame" | "cancelIdleCallback" => {
                self.clear_timer(&first);
                Value::UNDEFINED
            }
            "getComputedStyle" => {
                if let Some(stop) = self.no_node(name, &first, &arguments, 0, span) {
                    return Err(stop);
                }
                self.made(Kind::Instance("CSSStyleDeclaration"))
            }
            "fetch" => {
                self.asks_for_file(&first, span);
                let response = self.made(Kind::Instance("Response"));
                self.waiting(response)
            }
            "parseInt" => {
                let base = match arguments.get(1) {
                    Value::Undefined(_) => Ok(0.0),
                    given => self.as_number(&given),
                };
                match (self.as_text(&first), base) {
                    (Ok(text), Ok(base)) => Value::Number(whole_number(&text, base)),
                    (Err(doubt), _) | (_, Err(doubt)) => Value::Some("Number", doubt),
                }
            }
            "parseFloat" => match self.as_text(&first) {
                Ok(text) => leading_number(&text),
                Err(doubt) => Value::Some("Number", doubt),
            },
            "isNaN" | "isFinite" => match self.as_number(&first) {
                Ok(own) => Value::Boolean(if name == "isNaN" { own.is_nan() } else { own.is_finite() }),
                Err(doubt) => Value::Unknown(doubt),
            },
            "encodeURIComponent" | "decodeURIComponent" | "encodeURI" | "decodeURI" => {
                if let Some(stop) = self.refused_text(name, &first, span) {
                    return Err(stop);
                }
                match (name, &first) {
                    ("encodeURIComponent", Value::Text(text)) => {
                        Value::text(&percent_encoding::utf8_percent_encode(text, COMPONENT).to_string())
                    }
                    ("decodeURIComponent", Value::Text(text)) => {
                        Value::text(&percent_encoding::percent_decode_str(text).decode_utf8_lossy())
                    }
                    _ => Value::Some("String", Doubt::Open),
                }
            }
            "matchMedia" => self.media_list(&first),
            // It is `null` in frames that are not shown alone.
            "getSelection" => self.made(Kind::Instance("Selection")),
            "prompt" => Value::VISIT,
            "confirm" => Value::A_BOOLEAN,
            _ => {
                self.hand_over_all(&arguments)?;
                platform::global(name).map_or(Value::OPEN, |member| self.typed(member.result))
            }
        })
    }

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
        if let Some(stop) = self.refused_call(of, "new", &arguments, span) {
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
                self.hand_over_all(&arguments)?;
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
        let object = self.object_mut(made);
        let is_error = matches!(object.kind, Kind::Instance(of) if platform::extends(of, "Error"));
        let is_other = matches!(object.kind, Kind::Instance("AggregateError"));
        if let (true, false, Value::Text(text)) = (is_error, is_other, arguments.get(0)) {
            object.members.insert(Arc::from("message"), Value::Text(text));
        }
    }

    /// Methods of the document, of elements and of all other interfaces.
    pub(super) fn call_platform(
        &mut self,
        of: Interface,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let is_dom = platform::extends(of, "Node");
        if !matches!(name, "addEventListener" | "removeEventListener" | "dispatchEvent") {
            // Namespaces ask for no `this`, and what formats and compares keeps its own (ECMA-402, "get format").
            let is_own = is_dom
                || !matches!(name, "format" | "compare")
                    && platform::member(of, name).is_some_and(|own| own.is_function)
                    && platform::static_member(of, name).is_none();
            let is_lost = matches!(this, Value::Undefined(_) | Value::Null(_))
                || matches!(self.kind(&this), Some(Kind::Window))
                || self.is_written_out(&this) && (is_dom || OF_THE_PAGE.contains(&of));
            if is_own && is_lost {
                return Err(self.throws(span, RunFaultKind::Detached { name: name.to_owned() }));
            }
        }
        if let Some(stop) = self.refused_platform_call(of, name, &this, &arguments, span) {
            return Err(stop);
        }
        if is_dom || of == "Selection" {
            self.refused_state(name, &this, &arguments, span)?;
        }
        if matches!(name, "contains" | "hasAttribute" | "getAttribute") {
            self.asks_by_method(name, &this, &arguments.get(0));
            if name != "getAttribute" && self.is_asked_target(&this) {
                return Ok(Value::Some("Boolean", Doubt::Open));
            }
        }
        match name {
            "getElementById"
            | "querySelector"
            | "querySelectorAll"
            | "getElementsByClassName"
            | "getElementsByTagName"
            | "getElementsByName"
                if is_dom =>
            {
                return self.look_up(name, &this, &arguments, span);
            }
            "addEventListener" => return Ok(self.add_listener(&this, &arguments, span)),
            "dispatchEvent"
                if matches!(arguments.get(0), Value::Text(_)) || self.is_written_out(&arguments.get(0)) =>
            {
                let (given, write) = match self.as_text(&arguments.get(0)) {
                    Ok(name) => (name.to_string(), Some(format!("new Event(\"{name}\")"))),
                    Err(_) => (self.written(span), Some("new Event(…)".to_owned())),
                };
                let takes = "an event".to_owned();
                let kind = RunFaultKind::RefusedArgument { method: name.to_owned(), given, takes, write };
                return Err(self.throws(span, kind));
            }
            "preventDefault" if super::platform::extends(of, "Event") => {
                if let Value::Object(id) = this {
                    self.prevents(id);
                }
                return Ok(Value::UNDEFINED);
            }
            "stopPropagation" | "stopImmediatePropagation" if super::platform::extends(of, "Event") => {
                if let Value::Object(id) = this {
                    self.stops_event(id, name == "stopImmediatePropagation");
                }
                return Ok(Value::UNDEFINED);
            }
            "removeEventListener" => {
                self.remove_listener(&this, &arguments);
                return Ok(Value::UNDEFINED);
            }
            "abort" if of == "AbortController" => {
                if let Value::Object(id) = this {
                    self.aborts(id, span)?;
                }
                return Ok(Value::UNDEFINED);
            }
            "abort" if of == "AbortSignal" => return Ok(self.new_signal(Value::Boolean(true))),
            "timeout" if of == "AbortSignal" => return Ok(self.new_signal(Value::A_BOOLEAN)),
            "throwIfAborted" if of == "AbortSignal" => {
                if let Value::Object(id) = this
                    && self.is_aborted(id) == Some(true)
                {
                    return Err(super::machine::Stop::Throw(Value::OPEN));
                }
                return Ok(Value::UNDEFINED);
            }
            "dispatchEvent" => {
                return self.dispatches(&this, &arguments.get(0), span);
            }
            "click" if matches!(self.kind(&this), Some(Kind::Element(_))) => {
                self.clicks(&this, span)?;
                return Ok(Value::UNDEFINED);
            }
            "getSelection" if matches!(self.kind(&this), Some(Kind::Document)) => {
                return Ok(self.made(Kind::Instance("Selection")));
            }
            "createHTMLDocument" if of == "DOMImplementation" => {
                return Ok(self.read_document(&Value::text(""), &Value::text("text/html")));
            }
            "observe" if matches!(of, "IntersectionObserver" | "MutationObserver" | "ResizeObserver") => {
                return self.observe(&this, &arguments, span);
            }
            "define" if of == "CustomElementRegistry" => {
                self.define_element(&arguments, span)?;
                return Ok(Value::UNDEFINED);
            }
            "whenDefined" if of == "CustomElementRegistry" => {
                return Ok(self.when_defined(&arguments.get(0)));
            }
            "postMessage" | "pushState" | "replaceState"
                if matches!(of, "BroadcastChannel" | "MessagePort" | "Worker" | "History")
                    && self.holds_function(&arguments.get(0), 0) =>
            {
                let (given, takes) = (self.written(span), "values without functions and elements in them");
                return Err(self.refused(name, given, takes, None, span));
            }
            "pushState" | "replaceState" if of == "History" => {
                let state = match self.changes_surely() {
                    true => self.cloned(&arguments.get(0), 0),
                    false => Value::OPEN,
                };
                self.globals.insert(Arc::from(super::first_visit::STATE), state);
                return Ok(Value::UNDEFINED);
            }
            "back" | "forward" | "go" if of == "History" => {
                self.globals.insert(Arc::from(super::first_visit::STATE), Value::OPEN);
                return Ok(Value::UNDEFINED);
            }
            "requestSubmit" if matches!(self.kind(&this), Some(Kind::Element(_))) => {
                if let Some(stop) = self.refused_submitter(&arguments, span) {
                    return Err(stop);
                }
            }
            "createContextualFragment" if of == "Range" => {
                if let Some(made) = self.contextual_fragment(&arguments.get(0)) {
                    return Ok(made);
                }
            }
            "parseFromString" if of == "DOMParser" => {
                return Ok(self.read_document(&arguments.get(0), &arguments.get(1)));
            }
            "nextNode" if matches!(of, "TreeWalker" | "NodeIterator") => {
                if let Value::Object(id) = this
                    && let Some(node) = self.next_node(id, of, span)?
                {
                    return Ok(node);
                }
            }
            "createTreeWalker" | "createNodeIterator" if matches!(self.kind(&this), Some(Kind::Document)) => {
                let of = if name == "createTreeWalker" { "TreeWalker" } else { "NodeIterator" };
                return Ok(self.new_walker(of, &arguments));
            }
            "open" if of == "XMLHttpRequest" => {
                if let Value::Object(id) = this {
                    self.object_mut(id).members.insert(Arc::from("#opened"), Value::NULL);
                }
            }
            "send" | "setRequestHeader" if of == "XMLHttpRequest" => {
                if let Value::Object(id) = this
                    && !self.object(id).members.contains_key("#opened")
                    && !self.object(id).is_open
                    && self.is_strong(self.object(id).born)
                    && !self.text.contains("XMLHttpRequest.prototype")
                {
                    let given = self.written(span);
                    return Err(self.refused(
                        name, given, "a request that was opened: `open(…)` comes first", None, span,
                    ));
                }
            }
            "animate" if is_dom => {
                if let Some(stop) = self.refused_animation(&arguments, span) {
                    return Err(stop);
                }
            }
            "arc" | "arcTo" | "ellipse" | "createRadialGradient" if of == "CanvasRenderingContext2D" => {
                if let Some(stop) = self.refused_radius(name, &arguments, span) {
                    return Err(stop);
                }
            }
            "format" | "formatToParts" if of == "RelativeTimeFormat" => {
                return match self.refused_unit(name, &arguments.get(1), span) {
                    Some(stop) => Err(stop),
                    None if name == "format" => Ok(Value::A_TEXT),
                    None => Ok(self.array(Vec::new(), true)),
                };
            }
            "format" if of == "DateTimeFormat" => {
                if let Some(stop) = self.refused_moment(&arguments.get(0), span) {
                    return Err(stop);
                }
                return Ok(Value::Some("String", Doubt::Bare));
            }
            "format" | "select" if matches!(of, "NumberFormat" | "PluralRules") => {
                return Ok(Value::Some("String", Doubt::Bare));
            }
            "item" | "namedItem" if matches!(self.kind(&this), Some(Kind::List(..))) => {
                let key = self.as_text(&arguments.get(0)).ok();
                // What is not there is `null` by these.
                return Ok(match self.member_at(&this, key.as_ref(), span)? {
                    Value::Undefined(absence) => Value::Null(absence),
                    value => value,
                });
            }
            "addListener" if of == "MediaQueryList" => {
                self.later(
                    arguments.get(0),
                    vec![Value::OPEN],
                    super::machine::Turn::Visitor,
                    Certainty::SomeVisit,
                    span,
                );
                return Ok(Value::UNDEFINED);
            }
            _ => {}
        }
        if let Some(Kind::Tokens(element)) = self.kind(&this).cloned() {
            return self.call_tokens(name, element, &arguments, span);
        }
        if let Some(Kind::Style) = self.kind(&this) {
            return Ok(self.call_style(name, &arguments, span));
        }
        if let Value::Object(id) = this {
            if let (Kind::Instance("FormData"), "forEach", false) =
                (&self.object(id).kind, name, self.object(id).is_open)
                && let Some(done) = self.each_of_form(id, &arguments, span)?
            {
                return Ok(done);
            }
            let found = match self.object(id).kind {
                Kind::Instance("Storage") => self.call_storage(name, id, &arguments),
                Kind::Instance("URLSearchParams") => self.call_parameters(name, id, &arguments),
                Kind::Instance("FormData") => self.call_form_data(name, id, &arguments),
                _ => None,
            };
            if let Some(found) = found {
                return Ok(found);
            }
            if let Kind::Instance("MutationObserver") = self.object(id).kind
                && let Some(found) = self.call_watch(name, id, span)?
            {
                return Ok(found);
            }
            if let Kind::Instance("CSSStyleSheet") = self.object(id).kind
                && let Some(found) = self.call_sheet(name, id, &arguments, span)?
            {
                return Ok(found);
            }
            if let Kind::Instance("Map" | "Set" | "WeakMap" | "WeakSet") = self.object(id).kind
                && let Some(found) = self.call_collection(name, id, &arguments, span)?
            {
                return Ok(found);
            }
        }
        if is_dom && let Some(value) = self.call_node(name, &this, &arguments, span)? {
            return Ok(value);
        }
        // What the platform does to elements is told by `called`.
        let is_own = is_dom && platform::member(of, name).is_some();
        for value in &arguments.values {
            if !is_own || self.node_of(value).is_none() {
                self.hand_over(value)?;
            }
        }
        if name == "forEach" {
            // What is in it differs from visit to visit.
            let function = arguments.get(0);
            self.later(
                function,
                vec![Value::OPEN, Value::OPEN],
                super::machine::Turn::Microtask,
                Certainty::SomeVisit,
                span,
            );
        }
        if of == "RegExp" && matches!(name, "exec" | "test") {
            return Ok(self.match_expression(name, &this, &arguments.get(0)));
        }
        let known = platform::member(of, name).or_else(|| platform::static_member(of, name));
        // What the page has is the same on each visit, and so are data that the script makes.
        const OF_PAGE: &[&str] = &[
            "closest", "compareDocumentPosition", "contains", "getAttribute", "getAttributeNames",
            "hasAttribute", "hasAttributes", "hasChildNodes", "isEqualNode", "isSameNode", "matches",
        ];
        let is_of_page = super::members::DATA.contains(&of) || is_dom && OF_PAGE.contains(&name);
        let value = known.map_or(Value::OPEN, |member| self.typed(member.result));
        Ok(if is_of_page { value.of_page() } else { value })
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

    /// Whether a value is a BigInt, or has one in it.
    pub(super) fn holds_big(&self, value: &Value, depth: u32) -> bool {
        let Value::Object(id) = value else { return value.primitive() == Some("BigInt") };
        let object = self.object(*id);
        match &object.kind {
            Kind::Plain if depth < 5 => object.members.values().any(|own| self.holds_big(own, depth + 1)),
            Kind::Array(items) if depth < 5 => items.iter().any(|own| self.holds_big(own, depth + 1)),
            _ => false,
        }
    }

    pub(super) fn node_of(&self, value: &Value) -> Option<Node> {
        match self.kind(value) {
            Some(Kind::Element(node)) => Some(*node),
            _ => None,
        }
    }
}
