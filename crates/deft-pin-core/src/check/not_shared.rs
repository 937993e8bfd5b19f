//! Names that a pin's script declares and keeps to itself, and that the page asks for: in an event
//! handler content attribute, in a script of its own, or in the address of one.

use super::script_fault::{Asker, FaultKind, StepFault};
use crate::code::Origin;
use crate::page::PageAnalysis;
use crate::script::{GlobalUse, When, callbacks_of};
use crate::site::PageStep;

/// The names that stay in a pin's script, so that something else on the page fails.
pub(super) fn unshared_names(page: &PageAnalysis<'_>) -> Vec<StepFault> {
    let steps = page.steps();
    let keeps = |step: &PageStep| step.facts().is_some_and(|facts| !facts.keeps.is_empty());
    if !steps.iter().any(|step| step.origin != Origin::Site && keeps(step)) {
        return Vec::new();
    }
    // What cannot be looked into may define what a script of the page asks for. That an attribute
    // asks for the very name that a pin declares is no chance.
    let is_unclear = steps.iter().any(PageStep::may_define_anything);
    let is_known = |name: &str| {
        let mut defined = steps.iter().flat_map(PageStep::all_facts).flat_map(|facts| &facts.defines);
        defined.any(|own| own.name == name) || page.document().has_window_name(name)
    };
    let mut found = Vec::new();
    for (at, step) in steps.iter().enumerate() {
        let keeps = step.facts().map_or(&[][..], |facts| &facts.keeps);
        for (name, span) in keeps.iter().filter(|(name, _)| !is_known(name)) {
            let reads = |read: &GlobalUse| read.name == *name && !read.guarded && read.when != When::Perhaps;
            let by_site = steps.iter().position(|step| {
                !is_unclear
                    && step.origin == Origin::Site
                    && step.all_facts().any(|facts| facts.reads.iter().any(reads))
            });
            let by_address = || {
                let calls = |address: &str| callbacks_of(address).any(|own| own == name);
                steps.iter().position(|step| step.is_unread() && step.address().is_some_and(calls))
            };
            // Another pin that runs after it, or reads the name later.
            let by_pin = || {
                let mut others = steps.iter().enumerate();
                let found = others.find(|(other, step)| {
                    let waits =
                        |read: &GlobalUse| read.when == When::Later || page.timeline().is_before(at, *other);
                    step.origin != Origin::Site
                        && *other != at
                        && step
                            .all_facts()
                            .any(|facts| facts.reads.iter().any(|read| reads(read) && waits(read)))
                });
                found.map(|(other, _)| other)
            };
            let by_step = by_site.or_else(by_address).or_else(by_pin).map(Asker::Step);
            let asker = by_step.or_else(|| event_handler_with(page, name));
            if let Some(by) = asker {
                let kind = FaultKind::Unshared { name: name.clone(), by };
                found.push(StepFault::of(at, *span, kind));
            }
        }
    }
    found
}

/// The first event handler content attribute whose code reads a global.
fn event_handler_with(page: &PageAnalysis<'_>, name: &str) -> Option<Asker<usize>> {
    // Most have other words in them, and need not be understood.
    let mut likely = page.event_handlers().iter().filter(|own| own.script.text.as_str().contains(name));
    let handler = likely.find(|own| own.reads().any(|read| read.name == name && !read.guarded))?;
    let line = page.document().element(handler.element).map_or(0, |element| page.parsed().line_of(element));
    Some(Asker::EventHandler { attribute: handler.name.clone(), line })
}
