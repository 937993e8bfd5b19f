//! Findings about elements that a pin hides and nothing shows again.

use serde::Serialize;

use super::code::Code;
use super::declarations::PinDeclaration;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::find::label;

pub(super) struct StaysHidden;

/// An element that a declaration hides: no rule shows it again, and no script names it.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct Hidden {
    declaration: PinDeclaration,
    /// The element, as people name it.
    element: String,
}

impl Family for StaysHidden {
    type Fact = Hidden;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<Hidden>) {
        for hidden in &page.declarations().hidden {
            let Some(element) = page.settled().document().element(hidden.element) else { continue };
            let data = element.data();
            let mut names = data.id().into_iter().chain(data.classes());
            if !names.any(|name| page.page.name_source(name).is_some()) {
                facts.push(Hidden { declaration: hidden.declaration, element: label(element) });
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<Hidden>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(|hidden| hidden.declaration) {
            let Hidden { declaration: PinDeclaration { pin, span }, element } = shared.first;
            let Some(place) = input.in_sheet(*pin, *span) else { continue };
            let text = input.sheet_text(*pin, *span);
            let message = format!(
                "`{text}` hides `{element}`, and nothing shows it again: no other rule on the page does, and no script there names it"
            );
            let finding = Finding::new(Code::StaysHidden, place, message)
                .help("if it is to be gone for good, all is well");
            findings.push(finding.pin(input.pin_name(*pin)).pages(input.paths(shared.pages)));
        }
    }
}
