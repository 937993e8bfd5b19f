//! Elements and the document: what they have, what is given to them (DOM; HTML, "DOM APIs").

use std::sync::Arc;

use super::fault::RunFaultKind;
use super::lookups::local;
use super::machine::{Machine, Run, WINDOW};
use super::made_node::{Contents, FRAGMENT, READ, SHADOW, Tag};
use super::piece::{OPEN, shape_of, shapes_of};
use super::platform::{self, Interface};
use super::presence::Manner;
use super::present_page::drawing_of;
use super::present_sets::{data_member, data_name};
use super::query_has::SETS;
use super::touched::Gone;
use super::value::{Absence, Certainty, Doubt, Kind, Members, Node, ObjectId, Value};
use crate::markup::{ElementRef, LocalName, NamedPart, NodeId};
use crate::script::added::names_of_markup;
use crate::script::asked_names::callbacks_of;
use crate::source::Span;

/// The namespaces of elements.
pub(super) const HTML: &str = "http://www.w3.org/1999/xhtml";
pub(super) const SVG: &str = "http://www.w3.org/2000/svg";
pub(super) const MATHML: &str = "http://www.w3.org/1998/Math/MathML";

impl Machine<'_> {
    pub(super) fn page_node(&self, node: Node) -> Option<ElementRef<'_>> {
        match node {
            Node::Page(node) => self.world.document().element(node),
            Node::Made(_) => None,
        }
    }

    /// An element as it is at present, or as it was served where that cannot be told.
    pub(super) fn element_now(&self, node: Node) -> Option<ElementRef<'_>> {
        let present = self.present_id(node).and_then(|id| self.present_document()?.element(id));
        present.or_else(|| self.page_node(node))
    }

    /// The name of an element's tag.
    pub(super) fn tag_of(&self, node: Node) -> Tag {
        match node {
            Node::Page(_) => {
                let element = self.page_node(node);
                Tag::Page(element.map_or_else(LocalName::default, |own| own.data().name.local.clone()))
            }
            Node::Made(number) => {
                let made = self.made_nodes.get(number as usize);
                made.map_or_else(|| Tag::Page(LocalName::default()), |own| Tag::Made(Arc::clone(&own.tag)))
            }
        }
    }

    /// The interface of an element of SVG or MathML; none of others.
    fn drawing(&self, node: Node) -> Option<Interface> {
        match node {
            Node::Page(_) => self.page_node(node).and_then(|own| drawing_of(own.data())),
            Node::Made(number) => self.made_nodes.get(number as usize).and_then(|own| own.drawing),
        }
    }

    /// Whether it is an element of SVG or MathML, whose names are told by their letters' case.
    pub(super) fn is_drawing(&self, node: Node) -> bool {
        self.drawing(node).is_some()
    }

    pub(super) fn interface_of_node(&self, node: Node) -> Interface {
        if let Some(of) = self.drawing(node) {
            return of;
        }
        match &*self.tag_of(node) {
            FRAGMENT => "DocumentFragment",
            SHADOW => "ShadowRoot",
            READ => "HTMLDocument",
            tag => platform::of_tag(tag),
        }
    }

    /// An element that the script makes.
    pub(super) fn make_element(&mut self, tag: &str) -> Value {
        let tag: Arc<str> = Arc::from(tag.to_ascii_lowercase());
        self.touched.tags.insert(Arc::clone(&tag));
        // What is in one of a name that is not the platform's, another script may have put there.
        let is_own = !tag.contains('-') || self.presence.customs.contains_key(&tag);
        self.make_node(tag, if is_own { Contents::Own } else { Contents::Open })
    }

    /// How certain it is that an element of the page is there no more; none where nothing takes it out.
    pub(super) fn gone(&self, node: NodeId) -> Option<Certainty> {
        if self.gone.is_empty() {
            return None;
        }
        let around = std::iter::successors(self.page_node(Node::Page(node)), |at| at.parent());
        let takes = |at: ElementRef<'_>| {
            let takes = |gone: &&Gone| gone.node == at.id && (gone.is_whole || at.id != node);
            self.gone.iter().filter(takes).map(|gone| gone.certainty).min()
        };
        around.filter_map(takes).min()
    }

    /// Elements of the page go: one as a whole, or all that is in it.
    pub(super) fn goes(&mut self, node: Node, is_whole: bool) {
        if let Node::Page(node) = node {
            if self.gone.len() < 500 {
                let certainty = if self.thrown.is_none() { self.certainty } else { Certainty::Perhaps };
                self.gone.push(Gone { node, is_whole, certainty });
            } else {
                self.touched.is_moved = true;
                self.gone.clear();
            }
        }
    }

    /// Takes note of the names in markup that the script brings in.
    pub(super) fn brings_markup(&mut self, value: &Value) {
        self.givings += 1;
        let Ok(text) = self.as_text(value) else {
            match value {
                // What is put together of the script's own texts and those of the page has names of these alone.
                Value::Some("String", Doubt::Now | Doubt::Bare | Doubt::Page) => self.brings_own_markup(),
                Value::Pieced(pieces, _) => {
                    self.brings_own_markup();
                    let mut names = Vec::new();
                    let shape = shape_of(pieces);
                    names_of_markup(&shape, Span { start: 0, end: 0 }, &mut names);
                    // Which element that is, is not known.
                    let is_tag = |tag: &str| {
                        tag.split(|c: char| c.is_ascii_whitespace() || c == '>')
                            .next()
                            .is_some_and(|name| name.contains(OPEN))
                    };
                    self.touched.anything |= shape.split('<').skip(1).any(is_tag);
                    self.begins_names(names.iter().map(|added| &*added.name));
                }
                Value::Some("Number" | "BigInt" | "Boolean", _) => {}
                _ => self.touched.anything = true,
            }
            return;
        };
        self.records_markup(&text);
        let mut names = Vec::new();
        names_of_markup(&text, Span { start: 0, end: 0 }, &mut names);
        for added in names {
            let name: Arc<str> = Arc::from(added.name.as_str());
            if added.is_id {
                self.touched.ids.insert(name)
            } else {
                self.touched.classes.insert(name)
            };
        }
        for part in text.split('<').skip(1) {
            let tag: String = part.chars().take_while(|c| c.is_ascii_alphanumeric() || *c == '-').collect();
            if !tag.is_empty() {
                self.touched.tags.insert(Arc::from(tag.to_ascii_lowercase()));
            }
            if part.contains('=') {
                self.touched.attributes.insert(Arc::from("*"));
            }
        }
    }

    /// Takes note that every word of the script's texts may have become a name.
    fn brings_own_markup(&mut self) {
        self.touched.own_words = Some(Arc::clone(self.program.own_words()));
        self.touched.attributes.insert(Arc::from("*"));
    }

    /// Of some names only the beginning is known.
    fn begins_names<'n>(&mut self, names: impl Iterator<Item = &'n str>) {
        for (beginning, _) in names.filter_map(|name| name.split_once(OPEN)) {
            self.touched.anything |= beginning.is_empty();
            self.touched.beginnings.insert(Arc::from(beginning));
        }
    }

    /// Names that the script gives to an element.
    pub(super) fn gives_names(&mut self, value: &Value, is_id: bool) {
        self.givings += 1;
        let text = match (self.as_text(value), value) {
            (Ok(text), _) => text,
            (Err(_), Value::Pieced(pieces, _)) => {
                let shapes = shapes_of(pieces).join(" ");
                self.begins_names(shapes.split_ascii_whitespace());
                let known = shapes.split_ascii_whitespace().filter(|word| !word.contains(OPEN));
                Arc::from(known.collect::<Vec<_>>().join(" "))
            }
            _ => {
                self.touched.anything = true;
                return;
            }
        };
        self.records_names(&text, is_id);
        for name in text.split_ascii_whitespace() {
            let name: Arc<str> = Arc::from(name);
            if is_id {
                self.touched.ids.insert(name)
            } else {
                self.touched.classes.insert(name)
            };
        }
    }

    /// The value of an attribute of an element, as far as that is known.
    pub(super) fn attribute(&mut self, node: Node, name: &str) -> Value {
        if let Some(known) = self.attribute_at_present(node, name) {
            return known;
        }
        let touched = self.touched.attributes.contains(name)
            || self.touched.attributes.contains("*")
            || self.touched.anything;
        let Some(element) = self.page_node(node) else { return Value::OPEN };
        if touched {
            return Value::OPEN;
        }
        match element.data().attr(&local(&name.to_ascii_lowercase())) {
            // Other scripts may give it another value.
            Some(value) if !self.world.acts_with(name) => Value::text(value),
            Some(_) => Value::OPEN,
            None if self.world.acts_with(name) => Value::OPEN,
            None => Value::Null(Some(self.absent(Absence::Attribute { name: name.to_owned() }))),
        }
    }

    pub(super) fn dataset_member(&mut self, element: ObjectId, key: &str) -> Value {
        let Kind::Element(node) = self.object(element).kind else { return Value::OPEN };
        if self.world.acts_with(key) {
            return Value::OPEN;
        }
        match self.attribute(node, &data_name(key)) {
            Value::Null(absence) => Value::Undefined(absence),
            other => other,
        }
    }

    /// All that an element has in its `dataset` at present; none where that cannot be told.
    pub(super) fn data_at_present(&mut self, element: ObjectId) -> Option<Members> {
        let node = self.node_of(&Value::Object(element))?;
        let is_vague =
            self.presence.vague.attributes.iter().any(|name| &**name == "*" || name.starts_with("data-"));
        let others = ["dataset", "setAttribute", "attr"].iter().any(|word| self.world.acts_with(word));
        if is_vague || others || !self.is_present() || !self.world.knows_all() {
            return None;
        }
        let id = self.present_node(node)?;
        let own = self.present_document()?.element(id)?;
        let data = own.data().attrs.iter().filter_map(|attribute| {
            let name = data_member(attribute.name.local.strip_prefix("data-")?);
            Some((Arc::from(name), Value::text(&attribute.value)))
        });
        Some(data.collect())
    }

    /// Sets a member of an element, the document or what belongs to an element. Says whether that was all.
    pub(super) fn set_platform_member(
        &mut self,
        id: ObjectId,
        key: &Arc<str>,
        value: &Value,
        span: Span,
    ) -> Run<bool> {
        let of = match &self.object(id).kind {
            Kind::Element(node) => Some(self.interface_of_node(*node)),
            Kind::Document => Some("HTMLDocument"),
            Kind::List(of, _) => Some(*of),
            _ => None,
        };
        if let Some(of) = of
            && self.check_writable(id, of, key, span)?
        {
            return Ok(true);
        }
        if let Some(of) = of {
            self.refused_attribute(id, of, key, value, span)?;
        }
        self.check_kept(id, key, value, span);
        let is_all = self.set_known_member(id, key, value, span)?;
        self.was_set(id, key, value);
        self.reacts()?;
        Ok(is_all)
    }

    fn set_known_member(&mut self, id: ObjectId, key: &Arc<str>, value: &Value, span: Span) -> Run<bool> {
        let object = Value::Object(id);
        match self.copied_kind(id) {
            Kind::Document => {
                if let Some(event) = key.strip_prefix("on").filter(|event| platform::is_event(event)) {
                    self.listen(&object, event, value, Manner::PROPERTY, span);
                    return Ok(true);
                }
                if &**key == "cookie" {
                    self.sets_cookie(value);
                }
                if matches!(&**key, "location" | "title" | "cookie" | "body") {
                    return Ok(true);
                }
                self.check_member("HTMLDocument", key, span);
            }
            Kind::Dataset(_) => {
                if let Some(name) = misnamed_data(key) {
                    let takes = "a name without `-` before a letter";
                    return Err(self.refused("dataset", &**key, takes, Some(&name), span));
                }
                self.touched.attributes.insert(Arc::from(format!("data-{key}")));
            }
            Kind::Style => {
                self.touched.attributes.insert(Arc::from("style"));
                self.check_style(key, value, span);
                return Ok(true);
            }
            Kind::Query(..) => {
                let kind = self.of_list(SETS, key, false);
                if let Some(kind) = kind.filter(|_| !self.may_be_of_sets(key)) {
                    self.note(span, kind);
                }
            }
            Kind::List(of, _) => {
                if let Some(kind) = self.of_list(of, key, false) {
                    self.note(span, kind);
                }
                return Ok(true);
            }
            Kind::Element(node) => return self.set_element_member(&object, node, key, value, span),
            _ => {}
        }
        Ok(false)
    }

    fn set_element_member(
        &mut self,
        object: &Value,
        node: Node,
        key: &Arc<str>,
        value: &Value,
        span: Span,
    ) -> Run<bool> {
        let of = self.interface_of_node(node);
        self.refused_set(node, of, key, value, span)?;
        match &**key {
            "id" => {
                self.loses_name(node, "id", value);
                self.gives_names(value, true);
            }
            // What is given to the list is given to the attribute (DOM, `[PutForwards=value]`).
            "className" | "classList" => {
                self.loses_name(node, "class", value);
                self.gives_names(value, false);
                return Ok(&**key == "classList");
            }
            "relList" | "sandbox" | "sizes" | "part" | "style" if platform::member(of, key).is_some() => {
                self.touched.attributes.insert(Arc::from(key.trim_end_matches("List")));
                return Ok(true);
            }
            // Of a fragment that is any member, and nothing comes of it.
            "innerHTML" if &*self.tag_of(node) == FRAGMENT => {
                let of = "DocumentFragment".to_owned();
                let kind =
                    RunFaultKind::IgnoredMember { of, name: key.to_string(), near: "append".to_owned() };
                self.note(span, kind);
                return Ok(true);
            }
            "innerHTML" | "outerHTML" => {
                self.goes(node, &**key == "outerHTML");
                self.fills(node, value);
                self.brings_markup(value);
                return Ok(true);
            }
            "textContent" | "innerText" => {
                self.goes(node, false);
                self.fills(node, &Value::text(""));
                return Ok(true);
            }
            "src" if &*self.tag_of(node) == "script" => {
                if let Ok(address) = self.as_text(value) {
                    self.names_callback(&address, span);
                }
                self.touched.attributes.insert(Arc::clone(key));
            }
            "src" | "href" | "value" | "poster" => {
                if matches!(&**key, "src" | "poster") {
                    self.asks_for_file(value, span);
                }
                self.touched.attributes.insert(Arc::clone(key));
            }
            _ => {
                if let Some(event) = key.strip_prefix("on").filter(|_| platform::member(of, key).is_some()) {
                    // Some of the page's body are the window's (HTML, "Window-reflecting body element event handler set").
                    const REFLECTED: &[&str] = &["blur", "error", "focus", "load", "resize", "scroll"];
                    let is_body = matches!(&*self.tag_of(node), "body" | "frameset");
                    let target = match is_body && REFLECTED.contains(&event) {
                        true => Value::Object(WINDOW),
                        false => object.clone(),
                    };
                    self.listen(&target, event, value, Manner::PROPERTY, span);
                    return Ok(true);
                }
                self.touched.attributes.insert(Arc::clone(key));
                if !self.tag_of(node).contains('-') {
                    self.check_member(of, key, span);
                }
            }
        }
        Ok(false)
    }

    /// Takes note of the names that an element of the page has no more, where its ID or its classes become others.
    pub(super) fn loses_name(&mut self, node: Node, attribute: &str, value: &Value) {
        let Ok(text) = self.as_text(value) else { return };
        let Some(element) = self.page_node(node) else { return };
        let own = element.data().attr(&local(attribute)).unwrap_or_default();
        let kept: Vec<&str> = text.split_ascii_whitespace().collect();
        let lost: Vec<NamedPart> = own
            .split_ascii_whitespace()
            .filter(|name| !kept.contains(name))
            .map(|name| match attribute {
                "id" => NamedPart::Id(name.into()),
                _ => NamedPart::Class(name.into()),
            })
            .collect();
        let id = element.id;
        lost.into_iter().for_each(|part| self.loses(id, part));
    }

    /// The same for one name.
    pub(super) fn loses(&mut self, node: NodeId, part: NamedPart) {
        if self.certainty == Certainty::Certain && self.thrown.is_none() && !self.is_later {
            self.touched.lost.push((node, part));
        }
    }

    /// Takes note of the callback that the address of a script names.
    fn names_callback(&mut self, address: &str, span: Span) {
        if self.certainty != Certainty::Perhaps {
            let span = self.codes.here(span);
            self.callbacks.extend(callbacks_of(address).map(|name| (Arc::from(name), span)));
        }
    }
}

/// What a name has to be that no member of `dataset` can have (HTML, "DOMStringMap": a `-` and a small letter behind it);
/// none of others.
fn misnamed_data(key: &str) -> Option<String> {
    let is_wrong = key.as_bytes().windows(2).any(|pair| pair[0] == b'-' && pair[1].is_ascii_lowercase());
    is_wrong.then(|| data_member(key.strip_prefix("data-").unwrap_or(key)))
}
