//! Findings about needs that the board does not say.

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::plan::{Inferred, Owner};

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let plan = ground.plan;
    for need in &plan.needs.circular {
        findings.extend(of_circle(ground, need));
    }
    for need in &plan.needs.inferred {
        let file = match need.owner {
            Owner::Pin(at) => plan.pins[at].script.as_ref(),
            Owner::Library(at) => plan.libraries[at].scripts.get(need.script).and_then(|part| part.local()),
        };
        let Some(file) = file else { continue };
        let library = plan.name_of(Owner::Library(need.library));
        let place = Place::new(&file.path, &file.text, need.span);
        let message = format!(
            "this reads `{}`, which the library `{library}` defines: it comes first on every page that has not got it by itself",
            need.global
        );
        let finding = Finding::new(Code::InferredNeed, Severity::Note, place, message);
        let name = plan.name_of(need.owner);
        findings.push(match need.owner {
            Owner::Pin(_) => finding.help(format!("say so on the board: `needs = [\"{library}\"]` under `[pin.{name}]`")).pin(name),
            Owner::Library(_) => finding.help(format!("say so on the board: `needs = [\"{library}\"]` under `[library.{name}]`, or `needs = []` if that is wrong")),
        });
    }
}

/// Where the script reads what it needs.
fn place_of(ground: &Ground<'_>, need: &Inferred) -> Option<Place> {
    let file = match need.owner {
        Owner::Pin(at) => ground.plan.pins[at].script.as_ref(),
        Owner::Library(at) => ground.plan.libraries[at].scripts.get(need.script)?.local(),
    }?;
    Some(Place::new(&file.path, &file.text, need.span))
}

fn of_circle(ground: &Ground<'_>, need: &Inferred) -> Option<Finding> {
    let library = ground.plan.name_of(Owner::Library(need.library));
    let own = ground.plan.name_of(need.owner);
    let message = format!(
        "this reads `{}`, which the library `{library}` defines, and that comes after this one since it needs `{own}`: no order gives both what they need",
        need.global
    );
    let finding = Finding::new(Code::NeedsCycle, Severity::Error, place_of(ground, need)?, message);
    Some(finding.help(format!(
        "if `{own}` works without it, say so: `needs = []` under `[library.{own}]`; else look for a file that has both"
    )))
}
