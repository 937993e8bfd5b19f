//! Functions of the platform: of the window, the document and elements (HTML, DOM, CSSOM).

use std::sync::Arc;

use super::expressions::Arguments;
use super::fault::RunFaultKind;
use super::lookups::matches_any;
use super::machine::{Machine, Run};
use super::platform::{self, Interface};
use super::value::{Absence, Certainty, Doubt, Kind, Node, ObjectId, Value};
use crate::markup::{Assume, Matcher, NamedPart, parse_selectors};
use crate::source::Span;
use crate::style;

/// Constructors that may be called without `new`.
const MAY_BE_CALLED: &[&str] = &[
    "AggregateError", "Array", "BigInt", "Boolean", "Date", "Error", "EvalError", "Function", "Number",
    "Object", "RangeError", "ReferenceError", "RegExp", "String", "Symbol", "SyntaxError", "TypeError",
    "URIError",
];

impl Machine<'_> {
    pub(super) fn call_window(
        &mut self,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let first = arguments.get(0);
        Ok(match name {
            "setTimeout"
            | "setInterval"
            | "requestAnimationFrame"
            | "requestIdleCallback"
            | "queueMicrotask" => self.call_timer(name, &arguments, span)?,
            "addEventListener" => {
                let window = Value::Object(super::machine::WINDOW);
                let this = if matches!(this, Value::Object(_)) { this } else { window };
                self.add_listener(&this, &arguments, span)
            }
            "getComputedStyle" => {
                if let Some(stop) = self.no_node(name, &first, &arguments, 0, span) {
                    return Err(stop);
                }
                let made = self.make(Kind::Instance("CSSStyleDeclaration"));
                self.object_mut(made).is_open = true;
                Value::Object(made)
            }
            "fetch" => {
                let response = self.made(Kind::Instance("Response"));
                self.waiting(response)
            }
            "parseInt" | "parseFloat" => match self.as_text(&first) {
                Ok(text) => leading_number(&text, name == "parseInt"),
                Err(doubt) => Value::Some("Number", doubt),
            },
            "isNaN" | "isFinite" => match self.as_number(&first) {
                Ok(own) => Value::Boolean(if name == "isNaN" { own.is_nan() } else { own.is_finite() }),
                Err(doubt) => Value::Unknown(doubt),
            },
            "encodeURIComponent" | "decodeURIComponent" | "encodeURI" | "decodeURI" => {
                Value::Some("String", Doubt::Open)
            }
            "prompt" => Value::VISIT,
            "confirm" => Value::A_BOOLEAN,
            _ => {
                for value in &arguments.values {
                    self.hand_over(value)?;
                }
                platform::global(name).map_or(Value::OPEN, |member| self.typed(member.result))
            }
        })
    }

    /// A constructor that is called without `new`.
    pub(super) fn call_constructor(&mut self, of: Interface, arguments: Arguments, span: Span) -> Run<Value> {
        let first = arguments.get(0);
        Ok(match of {
            "String" if arguments.values.is_empty() => Value::text(""),
            "String" => match self.as_text(&first) {
                Ok(text) => Value::Text(text),
                Err(doubt) => Value::Some("String", doubt),
            },
            "Number" => self.number_value(&first),
            "Boolean" => match first.truth() {
                Ok(truth) => Value::Boolean(truth),
                Err(doubt) => Value::Some("Boolean", doubt),
            },
            "Array" | "Error" | "Object" | "RegExp" | "Function" => {
                return self.construct_platform(of, arguments, span);
            }
            "Date" => Value::A_TEXT,
            _ if !MAY_BE_CALLED.contains(&of) => {
                let what = format!("{of}` without `new");
                return Err(self.throws(span, RunFaultKind::NotAFunction { what }));
            }
            _ => {
                for value in &arguments.values {
                    self.hand_over(value)?;
                }
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
                    self.array(vec![Value::UNDEFINED; length as usize], false)
                }
                ([_], _) => self.array(Vec::new(), true),
                _ => self.array(arguments.values, arguments.is_open),
            },
            "Object" if arguments.values.is_empty() => self.made(Kind::Plain),
            "IntersectionObserver" | "MutationObserver" | "ResizeObserver" | "PerformanceObserver" => {
                self.new_observer(of, &arguments, span)?
            }
            "Image" | "Audio" | "Option" => {
                let tag = match of {
                    "Image" => "img",
                    "Audio" => "audio",
                    _ => "option",
                };
                self.make_element(tag)
            }
            "Function" | "Proxy" | "Object" | "String" | "Number" | "Boolean" => Value::OPEN,
            "RegExp" => match self.as_text(&arguments.get(0)) {
                Ok(_) => self.made(Kind::RegExp),
                Err(_) => Value::OPEN,
            },
            _ => {
                for value in &arguments.values {
                    self.hand_over(value)?;
                }
                let made = self.make(Kind::Instance(of));
                // Errors carry what they were given, and events what was put into them.
                self.object_mut(made).is_open =
                    platform::extends(of, "Error") || platform::extends(of, "Event");
                Value::Object(made)
            }
        })
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
        if is_dom && !matches!(name, "addEventListener" | "removeEventListener" | "dispatchEvent") {
            let is_lost = matches!(this, Value::Undefined(_) | Value::Null(_))
                || matches!(self.kind(&this), Some(Kind::Window));
            if is_lost {
                return Err(self.throws(span, RunFaultKind::Detached { name: name.to_owned() }));
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
            "dispatchEvent" if matches!(arguments.get(0), Value::Text(_)) => {
                let given = self.as_text(&arguments.get(0)).unwrap_or_default().to_string();
                let write = Some(format!("new Event(\"{given}\")"));
                let takes = "an event".to_owned();
                let kind = RunFaultKind::RefusedArgument { method: name.to_owned(), given, takes, write };
                return Err(self.throws(span, kind));
            }
            "observe" if matches!(of, "IntersectionObserver" | "MutationObserver" | "ResizeObserver") => {
                return self.observe(&this, &arguments, span);
            }
            "define" if of == "CustomElementRegistry" => {
                self.define_element(&arguments, span)?;
                return Ok(Value::UNDEFINED);
            }
            "item" if matches!(self.kind(&this), Some(Kind::List(..))) => {
                let key = self.as_text(&arguments.get(0)).ok();
                return self.member_at(&this, key.as_ref(), span);
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
        if is_dom && let Some(value) = self.call_node(name, &this, &arguments, span)? {
            return Ok(value);
        }
        for value in &arguments.values {
            self.hand_over(value)?;
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
        // Whether a text has what is looked for differs from text to text.
        match (of, name) {
            ("RegExp", "exec") => return Ok(Value::VISIT),
            ("RegExp", "test") => return Ok(Value::A_BOOLEAN),
            _ => {}
        }
        let known = platform::member(of, name).or_else(|| platform::static_member(of, name));
        Ok(known.map_or(Value::OPEN, |member| self.typed(member.result)))
    }

    /// `customElements.define`: elements of the page that are there become ones of the class.
    fn define_element(&mut self, arguments: &Arguments, span: Span) -> Run<()> {
        let class = arguments.get(1);
        let (Ok(tag), Some(Kind::Class(id, environment))) =
            (self.as_text(&arguments.get(0)), self.kind(&class).cloned())
        else {
            return self.hand_over(&class);
        };
        let document = self.world.document();
        let until = self.world.parsed_until().filter(|_| !self.is_later);
        let is_there = document.elements().any(|own| {
            *own.data().name.local == *tag && until.is_none_or(|until| own.data().start() < until)
        });
        let certainty = if is_there { Certainty::Certain } else { Certainty::Perhaps };
        let result = self.perhaps(certainty, |this| {
            let made = this.instance(id, environment, Arguments::default(), span)?;
            if let Value::Object(id) = made {
                this.object_mut(id).is_open = true;
            }
            let key = Self::name("connectedCallback");
            let connected = this.member_at(&made, Some(&key), span)?;
            if matches!(this.kind(&connected), Some(Kind::Function(_))) {
                this.call(&connected, made, Arguments::default(), span)?;
            }
            Ok(())
        });
        match result {
            Err(super::machine::Stop::Halt) => Err(super::machine::Stop::Halt),
            // It is reported, and the script goes on.
            _ => Ok(()),
        }
    }

    fn node_of(&self, value: &Value) -> Option<Node> {
        match self.kind(value) {
            Some(Kind::Element(node)) => Some(*node),
            _ => None,
        }
    }

    /// Methods that change or ask the tree.
    fn call_node(
        &mut self,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        let first = arguments.get(0);
        let node = self.node_of(this);
        Ok(Some(match name {
            "createElement" => match self.as_text(&first) {
                Ok(tag) if is_tag(&tag) => self.make_element(&tag),
                Ok(tag) => {
                    let bare: String =
                        tag.chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-').collect();
                    let kind = RunFaultKind::RefusedArgument {
                        method: name.to_owned(),
                        given: tag.to_string(),
                        takes: "the name of a tag".to_owned(),
                        write: is_tag(&bare).then_some(bare),
                    };
                    return Err(self.throws(span, kind));
                }
                Err(_) => {
                    self.touched.anything = true;
                    self.made(Kind::Instance("HTMLElement"))
                }
            },
            "createElementNS" => {
                self.touched.anything = true;
                self.made(Kind::Instance("Element"))
            }
            "append"
            | "prepend"
            | "before"
            | "after"
            | "replaceWith"
            | "replaceChildren"
            | "appendChild"
            | "insertBefore"
            | "replaceChild"
            | "removeChild"
            | "insertAdjacentElement" => self.moves(name, node, this, arguments, span)?,
            "insertAdjacentHTML" => {
                self.brings_markup(&arguments.get(1));
                Value::UNDEFINED
            }
            "write" | "writeln" => {
                self.brings_markup(&first);
                Value::UNDEFINED
            }
            "remove" => {
                if let Some(Node::Page(page)) = node {
                    self.gone.push((page, true));
                    if self.gone.len() > 500 {
                        self.touched.is_moved = true;
                        self.gone.clear();
                    }
                }
                self.found.clear();
                Value::UNDEFINED
            }
            "setAttribute" | "toggleAttribute" => {
                match self.as_text(&first) {
                    Ok(key) if &*key == "id" => self.gives_names(&arguments.get(1), true),
                    Ok(key) if &*key == "class" => self.gives_names(&arguments.get(1), false),
                    Ok(key) if platform::member("HTMLElement", &key).is_some() && key.starts_with("on") => {
                        self.code_in_text(&arguments.get(1), Certainty::SomeVisit, span)?;
                    }
                    Ok(key) => {
                        self.touched.attributes.insert(key);
                    }
                    Err(_) => self.touched.anything = true,
                }
                self.found.clear();
                Value::UNDEFINED
            }
            "removeAttribute" => {
                if let Ok(key) = self.as_text(&first) {
                    self.touched.attributes.insert(key);
                }
                self.touched.is_moved = true;
                self.found.clear();
                Value::UNDEFINED
            }
            "getAttribute" => match (node, self.as_text(&first)) {
                (Some(node), Ok(name)) => self.attribute(node, &name),
                _ => Value::OPEN,
            },
            "hasAttribute" => match (node, self.as_text(&first)) {
                (Some(node), Ok(name)) => match self.attribute(node, &name) {
                    Value::Text(_) => Value::Boolean(true),
                    Value::Null(_) => Value::Boolean(false),
                    _ => Value::OPEN,
                },
                _ => Value::OPEN,
            },
            "closest" | "matches" => return self.ask_selector(name, node, &first, span).map(Some),
            "cloneNode" => {
                self.touched.anything = true;
                match self.kind(this) {
                    Some(Kind::Element(_)) => self.made(Kind::Instance("HTMLElement")),
                    Some(Kind::Instance(of)) => {
                        let of = *of;
                        self.made(Kind::Instance(of))
                    }
                    _ => Value::OPEN,
                }
            }
            "importNode" | "adoptNode" => {
                self.touched.anything = true;
                Value::OPEN
            }
            "getContext" | "attachShadow" => Value::OPEN,
            _ => return Ok(None),
        }))
    }

    /// Puts nodes somewhere.
    fn moves(
        &mut self,
        name: &str,
        node: Option<Node>,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        self.found.clear();
        let takes_nodes = matches!(name, "appendChild" | "insertBefore" | "replaceChild" | "removeChild");
        if takes_nodes && let Some(stop) = self.no_node(name, &arguments.get(0), arguments, 0, span) {
            return Err(stop);
        }
        if name == "insertAdjacentElement"
            && let Some(stop) = self.no_node(name, &arguments.get(1), arguments, 1, span)
        {
            return Err(stop);
        }
        for (at, value) in arguments.values.iter().enumerate() {
            if let Some(Node::Page(_)) = self.node_of(value)
                && !(name == "insertBefore" && at == 1)
            {
                self.touched.is_moved = true;
            }
            if matches!(self.kind(value), Some(Kind::Instance(_))) && name != "removeChild" {
                self.touched.anything |= !matches!(self.kind(value), Some(Kind::Instance("Text")));
            }
            if value.doubt().is_some() && name != "removeChild" {
                self.touched.anything = true;
            }
        }
        if matches!(name, "replaceChildren" | "replaceWith")
            && let Some(Node::Page(page)) = node
        {
            self.gone.push((page, name == "replaceWith"));
        }
        let _ = this;
        Ok(match name {
            "appendChild" | "insertBefore" | "removeChild" => arguments.get(0),
            "replaceChild" | "insertAdjacentElement" => arguments.get(1),
            _ => Value::UNDEFINED,
        })
    }

    /// `closest` and `matches`.
    fn ask_selector(&mut self, name: &str, node: Option<Node>, given: &Value, span: Span) -> Run<Value> {
        let Ok(text) = self.as_text(given) else { return Ok(Value::OPEN) };
        let selectors = match parse_selectors(&text) {
            Ok(selectors) => selectors,
            Err(error) => {
                let kind = RunFaultKind::RefusedArgument {
                    method: name.to_owned(),
                    given: text.to_string(),
                    takes: format!("a selector: {error}"),
                    write: None,
                };
                return Err(self.throws(span, kind));
            }
        };
        let Some(Node::Page(node)) = node else {
            // Of what a visitor comes to there are those that match.
            let document = self.world.document();
            let mut matcher = Matcher::new();
            let is_there = document
                .elements()
                .any(|element| matches_any(&mut matcher, &selectors, element, Assume::Must, None));
            return Ok(match (name, is_there) {
                ("closest", true) => self.made(Kind::Instance("HTMLElement")),
                ("matches", _) => Value::A_BOOLEAN,
                _ => Value::OPEN,
            });
        };
        let is_changed = self.touched.is_moved
            || self.touched.anything
            || !self.touched.classes.is_empty()
            || !self.touched.taken.is_empty()
            || !self.touched.attributes.is_empty()
            || !self.touched.ids.is_empty();
        if is_changed || self.world.may_be_made(&selectors, self.is_later) {
            return Ok(Value::OPEN);
        }
        let document = self.world.document();
        let mut at = document.element(node);
        let mut matcher = Matcher::new();
        while let Some(element) = at {
            let may = matches_any(&mut matcher, &selectors, element, Assume::May, None);
            let must = may && matches_any(&mut matcher, &selectors, element, Assume::Must, None);
            match (name, may, must) {
                (_, true, false) => return Ok(Value::OPEN),
                ("matches", may, _) => return Ok(Value::Boolean(may)),
                (_, true, true) => {
                    let found = element.id;
                    return Ok(self.page_element(found));
                }
                _ => at = element.parent(),
            }
        }
        Ok(Value::Null(Some(self.absent(Absence::Element {
            selector: text.to_string(),
            span,
            is_early: false,
        }))))
    }

    /// `classList` and its like.
    fn call_tokens(
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
        }
        let first = arguments.get(0);
        Ok(match name {
            "add" | "toggle" | "replace" | "remove" => {
                for (at, value) in arguments.values.iter().enumerate() {
                    let is_flag = name == "toggle" && at == 1;
                    if is_flag {
                        continue;
                    }
                    if name != "remove" {
                        self.gives_names(value, false);
                    }
                    if name != "add"
                        && let Ok(text) = self.as_text(value)
                    {
                        self.touched.taken.insert(text);
                    }
                }
                self.found.clear();
                if name == "toggle" { Value::A_BOOLEAN } else { Value::UNDEFINED }
            }
            "contains" => match (node, self.as_text(&first)) {
                (Some(Node::Page(_)), Ok(class)) => {
                    let is_changed = self.touched.classes.contains(&class)
                        || self.touched.taken.contains(&class)
                        || self.touched.anything
                        || self.world.mentions(&class);
                    let has = node
                        .and_then(|node| self.page_node(node))
                        .is_some_and(|element| NamedPart::Class((&*class).into()).is_of(element.data()));
                    if is_changed { Value::A_BOOLEAN } else { Value::Boolean(has) }
                }
                _ => Value::OPEN,
            },
            "forEach" => {
                self.hand_over(&first)?;
                Value::UNDEFINED
            }
            _ => Value::OPEN,
        })
    }

    fn check_class(&mut self, name: &str, text: &str, span: Span) -> Run<()> {
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

    fn call_style(&mut self, name: &str, arguments: &Arguments, span: Span) -> Value {
        if name != "setProperty" {
            return Value::A_TEXT;
        }
        let Ok(property) = self.as_text(&arguments.get(0)) else { return Value::UNDEFINED };
        if property.starts_with("--") {
            return Value::UNDEFINED;
        }
        if !style::is_property(&property.to_ascii_lowercase()) {
            let dashed = super::elements::property_of(&property);
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
        } else if let Ok(text) = self.as_text(&arguments.get(1)) {
            self.check_style_value("style.setProperty", &property, &text, span);
        }
        Value::UNDEFINED
    }
}

/// Whether a text may be the name of an element (DOM, "valid element local name").
fn is_tag(tag: &str) -> bool {
    tag.starts_with(|c: char| c.is_alphabetic() || matches!(c, '_' | ':'))
        && !tag.contains(|c: char| c.is_whitespace() || matches!(c, '<' | '>' | '/' | '"' | '\'' | '='))
}

/// `parseInt` and `parseFloat`: the number that a text begins with.
fn leading_number(text: &str, is_whole: bool) -> Value {
    let text = text.trim_start();
    let end = text
        .char_indices()
        .take_while(|(at, c)| {
            c.is_ascii_digit() || (*at == 0 && matches!(c, '-' | '+')) || (*c == '.' && !is_whole)
        })
        .map(|(at, c)| at + c.len_utf8())
        .last()
        .unwrap_or(0);
    if text[..end].matches('.').count() > 1 || text[end..].starts_with(['x', 'X', 'e', 'E']) {
        return Value::OPEN;
    }
    Value::Number(text[..end].trim_end_matches('.').parse().unwrap_or(f64::NAN))
}
