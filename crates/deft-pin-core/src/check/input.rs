//! What findings are made of beside the facts of pages.

use super::explanations::Explanations;
use super::finding::Place;
use crate::code::{PageId, PinId};
use crate::emit::PasteUp;
use crate::page::SiteContext;
use crate::plan::{PinStyle, Plan};
use crate::site::{PagePath, Site};
use crate::source::{FilePath, Span};

/// What findings are made of beside the facts of pages.
#[derive(Clone, Copy)]
pub(super) struct CheckInput<'a> {
    /// The board's own file.
    pub(super) board_file: &'a FilePath,
    /// The plan, the site, and what was made ready of both.
    pub(super) context: &'a SiteContext<'a>,
    /// Why things do not match, where that was asked.
    pub(super) explanations: &'a Explanations,
    /// What goes into the boxes of the host; none where there are none.
    pub(super) paste_up: Option<&'a PasteUp>,
}

impl<'a> CheckInput<'a> {
    pub(super) fn plan(&self) -> &'a Plan<'a> {
        self.context.plan
    }

    pub(super) fn site(&self) -> &'a Site {
        self.context.site()
    }

    /// A place in the board.
    pub(super) fn on_board(&self, span: Span) -> Place {
        Place::new(self.board_file, &self.plan().board.text, span)
    }

    /// The path of a page.
    pub(super) fn path(&self, page: PageId) -> &'a PagePath {
        &self.site().pages[page].path
    }

    /// The paths of some pages.
    pub(super) fn paths(&self, pages: impl IntoIterator<Item = PageId>) -> Vec<PagePath> {
        pages.into_iter().map(|page| self.path(page).clone()).collect()
    }

    /// How many pages a pin is for, as far as their paths tell.
    pub(super) fn count_of_pages(&self, pin: PinId) -> usize {
        self.site().pages.iter().filter(|page| self.plan().pins_for(&page.path).contains(&pin)).count()
    }

    /// The name of a pin.
    pub(super) fn pin_name(&self, pin: PinId) -> &'a str {
        &self.plan().board.pins[pin].name
    }

    /// The pins that have a sheet, with it.
    pub(super) fn styles(&self) -> impl Iterator<Item = (PinId, &'a PinStyle)> {
        self.plan().pins.entries().filter_map(|(pin, planned)| Some((pin, planned.style.as_ref()?)))
    }

    /// A place in the sheet of a pin, as it was written; none for a pin without one.
    pub(super) fn in_sheet(&self, pin: PinId, span: Span) -> Option<Place> {
        let style = self.plan().pins[pin].style.as_ref()?;
        Some(Place::new(&style.file.path, &style.file.text, span))
    }

    /// The text of a span of a pin's sheet, as it was written.
    pub(super) fn sheet_text(&self, pin: PinId, span: Span) -> &'a str {
        let style = self.plan().pins[pin].style.as_ref();
        style.map_or("", |style| style.file.text.written(span))
    }
}
