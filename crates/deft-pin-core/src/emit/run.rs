//! One page, from its bytes to what it says and what becomes of it: one pure call, so that pages
//! can be worked on in any order and on any thread.

use super::assets::Assets;
use super::page::{Manner, Refused, customise};
use super::policy::stopped;
use crate::check::{PageFacts, Witness};
use crate::markup::parse;
use crate::plan::Plan;
use crate::site::{Site, policies};
use crate::source::Files;

/// A run over a site's pages.
pub struct Run<'a> {
    plan: &'a Plan<'a>,
    site: &'a Site,
    assets: &'a Assets,
    manner: Manner,
    witness: Witness<'a>,
}

/// What became of a page.
#[derive(Debug)]
pub struct PageOutcome {
    /// What the page says about the pins that are for it.
    pub facts: PageFacts,
    /// The page with its placements; `None` where nothing is put into it.
    pub bytes: Option<Vec<u8>>,
    /// Execution many elements were put in.
    pub placements: usize,
}

impl<'a> Run<'a> {
    /// Makes ready to work on the pages of a site.
    pub fn new(
        plan: &'a Plan<'a>,
        site: &'a Site,
        files: &'a dyn Files,
        assets: &'a Assets,
        manner: Manner,
    ) -> Self {
        Run { plan, site, assets, manner, witness: Witness::new(plan, site, files) }
    }

    /// The pins that are for a page, as far as its path tells. A page that has none need not be
    /// read.
    pub fn pins_for(&self, page: usize) -> Vec<usize> {
        self.plan.pins_for(&self.site.pages[page].path)
    }

    /// Works on one page, which these pins are for.
    pub fn page(&self, page: usize, bytes: &[u8], pins: &[usize]) -> PageOutcome {
        let (decoded, document) = parse(bytes);
        let mut facts = self.witness.look(page, decoded.text(), &document, pins);
        let held: Vec<usize> =
            facts.pins.iter().filter(|facts| facts.having).map(|facts| facts.pin as usize).collect();
        let placements = self.plan.placements(&held, &facts.copies);
        // They are of use for this page alone.
        facts.copies.globals = Vec::new();
        if placements.is_empty() {
            return PageOutcome { facts, bytes: None, placements: 0 };
        }
        let place = &self.site.pages[page];
        let served = self.plan.board.policy.as_ref().map(|policy| policy.as_str());
        let manner = (self.plan, self.assets, self.manner);
        let policies = policies(&document, served);
        facts.stopped = stopped(manner, place, (&decoded, &document), &placements, &policies);
        match customise(self.plan, self.assets, self.manner, place, bytes, (&decoded, &document), &placements)
        {
            Ok(bytes) => PageOutcome { facts, bytes: Some(bytes), placements: placements.len() },
            Err(Refused(slots)) => {
                facts.lacking = slots;
                PageOutcome { facts, bytes: None, placements: 0 }
            }
        }
    }
}
