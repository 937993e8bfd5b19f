//! Elements and the document: what they have, what is given to them (DOM; HTML, "DOM APIs").

use std::sync::Arc;

use super::fault::RunFaultKind;
use super::lookups::local;
use super::machine::{DOCUMENT, Machine, Run};
use super::made::{Contents, FRAGMENT, SHADOW};
use super::platform::{self, Interface};
use super::touched::Gone;
use super::value::{Absence, Certainty, Doubt, Kind, Node, ObjectId, Value};
use crate::markup::{ElementRef, NamedPart, NodeId};
use crate::script::added::names_of_markup;
use crate::script::asked_names::callbacks_of;
use crate::source::Span;

/// A node beside another.
enum Sibling {
    Element(NodeId),
    Text,
}

impl Machine<'_> {
    pub(super) fn page_node(&self, node: Node) -> Option<ElementRef<'_>> {
        match node {
            Node::Page(node) => self.world.document().element(node),
            Node::Made(_) => None,
        }
    }

    /// The name of an element's tag.
    pub(super) fn tag_of(&self, node: Node) -> Arc<str> {
        match node {
            Node::Page(_) => {
                Arc::from(self.page_node(node).map_or("", |element| &*element.data().name.local))
            }
            Node::Made(number) => {
                self.made_nodes.get(number as usize).map_or_else(|| Arc::from(""), |own| Arc::clone(&own.tag))
            }
        }
    }

    pub(super) fn interface_of_node(&self, node: Node) -> Interface {
        if let Some(element) = self.page_node(node)
            && element.data().name.ns == html5ever::ns!(svg)
        {
            return if &*element.data().name.local == "svg" { "SVGSVGElement" } else { "SVGElement" };
        }
        match &*self.tag_of(node) {
            FRAGMENT => "DocumentFragment",
            SHADOW => "ShadowRoot",
            tag => platform::of_tag(tag),
        }
    }

    /// An element that the script makes.
    pub(super) fn make_element(&mut self, tag: &str) -> Value {
        let tag: Arc<str> = Arc::from(tag.to_ascii_lowercase());
        self.touched.tags.insert(Arc::clone(&tag));
        self.found.clear();
        self.make_node(tag, Contents::Own)
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
        self.found.clear();
        self.givings += 1;
        let Ok(text) = self.as_text(value) else {
            match value {
                // What is put together of the script's own texts and those of the page has names of these alone.
                Value::Some("String", Doubt::Now | Doubt::Page) => self.brings_own_markup(),
                _ => self.touched.anything = true,
            }
            return;
        };
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

    /// Names that the script gives to an element.
    pub(super) fn gives_names(&mut self, value: &Value, is_id: bool) {
        self.found.clear();
        self.givings += 1;
        let Ok(text) = self.as_text(value) else {
            self.touched.anything = true;
            return;
        };
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
        let touched = self.touched.attributes.contains(name)
            || self.touched.attributes.contains("*")
            || self.touched.anything;
        let Some(element) = self.page_node(node) else { return Value::OPEN };
        if touched {
            return Value::OPEN;
        }
        match element.data().attr(&local(&name.to_ascii_lowercase())) {
            // Other scripts may give it another value.
            Some(value) if !self.world.mentions(name) => Value::text(value),
            Some(_) => Value::OPEN,
            None if self.world.mentions(name) => Value::OPEN,
            None => Value::Null(Some(self.absent(Absence::Attribute { name: name.to_owned() }))),
        }
    }

    pub(super) fn dataset_member(&mut self, element: ObjectId, key: &str) -> Value {
        let Kind::Element(node) = self.object(element).kind else { return Value::OPEN };
        if self.world.mentions(key) {
            return Value::OPEN;
        }
        let mut name = "data-".to_owned();
        for c in key.chars() {
            if c.is_ascii_uppercase() {
                name.push('-');
            }
            name.push(c.to_ascii_lowercase());
        }
        match self.attribute(node, &name) {
            Value::Null(absence) => Value::Undefined(absence),
            other => other,
        }
    }

    /// `elements` of a form (HTML, "The form element"). Those that are its own by an attribute alone are not looked for.
    fn form_controls(&mut self, form: NodeId) -> Value {
        const TAGS: &[&str] = &["button", "fieldset", "input", "object", "output", "select", "textarea"];
        let document = self.world.document();
        let is_in =
            |at: ElementRef<'_>| std::iter::successors(Some(at), |at| at.parent()).any(|at| at.id == form);
        let is_control = |at: &ElementRef<'_>| TAGS.contains(&&*at.data().name.local) && is_in(*at);
        let nodes: Vec<NodeId> = document.elements().filter(is_control).map(|at| at.id).collect();
        let has_others = document.elements().any(|at| at.data().attr(&local("form")).is_some());
        let items = nodes.into_iter().map(|node| self.page_element(node)).collect();
        let list = self.list("HTMLFormControlsCollection", items, None);
        if let Value::Object(list) = list {
            self.object_mut(list).is_open = has_others;
        }
        list
    }

    /// What an element has that is known better than by its interface.
    pub(super) fn element_member(&mut self, id: ObjectId, node: Node, key: &str) -> Option<Value> {
        let element = self.page_node(node).map(|element| element.id);
        let is_still = !self.touched.is_moved && !self.touched.anything && self.gone.is_empty();
        // A fragment has nothing of an element.
        if self.tag_of(node).starts_with('#') {
            return (key == "host").then_some(Value::OPEN);
        }
        Some(match key {
            "classList" | "relList" | "sandbox" => self.made(Kind::Tokens(id)),
            "style" => self.made(Kind::Style),
            "dataset" => self.made(Kind::Dataset(id)),
            "ownerDocument" => Value::Object(DOCUMENT),
            "tagName" | "nodeName" => Value::text(&self.tag_of(node).to_ascii_uppercase()),
            "localName" => Value::Text(self.tag_of(node)),
            "nodeType" => Value::Number(1.0),
            "id" if element.is_some() && !self.touched.anything => {
                let own = self.page_node(node)?.data().id().unwrap_or_default().to_owned();
                Value::text(&own)
            }
            // What is copied brings its names along.
            "innerHTML" | "outerHTML" => Value::Some("String", Doubt::Open),
            "className" | "innerText" => Value::Some("String", Doubt::Page),
            "parentElement" | "parentNode" if is_still => {
                let is_root = self.world.document().root().map(|root| root.id) == element;
                match self.page_node(node)?.parent().map(|up| up.id) {
                    Some(parent) => self.page_element(parent),
                    // Above the root there is the document, and no element.
                    None if is_root && key == "parentNode" => Value::Object(DOCUMENT),
                    None if is_root => Value::NULL,
                    None => Value::OPEN,
                }
            }
            "parentElement" | "parentNode" if element.is_some() => self.made(Kind::Instance("HTMLElement")),
            "children" if is_still && element.is_some() => {
                let document = self.world.document();
                let nodes: Vec<NodeId> =
                    document.children(element?).filter(|child| document.element(*child).is_some()).collect();
                let is_empty = nodes.is_empty();
                let items = nodes.into_iter().map(|node| self.page_element(node)).collect();
                let list = self.list("HTMLCollection", items, None);
                if let Value::Object(list) = list {
                    self.object_mut(list).is_open = is_empty;
                }
                list
            }
            "elements" if is_still && element.is_some() && &*self.tag_of(node) == "form" => {
                self.form_controls(element?)
            }
            "rows" | "cells" | "options" | "tBodies" if is_still && element.is_some() => {
                let (tags, selector) = match key {
                    "rows" => (&["table", "tbody", "thead", "tfoot"][..], "tr"),
                    "cells" => (&["tr"][..], "td, th"),
                    "options" => (&["select", "datalist"][..], "option"),
                    _ => (&["table"][..], "tbody"),
                };
                if !tags.contains(&&*self.tag_of(node)) {
                    return None;
                }
                let Ok(selectors) = crate::markup::parse_selectors(selector) else { return None };
                let found = self.found_on_page(Some(node), selector, &selectors).ok()?;
                let items = found.nodes.iter().map(|node| self.page_element(*node)).collect();
                let is_open = self.touched.tags.iter().any(|tag| selector.contains(&**tag))
                    || self.touched.own_words.is_some()
                    || self.may_grow();
                let list = self.list("HTMLCollection", items, None);
                if let Value::Object(list) = list {
                    self.object_mut(list).is_open = is_open;
                    self.object_mut(list).members.insert(Arc::from("#absence"), Value::NULL);
                }
                list
            }
            "hash" if element.is_some() && matches!(&*self.tag_of(node), "a" | "area") => {
                match self.attribute(node, "href") {
                    Value::Text(address) => {
                        let hash = address.find('#').map_or("", |at| &address[at..]);
                        Value::text(if hash.len() > 1 { hash } else { "" })
                    }
                    _ => Value::A_TEXT,
                }
            }
            "content" if &*self.tag_of(node) == "template" && element.is_some() => {
                self.template_contents(node)?
            }
            "selectedOptions" if is_still && element.is_some() && &*self.tag_of(node) == "select" => {
                self.selected_options(element?)?
            }
            "firstChild" | "lastChild" | "nextSibling" | "previousSibling"
                if is_still && element.is_some() =>
            {
                match self.sibling(element?, key) {
                    _ if self.may_grow()
                        || !self.touched.tags.is_empty()
                        || self.touched.own_words.is_some() =>
                    {
                        Value::OPEN
                    }
                    Some(Sibling::Element(node)) => self.page_element(node),
                    Some(Sibling::Text) => {
                        let text = self.make(Kind::Instance("Text"));
                        self.object_mut(text).is_open = true;
                        Value::Object(text)
                    }
                    None => Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() }))),
                }
            }
            "textContent" if is_still && element.is_some() && self.is_still_text() => {
                const LONGEST: usize = 2_000;
                let text = self.world.document().text_of(element?);
                let is_plain = text.len() <= LONGEST
                    && self
                        .world
                        .document()
                        .children(element?)
                        .all(|child| self.world.document().element(child).is_none());
                if is_plain { Value::text(&text) } else { Value::Some("String", Doubt::Page) }
            }
            "textContent" => Value::Some("String", Doubt::Page),
            "firstElementChild" | "lastElementChild" | "nextElementSibling" | "previousElementSibling"
                if is_still && element.is_some() =>
            {
                match self.relative(element?, key) {
                    Some(node) => self.page_element(node),
                    None if self.may_grow()
                        || !self.touched.tags.is_empty()
                        || self.touched.own_words.is_some() =>
                    {
                        Value::OPEN
                    }
                    None => Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() }))),
                }
            }
            _ if key.starts_with("on") && platform::member(self.interface_of_node(node), key).is_some() => {
                let is_set = self.text.matches(key).count() > 1
                    || self.touched.anything
                    || self.world.mentions(key)
                    || !self.world.knows_all();
                let has = self.page_node(node).is_some_and(|own| own.data().attr(&local(key)).is_some());
                match is_set || has || element.is_none() {
                    true => Value::OPEN,
                    false => Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() }))),
                }
            }
            _ => return self.named_member(node, key),
        })
    }

    /// Whether other scripts may put elements beside those of the page.
    fn may_grow(&self) -> bool {
        const WORDS: &[&str] = &[
            "append", "prepend", "appendChild", "insertBefore", "insertAdjacentHTML", "innerHTML", "html",
            "before", "after", "wrap", "write", "replaceWith",
        ];
        !self.world.knows_all() || WORDS.iter().any(|word| self.world.mentions(word))
    }

    /// Whether nothing on the page gives elements another text.
    fn is_still_text(&mut self) -> bool {
        // What gives elements another text, by whatever library.
        const BY_OTHERS: &[&str] = &[
            "textContent", "innerText", "innerHTML", "nodeValue", "replaceChildren", "insertAdjacentText",
            "insertAdjacentHTML", "createTextNode", "jQuery",
        ];
        const WORDS: &[&str] = &[
            "textContent", "innerText", "innerHTML", "nodeValue", "append", "prepend", "replaceChildren",
            "text", "html", "insertAdjacentText", "insertAdjacentHTML", "createTextNode", "data",
        ];
        let text = self.text;
        let sets = |word: &str| text.contains(&format!(".{word} =")) || text.contains(&format!(".{word}="));
        self.gone.is_empty()
            && self.once("#texts", |this| {
                this.world.knows_all() && !BY_OTHERS.iter().any(|word| this.world.mentions(word))
            })
            && !WORDS.iter().any(|word| sets(word) || text.contains(&format!(".{word}(")))
    }

    /// The options of a `select` that are chosen before anybody has chosen (HTML, "ask for a reset").
    fn selected_options(&mut self, select: NodeId) -> Option<Value> {
        let document = self.world.document();
        let element = document.element(select)?;
        let is_many = element.data().attr(&local("multiple")).is_some();
        let options: Vec<ElementRef<'_>> = document
            .elements()
            .filter(|at| &*at.data().name.local == "option" && at.is_within(element))
            .collect();
        let first = options.first().map(|own| own.id);
        if is_many || options.is_empty() {
            return None;
        }
        // Which one a visitor takes is open; that it is one is not.
        let item = match options.len() {
            1 => self.page_element(first?),
            _ => self.made(Kind::Instance("HTMLOptionElement")),
        };
        Some(self.list("HTMLCollection", vec![item], None))
    }

    /// The node before or behind an element, or the first or last in it. Comments count as texts.
    fn sibling(&self, node: NodeId, key: &str) -> Option<Sibling> {
        let document = self.world.document();
        let of = match key {
            "firstChild" | "lastChild" => node,
            _ => document.parent_element(node)?.id,
        };
        let all: Vec<NodeId> = document.children(of).collect();
        let found = match key {
            "firstChild" => all.first(),
            "lastChild" => all.last(),
            _ => {
                let at = all.iter().position(|own| *own == node)?;
                let next = if key == "nextSibling" { Some(at + 1) } else { at.checked_sub(1) };
                next.and_then(|at| all.get(at))
            }
        };
        found.map(|found| match document.element(*found) {
            Some(_) => Sibling::Element(*found),
            None => Sibling::Text,
        })
    }

    fn relative(&self, node: NodeId, key: &str) -> Option<NodeId> {
        let document = self.world.document();
        let elements = |of: NodeId| document.children(of).filter(|child| document.element(*child).is_some());
        match key {
            "firstElementChild" => elements(node).next(),
            "lastElementChild" => elements(node).last(),
            _ => {
                let siblings: Vec<NodeId> = elements(document.parent_element(node)?.id).collect();
                let at = siblings.iter().position(|sibling| *sibling == node)?;
                match key {
                    "nextElementSibling" => siblings.get(at + 1).copied(),
                    _ => at.checked_sub(1).and_then(|at| siblings.get(at).copied()),
                }
            }
        }
    }

    /// A control of a form by its name; anything of an element that scripts define.
    fn named_member(&mut self, node: Node, key: &str) -> Option<Value> {
        let tag = self.tag_of(node);
        if tag.contains('-')
            || self.page_node(node).is_some_and(|own| own.data().attr(&local("is")).is_some())
        {
            let known = platform::member("HTMLElement", key).is_some();
            return (!known).then_some(Value::OPEN);
        }
        if &*tag != "form" || platform::member("HTMLFormElement", key).is_some() {
            return None;
        }
        let form = self.page_node(node)?;
        let id = form.data().id().map(str::to_owned);
        let document = self.world.document();
        let control = document.elements().find(|element| {
            let data = element.data();
            let is_control = matches!(
                &*data.name.local,
                "input" | "select" | "textarea" | "button" | "output" | "fieldset" | "object" | "img"
            );
            let is_named = data.id() == Some(key) || data.attr(&local("name")) == Some(key);
            let is_of_form =
                data.attr(&local("form")).map_or(element.is_within(form), |own| Some(own) == id.as_deref());
            is_control && is_named && is_of_form
        });
        match control.map(|control| control.id) {
            Some(control) => Some(self.page_element(control)),
            None if self.touched.anything || self.world.mentions(key) => Some(Value::OPEN),
            None => None,
        }
    }

    /// Sets a member of an element, the document or what belongs to an element. Says whether that was all.
    pub(super) fn set_platform_member(
        &mut self,
        id: ObjectId,
        key: &Arc<str>,
        value: &Value,
        span: Span,
    ) -> Run<bool> {
        let object = Value::Object(id);
        match self.copied_kind(id) {
            Kind::Document => {
                if let Some(event) = key.strip_prefix("on").filter(|event| platform::is_event(event)) {
                    self.listen(&object, event, value.clone(), span);
                    return Ok(true);
                }
                if matches!(&**key, "location" | "title" | "cookie" | "body") {
                    return Ok(true);
                }
                self.check_member("HTMLDocument", key, span);
            }
            Kind::Dataset(_) => {
                self.touched.attributes.insert(Arc::from(format!("data-{key}")));
            }
            Kind::Style => {
                self.check_style(key, value, span);
                return Ok(true);
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
        match &**key {
            "id" => {
                self.loses_name(node, "id", value);
                self.gives_names(value, true);
            }
            // What is given to the list is given to the attribute (DOM, `[PutForwards=value]`).
            "className" | "classList" => {
                self.loses_name(node, "class", value);
                self.gives_names(value, false);
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
                self.found.clear();
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
                    self.listen(object, event, value.clone(), span);
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
            self.callbacks.extend(callbacks_of(address).map(|name| (Arc::from(name), span)));
        }
    }
}
