//! Globals that a script of the board defines and that are somebody else's.

use super::trouble::{Scene, Trouble, TroubleKind};
use crate::script::{GlobalUse, When, is_browser_global};
use crate::site::SheetOrigin;

/// Globals of the browser that are there to be set.
const SETTABLE: &[&str] = &["defaultStatus", "event", "location", "name", "opener", "status"];

/// The globals that scripts of the board overwrite. One that is asked for first, or made from what
/// is there, is left out; so are copies of one library, which are told as such.
pub(super) fn overwrites(page: &Scene<'_>, found: &mut Vec<Trouble>) {
    for (at, step) in page.steps.iter().enumerate() {
        let is_copied = matches!(&step.origin, SheetOrigin::Library(name) if page.own.contains(name));
        let Some(facts) = step.facts().filter(|_| step.origin != SheetOrigin::Site && !is_copied) else {
            continue;
        };
        for own in facts.defines.iter().filter(|own| !own.guarded && own.when != When::Perhaps) {
            let defines = |other: &GlobalUse| other.name == own.name && other.when != When::Perhaps;
            let by = page.steps.iter().position(|other| {
                other.origin != step.origin
                    && other.all_facts().any(|facts| facts.defines.iter().any(defines))
            });
            let is_pin = matches!(step.origin, SheetOrigin::Pin(_));
            let is_browsers = is_pin
                && is_browser_global(&own.name)
                && !own.name.starts_with("on")
                && !SETTABLE.contains(&own.name.as_str());
            if by.is_some() || is_browsers {
                let kind = TroubleKind::Overwrites { name: own.name.clone(), by };
                found.push(Trouble { step: at, span: own.span, kind });
            }
        }
    }
}
