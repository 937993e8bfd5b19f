//! What one page says about the pins that are for it.

use std::cell::OnceCell;
use std::sync::OnceLock;
use std::sync::atomic::{AtomicBool, Ordering};

use super::covered::Covered;
use super::fight::{Arena, Fight, Leak};
use super::fonts::FontGap;
use super::leaning::{Better, Brittle, better, brittle_of};
use super::order::troubles;
use super::policy::Stopped;
use super::probe::{Answers, Probe};
use super::spare::{Spare, spare};
use super::taken::{Taken, brought};
use super::timeline::ScriptTrouble;
use super::trouble::Scene;
use super::twice::{Pasted, pasted};
use super::view::View;
use crate::markup::{Assume, Document, Matcher, NamedPart, Selector, names_in};
use crate::plan::{Copies, FileText, LibraryPart, Owner, Plan, PlannedSheets, copies_on, placed_steps};
use crate::script::Timeline;
use crate::site::{
    Bringer, Page, PageStep, PlacedStep, ScriptFiles, SheetFiles, SheetOrigin, Site, brings, handlers, loads,
    page_steps, with_placed,
};
use crate::source::{Files, Position, offset};
use crate::style::font_uses;

/// What one page says about the pins that are for it.
#[derive(Clone, Debug)]
pub struct PageFacts {
    /// The page, as a place in the site's list.
    pub page: usize,
    /// The pins that are for it as far as its path tells.
    pub pins: Vec<PinFacts>,
    /// The slots that code was meant for and the page does not have.
    pub lacking: Vec<crate::markup::Slot>,
    /// What does not work out for scripts of the board.
    pub troubles: Vec<ScriptTrouble>,
    /// What it has by itself of the libraries that pins need.
    pub copies: Copies,
    /// The libraries that it gets: their places in the board's list.
    pub libraries: Vec<u32>,
    /// What of them nothing on it uses.
    pub spare: Vec<Spare>,
    /// Pins whose text it has by itself.
    pub pasted: Vec<Pasted>,
    /// What its policy stops.
    pub stopped: Vec<Stopped>,
}

/// What one page says about one pin.
#[derive(Clone, Debug)]
pub struct PinFacts {
    /// The pin, as a place in the board's list.
    pub pin: u32,
    /// Execution many elements are the pin's target.
    pub targets: u32,
    /// Whether the page holds what the pin's `having` asks for.
    pub having: bool,
    /// For each selector of the pin's sheet, whether it may match something on the page; empty
    /// where the pin is not on the page.
    pub matched: Box<[bool]>,
    /// What the declarations of its sheet come to on the page.
    pub fights: Vec<Fight>,
    /// Execution many elements its rules match, or may.
    pub touched: u32,
    /// Names that its sheet defines for the whole page and the site has already.
    pub leaks: Vec<Leak>,
    /// Fonts that it uses and nothing loads.
    pub fonts: Vec<FontGap>,
    /// What covers elements that it keeps in view.
    pub covered: Vec<Covered>,
    /// Names that it brings in and the page has already.
    pub taken: Vec<Taken>,
    /// What few pages have to say besides.
    pub detail: Option<Box<Detail>>,
}

/// What few pages have to say about a pin: why something does not match, and where it does too
/// often.
#[derive(Clone, Debug, Default)]
pub struct Detail {
    /// Where the first of several targets stand.
    pub places: Vec<Position>,
    /// What keeps the selector of `having` or `within` from matching.
    pub missing_target: Option<Missing>,
    /// What keeps selectors of the sheet from matching, by their number; only for those that have
    /// matched nowhere yet.
    pub missing: Vec<(usize, Missing)>,
    /// For selectors that lean on something brittle, what is likely to last.
    pub better: Vec<Better>,
}

impl PinFacts {
    /// What keeps the selector of `having` or `within` from matching.
    pub fn missing_target(&self) -> Option<&Missing> {
        self.detail.as_ref()?.missing_target.as_ref()
    }
}

/// Why a selector matches nothing on a page.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Missing {
    /// The first name in the selector that the page does not have.
    pub name: Option<String>,
    /// A name of the page that is nearly that one.
    pub near: Option<String>,
    /// A script of the page that has the name in it, and so may add it at run time.
    pub script: Option<Bringer>,
    /// Whether the pin says itself that scripts add the name.
    pub announced: bool,
    /// Whether the selector matches outside of the target.
    pub outside: bool,
}

/// A script of the board, and whose it is.
struct PlacedScript<'a> {
    pin: Option<usize>,
    file: &'a FileText,
}

fn placed_scripts<'a>(plan: &'a Plan<'_>) -> Vec<PlacedScript<'a>> {
    let pins =
        plan.pins.iter().enumerate().filter_map(|(pin, planned)| {
            Some(PlacedScript { pin: Some(pin), file: planned.script.as_ref()? })
        });
    let libraries = plan.libraries.iter().flat_map(|library| &library.scripts).filter_map(LibraryPart::local);
    pins.chain(libraries.map(|file| PlacedScript { pin: None, file })).collect()
}

/// The libraries that are put into a page, by their places in the board's list.
fn libraries_of(plan: &Plan<'_>, placed: &[PlacedStep]) -> Vec<u32> {
    let is_placed = |at: &usize| {
        let name = plan.name_of(Owner::Library(*at));
        placed.iter().any(|step| matches!(&step.origin, SheetOrigin::Library(own) if own == name))
    };
    (0..plan.libraries.len()).filter(is_placed).map(offset).collect()
}

/// The pages of one type have much the same names: what a name that is nowhere was meant to be is
/// looked for on so many of the first that a pin is for.
const SAMPLE: usize = 64;

/// What is shared by all pages of a run.
pub struct Witness<'a> {
    plan: &'a Plan<'a>,
    site: &'a Site,
    files: &'a dyn Files,
    probe: Probe,
    scripts: ScriptFiles,
    /// The scripts of the board, for the names that they may bring in.
    placed: Vec<PlacedScript<'a>>,
    /// Which of each pin's questions have been answered with yes on some page: `having` first,
    /// then the selectors. What keeps the others from matching is worked out for them alone.
    answered: Vec<Vec<AtomicBool>>,
    /// What the declarations of pins are held against.
    arena: Arena<'a>,
    /// For each pin the selectors that lean on something brittle.
    brittle: Vec<Vec<Brittle>>,
    /// For each pin the last page on which nearly equal names are looked for.
    sampled_to: Vec<OnceLock<usize>>,
}

impl<'a> Witness<'a> {
    /// Makes ready to look at the pages of a site.
    pub fn new(plan: &'a Plan<'a>, site: &'a Site, files: &'a dyn Files) -> Self {
        let selectors = |pin: &crate::plan::PlannedPin| {
            let rules = pin.style.iter().flat_map(|style| &style.rules);
            1 + rules.map(|rule| rule.selectors.len()).sum::<usize>()
        };
        let flags = |count: usize| (0..count).map(|_| AtomicBool::new(false)).collect();
        let answered = plan.pins.iter().map(|pin| flags(selectors(pin))).collect();
        let planned = PlannedSheets::new(plan);
        let fonts_of = |pin| planned.of_pin(pin).map(|rules| font_uses(rules)).unwrap_or_default();
        let fonts = (0..plan.pins.len()).map(fonts_of).collect();
        Witness {
            plan,
            site,
            files,
            probe: Probe::new(plan),
            scripts: ScriptFiles::default(),
            placed: placed_scripts(plan),
            answered,
            arena: Arena {
                plan,
                site,
                files,
                known: SheetFiles::default(),
                planned,
                fonts,
                brought: plan.pins.iter().map(brought).collect(),
            },
            brittle: (0..plan.pins.len()).map(|pin| brittle_of(plan, pin)).collect(),
            sampled_to: plan.pins.iter().map(|_| OnceLock::new()).collect(),
        }
    }

    /// Whether a page is among the first that a pin is for.
    fn is_sampled(&self, pin: usize, page: usize) -> bool {
        let last = self.sampled_to[pin].get_or_init(|| {
            let pages = self.site.pages.iter().enumerate();
            let meant = pages.filter(|(_, page)| self.plan.is_for(pin, &page.path)).map(|(at, _)| at);
            meant.take(SAMPLE).last().unwrap_or(0)
        });
        page <= *last
    }

    /// Looks at one page. `pins` are those that are for it as far as its path tells.
    pub fn look(&self, page: usize, text: &str, document: &Document, pins: &[usize]) -> PageFacts {
        let answers = self.probe.walk(document, pins, self.plan);
        let mut view = View {
            number: page,
            page: &self.site.pages[page],
            document,
            pins,
            names: None,
            loads: OnceCell::new(),
        };
        let pins = pins.iter().zip(answers);
        let mut pins: Vec<_> =
            pins.map(|(&pin, answers)| self.pin_facts(pin, answers, text, &mut view)).collect();
        let held: Vec<usize> =
            pins.iter().filter(|facts| facts.having).map(|facts| facts.pin as usize).collect();
        let place = &self.site.pages[page];
        let has_scripts = held.iter().any(|pin| self.plan.pins[*pin].script.is_some());
        let steps = match has_scripts || self.plan.brings_libraries(&held) {
            true => page_steps((text, document), place, (self.files, self.site), &self.scripts),
            false => Vec::new(),
        };
        let copies = copies_on(self.plan, &held, &steps, (text, document));
        for (pin, outcome) in self.arena.fights(place, (text, document), (&held, &copies)) {
            if let Some(facts) = pins.iter_mut().find(|facts| facts.pin as usize == pin) {
                (facts.fights, facts.touched, facts.leaks) = (outcome.fights, outcome.touched, outcome.leaks);
                (facts.fonts, facts.covered, facts.taken) = (outcome.fonts, outcome.covered, outcome.taken);
                for hidden in outcome.hidden {
                    let is_named = hidden.names.iter().any(|name| self.script_with(name, &view).is_some());
                    let fight = facts.fights.iter_mut().find(|fight| fight.span == hidden.span);
                    if let Some(fight) = fight.filter(|_| !is_named) {
                        fight.hides = Some(hidden.element);
                    }
                }
            }
        }
        let pasted = pasted(self.plan, &held, &steps, (text, document));
        let placed = placed_steps(self.plan, (&held, &copies), document);
        let libraries = libraries_of(self.plan, &placed);
        let steps = with_placed(steps, placed, text);
        let sheets = |library| self.arena.planned.of_library(library);
        let spare = match libraries.is_empty() {
            true => Vec::new(),
            false => spare(self.plan, &steps, document, &sheets),
        };
        let troubles = match has_scripts {
            true => self.troubles(&steps, (place, text, document), (&held, &copies)),
            false => Vec::new(),
        };
        let (lacking, stopped) = (Vec::new(), Vec::new());
        PageFacts { page, pins, lacking, troubles, copies, libraries, spare, pasted, stopped }
    }

    /// What does not work out on the page's timeline for the scripts that are put there.
    fn troubles(
        &self,
        steps: &[PageStep],
        (page, text, document): (&Page, &str, &Document),
        (held, copies): (&[usize], &Copies),
    ) -> Vec<ScriptTrouble> {
        let turns: Vec<_> = steps.iter().map(|step| step.timing).collect();
        let timeline = Timeline::new(&turns);
        let pins = || held.iter().map(|pin| &self.plan.board.pins[*pin]);
        let adds: Vec<String> = pins().flat_map(|pin| pin.adds.iter().cloned()).collect();
        let own: Vec<String> =
            copies.found.iter().map(|copy| self.plan.name_of(copy.owner()).to_owned()).collect();
        let sheets = || self.arena.sheets(page, (text, document), (held, copies));
        // They are of interest for names that pins keep to themselves alone.
        let keeps = |step: &PageStep| {
            let own = step.facts().filter(|_| step.origin != SheetOrigin::Site);
            own.is_some_and(|facts| !facts.keeps.is_empty())
        };
        let handlers = match steps.iter().any(keeps) {
            true => handlers(document, &self.scripts),
            false => Vec::new(),
        };
        let scene = Scene {
            steps,
            timeline: &timeline,
            handlers: &handlers,
            text,
            document,
            adds: &adds,
            own: &own,
            sheets: &sheets,
            of_board: true,
        };
        let all = troubles(&scene).into_iter();
        let own = all.filter(|trouble| steps[trouble.step].origin != SheetOrigin::Site);
        own.map(|trouble| {
            let by = trouble.kind.by().map(|by| steps[by].file.clone());
            let step = &steps[trouble.step];
            let (origin, file) = (step.origin.clone(), step.file.clone());
            ScriptTrouble { origin, file, span: trouble.span, kind: trouble.kind, by }
        })
        .collect()
    }

    fn pin_facts(&self, pin: usize, mut answers: Answers, text: &str, view: &mut View<'_>) -> PinFacts {
        let (document, number_of_page) = (view.document, view.number);
        let board = &self.plan.board.pins[pin];
        let flags = &self.answered[pin];
        if answers.having {
            flags[0].store(true, Ordering::Relaxed);
        }
        for (flag, _) in flags[1..].iter().zip(&answers.matched).filter(|(_, matched)| **matched) {
            flag.store(true, Ordering::Relaxed);
        }
        let targeted = board.within.is_none() || !answers.within.is_empty();
        let mut why = |selectors: &[Selector]| self.why(pin, selectors, view);
        let missing_target = match (&board.having, &board.within) {
            (Some(having), _) if !answers.having => {
                (!flags[0].load(Ordering::Relaxed)).then(|| why(having.list.slice()))
            }
            (_, Some(within)) if !targeted => Some(why(within.list.slice())),
            _ => None,
        };
        // Of the many pages that say the same, the first few are enough.
        let sampled = || self.is_sampled(pin, number_of_page);
        let missing_target =
            missing_target.filter(|missing| missing.script.is_some() || missing.announced || sampled());
        let mut missing = Vec::new();
        if answers.having && targeted {
            let rules = self.plan.pins[pin].style.iter().flat_map(|style| &style.rules);
            for (number, test) in rules.flat_map(|rule| &rule.selectors).enumerate() {
                let announced = |name: &NamedPart| board.adds.iter().any(|own| own == name.name());
                if !board.adds.is_empty() && names_in(&test.own).iter().any(announced) {
                    answers.matched[number] = true;
                    continue;
                }
                if answers.matched[number] || flags[number + 1].load(Ordering::Relaxed) {
                    continue;
                }
                let mut found = why(std::slice::from_ref(&test.own));
                if found.name.is_none() && board.within.is_some() && sampled() {
                    let mut matcher = Matcher::new();
                    found.outside = document.elements().any(|e| matcher.matches(&test.own, e, Assume::May));
                }
                if found.script.is_some() || sampled() {
                    missing.push((number, found));
                }
            }
        }
        let places = answers.within.iter().skip(usize::from(answers.within.len() < 2)).take(3);
        let places =
            places.filter_map(|id| document.element(*id)).map(|e| document.position(e, text)).collect();
        let better = match self.brittle[pin].is_empty() || !answers.having || !sampled() {
            true => Vec::new(),
            false => self.brittle[pin].iter().filter_map(|brittle| better(brittle, document)).collect(),
        };
        let detail = Detail { places, missing_target, missing, better };
        let is_bare = detail.places.is_empty()
            && detail.missing_target.is_none()
            && detail.missing.is_empty()
            && detail.better.is_empty();
        PinFacts {
            pin: offset(pin),
            having: answers.having,
            targets: offset(answers.within.len()),
            fights: Vec::new(),
            touched: 0,
            leaks: Vec::new(),
            fonts: Vec::new(),
            covered: Vec::new(),
            taken: Vec::new(),
            matched: if answers.having { answers.matched.into() } else { Box::default() },
            detail: (!is_bare).then(|| Box::new(detail)),
        }
    }

    /// What a page lacks for any of some selectors to match.
    fn why(&self, pin: usize, selectors: &[Selector], view: &mut View<'_>) -> Missing {
        let sampled = self.is_sampled(pin, view.number);
        // Past the sample only what some script may bring in is of interest.
        let announced =
            |name: &NamedPart| self.plan.board.pins[pin].adds.iter().any(|own| own == name.name());
        let may_tell = |name: &NamedPart, view: &View<'_>| {
            sampled || announced(name) || self.script_with(name.name(), view).is_some()
        };
        let mut names = selectors.iter().flat_map(names_in);
        let absent = names.find(|name| may_tell(name, view) && !view.has(name));
        let Some(absent) = absent else { return Missing::default() };
        Missing {
            near: if sampled { view.near(&absent) } else { None },
            script: self.script_with(absent.name(), view),
            name: Some(absent.to_string()),
            announced: announced(&absent),
            outside: false,
        }
    }

    /// A script on the page, the site's own or one that is put in, that may bring in a name.
    fn script_with(&self, name: &str, view: &View<'_>) -> Option<Bringer> {
        let placed =
            self.placed.iter().filter(|script| script.pin.is_none_or(|pin| view.pins.contains(&pin)));
        let mut placed = placed.filter_map(|script| {
            let line = brings(script.file.script.as_ref()?, name)?;
            Some(Bringer { file: script.file.path.clone(), line })
        });
        let loads = view.loads.get_or_init(|| loads(view.document, view.page));
        let own = || self.scripts.bringer(name, (self.files, self.site), (view.page, view.document), loads);
        placed.next().or_else(own)
    }
}
