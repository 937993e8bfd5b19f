//! Methods that change the page at present (DOM, "mutation algorithms"; HTML, "The table element").

use std::sync::Arc;

use super::arguments::Arguments;
use super::lookups::local;
use super::machine::Machine;
use super::present_lists::rows_of;
use super::value::{Kind, Node, Value};
use crate::markup::{LocalName, NodeId, parse_within};

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

/// Longer markup is not read.
const LONGEST: usize = 20_000;

/// What is put into the tree.
enum Put {
    Node(NodeId),
    Text(String),
    /// A text that is not known.
    SomeText,
    /// Nobody can tell.
    Open,
}

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
            }
        } else if GIVE.contains(&name) {
            self.is_vague_attribute(&arguments.get(0));
        } else if CHANGE.contains(&name) {
            self.presence.lose();
        }
    }

    /// Nobody knows which elements have an attribute, or have it still.
    pub(super) fn is_vague_attribute(&mut self, name: &Value) {
        match self.as_text(name) {
            Ok(name) if matches!(&*name, "id" | "class") => self.presence.vague.all_names = true,
            Ok(name) => {
                self.presence.vague.attributes.insert(name);
            }
            Err(_) => self.presence.lose(),
        }
    }

    /// Nobody knows which elements have an ID or a class, or have it still.
    pub(super) fn is_vague_name(&mut self, name: &Value) {
        match self.as_text(name) {
            Ok(names) => {
                self.presence.vague.names.extend(names.split_ascii_whitespace().map(Arc::from));
            }
            Err(_) => self.presence.vague.all_names = true,
        }
    }

    /// Whether attributes change for certain now, and on each visit from now on.
    pub(super) fn gives_surely(&self) -> bool {
        let is_early = self.turn.is_none_or(|turn| turn < super::machine::Turn::Timer);
        is_early && self.changes_surely() && self.certainty == super::value::Certainty::Certain
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
            "hasChildNodes" if self.is_present() => {
                let id = self.present_node(node)?;
                let is_slotted = self.present_document()?.is_slotted(id);
                let has = self.present_document()?.children(id).next().is_some();
                return (!is_slotted && (has || !self.others_may_change())).then_some(Value::Boolean(has));
            }
            "setAttribute" | "removeAttribute" | "toggleAttribute" => {
                let key = self.as_text(&arguments.get(0)).ok().map(|key| key.to_ascii_lowercase());
                let given = match (name, key.as_deref()) {
                    ("setAttribute", _) => self.as_text(&arguments.get(1)).ok().map(Some),
                    ("removeAttribute", _) => Some(None),
                    (_, Some(key)) => self.toggled(node, key, &arguments.get(1)),
                    _ => None,
                };
                self.gives_at_present(node, key.as_deref(), given);
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
        self.found.clear();
        match is_known {
            Some(result) => result,
            None => {
                self.presence.lose();
                None
            }
        }
    }

    /// What `toggleAttribute` makes of an attribute; none where that is not known.
    fn toggled(&mut self, node: Node, key: &str, force: &Value) -> Option<Option<Arc<str>>> {
        let is_on = match force {
            Value::Undefined(_) => {
                let id = self.present_node(node)?;
                let is_known = self.is_present() && !self.presence.vague.attributes.contains(key);
                let own = self.present_document()?.element(id)?;
                !is_known.then(|| own.data().attr(&local(key)).is_some())?
            }
            force => force.truth().ok()?,
        };
        Some(is_on.then(|| Arc::from("")))
    }

    /// An element gets an attribute with a value, or loses it; that is not known where nothing is given.
    pub(super) fn gives_at_present(
        &mut self,
        node: Node,
        key: Option<&str>,
        value: Option<Option<Arc<str>>>,
    ) {
        if self.presence.is_lost() {
            return;
        }
        self.found.clear();
        let id = self.present_node(node);
        if let (Some(id), Some(key), Some(value), true) = (id, key, &value, self.gives_surely())
            && let Some(page) = self.changed_page()
        {
            match value {
                Some(value) => page.document.set_attribute(id, &local(key), value),
                None => page.document.remove_attribute(id, &local(key)),
            }
            return;
        }
        match key {
            Some("id" | "class") => {
                // What it has had it may have no more.
                let own = id.and_then(|id| self.present_document()?.element(id));
                let own = own.and_then(|own| own.data().attr(&local(key.unwrap_or_default())));
                let own: Vec<Arc<str>> =
                    own.unwrap_or_default().split_ascii_whitespace().map(Arc::from).collect();
                self.presence.vague.names.extend(own);
                match value {
                    Some(Some(value)) => self.is_vague_name(&Value::Text(value)),
                    Some(None) => {}
                    None => self.presence.vague.all_names = true,
                }
                self.presence.vague.attributes.insert(Arc::from(key.unwrap_or_default()));
            }
            Some(key) => {
                self.presence.vague.attributes.insert(Arc::from(key));
            }
            None => self.presence.lose(),
        }
    }

    /// What methods of `classList` do, and come to.
    pub(super) fn called_on_classes(
        &mut self,
        name: &str,
        node: Node,
        arguments: &Arguments,
    ) -> Option<Value> {
        let id = self.present_node(node);
        let own: Option<Vec<Arc<str>>> = id.and_then(|id| {
            let own = self.present_document()?.element(id)?;
            Some(own.data().classes().map(Arc::from).collect())
        });
        let given: Vec<Option<Arc<str>>> =
            arguments.values.iter().map(|value| self.as_text(value).ok()).collect();
        let vague = |this: &Self, class: &Arc<str>| {
            this.presence.vague.all_names
                || this.presence.vague.names.contains(class)
                || this.world.acts_with(class)
        };
        if name == "contains" {
            let class = given.into_iter().next()??;
            let is_known = self.is_present() && !vague(self, &class);
            return is_known.then_some(Value::Boolean(own?.contains(&class)));
        }
        if !matches!(name, "add" | "remove" | "toggle" | "replace") {
            return None;
        }
        let is_sure = self.gives_surely() && !arguments.is_open;
        let mut classes = own?;
        let is_known = given.iter().all(|class| class.as_ref().is_some_and(|class| !vague(self, class)));
        let mut result = None;
        let mut is_done = is_sure && is_known;
        match (name, given.as_slice()) {
            ("add", all) => {
                for class in all.iter().flatten() {
                    if !classes.contains(class) {
                        classes.push(Arc::clone(class));
                    }
                }
            }
            ("remove", all) => classes.retain(|own| !all.iter().flatten().any(|class| class == own)),
            ("replace", [Some(from), Some(to)]) => {
                let had = classes.contains(from);
                classes.retain(|own| own != from);
                if had && !classes.contains(to) {
                    classes.push(Arc::clone(to));
                }
            }
            ("toggle", [Some(class), ..]) => {
                let force = match arguments.values.get(1) {
                    None | Some(Value::Undefined(_)) => Some(!classes.contains(class)),
                    Some(force) => force.truth().ok(),
                };
                match force {
                    Some(true) if !classes.contains(class) => classes.push(Arc::clone(class)),
                    Some(true) => {}
                    Some(false) => classes.retain(|own| own != class),
                    None => is_done = false,
                }
                is_done &= self.is_present() && !vague(self, class) && is_sure;
                result = force.filter(|_| is_done).map(Value::Boolean);
            }
            _ => is_done = false,
        }
        if is_done {
            let text: Vec<&str> = classes.iter().map(|class| &**class).collect();
            self.gives_at_present(node, Some("class"), Some(Some(Arc::from(text.join(" ")))));
        } else {
            for value in &arguments.values {
                self.is_vague_name(value);
            }
            self.presence.vague.attributes.insert(Arc::from("class"));
            self.found.clear();
        }
        result
    }

    /// A copy of an element is there, as a value.
    fn copies_at_present(&mut self, node: Node, is_deep: bool, copy: &Value) {
        let (Some(id), Some(Node::Made(number))) = (self.present_node(node), self.node_of(copy)) else {
            return;
        };
        let Some(page) = self.changed_page() else { return };
        let before = page.document.count();
        let made = page.document.copy(id, is_deep);
        let size = page.document.count() - before;
        self.is_present_as(number, made);
        self.charge(size / 8);
    }

    /// What a value is that is put into the tree.
    fn to_put(&mut self, value: &Value, takes_texts: bool) -> Put {
        match self.node_of(value) {
            Some(node) => return self.present_node(node).map_or(Put::Open, Put::Node),
            None if self.present_text(value).is_some() => {
                return self.present_text(value).map_or(Put::Open, Put::Node);
            }
            None if matches!(self.kind(value), Some(Kind::Instance("Text" | "Comment"))) => {
                return Put::SomeText;
            }
            None => {}
        }
        match value {
            _ if !takes_texts => Put::Open,
            Value::Some(..) => Put::SomeText,
            Value::Object(_) | Value::Unknown(_) => Put::Open,
            value => self.as_text(value).map_or(Put::SomeText, |text| Put::Text(text.to_string())),
        }
    }

    /// Puts what is given before a node of a parent, or last. None where that cannot be told.
    fn puts(
        &mut self,
        all: &[Value],
        takes_texts: bool,
        parent: NodeId,
        before: Option<NodeId>,
    ) -> Option<()> {
        if !self.is_settled(parent) {
            return None;
        }
        for value in all {
            let id = match self.to_put(value, takes_texts) {
                Put::Open => return None,
                Put::SomeText => {
                    self.presence.vague.texts = true;
                    self.changed_page()?.document.make_text("text")
                }
                Put::Text(text) => self.changed_page()?.document.make_text(&text),
                Put::Node(id) => id,
            };
            let page = self.changed_page()?;
            let document = &mut page.document;
            // None is put into itself.
            if document.is_in(parent, id) {
                return None;
            }
            let is_fragment = matches!(document.node(id).data, crate::markup::NodeData::Fragment);
            let nodes: Vec<NodeId> = if is_fragment { document.children(id).collect() } else { vec![id] };
            for own in &nodes {
                if before != Some(*own) {
                    document.put(*own, parent, before);
                }
            }
            self.comes_in(&nodes);
        }
        Some(())
    }

    /// Elements come into the page: scripts among them run, and nobody knows what these do.
    pub(super) fn comes_in(&mut self, nodes: &[NodeId]) {
        let Some(document) = self.present_document() else { return };
        let is_script =
            |id: NodeId| document.element(id).is_some_and(|own| own.data().is_html(&local("script")));
        self.charge(nodes.len());
        let has_script = nodes.iter().any(|id| is_script(*id) || document.descendants(*id).any(is_script));
        if has_script {
            self.presence.ends = true;
        }
    }

    /// Reads markup as what is in an element, and puts it before a node of a parent, or last.
    pub(super) fn puts_markup(
        &mut self,
        markup: &Value,
        (tag, parent, before): (&str, NodeId, Option<NodeId>),
    ) -> Option<()> {
        let Value::Text(text) = markup else { return None };
        if text.len() > LONGEST || !self.is_settled(parent) {
            return None;
        }
        self.charge(text.len() / 8);
        let (other, top) = parse_within(tag, text)?;
        let page = self.changed_page()?;
        let before_count = page.document.count();
        let children: Vec<NodeId> = other.children(top).collect();
        for child in children {
            let own = page.document.take_over(&other, child);
            page.document.put(own, parent, before);
        }
        let added = page.document.count() - before_count;
        self.charge(added / 8);
        Some(())
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
        let tag: Arc<str> = self.tag_of(node);
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
                let parent_of_added = id;
                match arguments.get(1) {
                    Value::Undefined(_) | Value::Null(_) => {
                        self.puts(&all[..1], false, parent_of_added, None)?
                    }
                    _ => return None,
                }
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

    /// The name of an element of the tree; nothing of a fragment.
    fn name_of(&self, id: NodeId) -> Option<LocalName> {
        let document = self.present_document()?;
        Some(document.element(id).map_or_else(|| local("template"), |own| own.data().name.local.clone()))
    }

    /// The node of a value that is a child of another.
    fn child_of(&mut self, value: &Value, parent: NodeId) -> Option<NodeId> {
        let id = match self.present_text(value) {
            Some(id) => id,
            None => {
                let node = self.node_of(value)?;
                self.present_node(node)?
            }
        };
        (self.present_document()?.node(id).parent() == Some(parent)).then_some(id)
    }

    /// Takes everything out of a node.
    pub(super) fn empties(&mut self, id: NodeId) -> Option<()> {
        if !self.is_settled(id) {
            return None;
        }
        let page = self.changed_page()?;
        let children: Vec<NodeId> = page.document.children(id).collect();
        children.into_iter().for_each(|child| page.document.detach(child));
        Some(())
    }

    fn descendants_named(&self, id: NodeId, name: &str) -> Option<Vec<NodeId>> {
        let document = self.present_document()?;
        let is_it = |own: &NodeId| document.element(*own).is_some_and(|own| own.data().is_html(&local(name)));
        Some(document.descendants(id).filter(is_it).collect())
    }

    /// Rows and cells (HTML, "The table element", "The tr element").
    fn changes_table(&mut self, name: &str, id: NodeId, at: &Value, value: &Value) -> Option<Option<Value>> {
        let at = match at {
            Value::Undefined(_) => -1.0,
            at => self.as_number(at).ok()?,
        };
        let document = self.present_document()?;
        let is_table = document.element(id)?.data().is_html(&local("table"));
        let all: Vec<NodeId> = match name {
            "insertRow" | "deleteRow" => rows_of(document, id),
            _ => {
                let is_cell = |own: &NodeId| {
                    document.element(*own).is_some_and(|own| matches!(&*own.data().name.local, "td" | "th"))
                };
                document.child_elements(id).filter(is_cell).collect()
            }
        };
        if name.starts_with("delete") {
            let own = if at < 0.0 { all.last() } else { all.get(at as usize) };
            self.changed_page()?.document.detach(*own?);
            return Some(None);
        }
        let body = document
            .child_elements(id)
            .filter(|own| document.element(*own).is_some_and(|own| own.data().is_html(&local("tbody"))));
        let body = body.last();
        let before = if at < 0.0 { None } else { all.get(at as usize).copied() };
        let made = self.node_of(value).and_then(|made| self.present_node(made))?;
        let document = &mut self.changed_page()?.document;
        let (parent, before) = match (before, all.last()) {
            (Some(before), _) => (document.node(before).parent()?, Some(before)),
            (None, Some(last)) if is_table => (document.node(*last).parent()?, document.node(*last).next()),
            (None, Some(last)) => (id, document.node(*last).next()),
            (None, None) if is_table => match body {
                Some(body) => (body, None),
                None => {
                    let body = document.make_element("tbody");
                    document.put(body, id, None);
                    (body, None)
                }
            },
            (None, None) => (id, None),
        };
        document.put(made, parent, before);
        Some(None)
    }

    /// The head, the foot, a body or the caption of a table: that which is there, or a new one.
    fn makes_part(&mut self, name: &str, table: NodeId) -> Option<Option<Value>> {
        let part = match name {
            "createTHead" => "thead",
            "createTFoot" => "tfoot",
            "createTBody" => "tbody",
            _ => "caption",
        };
        let document = &mut self.changed_page()?.document;
        if let Some(there) = document.child_named(table, part).filter(|_| part != "tbody") {
            return Some(Some(self.present_value(there)));
        }
        let made = document.make_element(part);
        let is_before = |own: &NodeId, names: &[&str]| {
            document.element(*own).is_some_and(|own| names.contains(&&*own.data().name.local))
        };
        let before = match part {
            "caption" => document.children(table).next(),
            "thead" => document.child_elements(table).find(|own| !is_before(own, &["caption", "colgroup"])),
            "tbody" => {
                let last = document.child_elements(table).filter(|own| is_before(own, &["tbody"])).last();
                last.and_then(|last| document.node(last).next())
            }
            _ => None,
        };
        document.put(made, table, before);
        Some(Some(self.present_value(made)))
    }
}
