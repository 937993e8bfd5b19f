//! What the page at present has: what is found in it, what stands around an element and in it.

use std::sync::Arc;

use super::controls::is_labelled;
use super::lookups::local;
use super::machine::{DOCUMENT, Machine, Run};
use super::piece::{Piece, letters_of, may_be_markup};
use super::platform;
use super::presence::{Members, Recipe};
use super::present_sets::attribute_of;
use super::value::{Absence, Doubt, Kind, Node, Value};
use crate::markup::{Assume, Document, NodeData, NodeId, SelectorList, Sought};
use crate::source::Span;

/// Longer texts are not kept.
const LONGEST_TEXT: usize = 5_000;

/// What other scripts give elements another text with.
const TEXT_WORDS: &[&str] = &[
    "textContent", "innerText", "innerHTML", "nodeValue", "replaceChildren", "insertAdjacentText",
    "insertAdjacentHTML", "createTextNode", "text",
];

/// Members that say whether an attribute is there (HTML, "reflecting content attributes in IDL attributes").
const SWITCHED: &[(&str, &str)] = &[
    ("async", "async"),
    ("autofocus", "autofocus"),
    ("controls", "controls"),
    ("defaultChecked", "checked"),
    ("defaultSelected", "selected"),
    ("defer", "defer"),
    ("disabled", "disabled"),
    ("hidden", "hidden"),
    ("loop", "loop"),
    ("multiple", "multiple"),
    ("noModule", "nomodule"),
    ("noValidate", "novalidate"),
    ("readOnly", "readonly"),
    ("required", "required"),
    ("reversed", "reversed"),
];

impl Machine<'_> {
    /// What a selector finds on the page at present; none where that cannot be told.
    pub(super) fn find_present(
        &mut self,
        scope: Option<Node>,
        selector: &str,
        selectors: &SelectorList,
        list: Option<&'static str>,
        span: Span,
    ) -> Run<Option<Value>> {
        if !self.is_present() || self.presence.vague.hides(selector, selectors) {
            return Ok(None);
        }
        let within = match scope {
            None => NodeId::DOCUMENT,
            Some(node) => match self.present_node(node) {
                Some(id) => id,
                None => return Ok(None),
            },
        };
        let Some(document) = self.present_document() else { return Ok(None) };
        let inside = document.element(within);
        let mut sought = Sought::by(selectors);
        let mut found: Vec<NodeId> = Vec::new();
        let (mut count, mut is_by_state) = (0_u32, false);
        for element in document.descendants(within).filter_map(|id| document.element(id)) {
            count += 1;
            match sought.surely_finds(element, inside) {
                Some(true) => {}
                Some(false) => continue,
                None => {
                    is_by_state = true;
                    continue;
                }
            }
            found.push(element.id);
            if list.is_none() {
                break;
            }
        }
        self.step(count / 20)?;
        if is_by_state {
            // What depends on states is told by those that nobody has changed yet.
            if !self.is_untouched() {
                return Ok(None);
            }
            let Some(document) = self.present_document() else { return Ok(None) };
            found = found_untouched(document, selectors, within);
        }
        let by_others =
            || self.world.may_be_made(selectors, self.is_later) || self.may_come_meanwhile(selectors);
        let Some(list) = list else {
            return Ok(Some(match found.first() {
                Some(id) => self.present_value(*id),
                None if by_others() => Value::OPEN,
                None => self.nothing(selector.to_owned(), span, false),
            }));
        };
        // More of them may come than there are.
        let is_open = match found.is_empty() {
            true => by_others(),
            false => self.world.may_be_made(selectors, self.is_later),
        };
        let items = found.iter().take(300).map(|id| self.present_value(*id)).collect();
        let value = self.list(list, items, Some((selector.to_owned(), span)));
        if let Value::Object(id) = value {
            self.object_mut(id).is_open = is_open || found.len() > 300;
            if list != "NodeList" && !is_open {
                let by = Members::Selector(Arc::from(selector));
                self.recipes.insert(id, Recipe { within, by });
            }
        }
        Ok(Some(value))
    }

    /// A member of an element that the page at present tells.
    pub(super) fn present_member(&mut self, node: Node, key: &str) -> Option<Value> {
        if self.presence.is_lost() || !self.is_present() {
            return None;
        }
        let tag = self.tag_of(node);
        if let Some(by) = Members::of(&tag, key) {
            let within = self.present_node(node)?;
            let of = match by {
                Members::Controls => "HTMLFormControlsCollection",
                _ => "HTMLCollection",
            };
            return self.present_list(of, Recipe { within, by });
        }
        match key {
            "parentElement"
            | "parentNode"
            | "firstElementChild"
            | "lastElementChild"
            | "nextElementSibling"
            | "previousElementSibling" => {
                let id = self.present_node(node)?;
                self.relative_at_present(id, key)
            }
            "firstChild" | "lastChild" | "nextSibling" | "previousSibling"
                if !self.presence.vague.texts && !self.others_change_texts() =>
            {
                let id = self.present_node(node)?;
                self.relative_at_present(id, key)
            }
            "childNodes" if !self.others_change_texts() => {
                let within = self.present_node(node)?;
                self.present_list("NodeList", Recipe { within, by: Members::Nodes })
            }
            "childElementCount" => {
                let id = self.present_node(node)?;
                let document = self.present_document()?;
                let count = document.child_elements(id).count();
                let is_open = document.is_slotted(id) || self.others_may_change();
                (!is_open).then_some(Value::Number(count as f64))
            }
            "tHead" | "tFoot" | "caption" if &*tag == "table" => {
                let id = self.present_node(node)?;
                let part = match key {
                    "tHead" => "thead",
                    "tFoot" => "tfoot",
                    _ => "caption",
                };
                match self.present_document()?.child_named(id, part) {
                    Some(found) => Some(self.present_value(found)),
                    None => self.nothing_there(key),
                }
            }
            "content" if &*tag == "template" => {
                let id = self.present_node(node)?;
                let contents = self.present_document()?.contents_of(id)?;
                self.changed_page()?;
                Some(self.present_value(contents))
            }
            // A sheet is there where its element is on the page (HTML, "The style element").
            "sheet" if &*tag == "style" => {
                let id = self.present_node(node)?;
                if !self.present_document()?.is_in_tree(id) {
                    return self.nothing_there(key);
                }
                let text = self.present_member(node, "textContent").unwrap_or(Value::OPEN);
                let Value::Object(element) = self.element(node) else { return None };
                Some(self.sheet_of(element, &text))
            }
            // In none that is on no page anything is shown.
            "contentWindow" | "contentDocument" if matches!(&*tag, "iframe" | "frame" | "object") => {
                let id = self.present_node(node)?;
                if self.present_document()?.is_in_tree(id) {
                    return None;
                }
                self.nothing_there(key)
            }
            "list" if &*tag == "input" => match self.attribute_at_present(node, "list")? {
                Value::Null(_) => self.nothing_there(key),
                _ => None,
            },
            "labels" if is_labelled(&tag) => self.labels_of(node),
            "type" => self.type_at_present(node, &tag),
            "isConnected" => {
                let id = self.present_node(node)?;
                let is_there = self.present_document()?.is_in_tree(id);
                (!self.others_may_change()).then_some(Value::Boolean(is_there))
            }
            "id" | "className" | "title" | "name" | "alt" | "lang" | "placeholder" | "rel" | "target"
            | "dateTime" | "htmlFor" | "slot" | "content" | "media" | "label" | "cite" | "charset"
            | "srcset" | "sizes"
                if platform::member(self.interface_of_node(node), key).is_some()
                    && (&*tag != "option" || key != "label") =>
            {
                Some(match self.attribute_at_present(node, &attribute_of(key))? {
                    Value::Null(_) => Value::text(""),
                    value => value,
                })
            }
            key if SWITCHED.iter().any(|(own, _)| *own == key)
                && platform::member(self.interface_of_node(node), key).is_some() =>
            {
                let (_, attribute) = SWITCHED.iter().find(|(own, _)| *own == key)?;
                match self.attribute_at_present(node, attribute)? {
                    Value::Text(given) if key == "hidden" && given.eq_ignore_ascii_case("until-found") => {
                        None
                    }
                    Value::Text(_) => Some(Value::Boolean(true)),
                    Value::Null(_) => Some(Value::Boolean(false)),
                    _ => None,
                }
            }
            "textContent" if !self.presence.vague.texts && !self.others_change_texts() => {
                let id = self.present_node(node)?;
                let document = self.present_document()?;
                // Code that is put into these is in their texts.
                let text = document.text_of(id);
                let is_known = text.len() <= LONGEST_TEXT && !document.is_slotted(id);
                self.charge(text.len() / 16);
                is_known.then(|| Value::text(&text))
            }
            "innerHTML" | "outerHTML" => self.markup_of(node, key == "outerHTML"),
            "innerText" if platform::extends(self.interface_of_node(node), "HTMLElement") => {
                match self.present_member(node, "textContent")? {
                    Value::Text(text) if text.contains(|c: char| c.is_alphabetic() || c.is_whitespace()) => {
                        let doubt = if may_be_markup(&text) { Doubt::Open } else { Doubt::Page };
                        Some(Value::Pieced(Arc::from([Piece::Seen(letters_of(&text).into())]), doubt))
                    }
                    text => Some(text),
                }
            }
            "text" | "label" | "value" if &*tag == "option" => self.option_member(node, key),
            "text" if matches!(&*tag, "a" | "script" | "title") => self.present_member(node, "textContent"),
            "value" if &*tag == "output" => self.present_member(node, "textContent"),
            "value" | "checked" | "selectedIndex" | "selectedOptions" => self.control_member(node, key),
            "files" if &*tag == "input" => match self.attribute_at_present(node, "type")? {
                // An ordinary visitor has chosen none so far.
                Value::Text(kind) if kind.eq_ignore_ascii_case("file") => {
                    let is_new = !self.is_later && self.is_untouched();
                    is_new.then(|| self.list("FileList", Vec::new(), None))
                }
                _ => Some(Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() })))),
            },
            "form" => self.form_of(node),
            _ => None,
        }
    }

    /// A member of a text that the page at present tells.
    pub(super) fn member_of_text(&mut self, id: NodeId, key: &str) -> Option<Value> {
        if !self.is_present() {
            return None;
        }
        match key {
            "data" | "nodeValue" | "textContent" | "wholeText"
                if !self.presence.vague.texts && !self.others_change_texts() =>
            {
                match &self.present_document()?.node(id).data {
                    NodeData::Text(text) => Some(Value::text(text)),
                    _ => None,
                }
            }
            "firstChild" | "lastChild" => self.nothing_there(key),
            "parentNode" | "parentElement" | "nextElementSibling" | "previousElementSibling" => {
                self.relative_at_present(id, key)
            }
            "nextSibling" | "previousSibling"
                if !self.presence.vague.texts && !self.others_change_texts() =>
            {
                self.relative_at_present(id, key)
            }
            _ => None,
        }
    }

    /// What is not there, where nobody else can have put it there.
    pub(super) fn nothing_there(&mut self, key: &str) -> Option<Value> {
        if self.others_may_change() {
            return Some(Value::OPEN);
        }
        Some(Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() }))))
    }

    /// Whether other scripts may give elements another text.
    pub(super) fn others_change_texts(&mut self) -> bool {
        self.once("#other texts", |this| {
            !this.world.knows_all() || TEXT_WORDS.iter().any(|word| this.world.acts_with(word))
        })
    }

    /// A node around another, beside it or in it.
    fn relative_at_present(&mut self, id: NodeId, key: &str) -> Option<Value> {
        let document = self.present_document()?;
        let own = document.node(id);
        let is_element = |id: &NodeId| document.element(*id).is_some();
        let next = |from: NodeId, on: fn(&Document, NodeId) -> Option<NodeId>| {
            std::iter::successors(on(document, from), move |at| on(document, *at))
        };
        let after: fn(&Document, NodeId) -> Option<NodeId> = |document, at| document.node(at).next();
        let before: fn(&Document, NodeId) -> Option<NodeId> = |document, at| document.node(at).previous();
        let found = match key {
            "parentNode" => own.parent(),
            "parentElement" => own.parent().filter(is_element),
            "firstChild" => document.children(id).next(),
            "lastChild" => own.last_child(),
            "firstElementChild" => document.child_elements(id).next(),
            "lastElementChild" => document.child_elements(id).last(),
            "nextSibling" => own.next(),
            "previousSibling" => own.previous(),
            "nextElementSibling" => next(id, after).find(is_element),
            _ => next(id, before).find(is_element),
        };
        // Code can be put in at either end of these.
        let around = match key {
            "firstChild" | "lastChild" | "firstElementChild" | "lastElementChild" => Some(id),
            "parentNode" | "parentElement" => None,
            _ => own.parent(),
        };
        let is_end = matches!(key, "firstChild" | "lastChild" | "firstElementChild" | "lastElementChild");
        let is_slotted = around.is_some_and(|around| document.is_slotted(around));
        match found {
            _ if is_slotted && is_end => Some(Value::OPEN),
            Some(found) if matches!(document.node(found).data, NodeData::Document) => {
                Some(Value::Object(DOCUMENT))
            }
            Some(found) => Some(self.present_value(found)),
            None if is_slotted => Some(Value::OPEN),
            None => self.nothing_there(key),
        }
    }

    /// The value of an attribute on the page at present: a text, or `null`.
    pub(super) fn attribute_at_present(&mut self, node: Node, name: &str) -> Option<Value> {
        let vague = &self.presence.vague.attributes;
        if vague.contains(name) || vague.contains("*") || !self.is_present() {
            return None;
        }
        if matches!(name, "id" | "class") && self.presence.vague.all_names || self.world.acts_with(name) {
            return None;
        }
        let id = self.present_node(node)?;
        let key = if self.is_drawing(node) { local(name) } else { local(&name.to_ascii_lowercase()) };
        let own = self.present_document()?.element(id)?;
        let value = own.data().attr(&key).map(Value::text);
        Some(match value {
            Some(value) => value,
            None => Value::Null(Some(self.absent(Absence::Attribute { name: name.to_owned() }))),
        })
    }

    /// What `closest` and `matches` come to; none where that cannot be told.
    pub(super) fn asked_at_present(
        &mut self,
        name: &str,
        node: Node,
        (text, selectors): (&str, &SelectorList),
        span: Span,
    ) -> Option<Value> {
        if !self.is_present() || self.presence.vague.hides(text, selectors) {
            return None;
        }
        let id = self.present_node(node)?;
        let document = self.present_document()?;
        let mut sought = Sought::by(selectors);
        let mut at = document.element(id);
        let mut found = None;
        while let Some(element) = at {
            let is_found = sought.surely_finds(element, None)?;
            if name == "matches" || is_found {
                found = is_found.then_some(element.id);
                break;
            }
            at = element.parent();
        }
        match (name, found) {
            ("matches", found) => {
                let is_open = found.is_none() && self.world.may_be_made(selectors, self.is_later);
                (!is_open).then_some(Value::Boolean(found.is_some()))
            }
            (_, Some(found)) => Some(self.present_value(found)),
            (_, None) if self.world.may_be_made(selectors, self.is_later) => Some(Value::OPEN),
            (_, None) => {
                let absence = Absence::Element { selector: text.to_owned(), span, is_early: false };
                Some(Value::Null(Some(self.absent(absence))))
            }
        }
    }

    /// Whether a list tells exactly what is in it at present.
    pub(super) fn tells_present(&mut self, list: super::value::ObjectId) -> bool {
        match &self.object(list).kind {
            Kind::List(..) => self.refresh(list),
            _ => false,
        }
    }
}

/// What selectors find in a node of a page that nobody has touched.
fn found_untouched(document: &Document, selectors: &SelectorList, within: NodeId) -> Vec<NodeId> {
    let inside = document.element(within);
    let mut sought = Sought::untouched(selectors);
    let elements = document.descendants(within).filter_map(|id| document.element(id));
    elements.filter(|own| sought.finds(*own, Assume::Must, inside)).map(|own| own.id).collect()
}
