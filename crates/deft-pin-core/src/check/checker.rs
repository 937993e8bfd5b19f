//! The checking of a site: facts of each page, questions to a few, and the findings that follow.

use std::cell::OnceCell;
use std::collections::BTreeSet;

use serde::Serialize;

use super::declarations::PageDeclarations;
use super::explanations::{Explanation, Explanations, Question, Questions, explain};
use super::families::{PageFacts, SiteFacts};
use super::finding::Finding;
use super::input::CheckInput;
use super::name_taken::added_and_styled;
use super::selector_places::{BrittleSelector, brittle_selectors};
use crate::code::{CodeKind, PageId, PinId, Table};
use crate::emit::EmittedPage;
use crate::markup::{NamedPart, Selector, names_in};
use crate::page::{PageAnalysis, SiteContext};
use crate::site::NameSource;
use crate::source::{FilePath, Span};

/// Checks the pages of a site. What is the same for all of them is worked out once.
pub struct Checker<'a> {
    context: &'a SiteContext<'a>,
    /// For each pin the names that its script adds and its sheet has rules for.
    pub(super) added: Table<PinId, Vec<(NamedPart, Span)>>,
    /// For each pin the selectors that lean on something brittle.
    pub(super) brittle: Table<PinId, Vec<BrittleSelector>>,
}

impl<'a> Checker<'a> {
    /// Makes ready to check pages.
    pub fn new(context: &'a SiteContext<'a>) -> Self {
        let plan = context.plan;
        Checker {
            context,
            added: plan.pins.map(|(_, pin)| added_and_styled(pin)),
            brittle: plan.pins.map(|(pin, _)| brittle_selectors(plan, pin)),
        }
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
        let page = emitted.page();
        PageFacts::of(&PageChecker { checker: self, emitted, page, declarations: OnceCell::new() })
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

/// One page as the families ask it.
pub(super) struct PageChecker<'c> {
    pub(super) checker: &'c Checker<'c>,
    pub(super) emitted: &'c EmittedPage<'c>,
    pub(super) page: &'c PageAnalysis<'c>,
    declarations: OnceCell<PageDeclarations>,
}

/// What a selector that matches nothing on a page still waits for.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum Awaited {
    /// Nothing: it cannot come to match.
    Nothing,
    /// Names that the pin's author says scripts add.
    Announced,
    /// A name that a script of the page may bring in.
    Script {
        /// The name, as in a selector.
        name: String,
        /// The script.
        source: NameSource,
    },
}

impl PageChecker<'_> {
    pub(super) fn id(&self) -> PageId {
        self.page.id
    }

    /// The pins whose sheets are put into the page.
    pub(super) fn styled_pins(&self) -> impl Iterator<Item = PinId> {
        let styles = self.page.placements().iter().filter(|placement| placement.code.kind == CodeKind::Style);
        styles.filter_map(|placement| placement.code.owner.pin())
    }

    /// What the declarations of pins come to on the page.
    pub(super) fn declarations(&self) -> &PageDeclarations {
        self.declarations.get_or_init(|| PageDeclarations::of(self.page))
    }

    /// What selectors of a pin that match nothing on the page wait for. One of them comes to match
    /// only if all of its names come.
    pub(super) fn awaited(&self, pin: PinId, selectors: &[Selector]) -> Awaited {
        let adds = &self.page.context().plan.board.pins[pin].adds;
        for selector in selectors {
            let mut first = None;
            for name in names_in(selector).iter().filter(|name| !self.page.names().has(name)) {
                let awaited = match adds.iter().any(|added| added == name.name()) {
                    true => Awaited::Announced,
                    false => match self.page.name_source(name.name()) {
                        Some(source) => Awaited::Script { name: name.to_string(), source },
                        None => Awaited::Nothing,
                    },
                };
                if awaited == Awaited::Nothing {
                    first = None;
                    break;
                }
                first = first.or(Some(awaited));
            }
            if let Some(awaited) = first {
                return awaited;
            }
        }
        Awaited::Nothing
    }
}
