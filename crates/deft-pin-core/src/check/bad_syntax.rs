//! Findings about scripts: what keeps them from running, or from being read.

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::script::mend;
use crate::source::Span;

pub(super) struct BadSyntax;

impl Family for BadSyntax {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        for (pin, planned) in input.plan().pins.entries() {
            let Some((file, facts)) = planned.script.as_ref().zip(planned.script_facts()) else { continue };
            // A script that does not parse has one cause, and what follows from it is noise.
            let Some(flaw) = facts.flaws.first() else { continue };
            let text = file.text.as_str().trim_end();
            let last = text.len() - text.chars().next_back().map_or(0, char::len_utf8);
            // What is missing at the end of the file is missing after its last character.
            let span = flaw.span.map_or(Span::at(0), |span| {
                if span.start as usize >= text.len() { Span::new(last, text.len()) } else { span }
            });
            let mend = mend(file.text.as_str(), flaw);
            let place = Place::new(&file.path, &file.text, mend.span.unwrap_or(span));
            let flawed = mend.message.unwrap_or_else(|| lower_first(&flaw.message));
            if flaw.is_too_much {
                let message = format!("this script cannot be confined, and so it is left out: {flawed}");
                let finding = Finding::new(Code::Unread, place, message).pin(input.pin_name(pin));
                findings.push(finding.help("scripts made by a program, with thousands of links in one chain, can be parted into several statements"));
                continue;
            }
            let message = format!("a browser cannot read this script and runs none of it: {flawed}");
            let mut finding = Finding::new(Code::BadSyntax, place, message).pin(input.pin_name(pin));
            if let Some(help) = mend.help {
                finding = finding.help(help);
            } else if flaw.message.contains("await") {
                finding = finding.help("put it into a function: `(async () => { … })()`");
            } else if flaw.message.contains("import") || flaw.message.contains("export") {
                finding = finding.help("a pin's script is a classic script: `import` and `export` belong to modules; `import()` works in both");
            }
            findings.push(finding);
        }
    }
}

fn lower_first(message: &str) -> String {
    let mut characters = message.chars();
    let first = characters.next().map(|c| c.to_ascii_lowercase());
    first.into_iter().chain(characters).collect::<String>().trim_end_matches('.').to_owned()
}
