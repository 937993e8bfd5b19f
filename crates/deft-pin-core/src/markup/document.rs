//! The tree of a page: an arena of nodes, in which each element knows the place of its tags.

use std::fmt;
use std::num::NonZeroU32;
use std::rc::Rc;

use html5ever::tendril::StrTendril;
use html5ever::tree_builder::QuirksMode;
use html5ever::{LocalName, QualName, local_name, ns};

use super::slots::Slots;
use crate::source::Span;

pub use html5ever::Attribute;

/// A node of one document. Ids count in the order in which the parser made the nodes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct NodeId(NonZeroU32);

impl NodeId {
    /// The document node, which every tree has.
    pub const DOCUMENT: NodeId = NodeId(NonZeroU32::MIN);

    pub(crate) fn from_index(index: usize) -> Self {
        let number = u32::try_from(index + 1).unwrap_or(u32::MAX);
        NodeId(NonZeroU32::new(number).unwrap_or(NonZeroU32::MIN))
    }

    /// The number of the node in the order of the parser, from 1.
    pub(crate) fn number(self) -> u32 {
        self.0.get()
    }

    pub(crate) fn index(self) -> usize {
        self.0.get() as usize - 1
    }
}

/// What an element came from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Origin {
    /// A start tag of its own, which this span of the text covers.
    Tag(Span),
    /// No tag of its own: the parser made it up (`<head>`, `<tbody>`, a formatting element that
    /// is opened again) when it came to this byte of the text.
    Implied(u32),
}

/// An element: its name, its attributes, and where its tags stand in the page's text.
#[derive(Clone, Debug)]
pub struct Element {
    /// The name, with its namespace.
    pub name: QualName,
    /// The attributes, in the order of the tag.
    pub attrs: Vec<Attribute>,
    /// The `id`, where it is not empty.
    pub id: Option<LocalName>,
    /// The classes, in the order of the attribute.
    pub classes: Box<[LocalName]>,
    /// The start tag, or where the parser made the element up.
    pub origin: Origin,
    /// The end tag, where one in the text closed this element.
    pub end_tag: Option<Span>,
    /// For a `<template>`, the fragment that holds its contents.
    pub contents: Option<NodeId>,
    /// The root of its shadow tree.
    pub shadow: Option<NodeId>,
}

impl Element {
    /// The value of an attribute that has no namespace.
    pub fn attr(&self, name: &LocalName) -> Option<&str> {
        self.attrs
            .iter()
            .find(|attribute| attribute.name.local == *name && attribute.name.ns == ns!())
            .map(|attribute| &*attribute.value)
    }

    /// Whether this is the HTML element of that name.
    pub fn is_html(&self, name: &LocalName) -> bool {
        self.name.ns == ns!(html) && self.name.local == *name
    }

    /// The `id`, where it is not empty.
    pub fn id(&self) -> Option<&str> {
        self.id.as_deref()
    }

    /// The classes, in the order of the attribute.
    pub fn classes(&self) -> impl Iterator<Item = &str> {
        self.classes.iter().map(|class| &**class)
    }

    /// Takes the names in `id` and `class` over from the attributes. Names are kept interned: they
    /// are compared and looked up far more often than they are read.
    pub(super) fn note_names(&mut self) {
        self.id = self.attr(&local_name!("id")).filter(|id| !id.is_empty()).map(LocalName::from);
        let classes = self.attr(&local_name!("class")).unwrap_or_default().split_ascii_whitespace();
        self.classes = classes.map(LocalName::from).collect();
    }

    /// The byte of the page's text where the element begins.
    pub fn start(&self) -> u32 {
        match self.origin {
            Origin::Tag(span) => span.start,
            Origin::Implied(at) => at,
        }
    }
}

/// What a node is.
#[derive(Clone, Debug)]
pub enum NodeData {
    /// The document itself.
    Document,
    /// The contents of a `<template>`, or the root of a shadow tree.
    Fragment,
    /// The document type declaration's name.
    Doctype(StrTendril),
    /// A run of text.
    Text(StrTendril),
    /// A comment.
    Comment(StrTendril),
    /// An element, which copies of the tree share until one of them changes it.
    Element(Rc<Element>),
}

impl NodeData {
    /// What is in the template that a node is.
    pub(super) fn contents(&self) -> Option<NodeId> {
        match self {
            NodeData::Element(element) => element.contents,
            _ => None,
        }
    }

    /// The element that a node is, to be changed.
    pub(super) fn element_mut(&mut self) -> Option<&mut Element> {
        match self {
            NodeData::Element(element) => Some(Rc::make_mut(element)),
            _ => None,
        }
    }
}

/// A node with its links.
#[derive(Clone, Debug)]
pub struct Node {
    /// What the node is.
    pub data: NodeData,
    pub(super) parent: Option<NodeId>,
    pub(super) previous: Option<NodeId>,
    pub(super) next: Option<NodeId>,
    pub(super) first_child: Option<NodeId>,
    pub(super) last_child: Option<NodeId>,
}

impl Node {
    /// The next node in the same parent.
    pub fn next(&self) -> Option<NodeId> {
        self.next
    }

    /// The one before it.
    pub fn previous(&self) -> Option<NodeId> {
        self.previous
    }

    /// The node that it is in.
    pub fn parent(&self) -> Option<NodeId> {
        self.parent
    }

    /// The last node in it.
    pub fn last_child(&self) -> Option<NodeId> {
        self.last_child
    }
}

/// A page's tree, and the places in its text where code can be put.
#[derive(Clone, Debug)]
pub struct Document {
    pub(super) nodes: Vec<Node>,
    pub(super) quirks: QuirksMode,
    pub(super) slots: Slots,
    pub(super) bases: Vec<NodeId>,
    pub(super) hosts: Vec<NodeId>,
}

impl Document {
    /// One node.
    pub fn node(&self, id: NodeId) -> &Node {
        &self.nodes[id.index()]
    }

    /// The element that a node is, if it is one.
    pub fn element(&self, id: NodeId) -> Option<ElementRef<'_>> {
        matches!(self.node(id).data, NodeData::Element(_)).then_some(ElementRef { document: self, id })
    }

    /// The children of a node, first to last.
    pub fn children(&self, id: NodeId) -> impl Iterator<Item = NodeId> + '_ {
        std::iter::successors(self.node(id).first_child, |child| self.node(*child).next)
    }

    /// The root element.
    pub fn root(&self) -> Option<ElementRef<'_>> {
        self.children(NodeId::DOCUMENT).find_map(|id| self.element(id))
    }

    /// The `<head>` element.
    pub fn head(&self) -> Option<ElementRef<'_>> {
        self.child_of_root(&local_name!("head"))
    }

    /// The `<body>` element; a page of frames has none.
    pub fn body(&self) -> Option<ElementRef<'_>> {
        self.child_of_root(&local_name!("body"))
    }

    /// The first `<base>` with an address.
    pub fn base(&self) -> Option<ElementRef<'_>> {
        // Few pages have one, and a tree is long to look through: the parser has noted them.
        let mut bases: Vec<NodeId> = self.bases.iter().copied().filter(|id| self.is_base(*id)).collect();
        bases.sort();
        bases.first().and_then(|id| self.element(*id))
    }

    /// What a `<meta http-equiv>` of the head says (HTML, "pragma directives"): of several the last.
    pub fn pragma(&self, name: &str) -> Option<&str> {
        let head = self.child_of_root(&local_name!("head"))?;
        let metas = self.children(head.id).filter_map(|id| self.element(id));
        let metas = metas.filter(|element| element.is_html(&local_name!("meta")));
        let is_it = |element: &ElementRef<'_>| {
            let kind = element.data().attr(&local_name!("http-equiv"));
            kind.is_some_and(|kind| kind.trim().eq_ignore_ascii_case(name))
        };
        metas.filter(is_it).filter_map(|element| element.data().attr(&local_name!("content"))).last()
    }

    /// Whether a node is in the tree: contents of templates, and what the parser made and left out, are not.
    pub fn is_in_tree(&self, id: NodeId) -> bool {
        let around = std::iter::successors(Some(id), |id| self.node(*id).parent);
        let mut up_to_contents = around.take_while(|id| !matches!(self.node(*id).data, NodeData::Fragment));
        up_to_contents.any(|id| id == NodeId::DOCUMENT)
    }

    fn is_base(&self, id: NodeId) -> bool {
        self.is_in_tree(id)
            && self.element(id).is_some_and(|base| base.data().attr(&local_name!("href")).is_some())
    }

    fn child_of_root(&self, name: &LocalName) -> Option<ElementRef<'_>> {
        let root = self.root()?;
        self.children(root.id).filter_map(|id| self.element(id)).find(|element| element.is_html(name))
    }

    /// Every element in tree order. The contents of templates are no part of the tree.
    pub fn elements(&self) -> impl Iterator<Item = ElementRef<'_>> {
        self.descendants(NodeId::DOCUMENT).filter_map(|id| self.element(id))
    }

    /// Every element in the tree, the one that was read last first.
    pub fn elements_backwards(&self) -> impl Iterator<Item = ElementRef<'_>> {
        let elements = (0..self.nodes.len()).rev().filter_map(|at| self.element(NodeId::from_index(at)));
        elements.filter(|element| self.is_in_tree(element.id))
    }

    /// The elements that pass a test of themselves alone, in the order in which they were read.
    pub fn elements_with(&self, test: impl Fn(&Element) -> bool) -> impl Iterator<Item = ElementRef<'_>> {
        let passes = move |(_, node): &(usize, &Node)| match &node.data {
            NodeData::Element(element) => test(element),
            _ => false,
        };
        let ids = self.nodes.iter().enumerate().filter(passes).map(|(at, _)| NodeId::from_index(at));
        ids.filter(|id| self.is_in_tree(*id)).filter_map(|id| self.element(id))
    }

    /// Every node below one, in tree order.
    pub fn descendants(&self, top: NodeId) -> impl Iterator<Item = NodeId> + '_ {
        let mut next = self.node(top).first_child;
        std::iter::from_fn(move || {
            let current = next?;
            next = self.node(current).first_child.or_else(|| self.after(current, top));
            Some(current)
        })
    }

    /// The node after a whole subtree, below `top`.
    pub(super) fn after(&self, id: NodeId, top: NodeId) -> Option<NodeId> {
        let mut id = id;
        loop {
            if id == top {
                return None;
            }
            if let Some(next) = self.node(id).next {
                return Some(next);
            }
            id = self.node(id).parent?;
        }
    }

    /// The text of a node and all below it.
    pub fn text_of(&self, id: NodeId) -> String {
        self.descendants(id)
            .filter_map(|id| match &self.node(id).data {
                NodeData::Text(text) => Some(&**text),
                _ => None,
            })
            .collect()
    }

    /// Whether the page is in quirks mode, where class names and IDs match in any case.
    pub fn quirks(&self) -> QuirksMode {
        self.quirks
    }

    /// The element that a node is a child of.
    pub fn parent_element(&self, id: NodeId) -> Option<ElementRef<'_>> {
        self.element(self.node(id).parent?)
    }

    /// Whether an element gives the window a global of that name (HTML, "named access on the Window
    /// object"): by its ID, or by the name that some elements have.
    pub fn has_window_name(&self, name: &str) -> bool {
        self.elements().any(|element| {
            let data = element.data();
            let is_named =
                matches!(&*data.name.local, "embed" | "form" | "iframe" | "frame" | "img" | "object");
            data.id() == Some(name) || (is_named && data.attr(&local_name!("name")) == Some(name))
        })
    }

    /// Gives an element an attribute, in the stead of one of that name.
    pub fn set_attribute(&mut self, id: NodeId, name: &LocalName, value: &str) {
        let Some(element) = self.nodes[id.index()].data.element_mut() else { return };
        let is_it = |own: &&mut Attribute| own.name.local == *name && own.name.ns == ns!();
        match element.attrs.iter_mut().find(is_it) {
            Some(own) => own.value = StrTendril::from_slice(value),
            None => {
                let name = QualName::new(None, ns!(), name.clone());
                element.attrs.push(Attribute { name, value: StrTendril::from_slice(value) });
            }
        }
        element.note_names();
    }

    /// Where code can be put into the page's text.
    pub fn slots(&self) -> &Slots {
        &self.slots
    }
}

/// An element of a document: cheap to copy, and what selectors are matched against.
#[derive(Clone, Copy)]
pub struct ElementRef<'a> {
    pub(super) document: &'a Document,
    /// The element's node.
    pub id: NodeId,
}

impl<'a> ElementRef<'a> {
    /// The document that the element is in.
    pub fn document(self) -> &'a Document {
        self.document
    }

    /// The element's own data, living as long as the document.
    pub fn data(self) -> &'a Element {
        match &self.document.node(self.id).data {
            NodeData::Element(element) => element,
            // An `ElementRef` is only ever made for an element.
            _ => unreachable!("a node that is no element"),
        }
    }

    /// The parent, if that is an element.
    pub fn parent(self) -> Option<ElementRef<'a>> {
        self.document.element(self.document.node(self.id).parent?)
    }

    /// The element and those around it, from the inside out.
    pub fn and_ancestors(self) -> impl Iterator<Item = ElementRef<'a>> {
        std::iter::successors(Some(self), |element| element.parent())
    }

    /// Whether the element is `other` or inside it.
    pub fn is_within(self, other: ElementRef<'_>) -> bool {
        self.and_ancestors().any(|e| e.id == other.id)
    }
}

impl std::ops::Deref for ElementRef<'_> {
    type Target = Element;

    fn deref(&self) -> &Element {
        self.data()
    }
}

impl PartialEq for ElementRef<'_> {
    fn eq(&self, other: &Self) -> bool {
        self.id == other.id && std::ptr::eq(self.document, other.document)
    }
}

impl fmt::Debug for ElementRef<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "<{}>", self.name.local)
    }
}
