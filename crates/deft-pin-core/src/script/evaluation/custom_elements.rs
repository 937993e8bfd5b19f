//! Elements of names and classes of the script's own (HTML, "Custom elements").

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::lookups::local;
use super::machine::{Machine, Run, Stop};
use super::presence::{Custom, Reaction};
use super::value::{Absence, Certainty, Kind, Node, ObjectId, Value};
use crate::markup::NodeId;
use crate::source::Span;

/// So many of them are followed at most, and so many reactions of each.
const MOST: usize = 200;

impl Machine<'_> {
    /// The class of the elements of a name: `undefined` where nothing defines one.
    pub(super) fn class_of_tag(&mut self, name: &Value) -> Value {
        let Value::Text(name) = name else { return Value::OPEN };
        let is_own = self.presence.customs.contains_key(name) || self.text.matches(&**name).nth(1).is_some();
        if is_own || self.world.mentions(name) || !self.world.knows_all() {
            return Value::OPEN;
        }
        let place = Absence::Place { name: format!("customElements.get(\"{name}\")") };
        Value::Undefined(Some(self.absent(place)))
    }

    /// `customElements.define`: elements of the page that are there become ones of the class.
    pub(super) fn define_element(&mut self, arguments: &Arguments, span: Span) -> Run<()> {
        let class = arguments.get(1);
        if let Value::Text(name) = arguments.get(0)
            && !is_element_name(&name)
        {
            let kind = RunFaultKind::RefusedArgument {
                method: "customElements.define".to_owned(),
                given: name.to_string(),
                takes: "a name in small letters with a dash in it".to_owned(),
                write: None,
            };
            return Err(self.throws(span, kind));
        }
        let (Ok(tag), Value::Object(id)) = (self.as_text(&arguments.get(0)), &class) else {
            self.presence.lose();
            return self.hand_over(&class);
        };
        let id = *id;
        if !matches!(self.object(id).kind, Kind::Class(..)) {
            self.presence.lose();
            return self.hand_over(&class);
        }
        if self.presence.customs.contains_key(&tag) {
            let (given, takes) = (tag.to_string(), "a name that is not taken yet");
            return Err(self.refused("customElements.define", given, takes, None, span));
        }
        if self.presence.customs.values().any(|custom| custom.class == id) {
            let (given, takes) = (self.written(span), "a class that has no name yet");
            return Err(self.refused("customElements.define", given, takes, None, span));
        }
        let is_followed = self.is_plain_custom(id)
            && self.is_present()
            && self.changes_surely()
            && arguments.values.len() == 2;
        if !is_followed {
            // Elements of that name change by themselves.
            self.presence.lose();
            return self.supposes_element(&tag, id, span);
        }
        let observed = self.observed_by(id, span)?;
        let span = self.codes.here(span);
        self.presence.customs.insert(Arc::clone(&tag), Custom { class: id, span, observed, is_met: false });
        let name = local(&tag);
        let there: Vec<NodeId> = match self.present_document() {
            Some(document) => {
                document.elements().filter(|own| own.data().is_html(&name)).map(|own| own.id).collect()
            }
            None => Vec::new(),
        };
        for node in there {
            self.reactions.push((node, Reaction::Connected));
        }
        self.reacts()
    }

    /// Whether a class makes elements of no name of the platform's.
    fn is_plain_custom(&self, class: ObjectId) -> bool {
        self.root_of(class) == Some("HTMLElement")
    }

    /// Whether an element is of a class of the script that can be followed.
    pub(super) fn is_of_own_class(&self, node: Node) -> bool {
        let is_upgraded = self.present_id(node).is_some_and(|id| self.presence.upgraded.contains(&id));
        let class = self.custom(&self.tag_of(node)).map(|custom| custom.class);
        is_upgraded && class.is_some_and(|class| self.is_plain_custom(class))
    }

    /// Whether no script of the page says the name of a custom element but to make one: it stays an element without a class
    /// (HTML, "custom element state").
    pub(super) fn is_never_defined(&mut self, tag: &str) -> bool {
        !self.once("#custom elements", |this| this.text.contains("customElements"))
            && self.world.knows_all()
            && !self.world.mentions(tag)
    }

    /// `whenDefined`: a promise of the class that elements of a name have.
    pub(super) fn when_defined(&mut self, name: &Value) -> Value {
        let tag = self.as_text(name).ok();
        match tag.and_then(|tag| self.custom(&tag).map(|custom| custom.class)) {
            Some(class) => self.settled(true, Value::Object(class)),
            None => self.waiting(Value::OPEN),
        }
    }

    /// The attributes whose changes a class is told of.
    fn observed_by(&mut self, class: ObjectId, span: Span) -> Run<Vec<Arc<str>>> {
        let list = self.member_at(&Value::Object(class), Some(&Self::name("observedAttributes")), span)?;
        Ok(match self.kind(&list) {
            Some(Kind::Array(items)) => {
                let items = items.clone();
                items.iter().filter_map(|item| self.as_text(item).ok()).collect()
            }
            _ => Vec::new(),
        })
    }

    /// The class of elements of that name.
    fn custom(&self, tag: &str) -> Option<&Custom> {
        self.presence.customs.get(tag)
    }

    /// Elements have come into the page: those of a class of the script's are told so, soon.
    pub(super) fn customs_come_in(&mut self, nodes: &[NodeId]) {
        if self.presence.customs.is_empty() {
            return;
        }
        let Some(document) = self.present_document() else { return };
        let is_custom = |id: &NodeId| {
            let own = document.element(*id);
            own.is_some_and(|own| self.presence.customs.contains_key(&*own.data().name.local))
        };
        let (mut found, mut looked) = (Vec::new(), 0);
        for node in nodes.iter().filter(|node| document.is_in_tree(**node)) {
            let all = std::iter::once(*node).chain(document.descendants(*node)).inspect(|_| looked += 1);
            found.extend(all.filter(is_custom));
        }
        self.charge(looked / 8);
        self.reactions.extend(found.into_iter().map(|node| (node, Reaction::Connected)));
    }

    /// An attribute is given, or taken.
    pub(super) fn custom_changes(&mut self, id: NodeId, name: &str, before: Option<Arc<str>>) {
        if self.presence.customs.is_empty() {
            return;
        }
        let own = self.present_document().and_then(|document| document.element(id));
        let Some(own) = own else { return };
        let is_told = self
            .custom(&own.data().name.local)
            .is_some_and(|custom| custom.observed.iter().any(|observed| **observed == *name));
        if is_told && self.presence.upgraded.contains(&id) {
            self.reactions.push((id, Reaction::Changed(Arc::from(name), before)));
        }
    }

    /// An element that the script makes is of its class at once.
    pub(super) fn makes_custom(&mut self, value: &Value) -> Run<()> {
        let Some(node) = self.node_of(value) else { return Ok(()) };
        if self.presence.customs.contains_key(&*self.tag_of(node))
            && let Some(id) = self.present_node(node)
        {
            self.upgrades(id)?;
            return self.reacts();
        }
        Ok(())
    }

    /// `new` on a class whose elements have a name: one of them.
    pub(super) fn new_custom(&mut self, class: ObjectId, span: Span) -> Run<Option<Value>> {
        let known = self.presence.customs.iter().find(|(_, custom)| custom.class == class);
        let Some(tag) = known.map(|(tag, _)| Arc::clone(tag)) else {
            // Without a name its parent makes none, once it is asked to.
            let asks = match self.object(class).kind {
                Kind::Class(own, scope) => {
                    let own = self.program_of(scope).class(own);
                    own.constructor.is_none() || own.calls_super
                }
                _ => false,
            };
            if asks && self.is_plain_custom(class) && !self.presence.is_lost() {
                let (given, takes) =
                    (self.written(span), "a class that `customElements.define(…)` was given");
                return Err(self.refused("new HTMLElement", given, takes, None, span));
            }
            return Ok(None);
        };
        let made = self.make_element(&tag);
        if let Some(node) = self.node_of(&made)
            && let Some(id) = self.present_node(node)
        {
            self.presence.upgraded.insert(id);
        }
        if let Some(custom) = self.presence.customs.get_mut(&tag) {
            custom.is_met = true;
        }
        Ok(Some(made))
    }

    /// Calls what is to be told of the elements whose changes are noted (HTML, "custom element reactions stack").
    pub(super) fn reacts(&mut self) -> Run<()> {
        self.mutates();
        let mut count = 0;
        while !self.reactions.is_empty() {
            let (id, reaction) = self.reactions.remove(0);
            count += 1;
            if self.presence.is_lost() || count > MOST {
                self.presence.lose();
                self.reactions.clear();
                return Ok(());
            }
            match reaction {
                Reaction::Connected => {
                    self.upgrades(id)?;
                    let is_there = self.present_document().is_some_and(|document| document.is_in_tree(id));
                    if is_there {
                        self.calls_back(id, "connectedCallback", Vec::new())?;
                    }
                }
                Reaction::Changed(name, before) => {
                    let value = self.attribute_of_custom(id, &name);
                    let before = before.map_or(Value::NULL, Value::Text);
                    let given = vec![Value::Text(name), before, value];
                    self.calls_back(id, "attributeChangedCallback", given)?;
                }
            }
        }
        Ok(())
    }

    fn attribute_of_custom(&self, id: NodeId, name: &str) -> Value {
        let own = self.present_document().and_then(|document| document.element(id));
        own.and_then(|own| own.data().attr(&local(name))).map_or(Value::NULL, Value::text)
    }

    /// Makes an element one of its class, and tells it what attributes it has.
    fn upgrades(&mut self, id: NodeId) -> Run<()> {
        if !self.presence.upgraded.insert(id) {
            return Ok(());
        }
        let own = self.present_document().and_then(|document| document.element(id));
        let Some(tag) = own.map(|own| own.data().name.local.to_string()) else { return Ok(()) };
        let Some(custom) = self.presence.customs.get_mut(&*tag) else { return Ok(()) };
        custom.is_met = true;
        let (class, span, observed) = (custom.class, custom.span, custom.observed.clone());
        let Value::Object(made) = self.present_value(id) else { return Ok(()) };
        self.reports(|this| this.becomes_instance(made, class, Arguments::default(), span))?;
        for name in observed {
            let value = self.attribute_of_custom(id, &name);
            if !matches!(value, Value::Null(_)) {
                let given = vec![Value::Text(name), Value::NULL, value];
                self.calls_back(id, "attributeChangedCallback", given)?;
            }
        }
        Ok(())
    }

    /// Calls a method of an element of the script's, where it has that.
    fn calls_back(&mut self, id: NodeId, name: &str, arguments: Vec<Value>) -> Run<()> {
        let element = self.present_value(id);
        let span = self.called_at;
        let method = self.member_at(&element, Some(&Self::name(name)), span)?;
        if !matches!(self.kind(&method), Some(Kind::Function(_))) {
            return Ok(());
        }
        self.reports(|this| this.call(&method, element, Arguments::of(arguments), span))
    }

    /// Runs what is called from outside: what it throws is reported, and the script goes on.
    fn reports(&mut self, run: impl FnOnce(&mut Self) -> Run<Value>) -> Run<()> {
        let outer = (self.certainty, self.region, self.thrown.take(), self.tries);
        self.tries = 0;
        let result = self.deeper(run);
        (self.certainty, self.region, self.thrown, self.tries) = outer;
        match result {
            Err(Stop::Halt) => Err(Stop::Halt),
            _ => Ok(()),
        }
    }

    /// Classes that no element was seen to become: some visit comes to one, where the script makes it.
    pub(super) fn supposes_elements(&mut self) -> Run<()> {
        let mut left: Vec<(Arc<str>, Custom)> =
            self.presence.customs.drain().filter(|(_, custom)| !custom.is_met).collect();
        left.sort_by_key(|(_, custom)| custom.span);
        left.into_iter().try_for_each(|(tag, custom)| self.supposes_element(&tag, custom.class, custom.span))
    }

    /// The same for a class whose elements cannot be followed.
    fn supposes_element(&mut self, tag: &str, class: ObjectId, span: Span) -> Run<()> {
        let document = self.world.document();
        let until = self.world.parsed_until().filter(|_| !self.is_later);
        let is_there = document.elements().any(|own| {
            *own.data().name.local == *tag && until.is_none_or(|until| own.data().start() < until)
        });
        // The script may make one by itself.
        let makes =
            [format!("createElement('{tag}')"), format!("createElement(\"{tag}\")"), format!("<{tag}")];
        let certainty = match is_there {
            true => Certainty::Certain,
            false if makes.iter().any(|made| self.text.contains(made.as_str())) => Certainty::SomeVisit,
            false => Certainty::Perhaps,
        };
        let is_bare = matches!(self.object(class).kind, Kind::Class(own, scope) if self.program_of(scope).class(own).parent.is_none());
        let result = self.perhaps(certainty, |this| {
            if is_bare {
                let write = Some("class extends HTMLElement");
                let takes = "a class that extends `HTMLElement`";
                return Err(this.refused("customElements.define", tag, takes, write, span));
            }
            let made = this.make(Kind::Plain);
            this.object_mut(made).is_open = true;
            this.becomes_instance(made, class, Arguments::default(), span)?;
            let key = Self::name("connectedCallback");
            let connected = this.member_at(&Value::Object(made), Some(&key), span)?;
            if matches!(this.kind(&connected), Some(Kind::Function(_))) {
                this.call(&connected, Value::Object(made), Arguments::default(), span)?;
            }
            Ok(())
        });
        match result {
            Err(Stop::Halt) => Err(Stop::Halt),
            // It is reported, and the script goes on.
            _ => Ok(()),
        }
    }
}

/// Whether authors may give an element that name (HTML, "valid custom element name").
fn is_element_name(name: &str) -> bool {
    const TAKEN: &[&str] = &[
        "annotation-xml", "color-profile", "font-face", "font-face-src", "font-face-uri", "font-face-format",
        "font-face-name", "missing-glyph",
    ];
    name.starts_with(|c: char| c.is_ascii_lowercase())
        && name.contains('-')
        && !name
            .contains(|c: char| c.is_ascii_uppercase() || c.is_whitespace() || matches!(c, '<' | '>' | '/'))
        && !TAKEN.contains(&name)
}
