//! Listeners, timers and observers: what is called later (DOM, "Events"; HTML, "Timers").

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{DOCUMENT, Machine, Run, Task, Turn, WINDOW};
use super::presence::Manner;
use super::value::{Certainty, EXACT, Kind, Value};
use crate::script::program::{Expression, Program};
use crate::script::syntax::ScriptKind;
use crate::source::Span;

/// Where it is kept what an event was listened for on: it comes from that, or from something in it.
pub(super) const WITHIN: &str = "#within";

impl Machine<'_> {
    /// `addEventListener`.
    pub(super) fn add_listener(&mut self, this: &Value, arguments: &Arguments, span: Span) -> Value {
        let handler = arguments.get(1);
        self.check_listener(arguments, 1, span);
        let Ok(event) = self.as_text(&arguments.get(0)) else {
            let handler = self.listener(&handler);
            self.later(handler, vec![Value::OPEN], Turn::Visitor, Certainty::Perhaps, span);
            return Value::UNDEFINED;
        };
        if self.check_event(this, &event, span) {
            return Value::UNDEFINED;
        }
        self.check_comes(this, &event, &arguments.get(2), span);
        self.check_answer(this, &event, &handler, span);
        let Some(manner) = self.manner(&arguments.get(2)) else {
            self.presence.has_vague_listeners = true;
            self.listen(this, &event, &handler, Manner::default(), span);
            return Value::UNDEFINED;
        };
        let is_vain = manner.signal.is_some_and(|signal| self.is_aborted(signal) == Some(true));
        if !is_vain && !self.has_listener(this, &event, &handler, &manner) {
            self.listen(this, &event, &handler, manner, span);
        }
        Value::UNDEFINED
    }

    pub(super) fn is_node(&self, value: &Value) -> bool {
        matches!(self.kind(value), Some(Kind::Element(_) | Kind::Document | Kind::Window))
    }

    /// Whether the script itself makes events of that name.
    pub(super) fn is_dispatched(&self, event: &str) -> bool {
        if !self.text.contains("Event(") {
            return false;
        }
        let quoted = [format!("\"{event}\""), format!("'{event}'"), format!("`{event}`")];
        quoted.iter().map(|quoted| self.text.matches(quoted.as_str()).count()).sum::<usize>() > 1
    }

    /// A listener that is nothing, since it was called at once.
    pub(super) fn check_listener(&mut self, arguments: &Arguments, at: usize, span: Span) {
        let is_nothing = matches!(arguments.get(at), Value::Undefined(_));
        self.check_unset_listener(arguments, at, span);
        let Some(written) = arguments.expressions.get(at).filter(|_| is_nothing) else { return };
        if let Expression::Call { callee, .. } = self.program.expression(*written) {
            let what = self.written(self.program.span(*callee));
            self.note(span, RunFaultKind::CalledAtOnce { what });
        }
    }

    /// What is called once an event comes to something.
    pub(super) fn listen(&mut self, this: &Value, event: &str, handler: &Value, manner: Manner, span: Span) {
        let called = self.called_by(handler, &manner);
        let (listener, handler) = (self.listens(this, event, handler, manner), called);
        let is_page = matches!(self.kind(this), Some(Kind::Document | Kind::Window));
        if event == "readystatechange" && matches!(this, Value::Object(DOCUMENT)) {
            // It comes when the page is parsed, and when it is loaded.
            let parsed = (self.may_still_parse() == Some(true)).then_some(Turn::Parsed);
            for turn in parsed.into_iter().chain([Turn::Loaded]) {
                let given = self.event(this, event);
                let (of, when) = ((handler.clone(), this.clone()), (turn, Certainty::Certain));
                self.calls_later(listener, of, vec![given], when, span);
            }
            return;
        }
        let (turn, certainty) = match event {
            "DOMContentLoaded" if is_page => match self.may_still_parse() {
                Some(true) => (Turn::Parsed, Certainty::Certain),
                // It has come and gone.
                Some(false) => return,
                None => (Turn::Parsed, Certainty::SomeVisit),
            },
            "load" | "pageshow" if matches!(self.kind(this), Some(Kind::Window)) => {
                (Turn::Loaded, Certainty::Certain)
            }
            _ => match self.kind(this) {
                Some(Kind::Element(_) | Kind::Document | Kind::Window) => {
                    (Turn::Visitor, Certainty::SomeVisit)
                }
                Some(Kind::Instance(_)) => (Turn::Visitor, Certainty::SomeVisit),
                _ => (Turn::Visitor, Certainty::Perhaps),
            },
        };
        let argument = self.event(this, event);
        self.calls_later(listener, (handler, this.clone()), vec![argument], (turn, certainty), span);
    }

    /// Whether the page is still being parsed; none where that is not known.
    fn may_still_parse(&self) -> Option<bool> {
        if !self.is_later { Some(true) } else { None }
    }

    /// An event, of which only the kind is known.
    pub(super) fn event(&mut self, this: &Value, event: &str) -> Value {
        let is_page = matches!(self.kind(this), Some(Kind::Document | Kind::Window));
        // What comes to the page itself comes from the document.
        let is_of_page = is_page && matches!(event, "DOMContentLoaded" | "load" | "scroll" | "resize");
        let of = match event {
            "click" | "dblclick" | "mousedown" | "mouseup" | "mouseenter" | "mouseleave" | "mouseover"
            | "mouseout" | "mousemove" | "contextmenu" => "PointerEvent",
            "keydown" | "keyup" | "keypress" => "KeyboardEvent",
            "input" | "beforeinput" => "InputEvent",
            "submit" => "SubmitEvent",
            "wheel" => "WheelEvent",
            "touchstart" | "touchend" | "touchmove" => "TouchEvent",
            "change" | "reset" | "focus" | "blur" => "Event",
            "resize" if is_of_page => "UIEvent",
            _ if is_of_page => "Event",
            _ => return Value::OPEN,
        };
        let id = self.make(Kind::Instance(of));
        self.object_mut(id).members.insert(Self::name("currentTarget"), this.clone());
        self.object_mut(id).members.insert(Self::name("type"), Value::text(event));
        if is_of_page && of == "Event" {
            self.object_mut(id).members.insert(Self::name(EXACT), Value::NULL);
        }
        let is_whole = self.is_whole_target(this, event);
        for open in ["target", "srcElement", "relatedTarget", "submitter", "touches", "changedTouches"] {
            let value = match open {
                "target" | "srcElement" if is_whole => this.clone(),
                "target" | "srcElement" if is_of_page => Value::OPEN,
                // Something on the page.
                "target" | "srcElement" => {
                    let target = self.make(Kind::Instance("HTMLElement"));
                    self.object_mut(target).members.insert(Self::name(WITHIN), this.clone());
                    Value::Object(target)
                }
                _ => Value::OPEN,
            };
            self.object_mut(id).members.insert(Self::name(open), value);
        }
        Value::Object(id)
    }

    /// Whether an event that comes to an element comes from it, and not from one in it.
    fn is_whole_target(&self, this: &Value, event: &str) -> bool {
        let Some(Kind::Element(node)) = self.kind(this) else { return false };
        let tag = self.tag_of(*node);
        match event {
            "submit" | "reset" => &*tag == "form",
            "input" | "change" | "beforeinput" | "keydown" | "keyup" | "keypress" => {
                matches!(&*tag, "input" | "select" | "textarea")
            }
            "focus" | "blur" | "mouseenter" | "mouseleave" => true,
            // Nothing else is in it.
            "click" | "dblclick" | "mousedown" | "mouseup" | "contextmenu" => {
                let document = self.present_document();
                let id = self.present_id(*node);
                document.zip(id).is_some_and(|(document, id)| document.child_elements(id).next().is_none())
            }
            _ => false,
        }
    }

    /// Functions of the window that call others.
    pub(super) fn call_timer(&mut self, name: &str, arguments: &Arguments, span: Span) -> Run<Value> {
        let function = arguments.get(0);
        if matches!(name, "setTimeout" | "setInterval") {
            self.check_listener(arguments, 0, span);
        }
        if matches!(name, "setTimeout" | "setInterval") {
            self.code_in_text(&function, Certainty::Certain, span)?;
        }
        let known_delay = self.as_number(&arguments.get(1)).ok();
        let delay = known_delay.unwrap_or(0.0);
        // Nobody waits for hours.
        let certainty = if delay > 600_000.0 { Certainty::Perhaps } else { Certainty::Certain };
        let given = match name {
            "setTimeout" | "setInterval" => arguments.values.get(2..).unwrap_or_default().to_vec(),
            "requestAnimationFrame" => vec![Value::A_NUMBER],
            "requestIdleCallback" => vec![Value::OPEN],
            _ => Vec::new(),
        };
        let turn = if name == "queueMicrotask" { Turn::Microtask } else { Turn::Timer };
        self.timers += 1;
        if matches!(function, Value::Object(_)) {
            let (certainty, this) = (self.certainty.max(certainty), Value::Object(WINDOW));
            let task = Task {
                timer: Some(self.timers),
                interval: (name == "setInterval").then_some(delay),
                // Of one that is not known some visits are long.
                delay: known_delay.unwrap_or(match arguments.get(1) {
                    Value::Undefined(_) => 0.0,
                    _ => 1000.0,
                }),
                is_timed: name == "setTimeout" && known_delay.is_some(),
                ..Task::later(function, this, given, certainty, span)
            };
            self.schedule(turn, task);
        }
        Ok(match name {
            "queueMicrotask" => Value::UNDEFINED,
            _ => Value::Number(f64::from(self.timers)),
        })
    }

    /// `clearInterval` and its like.
    pub(super) fn clear_timer(&mut self, given: &Value) {
        let number = match given {
            Value::Number(number) => Some(*number as u32),
            Value::Undefined(_) | Value::Null(_) => return,
            _ => None,
        };
        self.cleared.extend(number);
        let certainty = self.certainty;
        for task in self.tasks.values_mut().filter(|task| task.timer.is_some()) {
            // Which one is not known where it is no number.
            if number.is_none() || task.timer == number {
                let is_surely = number.is_some() && certainty <= task.certainty;
                task.interval = None;
                task.certainty = if is_surely { Certainty::Perhaps } else { task.certainty };
            }
        }
    }

    /// Code in a text, which runs later and sees the page's globals alone.
    pub(super) fn code_in_text(&mut self, code: &Value, certainty: Certainty, span: Span) -> Run<()> {
        let Value::Text(text) = code else { return Ok(()) };
        if certainty == Certainty::Certain {
            self.presence.ends = true;
        }
        self.step(100)?;
        let Some(program) = Program::of(text, ScriptKind::Classic) else { return Ok(()) };
        let mut inner = Machine::new(&program, text, self.world);
        inner.globals.extend(self.globals.iter().map(|(name, value)| {
            let value = if matches!(value, Value::Object(_)) { Value::OPEN } else { value.clone() };
            (name.clone(), value)
        }));
        // What it asks the script for is shared.
        let own = self.program.top.plain.iter().chain(&self.program.top.late);
        for variable in own {
            inner.globals.insert(self.program.name(*variable).clone(), Value::OPEN);
        }
        (inner.certainty, inner.is_later) = (self.certainty.max(certainty), true);
        // It stops where it throws, and nothing else does.
        let _ = inner.statements(&program.body);
        let (outer, is_later) = (self.certainty, self.is_later);
        for (fault, _) in inner.faults {
            (self.certainty, self.is_later) = (fault.certainty, true);
            self.note(span, fault.kind);
        }
        (self.certainty, self.is_later) = (outer, is_later);
        Ok(())
    }

    /// `new IntersectionObserver(…)` and its like, which call a function with what they see.
    pub(super) fn new_observer(&mut self, of: &'static str, arguments: &Arguments, span: Span) -> Run<Value> {
        let made = self.make(Kind::Instance(of));
        let function = arguments.get(0);
        if !matches!(function, Value::Object(_) | Value::Unknown(_)) {
            let kind = RunFaultKind::RefusedArgument {
                method: format!("new {of}"),
                given: self.written(span),
                takes: "a function".to_owned(),
                write: None,
            };
            return Err(self.throws(span, kind));
        }
        if of == "IntersectionObserver"
            && let Some(stop) = self.refused_observer(&arguments.get(1), span)
        {
            return Err(stop);
        }
        self.object_mut(made).members.insert(Self::name("#callback"), function);
        Ok(Value::Object(made))
    }

    /// What an observer is given to look at.
    pub(super) fn observe(&mut self, this: &Value, arguments: &Arguments, span: Span) -> Run<Value> {
        let target = arguments.get(0);
        if let Some(stop) = self.no_node("observe", &target, arguments, 0, span) {
            return Err(stop);
        }
        let Value::Object(id) = this else { return Ok(Value::UNDEFINED) };
        let of = self.interface_of(this);
        if of == Some("MutationObserver")
            && let Some(stop) = self.watches_nothing(&arguments.get(1), span)
        {
            return Err(stop);
        }
        if of == Some("MutationObserver") {
            self.watches(*id, &target, &arguments.get(1), span);
        }
        if let Some(function) = self.object(*id).members.get("#callback").cloned() {
            // These tell at once how things stand.
            let certainty = match (of, self.is_node(&target)) {
                (Some("IntersectionObserver" | "ResizeObserver"), true) => Certainty::SomeVisit,
                // Where the script changes something there by itself.
                (Some("MutationObserver"), true) if self.changes_later(span) => Certainty::SomeVisit,
                _ => Certainty::Perhaps,
            };
            let entries = match of {
                Some("IntersectionObserver") => self.entries("IntersectionObserverEntry", &target),
                Some("ResizeObserver") => self.entries("ResizeObserverEntry", &target),
                _ => Value::OPEN,
            };
            self.later(function, vec![entries, this.clone()], Turn::Timer, certainty, span);
        }
        Ok(Value::UNDEFINED)
    }

    /// What an observer tells at first, of what it looks at.
    fn entries(&mut self, of: &'static str, target: &Value) -> Value {
        let entry = self.make(Kind::Instance(of));
        self.object_mut(entry).members.insert(Self::name("target"), target.clone());
        self.array(vec![Value::Object(entry)], true)
    }

    /// Whether the script changes the page behind a place of it, at its top level.
    fn changes_later(&self, span: Span) -> bool {
        const CHANGES: &[&str] =
            &[".append(", ".appendChild(", ".prepend(", ".innerHTML =", ".insertAdjacentHTML("];
        let behind = self.text.get(span.end as usize..).unwrap_or_default();
        CHANGES.iter().any(|sign| behind.contains(sign))
    }

    /// What is thrown where it is not said what changes are watched for (DOM, "observe").
    fn watches_nothing(&mut self, options: &Value, span: Span) -> Option<super::machine::Stop> {
        const WATCHED: &[&str] = &[
            "childList", "attributes", "characterData", "attributeFilter", "attributeOldValue",
            "characterDataOldValue",
        ];
        let says_none = match options {
            Value::Undefined(_) | Value::Null(_) => true,
            Value::Object(id) => {
                let object = self.object(*id);
                let is_said =
                    |name: &&str| object.members.get(*name).is_some_and(|own| own.truth() != Ok(false));
                matches!(object.kind, Kind::Plain) && !object.is_open && !WATCHED.iter().any(is_said)
            }
            _ => false,
        };
        if let Some((what, by)) = self.watches_half(options) {
            let given = format!("{what} without `{by}`");
            let write = format!("{by}: true");
            return Some(self.refused(
                "observe",
                given,
                &format!("with `{what}` also `{by}`"),
                Some(&write),
                span,
            ));
        }
        says_none.then(|| {
            let kind = RunFaultKind::RefusedArgument {
                method: "observe".to_owned(),
                given: "nothing to watch for".to_owned(),
                takes: "one of `childList`, `attributes` and `characterData`, at least".to_owned(),
                write: Some("{ childList: true }".to_owned()),
            };
            self.throws(span, kind)
        })
    }

    /// An option that says more of what another says is not watched at all (DOM, "observe").
    fn watches_half(&self, options: &Value) -> Option<(&'static str, &'static str)> {
        const HALVES: &[(&str, &str)] = &[
            ("attributeFilter", "attributes"),
            ("attributeOldValue", "attributes"),
            ("characterDataOldValue", "characterData"),
        ];
        let is =
            |name: &str, truth: bool| self.option(options, name).is_some_and(|own| own.truth() == Ok(truth));
        HALVES.iter().find(|(what, by)| is(what, true) && is(by, false)).copied()
    }

    /// What is thrown where a node is wanted and there is none.
    pub(super) fn no_node(
        &mut self,
        method: &str,
        value: &Value,
        arguments: &Arguments,
        at: usize,
        span: Span,
    ) -> Option<super::machine::Stop> {
        let absence = match value {
            Value::Undefined(absence) | Value::Null(absence) => *absence,
            Value::Text(_) | Value::Number(_) | Value::Boolean(_) => None,
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Plain | Kind::Array(_) | Kind::List(..) if !self.object(*id).is_open => None,
                Kind::List(..) | Kind::Query(..) => None,
                _ => return None,
            },
            Value::Unknown(_) | Value::Some(..) | Value::Pieced(..) => return None,
        };
        let written = arguments.expressions.get(at).map(|own| self.program.span(*own));
        let given = written.map_or_else(|| "nothing".to_owned(), |written| self.written(written));
        let kind = self.kind_of_absence(absence, || Some(given.clone())).filter(|kind| {
            matches!(kind, RunFaultKind::NoElement { .. } | RunFaultKind::EarlyElement { .. })
        });
        let place = self.span_of_absence(absence).filter(|_| kind.is_some()).unwrap_or(span);
        let kind = kind.unwrap_or(RunFaultKind::RefusedArgument {
            method: method.to_owned(),
            given,
            takes: "an element".to_owned(),
            write: None,
        });
        Some(self.throws(place, kind))
    }
}
