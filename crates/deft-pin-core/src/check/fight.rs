//! What the declarations of pins come to on a page: which of them win, which lose, and to whom.

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::markup::{Document, NamedPart, NodeId};
use crate::plan::{Copies, Plan, PlannedSheets};
use crate::site::{Page, PageSheets, SheetFiles, SheetOrigin, Site, page_sheets};
use crate::source::{FilePath, Files, Position, Span};
use crate::style::{Applied, Cascade, FontUse, Outcome, Step, StyleRules, Truth, Viewport};

use super::covered::{Covered, covered};
use super::finding::Place;
use super::fonts::{FontGap, gaps};
use super::hidden::hides;
use super::taken::{Taken, taken};

/// What a declaration of a pin comes to on a page.
#[derive(Clone, Debug, Default)]
pub struct Fight {
    /// Where the declaration stands in the pin's sheet as it was written.
    pub span: Span,
    /// On how many elements it wins some longhand, or may.
    pub wins: u32,
    /// On how many elements it loses all of its longhands.
    pub loses: u32,
    /// Whether it is important and somewhere wins by that alone.
    pub needs_importance: bool,
    /// Whether it somewhere changes anything.
    pub changes: bool,
    /// The strongest that it loses to.
    pub rival: Option<Box<Rival>>,
    /// An element that it hides, where nothing shows that again.
    pub hides: Option<String>,
}

/// A declaration that beats one of a pin's.
#[derive(Clone, Debug)]
pub struct Rival {
    /// Where it stands.
    pub place: Place,
    /// Its text.
    pub text: String,
    /// The selector that it stands under; none for a style attribute.
    pub selector: Option<String>,
    /// Its specificity.
    pub specificity: [u32; 3],
    /// The specificity of the one that it beats.
    pub over: [u32; 3],
    /// The pin that it is from.
    pub pin: Option<String>,
    /// The step that decides.
    pub step: Step,
    /// A short name for an element on which it wins.
    pub element: String,
}

/// A name that a pin's sheet defines for the whole page, and that the site has already.
#[derive(Clone, Debug)]
pub struct Leak {
    /// Where the pin defines it, in its sheet as it was written.
    pub span: Span,
    /// The at-rule that does.
    pub kind: String,
    /// The name.
    pub name: String,
    /// Where the site does.
    pub place: Place,
}

/// What a pin comes to on a page.
#[derive(Default)]
pub(super) struct OnPage {
    pub(super) fights: Vec<Fight>,
    pub(super) touched: u32,
    pub(super) leaks: Vec<Leak>,
    pub(super) fonts: Vec<FontGap>,
    pub(super) covered: Vec<Covered>,
    pub(super) taken: Vec<Taken>,
    /// Declarations that hide an element which no rule shows again, with its names.
    pub(super) hidden: Vec<Hidden>,
}

/// An element that a declaration hides.
pub(super) struct Hidden {
    pub(super) span: Span,
    pub(super) element: String,
    /// Its ID and classes, by which a script may find it.
    pub(super) names: Vec<String>,
}

/// What is shared by all pages for this.
pub(super) struct Arena<'a> {
    pub(super) plan: &'a Plan<'a>,
    pub(super) site: &'a Site,
    pub(super) files: &'a dyn Files,
    pub(super) known: SheetFiles,
    pub(super) planned: PlannedSheets,
    /// For each pin the names that it brings in.
    pub(super) brought: Vec<Vec<(NamedPart, Span)>>,
    /// For each pin what its sheet uses of fonts.
    pub(super) fonts: Vec<Vec<FontUse>>,
}

/// What one declaration comes to on one element.
#[derive(Default)]
struct Bout {
    won: bool,
    lost: bool,
    needs_importance: bool,
    changes: bool,
    rival: Option<Rival>,
}

impl Arena<'_> {
    /// The fights on a page that some pins are on, by pin.
    /// The sheets of a page with those that pins bring; none where some could not be read.
    pub(super) fn sheets(
        &self,
        page: &Page,
        source: (&str, &Document),
        held: (&[usize], &Copies),
    ) -> Option<Vec<Arc<StyleRules>>> {
        let placed = self.planned.placed(self.plan, held, source.1);
        let sheets = page_sheets(source, page, (self.files, self.site), &self.known, placed);
        let rules = sheets.sheets.iter().map(|sheet| Arc::clone(&sheet.rules)).collect();
        sheets.unread.is_empty().then_some(rules)
    }

    pub(super) fn fights(
        &self,
        page: &Page,
        (text, document): (&str, &Document),
        (held, copies): (&[usize], &Copies),
    ) -> Vec<(usize, OnPage)> {
        let placed = self.planned.placed(self.plan, (held, copies), document);
        if placed.iter().all(|placed| !matches!(placed.origin, SheetOrigin::Pin(_))) {
            return Vec::new();
        }
        let sheets = page_sheets((text, document), page, (self.files, self.site), &self.known, placed);
        let pin_of = |place: &SheetOrigin| match place {
            SheetOrigin::Pin(name) => {
                held.iter().copied().find(|pin| *self.plan.board.pins[*pin].name == *name)
            }
            _ => None,
        };
        let pins: BTreeMap<usize, usize> = sheets
            .places
            .iter()
            .enumerate()
            .filter_map(|(number, place)| Some((number, pin_of(&place.origin)?)))
            .collect();
        let mut cascade = Cascade::new(document, &sheets.sheets, Viewport::default(), Vec::new());
        let mut fights: BTreeMap<(usize, Span), Fight> = BTreeMap::new();
        let mut by_pin: BTreeMap<usize, OnPage> = BTreeMap::new();
        let view = View { arena: self, page, text, sheets: &sheets, pins: &pins };
        let mut fixed: BTreeMap<usize, Vec<(NodeId, Span)>> = BTreeMap::new();
        for element in document.elements() {
            let mut parts: Vec<Option<&str>> = Vec::new();
            for (sheet, pin) in &pins {
                let own = cascade.touched(*sheet, element);
                if !own.is_empty() {
                    by_pin.entry(*pin).or_default().touched += 1;
                }
                own.into_iter().for_each(|part| {
                    if !parts.contains(&part) {
                        parts.push(part);
                    }
                });
            }
            for part in parts {
                let outcomes = cascade.outcomes_of(element, part, &|sheet| pins.contains_key(&sheet));
                let mut bouts: BTreeMap<(usize, Span), Bout> = BTreeMap::new();
                for outcome in &outcomes {
                    view.bouts(outcome, element, &mut bouts);
                }
                for (pin, span, value) in view.certain(&outcomes, part) {
                    if matches!(value.as_str(), "fixed" | "sticky") {
                        fixed.entry(pin).or_default().push((element.id, span));
                    }
                }
                for (pin, span, property) in view.hiding(&outcomes, part) {
                    let shows = |value: &str| !hides(&property, value);
                    let hidden = &mut by_pin.entry(pin).or_default().hidden;
                    let is_known = hidden.iter().any(|known| known.span == span);
                    if !is_known && !cascade.may_come_to(element, &property, &shows) {
                        let data = element.data();
                        let names = data.id().into_iter().chain(data.classes()).map(str::to_owned).collect();
                        hidden.push(Hidden { span, element: crate::find::label(element), names });
                    }
                }
                for ((pin, span), bout) in bouts {
                    let fight =
                        fights.entry((pin, span)).or_insert_with(|| Fight { span, ..Fight::default() });
                    fight.wins += u32::from(bout.won);
                    fight.loses += u32::from(bout.lost && !bout.won);
                    fight.needs_importance |= bout.needs_importance;
                    fight.changes |= bout.changes;
                    if !bout.won && fight.rival.is_none() {
                        fight.rival = bout.rival.map(Box::new);
                    }
                }
            }
        }
        for ((pin, _), fight) in fights {
            by_pin.entry(pin).or_default().fights.push(fight);
        }
        for (sheet, pin) in &pins {
            let on_page = by_pin.entry(*pin).or_default();
            on_page.leaks = view.leaks(*sheet);
            on_page.fonts = gaps(&self.fonts[*pin], &sheets.sheets[*sheet].rules, &sheets);
            on_page.taken = taken(&self.brought[*pin], &sheets, document);
            for taken in &mut on_page.taken {
                taken.place = taken.by.map(|(sheet, span)| view.place_of(sheet, span));
            }
        }
        for (pin, fixed) in fixed {
            by_pin.entry(pin).or_default().covered = covered(&fixed, document, &mut cascade);
        }
        by_pin.into_iter().collect()
    }
}

struct View<'v> {
    arena: &'v Arena<'v>,
    page: &'v Page,
    text: &'v str,
    sheets: &'v PageSheets,
    pins: &'v BTreeMap<usize, usize>,
}

impl View<'_> {
    fn owner(&self, applied: &Applied<'_>) -> Option<usize> {
        self.pins.get(&applied.sheet?).copied()
    }

    /// The longhands that pins certainly set of an element, with what to.
    fn winning<'o, 'p>(
        &'o self,
        outcomes: &'o [Outcome<'p>],
        part: Option<&str>,
    ) -> impl Iterator<Item = (usize, Span, &'o Outcome<'p>, &'o str)> {
        let outcomes = outcomes.iter().filter(move |outcome| {
            part.is_none() && outcome.winner.matched == Truth::Yes && outcome.may_win.is_empty()
        });
        outcomes.filter_map(|outcome| {
            let pin = self.owner(&outcome.winner)?;
            let rules = &self.sheets.sheets[outcome.winner.sheet?].rules;
            let (_, span) = rules.source(outcome.winner.declaration.span);
            Some((pin, span, outcome, outcome.winner.value(&self.sheets.sheets)))
        })
    }

    /// What pins set `position` to.
    fn certain(&self, outcomes: &[Outcome<'_>], part: Option<&str>) -> Vec<(usize, Span, String)> {
        let of_position = self.winning(outcomes, part).filter(|(.., one, _)| one.property == "position");
        of_position.map(|(pin, span, _, value)| (pin, span, value.trim().to_ascii_lowercase())).collect()
    }

    /// The declarations of pins that hide an element.
    fn hiding(&self, outcomes: &[Outcome<'_>], part: Option<&str>) -> Vec<(usize, Span, String)> {
        let winning = self.winning(outcomes, part).filter(|(.., one, value)| hides(&one.property, value));
        winning.map(|(pin, span, one, _)| (pin, span, one.property.clone())).collect()
    }

    fn bouts(
        &self,
        outcome: &Outcome<'_>,
        element: crate::markup::ElementRef<'_>,
        bouts: &mut BTreeMap<(usize, Span), Bout>,
    ) {
        let all = || outcome.may_win.iter().chain([&outcome.winner]).chain(&outcome.losers);
        let winner = &outcome.winner;
        for (number, one) in all().enumerate() {
            let Some(pin) = self.owner(one) else { continue };
            let rules = &self.sheets.sheets[one.sheet.unwrap_or_default()].rules;
            let (_, span) = rules.source(one.declaration.span);
            let bout = bouts.entry((pin, span)).or_default();
            let wins = number <= outcome.may_win.len();
            if wins {
                bout.won = true;
                let others = || all().filter(|other| !std::ptr::eq(*other, one));
                bout.needs_importance |= one.declaration.important
                    && others().any(|other| self.owner(other) != Some(pin) && !one.beats_unimportant(other));
                let same = |other: &Applied<'_>| {
                    other.matched == Truth::Yes
                        && other.longhand == one.longhand
                        && other.value(&self.sheets.sheets) == one.value(&self.sheets.sheets)
                };
                bout.changes |= one.matched != Truth::Yes || !outcome.losers.first().is_some_and(same);
                continue;
            }
            // What comes to the same loses nothing, and a pin may well overrule itself.
            let same_value = winner.value(&self.sheets.sheets) == one.value(&self.sheets.sheets)
                && winner.declaration.property == one.declaration.property;
            if self.owner(winner) == Some(pin) || winner.matched != Truth::Yes || same_value {
                bout.won = true;
                bout.changes = true;
                bout.needs_importance |= one.declaration.important;
            } else {
                bout.lost = true;
                if bout.rival.is_none() {
                    bout.rival = Some(self.rival(winner, one, element));
                }
            }
        }
    }

    /// What a pin's sheet defines for the whole page under a name of the site's.
    fn leaks(&self, sheet: usize) -> Vec<Leak> {
        let places = || self.sheets.places.iter().enumerate();
        let site = || places().filter(|(_, place)| place.origin == SheetOrigin::Site);
        let own = &self.sheets.sheets[sheet].rules;
        let shared = own.definitions.iter().filter(|definition| definition.kind != "font-face");
        let leak = |definition: &crate::style::Definition| {
            let (number, other) = site().find_map(|(number, _)| {
                let mut others = self.sheets.sheets[number].rules.definitions.iter();
                let same =
                    others.find(|other| (&other.kind, &other.name) == (&definition.kind, &definition.name));
                same.map(|other| (number, other))
            })?;
            let (_, span) = own.source(definition.span);
            let place = self.place_of(number, other.span);
            Some(Leak { span, kind: definition.kind.clone(), name: definition.name.clone(), place })
        };
        shared.filter_map(leak).collect()
    }

    /// A place in a sheet of the page, as one in its file.
    fn place_of(&self, sheet: usize, span: Span) -> Place {
        let rules = &self.sheets.sheets[sheet].rules;
        let about = &self.sheets.places[sheet];
        let own = rules.own_span(span);
        let is_site = about.origin == SheetOrigin::Site;
        let file = if is_site { self.arena.site.path_of(&about.file) } else { about.file.clone() };
        let file = rules.file(span.start).cloned().unwrap_or(file);
        let position = |at: u32| about.position(rules.position(at));
        let in_file = Span { start: own.start + about.start, end: own.end + about.start };
        Place { file, span: in_file, start: position(span.start), end: position(span.end) }
    }

    fn rival(
        &self,
        winner: &Applied<'_>,
        loser: &Applied<'_>,
        element: crate::markup::ElementRef<'_>,
    ) -> Rival {
        let text = winner.text(&self.sheets.sheets).slice(winner.declaration.span).to_owned();
        let (place, selector) = match winner.sheet {
            None => (self.attribute(element), None),
            Some(sheet) => {
                let rules = &self.sheets.sheets[sheet].rules;
                let place = self.place_of(sheet, winner.declaration.span);
                (place, winner.selector.map(|selector| rules.written(selector.span).to_owned()))
            }
        };
        Rival {
            place,
            text,
            selector,
            specificity: winner.specificity(),
            over: loser.specificity(),
            pin: self.owner(winner).map(|pin| self.arena.plan.board.pins[pin].name.to_string()),
            step: winner.beats_by(loser),
            element: crate::find::label(element),
        }
    }

    /// The start tag that a style attribute stands in.
    fn attribute(&self, element: crate::markup::ElementRef<'_>) -> Place {
        let file: FilePath = self.arena.site.path_of(&self.page.file);
        let span = match element.data().origin {
            crate::markup::Origin::Tag(span) => span,
            crate::markup::Origin::Implied(at) => Span { start: at, end: at },
        };
        let position = |at: u32| -> Position { crate::source::position_in(self.text, at) };
        Place { file, span, start: position(span.start), end: position(span.end) }
    }
}
