//! Members that change the page at present, where they are set (DOM, "Interface Element"; HTML, "reflecting content
//! attributes").

use std::sync::Arc;

use super::machine::Machine;
use super::made_node::FRAGMENT;
use super::platform;
use super::value::{Kind, Node, ObjectId, Value};
use crate::markup::NodeId;

/// What takes the place of all that is in an element.
const CONTENTS: &[&str] = &["innerHTML", "outerHTML", "textContent", "innerText", "outerText", "text"];

/// Members whose attributes have their texts.
const TEXTS: &[&str] = &[
    "alt", "cite", "content", "dateTime", "dir", "href", "htmlFor", "id", "label", "lang", "media", "name",
    "placeholder", "rel", "slot", "src", "srcset", "target", "title", "type",
];

/// Members whose attributes have their numbers.
const NUMBERS: &[&str] = &[
    "cols", "colSpan", "height", "high", "low", "max", "maxLength", "min", "minLength", "optimum", "rows",
    "rowSpan", "size", "span", "start", "step", "tabIndex", "width",
];

/// Members whose attributes are there or not.
const SWITCHES: &[&str] = &["disabled", "hidden", "multiple", "open", "required"];

/// Members that change nothing in the tree.
const ASIDE: &[&str] = &[
    "value", "checked", "selected", "selectedIndex", "scrollTop", "scrollLeft", "currentTime", "volume",
    "muted", "indeterminate", "playbackRate", "selectionStart", "selectionEnd", "files", "valueAsDate",
    "valueAsNumber",
];

impl Machine<'_> {
    /// What a member that was set does to the page at present.
    pub(super) fn was_set(&mut self, object: ObjectId, key: &str, value: &Value) {
        if self.presence.is_lost() {
            return;
        }
        match &self.object(object).kind {
            Kind::Element(node) => {
                let node = *node;
                self.set_at_present(node, key, value);
            }
            Kind::Dataset(element) => {
                let Some(node) = self.node_of(&Value::Object(*element)) else { return };
                let given = self.as_text(value).ok().map(Some);
                self.gives_at_present(node, Some(&data_name(key)), given);
            }
            Kind::Style => {
                self.presence.vague.attributes.insert(Arc::from("style"));
            }
            Kind::Document => match key {
                "body" => self.presence.lose(),
                "title" => match self.title_element() {
                    Some(title) if self.as_text(value).is_ok() => {
                        let title = self.present_value(title);
                        if let Some(node) = self.node_of(&title) {
                            self.set_at_present(node, "textContent", value);
                        }
                    }
                    _ => self.presence.vague.texts = true,
                },
                _ => {}
            },
            Kind::List(..) if key == "value" => {}
            Kind::List(..) => {
                let select = self.recipes.get(&object).filter(|recipe| recipe.by.is_of_options());
                let is_done = match select.map(|recipe| recipe.within) {
                    Some(select) => self.sets_option(select, key, value).is_some(),
                    None => false,
                };
                if !is_done {
                    self.presence.lose();
                }
            }
            Kind::Instance(of) if platform::extends(of, "Node") => self.set_somewhere(key, value),
            _ => {}
        }
    }

    /// A member of some element is set, nobody knows of which.
    pub(super) fn set_somewhere(&mut self, key: &str, value: &Value) {
        match key {
            "nodeValue" | "data" => self.presence.vague.texts = true,
            _ if CONTENTS.contains(&key) => self.presence.lose(),
            "id" | "className" | "classList" => {
                self.is_vague_name(value);
                self.presence.vague.all_names = true;
            }
            _ if ASIDE.contains(&key) => self.presence.vague.states = true,
            _ if !platform::is_member_of_any(key) => {}
            _ => {
                self.presence.vague.attributes.insert(attribute_of(key));
            }
        }
    }

    pub(super) fn set_at_present(&mut self, node: Node, key: &str, value: &Value) {
        match key {
            // Of a fragment that is any member.
            _ if CONTENTS.contains(&key) && key != "textContent" && &*self.tag_of(node) == FRAGMENT => {}
            _ if CONTENTS.contains(&key) => {
                let has_no_text =
                    key == "text" && !matches!(&*self.tag_of(node), "option" | "a" | "title" | "script");
                if has_no_text {
                    return;
                }
                self.presence.changes += 1;
                let is_done = self.changes_surely() && self.fills_at_present(node, key, value).is_some();
                if !is_done {
                    self.presence.lose();
                }
            }
            "className" | "classList" => {
                let given = self.as_text(value).ok().map(Some);
                let words =
                    self.assigned.take().filter(|_| given.is_none()).and_then(|own| self.words_of(own));
                let were_vague = self.presence.vague.all_names;
                self.gives_at_present(node, Some("class"), given);
                if let Some(words) = words {
                    self.presence.vague.all_names = were_vague;
                    self.presence.vague.beginnings.extend(words);
                }
            }
            "relList" | "part" | "sandbox" | "sizes" => {
                let given = self.as_text(value).ok().map(Some);
                self.gives_at_present(node, Some(key.trim_end_matches("List")), given);
            }
            _ if TEXTS.contains(&key) && platform::member(self.interface_of_node(node), key).is_some() => {
                let given = self.as_text(value).ok().map(Some);
                self.gives_at_present(node, Some(&attribute_of(key)), given);
            }
            _ if NUMBERS.contains(&key) && platform::member(self.interface_of_node(node), key).is_some() => {
                let given = match self.as_number(value) {
                    Ok(number) if number >= 0.0 => self.as_text(&Value::Number(number)).ok().map(Some),
                    _ => None,
                };
                self.gives_at_present(node, Some(&attribute_of(key)), given);
            }
            _ if key.starts_with("aria") && platform::member("Element", key).is_some() => {
                let given = match value {
                    Value::Null(_) | Value::Undefined(_) => Some(None),
                    value => self.as_text(value).ok().map(Some),
                };
                self.gives_at_present(node, Some(&attribute_of(key)), given);
            }
            _ if SWITCHES.contains(&key) => {
                let given = value.truth().ok().map(|is_on| is_on.then(|| Arc::from("")));
                self.gives_at_present(node, Some(key), given);
            }
            "value" => self.sets_value(node, value),
            "defaultValue" => match &*self.tag_of(node) {
                "input" => self.gives_at_present(node, Some("value"), self.as_text(value).ok().map(Some)),
                "textarea" => self.set_at_present(node, "textContent", value),
                _ => self.presence.vague.states = true,
            },
            "defaultChecked" | "defaultSelected" | "defaultMuted" => {
                let attribute = key["default".len()..].to_ascii_lowercase();
                let given = value.truth().ok().map(|is_on| is_on.then(|| Arc::from("")));
                self.gives_at_present(node, Some(&attribute), given);
            }
            "hash" | "host" | "hostname" | "pathname" | "port" | "protocol" | "search"
                if matches!(&*self.tag_of(node), "a" | "area") =>
            {
                self.gives_at_present(node, Some("href"), None);
            }
            "selected" | "selectedIndex" if self.chooses(node, key, value).is_some() => {}
            "length" if &*self.tag_of(node) == "select" => {
                let select = self.present_id(node);
                if select.and_then(|select| self.sets_option(select, key, value)).is_none() {
                    self.presence.lose();
                }
            }
            _ if ASIDE.contains(&key) => self.presence.vague.states = true,
            _ if key.starts_with("on") => {}
            _ if platform::member(self.interface_of_node(node), key).is_some() => {
                self.presence.vague.attributes.insert(attribute_of(key));
            }
            _ => {}
        }
    }

    /// A place, or the length, of the options of a `select` is set (HTML, "The HTMLOptionsCollection interface"); none
    /// where that cannot be told.
    fn sets_option(&mut self, select: NodeId, key: &str, value: &Value) -> Option<()> {
        if !self.changes_surely() || !self.is_settled(select) {
            return None;
        }
        let options = self.descendants_named(select, "option")?;
        self.presence.changes += 1;
        if key == "length" {
            let length = self.as_number(value).ok().filter(|length| (0.0..=200.0).contains(length))? as usize;
            for option in options.iter().skip(length) {
                self.changed_page()?.document.detach(*option);
            }
            for _ in options.len()..length {
                let page = self.changed_page()?;
                let option = page.document.make_element("option");
                page.document.put(option, select, None);
            }
            return Some(());
        }
        let place = key.parse::<usize>().ok().filter(|place| *place < options.len() + 50)?;
        let old = options.get(place).copied();
        if let Value::Null(_) = value {
            if let Some(old) = old {
                self.changed_page()?.document.detach(old);
            }
            return Some(());
        }
        for _ in options.len()..place {
            let page = self.changed_page()?;
            let option = page.document.make_element("option");
            page.document.put(option, select, None);
        }
        let parent = match old {
            Some(old) => self.present_document()?.node(old).parent()?,
            None => select,
        };
        self.puts(std::slice::from_ref(value), false, parent, old)?;
        if let Some(old) = old {
            self.changed_page()?.document.detach(old);
        }
        Some(())
    }

    /// What is in an element becomes something else; none where that cannot be told.
    pub(super) fn fills_at_present(&mut self, node: Node, key: &str, value: &Value) -> Option<()> {
        let id = self.present_node(node)?;
        if !self.is_settled(id) {
            return None;
        }
        let tag = self.tag_of(node);
        match key {
            "innerHTML" => {
                let into: NodeId = self.present_document()?.contents_of(id).unwrap_or(id);
                self.empties(into)?;
                self.puts_markup(value, (&tag, into, None))
            }
            "outerHTML" => {
                let own = self.present_document()?.node(id);
                let parent = own.parent()?;
                let around = self.present_document()?.element(parent)?.data().name.local.clone();
                self.puts_markup(value, (&around, parent, Some(id)))?;
                self.changed_page()?.document.detach(id);
                Some(())
            }
            "outerText" => None,
            _ => {
                self.empties(id)?;
                let text = match value {
                    Value::Null(_) => Some(Arc::from("")),
                    Value::Unknown(_) => None,
                    value => self.as_text(value).ok(),
                };
                // Breaks of lines become elements.
                if key == "innerText" && text.as_ref().is_some_and(|text| text.contains(['\n', '\r'])) {
                    return None;
                }
                self.presence.vague.texts |= text.is_none();
                let page = self.changed_page()?;
                let text = text.unwrap_or_else(|| Arc::from("text"));
                if !text.is_empty() {
                    let own = page.document.make_text(&text);
                    page.document.put(own, id, None);
                }
                Some(())
            }
        }
    }
}

/// The attribute of a member that reflects one.
pub(super) fn attribute_of(key: &str) -> Arc<str> {
    match key {
        "htmlFor" => Arc::from("for"),
        "className" => Arc::from("class"),
        key if key.starts_with("aria") && key.len() > 4 => {
            Arc::from(format!("aria-{}", key["aria".len()..].to_ascii_lowercase()))
        }
        key => Arc::from(key.to_ascii_lowercase()),
    }
}

/// The member of `dataset` that an attribute has, whose name goes on like that behind `data-` (HTML, "dataset").
pub(super) fn data_member(name: &str) -> String {
    let mut member = String::with_capacity(name.len());
    let mut letters = name.chars().peekable();
    while let Some(c) = letters.next() {
        match letters.peek() {
            Some(next) if c == '-' && next.is_ascii_lowercase() => {
                member.push(next.to_ascii_uppercase());
                letters.next();
            }
            _ => member.push(c),
        }
    }
    member
}

/// The attribute that a member of `dataset` stands for (HTML, "dataset").
pub(super) fn data_name(key: &str) -> String {
    let mut name = "data-".to_owned();
    for c in key.chars() {
        if c.is_ascii_uppercase() {
            name.push('-');
        }
        name.push(c.to_ascii_lowercase());
    }
    name
}
