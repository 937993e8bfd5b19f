//! Methods that change the tree, or ask it (DOM, "Interface Node", "Interface Element").

use super::arguments::Arguments;
use super::elements::{HTML, MATHML, SVG};
use super::fault::RunFaultKind;
use super::machine::{DOCUMENT, Machine, Run, Turn};
use super::made_node::{Contents, FRAGMENT, SHADOW};
use super::platform::{self};
use super::value::{Absence, Certainty, EXACT, Kind, Node, Value};
use super::world::Writing;
use crate::source::Span;
use std::sync::Arc;

impl Machine<'_> {
    /// What is written into the page once all of it is parsed takes its place (HTML, "document.write()").
    fn writes(&mut self, this: &Value, span: Span) {
        if !matches!(this, Value::Object(DOCUMENT)) {
            return;
        }
        let is_behind = self.turn.is_some_and(|turn| turn >= Turn::Parsed);
        match self.world.writing() {
            _ if is_behind => self.note(span, RunFaultKind::Wipes),
            Writing::IntoPage => None,
            Writing::Wipes(certainty) => {
                let outer = self.certainty;
                self.certainty = outer.max(certainty);
                let noted = self.note(span, RunFaultKind::Wipes);
                self.certainty = outer;
                noted
            }
            Writing::Ignored => self.note(span, RunFaultKind::NotWritten),
        };
    }

    /// Methods that change or ask the tree.
    pub(super) fn call_node(
        &mut self,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        let first = arguments.get(0);
        let node = self.node_of(this);
        Ok(Some(match name {
            "createElement" => match self.as_text(&first) {
                Ok(tag) if is_tag(&tag) => {
                    let made = self.make_element(&tag);
                    self.makes_custom(&made)?;
                    made
                }
                Ok(tag) => {
                    let bare: String =
                        tag.chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-').collect();
                    let kind = RunFaultKind::RefusedArgument {
                        method: name.to_owned(),
                        given: tag.to_string(),
                        takes: "the name of a tag".to_owned(),
                        write: is_tag(&bare).then_some(bare),
                    };
                    return Err(self.throws(span, kind));
                }
                Err(_) => {
                    self.touched.anything = true;
                    self.made(Kind::Instance("HTMLElement"))
                }
            },
            "createElementNS" => match (self.as_text(&first), self.as_text(&arguments.get(1))) {
                (Ok(space), Ok(tag)) if &*space == HTML && is_tag(&tag) => self.make_element(&tag),
                (Ok(space), Ok(tag)) if matches!(&*space, SVG | MATHML) && is_tag(&tag) => {
                    self.make_drawing(&tag, &*space == SVG)
                }
                (space, _) => {
                    self.touched.anything = true;
                    let made = self.make(Kind::Instance("Element"));
                    if space.is_ok() {
                        // Of a namespace that nobody knows it has what each element has alone.
                        self.object_mut(made).members.insert(Arc::from(EXACT), Value::NULL);
                    }
                    Value::Object(made)
                }
            },
            "append"
            | "prepend"
            | "before"
            | "after"
            | "replaceWith"
            | "replaceChildren"
            | "appendChild"
            | "insertBefore"
            | "replaceChild"
            | "removeChild"
            | "insertAdjacentElement" => self.moves(name, node, arguments, span)?,
            "insertAdjacentHTML" => {
                if let Some(node) = node {
                    self.opens(node);
                }
                self.brings_markup(&arguments.get(1));
                Value::UNDEFINED
            }
            "write" | "writeln" => {
                self.writes(this, span);
                self.brings_markup(&first);
                Value::UNDEFINED
            }
            "remove" => {
                if let Some(node) = node {
                    self.goes(node, true);
                }
                Value::UNDEFINED
            }
            "setAttribute" | "toggleAttribute" if matches!(&first, Value::Text(key) if key.is_empty() || key.contains([' ', '\n', '\t', '/', '=', '>'])) =>
            {
                let given = self.as_text(&first).unwrap_or_default();
                return Err(self.refused(name, &*given, "the name of an attribute", None, span));
            }
            "setAttribute" | "toggleAttribute" => {
                if let Value::Object(id) = this {
                    self.forgets_kept(*id, &first);
                }
                let result = if name == "setAttribute" { Value::UNDEFINED } else { Value::A_BOOLEAN };
                match self.as_text(&first) {
                    Ok(key) if matches!(&*key, "id" | "class") => {
                        let given = arguments.get(1);
                        if let Some(node) = node.filter(|_| name == "setAttribute") {
                            self.loses_name(node, &key, &given);
                        }
                        self.gives_names(&given, &*key == "id");
                    }
                    Ok(key) if platform::member("HTMLElement", &key).is_some() && key.starts_with("on") => {
                        self.code_in_text(&arguments.get(1), Certainty::SomeVisit, span)?;
                    }
                    Ok(key) => {
                        if matches!(&*key, "src" | "poster") {
                            self.asks_for_file(&arguments.get(1), span);
                        }
                        self.touched.attributes.insert(key);
                    }
                    Err(_) => self.touched.anything = true,
                }
                result
            }
            "removeAttribute" => {
                if let Value::Object(id) = this {
                    self.forgets_kept(*id, &first);
                }
                if let Ok(key) = self.as_text(&first) {
                    if let Some(node) = node.filter(|_| matches!(&*key, "id" | "class")) {
                        self.loses_name(node, &key, &Value::text(""));
                    }
                    self.touched.attributes.insert(key);
                }
                self.touched.is_moved = true;
                Value::UNDEFINED
            }
            "getAttributeNode" => match (node, self.as_text(&first)) {
                (Some(node), Ok(key)) => match self.attribute(node, &key) {
                    absent @ Value::Null(_) => absent,
                    Value::Text(_) => self.made(Kind::Instance("Attr")),
                    _ => Value::OPEN,
                },
                _ => Value::OPEN,
            },
            "getAttribute" => match (node, self.as_text(&first)) {
                (Some(node), Ok(name)) => self.attribute(node, &name),
                _ => Value::OPEN,
            },
            "hasAttribute" => match (node, self.as_text(&first)) {
                (Some(node), Ok(name)) => match self.attribute(node, &name) {
                    Value::Text(_) => Value::Boolean(true),
                    Value::Null(_) => Value::Boolean(false),
                    _ => Value::OPEN,
                },
                _ => Value::OPEN,
            },
            "closest" | "matches" => return self.ask_selector(name, (this, node), &first, span).map(Some),
            "cloneNode" | "importNode" => {
                let (of, is_deep) = match name {
                    "cloneNode" => (this.clone(), first.truth()),
                    _ => (first.clone(), arguments.get(1).truth()),
                };
                match (self.node_of(&of), is_deep) {
                    (Some(node), Ok(is_deep)) => self.copied(node, is_deep),
                    _ => {
                        self.touched.anything = true;
                        match self.interface_of(&of) {
                            Some(of) if platform::extends(of, "Node") => self.made(Kind::Instance(of)),
                            _ => Value::OPEN,
                        }
                    }
                }
            }
            "insertRow" | "insertCell" | "createTHead" | "createTFoot" | "createTBody" | "createCaption"
                if node.is_some_and(|node| is_of_table(&self.tag_of(node))) =>
            {
                let made = self.make_element(match name {
                    "insertRow" => "tr",
                    "insertCell" => "td",
                    "createTHead" => "thead",
                    "createTFoot" => "tfoot",
                    "createTBody" => "tbody",
                    _ => "caption",
                });
                // The head of a table may be there.
                match name {
                    "insertRow" | "insertCell" | "createTBody" => made,
                    _ => self.made(Kind::Instance("HTMLElement")),
                }
            }
            "deleteRow" | "deleteCell" | "deleteTHead" | "deleteTFoot" | "deleteCaption"
                if node.is_some() =>
            {
                self.touched.is_moved = true;
                Value::UNDEFINED
            }
            "createDocumentFragment" => self.make_node(Arc::from(FRAGMENT), Contents::Own),
            "attachShadow" if node.is_some_and(|node| self.has_no_shadow(node)) => {
                let given = node.map_or_else(String::new, |node| self.tag_of(node).to_string());
                let takes = "a `div`, a `span`, a `section` or the like, or an element of your own";
                return Err(self.refused(name, given, takes, None, span));
            }
            "attachShadow" => {
                let shadow = self.make_node(Arc::from(SHADOW), Contents::Own);
                if let (Value::Object(host), Some(Value::Text(mode))) = (this, self.option(&first, "mode")) {
                    let seen = if &*mode == "open" { shadow.clone() } else { Value::NULL };
                    self.put_member(*host, Arc::from("shadowRoot"), seen);
                }
                shadow
            }
            "adoptNode" => {
                self.touched.anything = true;
                Value::OPEN
            }
            "getContext" => match first {
                Value::Text(ref of) if &**of == "2d" => self.made(Kind::Instance("CanvasRenderingContext2D")),
                Value::Text(ref of)
                    if !matches!(
                        &**of,
                        "webgl" | "webgl2" | "experimental-webgl" | "bitmaprenderer" | "webgpu"
                    ) =>
                {
                    let name = self.written(span);
                    Value::Null(Some(self.absent(Absence::Place { name })))
                }
                _ => Value::OPEN,
            },
            _ => return Ok(None),
        }))
    }

    /// Whether an element can have no tree in its shadow (DOM, "valid shadow host name").
    fn has_no_shadow(&self, node: Node) -> bool {
        const HOSTS: &[&str] = &[
            "article", "aside", "blockquote", "body", "div", "footer", "h1", "h2", "h3", "h4", "h5", "h6",
            "header", "main", "nav", "p", "section", "span",
        ];
        let tag = self.tag_of(node);
        !tag.contains('-') && !tag.is_empty() && !HOSTS.contains(&&*tag)
    }

    /// Puts nodes somewhere.
    pub(super) fn moves(
        &mut self,
        name: &str,
        node: Option<Node>,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        if let Some(node) = node {
            self.opens(node);
        }
        let takes_nodes = matches!(name, "appendChild" | "insertBefore" | "replaceChild" | "removeChild");
        if takes_nodes && let Some(stop) = self.no_node(name, &arguments.get(0), arguments, 0, span) {
            return Err(stop);
        }
        if name == "insertAdjacentElement"
            && let Some(stop) = self.no_node(name, &arguments.get(1), arguments, 1, span)
        {
            return Err(stop);
        }
        let child = match name {
            "removeChild" => Some(0),
            "insertBefore" | "replaceChild" => Some(1),
            _ => None,
        };
        if let (Some(at), Some(parent)) = (child, node)
            && let Some(child) = self.node_of(&arguments.get(at))
            && self.is_elsewhere(child, parent)
        {
            let written = arguments.expressions.get(at).map(|own| self.written(self.program.span(*own)));
            let kind = RunFaultKind::RefusedArgument {
                method: name.to_owned(),
                given: written.unwrap_or_else(|| "an element".to_owned()),
                takes: "a child of the very element that it is called on".to_owned(),
                write: None,
            };
            return Err(self.throws(span, kind));
        }
        if let Some(stop) = self.put_into_itself(name, node, arguments, span) {
            return Err(stop);
        }
        for (at, value) in arguments.values.iter().enumerate() {
            if let Some(Node::Page(_)) = self.node_of(value)
                && !(name == "insertBefore" && at == 1)
            {
                self.touched.is_moved = true;
            }
            if matches!(self.kind(value), Some(Kind::Instance(_))) && name != "removeChild" {
                self.touched.anything |= !matches!(self.kind(value), Some(Kind::Instance("Text")));
            }
            if value.doubt().is_some() && name != "removeChild" {
                self.touched.anything = true;
            }
        }
        if matches!(name, "replaceChildren" | "replaceWith")
            && let Some(node) = node
        {
            // What was in it may be in what takes its place.
            match arguments.is_open || arguments.values.iter().any(|value| value.doubt().is_some()) {
                true => self.touched.is_moved = true,
                false => self.goes(node, name == "replaceWith"),
            }
        }
        Ok(match name {
            "appendChild" | "insertBefore" | "removeChild" => arguments.get(0),
            "replaceChild" | "insertAdjacentElement" => arguments.get(1),
            _ => Value::UNDEFINED,
        })
    }

    /// What is thrown where an element is put into itself, or into what is in it (DOM, "ensure pre-insertion validity").
    fn put_into_itself(
        &mut self,
        name: &str,
        node: Option<Node>,
        arguments: &Arguments,
        span: Span,
    ) -> Option<super::machine::Stop> {
        let count = match name {
            "append" | "prepend" | "replaceChildren" => arguments.values.len(),
            "appendChild" | "insertBefore" | "replaceChild" => 1,
            _ => 0,
        };
        if count == 0 || !self.is_present() || !self.changes_surely() {
            return None;
        }
        let parent = self.present_node(node?)?;
        for at in 0..count {
            let Some(child) = self.node_of(&arguments.get(at)) else { continue };
            let child = self.present_node(child)?;
            if self.present_document()?.is_in(parent, child) {
                let written = arguments.expressions.get(at).map(|own| self.written(self.program.span(*own)));
                let given = written.unwrap_or_else(|| "an element".to_owned());
                let takes = "an element that is not around the one that it is put into";
                return Some(self.refused(name, given, takes, None, span));
            }
        }
        None
    }

    /// Whether an element of the page is no child of another, and nothing can have moved it there.
    fn is_elsewhere(&mut self, child: Node, parent: Node) -> bool {
        if self.is_present()
            && let (Some(child), Some(parent)) = (self.present_node(child), self.present_node(parent))
            && let Some(document) = self.present_document()
        {
            return document.node(child).parent() != Some(parent) && !self.others_may_change();
        }
        let (Node::Page(child), Node::Page(parent)) = (child, parent) else { return false };
        const MOVES: &[&str] = &[
            "insertBefore", "appendChild", "append(", "prepend(", "before(", "after(", "replaceWith",
            "replaceChild", "insertAdjacentElement", "appendTo", "prependTo", "wrap",
        ];
        let document = self.world.document();
        let own = document.element(child).and_then(|child| child.parent()).map(|own| own.id);
        own.is_some_and(|own| own != parent)
            && !self.touched.is_moved
            && !self.touched.anything
            && self.once("#moves", |this| {
                this.world.knows_all() && !MOVES.iter().any(|name| this.world.has_text(name))
            })
    }
}

/// Whether a text may be the name of an element (DOM, "valid element local name").
fn is_tag(tag: &str) -> bool {
    tag.starts_with(|c: char| c.is_alphabetic() || matches!(c, '_' | ':'))
        && !tag.contains(|c: char| c.is_whitespace() || matches!(c, '<' | '>' | '/' | '"' | '\'' | '='))
}

/// Whether an element is one to which rows or cells are added by methods of its own.
fn is_of_table(tag: &str) -> bool {
    matches!(tag, "table" | "thead" | "tbody" | "tfoot" | "tr")
}
