//! The code in a page's attributes for events (HTML 8.1.8.1, "event handler content attributes").

use std::sync::Arc;

use html5ever::ns;

use super::scripts::{ScriptFile, ScriptFiles};
use crate::markup::{Document, ElementRef};
use crate::script::{GlobalUse, ScriptKind, is_member};

/// An attribute for an event.
#[derive(Clone, Debug)]
pub struct Handler<'d> {
    /// Its element.
    pub element: ElementRef<'d>,
    /// Its name: `onclick`.
    pub name: String,
    /// Its code, which runs once the event comes.
    pub script: Arc<ScriptFile>,
}

impl Handler<'_> {
    /// The globals that it reads. Names that its element, a form or the document has are none.
    pub fn reads(&self) -> impl Iterator<Item = &GlobalUse> {
        self.script.facts(ScriptKind::Confined).reads.iter().filter(|read| !is_member(&read.name))
    }
}

/// The attributes for events of a page, in the order of the document.
pub fn handlers<'d>(document: &'d Document, known: &ScriptFiles) -> Vec<Handler<'d>> {
    let elements = document.elements().filter(|element| element.name.ns != ns!(mathml));
    let of = |element: ElementRef<'d>| {
        let own = element.data().attrs.iter().filter(|own| own.name.local.starts_with("on"));
        let of = |own: &crate::markup::Attribute| Handler {
            element,
            name: own.name.local.to_string(),
            script: known.handler(&own.value),
        };
        own.filter(|own| !own.value.trim().is_empty()).map(of).collect::<Vec<_>>()
    };
    elements.flat_map(of).collect()
}
