//! The code in a page's attributes: for events (HTML, "event handler content attributes"), and in addresses.

use std::borrow::Cow;
use std::sync::Arc;

use html5ever::ns;
use percent_encoding::percent_decode_str;

use super::shelf::Shelf;
use crate::markup::{Attribute, Document, ElementRef, NodeId};
use crate::script::{GlobalUse, ScriptFile, ScriptKind, is_member};

/// An event handler content attribute, or an address that is code.
#[derive(Clone, Debug)]
pub struct EventHandler {
    /// Its element.
    pub element: NodeId,
    /// Its name: `onclick`, or `href`.
    pub name: String,
    /// Its code, which runs once the event comes, or somebody goes there.
    pub script: Arc<ScriptFile>,
}

impl EventHandler {
    /// The globals that it reads. Names that its element, a form or the document has are none.
    pub fn reads(&self) -> impl Iterator<Item = &GlobalUse> {
        self.script.facts(ScriptKind::Confined).reads.iter().filter(|read| !is_member(&read.name))
    }

    /// The selectors of what it looks up.
    pub fn looks_up(&self) -> impl Iterator<Item = &str> {
        self.script.facts(ScriptKind::Confined).looks_up.iter().map(|found| found.selector.as_str())
    }
}

/// The event handler content attributes of a page, and its `javascript:` addresses, in the order of the document.
pub fn event_handlers(document: &Document, shelf: &Shelf<'_>) -> Vec<EventHandler> {
    let elements = document.elements().filter(|element| element.data().name.ns != ns!(mathml));
    let of = |element: ElementRef<'_>| {
        let codes = element.data().attrs.iter().filter_map(|own| Some((own, code_of(own)?)));
        let written = codes.filter(|(_, code)| !code.trim().is_empty());
        let handler = |(own, code): (&Attribute, Cow<'_, str>)| EventHandler {
            element: element.id,
            name: own.name.local.to_string(),
            script: shelf.event_handler(&code),
        };
        written.map(handler).collect::<Vec<_>>()
    };
    elements.flat_map(of).collect()
}

/// The code in an attribute: of a handler, or of an address that is code (HTML, "javascript: URLs").
fn code_of(attribute: &Attribute) -> Option<Cow<'_, str>> {
    let name = &*attribute.name.local;
    if name.starts_with("on") {
        return Some(Cow::Borrowed(&attribute.value));
    }
    const SCHEME: &str = "javascript:";
    let value = attribute.value.trim_start_matches(|c: char| c.is_ascii_control() || c == ' ');
    let is_code = matches!(name, "href" | "action" | "formaction" | "src")
        && value.get(..SCHEME.len()).is_some_and(|scheme| scheme.eq_ignore_ascii_case(SCHEME));
    let code = &value[if is_code { SCHEME.len() } else { return None }..];
    // Most of them do nothing, on purpose.
    let is_nothing = code
        .trim()
        .trim_end_matches(';')
        .trim_start_matches("void")
        .trim_matches(['(', ')', '0', ' '])
        .is_empty();
    (!is_nothing).then(|| percent_decode_str(code).decode_utf8_lossy())
}
