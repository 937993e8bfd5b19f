//! What `innerHTML` and `outerHTML` give (HTML, "serializing HTML fragments").

use super::machine::Machine;
use super::made_node::FRAGMENT;
use super::value::{Node, Value};
use crate::markup::{Document, Element, NodeData, NodeId, is_void, ns};

/// Longer markup is not kept.
const LONGEST: usize = 20_000;

/// Elements whose texts are written as they are.
const RAW: &[&str] = &["style", "script", "xmp", "iframe", "noembed", "noframes", "plaintext", "noscript"];

impl Machine<'_> {
    /// The markup of an element, or of what is in it; none where that cannot be told.
    pub(super) fn markup_of(&mut self, node: Node, is_outer: bool) -> Option<Value> {
        // A fragment has no such member.
        if &*self.tag_of(node) == FRAGMENT {
            return None;
        }
        let id = self.present_node(node)?;
        let vague = &self.presence.vague;
        let is_vague = vague.texts || vague.has_names() || !vague.attributes.is_empty();
        if is_vague || self.others_may_change() || self.others_change_texts() {
            return None;
        }
        let document = self.present_document()?;
        // Code can be put into these.
        if document.is_slotted(id) {
            return None;
        }
        let mut out = String::new();
        let is_whole = match is_outer {
            true => write_node(document, id, &mut out),
            false => write_inside(document, id, &mut out),
        };
        self.charge(out.len() / 16);
        is_whole.then(|| Value::text(&out))
    }
}

/// Writes what is in a node. Says whether that was not too long.
fn write_inside(document: &Document, id: NodeId, out: &mut String) -> bool {
    let top = document.contents_of(id).unwrap_or(id);
    document.children(top).all(|child| write_node(document, child, out))
}

fn write_node(document: &Document, id: NodeId, out: &mut String) -> bool {
    if out.len() > LONGEST {
        return false;
    }
    match &document.node(id).data {
        NodeData::Element(element) => {
            write_start(element, out);
            let name = &*element.name.local;
            if element.name.ns == ns!(html) && is_void(&element.name.local) {
                return true;
            }
            let is_whole = stacker::maybe_grow(128 << 10, 2 << 20, || write_inside(document, id, out));
            out.push_str("</");
            out.push_str(name);
            out.push('>');
            is_whole
        }
        NodeData::Text(text) => {
            let parent = document.node(id).parent().and_then(|parent| document.element(parent));
            let is_raw = parent.is_some_and(|own| RAW.contains(&&*own.data().name.local));
            match is_raw {
                true => out.push_str(text),
                false => write_text(text, &[('<', "&lt;"), ('>', "&gt;")], out),
            }
            true
        }
        NodeData::Comment(text) => {
            out.push_str("<!--");
            out.push_str(text);
            out.push_str("-->");
            true
        }
        NodeData::Document | NodeData::Fragment | NodeData::Doctype(_) => true,
    }
}

fn write_start(element: &Element, out: &mut String) {
    out.push('<');
    out.push_str(&element.name.local);
    for attribute in &element.attrs {
        out.push(' ');
        if let Some(prefix) = &attribute.name.prefix {
            out.push_str(prefix);
            out.push(':');
        }
        out.push_str(&attribute.name.local);
        out.push_str("=\"");
        write_text(&attribute.value, &[('"', "&quot;"), ('<', "&lt;"), ('>', "&gt;")], out);
        out.push('"');
    }
    out.push('>');
}

fn write_text(text: &str, also: &[(char, &str)], out: &mut String) {
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '\u{a0}' => out.push_str("&nbsp;"),
            c => match also.iter().find(|(own, _)| *own == c) {
                Some((_, escaped)) => out.push_str(escaped),
                None => out.push(c),
            },
        }
    }
}
