//! Globals that a script of the board defines and that are somebody else's.

use super::script_fault::{FaultKind, OtherDefiner, StepFault};
use crate::code::Origin;
use crate::page::PageAnalysis;
use crate::script::{GlobalUse, When, is_browser_global};

/// Globals of the browser that are there to be set.
const SETTABLE: &[&str] = &["defaultStatus", "event", "location", "name", "opener", "status"];

/// Marks of modules, which some wrappers leave on the global object and nobody reads there.
const OF_MODULES: &[&str] = &["__esModule", "default"];

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
            if OF_MODULES.contains(&own.name.as_str()) {
                continue;
            }
            let by_step = steps.iter().enumerate().position(|(by, other)| {
                // What is there by then, another leaves alone.
                let keeps_it = |other: &GlobalUse| {
                    other.guarded && (own.when < other.when || page.timeline().is_before(at, by))
                };
                let defines = |other: &GlobalUse| {
                    other.name == own.name && other.when != When::Perhaps && !keeps_it(other)
                };
                other.origin != step.origin
                    && other.all_facts().any(|facts| facts.defines.iter().any(defines))
            });
            // Libraries that bring the same along for themselves get on with each other.
            let by_step = by_step.filter(|by| {
                let is_library = |at: usize| steps[at].origin.library().is_some();
                let reads =
                    |facts: &crate::script::ScriptFacts| facts.reads.iter().any(|read| read.name == own.name);
                !is_library(at)
                    || !is_library(*by)
                    || steps.iter().any(|step| step.origin.library().is_none() && step.all_facts().any(reads))
            });
            // What has no value is there to be given one.
            let is_unset = |by: &usize| {
                let script = steps[*by].script();
                script
                    .and_then(|script| script.file.sketch(script.kind, &own.name))
                    .is_some_and(|global| global.is_without_value())
            };
            let by_step = by_step.filter(|by| !is_unset(by));
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
