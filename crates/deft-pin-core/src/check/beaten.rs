//! Findings about declarations of pins that do nothing, and about pins that fight each other.

use std::collections::BTreeMap;

use serde::Serialize;

use super::code::Code;
use super::declarations::{DeclarationResult, PinDeclaration, Winner};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, Place, counted};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PageId;
use crate::style::Step;

pub(super) struct Beaten;

/// What a declaration of a pin comes to on a page.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct DeclarationFact {
    declaration: PinDeclaration,
    result: DeclarationResult,
}

/// What a declaration comes to over all pages.
#[derive(Default)]
struct Sum<'f> {
    wins: usize,
    loses: usize,
    needs_importance: bool,
    changes: bool,
    /// What it loses to, each with the pages on which it does.
    winners: Vec<(&'f Winner, Vec<PageId>)>,
}

impl Family for Beaten {
    type Fact = DeclarationFact;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<DeclarationFact>) {
        let results = page.declarations().results.iter();
        facts.extend(results.map(|(declaration, result)| DeclarationFact {
            declaration: *declaration,
            result: result.clone(),
        }));
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<DeclarationFact>, findings: &mut Vec<Finding>) {
        let mut sums: BTreeMap<PinDeclaration, Sum<'_>> = BTreeMap::new();
        for (page, fact) in facts.by_page() {
            sums.entry(fact.declaration).or_default().add(page, &fact.result);
        }
        for (declaration, sum) in sums {
            let Some(place) = input.in_sheet(declaration.pin, declaration.span) else { continue };
            let text = input.sheet_text(declaration.pin, declaration.span);
            let name = input.pin_name(declaration.pin);
            findings.extend(sum.findings(input, text, &place).into_iter().map(|finding| finding.pin(name)));
        }
    }
}

impl<'f> Sum<'f> {
    fn add(&mut self, page: PageId, result: &'f DeclarationResult) {
        self.wins += result.wins as usize;
        self.loses += result.loses as usize;
        self.needs_importance |= result.needs_importance;
        self.changes |= result.changes;
        let Some(winner) = &result.winner else { return };
        match self.winners.iter_mut().find(|(known, _)| known.place == winner.place) {
            Some((_, pages)) => pages.push(page),
            None => self.winners.push((winner, vec![page])),
        }
    }

    fn findings(&self, input: &CheckInput<'_>, text: &str, place: &Place) -> Vec<Finding> {
        let mut findings = Vec::new();
        let is_important = text.trim_end().to_ascii_lowercase().ends_with("important");
        // A clash between pins is told as that, once for each of the other pins.
        let (pins, others): (Vec<_>, Vec<_>) =
            self.winners.iter().partition(|(winner, _)| winner.pin.is_some());
        for (winner, pages) in &pins {
            let clash = clash(input, winner, text, place.clone());
            findings.push(clash.pages(input.paths(pages.iter().copied())));
        }
        if let Some((winner, _)) = others.first() {
            let mut pages: Vec<PageId> = others.iter().flat_map(|(_, pages)| pages.iter().copied()).collect();
            pages.sort_unstable();
            pages.dedup();
            findings.push(self.beaten(winner, text, place.clone()).pages(input.paths(pages)));
        }
        let wins_everywhere = self.wins > 0 && self.loses == 0;
        if wins_everywhere && is_important && !self.needs_importance {
            let message = format!("`{text}` wins without its `!important` everywhere that it is for");
            let finding = Finding::new(Code::NeedlessImportant, place.clone(), message);
            findings.push(finding.help("take it out, so that what comes later can still win"));
        }
        if wins_everywhere && !self.changes {
            let message =
                format!("`{text}` changes nothing: what it is for has that already, wherever it wins");
            findings.push(Finding::new(Code::NoChange, place.clone(), message).help("take it out"));
        }
        findings
    }

    fn beaten(&self, winner: &Winner, text: &str, place: Place) -> Finding {
        let lost = counted(self.loses, "element", "elements");
        let (what, how) = (named(winner), by(winner));
        let (code, message) = match (self.wins, self.loses) {
            (0, 1) => (
                Code::Beaten,
                format!(
                    "`{text}` does not win on the one element that it is for, so it does nothing: {what} beats it {how}"
                ),
            ),
            (0, _) => (
                Code::Beaten,
                format!(
                    "`{text}` wins on none of the {lost} that it is for, so it does nothing: {what} beats it {how}"
                ),
            ),
            (wins, loses) => (
                Code::PartlyBeaten,
                format!("`{text}` loses on {lost} of {}: there {what} beats it {how}", wins + loses),
            ),
        };
        Finding::new(code, place, message).help(turn(winner)).related("this wins", winner.place.clone())
    }
}

fn specificity([a, b, c]: [u32; 3]) -> String {
    format!("({a},{b},{c})")
}

fn by(winner: &Winner) -> String {
    match winner.step {
        Step::Specificity => {
            format!("by specificity, {} over {}", specificity(winner.specificity), specificity(winner.over))
        }
        Step::Order => "by order: it comes later".to_owned(),
        Step::Importance => "by its `!important`".to_owned(),
        Step::Context => "as the page does over its shadow trees".to_owned(),
        Step::Inline => "as a style attribute does".to_owned(),
        Step::Layer => "by layer".to_owned(),
        Step::Scope => "by scope: its root is nearer".to_owned(),
        Step::Alone | Step::Origin => String::new(),
    }
}

fn named(winner: &Winner) -> String {
    match &winner.selector {
        Some(selector) => format!("`{}` under `{selector}`", winner.text),
        None => format!("`{}` in the style attribute of `{}`", winner.text, winner.element),
    }
}

/// The smallest change that would turn it.
fn turn(winner: &Winner) -> String {
    match winner.step {
        Step::Specificity => format!(
            "a selector of more than {} wins: put an ID or class of something around it in front, or give the pin a `within` with an ID",
            specificity(winner.specificity)
        ),
        Step::Importance => {
            "only `!important` beats `!important`: here too, with a selector that is as specific".to_owned()
        }
        Step::Context => "only without `!important` does the page win over its shadow trees".to_owned(),
        Step::Inline => "only `!important` beats a style attribute".to_owned(),
        Step::Layer => {
            "what stands in no layer wins over what does; among layers the later one wins".to_owned()
        }
        Step::Scope => "name an element that is nearer in `@scope`".to_owned(),
        Step::Order | Step::Alone | Step::Origin => {
            "as specific, and later on the page: one more class in the selector wins".to_owned()
        }
    }
}

fn clash(input: &CheckInput<'_>, winner: &Winner, text: &str, place: Place) -> Finding {
    let other = winner.pin.map_or("", |pin| input.pin_name(pin));
    let only = if winner.step == Step::Order { ": the order alone decides" } else { "" };
    let message = format!(
        "`{text}` and {} of the pin `{other}` are for the same `{}`; that of `{other}` wins {}{only}",
        named(winner),
        winner.element,
        by(winner)
    );
    Finding::new(Code::PinClash, place, message)
        .help("keep one of them, or part their targets")
        .related("this wins", winner.place.clone())
}
