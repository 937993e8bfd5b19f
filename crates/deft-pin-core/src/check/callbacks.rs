//! Callbacks that the address of a library names and that nothing on a page defines.

use serde::Serialize;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{Address, LibraryId};
use crate::script::callbacks_of;
use crate::site::PageStep;
use crate::source::nearest;

pub(super) struct Callbacks;

/// A callback that nothing defines.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct LackingCallback {
    library: LibraryId,
    /// Which of its scripts, counted from 0.
    script: usize,
    name: String,
    /// A name of nearly that spelling, which a script of the page defines or keeps to itself.
    near: Option<String>,
}

impl Family for Callbacks {
    type Fact = LackingCallback;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<LackingCallback>) {
        let board = page.page.context().plan.board;
        for library in page.page.libraries() {
            for (script, source) in board.libraries[library].scripts.iter().enumerate() {
                let Address::Remote(url) = &source.value else { continue };
                for name in callbacks_of(url) {
                    let is_element = page.page.document().has_window_name(name);
                    let lacking = lacking(page.page.steps(), url, name).filter(|_| !is_element);
                    let name = name.to_owned();
                    facts.extend(lacking.map(|near| LackingCallback { library, script, name, near }));
                }
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<LackingCallback>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(|fact| LackingCallback { near: None, ..fact.clone() }) {
            let LackingCallback { library, script, name, near } = shared.first;
            let library = &input.plan().board.libraries[*library];
            let message = format!(
                "the address of `{}` names `{name}` to be called back, and nothing on the page defines that",
                *library.name
            );
            let help = match near {
                Some(near) => format!("did you mean `{near}`?"),
                None => {
                    format!(
                        "define it in a pin that needs the library, in an earlier slot: `function {name}() {{ … }}`"
                    )
                }
            };
            // Who writes the library may define it there all the same.
            let severity = if near.is_some() { Severity::Warning } else { Severity::Error };
            let place = input.on_board(library.scripts[*script].span);
            findings.push(
                Finding::new(Code::MissingLibrary, place, message)
                    .severity(severity)
                    .help(help)
                    .pages(input.paths(shared.pages)),
            );
        }
    }
}

/// Whether no step of a page can define a name, with one of nearly that spelling that one does. What the library
/// defines itself it does not call back.
fn lacking(steps: &[PageStep], url: &str, name: &str) -> Option<Option<String>> {
    let others = || steps.iter().filter(|step| step.address() != Some(url));
    let facts = || others().flat_map(PageStep::all_facts);
    let defined = || facts().flat_map(|facts| &facts.defines).map(|own| own.name.as_str());
    let kept = || facts().flat_map(|facts| &facts.keeps).map(|(name, _)| name.as_str());
    if defined().chain(kept()).any(|own| own == name) {
        return None;
    }
    let near = nearest(name, defined().chain(kept())).map(str::to_owned);
    // What cannot be looked into may define it; a name that is nearly the same is no chance.
    (near.is_some() || !others().any(PageStep::may_define_anything)).then_some(near)
}
