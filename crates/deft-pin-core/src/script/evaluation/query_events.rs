//! Events of jQuery's sets: what listens for them, and what the script makes happen itself.

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run, Task, Turn, WINDOW};
use super::presence::Manner;
use super::value::{Certainty, EXACT, Kind, Value};
use crate::source::Span;

/// Methods that listen.
const LISTENING: &[&str] = &["on", "one", "bind", "delegate", "live"];
/// Events that have methods of their own.
const EVENTS: &[&str] = &[
    "click", "change", "submit", "hover", "keyup", "keydown", "scroll", "resize", "mouseenter", "mouseleave",
    "blur", "focus", "load", "dblclick",
];
/// Methods that show or hide what is in a set, or move it, and call a function when that has ended.
const ANIMATING: &[&str] = &[
    "animate", "fadeIn", "fadeOut", "fadeTo", "fadeToggle", "hide", "show", "slideDown", "slideToggle",
    "slideUp", "toggle",
];
/// What events have that jQuery hands on, beside what the browser gives them.
const OF_EVENTS: &[&str] = &[
    "data", "delegateTarget", "handleObj", "isDefaultPrevented", "isImmediatePropagationStopped",
    "isPropagationStopped", "namespace", "originalEvent", "rnamespace", "result", "which",
];
/// For so many elements of a set a function is called, each as `this`.
const MOST: usize = 4;

impl Machine<'_> {
    /// What is called by a visitor's doing, or once something has ended.
    pub(super) fn query_listens(
        &mut self,
        name: &str,
        elements: Option<&[Value]>,
        arguments: &Arguments,
        span: Span,
    ) -> Run<()> {
        if ANIMATING.contains(&name) && self.query_animates(name, elements, arguments, span) {
            return Ok(());
        }
        if name == "queue" && self.query_queues(elements, arguments, span) {
            return Ok(());
        }
        if name == "load" && matches!(arguments.get(0), Value::Text(_)) {
            return self.query_loads(elements, arguments, span);
        }
        let is_event = LISTENING.contains(&name) || EVENTS.contains(&name);
        let is_function =
            |value: &&Value| matches!(self.kind(value), Some(Kind::Function(_) | Kind::Bound(..)));
        let functions: Vec<Value> = arguments.values.iter().filter(is_function).cloned().collect();
        let selector = match (name, arguments.get(1)) {
            ("on" | "one", Value::Text(selector)) => Some(selector),
            _ => None,
        };
        let of: Option<Vec<Value>> = match &selector {
            Some(selector) => self.delegated_to(elements, selector, span)?,
            None => elements.map(<[Value]>::to_vec),
        };
        if is_event {
            self.query_registers(name, (elements, selector.clone()), arguments, &functions);
        }
        // The one event that is listened for.
        let event = match (name, arguments.get(0)) {
            ("on" | "one" | "bind", Value::Text(events)) if !events.trim().contains(' ') => {
                events.trim().split('.').next().map(str::to_owned)
            }
            _ => EVENTS.contains(&name).then(|| name.to_owned()),
        };
        // An element that comes later may be met as well.
        let is_met = of.as_ref().is_some_and(|own| !own.is_empty());
        for function in functions {
            if !is_event || !is_met {
                self.hand_over(&function)?;
                continue;
            }
            let each = of.iter().flatten().take(MOST).cloned().collect::<Vec<Value>>();
            let is_window = matches!(each.as_slice(), [Value::Object(id)] if *id == WINDOW);
            let is_load =
                name == "load" || matches!(&arguments.get(0), Value::Text(event) if &**event == "load");
            let (turn, certainty) = match is_window && is_load {
                true => (Turn::Loaded, Certainty::Certain),
                false => (Turn::Visitor, Certainty::SomeVisit),
            };
            for this in each {
                let event = match &event {
                    Some(event) => self.event(&this, event),
                    None => Value::OPEN,
                };
                if let Value::Object(id) = event {
                    let members = &mut self.object_mut(id).members;
                    members.shift_remove(EXACT);
                    for own in OF_EVENTS {
                        members.entry(Arc::from(*own)).or_insert(Value::OPEN);
                    }
                }
                self.later_on(function.clone(), this, vec![event], turn, certainty, span);
            }
        }
        Ok(())
    }

    /// `.queue(function)`: it is called for each element, once what was to be done with that before has ended; whether that
    /// is known.
    fn query_queues(&mut self, elements: Option<&[Value]>, arguments: &Arguments, span: Span) -> bool {
        let (function, Some(elements)) = (arguments.get(0), elements) else { return false };
        if !matches!(self.kind(&function), Some(Kind::Function(_)))
            || self.once("#clears queues", |this| this.text.contains(".clearQueue("))
        {
            return false;
        }
        for element in elements.iter().take(MOST) {
            let given = vec![Value::OPEN];
            self.later_on(function.clone(), element.clone(), given, Turn::Timer, self.certainty, span);
        }
        true
    }

    /// `.load(address, function)`: whatever the server answers, the function is called for each element.
    fn query_loads(&mut self, elements: Option<&[Value]>, arguments: &Arguments, span: Span) -> Run<()> {
        let functions = arguments.values.iter().skip(1);
        let functions: Vec<Value> =
            functions.filter(|own| matches!(self.kind(own), Some(Kind::Function(_)))).cloned().collect();
        let Some(elements) = elements else {
            return functions.iter().try_for_each(|function| self.hand_over(function));
        };
        self.presence.ends = true;
        for (function, element) in
            functions.iter().flat_map(|own| elements.iter().take(MOST).map(move |at| (own, at)))
        {
            let given = vec![Value::A_TEXT, Value::A_TEXT, Value::OPEN];
            self.later_on(function.clone(), element.clone(), given, Turn::Timer, Certainty::SomeVisit, span);
        }
        Ok(())
    }

    /// What an animation calls once it has ended, on each element of a set; whether that is known.
    fn query_animates(
        &mut self,
        name: &str,
        elements: Option<&[Value]>,
        arguments: &Arguments,
        span: Span,
    ) -> bool {
        let may_be_stopped =
            || [".stop(", ".finish(", "fx.off", ".clearQueue("].iter().any(|word| self.text.contains(word));
        let Some(elements) = elements.filter(|own| !own.is_empty() && !may_be_stopped()) else {
            return false;
        };
        let last = arguments.values.last();
        let complete = last.and_then(|options| self.option(options, "complete"));
        let Some(function) =
            complete.as_ref().or(last).filter(|own| matches!(self.kind(own), Some(Kind::Function(_))))
        else {
            return false;
        };
        let first = usize::from(name == "animate");
        // In milliseconds (jQuery, `jQuery.fx.speeds`).
        let delay = match arguments.get(first) {
            Value::Number(duration) => duration,
            Value::Text(speed) if &*speed == "slow" => 600.0,
            Value::Text(speed) if &*speed == "fast" => 200.0,
            _ => 400.0,
        };
        for element in elements.iter().take(MOST) {
            let task = Task {
                delay,
                ..Task::later(function.clone(), element.clone(), Vec::new(), self.certainty, span)
            };
            self.schedule(Turn::Timer, task);
        }
        true
    }

    /// The elements in a set that a selector finds, on which a function is called then.
    fn delegated_to(
        &mut self,
        elements: Option<&[Value]>,
        selector: &str,
        span: Span,
    ) -> Run<Option<Vec<Value>>> {
        let scope = match elements {
            Some([only]) => self.node_of(only),
            _ => None,
        };
        let found = self.query_found(scope, selector, span)?;
        Ok(match self.kind(&found) {
            Some(Kind::Query(found, _)) => found.clone(),
            _ => None,
        })
    }

    /// Takes note of what listens.
    fn query_registers(
        &mut self,
        name: &str,
        (elements, selector): (Option<&[Value]>, Option<Arc<str>>),
        arguments: &Arguments,
        functions: &[Value],
    ) {
        let given = match name {
            "hover" => Some(Arc::from("mouseenter mouseleave")),
            _ if EVENTS.contains(&name) => Some(Arc::from(name)),
            _ => self.as_text(&arguments.get(0)).ok(),
        };
        let (Some(elements), Some(given), [function]) = (elements, given, functions) else {
            self.presence.has_vague_listeners |= !functions.is_empty() || LISTENING.contains(&name);
            return;
        };
        let manner = Manner { is_query: true, is_once: name == "one", selector, ..Manner::default() };
        for element in elements {
            for event in given.split_ascii_whitespace() {
                let event = event.split('.').next().unwrap_or_default();
                self.listens(element, event, function, manner.clone());
            }
        }
    }

    /// Makes an event happen on each element of a set.
    pub(super) fn query_triggers(
        &mut self,
        event: &str,
        elements: Option<&[Value]>,
        arguments: &Arguments,
        span: Span,
    ) -> Run<()> {
        let is_sure = !self.world.acts_with(event) && arguments.values.len() < 2;
        let Some(elements) = elements.filter(|_| is_sure && !event.contains(['.', ' '])) else {
            self.presence.lose();
            return Ok(());
        };
        for element in elements {
            if event == "click" {
                self.clicks(element, span)?;
                continue;
            }
            let bubbles = !matches!(event, "focus" | "blur");
            let made = self.made_event(event, bubbles);
            self.dispatches(element, &made, span)?;
        }
        if event == "submit" {
            self.presence.lose();
        }
        Ok(())
    }

    /// `$.fn`, with what the script puts there.
    pub(super) fn query_prototype(&mut self) -> Value {
        let key: Arc<str> = Arc::from(PROTOTYPE);
        if let Some(known) = self.globals.get(&key) {
            return known.clone();
        }
        let region = std::mem::replace(&mut self.region, 0);
        let made = self.make(Kind::Plain);
        self.region = region;
        let extend = self.made(Kind::Native("jQuery", Arc::from(EXTEND)));
        let object = self.object_mut(made);
        object.is_open = true;
        object.members.insert(Arc::from("extend"), extend);
        self.globals.insert(key, Value::Object(made));
        Value::Object(made)
    }

    /// A method of sets that the script gives itself.
    pub(super) fn query_plugin(&self, name: &str) -> Option<Value> {
        let Some(Value::Object(id)) = self.globals.get(PROTOTYPE) else { return None };
        self.object(*id)
            .members
            .get(name)
            .filter(|own| matches!(self.kind(own), Some(Kind::Function(_))))
            .cloned()
    }
}

/// `$.fn.extend`.
pub(super) const EXTEND: &str = "fn.extend";

/// Where `$.fn` is kept.
const PROTOTYPE: &str = "#fn";
