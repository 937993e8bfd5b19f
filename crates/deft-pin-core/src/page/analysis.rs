//! One page on the plan. Each part is worked out when it is first asked for, and once.

use std::cell::OnceCell;

use super::block::block_gap;
use super::content::{ContentOutcome, ContentPart, Moment, PageWithContent, marked_elements, with_content};
use super::context::SiteContext;
use super::existing_copies::existing_copies;
use super::pin_matches::PinMatches;
use super::planned_steps::planned_steps;
use crate::code::{CodeKind, LibraryId, Origin, Owner, PageId, PinId};
use crate::find::{PageIndex, PageNames, address, lasting_selectors};
use crate::markup::{Document, Gap, InsertionPoint, NamedPart};
use crate::plan::{ExistingCopies, Placement};
use crate::script::{ScriptFile, Timeline, Timing};
use crate::site::{
    EventHandler, Load, NameSource, Naming, Page, PageSheets, PageStep, ParsedPage, PlacedSheet,
    event_handlers, loads, name_source, page_sheets, page_steps, with_placed,
};

/// A page with what a plan puts there.
pub struct PageAnalysis<'p> {
    context: &'p SiteContext<'p>,
    /// Which page of the site.
    pub id: PageId,
    /// The pins that are for it as far as its path tells.
    meant: Vec<PinId>,
    served: &'p [u8],
    parsed: ParsedPage<'p>,
    content: Vec<ContentOutcome>,
    /// The pins that are on it before anything is put in, where something is.
    served_pins: Option<Vec<PinId>>,
    matches: OnceCell<Vec<PinMatches>>,
    pins: OnceCell<Vec<PinId>>,
    loads: OnceCell<Vec<Load>>,
    names: OnceCell<PageNames>,
    own_steps: OnceCell<Vec<PageStep>>,
    copies: OnceCell<ExistingCopies>,
    placements: OnceCell<Vec<Placement>>,
    steps: OnceCell<Vec<PageStep>>,
    timeline: OnceCell<Timeline>,
    sheets: OnceCell<PageSheets>,
    event_handlers: OnceCell<Vec<EventHandler>>,
    block: OnceCell<Option<Gap>>,
}

impl SiteContext<'_> {
    /// One page, given its bytes.
    pub fn page<'p>(&'p self, id: PageId, bytes: &'p [u8]) -> PageAnalysis<'p> {
        self.page_of(id, bytes, &|_| true)
    }

    /// One page with some of its pins alone, as if the others were off.
    pub fn page_of<'p>(
        &'p self,
        id: PageId,
        bytes: &'p [u8],
        is_on: &dyn Fn(PinId) -> bool,
    ) -> PageAnalysis<'p> {
        let page = &self.site().pages[id];
        let meant: Vec<PinId> =
            self.plan.pins_for(&page.path).into_iter().filter(|pin| is_on(*pin)).collect();
        let PageWithContent { parsed, outcomes, pins } =
            with_content(self.plan, page, bytes, &meant, Moment::Served);
        PageAnalysis {
            content: outcomes,
            served_pins: pins,
            ..PageAnalysis::new(self, id, bytes, parsed, meant)
        }
    }
}

impl<'p> PageAnalysis<'p> {
    fn new(
        context: &'p SiteContext<'p>,
        id: PageId,
        served: &'p [u8],
        parsed: ParsedPage<'p>,
        meant: Vec<PinId>,
    ) -> Self {
        PageAnalysis {
            context,
            id,
            meant,
            served,
            parsed,
            content: Vec::new(),
            served_pins: None,
            matches: OnceCell::new(),
            pins: OnceCell::new(),
            loads: OnceCell::new(),
            names: OnceCell::new(),
            own_steps: OnceCell::new(),
            copies: OnceCell::new(),
            placements: OnceCell::new(),
            steps: OnceCell::new(),
            timeline: OnceCell::new(),
            sheets: OnceCell::new(),
            event_handlers: OnceCell::new(),
            block: OnceCell::new(),
        }
    }

    /// What the page shares with the others.
    pub fn context(&self) -> &'p SiteContext<'p> {
        self.context
    }

    /// The page with its text and its tree.
    pub fn parsed(&self) -> &ParsedPage<'p> {
        &self.parsed
    }

    /// The same page once all of its pins have begun: with the markup that scripts put in then. None where there is no
    /// such markup.
    pub fn settled(&self) -> Option<PageAnalysis<'p>> {
        let plan = self.context.plan;
        let is_late = |own: &ContentOutcome| {
            matches!(own.part, ContentPart::Markup(_)) && plan.pins[own.pin].beginning.is_some()
        };
        if !self.content.iter().any(is_late) {
            return None;
        }
        let PageWithContent { parsed, outcomes: mut content, pins } =
            with_content(plan, self.page(), self.served, &self.meant, Moment::Settled);
        content.retain(|own| !is_late(own));
        Some(PageAnalysis {
            content,
            served_pins: pins,
            ..PageAnalysis::new(self.context, self.id, self.served, parsed, self.meant.clone())
        })
    }

    /// What came of the marks and the markup that pins have for it.
    pub fn content(&self) -> &[ContentOutcome] {
        &self.content
    }

    /// The elements that a mark of a pin is for, each by a selector that is likely to last, on the page as it is served.
    pub fn marked(&self, pin: PinId, number: usize) -> Vec<String> {
        let served = ParsedPage::new(self.page(), self.served);
        let index = PageIndex::new(&served.document);
        let own = &self.context.plan.board.pins[pin];
        let elements = marked_elements(own, &own.marks[number], &served.document).into_iter();
        let selector = |id| {
            let element = served.document.element(id)?;
            let best = lasting_selectors(&index, element, 1).into_iter().next();
            Some(best.map_or_else(|| address(&index, element), |best| best.selector))
        };
        elements.filter_map(selector).collect()
    }

    /// Whether markup was put into it that names files beside the board.
    pub fn has_beside_marks(&self) -> bool {
        let plan = self.context.plan;
        self.content.iter().any(|own| match own.part {
            ContentPart::Markup(number) => !plan.pins[own.pin].markup[number].text.urls.is_empty(),
            ContentPart::Mark(_) => false,
        })
    }

    /// How many times something of that was put into it.
    pub fn content_count(&self) -> usize {
        let plan = self.context.plan;
        let is_put = |own: &&ContentOutcome| {
            let is_late =
                matches!(own.part, ContentPart::Markup(_)) && plan.pins[own.pin].beginning.is_some();
            own.trouble.is_none() && !is_late
        };
        self.content.iter().filter(is_put).map(|own| own.elements).sum()
    }

    /// Whether a pin has markup with a name that could not be put in: that is told by itself.
    pub fn lacks_content(&self, name: &NamedPart) -> bool {
        let lacking = self.content.iter().filter(|own| own.elements == 0 || own.trouble.is_some());
        lacking.into_iter().any(|own| {
            let pin = &self.context.plan.pins[own.pin];
            match own.part {
                ContentPart::Markup(number) => {
                    pin.markup.get(number).is_some_and(|markup| markup.names.contains(name))
                }
                ContentPart::Mark(number) => {
                    let mark = &self.context.plan.board.pins[own.pin].marks[number];
                    match name {
                        NamedPart::Id(id) => mark.id.as_ref().is_some_and(|own| *own.value == **id),
                        NamedPart::Class(class) => mark.classes.iter().any(|own| *own.value == **class),
                        NamedPart::Tag(_) => false,
                    }
                }
            }
        })
    }

    /// Its path and its file.
    pub fn page(&self) -> &'p Page {
        self.parsed.page
    }

    /// Its text.
    pub fn text(&self) -> &str {
        self.parsed.text()
    }

    /// Its tree.
    pub fn document(&self) -> &Document {
        &self.parsed.document
    }

    /// What it has of what pins ask for, those that are for it as far as its path tells.
    pub fn matches(&self) -> &[PinMatches] {
        self.matches.get_or_init(|| {
            let mut found = self.context.selectors.matches(self.document(), &self.meant, self.context.plan);
            // What a page holds is asked of it as it is served.
            if let Some(served) = &self.served_pins {
                found.iter_mut().for_each(|own| own.is_on_page = served.contains(&own.pin));
            }
            found
        })
    }

    /// The pins that are on it: those for its path whose `having` it holds.
    pub fn pins(&self) -> &[PinId] {
        self.pins.get_or_init(|| {
            self.matches().iter().filter(|matches| matches.is_on_page).map(|matches| matches.pin).collect()
        })
    }

    /// What it loads by itself.
    pub fn loads(&self) -> &[Load] {
        self.loads.get_or_init(|| loads(self.document(), self.page()))
    }

    /// The names on it, as it is served.
    pub fn names(&self) -> &PageNames {
        self.names.get_or_init(|| PageNames::of(self.document()))
    }

    /// The scripts and sheets that it has by itself, in the order of the document.
    pub fn own_steps(&self) -> &[PageStep] {
        self.own_steps.get_or_init(|| page_steps(&self.parsed, self.loads(), &self.context.shelf))
    }

    /// What it has by itself of the libraries that its pins need.
    pub fn copies(&self) -> &ExistingCopies {
        self.copies.get_or_init(|| match self.context.plan.brings_libraries(self.pins()) {
            true => existing_copies(self.context.plan, self.pins(), &self.parsed, self.own_steps()),
            false => ExistingCopies::default(),
        })
    }

    /// What the plan puts there, in the order of the document.
    pub fn placements(&self) -> &[Placement] {
        self.placements
            .get_or_init(|| self.context.plan.placements(self.pins(), self.copies(), &self.context.layout))
    }

    /// The gap in its text for an insertion point; none where it has no such place.
    pub fn gap(&self, at: InsertionPoint) -> Option<&Gap> {
        match at {
            InsertionPoint::Slot(slot) => self.document().slots().gap(slot),
            InsertionPoint::Block => self
                .block
                .get_or_init(|| {
                    let host = &self.context.plan.board.host;
                    let own = host.block.as_ref().map(|block| &block.list);
                    block_gap(self.document(), self.text(), own)
                })
                .as_ref(),
        }
    }

    /// The libraries that it gets, each once.
    pub fn libraries(&self) -> Vec<LibraryId> {
        let owners = self.placements().iter().map(|placement| placement.code.owner);
        let mut libraries: Vec<LibraryId> = owners
            .filter_map(|owner| match owner {
                Owner::Library(library) => Some(library),
                Owner::Pin(_) => None,
            })
            .collect();
        libraries.sort_unstable();
        libraries.dedup();
        libraries
    }

    /// Its scripts and sheets with those of the plan, in the order of the document.
    pub fn steps(&self) -> &[PageStep] {
        self.steps.get_or_init(|| {
            with_placed(
                self.own_steps(),
                planned_steps(self.context.plan, self.placements(), self.document(), &|at| {
                    self.gap(at).map(|gap| gap.at)
                }),
                &self.parsed,
            )
        })
    }

    /// What of its steps is certain to come before what.
    pub fn timeline(&self) -> &Timeline {
        self.timeline.get_or_init(|| {
            let timings: Vec<Timing> = self.steps().iter().map(|step| step.timing).collect();
            Timeline::new(&timings)
        })
    }

    /// Its style sheets with those of the plan, in the order in which they count.
    pub fn sheets(&self) -> &PageSheets {
        self.sheets.get_or_init(|| {
            page_sheets(&self.parsed, self.loads(), &self.context.shelf, self.placed_sheets())
        })
    }

    fn placed_sheets(&self) -> Vec<PlacedSheet> {
        let styles = self.placements().iter().filter(|placement| placement.code.kind == CodeKind::Style);
        let placed = styles.filter_map(|placement| {
            let sheet = self.context.sheets.get(placement.code)?;
            Some(PlacedSheet {
                at: self.gap(placement.at)?.at,
                rules: std::sync::Arc::clone(&sheet.rules),
                origin: Origin::Board(placement.code.owner),
                file: sheet.file.clone(),
            })
        });
        placed.collect()
    }

    /// Its event handler content attributes.
    pub fn event_handlers(&self) -> &[EventHandler] {
        self.event_handlers.get_or_init(|| event_handlers(self.document(), &self.context.shelf))
    }

    /// A script on the page that names something: one that is put there for the pins that are for its path,
    /// or one of its own.
    pub fn name_source(&self, name: &str) -> Option<NameSource> {
        self.naming_script(name, Naming::Anyhow)
    }

    /// The same, of those that may bring the name in, and do not look it up alone.
    pub fn bringing_script(&self, name: &str) -> Option<NameSource> {
        self.naming_script(name, Naming::Bringing)
    }

    /// Whether a needed library's sheet has rules for a name: its scripts, or who uses it, bring it in.
    pub fn is_of_library(&self, name: &NamedPart) -> bool {
        let sheets = &self.context.sheets;
        self.libraries()
            .into_iter()
            .flat_map(|library| sheets.of_library(library))
            .any(|sheet| sheet.names().contains_key(name))
    }

    fn naming_script(&self, name: &str, naming: Naming) -> Option<NameSource> {
        let plan = self.context.plan;
        let pins = self.matches().iter().filter_map(|matches| plan.pins[matches.pin].script.as_ref());
        let libraries = plan.libraries.iter().flat_map(|library| &library.scripts);
        let mut files = pins.chain(libraries.filter_map(|file| file.read()));
        let by_plan = files.find_map(|file| {
            let script: &ScriptFile = file.script.as_deref()?;
            NameSource::of_script(script, &file.path, name, naming)
        });
        by_plan.or_else(|| name_source(&self.parsed, self.loads(), &self.context.shelf, name, naming))
    }
}
