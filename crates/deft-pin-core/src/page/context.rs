//! What all pages of a site share: the plan, and what is made ready of it and of the site once.

use super::pin_matches::PinSelectors;
use crate::plan::{Layout, Plan, ReadySheets};
use crate::site::{Shelf, Site};
use crate::source::{Day, Files};

/// A plan and a site, ready for pages to be looked at.
pub struct SiteContext<'a> {
    /// The plan.
    pub plan: &'a Plan<'a>,
    /// Which boxes of the host its code goes into.
    pub layout: Layout,
    /// The site's own sheets and scripts.
    pub shelf: Shelf<'a>,
    /// The sheets of the plan.
    pub sheets: ReadySheets,
    /// The selectors of the pins.
    pub selectors: PinSelectors,
    /// The day that dates are held against; none where they are not.
    pub today: Option<Day>,
}

impl<'a> SiteContext<'a> {
    /// Makes a plan ready for the pages of a site.
    pub fn new(plan: &'a Plan<'a>, site: &'a Site, files: &'a dyn Files) -> Self {
        SiteContext {
            plan,
            layout: Layout::new(plan, &site.pages),
            shelf: Shelf::new(site, files),
            sheets: ReadySheets::new(plan),
            selectors: PinSelectors::new(plan),
            today: None,
        }
    }

    /// The same on a day.
    pub fn on(self, today: Day) -> Self {
        SiteContext { today: Some(today), ..self }
    }

    /// The site.
    pub fn site(&self) -> &'a Site {
        self.shelf.site()
    }
}
