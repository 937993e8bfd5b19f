//! jQuery's sets of elements: what `$` finds, and what is done to it.

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop, Turn};
use super::piece::shape_of;
use super::query_grammar::{Refusal, refusal};
use super::query_has::{SETS, is_of_elements};
use super::selector_checks::mended;
use super::value::{Absence, AbsenceId, Certainty, Kind, Value};
use crate::markup::parse_selectors;
use crate::source::Span;

/// Methods that give the set back that they are called on.
const SAME_SET: &[&str] = &[
    "addClass", "after", "ajaxComplete", "ajaxError", "ajaxSend", "ajaxStart", "ajaxStop", "ajaxSuccess",
    "animate", "append", "appendTo", "before", "bind", "blur", "change", "clearQueue", "click",
    "contextmenu", "css", "dblclick", "delay", "delegate", "dequeue", "detach", "die", "each", "empty",
    "error", "fadeIn", "fadeOut", "fadeTo", "fadeToggle", "finish", "focus", "focusin", "focusout", "height",
    "hide", "hover", "html", "innerHeight", "innerWidth", "insertAfter", "insertBefore", "keydown",
    "keypress", "keyup", "live", "load", "mousedown", "mouseenter", "mouseleave", "mousemove", "mouseout",
    "mouseover", "mouseup", "off", "offset", "on", "one", "outerHeight", "outerWidth", "prepend",
    "prependTo", "prop", "attr", "data", "val", "text", "promise", "queue", "ready", "remove", "removeAttr",
    "removeClass", "removeData", "removeProp", "replaceAll", "replaceWith", "resize", "scroll", "scrollLeft",
    "scrollTop", "select", "show", "slideDown", "slideToggle", "slideUp", "stop", "submit", "toggle",
    "toggleClass", "trigger", "triggerHandler", "unbind", "undelegate", "unload", "unwrap", "width", "wrap",
    "wrapAll", "wrapInner", "pushStack", "extend", "uniqueSort",
];

/// Methods that give another set.
const OTHER_SET: &[&str] = &[
    "add", "addBack", "andSelf", "children", "clone", "closest", "contents", "end", "eq", "even", "filter",
    "find", "first", "has", "last", "map", "next", "nextAll", "nextUntil", "not", "odd", "offsetParent",
    "parent", "parents", "parentsUntil", "prev", "prevAll", "prevUntil", "siblings", "slice",
];

/// Methods that give something else.
const OTHER_VALUE: &[&str] = &[
    "get", "hasClass", "index", "is", "position", "serialize", "serializeArray", "size", "toArray", "jquery",
    "length", "context", "selector", "constructor", "push", "sort", "splice", "init", "domManip",
];

/// Methods that do nothing where a set is empty, and are called for what they do.
const DEEDS: &[&str] = &[
    "addClass", "after", "animate", "append", "appendTo", "before", "blur", "click", "change", "empty",
    "fadeIn", "fadeOut", "fadeTo", "fadeToggle", "focus", "hide", "hover", "insertAfter", "insertBefore",
    "on", "one", "bind", "prepend", "prependTo", "remove", "removeAttr", "removeClass", "replaceWith",
    "show", "slideDown", "slideToggle", "slideUp", "submit", "toggle", "toggleClass", "trigger", "wrap",
    "wrapAll", "wrapInner", "each", "css", "html", "text", "attr", "prop", "val", "height", "width", "keyup",
    "keydown", "mouseenter", "mouseleave", "mouseover",
];

/// Whether sets of jQuery, and of those that are like it, have a method of that name.
pub(super) fn is_method_of_sets(name: &str) -> bool {
    [SAME_SET, OTHER_SET, OTHER_VALUE].iter().any(|names| names.contains(&name))
}

/// Where the set is kept that another was led to from.
const BEFORE: &str = "#before";

/// Those of them that only ask where they are given this many arguments or fewer.
pub(super) fn asks(name: &str, arguments: usize) -> bool {
    match name {
        "html" | "text" | "val" | "height" | "width" | "scrollTop" | "scrollLeft" | "innerHeight"
        | "innerWidth" | "outerHeight" | "outerWidth" => arguments == 0,
        "css" | "attr" | "prop" => arguments <= 1,
        _ => false,
    }
}

impl Machine<'_> {
    /// `$(…)`.
    pub(super) fn call_query(&mut self, arguments: Arguments, span: Span) -> Run<Value> {
        let first = arguments.get(0);
        match self.kind(&first).cloned() {
            Some(Kind::Function(_) | Kind::Bound(..)) => {
                self.ready(first, span);
                return Ok(self.query(None, None));
            }
            Some(Kind::Element(_) | Kind::Document | Kind::Window) => {
                return Ok(self.query(Some(vec![first]), None));
            }
            Some(Kind::Query(..)) => return Ok(first),
            Some(_) => return Ok(self.query(None, None)),
            None => {}
        }
        if let Value::Pieced(pieces, _) = &first
            && shape_of(pieces).trim_start().starts_with('<')
        {
            self.brings_markup(&first);
            let made = self.made_by_query(&first, &arguments.get(1));
            return Ok(self.query(made, None));
        }
        let Value::Text(text) = &first else {
            return Ok(match &first {
                Value::Null(_) | Value::Undefined(_) | Value::Boolean(false) => {
                    self.query(Some(Vec::new()), None)
                }
                _ => self.query(None, None),
            });
        };
        let text = text.trim();
        if text.starts_with('<') {
            self.brings_markup(&first);
            if let Some(Kind::Plain) = self.kind(&arguments.get(1)) {
                self.names_of_attributes(&arguments.get(1));
            }
            let made = self.made_by_query(&first, &arguments.get(1));
            return Ok(self.query(made, None));
        }
        if arguments.values.len() > 1 && !matches!(self.kind(&arguments.get(1)), Some(Kind::Document)) {
            return Ok(self.query(None, None));
        }
        self.query_found(None, text, span)
    }

    /// A set of the elements that a selector finds.
    pub(super) fn query_found(
        &mut self,
        scope: Option<super::value::Node>,
        text: &str,
        span: Span,
    ) -> Run<Value> {
        let Ok(selectors) = parse_selectors(text) else {
            if let Some(stop) = self.refused_by_query("$", text, span)? {
                return Err(stop);
            }
            let within = match scope.map(|node| self.present_node(node)) {
                Some(None) => return Ok(self.query(None, None)),
                Some(Some(id)) => Some(id),
                None => None,
            };
            let found = self.found_by_query(within, text);
            return Ok(self.query_of_found(found, text, span));
        };
        let list = self.find(scope, text, &selectors, Some("NodeList"), span)?;
        let Value::Object(id) = list else { return Ok(self.query(None, None)) };
        let (is_open, absence) = (self.object(id).is_open, self.absence_of_item(&list));
        let elements = match &self.object(id).kind {
            Kind::List(_, items) if !is_open => Some(items.clone()),
            _ => None,
        };
        Ok(self.query(elements, absence))
    }

    /// A set of elements that were found by a selector of jQuery's own.
    pub(super) fn query_of_found(
        &mut self,
        found: Option<Vec<crate::markup::NodeId>>,
        text: &str,
        span: Span,
    ) -> Value {
        let Some(found) = found else { return self.query(None, None) };
        if found.is_empty() && self.others_may_change() {
            return self.query(None, None);
        }
        let absence =
            found.is_empty().then(|| Absence::Element { selector: text.to_owned(), span, is_early: false });
        let absence = absence.map(|absence| self.absent(absence));
        let elements = found.into_iter().take(300).map(|id| self.present_value(id)).collect();
        self.query(Some(elements), absence)
    }

    pub(super) fn query(&mut self, elements: Option<Vec<Value>>, absence: Option<AbsenceId>) -> Value {
        self.made(Kind::Query(elements, absence))
    }

    /// What is called once the page is parsed, or at once where it is.
    pub(super) fn ready(&mut self, function: Value, span: Span) {
        let query = self.made(Kind::QueryFunction);
        self.later_on(
            function,
            Value::Object(super::machine::DOCUMENT),
            vec![query],
            Turn::Parsed,
            Certainty::Certain,
            span,
        );
    }

    /// A member of a set.
    pub(super) fn query_member(
        &mut self,
        elements: Option<Vec<Value>>,
        absence: Option<AbsenceId>,
        key: &Arc<str>,
    ) -> Value {
        if let Ok(at) = key.parse::<usize>() {
            return match &elements {
                None => Value::OPEN,
                Some(elements) => elements.get(at).cloned().unwrap_or(Value::Undefined(absence)),
            };
        }
        let name = &**key;
        if name == "length" {
            return elements.map_or(Value::A_NUMBER, |own| Value::Number(own.len() as f64));
        }
        if let Some(own) = self.query_plugin(name) {
            return own;
        }
        if is_method_of_sets(name) {
            return self.made(Kind::QueryMethod(Arc::clone(key)));
        }
        match self.may_be_of_sets(name) {
            true => Value::OPEN,
            false => {
                let of = if is_of_elements(name) { SETS } else { "jQuery" };
                Value::Undefined(Some(self.absent(Absence::Member { of, name: Arc::clone(key) })))
            }
        }
    }

    /// A method of a set. What it leads to knows where it came from.
    pub(super) fn call_query_method(
        &mut self,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        if name == "end" {
            let Value::Object(id) = this else { return Ok(self.query(None, None)) };
            return Ok(match self.object(id).members.get(BEFORE).cloned() {
                Some(before) => before,
                None => self.query(None, None),
            });
        }
        let result = self.query_method(name, this.clone(), arguments, span)?;
        if let (true, Value::Object(id)) = (OTHER_SET.contains(&name), &result)
            && matches!(self.object(*id).kind, Kind::Query(..))
            && !matches!(&this, Value::Object(own) if own == id)
        {
            self.object_mut(*id).members.insert(Arc::from(BEFORE), this);
        }
        Ok(result)
    }

    fn query_method(&mut self, name: &str, this: Value, arguments: Arguments, span: Span) -> Run<Value> {
        let Some(Kind::Query(elements, absence)) = self.kind(&this).cloned() else {
            self.hand_over_all(&arguments)?;
            return Ok(self.query(None, None));
        };
        let is_empty = elements.as_ref().is_some_and(Vec::is_empty);
        if is_empty && DEEDS.contains(&name) && !asks(name, arguments.values.len()) {
            if let Some(Absence::Element { selector, span, .. }) =
                absence.and_then(|id| self.absences.get(id.0 as usize)).cloned()
            {
                self.note(span, RunFaultKind::EmptySet { selector, near: None });
            }
            return Ok(this);
        }
        if let Some(stop) = self.gone_from_query(name, &arguments, span) {
            return Err(stop);
        }
        if let Some(own) = elements.as_deref().filter(|own| !own.is_empty())
            && let Some(value) = self.query_value(name, own, &arguments, span)?
        {
            return Ok(value);
        }
        if matches!(name, "toArray") || name == "get" && arguments.values.is_empty() {
            return Ok(self.array(Vec::new(), !is_empty));
        }
        if matches!(name, "appendTo" | "prependTo" | "insertBefore" | "insertAfter")
            && let Value::Text(selector) = arguments.get(0)
            && !selector.trim_start().starts_with('<')
        {
            // What is found by it takes in the set: where nothing is, nothing comes of that.
            let to = self.query_found(None, &selector, span)?;
            if let Some(Kind::Query(Some(found), Some(absence))) = self.kind(&to).cloned()
                && found.is_empty()
                && let Some(Absence::Element { selector, .. }) =
                    self.absences.get(absence.0 as usize).cloned()
            {
                self.note(span, RunFaultKind::EmptySet { selector, near: None });
            }
        }
        self.query_asks_each(name, elements.as_deref(), &arguments, span)?;
        self.query_effects(name, &arguments);
        self.query_changes(name, elements.as_deref(), &arguments, span)?;
        let only = match elements.as_deref() {
            Some([only]) => Some(only.clone()),
            _ => None,
        };
        match name {
            "ready" => {
                self.ready(arguments.get(0), span);
                return Ok(this);
            }
            "each" => {
                let elements = elements.unwrap_or_default();
                for (at, element) in elements.iter().take(50).enumerate() {
                    let given = Arguments::of(vec![Value::Number(at as f64), element.clone()]);
                    let answer = self.call(&arguments.get(0), element.clone(), given, span)?;
                    if !self.goes_on(&answer, &arguments.get(0))? {
                        return Ok(this);
                    }
                }
                if elements.is_empty() {
                    self.hand_over(&arguments.get(0))?;
                }
                return Ok(this);
            }
            "get" => {
                return Ok(match (elements, self.as_number(&arguments.get(0))) {
                    (Some(own), Ok(at)) => {
                        let at = if at < 0.0 { own.len() as f64 + at } else { at };
                        let found = if at < 0.0 { None } else { own.get(at as usize) };
                        found.cloned().unwrap_or(Value::Undefined(absence))
                    }
                    _ => Value::OPEN,
                });
            }
            _ if let Some(found) = self.query_way(name, elements.as_deref(), &arguments, span)? => {
                return Ok(found);
            }
            "find" => {
                if let (Some(Value::Object(id)), Ok(text)) = (&only, self.as_text(&arguments.get(0)))
                    && let Kind::Element(node) = self.object(*id).kind
                {
                    return self.query_found(Some(node), &text, span);
                }
                if !is_empty {
                    return Ok(self.query(None, None));
                }
                return Ok(this);
            }
            "text" if is_empty && arguments.values.is_empty() => return Ok(Value::text("")),
            // From nothing no way leads anywhere.
            _ if is_empty && OTHER_SET.contains(&name) && !matches!(name, "add" | "addBack" | "andSelf") => {
                return Ok(self.query(Some(Vec::new()), absence));
            }
            "hasClass" | "is" | "val" | "text" | "html" | "attr" | "data" | "prop" | "css" | "width"
            | "height" | "offset" | "position" | "index" | "serialize" | "outerHeight" | "outerWidth"
            | "scrollTop" | "scrollLeft" | "innerHeight" | "innerWidth"
                if !matches!(self.kind(&arguments.get(0)), Some(Kind::Plain | Kind::Function(_)))
                    && asks(name, arguments.values.len())
                    || matches!(
                        name,
                        "hasClass"
                            | "is"
                            | "data"
                            | "offset"
                            | "position"
                            | "index"
                            | "serialize"
                            | "outerHeight"
                            | "outerWidth"
                    ) =>
            {
                // What a set without elements has of one.
                let is_of_one = match name {
                    "val" | "attr" | "offset" | "position" | "html" => true,
                    "width" | "height" | "innerWidth" | "innerHeight" | "outerWidth" | "outerHeight"
                    | "scrollTop" | "scrollLeft" => asks(name, arguments.values.len()),
                    "css" | "data" | "prop" => match arguments.values.as_slice() {
                        [] => true,
                        [one] => matches!(one, Value::Text(_)),
                        _ => false,
                    },
                    _ => false,
                };
                if is_empty && is_of_one {
                    return Ok(Value::Undefined(absence));
                }
                return Ok(self.some_of_query(name, elements.as_deref(), &arguments));
            }
            _ => {}
        }
        self.query_listens(name, elements.as_deref(), &arguments, span)?;
        Ok(if SAME_SET.contains(&name) { this } else { self.query(None, None) })
    }

    /// What is thrown for a selector that neither the browser nor jQuery takes.
    pub(super) fn refused_by_query(&mut self, method: &str, text: &str, span: Span) -> Run<Option<Stop>> {
        let why = match refusal(text) {
            None => return Ok(None),
            Some(Refusal::Syntax) => "it is no selector".to_owned(),
            Some(Refusal::NewSyntax) if self.is_new_query() => {
                "what an attribute is held against is to stand in quotes".to_owned()
            }
            Some(Refusal::NewSyntax) => return Ok(None),
            // Some scripts give it more of them.
            Some(Refusal::Pseudo { .. }) if self.text.contains(".expr") || self.world.acts_with("expr") => {
                return Ok(None);
            }
            Some(Refusal::Pseudo { name, sought }) => {
                for simple in sought {
                    let Ok(selectors) = parse_selectors(&simple) else { return Ok(None) };
                    let found = self.find(None, &simple, &selectors, Some("NodeList"), span)?;
                    match self.kind(&found) {
                        Some(Kind::List(_, items)) if !items.is_empty() => {}
                        _ => return Ok(None),
                    }
                }
                format!("jQuery knows no `:{name}`")
            }
        };
        Ok(Some(self.refused_selector(method, text, &why, mended(text), span)))
    }
}
