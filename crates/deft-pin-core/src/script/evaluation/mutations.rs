//! What a `MutationObserver` is told of the changes that the script itself makes (DOM, "Mutation observers").

use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::FxHashSet;

use super::arguments::Arguments;
use super::machine::{Machine, Run, Task, Turn};
use super::presence::Watch;
use super::value::{Absence, Certainty, EXACT, Kind, ObjectId, Value};
use crate::markup::NodeId;
use crate::source::Span;

/// The name of what calls an observer.
const DELIVER: &str = "#deliver";
/// So many observers are followed.
const MOST: usize = 8;

/// The nodes of one list that another does not have.
fn without(list: &[NodeId], other: &[NodeId]) -> Vec<NodeId> {
    let other: FxHashSet<NodeId> = other.iter().copied().collect();
    list.iter().filter(|id| !other.contains(id)).copied().collect()
}

impl Machine<'_> {
    /// Takes note of what an observer looks at from now on, where the page is known.
    pub(super) fn watches(&mut self, observer: ObjectId, target: &Value, options: &Value, span: Span) {
        let says = |this: &Self, name: &str| this.option(options, name).map(|value| value.truth());
        let (children, attributes, subtree) =
            (says(self, "childList"), says(self, "attributes"), says(self, "subtree"));
        let is_known = [&children, &attributes, &subtree].iter().all(|own| !matches!(own, Some(Err(_))));
        let Some(node) = self.node_of(target).filter(|_| is_known && self.is_present()) else { return };
        let Some(target) = self.present_node(node).filter(|_| self.presence.watches.len() < MOST) else {
            return;
        };
        let mut watch = Watch {
            observer,
            target,
            children: children == Some(Ok(true)),
            attributes: attributes == Some(Ok(true)) && self.option(options, "attributeFilter").is_none(),
            subtree: subtree == Some(Ok(true)),
            seen: IndexMap::default(),
            given: Vec::new(),
            records: Vec::new(),
            span: self.codes.here(span),
        };
        self.looks(&mut watch);
        self.presence.watches.push(watch);
    }

    /// What a watch sees at present.
    fn looks(&mut self, watch: &mut Watch) {
        let Some(document) = self.present_document() else { return };
        let mut parents = vec![watch.target];
        if watch.subtree {
            parents.extend(document.descendants(watch.target));
        }
        if watch.children {
            let children = parents.iter().map(|id| (*id, document.children(*id).collect()));
            watch.seen = children.collect();
        }
        if watch.attributes {
            let own = document.element(watch.target);
            let attributes = own.iter().flat_map(|own| &own.data().attrs);
            watch.given =
                attributes.map(|own| (Arc::from(&*own.name.local), Arc::from(&*own.value))).collect();
        }
        self.charge(parents.len() / 8);
    }

    /// Keeps what has changed since observers were told last, and has them told.
    pub(super) fn mutates(&mut self) {
        let is_told = self.presence.watches.is_empty() || self.presence.watched == self.presence.changes;
        let is_sure =
            self.certainty == Certainty::Certain && self.turn.is_none_or(|turn| turn < Turn::Visitor);
        if is_told || !is_sure || self.presence.is_lost() {
            return;
        }
        self.presence.watched = self.presence.changes;
        let mut watches = std::mem::take(&mut self.presence.watches);
        for watch in &mut watches {
            let (seen, given) = (std::mem::take(&mut watch.seen), std::mem::take(&mut watch.given));
            self.looks(watch);
            let is_first = watch.records.is_empty();
            for (parent, before) in &seen {
                let Some(now) = watch.seen.get(parent).filter(|now| *now != before) else { continue };
                let (added, removed) = (without(now, before), without(before, now));
                let record = self.mutation("childList", *parent, &added, &removed, Value::NULL);
                watch.records.push(record);
            }
            for (name, _) in watch.given.iter().filter(|own| !given.contains(own)) {
                let record =
                    self.mutation("attributes", watch.target, &[], &[], Value::Text(Arc::clone(name)));
                watch.records.push(record);
            }
            if is_first && !watch.records.is_empty() {
                let deliver = self.made(Kind::Native("MutationObserver", Arc::from(DELIVER)));
                let this = Value::Object(watch.observer);
                let task = Task::later(deliver, this, Vec::new(), self.certainty, watch.span);
                self.schedule(Turn::Microtask, task);
            }
        }
        self.presence.watches = watches;
    }

    fn mutation(
        &mut self,
        kind: &str,
        target: NodeId,
        added: &[NodeId],
        removed: &[NodeId],
        attribute: Value,
    ) -> Value {
        let made = self.make(Kind::Instance("MutationRecord"));
        let mut listed = |ids: &[NodeId]| {
            let items = ids.iter().map(|id| self.present_value(*id)).collect();
            self.list("NodeList", items, None)
        };
        let (added, removed) = (listed(added), listed(removed));
        // It is kept where an observer asks for that alone.
        let before = match self.once("#old values", |this| this.text.contains("OldValue")) {
            true => Value::OPEN,
            false => Value::Null(Some(self.absent(Absence::Place { name: "oldValue".to_owned() }))),
        };
        let target = self.present_value(target);
        for (name, value) in [
            (EXACT, Value::NULL),
            ("type", Value::text(kind)),
            ("target", target),
            ("addedNodes", added),
            ("removedNodes", removed),
            ("attributeName", attribute),
            ("oldValue", before),
        ] {
            self.object_mut(made).members.insert(Arc::from(name), value);
        }
        Value::Object(made)
    }

    /// The records that an observer has not been told of.
    fn records_of(&mut self, observer: ObjectId) -> Value {
        let own = self.presence.watches.iter_mut().filter(|watch| watch.observer == observer);
        let records = own.flat_map(|watch| std::mem::take(&mut watch.records)).collect();
        self.array(records, false)
    }

    /// A method of an observer, or what tells it; none for others.
    pub(super) fn call_watch(&mut self, name: &str, observer: ObjectId, span: Span) -> Run<Option<Value>> {
        Ok(Some(match name {
            DELIVER => {
                let records = self.records_of(observer);
                let callback = self.object(observer).members.get("#callback").cloned();
                let is_none = matches!(self.kind(&records), Some(Kind::Array(items)) if items.is_empty());
                if let Some(callback) = callback.filter(|_| !is_none) {
                    let this = Value::Object(observer);
                    let given = Arguments::of(vec![records, this.clone()]);
                    self.call(&callback, this, given, span)?;
                }
                Value::UNDEFINED
            }
            "takeRecords" if self.presence.watches.iter().any(|watch| watch.observer == observer) => {
                self.records_of(observer)
            }
            "disconnect" => {
                self.presence.watches.retain(|watch| watch.observer != observer);
                Value::UNDEFINED
            }
            _ => return Ok(None),
        }))
    }
}
