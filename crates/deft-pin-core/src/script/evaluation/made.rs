//! What the script makes of elements: copies of those of the page, markup that it writes into its own, fragments.

use std::rc::Rc;
use std::sync::Arc;

use super::machine::{Machine, Run};
use super::made_node::{Contents, FRAGMENT, MadeNode, READ};
use super::platform;
use super::value::{Kind, Node, Value};
use crate::markup::{
    Assume, ElementRef, NamedPart, NodeId, Selector, SelectorList, Sought, names_in, parse, parse_fragment,
    parse_within,
};
use crate::source::Span;

/// Longer markup is not read.
const LONGEST: usize = 20_000;

impl Machine<'_> {
    /// A node that the script makes.
    pub(super) fn make_node(&mut self, tag: Arc<str>, contents: Contents) -> Value {
        let number = self.made_nodes.len() as u32;
        let copy = self.new_copy();
        let is_bare = matches!(contents, Contents::Own);
        let givings = self.givings;
        self.made_nodes.push(MadeNode { tag, contents, copy, givings, is_bare, drawing: None });
        self.element(Node::Made(number))
    }

    /// An element of SVG or MathML that the script makes (DOM, "createElementNS").
    pub(super) fn make_drawing(&mut self, tag: &str, is_svg: bool) -> Value {
        let tag: Arc<str> = Arc::from(tag);
        self.touched.tags.insert(Arc::clone(&tag));
        let made = self.make_node(Arc::clone(&tag), Contents::Own);
        if let Some(own) = self.made_nodes.last_mut() {
            own.drawing = Some(platform::of_drawing(&tag, is_svg));
        }
        made
    }

    /// A number for a copy, or for a piece of markup.
    fn new_copy(&mut self) -> u32 {
        self.copies += 1;
        self.copies
    }

    fn made_node(&self, node: Node) -> Option<&MadeNode> {
        match node {
            Node::Made(number) => self.made_nodes.get(number as usize),
            Node::Page(_) => None,
        }
    }

    /// What is in a node can be told no more.
    pub(super) fn opens(&mut self, node: Node) {
        if let Node::Made(number) = node
            && let Some(own) = self.made_nodes.get_mut(number as usize)
            && !matches!(own.contents, Contents::Own)
        {
            own.contents = Contents::Open;
        }
    }

    /// Markup that becomes what is in a node of the script's own.
    pub(super) fn fills(&mut self, node: Node, markup: &Value) {
        let Node::Made(number) = node else { return };
        let contents = match markup {
            Value::Text(text) if text.len() <= LONGEST => {
                self.charge(text.len() / 8);
                let read = match self.made_nodes.get(number as usize).and_then(|own| own.drawing) {
                    Some(of) => parse_within(if of.starts_with("SVG") { "svg" } else { "math" }, text),
                    None => parse_fragment(text),
                };
                read.map(|(document, top)| Contents::Parsed(Rc::new(document), top))
            }
            _ => None,
        };
        let is_strong = self.elements.get(&node).is_some_and(|id| self.is_strong(self.object(*id).born));
        let (copy, givings) = (self.new_copy(), self.givings + 1);
        if let Some(own) = self.made_nodes.get_mut(number as usize) {
            own.contents = contents.filter(|_| is_strong).unwrap_or(Contents::Open);
            own.copy = copy;
            // The names in it are noted next.
            own.givings = givings;
        }
    }

    /// A fragment that a script reads from a text (HTML, "createContextualFragment"); none where other scripts would run.
    pub(super) fn contextual_fragment(&mut self, text: &Value) -> Option<Value> {
        if self.readable(text)?.contains("<script") {
            return None;
        }
        let made = self.make_node(Arc::from(FRAGMENT), Contents::Own);
        let node = self.node_of(&made)?;
        self.fills(node, text);
        self.brings_markup(text);
        let into = self.present_node(node)?;
        if self.puts_markup(text, ("body", into, None)).is_none() {
            self.presence.lose();
        }
        Some(made)
    }

    /// A document that the script reads from a text (HTML, "parseFromString").
    pub(super) fn read_document(&mut self, text: &Value, kind: &Value) -> Value {
        let is_html = matches!(kind, Value::Text(kind) if &**kind == "text/html");
        let Value::Text(text) = text else { return self.made(Kind::Instance("HTMLDocument")) };
        if !is_html || text.len() > LONGEST {
            return self.made(Kind::Instance("HTMLDocument"));
        }
        self.charge(text.len() / 8);
        let (_, document) = parse(text.as_bytes());
        let contents = Contents::Parsed(Rc::new(document), NodeId::DOCUMENT);
        self.brings_names_of(&contents);
        self.make_node(Arc::from(READ), contents)
    }

    /// The fragment of a template of the page (HTML, "template contents").
    pub(super) fn template_contents(&mut self, node: Node) -> Option<Value> {
        let contents = self.page_node(node)?.data().contents?;
        Some(self.make_node(Arc::from(FRAGMENT), Contents::CopyOf(contents)))
    }

    /// `cloneNode` and `importNode`.
    pub(super) fn copied(&mut self, node: Node, is_deep: bool) -> Value {
        let tag = self.tag_of(node);
        let contents = match (node, self.made_node(node)) {
            _ if !is_deep => Contents::Own,
            (Node::Page(own), _) => Contents::CopyOf(own),
            (_, Some(own)) => own.contents.clone(),
            _ => Contents::Open,
        };
        // What has been changed on the page is changed in its copy.
        let is_changed = matches!(node, Node::Page(_))
            && (self.touched.is_moved
                || !self.gone.is_empty()
                || !self.touched.is_nothing()
                || self.touched.own_words.is_some());
        let contents = if is_changed && is_deep { Contents::Open } else { contents };
        if let Contents::Open | Contents::Own = &contents {
            self.touched.anything |= is_deep;
        } else {
            self.brings_names_of(&contents);
        }
        if let Some(own) = self.page_node(node) {
            let parts = names_of(own);
            self.brings_names(parts);
        }
        self.make_node(Arc::from(&*tag), contents)
    }

    /// Takes note of the names in a copy: the page has them once more where it is put in.
    fn brings_names_of(&mut self, contents: &Contents) {
        let mut parts: Vec<NamedPart> = Vec::new();
        self.elements_in(contents, |element| {
            parts.extend(names_of(element));
            true
        });
        self.brings_names(parts);
    }

    fn brings_names(&mut self, parts: Vec<NamedPart>) {
        for part in parts {
            let name: Arc<str> = Arc::from(part.name());
            match part {
                NamedPart::Id(_) => self.touched.ids.insert(name),
                NamedPart::Class(_) => self.touched.classes.insert(name),
                NamedPart::Tag(_) => self.touched.tags.insert(name),
            };
        }
        self.touched.attributes.insert(Arc::from("*"));
    }

    /// Shows the elements of some contents, until `show` has seen enough.
    fn elements_in(&self, contents: &Contents, mut show: impl FnMut(ElementRef<'_>) -> bool) {
        let (document, top) = match contents {
            Contents::CopyOf(top) => (self.world.document(), *top),
            Contents::Parsed(document, top) => (&**document, *top),
            Contents::Own | Contents::Open => return,
        };
        for node in document.descendants(top).filter(|node| *node != top) {
            self.charge(1);
            if let Some(element) = document.element(node)
                && !show(element)
            {
                return;
            }
        }
    }

    /// What a selector finds in a node of the script's own; none where that is known by names alone.
    pub(super) fn find_in_made(
        &mut self,
        node: Node,
        selector: &str,
        selectors: &SelectorList,
        list: Option<&'static str>,
        span: Span,
    ) -> Run<Option<Value>> {
        let Some(own) = self.made_node(node) else { return Ok(None) };
        let (contents, copy, givings) = (own.contents.clone(), own.copy, own.givings);
        match &contents {
            Contents::Own => return Ok(None),
            Contents::Open => {
                return Ok(Some(match list {
                    Some(list) => self.open_list(list),
                    None => Value::OPEN,
                }));
            }
            Contents::CopyOf(_) | Contents::Parsed(..) => {}
        }
        let mut found: Vec<(NodeId, Arc<str>)> = Vec::new();
        let mut is_doubtful = false;
        let mut sought = Sought::by(selectors);
        self.elements_in(&contents, |element| {
            if sought.finds(element, Assume::Must, None) {
                found.push((element.id, Arc::from(&*element.data().name.local)));
            } else {
                is_doubtful |= sought.finds(element, Assume::May, None);
            }
            list.is_some() || found.is_empty()
        });
        self.step(1)?;
        let inner = |id: NodeId| match &contents {
            Contents::Parsed(document, _) => Contents::Parsed(Rc::clone(document), id),
            _ => Contents::CopyOf(id),
        };
        let mut items = Vec::new();
        for (id, tag) in found.into_iter().take(50) {
            if let Some(known) = self.made_within.get(&(copy, id)) {
                items.push(known.clone());
                continue;
            }
            let made = self.make_node(tag, inner(id));
            if let Some(own) = self.made_nodes.last_mut() {
                (own.copy, own.givings) = (copy, givings);
            }
            self.made_within.insert((copy, id), made.clone());
            items.push(made);
        }
        // What the script gives to elements in it may be found as well.
        let is_given = |selector: &Selector| names_in(selector).iter().all(|part| self.touched.has(part));
        let may_be_given = self.givings > givings && selectors.slice().iter().any(is_given);
        Ok(Some(match list {
            Some(list) => {
                let is_open = is_doubtful || items.is_empty() && may_be_given;
                let value = self.list(list, items, Some((selector.to_owned(), span)));
                if let Value::Object(id) = value {
                    self.object_mut(id).is_open = is_open;
                }
                value
            }
            None => match items.into_iter().next() {
                Some(item) => item,
                None if is_doubtful || may_be_given => Value::OPEN,
                None => self.nothing(selector.to_owned(), span, false),
            },
        }))
    }
}

/// The names of an element: its type, its ID and its classes.
fn names_of(element: ElementRef<'_>) -> Vec<NamedPart> {
    let data = element.data();
    let id = data.id().map(|id| NamedPart::Id(id.into()));
    let classes = data.classes().map(|class| NamedPart::Class(class.into()));
    std::iter::once(NamedPart::Tag(data.name.local.clone())).chain(id).chain(classes).collect()
}
