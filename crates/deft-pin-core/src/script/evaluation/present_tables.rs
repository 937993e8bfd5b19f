//! Rows, cells and parts of tables on the page at present (HTML, "Tabular data").

use super::lookups::local;
use super::machine::Machine;
use super::present_lists::rows_of;
use super::value::Value;
use crate::markup::{Document, NodeId};

/// The rows of a table, or the cells of a row: what a method puts one among.
pub(super) fn parts_of(document: &Document, method: &str, id: NodeId) -> Vec<NodeId> {
    if method.ends_with("Row") {
        return rows_of(document, id);
    }
    let is_cell = |own: &NodeId| {
        document.element(*own).is_some_and(|own| matches!(&*own.data().name.local, "td" | "th"))
    };
    document.child_elements(id).filter(is_cell).collect()
}

impl Machine<'_> {
    /// Rows and cells (HTML, "The table element", "The tr element").
    pub(super) fn changes_table(
        &mut self,
        name: &str,
        id: NodeId,
        at: &Value,
        value: &Value,
    ) -> Option<Option<Value>> {
        let at = match at {
            Value::Undefined(_) => -1.0,
            at => self.as_number(at).ok()?,
        };
        let document = self.present_document()?;
        let is_table = document.element(id)?.data().is_html(&local("table"));
        let all = parts_of(document, name, id);
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
    pub(super) fn makes_part(&mut self, name: &str, table: NodeId) -> Option<Option<Value>> {
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
