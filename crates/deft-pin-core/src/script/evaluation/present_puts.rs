//! Nodes that come into the page at present, and go (DOM, "mutation algorithms").

use super::lookups::local;
use super::machine::Machine;
use super::pieces::{Holes, take_holes};
use super::value::{Kind, Node, Value};
use crate::markup::{LocalName, NodeId, ns, parse_within};

/// Longer markup is not read.
const LONGEST: usize = 20_000;

/// What is put into the tree.
enum Put {
    Node(NodeId),
    Text(String),
    /// A text that is not known.
    SomeText,
    /// Nobody can tell.
    Open,
}

impl Machine<'_> {
    /// A copy of an element is there, as a value.
    pub(super) fn copies_at_present(&mut self, node: Node, is_deep: bool, copy: &Value) {
        let (Some(id), Some(Node::Made(number))) = (self.present_node(node), self.node_of(copy)) else {
            return;
        };
        let Some(page) = self.changed_page() else { return };
        let before = page.document.count();
        let made = page.document.copy(id, is_deep);
        let size = page.document.count() - before;
        self.is_present_as(number, made);
        self.charge(size / 8);
    }

    /// What a value is that is put into the tree.
    fn put_for(&mut self, value: &Value, takes_texts: bool) -> Put {
        match self.node_of(value) {
            Some(node) => return self.present_node(node).map_or(Put::Open, Put::Node),
            None if self.present_text(value).is_some() => {
                return self.present_text(value).map_or(Put::Open, Put::Node);
            }
            None if matches!(self.kind(value), Some(Kind::Instance("Text" | "Comment"))) => {
                return Put::SomeText;
            }
            None => {}
        }
        match value {
            _ if !takes_texts => Put::Open,
            Value::Some(..) | Value::Pieced(..) => Put::SomeText,
            // These are written as texts.
            Value::Object(id)
                if matches!(
                    self.object(*id).kind,
                    Kind::Array(_) | Kind::List(..) | Kind::Plain | Kind::Query(..) | Kind::Date(_)
                ) =>
            {
                Put::SomeText
            }
            Value::Object(_) | Value::Unknown(_) => Put::Open,
            value => self.as_text(value).map_or(Put::SomeText, |text| Put::Text(text.to_string())),
        }
    }

    /// Puts what is given before a node of a parent, or last. None where that cannot be told.
    pub(super) fn puts(
        &mut self,
        all: &[Value],
        takes_texts: bool,
        parent: NodeId,
        before: Option<NodeId>,
    ) -> Option<()> {
        if !self.is_settled(parent) {
            return None;
        }
        for value in all {
            let id = match self.put_for(value, takes_texts) {
                Put::Open => return None,
                Put::SomeText => {
                    self.presence.vague.texts = true;
                    self.changed_page()?.document.make_text("text")
                }
                Put::Text(text) => self.changed_page()?.document.make_text(&text),
                Put::Node(id) => id,
            };
            let page = self.changed_page()?;
            let document = &mut page.document;
            // None is put into itself.
            if document.is_in(parent, id) {
                return None;
            }
            let is_fragment = matches!(document.node(id).data, crate::markup::NodeData::Fragment);
            let nodes: Vec<NodeId> = if is_fragment { document.children(id).collect() } else { vec![id] };
            for own in &nodes {
                if before != Some(*own) {
                    document.put(*own, parent, before);
                }
            }
            self.comes_in(&nodes);
        }
        Some(())
    }

    /// Elements come into the page: scripts among them run, and nobody knows what these do.
    pub(super) fn comes_in(&mut self, nodes: &[NodeId]) {
        let Some(document) = self.present_document() else { return };
        let is_script =
            |id: NodeId| document.element(id).is_some_and(|own| own.data().is_html(&local("script")));
        self.charge(nodes.len());
        let has_script = nodes.iter().any(|id| is_script(*id) || document.descendants(*id).any(is_script));
        if has_script {
            self.presence.ends = true;
        }
        self.customs_come_in(nodes);
    }

    /// Reads markup as what is in an element, and puts it before a node of a parent, or last.
    pub(super) fn puts_markup(
        &mut self,
        markup: &Value,
        (tag, parent, before): (&str, NodeId, Option<NodeId>),
    ) -> Option<()> {
        let text = self.readable(markup)?;
        if text.len() > LONGEST || !self.is_settled(parent) {
            return None;
        }
        self.charge(text.len() / 8);
        let space = self.present_document()?.element(parent).map(|own| own.data().name.ns.clone());
        let tag = match space {
            Some(ns!(svg)) => "svg",
            Some(ns!(mathml)) => "math",
            _ if matches!(tag, "svg" | "math") => "div",
            _ => tag,
        };
        let (mut other, top) = parse_within(tag, &text)?;
        if !matches!(markup, Value::Text(_)) {
            self.leaves_vague(take_holes(&mut other, top)?);
        }
        let page = self.changed_page()?;
        let before_count = page.document.count();
        let children: Vec<NodeId> = other.children(top).collect();
        let mut added = Vec::with_capacity(children.len());
        for child in children {
            let own = page.document.take_over(&other, child);
            page.document.put(own, parent, before);
            added.push(own);
        }
        let size = page.document.count() - before_count;
        self.charge(size / 8);
        self.customs_come_in(&added);
        Some(())
    }

    /// What stood for holes in markup cannot be told.
    fn leaves_vague(&mut self, holes: Holes) {
        let vague = &mut self.presence.vague;
        vague.texts |= holes.in_texts;
        vague.all_names |= holes.beginnings.iter().any(|beginning| beginning.is_empty());
        vague.beginnings.extend(holes.beginnings);
        vague.attributes.extend(holes.attributes);
    }

    /// The name of an element of the tree; nothing of a fragment.
    pub(super) fn name_of(&self, id: NodeId) -> Option<LocalName> {
        let document = self.present_document()?;
        Some(document.element(id).map_or_else(|| local("template"), |own| own.data().name.local.clone()))
    }

    /// The node of a value that is a child of another.
    pub(super) fn child_of(&mut self, value: &Value, parent: NodeId) -> Option<NodeId> {
        let id = match self.present_text(value) {
            Some(id) => id,
            None => {
                let node = self.node_of(value)?;
                self.present_node(node)?
            }
        };
        (self.present_document()?.node(id).parent() == Some(parent)).then_some(id)
    }

    /// Takes everything out of a node.
    pub(super) fn empties(&mut self, id: NodeId) -> Option<()> {
        if !self.is_settled(id) {
            return None;
        }
        let page = self.changed_page()?;
        let children: Vec<NodeId> = page.document.children(id).collect();
        children.into_iter().for_each(|child| page.document.detach(child));
        Some(())
    }

    pub(super) fn descendants_named(&self, id: NodeId, name: &str) -> Option<Vec<NodeId>> {
        let document = self.present_document()?;
        let is_it = |own: &NodeId| document.element(*own).is_some_and(|own| own.data().is_html(&local(name)));
        Some(document.descendants(id).filter(is_it).collect())
    }
}
