//! Attributes, IDs and classes on the page at present (DOM, "Interface Element", "Interface DOMTokenList").

use std::collections::BTreeSet;
use std::sync::Arc;

use super::arguments::Arguments;
use super::lookups::local;
use super::machine::Machine;
use super::value::{Node, Value};

impl Machine<'_> {
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

    /// What `toggleAttribute` makes of an attribute; none where that is not known.
    pub(super) fn toggled(&mut self, node: Node, key: &str, force: &Value) -> Option<Option<Arc<str>>> {
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
        if let Some(element) = self.elements.get(&node).copied() {
            self.forgets_kept(element, &key.map_or(Value::OPEN, Value::text));
        }
        if self.presence.is_lost() {
            return;
        }
        let id = self.present_node(node);
        if let (Some(id), Some(key), Some(value), true) = (id, key, &value, self.changes_surely())
            && let Some(page) = self.changed_page()
        {
            let before = page.document.element(id).and_then(|own| own.data().attr(&local(key)));
            let before: Option<Arc<str>> = before.map(Arc::from);
            if matches!(key, "id" | "class") {
                let names = changed_names(before.as_deref(), value.as_deref());
                self.presence.soon_vague.names.extend(names);
            }
            self.presence.soon_vague.attributes.insert(Arc::from(key));
            let Some(page) = self.changed_page() else { return };
            match value {
                Some(value) => page.document.set_attribute(id, &local(key), value),
                None => page.document.remove_attribute(id, &local(key)),
            }
            self.custom_changes(id, key, before);
            self.presence.changes += 1;
            self.presence.given += 1;
            return;
        }
        match key {
            Some("id" | "class") => {
                // What it has had it may have no more.
                let own = id.and_then(|id| self.present_document()?.element(id));
                let own = own.and_then(|own| own.data().attr(&local(key.unwrap_or_default())));
                let names = changed_names(own, value.as_ref().and_then(|value| value.as_deref()));
                self.presence.vague.names.extend(names);
                self.presence.vague.all_names |= value.is_none();
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
            this.presence.vague.has_name(class) || this.world.acts_with(class)
        };
        if name == "contains" {
            let class = given.into_iter().next()??;
            let is_known = self.is_present() && !vague(self, &class);
            return is_known.then_some(Value::Boolean(own?.contains(&class)));
        }
        if !matches!(name, "add" | "remove" | "toggle" | "replace") {
            return None;
        }
        let is_sure = self.changes_surely() && !arguments.is_open;
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
                // The first of the two becomes the new one (Infra, "replace" in an ordered set).
                let had = classes.contains(from);
                let place = classes.iter().position(|own| own == from || own == to);
                if let (true, Some(place)) = (had, place) {
                    classes.retain(|own| own != from && own != to);
                    classes.insert(place, Arc::clone(to));
                }
                result = (is_done && self.is_present()).then_some(Value::Boolean(had));
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
            for (at, value) in arguments.values.iter().enumerate() {
                match self.beginnings_of(arguments, at) {
                    Some(beginnings) => self.presence.vague.beginnings.extend(beginnings),
                    None => self.is_vague_name(value),
                }
            }
            self.presence.vague.attributes.insert(Arc::from("class"));
        }
        result
    }
}

/// The names that stand in one of two lists, and not in the other.
fn changed_names(before: Option<&str>, after: Option<&str>) -> Vec<Arc<str>> {
    let all = |names: Option<&str>| -> BTreeSet<Arc<str>> {
        names.unwrap_or_default().split_ascii_whitespace().map(Arc::from).collect()
    };
    all(before).symmetric_difference(&all(after)).cloned().collect()
}
