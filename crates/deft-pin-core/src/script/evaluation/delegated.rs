//! Listeners for events that come from something in what they listen on, and which ask what that was: each is called
//! once for some of the elements that they ask for.

use super::arguments::Arguments;
use super::events::WITHIN;
use super::lookups::matches_any;
use super::machine::{Machine, Run, Stop, Task, Turn};
use super::presence::AskedTarget;
use super::value::{Certainty, Kind, Node, Value};
use crate::markup::{Assume, ElementRef, Matcher, NodeId, parse_selectors};
use std::sync::Arc;

/// For so many elements.
const MOST: usize = 6;

/// What a visitor does.
enum Change {
    /// The event comes from that element.
    From(NodeId),
    /// A `select` was given that value.
    Chosen(Node, Arc<str>),
}

impl Machine<'_> {
    /// Takes note that a listener asks whether its event came from what a selector finds.
    pub(super) fn asks_for_target(&mut self, target: &Value, selector: &str) {
        let Value::Object(id) = target else { return };
        let Some(within) = self.object(*id).members.get(WITHIN).cloned() else { return };
        if self.asked_targets.len() < 10 && self.asked_targets.iter().all(|own| own.selector != selector) {
            self.asked_targets.push(AskedTarget { within, selector: selector.to_owned() });
        }
    }

    /// Calls a listener for events from the elements that it asked for, and for each value that a visitor can choose
    /// where it asked for one.
    pub(super) fn call_for_targets(&mut self, turn: Turn, task: &Task) -> Run<()> {
        let mut asked = std::mem::take(&mut self.asked_targets);
        asked.extend(self.forms_of(task));
        let choices = std::mem::take(&mut self.asked_choices);
        let is_worth = turn == Turn::Visitor && task.certainty == Certainty::SomeVisit;
        if !is_worth || asked.is_empty() && choices.is_empty() || !self.may_repeat() {
            return Ok(());
        }
        let mut targets: Vec<NodeId> = Vec::new();
        for own in asked {
            for id in self.targets(&own) {
                if targets.len() < MOST && !targets.contains(&id) {
                    targets.push(id);
                }
            }
        }
        let from = targets.into_iter().map(Change::From);
        let chosen = choices.into_iter().flat_map(|node| {
            self.choices_of(node)
                .into_iter()
                .map(move |value| Change::Chosen(node, value))
                .collect::<Vec<_>>()
        });
        let all: Vec<Change> = from.chain(chosen).collect();
        self.repeated += u32::from(!all.is_empty());
        for own in all {
            self.charge(self.objects.len() / 4);
            let before = self.snapshot();
            let result = self.call_for(task, own);
            self.restore(before);
            self.asked_targets.clear();
            self.asked_choices.clear();
            if let Err(Stop::Halt) = result {
                return Err(Stop::Halt);
            }
        }
        Ok(())
    }

    /// Where an event comes from that forms alone have.
    fn forms_of(&self, task: &Task) -> Option<AskedTarget> {
        let member = |of: &Value, name: &str| match of {
            Value::Object(id) => self.object(*id).members.get(name).cloned(),
            _ => None,
        };
        let event = task.arguments.first()?;
        let is_of_forms =
            matches!(member(event, "type")?, Value::Text(kind) if matches!(&*kind, "submit" | "reset"));
        let within = member(&member(event, "target")?, WITHIN)?;
        is_of_forms.then(|| AskedTarget { within, selector: "form".to_owned() })
    }

    fn call_for(&mut self, task: &Task, change: Change) -> Run<()> {
        match change {
            Change::From(target) => {
                let Some(Value::Object(event)) = task.arguments.first().cloned() else { return Ok(()) };
                let target = self.present_value(target);
                for key in ["target", "srcElement"] {
                    self.object_mut(event).members.insert(Self::name(key), target.clone());
                }
            }
            Change::Chosen(node, value) => {
                self.presence.values.insert(node, value);
            }
        }
        (self.certainty, self.is_later, self.tries, self.thrown) = (Certainty::SomeVisit, true, 0, None);
        self.region = self.new_region();
        self.presence.region = Some(self.region);
        self.call(&task.function, task.this.clone(), Arguments::of(task.arguments.clone()), task.span)?;
        Ok(())
    }

    /// The elements that a selector finds and a visitor can come to, in what a listener listens on.
    fn targets(&mut self, asked: &AskedTarget) -> Vec<NodeId> {
        let Ok(selectors) = parse_selectors(&asked.selector) else { return Vec::new() };
        if self.presence.vague.hides(&asked.selector, &selectors) {
            return Vec::new();
        }
        let top = match self.kind(&asked.within) {
            Some(Kind::Document | Kind::Window) => Some(NodeId::DOCUMENT),
            Some(Kind::Element(node)) => self.present_id(*node),
            _ => None,
        };
        let (Some(document), Some(top)) = (self.present_document(), top) else { return Vec::new() };
        let mut matcher = Matcher::new();
        let is_hidden = |at: ElementRef<'_>| at.data().attr(&html5ever::local_name!("hidden")).is_some();
        self.charge(document.count() / 20);
        let elements = document.descendants(top).filter_map(|id| document.element(id));
        let found = elements.filter(|own| {
            matches_any(&mut matcher, &selectors, *own, Assume::Must, None)
                && !own.and_ancestors().any(is_hidden)
        });
        found.take(MOST).map(|own| own.id).collect()
    }
}
