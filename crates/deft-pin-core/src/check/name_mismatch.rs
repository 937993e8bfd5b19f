//! Names that a pin's script adds and nothing on the page knows, where one that something knows is
//! near: most likely a slip.

use std::sync::Arc;

use super::script_fault::{FaultKind, StepFault};
use crate::markup::NamedPart;
use crate::page::PageAnalysis;
use crate::script::{AddedName, ScriptFile};
use crate::site::PageStep;
use crate::source::nearest;

/// The names that pins' scripts add and nothing on the page knows.
pub(super) fn unknown_names(page: &PageAnalysis<'_>) -> Vec<StepFault> {
    let steps = page.steps();
    let mut found = Vec::new();
    if steps.iter().any(PageStep::hides_something) {
        return found;
    }
    let plan = page.context().plan;
    let is_announced = |name: &str| {
        page.pins().iter().any(|pin| plan.board.pins[*pin].adds.iter().any(|added| added == name))
    };
    let mut styled: Option<Vec<NamedPart>> = None;
    for (at, step) in steps.iter().enumerate().filter(|(_, step)| step.origin.pin().is_some()) {
        let Some(facts) = step.facts() else { continue };
        for added in &facts.adds {
            let own = part(added);
            if page.names().has(&own) || in_scripts(steps, at, added) || is_announced(&added.name) {
                continue;
            }
            // The sheets are looked at only where something may come of it.
            if !page.sheets().unread.is_empty() {
                return found;
            }
            let styled = styled.get_or_insert_with(|| {
                let sheets = page.sheets().sheets.iter();
                sheets.flat_map(|sheet| sheet.rules.names().keys().cloned()).collect()
            });
            if styled.contains(&own) {
                continue;
            }
            let is_same_kind =
                |name: &&NamedPart| std::mem::discriminant(*name) == std::mem::discriminant(&own);
            let mut rules: Vec<&str> = styled.iter().filter(is_same_kind).map(NamedPart::name).collect();
            rules.sort_unstable();
            let is_slip = |near: &&str| !are_two_words(&added.name, near);
            let by_rule = nearest(&added.name, rules).filter(is_slip);
            let on_page = || nearest(&added.name, page.names().ids_or_classes(added.is_id)).filter(is_slip);
            let near = by_rule.or_else(on_page);
            if let Some(near) = near {
                let mark = if added.is_id { '#' } else { '.' };
                let (name, near) = (format!("{mark}{}", added.name), format!("{mark}{near}"));
                let kind = FaultKind::UnknownName { name, near, in_rule: by_rule.is_some() };
                found.push(StepFault::of(at, added.span, kind));
            }
        }
    }
    found
}

/// Whether two short names are rather two words than one with a slip: one letter of them is another, as in `bad` and `bar`.
fn are_two_words(one: &str, other: &str) -> bool {
    const SHORT: usize = 6;
    let letters = |name: &str| {
        let mut letters: Vec<char> = name.chars().flat_map(char::to_lowercase).collect();
        letters.sort_unstable();
        letters
    };
    let (one, other) = (letters(one), letters(other));
    one.len() < SHORT && one.len() == other.len() && one != other
}

fn part(added: &AddedName) -> NamedPart {
    match added.is_id {
        true => NamedPart::Id(added.name.as_str().into()),
        false => NamedPart::Class(added.name.as_str().into()),
    }
}

/// Whether some script does anything else with a name than to add it: it is a word in another
/// one, or more often in its own than it is added.
fn in_scripts(steps: &[PageStep], at: usize, added: &AddedName) -> bool {
    let says = |script: &Arc<ScriptFile>| script.has_word(&added.name);
    steps.iter().enumerate().any(|(other, step)| match step.script() {
        Some(script) if other == at => {
            script.file.count_of(&added.name) > 1 || script.imported.iter().any(says)
        }
        _ => step.scripts().any(says),
    })
}
