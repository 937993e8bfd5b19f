//! Names that two classic scripts of a page declare, one of them by `let`, `const` or `class`: the later script does
//! not run then (ECMA-262, "GlobalDeclarationInstantiation").

use rustc_hash::FxHashMap;

use super::script_fault::{FaultKind, StepFault};
use crate::code::Origin;
use crate::page::PageAnalysis;
use crate::script::Declared;

/// The scripts that do not run, or keep others from running, for the sake of a name.
pub(super) fn declared_twice(page: &PageAnalysis<'_>) -> Vec<StepFault> {
    let steps = page.steps();
    let mut known: FxHashMap<&str, Vec<(usize, &Declared)>> = FxHashMap::default();
    for (at, step) in steps.iter().enumerate() {
        for own in step.facts().into_iter().flat_map(|facts| &facts.declares) {
            known.entry(&own.name).or_default().push((at, own));
        }
    }
    let mut found = Vec::new();
    for (name, declared) in known {
        // Of more than anybody has, the first tell enough.
        let Some(((first, one), (second, other))) = declared
            .iter()
            .take(20)
            .flat_map(|one| declared.iter().take(20).map(move |other| (*one, *other)))
            .find(|((first, one), (second, other))| {
                page.timeline().is_before(*first, *second) && (one.is_lexical || other.is_lexical)
            })
        else {
            continue;
        };
        let is_board = |at: usize| steps[at].origin != Origin::Site;
        let name = name.to_owned();
        found.push(match is_board(first) && !is_board(second) {
            true => {
                let kind = FaultKind::DeclaredTwice { name, by: second, comes_first: false };
                StepFault::of(first, one.span, kind)
            }
            false => {
                let kind = FaultKind::DeclaredTwice { name, by: first, comes_first: true };
                StepFault::of(second, other.span, kind)
            }
        });
    }
    found.sort_by(|a, b| (a.step, a.span, &a.kind).cmp(&(b.step, b.span, &b.kind)));
    found
}
