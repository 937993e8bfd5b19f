//! What html5ever's tree builder builds into: the arena, with the place of every tag.
//!
//! The tree builder speaks of elements, not of tags, and makes elements of its own. The sink is
//! told which token is being worked on, and works out which elements that token opens and ends.
//!
//! It is long since the trait has a method for each thing that a tree builder does: each is short, and
//! they share the arena and the token that is being worked on.

use std::borrow::Cow;
use std::cell::{Cell, Ref, RefCell};
use std::rc::Rc;

use html5ever::interface::{ElemName, ElementFlags, NodeOrText, QuirksMode, TreeSink};
use html5ever::tendril::StrTendril;
use html5ever::tree_builder::Tracer;
use html5ever::{Attribute, LocalName, Namespace, QualName, local_name, ns};

use super::document::{Document, Element, Node, NodeData, NodeId, Origin};
use super::links::{self, node};
use super::shadow::{attach_shadows, declares_shadow};
use super::slots::Slots;
use crate::source::Span;

/// The token that the tree builder is working on.
#[derive(Clone, Debug)]
pub(super) enum Token {
    /// A start tag.
    Start(LocalName, Span),
    /// An end tag.
    End(LocalName, Span),
    /// Anything else: text from where it is not blank, a comment, the end of the file.
    Other(u32),
}

impl Token {
    /// Where code that comes before this token goes.
    pub(super) fn at(&self) -> u32 {
        match self {
            Token::Start(_, span) | Token::End(_, span) => span.start,
            Token::Other(at) => *at,
        }
    }
}

/// An element that the tree builder holds on to.
#[derive(Clone, Debug)]
pub(super) struct Open {
    pub(super) id: NodeId,
    pub(super) name: QualName,
    pub(super) start: u32,
}

/// The sink that fills the arena.
pub(super) struct ArenaSink {
    nodes: RefCell<Vec<Node>>,
    quirks: Cell<QuirksMode>,
    token: RefCell<Token>,
    /// The element that the current start tag made, as far as is known: the last one of its name.
    made: Cell<Option<NodeId>>,
    /// Elements with a tag of their own whose end tag may still come, outermost first.
    open: RefCell<Vec<NodeId>>,
    /// Where the page's `<body>` or `<frameset>` begins, tag or none.
    pub(super) body_token: Cell<Option<Origin>>,
    /// Where its `<head>` begins.
    pub(super) head_token: Cell<Option<Origin>>,
    /// Whether something was put into the head after `</head>`.
    pub(super) late_head: Cell<bool>,
    head: Cell<Option<NodeId>>,
    pub(super) head_ended: Cell<bool>,
    /// Every `<base>`, in the order of parsing.
    bases: RefCell<Vec<NodeId>>,
    /// The templates that declare a shadow tree, in the order of parsing.
    shadow_templates: RefCell<Vec<NodeId>>,
}

impl ArenaSink {
    pub(super) fn new() -> Self {
        ArenaSink {
            nodes: RefCell::new(vec![node(NodeData::Document)]),
            quirks: Cell::new(QuirksMode::NoQuirks),
            token: RefCell::new(Token::Other(0)),
            made: Cell::new(None),
            open: RefCell::new(Vec::new()),
            body_token: Cell::new(None),
            head_token: Cell::new(None),
            late_head: Cell::new(false),
            head: Cell::new(None),
            head_ended: Cell::new(false),
            bases: RefCell::new(Vec::new()),
            shadow_templates: RefCell::new(Vec::new()),
        }
    }

    pub(super) fn into_document(self, slots: Slots) -> Document {
        let mut nodes = self.nodes.into_inner();
        let hosts = attach_shadows(&mut nodes, &self.shadow_templates.into_inner());
        Document { nodes, hosts, quirks: self.quirks.get(), slots, bases: self.bases.into_inner() }
    }

    /// How many elements with tags of their own are open.
    pub(super) fn depth(&self) -> usize {
        self.open.borrow().len()
    }

    /// How many nodes there are.
    pub(super) fn size(&self) -> usize {
        self.nodes.borrow().len()
    }

    /// Says which token the tree builder is given next.
    pub(super) fn begin(&self, token: Token) {
        self.made.set(None);
        *self.token.borrow_mut() = token;
    }

    /// The end of the current token, if that is a `<meta>` tag.
    pub(super) fn meta_end(&self) -> Option<u32> {
        match &*self.token.borrow() {
            Token::Start(local_name!("meta"), span) => Some(span.end),
            _ => None,
        }
    }

    /// Says that the tree builder is done with the token: what was opened can now be ended by a
    /// later end tag, and an end tag belongs to the innermost element of its name that is open.
    pub(super) fn finish_token(&self) {
        match &*self.token.borrow() {
            Token::Start(..) => {
                if let Some(made) = self.made.get() {
                    let mut open = self.open.borrow_mut();
                    // Elements that the new one is not inside have been closed without a tag.
                    let parent = self.parent_element(made);
                    if let Some(depth) = open.iter().rposition(|id| Some(*id) == parent) {
                        open.truncate(depth + 1);
                    }
                    open.push(made);
                }
            }
            Token::End(name, span) => self.end_element(name, *span),
            Token::Other(_) => {}
        }
    }

    fn end_element(&self, name: &LocalName, span: Span) {
        let mut open = self.open.borrow_mut();
        let mut nodes = self.nodes.borrow_mut();
        let mut found = None;
        for (depth, id) in open.iter().enumerate().rev() {
            let NodeData::Element(element) = &nodes[id.index()].data else {
                continue;
            };
            if element.name.local.eq_ignore_ascii_case(name) {
                found = Some((depth, *id));
                break;
            }
            if bounds_scope(element) && !is_table_part(name) {
                break;
            }
        }
        if let Some((depth, id)) = found {
            open.truncate(depth);
            if let Some(element) = nodes[id.index()].data.element_mut() {
                element.end_tag = Some(span);
            }
        }
    }

    /// The element that a node is in; for what is in a template's contents, the template.
    fn parent_element(&self, id: NodeId) -> Option<NodeId> {
        let nodes = self.nodes.borrow();
        let parent = nodes[id.index()].parent?;
        match nodes[parent.index()].data {
            NodeData::Fragment => nodes[parent.index()].parent,
            _ => Some(parent),
        }
    }

    /// Each element's name and start, for those of `ids` that are elements.
    pub(super) fn describe(&self, ids: &[NodeId]) -> Vec<Open> {
        let nodes = self.nodes.borrow();
        let open = ids.iter().filter_map(|&id| match &nodes[id.index()].data {
            NodeData::Element(element) => {
                Some(Open { id, name: element.name.clone(), start: element.start() })
            }
            _ => None,
        });
        open.collect()
    }

    /// Whether a node is somewhere inside an element, its template's contents included.
    pub(super) fn is_inside(&self, id: NodeId, outer: NodeId) -> bool {
        std::iter::successors(self.parent_element(id), |id| self.parent_element(*id)).any(|id| id == outer)
    }

    fn push(&self, data: NodeData) -> NodeId {
        let mut nodes = self.nodes.borrow_mut();
        nodes.push(node(data));
        NodeId::from_index(nodes.len() - 1)
    }

    /// Something goes into an element whose end tag was thought to have been met: that tag had
    /// been ignored by the parser. What stands after `</body>` and `</html>` does go inside.
    fn reopen(&self, parent: NodeId) {
        let mut nodes = self.nodes.borrow_mut();
        if let Some(element) = nodes[parent.index()].data.element_mut()
            && element.end_tag.is_some()
            && !matches!(element.name.local, local_name!("head") | local_name!("body") | local_name!("html"))
        {
            element.end_tag = None;
        }
    }
}

/// The elements that bound a scope for most end tags (HTML, "has an element in scope").
fn bounds_scope(element: &Element) -> bool {
    matches!(
        element.name.local,
        local_name!("td")
            | local_name!("th")
            | local_name!("caption")
            | local_name!("table")
            | local_name!("template")
            | local_name!("object")
            | local_name!("applet")
            | local_name!("marquee")
            | local_name!("foreignObject")
    )
}

fn is_table_part(name: &LocalName) -> bool {
    matches!(
        *name,
        local_name!("table")
            | local_name!("tbody")
            | local_name!("thead")
            | local_name!("tfoot")
            | local_name!("tr")
            | local_name!("template")
            | local_name!("body")
            | local_name!("html")
    )
}

/// An element's name, lent out by the arena.
pub(super) struct LentName<'a>(Ref<'a, QualName>);

impl std::fmt::Debug for LentName<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.fmt(f)
    }
}

impl ElemName for LentName<'_> {
    fn ns(&self) -> &Namespace {
        &self.0.ns
    }

    fn local_name(&self) -> &LocalName {
        &self.0.local
    }
}

impl TreeSink for ArenaSink {
    type Handle = NodeId;
    type Output = Self;
    type ElemName<'a> = LentName<'a>;

    fn finish(self) -> Self {
        self
    }

    fn parse_error(&self, _: Cow<'static, str>) {}

    fn get_document(&self) -> NodeId {
        NodeId::DOCUMENT
    }

    fn elem_name<'a>(&'a self, target: &'a NodeId) -> LentName<'a> {
        LentName(Ref::map(self.nodes.borrow(), |nodes| match &nodes[target.index()].data {
            NodeData::Element(element) => &element.name,
            // The tree builder asks for the names of elements only.
            _ => unreachable!("the name of a node that is no element"),
        }))
    }

    fn create_element(&self, name: QualName, attrs: Vec<Attribute>, flags: ElementFlags) -> NodeId {
        let token = self.token.borrow();
        // Of several elements that a start tag leads to, it is the tag of the last of its name:
        // those before it are formatting elements opened again. `<image>` makes an `<img>`.
        let own = match &*token {
            Token::Start(tag, span)
                if tag.eq_ignore_ascii_case(&name.local)
                    || (*tag == local_name!("image") && name.local == local_name!("img")) =>
            {
                Some(*span)
            }
            _ => None,
        };
        let origin = own.map_or(Origin::Implied(token.at()), Origin::Tag);
        let html = name.ns == ns!(html);
        let is_head = html && name.local == local_name!("head");
        if is_head && self.head_token.get().is_none() {
            self.head_token.set(Some(origin));
        }
        let is_body = matches!(name.local, local_name!("body") | local_name!("frameset"));
        if html && is_body && self.body_token.get().is_none() {
            self.body_token.set(Some(origin));
        }
        let is_base = html && name.local == local_name!("base");
        let contents = flags.template.then(|| self.push(NodeData::Fragment));
        let mut element = Element {
            name,
            attrs,
            id: None,
            classes: Box::default(),
            origin,
            end_tag: None,
            contents,
            shadow: None,
        };
        if !element.attrs.is_empty() {
            element.note_names();
        }
        let declares_shadow = declares_shadow(&element);
        let id = self.push(NodeData::Element(Rc::new(element)));
        if declares_shadow {
            self.shadow_templates.borrow_mut().push(id);
        }
        if is_base {
            self.bases.borrow_mut().push(id);
        }
        let mut nodes = self.nodes.borrow_mut();
        if let Some(contents) = contents {
            nodes[contents.index()].parent = Some(id);
        }
        if is_head && self.head.get().is_none() {
            self.head.set(Some(id));
        }
        if own.is_some()
            && let Some(earlier) = self.made.replace(Some(id))
            && let Some(element) = nodes[earlier.index()].data.element_mut()
        {
            element.origin = Origin::Implied(token.at());
        }
        id
    }

    fn create_comment(&self, text: StrTendril) -> NodeId {
        self.push(NodeData::Comment(text))
    }

    fn create_pi(&self, _: StrTendril, data: StrTendril) -> NodeId {
        self.push(NodeData::Comment(data))
    }

    fn append(&self, parent: &NodeId, child: NodeOrText<NodeId>) {
        self.reopen(*parent);
        if self.head_ended.get() && self.head.get() == Some(*parent) {
            self.late_head.set(true);
        }
        links::place(&mut self.nodes.borrow_mut(), *parent, None, child);
    }

    fn append_based_on_parent_node(&self, element: &NodeId, previous: &NodeId, child: NodeOrText<NodeId>) {
        let has_parent = self.nodes.borrow()[element.index()].parent.is_some();
        if has_parent {
            self.append_before_sibling(element, child);
        } else {
            self.append(previous, child);
        }
    }

    fn append_doctype_to_document(&self, name: StrTendril, _: StrTendril, _: StrTendril) {
        let id = self.push(NodeData::Doctype(name));
        links::insert(&mut self.nodes.borrow_mut(), NodeId::DOCUMENT, None, id);
    }

    fn get_template_contents(&self, target: &NodeId) -> NodeId {
        match self.nodes.borrow()[target.index()].data.contents() {
            Some(contents) => contents,
            // The tree builder asks templates only.
            None => unreachable!("the contents of an element that is no template"),
        }
    }

    fn same_node(&self, x: &NodeId, y: &NodeId) -> bool {
        x == y
    }

    fn set_quirks_mode(&self, mode: QuirksMode) {
        self.quirks.set(mode);
    }

    fn append_before_sibling(&self, sibling: &NodeId, child: NodeOrText<NodeId>) {
        let mut nodes = self.nodes.borrow_mut();
        if let Some(parent) = nodes[sibling.index()].parent {
            links::place(&mut nodes, parent, Some(*sibling), child);
        }
    }

    fn add_attrs_if_missing(&self, target: &NodeId, attrs: Vec<Attribute>) {
        if let Some(element) = self.nodes.borrow_mut()[target.index()].data.element_mut() {
            for attribute in attrs {
                if !element.attrs.iter().any(|there| there.name == attribute.name) {
                    element.attrs.push(attribute);
                }
            }
            element.note_names();
        }
    }

    fn remove_from_parent(&self, target: &NodeId) {
        links::detach(&mut self.nodes.borrow_mut(), *target);
    }

    fn reparent_children(&self, node: &NodeId, new_parent: &NodeId) {
        let mut nodes = self.nodes.borrow_mut();
        while let Some(child) = nodes[node.index()].first_child {
            links::insert(&mut nodes, *new_parent, None, child);
        }
    }

    fn is_mathml_annotation_xml_integration_point(&self, handle: &NodeId) -> bool {
        // The flag that the tree builder gives at creation says the same as the attribute.
        match &self.nodes.borrow()[handle.index()].data {
            NodeData::Element(element) => element.attr(&local_name!("encoding")).is_some_and(|encoding| {
                encoding.eq_ignore_ascii_case("text/html")
                    || encoding.eq_ignore_ascii_case("application/xhtml+xml")
            }),
            _ => false,
        }
    }

    /// Shadow trees are made of their templates once all is parsed.
    fn allow_declarative_shadow_roots(&self, _: &NodeId) -> bool {
        false
    }
}

/// Collects what the tree builder holds on to: the document, then the open elements from the
/// outside in, then active formatting elements and the head and form pointers.
#[derive(Default)]
pub(super) struct BuilderHandles(RefCell<Vec<NodeId>>);

impl BuilderHandles {
    pub(super) fn into_ids(self) -> Vec<NodeId> {
        self.0.into_inner()
    }
}

impl Tracer for BuilderHandles {
    type Handle = NodeId;

    fn trace_handle(&self, node: &NodeId) {
        self.0.borrow_mut().push(*node);
    }
}
