//! Findings about needs that the board does not say.

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{CodeKind, Owner};
use crate::plan::{CodeKey, InferredNeed};

pub(super) struct Needs;

impl Family for Needs {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        let needs = &input.plan().needs;
        findings.extend(needs.circular.iter().filter_map(|need| of_circle(input, need)));
        findings.extend(needs.inferred.iter().filter_map(|need| inferred(input, need)));
    }
}

/// Where the script reads what it needs.
fn place_of(input: &CheckInput<'_>, need: &InferredNeed) -> Option<Place> {
    let key = CodeKey { owner: need.owner, kind: CodeKind::Script, number: need.script };
    let file = input.plan().code(key)?.file()?;
    Some(Place::new(&file.path, &file.text, need.span))
}

fn inferred(input: &CheckInput<'_>, need: &InferredNeed) -> Option<Finding> {
    let library = input.plan().name_of(Owner::Library(need.library));
    let message = format!(
        "this reads `{}`, which the library `{library}` defines: it comes first on every page that has not got it by itself",
        need.global
    );
    let finding = Finding::new(Code::InferredNeed, place_of(input, need)?, message);
    let name = input.plan().name_of(need.owner);
    Some(match need.owner {
        Owner::Pin(_) => finding
            .help(format!("say so on the board: `needs = [\"{library}\"]` under `[pin.{name}]`"))
            .pin(name),
        Owner::Library(_) => finding.help(format!(
            "say so on the board: `needs = [\"{library}\"]` under `[library.{name}]`, or `needs = []` if that is wrong"
        )),
    })
}

fn of_circle(input: &CheckInput<'_>, need: &InferredNeed) -> Option<Finding> {
    let library = input.plan().name_of(Owner::Library(need.library));
    let own = input.plan().name_of(need.owner);
    let way = match need.owner {
        Owner::Library(owner) => input.plan().needs.way(need.library, owner),
        Owner::Pin(_) => Vec::new(),
    };
    let way: Vec<String> =
        way.iter().skip(1).map(|id| format!("`{}`", input.plan().name_of(Owner::Library(*id)))).collect();
    let message = format!(
        "this reads `{}`, which the library `{library}` defines, and that comes after this one since it needs {}: a circle, and no order gives each what it needs",
        need.global,
        way.join(", which needs ")
    );
    let finding = Finding::new(Code::NeedsCycle, place_of(input, need)?, message);
    Some(finding.help(format!(
        "if `{own}` works without it, say so: `needs = []` under `[library.{own}]`; else look for a file that has both"
    )))
}
