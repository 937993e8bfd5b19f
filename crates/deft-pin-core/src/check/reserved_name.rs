//! Findings about names that a pin brings in and that the host's own code uses.

use std::collections::BTreeSet;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::has_parts;
use crate::code::PinId;
use crate::markup::NamedPart;
use crate::source::Span;

pub(super) struct ReservedNames;

impl Family for ReservedNames {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        let reserved = &input.plan().board.host.reserved;
        if reserved.is_empty() {
            return;
        }
        for (pin, _) in input.plan().board.active_pins() {
            let mut told = BTreeSet::new();
            for (name, what, place) in names_of(input, pin) {
                let by = reserved.iter().find(|pattern| is_like(&name, pattern));
                let Some(by) = by.filter(|_| told.insert(name.clone())) else { continue };
                let message =
                    format!("the {what} `{name}` is one that the host's own code uses (`{}`)", **by);
                findings.push(
                    Finding::new(Code::ReservedName, place, message)
                        .help("give it a name of your own")
                        .related("the board says so here", input.on_board(by.span))
                        .pin(input.pin_name(pin)),
                );
            }
        }
    }
}

/// The classes, IDs and globals that a pin brings in, each with its place.
fn names_of(input: &CheckInput<'_>, pin: PinId) -> Vec<(String, &'static str, Place)> {
    let own = &input.plan().board.pins[pin];
    let planned = &input.plan().pins[pin];
    let mut names = Vec::new();
    for mark in &own.marks {
        names.extend(mark.id.iter().map(|id| (id.value.clone(), "ID", input.on_board(id.span))));
        let classes = mark.classes.iter();
        names.extend(classes.map(|class| (class.value.clone(), "class", input.on_board(class.span))));
    }
    for markup in &planned.markup {
        let text = markup.text.text.as_str();
        for part in &markup.names {
            let what = match part {
                NamedPart::Id(_) => "ID",
                NamedPart::Class(_) => "class",
                NamedPart::Tag(_) => continue,
            };
            let Some(at) = text.find(part.name()) else { continue };
            let span = Span::new(at, at + part.name().len());
            let place = Place::new(&markup.text.path, &markup.text.text, span);
            names.push((part.name().to_owned(), what, place));
        }
    }
    if let (Some(script), Some(facts)) = (&planned.script, planned.script_facts()) {
        let place = |span| Place::new(&script.path, &script.text, span);
        for added in &facts.adds {
            let what = if added.is_id { "ID" } else { "class" };
            names.push((added.name.clone(), what, place(added.span)));
        }
        let frame = script.script.as_ref().and_then(|script| script.frame.as_ref());
        for name in frame.into_iter().flat_map(|frame| &frame.share) {
            let kept = facts.keeps.iter().find(|(own, _)| own == name);
            let at = kept.map_or_else(|| input.on_board(own.name.span), |(_, span)| place(*span));
            names.push((name.clone(), "global", at));
        }
        for defined in &facts.defines {
            names.push((defined.name.clone(), "global", place(defined.span)));
        }
    }
    names
}

/// Whether a name is like a pattern, in which `*` stands for any text.
fn is_like(name: &str, pattern: &str) -> bool {
    let pattern = pattern.trim_start_matches(['.', '#']).trim_start_matches("window.");
    let parts: Vec<String> = pattern.split('*').map(str::to_owned).collect();
    has_parts(name, &parts)
}

#[cfg(test)]
mod tests {
    use super::is_like;

    #[test]
    fn patterns_stand_for_names() {
        let table = [
            ("ferry-nav", "ferry-*", true),
            ("ferry-nav", ".ferry-*", true),
            ("nav", "ferry-*", false),
            ("nav", "nav", true),
            ("navy", "nav", false),
            ("x-nav-y", "*-nav-*", true),
            ("Ferry", "window.Ferry", true),
            ("ab", "a*b*", true),
            ("aa", "a*a*a", false),
        ];
        for (name, pattern, expected) in table {
            assert_eq!(is_like(name, pattern), expected, "{name} {pattern}");
        }
    }
}
