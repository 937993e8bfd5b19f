//! Notes about literals that stand in several files of one pin and are plainly the same thing: they would be one value.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::LazyLock;

use regex::Regex;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PinId;
use crate::markup::{NamedPart, names_in, parse_selectors};
use crate::plan::{FileText, PlannedPin};
use crate::source::Span;

pub(super) struct SameNumbers;

/// A colour by its digits, or a number of three digits and more with its unit: smaller ones are the same by chance.
static LITERAL: LazyLock<Regex> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "the pattern is our own, and a test reads it")]
    Regex::new(r"#(?:[0-9a-fA-F]{8}|[0-9a-fA-F]{6}|[0-9a-fA-F]{3,4})\b|\b\d{3,}(?:\.\d+)?(?:px|ms|s)\b")
        .expect("a pattern of our own")
});

/// Colours that everybody has.
const COMMON: &[&str] =
    &["#000", "#fff", "#000000", "#ffffff", "#ccc", "#eee", "#333", "#666", "#999", "#ddd", "#aaa"];

impl Family for SameNumbers {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        for (pin, planned) in input.plan().pins.entries() {
            findings.extend(of_pin(input, pin, planned));
            findings.extend(names_of_pin(input, pin, planned));
        }
    }
}

/// One finding for each literal that stands in more than one kind of file of a pin.
fn of_pin(input: &CheckInput<'_>, pin: PinId, planned: &PlannedPin) -> Vec<Finding> {
    let mut files: Vec<&FileText> = planned.style.iter().map(|style| &style.file).collect();
    files.extend(planned.script.iter().filter(|file| !file.text.as_str().is_empty()));
    files.extend(planned.markup.iter().map(|markup| &markup.text));
    // A library that somebody pasted has numbers without end.
    const LONGEST: usize = 50_000;
    files.retain(|file| file.text.as_str().len() <= LONGEST);
    if files.len() < 2 {
        return Vec::new();
    }
    let mut places: BTreeMap<String, Vec<(usize, Span)>> = BTreeMap::new();
    for (number, file) in files.iter().enumerate() {
        for hit in LITERAL.find_iter(file.text.as_str()) {
            let span = Span::new(hit.start(), hit.end());
            // What a value put in is said once.
            if file
                .text
                .file(span.start)
                .is_some_and(|from| *from == input.plan().board.file && *from != file.path)
            {
                continue;
            }
            places.entry(hit.as_str().to_ascii_lowercase()).or_default().push((number, span));
        }
    }
    let mut found = Vec::new();
    for (literal, places) in places {
        let of: BTreeSet<usize> = places.iter().map(|(number, _)| *number).collect();
        if of.len() < 2 || COMMON.contains(&literal.as_str()) {
            continue;
        }
        let place =
            |(number, span): (usize, Span)| Place::new(&files[number].path, &files[number].text, span);
        let first = places[0];
        let message =
            format!("`{literal}` stands in {} files of the pin, {} times in all", of.len(), places.len());
        let help = format!(
            "say it once, and write `{{{{NAME}}}}` in its stead: under `[pin.{}.values]`, `NAME = \"{literal}\"`",
            input.pin_name(pin)
        );
        let mut finding =
            Finding::new(Code::SameNumber, place(first), message).help(help).pin(input.pin_name(pin));
        let others = of
            .iter()
            .filter(|number| **number != first.0)
            .filter_map(|number| places.iter().find(|own| own.0 == *number));
        for other in others {
            finding = finding.related("and here", place(*other));
        }
        found.push(finding);
    }
    found
}

/// IDs and classes that a pin's markup, its sheet and its script all have.
fn names_of_pin(input: &CheckInput<'_>, pin: PinId, planned: &PlannedPin) -> Vec<Finding> {
    let (Some(style), Some(facts)) = (&planned.style, planned.script_facts()) else { return Vec::new() };
    let styled: BTreeSet<NamedPart> = style.selectors().flat_map(|own| names_in(&own.written)).collect();
    let lists = facts.looks_up.iter().filter_map(|own| parse_selectors(&own.selector).ok());
    let looked_up: BTreeSet<NamedPart> =
        lists.flat_map(|list| list.slice().iter().flat_map(names_in).collect::<Vec<_>>()).collect();
    let is_same = |name: &&NamedPart| {
        // What the script adds has its own finding where the names differ.
        let is_added = || facts.adds.iter().any(|added| added.name == name.name());
        !matches!(name, NamedPart::Tag(_))
            && styled.contains(*name)
            && looked_up.contains(*name)
            && !is_added()
    };
    let mut found = Vec::new();
    for markup in &planned.markup {
        for name in markup.names.iter().filter(is_same).take(20) {
            let (kind, noun) = match name {
                NamedPart::Id(_) => ("id", "ID"),
                _ => ("class", "class"),
            };
            let name = name.name();
            let Some(at) = markup.text.text.as_str().find(name) else { continue };
            let span = Span::new(at, at + name.len());
            let is_value =
                markup.text.text.file(span.start).is_some_and(|from| *from == input.plan().board.file);
            if is_value && markup.text.path != input.plan().board.file {
                continue;
            }
            let message =
                format!("the {noun} `{name}` stands in the markup, the sheet and the script of the pin");
            let help = format!(
                "say it once, and write `{{{{NAME}}}}` in its stead: under `[pin.{}.values]`, `NAME = {{ type = \"{kind}\", value = \"{name}\" }}`",
                input.pin_name(pin)
            );
            let place = Place::new(&markup.text.path, &markup.text.text, span);
            found.push(Finding::new(Code::SameNumber, place, message).help(help).pin(input.pin_name(pin)));
        }
    }
    found
}
