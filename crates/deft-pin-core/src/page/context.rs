//! What all pages of a site share: the plan, and what is made ready of it and of the site once.

use std::sync::Arc;

use super::pin_matches::PinSelectors;
use crate::plan::{Layout, Plan, ReadySheets};
use crate::site::{Shelf, Site};
use crate::source::{Day, Files};

/// A plan and a site, ready for pages to be looked at.
pub struct SiteContext<'a> {
    /// The plan.
    pub plan: &'a Plan<'a>,
    /// Which boxes of the host its code goes into.
    pub layout: Arc<Layout>,
    /// The site's own sheets and scripts.
    pub shelf: Shelf<'a>,
    /// The sheets of the plan.
    pub sheets: Arc<ReadySheets>,
    /// The selectors of the pins.
    pub selectors: Arc<PinSelectors>,
    /// The day that dates are held against; none where they are not.
    pub today: Option<Day>,
}

impl<'a> SiteContext<'a> {
    /// Makes a plan ready for the pages of a site.
    pub fn new(plan: &'a Plan<'a>, site: &'a Site, files: &'a dyn Files) -> Self {
        SiteContext {
            plan,
            layout: Arc::new(Layout::new(plan, &site.pages)),
            shelf: Shelf::new(site, files),
            sheets: Arc::new(ReadySheets::new(plan)),
            selectors: Arc::new(PinSelectors::new(plan)),
            today: None,
        }
    }

    /// The same on a day.
    pub fn on(self, today: Day) -> Self {
        SiteContext { today: Some(today), ..self }
    }

    /// The same plan for another site: for a page that is not among those of this one.
    pub fn beside<'b>(&self, site: &'b Site, files: &'b dyn Files) -> SiteContext<'b>
    where
        'a: 'b,
    {
        SiteContext {
            plan: self.plan,
            layout: Arc::clone(&self.layout),
            shelf: Shelf::new(site, files),
            sheets: Arc::clone(&self.sheets),
            selectors: Arc::clone(&self.selectors),
            today: self.today,
        }
    }

    /// The site.
    pub fn site(&self) -> &'a Site {
        self.shelf.site()
    }
}
