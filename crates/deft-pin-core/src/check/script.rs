//! Findings about scripts: what keeps them from running.

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::script::ScriptKind;
use crate::source::Span;

/// A script that does not parse has one cause, and what follows from it is noise.
pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (pin, planned) in ground.plan.board.pins.iter().zip(&ground.plan.pins) {
        let Some(file) = &planned.script else { continue };
        let flaws = file.script.as_ref().map(|script| &script.facts(ScriptKind::Classic).flaws);
        let Some(flaw) = flaws.and_then(|flaws| flaws.first()) else { continue };
        let text = file.text.as_str().trim_end();
        let last = text.len() - text.chars().next_back().map_or(0, char::len_utf8);
        // What is missing at the end of the file is missing after its last character.
        let span = flaw.span.map_or(Span::at(0), |span| {
            if span.start as usize >= text.len() { Span::new(last, text.len()) } else { span }
        });
        let place = Place::new(&file.path, &file.text, span);
        let message =
            format!("a browser cannot read this script and runs none of it: {}", lower_first(&flaw.message));
        let mut finding = Finding::new(Code::BadSyntax, Severity::Error, place, message).pin(&pin.name);
        if flaw.message.contains("import") || flaw.message.contains("export") {
            finding = finding.help("a pin's script is a classic script: `import` and `export` belong to modules; `import()` works in both");
        }
        findings.push(finding);
    }
}

fn lower_first(message: &str) -> String {
    let mut characters = message.chars();
    let first = characters.next().map(|c| c.to_ascii_lowercase());
    first.into_iter().chain(characters).collect::<String>().trim_end_matches('.').to_owned()
}
