//! Findings about needs that the board does not say.

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::plan::Owner;

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let plan = ground.plan;
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
