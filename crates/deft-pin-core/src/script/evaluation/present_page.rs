//! The page as the script has made it so far, for as long as that is certain.

use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::machine::{Machine, Turn};
use super::made_node::{Contents, FRAGMENT, MadeNode, SHADOW};
use super::platform::{self, Interface};
use super::presence::{Present, PresentPage, Vague};
use super::value::{Certainty, EXACT, Kind, Node, Value};
use crate::markup::{Document, Element, NodeData, NodeId, ns};

/// Larger pages are not kept a second time.
const LARGEST: usize = 20_000;

/// What is kept while a task runs.
pub(super) struct Before {
    region: Option<u32>,
    /// What cannot be told once what is around it has ended.
    vague: Vague,
    /// How often the tree was changed.
    changes: u32,
}

impl Machine<'_> {
    /// Nobody can tell what the page is from now on, nor what it has lost so far.
    pub(super) fn knows_nothing_more(&mut self) {
        self.presence.lose();
        (self.touched.anything, self.touched.is_moved) = (true, true);
        self.touched.lost.clear();
        self.gone.clear();
    }

    /// The tree of the page at present; none where nobody can tell.
    pub(super) fn present_document(&self) -> Option<&Document> {
        match &self.presence.page {
            Present::Served => Some(self.world.document()),
            Present::Changed(page) => Some(&page.document),
            Present::Lost => None,
        }
    }

    /// Whether the page at present tells what is there.
    pub(super) fn is_present(&mut self) -> bool {
        !self.presence.is_lost()
            && !self.frame.has_waited
            && (self.is_later || self.is_whole())
            && !self.is_out_of_turn()
    }

    /// Whether all of the page is parsed while the script runs from top to bottom.
    pub(super) fn is_whole(&mut self) -> bool {
        if let Some(known) = self.presence.is_whole {
            return known;
        }
        let is_whole = self.world.parsed_until().is_none_or(|until| {
            let is_code = |name: &str| matches!(name, "script" | "style" | "link" | "noscript");
            let elements = self.world.document().elements_backwards();
            let mut rest = elements.take_while(|own| own.data().start() >= until);
            rest.all(|own| is_code(&own.data().name.local))
        });
        self.presence.is_whole = Some(is_whole);
        is_whole
    }

    /// Whether what runs comes later than what is still to run here: an answer of a server.
    fn is_out_of_turn(&self) -> bool {
        let next = self.tasks.keys().next().map(|(turn, ..)| *turn);
        self.turn == Some(Turn::Microtask)
            && self.certainty != Certainty::Certain
            && next.is_some_and(|next| next < Turn::Visitor)
    }

    /// Whether what changes the page now is certain to change it.
    pub(super) fn changes_surely(&self) -> bool {
        self.thrown.is_none() && self.presence.region == Some(self.region)
    }

    /// Whether a node of the page can be changed in its place while the page is parsed.
    pub(super) fn is_settled(&mut self, id: NodeId) -> bool {
        if self.is_later || self.is_whole() {
            return true;
        }
        let Some(document) = self.present_document() else { return false };
        let head = document.head().map(|head| head.id);
        !document.is_in_tree(id) || head.is_some_and(|head| document.is_in(id, head))
    }

    /// The page, to be changed.
    pub(super) fn changed_page(&mut self) -> Option<&mut PresentPage> {
        if matches!(self.presence.page, Present::Served) {
            let document = self.world.document();
            self.charge(document.count() / 20);
            self.presence.page = match document.count() <= LARGEST {
                true => Present::Changed(Rc::new(PresentPage {
                    document: document.clone(),
                    nodes: FxHashMap::default(),
                    numbers: FxHashMap::default(),
                })),
                false => Present::Lost,
            };
        }
        // A state to come back to shares the tree until it is changed.
        if let Present::Changed(page) = &self.presence.page
            && Rc::strong_count(page) > 1
        {
            self.charge(page.document.count() / 20);
        }
        match &mut self.presence.page {
            Present::Changed(page) => Some(Rc::make_mut(page)),
            _ => None,
        }
    }

    /// Where a node is in the tree of the page at present.
    pub(super) fn present_id(&self, node: Node) -> Option<NodeId> {
        match (node, &self.presence.page) {
            (_, Present::Lost) => None,
            (Node::Page(id), _) => Some(id),
            (Node::Made(number), Present::Changed(page)) => page.nodes.get(&number).copied(),
            (Node::Made(_), Present::Served) => None,
        }
    }

    /// The same, and it is put there where it is not yet.
    pub(super) fn present_node(&mut self, node: Node) -> Option<NodeId> {
        let (Node::Made(number), None) = (node, self.present_id(node)) else { return self.present_id(node) };
        let made = self.made_nodes.get(number as usize)?;
        if !made.is_bare {
            return None;
        }
        let (tag, drawing) = (Arc::clone(&made.tag), made.drawing);
        let page = self.changed_page()?;
        let id = match &*tag {
            tag if let Some(of) = drawing => page.document.make_drawing(tag, of.starts_with("SVG")),
            FRAGMENT | SHADOW => page.document.make_fragment(),
            tag if tag.starts_with('#') => return None,
            tag => page.document.make_element(tag),
        };
        self.is_present_as(number, id);
        Some(id)
    }

    /// Takes note of where a node that the script has made is in the tree.
    pub(super) fn is_present_as(&mut self, number: u32, id: NodeId) {
        if let Some(page) = self.changed_page() {
            page.nodes.insert(number, id);
            page.numbers.insert(id, number);
        }
    }

    /// The value that stands for a node of the tree.
    pub(super) fn present_value(&mut self, id: NodeId) -> Value {
        let Some(document) = self.present_document() else { return Value::OPEN };
        let is_own = id.index() < self.world.document().count();
        let (tag, drawing) = match &document.node(id).data {
            NodeData::Document => return Value::Object(super::machine::DOCUMENT),
            NodeData::Element(_) if is_own => return self.page_element(id),
            NodeData::Element(own) => (Arc::from(&*own.name.local), drawing_of(own)),
            NodeData::Fragment => (Arc::from(FRAGMENT), None),
            NodeData::Text(_) => return self.text_value(id, 3.0, "#text"),
            NodeData::Comment(_) | NodeData::Doctype(_) => return self.text_value(id, 8.0, "#comment"),
        };
        let Some(page) = self.changed_page() else { return Value::OPEN };
        let number = match page.numbers.get(&id) {
            Some(number) => *number,
            None => {
                let number = self.made_nodes.len() as u32;
                let givings = self.givings;
                self.made_nodes.push(MadeNode {
                    tag,
                    contents: Contents::Open,
                    copy: 0,
                    givings,
                    is_bare: false,
                    drawing,
                });
                self.is_present_as(number, id);
                number
            }
        };
        // It is there, wherever it is asked for.
        let region = std::mem::replace(&mut self.region, 0);
        let value = self.element(Node::Made(number));
        self.region = region;
        value
    }

    /// The value that stands for an element of the page at present, or of the page as it was served where that cannot be
    /// told.
    pub(super) fn value_now(&mut self, id: NodeId) -> Value {
        if self.presence.is_lost() { self.page_element(id) } else { self.present_value(id) }
    }

    /// The value that stands for a text or a comment of the tree.
    fn text_value(&mut self, id: NodeId, kind: f64, name: &str) -> Value {
        // Nodes that are no elements are under no other key.
        if let Some(known) = self.elements.get(&Node::Page(id)) {
            return Value::Object(*known);
        }
        let region = std::mem::replace(&mut self.region, 0);
        let text = self.make(Kind::Instance("Text"));
        self.region = region;
        let object = self.object_mut(text);
        object.members.insert(Arc::from(EXACT), Value::NULL);
        object.members.insert(Arc::from("nodeType"), Value::Number(kind));
        object.members.insert(Arc::from("nodeName"), Value::text(name));
        self.elements.insert(Node::Page(id), text);
        self.texts.insert(text, id);
        Value::Object(text)
    }

    /// Where a text of the tree is.
    pub(super) fn present_text(&self, value: &Value) -> Option<NodeId> {
        let Value::Object(id) = value else { return None };
        self.texts
            .get(id)
            .copied()
            .filter(|_| matches!(self.presence.page, Present::Changed(_) | Present::Served))
    }

    /// What is to be done before a task and behind it, so that what is certain stays so.
    pub(super) fn begins_task(&mut self) -> Before {
        if self.presence.ends {
            self.presence.lose();
        }
        Before {
            region: self.presence.region.replace(self.region),
            vague: std::mem::take(&mut self.presence.soon_vague),
            changes: self.presence.changes - self.presence.given,
        }
    }

    pub(super) fn ends_task(&mut self, before: Before, certainty: Certainty) {
        // In which order these come differs from visit to visit.
        let is_open = certainty != Certainty::Certain || !self.is_in_order;
        let vague = std::mem::replace(&mut self.presence.soon_vague, before.vague);
        if is_open {
            self.presence.vague.extend(vague);
        }
        if is_open && self.presence.changes - self.presence.given != before.changes {
            self.presence.lose();
        }
        self.presence.region = before.region;
    }
}

/// The interface of an element of SVG or MathML.
pub(super) fn drawing_of(element: &Element) -> Option<Interface> {
    let space = &element.name.ns;
    (*space != ns!(html)).then(|| platform::of_drawing(&element.name.local, *space == ns!(svg)))
}
