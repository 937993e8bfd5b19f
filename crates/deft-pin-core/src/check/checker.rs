//! The checking of a site: facts of each page, questions to a few, and the findings that follow.

use std::collections::BTreeSet;

use super::explanations::{Explanation, Explanations, Question, Questions, explain};
use super::families::{PageFacts, SiteFacts};
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::{PageChecker, PinFacts};
use crate::code::PageId;
use crate::emit::EmittedPage;
use crate::page::{PageAnalysis, SiteContext};
use crate::source::FilePath;

/// Checks the pages of a site. What is the same for all of them is worked out once.
pub struct Checker<'a> {
    context: &'a SiteContext<'a>,
    pins: PinFacts,
}

impl<'a> Checker<'a> {
    /// Makes ready to check pages.
    pub fn new(context: &'a SiteContext<'a>) -> Self {
        Checker { context, pins: PinFacts::of(context.plan) }
    }

    /// Whether a page has to be looked at: a pin is for it, or pages have to be told apart on the
    /// host. Nothing is said of other pages.
    pub fn is_for(&self, page: PageId) -> bool {
        let plan = self.context.plan;
        let path = &self.context.site().pages[page].path;
        plan.board.host.tells_pages_apart() || !plan.pins_for(path).is_empty()
    }

    /// What a page says.
    pub fn facts(&self, emitted: &EmittedPage<'_>) -> PageFacts {
        PageFacts::of(&PageChecker::new(&self.pins, emitted))
    }

    /// What has to be asked of a few pages, once all have said what they do.
    pub fn questions(&self, board_file: &FilePath, facts: &SiteFacts) -> Questions {
        let explanations = Explanations::default();
        facts.questions(&CheckInput { board_file, context: self.context, explanations: &explanations })
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
    pub fn findings(
        &self,
        board_file: &FilePath,
        facts: &SiteFacts,
        explanations: &Explanations,
    ) -> Vec<Finding> {
        let mut findings = facts.findings(&CheckInput { board_file, context: self.context, explanations });
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
