//! Names of a pin's script that the page gets without being asked to on the board.

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;

pub(super) struct InferredShares;

impl Family for InferredShares {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        for (pin, planned) in input.plan().pins.entries() {
            let Some(file) = &planned.script else { continue };
            let Some(frame) = file.script.as_ref().and_then(|script| script.frame.as_ref()) else { continue };
            let Some(first) = frame.asked.first() else { continue };
            let names: Vec<String> = frame.asked.iter().map(|own| format!("`{}`", own.name)).collect();
            let message = format!(
                "code in a text, in an attribute, in an address or in another pin asks the page for {}, and so the page gets {} from this script",
                names.join(", "),
                if names.len() == 1 { "it" } else { "them" }
            );
            let share: Vec<String> = frame.asked.iter().map(|own| format!("\"{}\"", own.name)).collect();
            let place = Place::new(&file.path, &file.text, first.span);
            let help =
                format!("say so on the board, and this is not told again: `share = [{}]`", share.join(", "));
            findings
                .push(Finding::new(Code::InferredShare, place, message).pin(input.pin_name(pin)).help(help));
        }
    }
}
