//! Findings about personal data that scripts hand to what measures visits.

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;

pub(super) struct PersonalData;

impl Family for PersonalData {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        let trackers = &input.plan().board.trackers;
        for (id, pin) in input.plan().pins.entries() {
            let Some((file, facts)) = pin.script.as_ref().zip(pin.script_facts()) else { continue };
            for given in &facts.gives {
                let is_it = |tracker: &&str| {
                    let rest = given.to.strip_prefix(*tracker);
                    rest.is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
                };
                let Some(tracker) = trackers.iter().map(|own| own.as_str()).find(is_it) else { continue };
                let message = format!(
                    "`{}` says that this is about a person, and `{tracker}` passes it on to whoever measures visits",
                    given.says
                );
                let place = Place::new(&file.path, &file.text, given.span);
                findings.push(
                    Finding::new(Code::PersonalData, place, message)
                        .help("leave it out, or pass on only whether it is there: `hasEmail: !!email`")
                        .pin(input.pin_name(id)),
                );
            }
        }
    }
}
