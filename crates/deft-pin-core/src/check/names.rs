//! Names that a pin's script adds and nothing on the page knows, where one that something knows is
//! near: most likely a slip.

use std::sync::Arc;

use super::trouble::{Scene, Trouble, TroubleKind};
use crate::markup::NamedPart;
use crate::script::AddedName;
use crate::site::{PageStep, ScriptFile, SheetOrigin};
use crate::source::nearest;

pub(super) fn unknown_names(page: &Scene<'_>, found: &mut Vec<Trouble>) {
    let pins = page.steps.iter().enumerate().filter(|(_, step)| matches!(step.origin, SheetOrigin::Pin(_)));
    if page.steps.iter().any(PageStep::hides_something) {
        return;
    }
    let mut styled: Option<Option<Vec<NamedPart>>> = None;
    for (at, step) in pins {
        let Some(facts) = step.facts() else { continue };
        for added in &facts.adds {
            if on_page(page, added) || in_scripts(page, at, added) || page.adds.contains(&added.name) {
                continue;
            }
            // The sheets are looked at only where something may come of it.
            let styled = styled.get_or_insert_with(|| {
                let sheets = (page.sheets)()?;
                Some(sheets.iter().flat_map(|sheet| sheet.names().keys().cloned()).collect())
            });
            let Some(styled) = styled else { return };
            let own = part(added);
            if styled.contains(&own) {
                continue;
            }
            let same_kind =
                styled.iter().filter(|name| std::mem::discriminant(*name) == std::mem::discriminant(&own));
            let by_rule = nearest(&added.name, same_kind.map(NamedPart::name));
            let near = by_rule.or_else(|| nearest(&added.name, names_of(page, added.is_id)));
            if let Some(near) = near {
                let mark = if added.is_id { '#' } else { '.' };
                let (name, near) = (format!("{mark}{}", added.name), format!("{mark}{near}"));
                let kind = TroubleKind::Unknown { name, near, in_rule: by_rule.is_some() };
                found.push(Trouble { step: at, span: added.span, kind });
            }
        }
    }
}

fn part(added: &AddedName) -> NamedPart {
    match added.is_id {
        true => NamedPart::Id(added.name.as_str().into()),
        false => NamedPart::Class(added.name.as_str().into()),
    }
}

fn names_of<'p>(page: &Scene<'p>, is_id: bool) -> Vec<&'p str> {
    let elements = page.document.elements().map(|element| element.data());
    match is_id {
        true => elements.filter_map(|own| own.id()).collect(),
        false => elements.flat_map(|own| own.classes()).collect(),
    }
}

fn on_page(page: &Scene<'_>, added: &AddedName) -> bool {
    let own = part(added);
    page.document.elements().any(|element| own.is_of(element.data()))
}

/// Whether some script does anything else with a name than to add it: it is a word in another
/// one, or more often in its own than it is added.
fn in_scripts(page: &Scene<'_>, at: usize, added: &AddedName) -> bool {
    let imported = page.steps.iter().flat_map(|step| &step.imported);
    let is_said = |script: &Arc<ScriptFile>| script.has_word(&added.name);
    imported.into_iter().any(is_said)
        || page.steps.iter().enumerate().any(|(other, step)| match &step.script {
            Some(script) if other == at => script.count_of(&added.name) > 1,
            Some(script) => is_said(script),
            None => false,
        })
}
