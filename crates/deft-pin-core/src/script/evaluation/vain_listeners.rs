//! Listeners for what never comes: events that nobody makes, or that do not come to what is listened on.

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::Machine;
use super::platform::{self, Interface};
use super::value::{Absence, Kind, Node, Value};
use crate::markup::{LocalName, local_name, parse_selectors};
use crate::script::program::{Expression, Key};
use crate::source::Span;

/// What people write for events that are called otherwise.
const OTHERWISE: &[(&str, &str)] = &[
    ("changed", "change"),
    ("clicked", "click"),
    ("documentready", "DOMContentLoaded"),
    ("domloaded", "DOMContentLoaded"),
    ("domready", "DOMContentLoaded"),
    ("doubleclick", "dblclick"),
    ("enter", "keydown"),
    ("hover", "mouseenter"),
    ("keypressed", "keydown"),
    ("loaded", "load"),
    ("mouseclick", "click"),
    ("pageload", "load"),
    ("ready", "DOMContentLoaded"),
    ("resized", "resize"),
    ("rightclick", "contextmenu"),
    ("scrolled", "scroll"),
    ("submitted", "submit"),
    ("tap", "click"),
    ("unfocus", "blur"),
];
/// Events that come to the window alone (HTML, "Events"; CSSOM View).
const OF_WINDOW: &[&str] = &[
    "afterprint", "beforeprint", "beforeunload", "hashchange", "languagechange", "load", "offline", "online",
    "orientationchange", "pagehide", "pageshow", "popstate", "resize", "storage", "unhandledrejection",
    "unload",
];
/// Those that come to the document and to the window alone.
const OF_DOCUMENT: &[&str] = &["DOMContentLoaded", "readystatechange", "visibilitychange"];
/// Elements that load something.
const LOADING: &[&str] = &["embed", "frame", "iframe", "img", "input", "link", "object", "script", "style"];

impl Machine<'_> {
    /// An event that has another name; whether it was told.
    pub(super) fn check_event(&mut self, this: &Value, event: &str, span: Span) -> bool {
        if platform::is_event(event) || self.world.mentions(event) || self.is_dispatched(event) {
            return false;
        }
        let lower = event.trim().to_ascii_lowercase();
        let marked = lower.strip_prefix("on").filter(|rest| platform::is_event(rest));
        // A script that could not be looked into may make events of its own.
        let otherwise = OTHERWISE.iter().find(|(own, _)| *own == lower && self.world.knows_all());
        let otherwise = otherwise.map(|(_, event)| *event);
        // Names with marks in them are of events that scripts make.
        let is_plain = event.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b' ');
        let undashed = event.replace('-', "");
        let undashed = (undashed != event).then(|| platform::near_event(&undashed)).flatten();
        let otherwise =
            otherwise.or(undashed.filter(|own| own.eq_ignore_ascii_case(&event.replace('-', ""))));
        let near = otherwise.or(marked).or_else(|| platform::near_event(event).filter(|_| is_plain));
        let Some(near) = near.filter(|_| marked.is_some() || self.is_node(this)) else { return false };
        let kind = RunFaultKind::VainArgument {
            method: "addEventListener".to_owned(),
            given: event.to_owned(),
            takes: "the name of an event".to_owned(),
            write: Some(near.to_owned()),
        };
        self.note(span, kind);
        true
    }

    /// An event that does not come to what is listened on.
    pub(super) fn check_comes(&mut self, this: &Value, event: &str, options: &Value, span: Span) {
        let of_window = OF_WINDOW.contains(&event);
        let may_be_wrong = match self.kind(this) {
            Some(Kind::Document) => of_window,
            Some(Kind::Element(_)) => {
                of_window || OF_DOCUMENT.contains(&event) || matches!(event, "submit" | "reset")
            }
            _ => false,
        };
        if !may_be_wrong {
            return;
        }
        let is_capture = match options {
            Value::Boolean(is) => *is,
            Value::Object(id) => self.object(*id).members.get("capture").is_some(),
            Value::Undefined(_) => false,
            _ => true,
        };
        let is_made_elsewhere = || self.world.mentions("dispatchEvent") && self.world.mentions(event);
        if is_capture || self.is_dispatched(event) || is_made_elsewhere() {
            return;
        }
        let says = match self.kind(this) {
            Some(Kind::Document) if of_window => {
                (format!("`{event}` comes to the window and not to the document"), "window")
            }
            Some(Kind::Element(node)) => {
                let node = *node;
                let tag = self.tag_of(node);
                match event {
                    _ if tag.contains('-') => return,
                    "load" if LOADING.contains(&&*tag) => return,
                    "resize" if &*tag == "video" => return,
                    "submit" | "reset" if !self.may_hold_form(node) => {
                        let says = format!("`{event}` comes to forms and what is around them");
                        return self.is_vain(says, Some("form.addEventListener".to_owned()), span);
                    }
                    "load" | "resize" if !self.is_of_html(node) => return,
                    _ if of_window => {
                        (format!("`{event}` comes to the window and not to this element"), "window")
                    }
                    _ if OF_DOCUMENT.contains(&event) => {
                        (format!("`{event}` comes to the document and not to this element"), "document")
                    }
                    _ => return,
                }
            }
            _ => return,
        };
        self.is_vain(says.0, Some(format!("{}.addEventListener", says.1)), span);
    }

    /// A listener that gives `false` to keep a form from being sent, or a link from being followed: what it gives counts
    /// for nothing (DOM, "inner invoke").
    pub(super) fn check_answer(&mut self, this: &Value, event: &str, handler: &Value, span: Span) {
        let does = match (event, self.kind(this)) {
            ("submit", _) => "the form is sent",
            ("click", Some(Kind::Element(node))) if &*self.tag_of(*node) == "a" => "the link is followed",
            _ => return,
        };
        let Some(Kind::Function(closure)) = self.kind(handler) else { return };
        let program = self.program_of(closure.environment);
        let function = program.function(closure.function);
        let result = function.last_result(program);
        let is_refusal =
            result.is_some_and(|own| matches!(program.expression(own), Expression::Boolean(false)));
        let text =
            self.text.get(function.span.start as usize..function.span.end as usize).unwrap_or_default();
        if is_refusal && self.codes.called_at().is_none() && !text.contains("preventDefault") {
            let says = format!("what a listener gives counts for nothing, and {does}");
            self.is_vain(says, Some("event.preventDefault()".to_owned()), span);
        }
    }

    fn is_of_html(&self, node: Node) -> bool {
        self.interface_of_node(node).starts_with("HTML")
    }

    /// Whether an element is a form or may have one in it.
    fn may_hold_form(&mut self, node: Node) -> bool {
        let Node::Page(id) = node else { return true };
        let document = self.world.document();
        let form: LocalName = local_name!("form");
        let is_form = |at: crate::markup::ElementRef<'_>| at.is_html(&form);
        let Some(own) = document.element(id) else { return true };
        if is_form(own)
            || document.elements().any(|at| is_form(at) && at.and_ancestors().any(|up| up.id == id))
        {
            return true;
        }
        self.once("#makes-form", |this| this.text.contains("form") && this.text.contains("createElement"))
            || self.text.contains("<form")
            || parse_selectors("form").is_ok_and(|own| self.world.may_be_made(&own, true))
            || self.world.mentions("form")
    }

    /// A listener that is a variable without a value, since it gets that further down.
    pub(super) fn check_unset_listener(&mut self, arguments: &Arguments, at: usize, span: Span) {
        let Value::Undefined(Some(absence)) = arguments.get(at) else { return };
        let Some(written) = arguments.expressions.get(at) else { return };
        let Some(Absence::Place { name }) = self.absences.get(absence.0 as usize).cloned() else { return };
        // What a function may be given or not is left out on purpose.
        if let Expression::Local(variable) = self.program.expression(*written)
            && !self.program.is_parameter(*variable)
        {
            let says = format!("`{name}` has no value yet where it is given");
            let write = "the listener below the line that sets it".to_owned();
            self.is_vain(says, Some(write), span);
        }
    }

    /// A listener that is taken off and was never on: a function that is made where it stands.
    pub(super) fn check_taken_off(&mut self, arguments: &Arguments, span: Span) {
        let Some(written) = arguments.expressions.get(1) else { return };
        let is_made = match self.program.expression(*written) {
            Expression::Function(_) => true,
            Expression::Call { callee, .. } => matches!(
                self.program.expression(*callee),
                Expression::Member { key: Key::Name(name), .. } if **name == *"bind"
            ),
            _ => false,
        };
        if is_made {
            let says = "this function is a new one, and no listener yet".to_owned();
            self.is_vain(says, None, span);
        }
    }

    /// A member that is called as a handler of events is, but for its letters: `onLoad`, `onClick`.
    pub(super) fn check_handler_name(&mut self, of: Interface, key: &Arc<str>, value: &Value, span: Span) {
        let lower = key.to_ascii_lowercase();
        let is_function = matches!(self.kind(value), Some(Kind::Function(_) | Kind::Bound(..)));
        let is_handler = is_function
            && lower != **key
            && lower.strip_prefix("on").is_some_and(platform::is_event)
            && (platform::member(of, &lower).is_some() || platform::global(&lower).is_some());
        if is_handler && !self.is_named_again(key) {
            self.is_vain(format!("there is no handler `{key}`"), Some(lower), span);
        }
    }
}
