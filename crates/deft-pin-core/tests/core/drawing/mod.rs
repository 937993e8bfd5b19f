//! Trees drawn as text: that of html5ever alone, and ours, so that they can be held against each
//! other.

use deft_pin_core::markup::{Document, NodeData, NodeId};
use html5ever::tendril::TendrilSink;
use markup5ever_rcdom::{Handle, RcDom};

/// A tree drawn line by line, as html5ever's own test DOM has it.
pub fn draw_alone(text: &str) -> String {
    // The mark has been taken off; html5ever would take off one in the middle, after a `<meta>`.
    let mut options = html5ever::ParseOpts::default();
    options.tokenizer.discard_bom = false;
    let dom = html5ever::parse_document(RcDom::default(), options).one(text);
    let mut lines = String::new();
    draw_handle(&dom.document, 0, &mut lines);
    lines
}

fn draw_handle(handle: &Handle, depth: usize, lines: &mut String) {
    use markup5ever_rcdom::NodeData as Alone;
    let indent = "  ".repeat(depth);
    match &handle.data {
        Alone::Document => {}
        Alone::Doctype { name, .. } => lines.push_str(&format!("{indent}!{name}\n")),
        Alone::Text { contents } => lines.push_str(&format!("{indent}{:?}\n", &**contents.borrow())),
        Alone::Comment { contents } => lines.push_str(&format!("{indent}<!--{:?}\n", &**contents)),
        Alone::ProcessingInstruction { .. } => lines.push('?'),
        Alone::Element { name, attrs, template_contents, .. } => {
            lines.push_str(&format!("{indent}<{} {}", name.ns, name.local));
            for attribute in attrs.borrow().iter() {
                lines.push_str(&format!(" {:?}={:?}", attribute.name, &*attribute.value));
            }
            lines.push_str(">\n");
            if let Some(contents) = &*template_contents.borrow() {
                lines.push_str(&format!("{indent}  #contents\n"));
                contents.children.borrow().iter().for_each(|child| draw_handle(child, depth + 2, lines));
            }
        }
    }
    // Of the elements in these pages that can have a shadow tree, the `div`s declare one.
    let is_host = matches!(&handle.data, Alone::Element { name, .. } if &*name.local == "div");
    let children = handle.children.borrow();
    let shadow = children.iter().position(|child| is_host && declares_shadow(child));
    if let Some(Alone::Element { template_contents, .. }) = shadow.map(|at| &children[at].data)
        && let Some(contents) = &*template_contents.borrow()
    {
        lines.push_str(&format!("{indent}  #shadow\n"));
        contents.children.borrow().iter().for_each(|child| draw_handle(child, depth + 2, lines));
    }
    let others = children.iter().enumerate().filter(|(at, _)| Some(*at) != shadow);
    others.for_each(|(_, child)| draw_handle(child, depth + 1, lines));
}

fn declares_shadow(handle: &Handle) -> bool {
    match &handle.data {
        markup5ever_rcdom::NodeData::Element { name, attrs, .. } => {
            let says = |value: &str| value == "open" || value == "closed";
            let mut attrs = attrs.borrow().clone().into_iter();
            &*name.local == "template"
                && attrs.any(|own| &*own.name.local == "shadowrootmode" && says(&own.value))
        }
        _ => false,
    }
}

/// The same drawing of our tree.
pub fn draw_ours(document: &Document) -> String {
    let mut lines = String::new();
    draw_node(document, NodeId::DOCUMENT, 0, &mut lines);
    lines
}

fn draw_node(document: &Document, id: NodeId, depth: usize, lines: &mut String) {
    let indent = "  ".repeat(depth);
    match &document.node(id).data {
        NodeData::Document | NodeData::Fragment => {}
        NodeData::Doctype(name) => lines.push_str(&format!("{indent}!{name}\n")),
        NodeData::Text(text) => lines.push_str(&format!("{indent}{:?}\n", &**text)),
        NodeData::Comment(text) => lines.push_str(&format!("{indent}<!--{:?}\n", &**text)),
        NodeData::Element(element) => {
            lines.push_str(&format!("{indent}<{} {}", element.name.ns, element.name.local));
            for attribute in &element.attrs {
                lines.push_str(&format!(" {:?}={:?}", attribute.name, &*attribute.value));
            }
            lines.push_str(">\n");
            if let Some(contents) = element.contents {
                lines.push_str(&format!("{indent}  #contents\n"));
                document.children(contents).for_each(|child| draw_node(document, child, depth + 2, lines));
            }
            if let Some(shadow) = element.shadow {
                lines.push_str(&format!("{indent}  #shadow\n"));
                document.children(shadow).for_each(|child| draw_node(document, child, depth + 2, lines));
            }
        }
    }
    document.children(id).for_each(|child| draw_node(document, child, depth + 1, lines));
}
