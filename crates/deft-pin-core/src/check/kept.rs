//! Names that a pin's script declares and keeps to itself, and that the page asks for: in an
//! attribute for an event, or in a script of its own.

use super::trouble::{Scene, Trouble, TroubleKind};
use crate::script::{GlobalUse, When};
use crate::site::{PageStep, SheetOrigin};

pub(super) fn kept(page: &Scene<'_>, found: &mut Vec<Trouble>) {
    // What cannot be looked into may define what a script of the page asks for. That an attribute
    // asks for the very name that a pin declares is no chance.
    let is_unclear = page.steps.iter().any(PageStep::may_define_anything);
    let is_known = |name: &str| {
        let mut defined =
            page.steps.iter().flat_map(|step| step.all_facts()).flat_map(|facts| &facts.defines);
        defined.any(|own| own.name == name) || page.is_element(name)
    };
    for (at, step) in page.steps.iter().enumerate() {
        let keeps = step.facts().map_or(&[][..], |facts| &facts.keeps);
        for (name, span) in keeps.iter().filter(|(name, _)| !is_known(name)) {
            let reads = |read: &GlobalUse| read.name == *name && !read.guarded && read.when != When::Perhaps;
            let by_site = page.steps.iter().position(|step| {
                !is_unclear
                    && step.origin == SheetOrigin::Site
                    && step.all_facts().any(|facts| facts.reads.iter().any(reads))
            });
            let by_handler = || handler_with(page, name);
            let (by, handler) = match by_site {
                Some(by) => (Some(by), None),
                None => match by_handler() {
                    Some(handler) => (None, Some(handler)),
                    None => continue,
                },
            };
            found.push(Trouble {
                step: at,
                span: *span,
                kind: TroubleKind::Kept { name: name.clone(), by, handler },
            });
        }
    }
}

/// The first attribute for an event whose code reads a global: its name, and its line.
fn handler_with(page: &Scene<'_>, name: &str) -> Option<(String, u32)> {
    // Most have other words in them, and need not be understood.
    let mut handlers = page.handlers.iter().filter(|own| own.script.text.as_str().contains(name));
    let own = handlers.find(|own| own.reads().any(|read| read.name == name && !read.guarded))?;
    Some((own.name.clone(), page.document.position(own.element, page.text).line))
}
