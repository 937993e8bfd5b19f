//! Events that the script itself makes happen: its listeners are called at once (DOM, "dispatching events").

use std::sync::Arc;

use super::arguments::Arguments;
use super::lookups::local;
use super::machine::{DOCUMENT, Machine, Run, Stop, WINDOW};
use super::platform::Interface;
use super::presence::Listener;
use super::value::{EXACT, Kind, Node, ObjectId, Value};
use crate::source::Span;

/// So many listeners of one event are called.
const MOST: usize = 20;

impl Machine<'_> {
    /// Takes note of a listener that is there for certain.
    pub(super) fn listens(&mut self, target: &Value, event: &str, handler: &Value, is_query: bool) {
        match (target, handler) {
            (Value::Object(target), Value::Object(_))
                if self.changes_surely() && self.listeners.len() < 500 =>
            {
                let (event, handler) = (Arc::from(event), handler.clone());
                self.listeners.push(Listener { target: *target, event, handler, is_query });
            }
            _ => self.presence.has_vague_listeners = true,
        }
    }

    /// `new Event(…)` and `new CustomEvent(…)`; none of other kinds.
    pub(super) fn new_event(&mut self, of: Interface, arguments: &Arguments) -> Option<Value> {
        let Value::Text(name) = arguments.get(0) else { return None };
        if !matches!(of, "Event" | "CustomEvent") {
            return None;
        }
        let options = arguments.get(1);
        let (mut detail, mut bubbles) = (Value::NULL, Value::Boolean(false));
        match self.kind(&options) {
            Some(Kind::Plain) => {
                let Value::Object(id) = options else { return None };
                let object = self.object(id);
                if object.is_open || object.parent.is_some() {
                    return None;
                }
                detail = object.members.get("detail").cloned().unwrap_or(detail);
                bubbles = object.members.get("bubbles").cloned().unwrap_or(bubbles);
            }
            None if matches!(options, Value::Undefined(_)) => {}
            _ => return None,
        }
        let id = self.make(Kind::Instance(of));
        let object = self.object_mut(id);
        object.members.insert(Arc::from(EXACT), Value::NULL);
        object.members.insert(Arc::from("type"), Value::Text(name));
        object.members.insert(Arc::from("bubbles"), bubbles);
        if of == "CustomEvent" {
            object.members.insert(Arc::from("detail"), detail);
        }
        Some(Value::Object(id))
    }

    /// Calls what listens for an event that the script makes happen on something.
    pub(super) fn dispatches(&mut self, target: &Value, event: &Value, span: Span) -> Run<()> {
        let known = match event {
            Value::Object(id) => {
                let members = &self.object(*id).members;
                match (members.get("type"), members.get("bubbles")) {
                    (Some(Value::Text(name)), Some(Value::Boolean(bubbles))) => {
                        Some((*id, Arc::clone(name), *bubbles))
                    }
                    _ => None,
                }
            }
            _ => None,
        };
        const NOT_FOLLOWED: &[&str] = &[
            "removeEventListener", "stopImmediatePropagation", "stopPropagation", "once:", "signal",
            "capture:", ".off(", ".unbind(",
        ];
        let is_plain = !NOT_FOLLOWED.iter().any(|word| self.text.contains(word));
        // What stands in the page's own attributes, or listens perhaps, does what nobody knows.
        let is_known = is_plain
            && self.changes_surely()
            && !self.presence.has_vague_listeners
            && known.as_ref().is_none_or(|(_, name, _)| !self.has_own_handler(name));
        let (Some((id, name, bubbles)), true) = (known, is_known) else {
            self.knows_nothing_more();
            // What they do is done perhaps.
            let handlers: Vec<Value> = self.listeners.iter().map(|own| own.handler.clone()).collect();
            handlers.iter().try_for_each(|handler| self.hand_over(handler))?;
            return self.hand_over(event);
        };
        let mut all: Vec<(usize, Listener)> = self
            .listeners
            .iter()
            .filter(|own| own.event == name && self.reaches(target, own.target, bubbles))
            .take(MOST)
            .map(|own| (self.distance(target, own.target), own.clone()))
            .collect();
        // It comes to what is around later.
        all.sort_by_key(|(distance, _)| *distance);
        let object = self.object_mut(id);
        object.members.insert(Arc::from("target"), target.clone());
        for (_, Listener { target, handler, is_query, .. }) in all {
            let current = Value::Object(target);
            self.object_mut(id).members.insert(Arc::from("currentTarget"), current.clone());
            let (tries, thrown) = (std::mem::take(&mut self.tries), self.thrown);
            let (certainty, region) = (self.certainty, self.region);
            // jQuery makes an event of its own of it.
            let given = Arguments::of(vec![if is_query { Value::OPEN } else { event.clone() }]);
            let result = self.deeper(|this| this.call(&handler, current, given, span));
            // What a listener throws is reported, and whoever made the event happen goes on.
            (self.tries, self.thrown) = (tries, thrown);
            (self.certainty, self.region) = (certainty, region);
            if let Err(Stop::Halt) = result {
                return Err(Stop::Halt);
            }
        }
        Ok(())
    }

    /// Whether an element of the page, or the script in a text, has a handler for an event in an attribute.
    fn has_own_handler(&self, event: &str) -> bool {
        let name = format!("on{event}");
        let attribute = local(&name);
        self.text.contains(&format!("{name}=\""))
            || self.text.contains(&format!("'{name}'"))
            || self.text.contains(&format!("\"{name}\""))
            || self.world.document().elements().any(|own| own.data().attr(&attribute).is_some())
    }

    /// An event that a method makes happen.
    pub(super) fn made_event(&mut self, name: &str, bubbles: bool) -> Value {
        let id = self.make(Kind::Instance(if name == "click" { "PointerEvent" } else { "Event" }));
        let object = self.object_mut(id);
        object.members.insert(Arc::from("type"), Value::text(name));
        object.members.insert(Arc::from("bubbles"), Value::Boolean(bubbles));
        Value::Object(id)
    }

    /// `click()` of an element.
    pub(super) fn clicks(&mut self, target: &Value, span: Span) -> Run<()> {
        let event = self.made_event("click", true);
        self.dispatches(target, &event, span)?;
        // Links, forms and switches do something by themselves.
        self.presence.vague.states = true;
        let is_prevented = matches!(&event, Value::Object(id) if matches!(
            self.object(*id).members.get("defaultPrevented"),
            Some(Value::Boolean(true))
        ));
        let does_more = self.node_of(target).is_none_or(|node| match &*self.tag_of(node) {
            _ if is_prevented => false,
            "a" | "area" => self.goes_elsewhere(node),
            "summary" => {
                self.presence.vague.attributes.insert(Arc::from("open"));
                false
            }
            "button" | "input" => {
                let kind = self.attribute_at_present(node, "type");
                let is_plain = kind.as_ref().is_some_and(|kind| {
                    matches!(kind, Value::Text(kind) if matches!(&**kind, "button" | "checkbox" | "radio"))
                });
                // Outside of a form it sends nothing.
                !is_plain && !matches!(self.form_of(node), Some(Value::Null(_)))
            }
            _ => false,
        });
        if does_more {
            self.presence.lose();
        }
        Ok(())
    }

    /// Whether a link that is clicked changes more than the address. Where it leads to another page, what comes later is
    /// certain no more.
    fn goes_elsewhere(&mut self, link: Node) -> bool {
        match self.attribute_at_present(link, "href") {
            Some(Value::Null(_)) => false,
            Some(Value::Text(address)) if address.starts_with('#') => false,
            Some(Value::Text(address))
                if self.turn.is_none()
                    && !address.trim_start().to_ascii_lowercase().starts_with("javascript:") =>
            {
                self.presence.ends = true;
                false
            }
            _ => true,
        }
    }

    /// How far around what an event is on a listener is.
    fn distance(&self, target: &Value, listener: ObjectId) -> usize {
        match &self.object(listener).kind {
            _ if matches!(target, Value::Object(id) if *id == listener) => 0,
            Kind::Window => usize::MAX,
            Kind::Document => usize::MAX - 1,
            Kind::Element(around) => {
                let ids =
                    self.node_of(target).and_then(|own| self.present_id(own)).zip(self.present_id(*around));
                let (Some(document), Some((own, around))) = (self.present_document(), ids) else { return 1 };
                std::iter::successors(Some(own), |at| document.node(*at).parent())
                    .position(|at| at == around)
                    .unwrap_or(1)
            }
            _ => 1,
        }
    }

    /// Whether an event on something comes to a listener on something.
    fn reaches(&self, target: &Value, listener: ObjectId, bubbles: bool) -> bool {
        if matches!(target, Value::Object(id) if *id == listener) {
            return true;
        }
        if !bubbles {
            return false;
        }
        let around = match &self.object(listener).kind {
            Kind::Window | Kind::Document => return !matches!(target, Value::Object(WINDOW)),
            Kind::Element(node) => *node,
            _ => return false,
        };
        let inner: Option<Node> = self.node_of(target).filter(|_| !matches!(target, Value::Object(DOCUMENT)));
        let (Some(inner), Some(document)) = (inner, self.present_document()) else { return false };
        match (self.present_id(inner), self.present_id(around)) {
            (Some(inner), Some(around)) => document.is_in(inner, around),
            _ => false,
        }
    }
}
