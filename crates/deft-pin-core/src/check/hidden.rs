//! Findings about elements that a pin hides and nothing shows again.

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::plan::Owner;

/// Whether a declaration hides what it applies to.
pub(super) fn hides(property: &str, value: &str) -> bool {
    let value = value.trim().to_ascii_lowercase();
    match property {
        "display" => value == "none",
        "visibility" => matches!(value.as_str(), "hidden" | "collapse"),
        "opacity" => matches!(value.as_str(), "0" | "0%" | "0.0" | ".0"),
        _ => false,
    }
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (pin, planned) in ground.plan.pins.iter().enumerate() {
        let Some(style) = &planned.style else { continue };
        let mut found = std::collections::BTreeMap::new();
        for (page, facts) in ground.pages_of(pin) {
            for fight in &facts.fights {
                if let Some(element) = &fight.hides {
                    found.entry(fight.span).or_insert((element, Vec::new())).1.push(page);
                }
            }
        }
        for (span, (element, pages)) in found {
            let place = Place::new(&style.file.path, &style.file.text, span);
            let text = style.file.text.slice(span);
            let message = format!(
                "`{text}` hides `{element}`, and nothing shows it again: no other rule on the page does, and no script there names it"
            );
            let finding = Finding::new(Code::StaysHidden, Severity::Note, place, message)
                .help("if it is to be gone for good, all is well");
            findings.push(finding.pin(ground.plan.name_of(Owner::Pin(pin))).pages(ground.paths(pages)));
        }
    }
}
