//! Listeners for events that come from something in what they listen on, and which ask what that was: each is called
//! once for some of the elements that they ask for.

use super::arguments::Arguments;
use super::events::WITHIN;
use super::machine::{Machine, Run, Stop, Task, Turn};
use super::presence::AskedTarget;
use super::present_sets::data_name;
use super::value::{Certainty, Kind, Node, ObjectId, Value};
use crate::markup::{Assume, ElementRef, NodeId, Sought, parse_selectors};
use crate::script::program::{Expression, ExpressionId, Key, Pattern, PatternId, Variable};
use std::sync::Arc;

/// What marks an element of the page of which nobody knows which it is.
const SOMEWHERE: &str = "#somewhere";
/// For so many elements.
const MOST: usize = 6;

/// Members that tell elements apart.
const TELLING: &[&str] = &["className", "id", "localName", "name", "nodeName", "tagName", "type"];

/// So many questions of a listener are kept.
const MOST_ASKED: usize = 10;

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
        if self.asked_targets.len() < MOST_ASKED
            && self.asked_targets.iter().all(|own| own.selector != selector)
        {
            self.asked_targets.push(AskedTarget { within, selector: selector.to_owned() });
        }
    }

    /// A member of where an event came from, by which a listener may ask what that was; none for those that tell nothing
    /// more.
    pub(super) fn asks_by_member(&mut self, target: ObjectId, key: &str, of: ExpressionId) -> Option<Value> {
        let object = self.object(target);
        let Kind::Instance(interface) = object.kind else { return None };
        let within = object.members.get(WITHIN)?.clone();
        match (interface, key) {
            ("DOMStringMap", key) => {
                self.asks_for_target(&Value::Object(target), &format!("[{}]", data_name(key)));
                None
            }
            (_, "classList" | "dataset") => {
                let part = if key == "dataset" { "DOMStringMap" } else { "DOMTokenList" };
                let made = self.make(Kind::Instance(part));
                self.object_mut(made).members.insert(Self::name(WITHIN), within);
                Some(Value::Object(made))
            }
            // What is around it is on the page as well.
            (_, "parentElement" | "parentNode") => {
                let made = self.make(Kind::Instance("HTMLElement"));
                self.object_mut(made).members.insert(Self::name(SOMEWHERE), Value::NULL);
                Some(Value::Object(made))
            }
            (_, key) if TELLING.contains(&key) => {
                self.asked_member = Some((of, within, Self::name(key)));
                None
            }
            _ => None,
        }
    }

    /// The same for a part of a pattern, which a variable is given.
    pub(super) fn asks_by_part(&mut self, target: &Value, key: &str, part: PatternId) {
        let (Value::Object(id), Pattern::Local(variable)) = (target, self.program.pattern(part)) else {
            return;
        };
        let Some(within) = self.object(*id).members.get(WITHIN).cloned() else { return };
        match self.object(*id).kind {
            Kind::Instance("DOMStringMap") => {
                self.asks_for_target(target, &format!("[{}]", data_name(key)));
            }
            _ if TELLING.contains(&key) => self.is_asked_by(*variable, within, Self::name(key)),
            _ => {}
        }
    }

    /// The same for a variable that is given such a member.
    pub(super) fn asks_by_variable(&mut self, variable: Variable, given: ExpressionId) {
        if let Some((within, key)) = self.asked_by(given) {
            self.is_asked_by(variable, within, key);
        }
    }

    fn is_asked_by(&mut self, variable: Variable, within: Value, key: Arc<str>) {
        // A variable is known by its number in the script itself.
        if self.asked_variables.len() < MOST_ASKED && self.codes.called_at().is_none() {
            self.asked_variables.push((variable, within, key));
        }
    }

    /// Which member of where an event came from an expression comes to.
    fn asked_by(&self, asked: ExpressionId) -> Option<(Value, Arc<str>)> {
        match self.program.expression(asked) {
            Expression::Local(variable) => {
                let own = self.asked_variables.iter().rev().find(|(own, ..)| own == variable)?;
                Some((own.1.clone(), Arc::clone(&own.2)))
            }
            Expression::Member { object, key: Key::Name(name), .. } => {
                let (of, within, key) = self.asked_member.as_ref()?;
                (object == of && name == key).then(|| (within.clone(), Arc::clone(key)))
            }
            _ => None,
        }
    }

    /// Whether a value is some element of the page, nobody knows which.
    pub(super) fn is_somewhere(&self, value: &Value) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        let is_marked = [WITHIN, SOMEWHERE].iter().any(|mark| object.members.contains_key(*mark));
        is_marked && matches!(object.kind, Kind::Instance("HTMLElement"))
    }

    /// Whether a value is where an event came from, or what belongs to that.
    pub(super) fn is_asked_target(&self, value: &Value) -> bool {
        matches!(value, Value::Object(id) if self.object(*id).members.contains_key(WITHIN))
    }

    /// Whether a listener may hold such a member against anything.
    pub(super) fn may_ask(&self) -> bool {
        self.asked_member.is_some() || !self.asked_variables.is_empty()
    }

    /// Takes note that a listener holds such a member against a text.
    pub(super) fn asks_whether_equal(&mut self, asked: ExpressionId, text: &Value) {
        let (Some((within, key)), Value::Text(text)) = (self.asked_by(asked), text) else { return };
        if text.contains(['"', '\\']) {
            return;
        }
        let selector = match &*key {
            "tagName" | "nodeName" | "localName" => text.to_ascii_lowercase(),
            "className" => format!("[class=\"{text}\"]"),
            key => format!("[{key}=\"{text}\"]"),
        };
        if self.asked_targets.len() < MOST_ASKED {
            self.asked_targets.push(AskedTarget { within, selector });
        }
    }

    /// The same for a method by which it asks.
    pub(super) fn asks_by_method(&mut self, name: &str, this: &Value, given: &Value) {
        let Value::Text(text) = given else { return };
        if text.is_empty() || !text.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_')) {
            return;
        }
        match name {
            "contains" => self.asks_for_target(this, &format!(".{text}")),
            "hasAttribute" | "getAttribute" => self.asks_for_target(this, &format!("[{text}]")),
            _ => {}
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
        let mut sought = Sought::by(&selectors);
        let is_hidden = |at: ElementRef<'_>| at.data().attr(&html5ever::local_name!("hidden")).is_some();
        self.charge(document.count() / 20);
        let elements = document.descendants(top).filter_map(|id| document.element(id));
        let found = elements
            .filter(|own| sought.finds(*own, Assume::Must, None) && !own.and_ancestors().any(is_hidden));
        found.take(MOST).map(|own| own.id).collect()
    }
}
