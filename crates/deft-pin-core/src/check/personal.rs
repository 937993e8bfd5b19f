//! Findings about personal data that scripts hand to what measures visits.

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::script::ScriptKind;

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let trackers = &ground.plan.board.trackers;
    for (pin, planned) in ground.plan.board.pins.iter().zip(&ground.plan.pins) {
        let Some(file) = &planned.script else { continue };
        let facts = file.script.as_ref().map(|script| script.facts(ScriptKind::Confined));
        for given in facts.iter().flat_map(|facts| &facts.gives) {
            let is_it = |tracker: &&str| {
                given.to.strip_prefix(*tracker).is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
            };
            let Some(tracker) = trackers.iter().map(|own| own.as_str()).find(is_it) else { continue };
            let message = format!(
                "`{}` says that this is about a person, and `{tracker}` passes it on to whoever measures visits",
                given.says
            );
            let place = Place::new(&file.path, &file.text, given.span);
            findings.push(
                Finding::new(Code::PersonalData, Severity::Warning, place, message)
                    .help("leave it out, or pass on only whether it is there: `hasEmail: !!email`")
                    .pin(&pin.name),
            );
        }
    }
}
