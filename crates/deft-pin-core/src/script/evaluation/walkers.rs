//! Walks through a tree, node by node (DOM, "Traversal").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::platform::Interface;
use super::value::{EXACT, Kind, ObjectId, Value};
use crate::markup::{Document, NodeData, NodeId};
use crate::source::Span;

/// Members of a walker that are its own: where it starts, what it shows, and what it leaves out.
const ROOT: &str = "#root";
const SHOWN: &str = "#shown";
const FILTER: &str = "#filter";
/// What a filter answers, and which nodes are shown.
const NUMBERS: &[(&str, f64)] = &[
    ("FILTER_ACCEPT", 1.0),
    ("FILTER_REJECT", 2.0),
    ("FILTER_SKIP", 3.0),
    ("SHOW_ELEMENT", 1.0),
    ("SHOW_TEXT", 4.0),
    ("SHOW_COMMENT", 128.0),
    ("SHOW_ALL", u32::MAX as f64),
];

/// The node behind another in the order of the tree, in a root: the first in it, where that is asked for.
fn following(document: &Document, id: NodeId, root: NodeId, goes_in: bool) -> Option<NodeId> {
    if goes_in && let Some(first) = document.children(id).next() {
        return Some(first);
    }
    let around = std::iter::successors(Some(id), |at| document.node(*at).parent());
    around.take_while(|at| *at != root).find_map(|at| document.node(at).next())
}

impl Machine<'_> {
    /// `createTreeWalker` and `createNodeIterator`.
    pub(super) fn new_walker(&mut self, of: Interface, arguments: &Arguments) -> Value {
        let made = self.make(Kind::Instance(of));
        let shown = match arguments.get(1) {
            Value::Undefined(_) => Value::Number(f64::from(u32::MAX)),
            other => self.number_value(&other),
        };
        let at = if of == "TreeWalker" { "currentNode" } else { "referenceNode" };
        let object = self.object_mut(made);
        object.members.insert(Arc::from(EXACT), Value::NULL);
        object.members.insert(Arc::from(ROOT), arguments.get(0));
        object.members.insert(Arc::from(at), arguments.get(0));
        object.members.insert(Arc::from(SHOWN), shown);
        object.members.insert(Arc::from(FILTER), arguments.get(2));
        Value::Object(made)
    }

    /// `NodeFilter`.
    pub(super) fn node_filter(&mut self) -> Value {
        let id = self.make(Kind::Plain);
        for (name, number) in NUMBERS {
            self.object_mut(id).members.insert(Arc::from(*name), Value::Number(*number));
        }
        self.object_mut(id).is_open = true;
        Value::Object(id)
    }

    /// `nextNode()`; none where nobody can tell.
    pub(super) fn next_node(&mut self, id: ObjectId, of: Interface, span: Span) -> Run<Option<Value>> {
        let is_walker = of == "TreeWalker";
        let at = if is_walker { "currentNode" } else { "referenceNode" };
        let members = &self.object(id).members;
        let own = |name: &str| members.get(name).cloned().unwrap_or(Value::OPEN);
        let (root, current, filter, shown) = (own(ROOT), own(at), own(FILTER), own(SHOWN));
        let is_begun = members.contains_key("#begun");
        let Value::Number(shown) = shown else { return Ok(None) };
        if !self.is_present() {
            return Ok(None);
        }
        let (Some(root), Some(current)) = (self.tree_place(&root), self.tree_place(&current)) else {
            return Ok(None);
        };
        // An iterator begins with its root itself.
        let mut next = match is_walker || is_begun {
            true => self.present_document().and_then(|document| following(document, current, root, true)),
            false => Some(current),
        };
        while let Some(at_node) = next {
            self.step(1)?;
            let Some(document) = self.present_document() else { return Ok(None) };
            next = following(document, at_node, root, true);
            let bit = match document.node(at_node).data {
                NodeData::Element(_) => 1,
                NodeData::Text(_) => 4,
                NodeData::Comment(_) => 128,
                _ => 256,
            };
            if (shown as u64) & bit == 0 {
                continue;
            }
            let value = self.present_value(at_node);
            match self.passes(&filter, &value, span)? {
                Some(1) => {
                    self.put_member(id, Arc::from(at), value.clone());
                    self.put_member(id, Arc::from("#begun"), Value::NULL);
                    return Ok(Some(value));
                }
                // It is left out with all that is in it.
                Some(2) if is_walker => {
                    next = self.present_document().and_then(|own| following(own, at_node, root, false));
                }
                Some(_) => {}
                None => return Ok(None),
            }
        }
        Ok(Some(Value::NULL))
    }

    /// Where a value is in the tree.
    fn tree_place(&mut self, value: &Value) -> Option<NodeId> {
        match self.node_of(value) {
            Some(node) => self.present_node(node),
            None if matches!(self.kind(value), Some(Kind::Document)) => Some(NodeId::DOCUMENT),
            None => self.present_text(value),
        }
    }

    /// What a filter says of a node: 1 to take it, 2 to leave it out with all that is in it, 3 to leave it out alone.
    fn passes(&mut self, filter: &Value, node: &Value, span: Span) -> Run<Option<u8>> {
        let function = match filter {
            Value::Undefined(_) | Value::Null(_) => return Ok(Some(1)),
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Plain => self.object(*id).members.get("acceptNode").cloned(),
                Kind::Function(_) => Some(filter.clone()),
                _ => None,
            },
            _ => None,
        };
        let Some(function) = function else { return Ok(None) };
        let given = Arguments::of(vec![node.clone()]);
        let answer = self.call(&function, filter.clone(), given, span)?;
        Ok(match self.as_number(&answer) {
            Ok(1.0) => Some(1),
            Ok(2.0) => Some(2),
            Ok(_) => Some(3),
            Err(_) => None,
        })
    }
}
