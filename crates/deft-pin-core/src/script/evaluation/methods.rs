//! Functions of the platform: of the window, the document and elements (HTML, DOM, CSSOM).

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::platform::{self, Interface};
use super::value::{Certainty, Doubt, Kind, Node, Value};
use crate::source::Span;

/// Interfaces whose methods take nothing else for `this`.
const OF_THE_PAGE: &[&str] = &[
    "Crypto", "DOMTokenList", "FormData", "Headers", "History", "Location", "MediaQueryList", "Navigator",
    "Performance", "Storage", "URLSearchParams",
];

impl Machine<'_> {
    /// Whether a value is an object that is written out, and nothing else.
    pub(super) fn is_written_out(&self, value: &Value) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        matches!(object.kind, Kind::Plain) && object.parent.is_none() && !object.is_open
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
            "get" if of == "CustomElementRegistry" => return Ok(self.class_of_tag(&arguments.get(0))),
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
            "select" if let Some(plural) = self.plural_of(&this, &arguments.get(0)) => return Ok(plural),
            "measure" if of == "Performance" => {
                if let Some(stop) = self.refused_measure(&arguments, span) {
                    return Err(stop);
                }
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
            if let Some(stop) = self.refused_style(id, name, span) {
                return Err(stop);
            }
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
        // The first of several functions is the one that ordinary visits call.
        let is_function = |value: &Value| matches!(self.kind(value), Some(Kind::Function(_)));
        let called = arguments.values.iter().position(is_function);
        for (at, value) in arguments.values.iter().enumerate() {
            match is_own && self.node_of(value).is_some() {
                true => {}
                false if called == Some(at) => self.hand_to_caller(value)?,
                false => self.hand_over(value)?,
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
        let is_of_page = super::platform_members::DATA.contains(&of) || is_dom && OF_PAGE.contains(&name);
        let value = known.map_or(Value::OPEN, |member| self.typed(member.result));
        Ok(if is_of_page { value.of_page() } else { value })
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
