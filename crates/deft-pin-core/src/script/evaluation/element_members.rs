//! What elements have: what stands around them and in them, their controls, their texts (DOM, "Interface Node"; HTML, "DOM
//! APIs").

use std::sync::Arc;

use super::arguments::Items;
use super::controls::LISTED;
use super::elements::{HTML, MATHML, SVG};
use super::lookups::local;
use super::machine::{DOCUMENT, Machine};
use super::platform;
use super::value::{Absence, Doubt, Kind, Node, ObjectId, Value};
use crate::markup::{ElementRef, NodeId};
use crate::source::Span;

/// A node beside another.
enum Sibling {
    Element(NodeId),
    Text,
}

/// What a form has by its name.
const CONTROLS: &[&str] = &["button", "fieldset", "img", "input", "object", "output", "select", "textarea"];

/// Of all attributes of an element: the element.
const OWNER: &str = "#owner";

/// So many attributes of an element are gone over.
const MOST_ATTRIBUTES: usize = 100;

impl Machine<'_> {
    /// `elements` of a form (HTML, "The form element"). Those that are its own by an attribute alone are not looked for.
    fn form_controls(&mut self, form: NodeId) -> Value {
        let document = self.world.document();
        let is_in =
            |at: ElementRef<'_>| std::iter::successors(Some(at), |at| at.parent()).any(|at| at.id == form);
        let is_control = |at: &ElementRef<'_>| LISTED.contains(&&*at.data().name.local) && is_in(*at);
        let nodes: Vec<NodeId> = document.elements().filter(is_control).map(|at| at.id).collect();
        let has_others = document.elements().any(|at| at.data().attr(&local("form")).is_some());
        let items = nodes.into_iter().map(|node| self.page_element(node)).collect();
        let list = self.list("HTMLFormControlsCollection", items, None);
        if let Value::Object(list) = list {
            self.object_mut(list).is_open = has_others || self.has_grown();
        }
        list
    }

    /// What an element has that is known better than by its interface.
    pub(super) fn element_member(&mut self, id: ObjectId, node: Node, key: &str) -> Option<Value> {
        // Some members of HTML's elements others have as well, of another kind.
        if matches!(key, "className" | "innerText" | "href" | "hash" | "target" | "type")
            && !platform::extends(self.interface_of_node(node), "HTMLElement")
        {
            return None;
        }
        if let Some(known) = self.present_member(node, key) {
            return Some(known);
        }
        if let Some(part) = self.link_part(node, key) {
            return Some(part);
        }
        let element = self.page_node(node).map(|element| element.id);
        let is_still = !self.touched.is_moved && !self.touched.anything && self.gone.is_empty();
        // A fragment has nothing of an element.
        if self.tag_of(node).starts_with('#') {
            return (key == "host").then_some(Value::OPEN);
        }
        Some(match key {
            "classList" => self.made(Kind::Tokens(id)),
            "style" => self.made(Kind::Style),
            "dataset" => self.made(Kind::Dataset(id)),
            "ownerDocument" => Value::Object(DOCUMENT),
            "attributes" => {
                let made = self.make(Kind::Instance("NamedNodeMap"));
                self.object_mut(made).members.insert(Arc::from(OWNER), Value::Object(id));
                Value::Object(made)
            }
            "shadowRoot" if self.has_no_shadows(node) => {
                Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() })))
            }
            "tagName" | "nodeName" => match self.is_drawing(node) {
                true => Value::text(&self.tag_of(node)),
                false => Value::text(&self.tag_of(node).to_ascii_uppercase()),
            },
            "namespaceURI" => Value::text(match self.interface_of_node(node) {
                of if of.starts_with("SVG") => SVG,
                "MathMLElement" => MATHML,
                _ => HTML,
            }),
            "localName" => Value::text(&self.tag_of(node)),
            "nodeType" => Value::Number(1.0),
            "id" if element.is_some() && !self.touched.anything => {
                let own = self.page_node(node)?.data().id().unwrap_or_default().to_owned();
                Value::text(&own)
            }
            // What is copied brings its names along.
            "innerHTML" | "outerHTML" => Value::Some("String", Doubt::Open),
            // Of a drawing it is an object.
            "className" if self.is_drawing(node) => Value::OPEN,
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
                let is_open = nodes.is_empty() || self.has_grown();
                let items = nodes.into_iter().map(|node| self.page_element(node)).collect();
                let list = self.list("HTMLCollection", items, None);
                if let Value::Object(list) = list {
                    self.object_mut(list).is_open = is_open;
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
                    _ if self.has_grown() => Value::OPEN,
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
                    None if self.has_grown() => Value::OPEN,
                    None => Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() }))),
                }
            }
            // Those that reflect elements are no texts.
            _ if key.starts_with("aria") && !key.contains("Element") && !self.world.acts_with(key) => {
                platform::member("Element", key)?;
                self.attribute(node, &super::present_sets::attribute_of(key))
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
            _ => return self.named_member(id, node, key),
        })
    }

    /// Whether other scripts may put elements beside those of the page.
    pub(super) fn may_grow(&self) -> bool {
        const WORDS: &[&str] = &[
            "append", "prepend", "appendChild", "insertBefore", "insertAdjacentHTML", "innerHTML", "html",
            "before", "after", "wrap", "write", "replaceWith",
        ];
        !self.world.knows_all() || WORDS.iter().any(|word| self.world.acts_with(word))
    }

    /// Whether an element of one of these types may have come to the page with a name.
    pub(super) fn may_have_named(&self, tags: &[&str]) -> bool {
        let touched = &self.touched;
        let has_names = touched.attributes.contains("name") || touched.attributes.contains("*");
        touched.anything
            || touched.own_words.is_some()
            || (has_names || !touched.ids.is_empty()) && tags.iter().any(|tag| touched.tags.contains(*tag))
    }

    /// Whether elements may stand beside those of the page by now, from this script or another.
    pub(super) fn has_grown(&self) -> bool {
        !self.touched.tags.is_empty()
            || self.touched.own_words.is_some()
            || self.touched.anything
            || self.may_grow()
    }

    /// Whether a list of this interface shows what comes to the page later (DOM, "collections"), and something may have.
    pub(super) fn is_growing(&self, of: &str) -> bool {
        let touched = &self.touched;
        let gives_names = !touched.ids.is_empty()
            || !touched.classes.is_empty()
            || ["*", "name", "href"].iter().any(|name| touched.attributes.contains(*name));
        !matches!(of, "NodeList" | "CSSRuleList" | "Iterator") && (gives_names || self.has_grown())
    }

    /// Whether nothing on the page gives elements another text.
    fn is_still_text(&mut self) -> bool {
        // What gives elements another text, by whatever library.
        const BY_OTHERS: &[&str] = &[
            "textContent", "innerText", "innerHTML", "nodeValue", "replaceChildren", "insertAdjacentText",
            "insertAdjacentHTML", "createTextNode",
        ];
        const WORDS: &[&str] = &[
            "textContent", "innerText", "innerHTML", "nodeValue", "append", "prepend", "replaceChildren",
            "text", "html", "insertAdjacentText", "insertAdjacentHTML", "createTextNode", "data",
        ];
        let text = self.text;
        let sets = |word: &str| text.contains(&format!(".{word} =")) || text.contains(&format!(".{word}="));
        self.gone.is_empty()
            && self.once("#texts", |this| {
                this.world.knows_all() && !BY_OTHERS.iter().any(|word| this.world.acts_with(word))
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

    /// Whether an element of the page has no tree in its shadow: nothing gives it one.
    fn has_no_shadows(&mut self, node: Node) -> bool {
        let is_given = |text: &str| text.contains("attachShadow") || text.contains("ShadowRoot");
        let tag = self.tag_of(node);
        let is_own = !tag.contains('-') || self.presence.customs.contains_key(&*tag);
        is_own
            && !is_given(self.text)
            && self.world.knows_all()
            && !self.world.has_text("attachShadow")
            && !self
                .world
                .document()
                .elements()
                .any(|own| own.data().attr(&local("shadowrootmode")).is_some())
    }

    /// The attributes of an element, as they are gone over (DOM, "NamedNodeMap"); none where they are not known.
    pub(super) fn items_of_attributes(&mut self, attributes: ObjectId) -> Option<Items> {
        let Value::Object(owner) = self.object(attributes).members.get(OWNER)?.clone() else { return None };
        let Kind::Element(node) = self.object(owner).kind else { return None };
        let is_vague = !self.presence.vague.attributes.is_empty() || !self.is_present();
        if is_vague || self.world.acts_with("setAttribute") {
            return None;
        }
        let id = self.present_node(node)?;
        let element = self.present_document()?.element(id)?;
        let names: Vec<String> =
            element.data().attrs.iter().map(|own| own.name.local.to_string()).take(MOST_ATTRIBUTES).collect();
        let mut known = Vec::new();
        for name in names {
            let value = self.attribute_at_present(node, &name).unwrap_or(Value::A_TEXT);
            let made = self.make(Kind::Instance("Attr"));
            let members = &mut self.object_mut(made).members;
            for (key, value) in
                [("name", Value::text(&name)), ("nodeName", Value::text(&name)), ("value", value)]
            {
                members.insert(Arc::from(key), value);
            }
            known.push(Value::Object(made));
        }
        Some(Items { known, more: None })
    }

    /// An attribute, as a member of all of an element's; none where that cannot be told.
    pub(super) fn attribute_member(&mut self, id: ObjectId, key: &str) -> Option<Value> {
        let Some(Value::Object(owner)) = self.object(id).members.get(OWNER) else { return None };
        let Kind::Element(node) = self.object(*owner).kind else { return None };
        if key.parse::<usize>().is_ok() || self.world.acts_with(key) {
            return None;
        }
        match self.attribute(node, key) {
            // A method that lists of other kinds have is asked for more likely.
            Value::Null(_)
                if ["Array", "NodeList", "Map", "Set"]
                    .iter()
                    .any(|of| platform::member(of, key).is_some()) =>
            {
                None
            }
            Value::Null(absence) => Some(Value::Undefined(absence)),
            Value::Unknown(_) => None,
            _ => Some(self.made(Kind::Instance("Attr"))),
        }
    }

    /// A control of a form by its name; anything of an element that scripts define.
    fn named_member(&mut self, object: ObjectId, node: Node, key: &str) -> Option<Value> {
        let tag = self.tag_of(node);
        if tag.contains('-')
            || self.page_node(node).is_some_and(|own| own.data().attr(&local("is")).is_some())
        {
            let is_known = platform::member("HTMLElement", key).is_some()
                || self.is_of_own_class(node)
                || tag.contains('-') && self.is_never_defined(&tag);
            return (!is_known).then_some(Value::OPEN);
        }
        // Their controls and choices stand in them by their places (HTML, "The form element", "The select element").
        if let (Ok(_), "form" | "select") = (key.parse::<usize>(), &*tag) {
            let list =
                self.element_member(object, node, if &*tag == "form" { "elements" } else { "options" })?;
            return self.member_at(&list, Some(&Arc::from(key)), Span::default()).ok();
        }
        if &*tag != "form" || platform::member("HTMLFormElement", key).is_some() {
            return None;
        }
        let Some(form) = self.element_now(node) else {
            // One that the script has made, and of which nobody knows what is in it.
            let Node::Made(number) = node else { return None };
            let is_open = self.made_nodes.get(number as usize).is_some_and(|made| !made.is_bare);
            return is_open.then_some(Value::OPEN);
        };
        let is_exact = self.present_document().is_some() && !self.presence.vague.attributes.contains("name");
        let id = form.data().id().map(str::to_owned);
        let document = form.document();
        let is_it = |element: &ElementRef<'_>| {
            let data = element.data();
            let is_control = CONTROLS.contains(&&*data.name.local);
            let is_named = data.id() == Some(key) || data.attr(&local("name")) == Some(key);
            let is_of_form =
                data.attr(&local("form")).map_or(element.is_within(form), |own| Some(own) == id.as_deref());
            is_control && is_named && is_of_form
        };
        let controls: Vec<NodeId> = document.elements().filter(is_it).map(|control| control.id).collect();
        if controls.len() > 1 {
            let items = controls.into_iter().map(|control| self.value_now(control)).collect();
            return Some(self.list("RadioNodeList", items, None));
        }
        match controls.first() {
            Some(control) => Some(self.value_now(*control)),
            None if !is_exact && self.may_have_named(CONTROLS) || self.world.mentions(key) => {
                Some(Value::OPEN)
            }
            None => None,
        }
    }
}
