//! An element with all that is in it, as text that two pages with the same elements have in common.

use crate::markup::{Document, ElementRef, NodeData, NodeId};

/// How deep elements are followed: nobody writes deeper ones by hand.
const DEEPEST: usize = 200;

/// An element as text: names, attributes in the order of their names, texts with single blanks.
pub(super) fn tree_text(document: &Document, element: ElementRef<'_>) -> String {
    let mut out = String::new();
    write(document, element.id, &mut out, 0);
    out
}

/// The start of it: the element itself, without what is in it.
pub(super) fn tag_text(element: ElementRef<'_>) -> String {
    let mut attributes: Vec<(&str, &str)> =
        element.data().attrs.iter().map(|own| (&*own.name.local, &*own.value)).collect();
    attributes.sort_unstable();
    let written = attributes.iter().map(|(name, value)| {
        let words: Vec<&str> = value.split_whitespace().collect();
        format!(" {name}=\"{}\"", words.join(" "))
    });
    format!("<{}{}>", element.name.local, written.collect::<String>())
}

fn write(document: &Document, id: NodeId, out: &mut String, depth: usize) {
    match &document.node(id).data {
        NodeData::Text(text) => {
            let words: Vec<&str> = text.split_whitespace().collect();
            if !words.is_empty() {
                out.push_str(&words.join(" "));
                out.push('\n');
            }
        }
        NodeData::Element(_) => {
            let Some(element) = document.element(id) else { return };
            out.push_str(&tag_text(element));
            out.push('\n');
            if depth < DEEPEST {
                document.children(id).for_each(|child| write(document, child, out, depth + 1));
            }
            out.push_str(&format!("</{}>\n", element.name.local));
        }
        _ => {}
    }
}
