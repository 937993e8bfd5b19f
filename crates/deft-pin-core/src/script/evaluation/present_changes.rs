//! Methods that change the page at present (DOM, "mutation algorithms"; HTML, "The table element").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::Machine;
use super::value::{Kind, Node, Value};

/// Methods that change the tree.
const CHANGE: &[&str] = &[
    "add", "adoptNode", "after", "append", "appendChild", "before", "click", "createCaption", "createTBody",
    "createTFoot", "createTHead", "deleteCaption", "deleteCell", "deleteContents", "deleteFromDocument",
    "deleteRow", "deleteTFoot", "deleteTHead", "dispatchEvent", "execCommand", "extractContents",
    "insertAdjacentElement", "insertAdjacentHTML", "insertAdjacentText", "insertBefore", "insertCell",
    "insertNode", "insertRow", "moveBefore", "open", "prepend", "remove", "removeChild", "replaceChild",
    "replaceChildren", "replaceWith", "requestSubmit", "reset", "setHTML", "setHTMLUnsafe", "submit",
    "surroundContents", "write", "writeln",
];

/// Methods that give or take attributes.
const GIVE: &[&str] = &[
    "setAttribute", "removeAttribute", "toggleAttribute", "setAttributeNS", "removeAttributeNS",
    "setAttributeNode", "removeAttributeNode", "setNamedItem", "removeNamedItem",
];

/// Methods that change the states of elements.
const STATES: &[&str] = &[
    "blur", "click", "close", "focus", "requestFullscreen", "reset", "select", "show", "showModal",
    "showPopover", "togglePopover",
];

impl Machine<'_> {
    /// What a method that was called does to the page at present, and what it comes to then.
    pub(super) fn called(&mut self, name: &str, this: &Value, arguments: &Arguments, value: Value) -> Value {
        if self.presence.is_lost() {
            return value;
        }
        self.presence.vague.states |= STATES.contains(&name);
        match self.kind(this) {
            Some(Kind::Element(node)) => {
                let node = *node;
                self.called_on_element(name, node, arguments, &value).unwrap_or(value)
            }
            Some(Kind::Tokens(element)) => match self.node_of(&Value::Object(*element)) {
                Some(node) => self.called_on_classes(name, node, arguments).unwrap_or(value),
                None => value,
            },
            Some(Kind::Document) if name == "importNode" => {
                if let Some(node) = self.node_of(&arguments.get(0)) {
                    self.copies_at_present(node, arguments.get(1).truth() == Ok(true), &value);
                }
                value
            }
            Some(Kind::Document) => {
                if !matches!(name, "open" | "click" | "remove" | "dispatchEvent") && CHANGE.contains(&name) {
                    self.presence.lose();
                }
                value
            }
            Some(Kind::Constructor(_) | Kind::Date(_) | Kind::Promise(_) | Kind::RegExp(_) | Kind::Style) => {
                value
            }
            // Whose words these are is not known, nor of which attribute.
            Some(Kind::Instance("DOMTokenList")) => {
                self.changes_somewhere(name, arguments);
                if matches!(name, "add" | "remove" | "toggle" | "replace") {
                    for attribute in ["class", "for", "part", "rel", "sandbox", "sizes"] {
                        self.presence.vague.attributes.insert(Arc::from(attribute));
                        self.touched.attributes.insert(Arc::from(attribute));
                    }
                }
                value
            }
            // Of these it is not known which they are.
            Some(Kind::Instance(of)) if !super::platform::extends(of, "Node") => {
                const CHANGING: &[&str] = &["Range", "Selection", "NamedNodeMap", "HTMLOptionsCollection"];
                if CHANGING.contains(of) && (CHANGE.contains(&name) || GIVE.contains(&name)) {
                    self.presence.lose();
                }
                value
            }
            Some(Kind::Instance("Text")) if name == "remove" && self.present_text(this).is_some() => {
                let id = self.present_text(this);
                let is_done = self.changes_surely()
                    && id.is_some_and(|id| self.is_settled(id))
                    && self.changed_page().is_some();
                match (is_done, id, self.changed_page()) {
                    (true, Some(id), Some(page)) => page.document.detach(id),
                    _ => self.presence.vague.texts = true,
                }
                self.presence.changes += 1;
                value
            }
            Some(Kind::Instance("Text")) => {
                match name {
                    "after" | "before" | "replaceWith" => self.presence.lose(),
                    _ => self.presence.vague.texts = true,
                }
                value
            }
            _ => {
                self.changes_somewhere(name, arguments);
                value
            }
        }
    }

    /// A method that may change some element, nobody knows which.
    pub(super) fn changes_somewhere(&mut self, name: &str, arguments: &Arguments) {
        // Sets and lists of other kinds have methods of these names as well.
        let is_class =
            matches!(name, "add" | "remove" | "toggle" | "replace") && !arguments.values.is_empty();
        if is_class {
            for value in arguments.values.iter().take(20) {
                self.is_vague_name(value);
                self.may_be_named(value);
            }
        } else if GIVE.contains(&name) {
            self.is_vague_attribute(&arguments.get(0));
            match self.as_text(&arguments.get(0)) {
                Ok(key) if matches!(&*key, "id" | "class") => self.may_be_named(&arguments.get(1)),
                Ok(key) => {
                    self.touched.attributes.insert(key);
                }
                Err(_) => self.touched.anything = true,
            }
        } else if CHANGE.contains(&name) {
            self.presence.lose();
            self.touched.is_moved = true;
            arguments.values.iter().take(5).for_each(|value| self.may_bring(value));
        }
    }

    /// Some element may have come to have the names in a text, by whatever is done with it.
    fn may_be_named(&mut self, names: &Value) {
        self.givings += 1;
        let Ok(text) = self.as_text(names) else { return };
        for name in text.split_ascii_whitespace().take(10) {
            self.touched.classes.insert(Arc::from(name));
            self.touched.ids.insert(Arc::from(name));
        }
    }

    /// What nobody knows does something with a value: it may bring markup into the page, or give elements a name.
    pub(super) fn may_bring(&mut self, value: &Value) {
        match value {
            Value::Text(text) if text.contains('<') => self.brings_markup(value),
            Value::Text(text) if text.len() < 200 && !text.starts_with(['.', '#', '/']) => {
                self.may_be_named(value);
            }
            Value::Pieced(..) => self.brings_markup(value),
            _ => {}
        }
    }

    fn called_on_element(
        &mut self,
        name: &str,
        node: Node,
        arguments: &Arguments,
        value: &Value,
    ) -> Option<Value> {
        match name {
            // What that does has been done.
            "click" | "dispatchEvent" => return None,
            "cloneNode" => {
                self.copies_at_present(node, arguments.get(0).truth() == Ok(true), value);
                return None;
            }
            "contains" if self.is_present() => {
                let own = self.present_node(node)?;
                let other = match arguments.get(0) {
                    Value::Null(_) => return Some(Value::Boolean(false)),
                    given => self.present_node(self.node_of(&given)?)?,
                };
                let is_in = other == own || self.present_document()?.is_in(other, own);
                return (is_in || !self.others_may_change()).then_some(Value::Boolean(is_in));
            }
            "hasChildNodes" if self.is_present() => {
                let id = self.present_node(node)?;
                let is_slotted = self.present_document()?.is_slotted(id);
                let has = self.present_document()?.children(id).next().is_some();
                return (!is_slotted && (has || !self.others_may_change())).then_some(Value::Boolean(has));
            }
            "setAttribute" | "removeAttribute" | "toggleAttribute" => {
                let is_drawing = self.is_drawing(node);
                let key = self.as_text(&arguments.get(0)).ok();
                let key = key.map(|key| if is_drawing { key.to_string() } else { key.to_ascii_lowercase() });
                let given = match (name, key.as_deref()) {
                    ("setAttribute", _) => self.as_text(&arguments.get(1)).ok().map(Some),
                    ("removeAttribute", _) => Some(None),
                    (_, Some(key)) => self.toggled(node, key, &arguments.get(1)),
                    _ => None,
                };
                let is_on = given.as_ref().map(Option::is_some);
                self.gives_at_present(node, key.as_deref(), given);
                return is_on.filter(|_| name == "toggleAttribute").map(Value::Boolean);
            }
            "show" | "showModal" | "close" if &*self.tag_of(node) == "dialog" => {
                self.gives_at_present(node, Some("open"), Some((name != "close").then(|| Arc::from(""))));
                return None;
            }
            // Of a namespace of its own, no selector asks for it.
            "setAttributeNS" | "removeAttributeNS" if !matches!(arguments.get(0), Value::Unknown(_)) => {
                if let (Value::Null(_), Ok(key)) = (arguments.get(0), self.as_text(&arguments.get(1))) {
                    let given = (name == "setAttributeNS").then(|| self.as_text(&arguments.get(2)).ok());
                    let given = if given == Some(None) { None } else { Some(given.flatten()) };
                    self.gives_at_present(node, Some(&key), given);
                }
                return None;
            }
            _ if GIVE.contains(&name) => {
                self.presence.lose();
                return None;
            }
            _ if !CHANGE.contains(&name) => return None,
            _ => {}
        }
        if !self.changes_surely() {
            self.presence.lose();
            return None;
        }
        let is_known = self.changed_by(name, node, arguments, value);
        self.presence.changes += 1;
        match is_known {
            Some(result) => result,
            None => {
                self.presence.lose();
                None
            }
        }
    }

    /// Does what a method does; none where that cannot be told.
    fn changed_by(
        &mut self,
        name: &str,
        node: Node,
        arguments: &Arguments,
        value: &Value,
    ) -> Option<Option<Value>> {
        let id = self.present_node(node)?;
        if !self.is_settled(id) {
            return None;
        }
        let all = &arguments.values;
        let first = arguments.get(0);
        let (parent, next) = {
            let own = self.present_document()?.node(id);
            (own.parent(), own.next())
        };
        let tag = self.tag_of(node);
        match name {
            _ if arguments.is_open => return None,
            "append" => self.puts(all, true, id, None)?,
            "prepend" => {
                let before = self.present_document()?.children(id).next();
                self.puts(all, true, id, before)?;
            }
            "appendChild" => self.puts(&all[..all.len().min(1)], false, id, None)?,
            "insertBefore" | "moveBefore" => {
                let before = match arguments.get(1) {
                    Value::Null(_) | Value::Undefined(_) => None,
                    other => Some(self.child_of(&other, id)?),
                };
                self.puts(&all[..all.len().min(1)], false, id, before)?;
            }
            "before" | "after" => {
                if let Some(parent) = parent {
                    let before = if name == "before" { Some(id) } else { next };
                    self.puts(all, true, parent, before)?;
                }
            }
            "replaceWith" => {
                if let Some(parent) = parent {
                    self.puts(all, true, parent, Some(id))?;
                    let is_kept = all.iter().any(|value| self.node_of(value) == Some(node));
                    if !is_kept {
                        self.changed_page()?.document.detach(id);
                    }
                }
            }
            "replaceChildren" => {
                self.empties(id)?;
                self.puts(all, true, id, None)?;
            }
            "replaceChild" => {
                let old = self.child_of(&arguments.get(1), id)?;
                self.puts(&all[..all.len().min(1)], false, id, Some(old))?;
                self.changed_page()?.document.detach(old);
            }
            "removeChild" => match self.kind(&first) {
                Some(Kind::Instance("Text" | "Comment")) if self.present_text(&first).is_none() => {
                    self.presence.vague.texts = true;
                }
                _ => {
                    let old = self.child_of(&first, id)?;
                    self.changed_page()?.document.detach(old);
                }
            },
            "remove" if all.is_empty() => self.changed_page()?.document.detach(id),
            "remove" if &*tag == "select" => {
                let at = self.as_number(&first).ok()?;
                let option = self.descendants_named(id, "option")?.get(at as usize).copied()?;
                self.changed_page()?.document.detach(option);
            }
            "add" if &*tag == "select" => {
                // Before an option, or the one at that place.
                let before = match arguments.get(1) {
                    Value::Undefined(_) | Value::Null(_) => None,
                    Value::Number(at) => {
                        self.descendants_named(id, "option")?.get(at.max(0.0) as usize).copied()
                    }
                    other => Some(self.present_node(self.node_of(&other)?)?),
                };
                if before.is_some_and(|before| {
                    self.present_document().is_some_and(|own| own.node(before).parent() != Some(id))
                }) {
                    return None;
                }
                self.puts(&all[..1], false, id, before)?
            }
            "insertAdjacentElement" | "insertAdjacentHTML" | "insertAdjacentText" => {
                let place = self.as_text(&first).ok()?.to_ascii_lowercase();
                let (into, before) = match (&*place, parent) {
                    ("beforebegin", Some(parent)) => (parent, Some(id)),
                    ("afterend", Some(parent)) => (parent, next),
                    ("afterbegin", _) => (id, self.present_document()?.children(id).next()),
                    ("beforeend", _) => (id, None),
                    _ => return None,
                };
                match name {
                    "insertAdjacentHTML" => {
                        let tag = self.name_of(into)?;
                        self.puts_markup(&arguments.get(1), (&*tag, into, before))?;
                    }
                    "insertAdjacentText" => self.puts(&[arguments.get(1)], true, into, before)?,
                    _ => self.puts(&[arguments.get(1)], false, into, before)?,
                }
            }
            "insertRow" | "insertCell" | "deleteRow" | "deleteCell" => {
                return self.changes_table(name, id, &first, value);
            }
            "createTHead" | "createTFoot" | "createTBody" | "createCaption" => {
                return self.makes_part(name, id);
            }
            "deleteTHead" | "deleteTFoot" | "deleteCaption" => {
                let part = match name {
                    "deleteTHead" => "thead",
                    "deleteTFoot" => "tfoot",
                    _ => "caption",
                };
                if let Some(part) = self.present_document()?.child_named(id, part) {
                    self.changed_page()?.document.detach(part);
                }
            }
            _ => return None,
        }
        Some(None)
    }
}
