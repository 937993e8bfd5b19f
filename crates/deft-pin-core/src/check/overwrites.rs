//! Globals that a script of the board defines and that are somebody else's.

use super::script_fault::{FaultKind, OtherDefiner, StepFault};
use crate::code::Origin;
use crate::page::PageAnalysis;
use crate::script::{GlobalUse, When, is_browser_global};

/// Globals of the browser that are there to be set.
const SETTABLE: &[&str] = &["defaultStatus", "event", "location", "name", "opener", "status"];

/// The globals that scripts of the board overwrite. One that is asked for first, or made from what
/// is there, is left out; so are copies of one library, which are told as such.
pub(super) fn overwrites(page: &PageAnalysis<'_>) -> Vec<StepFault> {
    let steps = page.steps();
    let mut found = Vec::new();
    for (at, step) in steps.iter().enumerate() {
        let is_copied = step.origin.library().is_some_and(|library| page.copies().has(library));
        let Some(facts) = step.facts().filter(|_| step.origin != Origin::Site && !is_copied) else {
            continue;
        };
        for own in facts.defines.iter().filter(|own| !own.guarded && own.when != When::Perhaps) {
            let defines = |other: &GlobalUse| other.name == own.name && other.when != When::Perhaps;
            let by_step = steps.iter().position(|other| {
                other.origin != step.origin
                    && other.all_facts().any(|facts| facts.defines.iter().any(defines))
            });
            let is_browsers = step.origin.pin().is_some()
                && is_browser_global(&own.name)
                && !own.name.starts_with("on")
                && !SETTABLE.contains(&own.name.as_str());
            let by = by_step.map(OtherDefiner::Step).or(is_browsers.then_some(OtherDefiner::Browser));
            found.extend(by.map(|by| {
                let kind = FaultKind::Overwrites { name: own.name.clone(), by };
                StepFault::of(at, own.span, kind)
            }));
        }
    }
    found
}
