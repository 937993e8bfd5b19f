//! Findings about what a template left to be filled in: a key, an address, an ID, a text.

use std::collections::BTreeSet;

use serde::Serialize;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::Family;
use super::file_leftovers::{PinFile, leftovers_of};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PinId;

pub(super) struct Leftovers;

/// A text of a pin that looks left over, and that an element of a page has in an attribute: it is a name there.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct NameThere {
    pin: PinId,
    name: String,
}

impl Family for Leftovers {
    type Fact = NameThere;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<NameThere>) {
        for pin in page.page.pins() {
            let names =
                page.pins.leftovers[*pin].iter().filter(|own| !matches!(own.file, PinFile::Markup(_)));
            let mut names: BTreeSet<&str> = names.map(|own| own.name.as_str()).collect();
            if names.is_empty() {
                continue;
            }
            for element in page.page.document().elements() {
                for attribute in &element.attrs {
                    names.retain(|name| {
                        let is_there = attribute.value.contains(*name);
                        if is_there {
                            facts.push(NameThere { pin: *pin, name: (*name).to_owned() });
                        }
                        !is_there
                    });
                }
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<NameThere>, findings: &mut Vec<Finding>) {
        let there: BTreeSet<(PinId, &str)> =
            facts.iter().map(|(fact, _)| (fact.pin, fact.name.as_str())).collect();
        for (pin, planned) in input.plan().pins.entries() {
            for own in leftovers_of(planned) {
                let is_there =
                    !matches!(own.file, PinFile::Markup(_)) && there.contains(&(pin, own.name.as_str()));
                let Some(file) = own.file.text(planned).filter(|_| !is_there) else { continue };
                let message = format!("`{}` looks as if it was left to be filled in", own.name);
                let finding =
                    Finding::new(Code::Unfilled, Place::new(&file.path, &file.text, own.span), message);
                findings.push(finding.severity(Severity::Warning).help(own.help).pin(input.pin_name(pin)));
            }
        }
    }
}
