//! Events that the script itself makes happen: its listeners are called at once (DOM, "dispatching events").

use std::sync::Arc;

use super::arguments::Arguments;
use super::lookups::local;
use super::machine::{DOCUMENT, Machine, Run, Stop, WINDOW};
use super::presence::Listener;
use super::value::{Kind, Node, ObjectId, Value};
use crate::markup::{Sought, parse_selectors};
use crate::source::Span;

/// So many listeners of one event are called.
const MOST: usize = 20;

/// Whether an event goes no further, and whether not even to what else listens there.
const STOPPED: &str = "#stopped";
const STOPPED_AT_ONCE: &str = "#stoppedAtOnce";

impl Machine<'_> {
    /// Calls what listens for an event that the script makes happen on something; whether it was not prevented.
    pub(super) fn dispatches(&mut self, target: &Value, event: &Value, span: Span) -> Run<Value> {
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
        // What stands in the page's own attributes, or listens perhaps, does what nobody knows.
        let is_known = self.changes_surely()
            && !self.presence.has_vague_listeners
            && known.as_ref().is_none_or(|(_, name, _)| !self.has_own_handler(name));
        let (Some((id, name, bubbles)), true) = (known, is_known) else {
            return self.dispatches_perhaps(event);
        };
        self.charge(self.listeners.len() / 8);
        let mut all: Vec<(i64, Listener)> = self
            .listeners
            .iter()
            .filter(|own| own.event == name)
            .filter(|own| self.reaches(target, own.target, bubbles || own.manner.is_capture))
            .take(MOST)
            .map(|own| (self.place_on_way(target, own), own.clone()))
            .collect();
        // It comes to what is around first, and then again later.
        all.sort_by_key(|(place, own)| (*place, own.manner.selector.is_none()));
        // How jQuery's listeners are taken out and stop events is not followed.
        const NOT_FOLLOWED: &[&str] =
            &["stopImmediatePropagation", "stopPropagation", "return false", ".off(", ".unbind("];
        let has_query = all.iter().any(|(_, own)| own.manner.is_query);
        let is_unfollowed = |this: &Self| NOT_FOLLOWED.iter().any(|word| this.text.contains(word));
        if has_query && self.once("#unfollowed", is_unfollowed) {
            return self.dispatches_perhaps(event);
        }
        let object = self.object_mut(id);
        object.members.insert(Arc::from("target"), target.clone());
        object.members.insert(Arc::from(STOPPED), Value::Boolean(false));
        object.members.insert(Arc::from(STOPPED_AT_ONCE), Value::Boolean(false));
        let mut last = None;
        for (_, Listener { number, target: around, handler, manner, .. }) in all {
            let stops = |name: &str, machine: &Self| {
                machine.object(id).members.get(name).map_or(Ok(false), Value::truth)
            };
            let is_elsewhere = last.is_some_and(|last| last != around);
            match (stops(STOPPED, self), stops(STOPPED_AT_ONCE, self)) {
                (_, Ok(true)) => break,
                (Ok(true), _) if is_elsewhere => break,
                (Ok(_), Ok(false)) => {}
                _ => return self.dispatches_perhaps(event),
            }
            let on = match &manner.selector {
                None => vec![Value::Object(around)],
                Some(selector) => match self.listened_for(target, around, selector) {
                    Some(on) => on,
                    None => return self.dispatches_perhaps(event),
                },
            };
            if on.is_empty() || !self.takes_listener(number) {
                continue;
            }
            last = Some(around);
            for current in on {
                self.object_mut(id).members.insert(Arc::from("currentTarget"), current.clone());
                let (tries, thrown) = (std::mem::take(&mut self.tries), self.thrown);
                let (certainty, region) = (self.certainty, self.region);
                // jQuery makes an event of its own of it.
                let given = Arguments::of(vec![if manner.is_query { Value::OPEN } else { event.clone() }]);
                let result = self.deeper(|this| this.call(&handler, current, given, span));
                // What a listener throws is reported, and whoever made the event happen goes on.
                (self.tries, self.thrown) = (tries, thrown);
                (self.certainty, self.region) = (certainty, region);
                match result {
                    Err(Stop::Halt) => return Err(Stop::Halt),
                    // A handler that is a member of its element says so (HTML, "the event handler processing algorithm").
                    Ok(Value::Boolean(false)) if manner.is_property => self.prevents(id),
                    _ => {}
                }
            }
        }
        self.object_mut(id).members.insert(Arc::from("currentTarget"), Value::NULL);
        if self.world.has_text(&name) {
            // Another script may listen for it, and change what it tells.
            let detail = self.object(id).members.get("detail").cloned();
            self.hand_over(&detail.unwrap_or(Value::UNDEFINED))?;
            return Ok(Value::A_BOOLEAN);
        }
        Ok(match self.object(id).members.get("defaultPrevented").map_or(Ok(false), Value::truth) {
            Ok(is_prevented) => Value::Boolean(!is_prevented),
            Err(_) => Value::A_BOOLEAN,
        })
    }

    /// The elements from where an event is up to what is listened on, without that, which a selector finds; none where that
    /// cannot be told.
    fn listened_for(&mut self, at: &Value, within: ObjectId, selector: &str) -> Option<Vec<Value>> {
        let selectors = parse_selectors(selector).ok()?;
        if !self.is_present() || self.presence.vague.hides(selector, &selectors) {
            return None;
        }
        let around = self.node_of(&Value::Object(within)).and_then(|own| self.present_id(own));
        let id = self.present_id(self.node_of(at)?)?;
        let document = self.present_document()?;
        let mut sought = Sought::by(&selectors);
        let mut found = Vec::new();
        for own in document.element(id)?.and_ancestors().take_while(|own| Some(own.id) != around) {
            if sought.surely_finds(own, None)? {
                found.push(own.id);
            }
        }
        Some(found.into_iter().map(|id| self.present_value(id)).collect())
    }

    /// Listeners that nobody can tell do what nobody can tell.
    fn dispatches_perhaps(&mut self, event: &Value) -> Run<Value> {
        self.knows_nothing_more();
        let handlers: Vec<Value> = self.listeners.iter().map(|own| own.handler.clone()).collect();
        handlers.iter().try_for_each(|handler| self.hand_over(handler))?;
        self.hand_over(event)?;
        Ok(Value::A_BOOLEAN)
    }

    /// `preventDefault()` of an event.
    pub(super) fn prevents(&mut self, event: ObjectId) {
        let prevented = match self.object(event).members.get("cancelable").map(Value::truth) {
            Some(Ok(false)) => return,
            Some(Err(_)) => Value::A_BOOLEAN,
            _ => Value::Boolean(true),
        };
        self.put_member(event, Arc::from("defaultPrevented"), prevented);
    }

    /// `stopPropagation()` and `stopImmediatePropagation()`.
    pub(super) fn stops_event(&mut self, event: ObjectId, at_once: bool) {
        self.put_member(event, Arc::from(STOPPED), Value::Boolean(true));
        if at_once {
            self.put_member(event, Arc::from(STOPPED_AT_ONCE), Value::Boolean(true));
        }
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

    /// `click()` of an element.
    pub(super) fn clicks(&mut self, target: &Value, span: Span) -> Run<()> {
        let event = self.made_event("click", true);
        let is_prevented = matches!(self.dispatches(target, &event, span)?, Value::Boolean(false));
        // Links, forms and switches do something by themselves.
        self.presence.vague.states = true;
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

    /// Where on an event's way a listener is told of it: below zero on the way in.
    fn place_on_way(&self, target: &Value, listener: &Listener) -> i64 {
        let distance = self.distance(target, listener.target).min(i64::MAX as usize / 2) as i64;
        match listener.manner.is_capture {
            true => -1 - distance,
            false => distance,
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
