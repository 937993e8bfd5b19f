//! Changes to a tree that is there already, as scripts make them (DOM, "mutation algorithms").

use std::rc::Rc;

use html5ever::tendril::StrTendril;
use html5ever::{LocalName, Namespace, QualName, local_name, ns};

use super::document::{Document, Element, NodeData, NodeId, Origin};
use super::links;

impl Document {
    /// How many nodes there are, those that stand nowhere with them.
    pub fn count(&self) -> usize {
        self.nodes.len()
    }

    fn push(&mut self, data: NodeData) -> NodeId {
        self.nodes.push(links::node(data));
        NodeId::from_index(self.nodes.len() - 1)
    }

    /// An element of HTML that stands nowhere yet.
    pub fn make_element(&mut self, name: &str) -> NodeId {
        let contents = (name == "template").then(|| self.make_fragment());
        self.make_element_in(ns!(html), name, contents)
    }

    /// An element of SVG or MathML that stands nowhere yet.
    pub fn make_drawing(&mut self, name: &str, is_svg: bool) -> NodeId {
        self.make_element_in(if is_svg { ns!(svg) } else { ns!(mathml) }, name, None)
    }

    fn make_element_in(&mut self, space: Namespace, name: &str, contents: Option<NodeId>) -> NodeId {
        self.push(NodeData::Element(Rc::new(Element {
            name: QualName::new(None, space, LocalName::from(name)),
            attrs: Vec::new(),
            id: None,
            classes: Box::default(),
            origin: Origin::Implied(0),
            end_tag: None,
            contents,
            shadow: None,
        })))
    }

    /// A fragment that stands nowhere.
    pub fn make_fragment(&mut self) -> NodeId {
        self.push(NodeData::Fragment)
    }

    /// A run of text that stands nowhere yet.
    pub fn make_text(&mut self, text: &str) -> NodeId {
        self.push(NodeData::Text(StrTendril::from_slice(text)))
    }

    /// Takes a node out of its place.
    pub fn detach(&mut self, id: NodeId) {
        links::detach(&mut self.nodes, id);
    }

    /// Puts a node before another in a parent, or last.
    pub fn put(&mut self, id: NodeId, parent: NodeId, before: Option<NodeId>) {
        links::insert(&mut self.nodes, parent, before, id);
    }

    /// Takes an attribute from an element.
    pub fn remove_attribute(&mut self, id: NodeId, name: &LocalName) {
        let Some(element) = self.nodes[id.index()].data.element_mut() else { return };
        element.attrs.retain(|own| own.name.local != *name || own.name.ns != ns!());
        element.note_names();
    }

    /// A copy of a node, with what is in it or alone, that stands nowhere yet (DOM, "clone a node").
    pub fn copy(&mut self, id: NodeId, is_deep: bool) -> NodeId {
        let data = self.node(id).data.clone();
        self.copy_of(data, is_deep.then_some(id))
    }

    fn copy_of(&mut self, data: NodeData, from: Option<NodeId>) -> NodeId {
        let mut data = without_tags(data);
        if let Some(element) = data.element_mut()
            && let Some(contents) = element.contents
        {
            element.contents = Some(self.copy_of(NodeData::Fragment, from.map(|_| contents)));
        }
        let copy = self.push(data);
        // No deeper than the parser goes.
        let children: Vec<NodeId> = from.map(|from| self.children(from).collect()).unwrap_or_default();
        for child in children {
            let child = stacker::maybe_grow(128 << 10, 2 << 20, || self.copy(child, true));
            self.put(child, copy, None);
        }
        copy
    }

    /// Takes a node of another document over, with what is in it; it stands nowhere yet.
    pub fn take_over(&mut self, other: &Document, id: NodeId) -> NodeId {
        let mut data = without_tags(other.node(id).data.clone());
        if let Some(element) = data.element_mut()
            && let Some(contents) = element.contents
        {
            element.contents = Some(self.take_over(other, contents));
        }
        let own = self.push(data);
        for child in other.children(id) {
            let child = stacker::maybe_grow(128 << 10, 2 << 20, || self.take_over(other, child));
            self.put(child, own, None);
        }
        own
    }

    /// What is in the fragment of a template, or of an element itself.
    pub fn contents_of(&self, id: NodeId) -> Option<NodeId> {
        self.element(id)?.data().contents
    }

    /// Whether a node is another, or in it.
    pub fn is_in(&self, id: NodeId, other: NodeId) -> bool {
        std::iter::successors(Some(id), |at| self.node(*at).parent).any(|at| at == other)
    }

    /// The children that are elements, first to last.
    pub fn child_elements(&self, id: NodeId) -> impl Iterator<Item = NodeId> + '_ {
        self.children(id).filter(|child| self.element(*child).is_some())
    }

    /// The first child that is an HTML element of that name.
    pub fn child_named(&self, id: NodeId, name: &str) -> Option<NodeId> {
        let mut children = self.child_elements(id);
        children
            .find(|child| self.element(*child).is_some_and(|own| own.data().is_html(&LocalName::from(name))))
    }

    /// Whether a node is the head, the body or the root: code can be put into these at either end.
    pub fn is_slotted(&self, id: NodeId) -> bool {
        self.element(id).is_some_and(|own| {
            let name = &own.data().name;
            name.ns == ns!(html)
                && matches!(name.local, local_name!("html") | local_name!("head") | local_name!("body"))
        })
    }
}

/// What a copy of a node is, which no tags of the page's text stand for.
fn without_tags(mut data: NodeData) -> NodeData {
    if let Some(element) = data.element_mut() {
        element.origin = Origin::Implied(0);
        (element.end_tag, element.shadow) = (None, None);
    }
    data
}
