//! What listens for events, and until when (DOM, "add an event listener", "remove an event listener").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run, Task, Turn};
use super::presence::{Listener, Manner};
use super::value::{Certainty, EXACT, Kind, ObjectId, Value};
use crate::source::Span;

/// The member of a signal that says whether it was aborted.
const ABORTED: &str = "aborted";

impl Machine<'_> {
    /// Takes note of a listener that is there for certain; which one it is.
    pub(super) fn listens(
        &mut self,
        target: &Value,
        event: &str,
        handler: &Value,
        manner: Manner,
    ) -> Option<u32> {
        const MOST: usize = 500;
        let (Value::Object(target), true) = (target, self.changes_surely() && self.listeners.len() < MOST)
        else {
            self.presence.has_vague_listeners = true;
            return None;
        };
        if manner.is_property {
            let before = self
                .listeners
                .iter()
                .position(|own| own.manner.is_property && own.target == *target && &*own.event == event);
            if let Some(at) = before {
                self.forgets_listener(at);
            }
        }
        let is_nothing = handler.is_nothing() == Ok(true);
        if is_nothing || manner.is_property && self.is_no_function(handler) {
            return None;
        }
        if !matches!(handler, Value::Object(_)) {
            self.presence.has_vague_listeners = true;
            return None;
        }
        let called = self.called_by(handler, &manner);
        self.listener_count += 1;
        self.listeners.push(Listener {
            number: self.listener_count,
            target: *target,
            event: Arc::from(event),
            handler: called,
            given: handler.clone(),
            manner,
        });
        Some(self.listener_count)
    }

    /// What is called of what is given to listen: a member like `onclick` takes functions alone.
    pub(super) fn called_by(&mut self, handler: &Value, manner: &Manner) -> Value {
        match manner.is_property {
            true => handler.clone(),
            false => self.listener(handler),
        }
    }

    fn is_no_function(&self, value: &Value) -> bool {
        matches!(self.kind(value), Some(Kind::Plain | Kind::Array(_) | Kind::Element(_) | Kind::List(..)))
    }

    /// How `addEventListener` is told to listen; none where nobody knows.
    pub(super) fn manner(&mut self, options: &Value) -> Option<Manner> {
        let id = match options {
            Value::Undefined(_) | Value::Null(_) => return Some(Manner::default()),
            Value::Object(id) => *id,
            other => return Some(Manner { is_capture: other.truth().ok()?, ..Manner::default() }),
        };
        let object = self.object(id);
        if !matches!(object.kind, Kind::Plain) || object.is_open || object.parent.is_some() {
            return None;
        }
        let is = |name: &str| object.members.get(name).map_or(Ok(false), Value::truth).ok();
        let (is_capture, is_once) = (is("capture")?, is("once")?);
        let signal = match object.members.get("signal") {
            None | Some(Value::Undefined(_)) => None,
            Some(Value::Object(signal)) => Some(*signal),
            Some(_) => return None,
        };
        Some(Manner { is_capture, is_once, signal, ..Manner::default() })
    }

    /// Whether what a signal is for was aborted; none where that is not known.
    pub(super) fn is_aborted(&self, signal: ObjectId) -> Option<bool> {
        self.object(signal).members.get(ABORTED)?.truth().ok()
    }

    /// Whether the same listens already (DOM, "add an event listener").
    pub(super) fn has_listener(&self, target: &Value, event: &str, handler: &Value, manner: &Manner) -> bool {
        self.place_of_listener(target, event, handler, manner.is_capture).is_some()
    }

    fn place_of_listener(
        &self,
        target: &Value,
        event: &str,
        handler: &Value,
        is_capture: bool,
    ) -> Option<usize> {
        let Value::Object(target) = target else { return None };
        self.listeners.iter().position(|own| {
            own.target == *target
                && &*own.event == event
                && own.manner.is_capture == is_capture
                && !own.manner.is_property
                && !own.manner.is_query
                && own.given.is_same(handler)
        })
    }

    /// `removeEventListener`.
    pub(super) fn remove_listener(&mut self, this: &Value, arguments: &Arguments) {
        let (event, manner) = (self.as_text(&arguments.get(0)), self.manner(&arguments.get(2)));
        let handler = arguments.get(1);
        let is_known = matches!(handler, Value::Object(_) | Value::Null(_) | Value::Undefined(_));
        let (Ok(event), Some(manner), true) = (event, manner, is_known && self.kind(this).is_some()) else {
            self.presence.has_vague_listeners = true;
            return;
        };
        match self.place_of_listener(this, &event, &handler, manner.is_capture) {
            Some(at) if self.changes_surely() => self.forgets_listener(at),
            Some(_) => self.presence.has_vague_listeners = true,
            None => {}
        }
    }

    /// A listener is there no more.
    fn forgets_listener(&mut self, at: usize) {
        let number = self.listeners.remove(at).number;
        // Until a timer is up, a visitor may have come.
        if self.turn.is_none_or(|turn| turn < Turn::Timer) {
            self.charge(self.tasks.len() / 16);
            self.tasks.retain(|_, task| task.listener != Some(number));
        }
    }

    /// Takes one out that listens once and was called; whether it is there still.
    pub(super) fn takes_listener(&mut self, number: u32) -> bool {
        let Some(at) = self.listeners.iter().position(|own| own.number == number) else { return false };
        if self.listeners[at].manner.is_once {
            self.forgets_listener(at);
        }
        true
    }

    /// A function that is called later: once an event comes to something, or some time has passed.
    pub(super) fn calls_later(
        &mut self,
        listener: Option<u32>,
        (handler, this): (Value, Value),
        arguments: Vec<Value>,
        (turn, certainty): (Turn, Certainty),
        span: Span,
    ) {
        if !matches!(handler, Value::Object(_)) {
            return;
        }
        let certainty = self.certainty.max(certainty);
        let task = Task { listener, ..Task::later(handler, this, arguments, certainty, span) };
        self.schedule(turn, task);
    }

    /// `new AbortController()`.
    pub(super) fn new_abort(&mut self) -> Value {
        let signal = self.new_signal(Value::Boolean(false));
        let made = self.make(Kind::Instance("AbortController"));
        self.object_mut(made).members.insert(Self::name("signal"), signal);
        self.object_mut(made).members.insert(Self::name(EXACT), Value::NULL);
        Value::Object(made)
    }

    /// The signal of one, or one of its own.
    pub(super) fn new_signal(&mut self, is_aborted: Value) -> Value {
        let signal = self.make(Kind::Instance("AbortSignal"));
        self.object_mut(signal).members.insert(Self::name(ABORTED), is_aborted);
        Value::Object(signal)
    }

    /// `abort()` of what has a signal (DOM, "signal abort").
    pub(super) fn aborts(&mut self, controller: ObjectId, span: Span) -> Run<()> {
        let Some(Value::Object(signal)) = self.object(controller).members.get("signal").cloned() else {
            self.presence.has_vague_listeners = true;
            return Ok(());
        };
        let was_aborted = self.is_aborted(signal);
        self.put_member(signal, Self::name(ABORTED), Value::Boolean(true));
        if was_aborted == Some(true) {
            return Ok(());
        }
        let of_signal = |own: &Listener| own.manner.signal == Some(signal);
        if self.listeners.iter().any(of_signal) {
            if self.changes_surely() {
                while let Some(at) = self.listeners.iter().position(of_signal) {
                    self.forgets_listener(at);
                }
            } else {
                self.presence.has_vague_listeners = true;
            }
        }
        let event = self.made_event("abort", false);
        self.dispatches(&Value::Object(signal), &event, span).map(|_| ())
    }
}
