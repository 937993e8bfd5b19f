//! Lists of elements that show what comes to the page later (DOM, "collections"): worked out anew where they are asked.

use std::sync::Arc;

use html5ever::LocalName;

use super::controls::LISTED;
use super::lookups::local;
use super::machine::Machine;
use super::presence::{Members, Recipe};
use super::value::{Kind, ObjectId, Value};
use crate::markup::{Assume, Document, NodeId, Sought, parse_selectors};

/// Whether an element is one of HTML by one of these names.
fn is_named(document: &Document, id: NodeId, names: &[&str]) -> bool {
    document
        .element(id)
        .is_some_and(|own| names.iter().any(|name| own.data().is_html(&LocalName::from(*name))))
}

/// The rows of a table in their order: those of heads, then those of bodies, then those of feet (HTML, "the `rows` IDL
/// attribute").
pub(super) fn rows_of(document: &Document, table: NodeId) -> Vec<NodeId> {
    let rows = |of: NodeId| document.child_elements(of).filter(|own| is_named(document, *own, &["tr"]));
    if !is_named(document, table, &["table"]) {
        return rows(table).collect();
    }
    let mut parts: [Vec<NodeId>; 3] = Default::default();
    for child in document.child_elements(table) {
        match () {
            () if is_named(document, child, &["thead"]) => parts[0].extend(rows(child)),
            () if is_named(document, child, &["tbody"]) => parts[1].extend(rows(child)),
            () if is_named(document, child, &["tr"]) => parts[1].push(child),
            () if is_named(document, child, &["tfoot"]) => parts[2].extend(rows(child)),
            () => {}
        }
    }
    parts.concat()
}

impl Machine<'_> {
    /// The elements of a list, as the page is at present; none where that cannot be told.
    fn members_of(&mut self, recipe: &Recipe) -> Option<Vec<NodeId>> {
        if !self.is_present() {
            return None;
        }
        let within = recipe.within;
        let document = self.present_document()?;
        let named = |of: NodeId, names: &'static [&str]| {
            document.child_elements(of).filter(|own| is_named(document, *own, names)).collect()
        };
        Some(match &recipe.by {
            Members::Nodes if self.presence.vague.texts => return None,
            Members::Nodes => document.children(within).collect(),
            Members::Children => document.child_elements(within).collect(),
            Members::Rows => rows_of(document, within),
            Members::Cells => named(within, &["td", "th"]),
            Members::Bodies => named(within, &["tbody"]),
            Members::Controls => {
                // Those that are its own by an attribute are not looked for.
                if document.elements().any(|own| own.data().attr(&local("form")).is_some()) {
                    return None;
                }
                let all = document.descendants(within).filter(|own| is_named(document, *own, LISTED));
                let is_image = |own: &NodeId| {
                    document.element(*own).is_some_and(|own| own.data().attr(&local("type")) == Some("image"))
                };
                all.filter(|own| !is_image(own)).collect()
            }
            Members::Selector(selector) => {
                let selectors = parse_selectors(selector).ok()?;
                if self.presence.vague.hides(selector, &selectors) {
                    return None;
                }
                self.charge(document.count() / 20);
                let scope = document.element(within);
                let mut sought = Sought::by(&selectors);
                let elements = document.descendants(within).filter_map(|id| document.element(id));
                let found = elements.filter(|own| sought.finds(*own, Assume::Must, scope));
                found.map(|own| own.id).collect()
            }
        })
    }

    /// A list that shows what comes to the page later.
    pub(super) fn present_list(&mut self, of: &'static str, recipe: Recipe) -> Option<Value> {
        self.members_of(&recipe)?;
        let list = self.list(of, Vec::new(), None);
        let Value::Object(id) = list else { return None };
        self.recipes.insert(id, recipe);
        self.object_mut(id).members.insert(Arc::from("#absence"), Value::NULL);
        self.refresh(id);
        Some(list)
    }

    /// Works out anew what is in a list, where that can be told. Says whether it could.
    pub(super) fn refresh(&mut self, list: ObjectId) -> bool {
        let Some(recipe) = self.recipes.get(&list).cloned() else { return false };
        let Some(nodes) = self.members_of(&recipe) else {
            self.object_mut(list).is_open = true;
            return false;
        };
        // Code can be put into these, at either end, and other scripts may put something anywhere.
        let is_slotted = self.present_document().is_some_and(|document| {
            !matches!(recipe.by, Members::Selector(_)) && document.is_slotted(recipe.within)
        });
        let is_open = is_slotted || self.others_may_change();
        let items = nodes.into_iter().take(300).map(|node| self.present_value(node)).collect();
        let object = self.object_mut(list);
        if let Kind::List(_, own) = &mut object.kind {
            *own = items;
        }
        object.is_open = is_open;
        true
    }

    /// What is in a list that shows what comes to the page later, and how often the page was changed so far.
    pub(super) fn state_of(&self, list: &Value) -> Option<(ObjectId, Vec<Value>, u32)> {
        let Value::Object(id) = list else { return None };
        match &self.object(*id).kind {
            Kind::List(_, items) if self.recipes.contains_key(id) => {
                Some((*id, items.clone(), self.presence.changes))
            }
            _ => None,
        }
    }

    /// A list was gone over. Where it is another one by now, some of it was passed over, or came twice.
    pub(super) fn was_gone_over(&mut self, seen: Option<(ObjectId, Vec<Value>, u32)>) {
        let Some((list, before, changes)) = seen else { return };
        if changes == self.presence.changes {
            return;
        }
        let is_told = self.refresh(list);
        let is_same = match &self.object(list).kind {
            Kind::List(_, items) => {
                items.len() == before.len() && items.iter().zip(&before).all(|(own, was)| own.is_same(was))
            }
            _ => false,
        };
        if !(is_told && is_same) {
            self.knows_nothing_more();
        }
    }

    /// Whether other scripts may put elements into the page, or take some out.
    pub(super) fn others_may_change(&mut self) -> bool {
        self.once("#others", Self::may_grow)
    }
}
