//! The code in a page's attributes for events (HTML, "event handler content attributes").

use std::sync::Arc;

use html5ever::ns;

use super::shelf::Shelf;
use crate::markup::{Document, ElementRef, NodeId};
use crate::script::{GlobalUse, ScriptFile, ScriptKind, is_member};

/// An event handler content attribute.
#[derive(Clone, Debug)]
pub struct EventHandler {
    /// Its element.
    pub element: NodeId,
    /// Its name: `onclick`.
    pub name: String,
    /// Its code, which runs once the event comes.
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

/// The event handler content attributes of a page, in the order of the document.
pub fn event_handlers(document: &Document, shelf: &Shelf<'_>) -> Vec<EventHandler> {
    let elements = document.elements().filter(|element| element.data().name.ns != ns!(mathml));
    let of = |element: ElementRef<'_>| {
        let attributes = element.data().attrs.iter().filter(|own| own.name.local.starts_with("on"));
        let written = attributes.filter(|own| !own.value.trim().is_empty());
        let handler = |own: &crate::markup::Attribute| EventHandler {
            element: element.id,
            name: own.name.local.to_string(),
            script: shelf.event_handler(&own.value),
        };
        written.map(handler).collect::<Vec<_>>()
    };
    elements.flat_map(of).collect()
}
