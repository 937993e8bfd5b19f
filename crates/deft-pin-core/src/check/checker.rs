//! The checking of a site: facts of each page, questions to a few, and the findings that follow.

use std::collections::BTreeSet;

use super::answered::unanswered;
use super::code::Code;
use super::explanations::{Explanation, Explanations, Question, Questions, explain};
use super::families::{PageFacts, SiteFacts};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::{PageChecker, PinFacts};
use crate::code::{Address, LibraryId, PageId, PinId};
use crate::emit::{EmittedPage, PasteUp};
use crate::page::{PageAnalysis, SiteContext};
use crate::source::{FilePath, Span};

/// Whether a place is in a file of a library, or where the board names one of its files or needs.
fn is_about(input: &CheckInput<'_>, library: LibraryId, place: &Place) -> bool {
    let library = &input.plan().board.libraries[library];
    let mut sources = library.styles.iter().chain(&library.scripts);
    let mut needs = library.needs.iter();
    let is_on_board = |span: Span| place.file == *input.board_file && place.span == span;
    needs.any(|need| is_on_board(need.span))
        || sources.any(|source| {
            is_on_board(source.span) || matches!(&source.value, Address::Local(file) if *file == place.file)
        })
}

/// What is known of the whole site beside the facts of its pages.
#[derive(Clone, Copy)]
pub struct Told<'t> {
    /// Why things do not match, where that was asked.
    pub explanations: &'t Explanations,
    /// What goes into the boxes of the host; none where there are none.
    pub paste_up: Option<&'t PasteUp>,
}

/// Checks the pages of a site. What is the same for all of them is worked out once.
pub struct Checker<'a> {
    context: &'a SiteContext<'a>,
    pins: PinFacts,
    /// The pins to speak of; `None` for all.
    chosen: Option<Vec<PinId>>,
    /// Whether rules have to tell pages apart, so that all of them are looked at.
    tells_pages_apart: bool,
}

impl<'a> Checker<'a> {
    /// Makes ready to check pages.
    pub fn new(context: &'a SiteContext<'a>) -> Self {
        let tells_pages_apart = !context.layout.guarded_by_rules().is_empty();
        Checker { context, pins: PinFacts::of(context.plan), chosen: None, tells_pages_apart }
    }

    /// Speaks of some pins alone, and of the libraries that they need.
    pub fn of_pins(self, pins: Vec<PinId>) -> Self {
        Checker { chosen: Some(pins), ..self }
    }

    fn is_chosen(&self, pin: PinId) -> bool {
        self.chosen.as_ref().is_none_or(|chosen| chosen.contains(&pin))
    }

    /// Whether a finding is about a pin to speak of, or about a library that one needs.
    fn is_told(&self, input: &CheckInput<'_>, needed: &[LibraryId], finding: &Finding) -> bool {
        let Some(chosen) = &self.chosen else { return true };
        match &finding.pin {
            Some(name) => chosen.iter().any(|pin| input.pin_name(*pin) == name),
            None => needed.iter().any(|library| is_about(input, *library, &finding.place)),
        }
    }

    /// Whether a page has to be looked at: a pin is for it, or pages have to be told apart on the
    /// host. Nothing is said of other pages.
    pub fn is_for(&self, page: PageId) -> bool {
        let plan = self.context.plan;
        let path = &self.context.site().pages[page].path;
        self.tells_pages_apart && self.chosen.is_none()
            || plan.pins_for(path).iter().any(|pin| self.is_chosen(*pin))
    }

    /// What a page says.
    pub fn facts(&self, emitted: &EmittedPage<'_>) -> PageFacts {
        PageFacts::of(&PageChecker::new(&self.pins, emitted))
    }

    /// What has to be asked of a few pages, once all have said what they do.
    pub fn questions(&self, board_file: &FilePath, facts: &SiteFacts) -> Questions {
        let explanations = Explanations::default();
        let input =
            CheckInput { board_file, context: self.context, explanations: &explanations, paste_up: None };
        facts.questions(&input)
    }

    /// What a page answers to some questions.
    pub fn answers(
        &self,
        page: &PageAnalysis<'_>,
        questions: &BTreeSet<Question>,
    ) -> Vec<(Question, Explanation)> {
        questions.iter().filter_map(|question| Some((*question, explain(page, *question)?))).collect()
    }

    /// Every finding, ordered by file and place. The same thing on many pages is one finding.
    pub fn findings(&self, board_file: &FilePath, facts: &SiteFacts, told: Told<'_>) -> Vec<Finding> {
        let Told { explanations, paste_up } = told;
        let input = CheckInput { board_file, context: self.context, explanations, paste_up };
        let mut findings = facts.findings(&input);
        let needed = self.context.plan.libraries_for(self.chosen.as_deref().unwrap_or_default());
        findings.retain(|finding| self.is_told(&input, &needed, finding));
        drop_consequences(&mut findings);
        let mut findings = unanswered(&input, findings, |pin| self.is_chosen(pin), self.chosen.is_none());
        findings.sort_by(|a, b| {
            let key = |finding: &Finding| {
                (finding.place.file != *board_file, finding.place.file.clone(), finding.place.span)
            };
            key(a).cmp(&key(b)).then(a.code.cmp(&b.code)).then_with(|| a.message.cmp(&b.message))
        });
        // Two pins that share a file share what is wrong with it.
        findings.dedup_by(|b, a| (a.code, &a.place, &a.message) == (b.code, &b.place, &b.message));
        findings
    }
}

/// Takes away what follows from a value that is wrong or missing: that is told by itself.
fn drop_consequences(findings: &mut Vec<Finding>) {
    let is_cause = |finding: &&Finding| matches!(finding.code, Code::BadValue | Code::Unfilled);
    let causes: Vec<Place> = findings.iter().filter(is_cause).map(|finding| finding.place.clone()).collect();
    if causes.is_empty() {
        return;
    }
    let covers = |outer: &Place, inner: &Place| {
        outer.file == inner.file && outer.span.start <= inner.span.start && inner.span.start < outer.span.end
    };
    findings.retain(|finding| {
        let follows = causes.iter().any(|cause| {
            let is_beside = finding.place.file == cause.file && finding.place.start.line == cause.start.line;
            is_beside
                || covers(&finding.place, cause)
                || finding.place.parts.iter().any(|part| covers(cause, part))
        });
        !(follows && matches!(finding.code, Code::DroppedDeclaration | Code::BadSelector | Code::BadSyntax))
    });
}
