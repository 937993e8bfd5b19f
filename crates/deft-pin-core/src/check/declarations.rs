//! What the declarations of pins come to on a page: which of them win, which lose and to whom, what
//! they hide, and what they keep in view.

use std::collections::BTreeMap;

use rustc_hash::FxHashMap;
use serde::Serialize;

use super::finding::Place;
use crate::code::{CodeKind, Origin, PinId};
use crate::find::label;
use crate::markup::{self, ElementRef, NodeId};
use crate::page::PageAnalysis;
use crate::plan::Placement;
use crate::site::PageSheets;
use crate::source::Span;
use crate::style::{
    Applied, Cascade, Likeness, NoEffect, Outcome, Step, Truth, Viewport, may_have_no_effect, no_effect,
};

/// A declaration of a pin: where it stands in the pin's sheet as it was written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct PinDeclaration {
    pub(super) pin: PinId,
    pub(super) span: Span,
}

/// What a declaration of a pin comes to on a page.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash, Serialize)]
pub struct DeclarationResult {
    /// On how many elements it wins some longhand, or may.
    pub(super) wins: u32,
    /// On how many elements it loses all of its longhands.
    pub(super) loses: u32,
    /// Whether it is important and somewhere wins by that alone.
    pub(super) needs_importance: bool,
    /// Whether it somewhere changes anything.
    pub(super) changes: bool,
    /// The strongest that it loses to.
    pub(super) winner: Option<Box<Winner>>,
    /// Whether its property is not for every element.
    pub(super) is_asked: bool,
    /// Whether it somewhere does something, as far as is known.
    pub(super) acts: bool,
    /// Where it wins and does nothing: why, and a short name for the first such element.
    pub(super) idle: Option<(NoEffect, String)>,
}

/// A declaration that beats one of a pin's.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct Winner {
    /// Where it stands.
    pub(super) place: Place,
    /// Its text.
    pub(super) text: String,
    /// The selector that it stands under; none for a style attribute.
    pub(super) selector: Option<String>,
    /// Its specificity.
    pub(super) specificity: [u32; 3],
    /// The specificity of the one that it beats.
    pub(super) over: [u32; 3],
    /// The pin that it is from.
    pub(super) pin: Option<PinId>,
    /// The step that decides.
    pub(super) step: Step,
    /// A short name for an element on which it wins.
    pub(super) element: String,
}

/// An element that a declaration hides, and no rule shows again.
#[derive(Clone, Debug)]
pub(super) struct HiddenElement {
    pub(super) declaration: PinDeclaration,
    pub(super) element: NodeId,
}

/// An element that a declaration keeps in view.
#[derive(Clone, Copy, Debug)]
pub(super) struct FixedElement {
    pub(super) declaration: PinDeclaration,
    pub(super) element: NodeId,
}

/// What the declarations of pins come to on a page.
#[derive(Debug, Default)]
pub(super) struct PageDeclarations {
    /// Each declaration that matches something, or may.
    pub(super) results: BTreeMap<PinDeclaration, DeclarationResult>,
    /// For each pin with a sheet how many elements its rules match, or may.
    pub(super) touched: BTreeMap<PinId, u32>,
    /// What they hide: of each declaration the first element.
    pub(super) hidden: Vec<HiddenElement>,
    /// What they keep in view.
    pub(super) fixed: Vec<FixedElement>,
}

/// What one declaration comes to on one element.
#[derive(Default)]
struct ElementResult {
    won: bool,
    lost: bool,
    needs_importance: bool,
    changes: bool,
    winner: Option<Winner>,
    is_asked: bool,
    acts: bool,
    idle: Option<NoEffect>,
}

/// What the first of some elements that are alike had to say: each of the others says the same.
#[derive(Clone, Default)]
struct ElementAnswer {
    touched: Vec<PinId>,
    won: Vec<PinDeclaration>,
    lost: Vec<PinDeclaration>,
    fixed: Vec<PinDeclaration>,
}

/// Whether a declaration hides what it applies to.
fn hides(property: &str, value: &str) -> bool {
    let is = |words: &[&str]| words.iter().any(|word| value.trim().eq_ignore_ascii_case(word));
    match property {
        "display" => is(&["none"]),
        "visibility" => is(&["hidden", "collapse"]),
        "opacity" => is(&["0", "0%", "0.0", ".0"]),
        _ => false,
    }
}

impl PageDeclarations {
    pub(super) fn of(page: &PageAnalysis<'_>) -> Self {
        let mut found = PageDeclarations::default();
        let has_style = |placement: &Placement| {
            placement.code.kind == CodeKind::Style && placement.code.owner.pin().is_some()
        };
        if !page.placements().iter().any(has_style) {
            return found;
        }
        let sheets = page.sheets();
        let pins: BTreeMap<usize, PinId> = sheets
            .places
            .iter()
            .enumerate()
            .filter_map(|(number, place)| Some((number, place.origin.pin()?)))
            .collect();
        let reader = Reader { page, sheets, pins: &pins };
        let mut cascade = Cascade::new(page.document(), &sheets.sheets, Viewport::default(), Vec::new());
        let mut answers: FxHashMap<Likeness, ElementAnswer> = FxHashMap::default();
        for element in page.document().elements() {
            if !pins.keys().any(|sheet| cascade.has_candidates(*sheet, element)) {
                continue;
            }
            let likeness = cascade.likeness(element);
            if let Some(answer) = likeness.and_then(|likeness| answers.get(&likeness)) {
                found.repeat(answer, element.id);
                continue;
            }
            let answer = reader.element(element, &mut cascade, &mut found);
            likeness.into_iter().for_each(|likeness| {
                answers.entry(likeness).or_insert_with(|| answer.clone());
            });
            found.repeat(&answer, element.id);
        }
        found
    }

    /// Counts an element that has this to say.
    fn repeat(&mut self, answer: &ElementAnswer, element: NodeId) {
        for pin in &answer.touched {
            *self.touched.entry(*pin).or_default() += 1;
        }
        for declaration in &answer.won {
            self.results.entry(*declaration).or_default().wins += 1;
        }
        for declaration in &answer.lost {
            self.results.entry(*declaration).or_default().loses += 1;
        }
        let fixed = answer.fixed.iter();
        self.fixed.extend(fixed.map(|declaration| FixedElement { declaration: *declaration, element }));
    }
}

/// Reads what the cascade says, for the sheets of pins.
struct Reader<'r> {
    page: &'r PageAnalysis<'r>,
    sheets: &'r PageSheets,
    /// The pins, by the places of their sheets in the page's list.
    pins: &'r BTreeMap<usize, PinId>,
}

impl<'r> Reader<'r> {
    /// What an element and its pseudo-elements have to say. What cannot be counted is noted at once:
    /// winners, and what is hidden.
    fn element(
        &self,
        element: ElementRef<'r>,
        cascade: &mut Cascade<'r>,
        found: &mut PageDeclarations,
    ) -> ElementAnswer {
        let mut answer = ElementAnswer::default();
        let mut parts: Vec<Option<&str>> = Vec::new();
        for (sheet, pin) in self.pins {
            let touched = cascade.touched(*sheet, element);
            answer.touched.extend((!touched.is_empty()).then_some(*pin));
            touched.into_iter().for_each(|part| {
                if !parts.contains(&part) {
                    parts.push(part);
                }
            });
        }
        for part in parts {
            self.part(element, part, cascade, found, &mut answer);
        }
        answer
    }

    fn part(
        &self,
        element: ElementRef<'r>,
        part: Option<&str>,
        cascade: &mut Cascade<'r>,
        found: &mut PageDeclarations,
        answer: &mut ElementAnswer,
    ) {
        let outcomes = cascade.outcomes_of(element, part, &|sheet| self.pins.contains_key(&sheet));
        let mut results: BTreeMap<PinDeclaration, ElementResult> = BTreeMap::new();
        for outcome in &outcomes {
            self.compare(outcome, element, &mut results);
            self.try_effect(outcome, (element, part), cascade, &mut results);
        }
        for (declaration, own) in results {
            let result = found.results.entry(declaration).or_default();
            answer.won.extend(own.won.then_some(declaration));
            answer.lost.extend((own.lost && !own.won).then_some(declaration));
            result.needs_importance |= own.needs_importance;
            result.changes |= own.changes;
            result.acts |= own.acts;
            result.is_asked |= own.is_asked;
            if let (None, Some(why)) = (&result.idle, own.idle) {
                let part = part.map(|part| format!("::{part}")).unwrap_or_default();
                result.idle = Some((why, label(element) + &part));
            }
            if !own.won && result.winner.is_none() {
                result.winner = own.winner.map(Box::new);
            }
        }
        if part.is_some() {
            return;
        }
        let certain = outcomes
            .iter()
            .filter(|outcome| outcome.winner.matched == Truth::Yes && outcome.may_win.is_empty());
        for outcome in certain {
            let Some(declaration) = self.declaration(&outcome.winner) else { continue };
            let value = outcome.winner.value(&self.sheets.sheets);
            let property = &outcome.property;
            let stays = || {
                let value = value.trim();
                value.eq_ignore_ascii_case("fixed") || value.eq_ignore_ascii_case("sticky")
            };
            if *property == "position" && stays() {
                answer.fixed.push(declaration);
            }
            let is_known = || found.hidden.iter().any(|hidden| hidden.declaration == declaration);
            let shows = |value: &str| !hides(property.name(), value);
            if hides(property.name(), value) && !is_known() && !cascade.may_come_to(element, property, &shows)
            {
                found.hidden.push(HiddenElement { declaration, element: element.id });
            }
        }
    }

    /// The declaration of a pin that one is.
    fn declaration(&self, applied: &Applied<'_>) -> Option<PinDeclaration> {
        let sheet = applied.sheet()?;
        let (_, span) = self.sheets.sheets[sheet].rules.source(applied.declaration.span);
        Some(PinDeclaration { pin: *self.pins.get(&sheet)?, span })
    }

    fn pin(&self, applied: &Applied<'_>) -> Option<PinId> {
        self.pins.get(&applied.sheet()?).copied()
    }

    /// Whether the winner of a longhand does anything, where it is a pin's.
    fn try_effect(
        &self,
        outcome: &Outcome<'_>,
        (element, part): (ElementRef<'r>, Option<&str>),
        cascade: &mut Cascade<'r>,
        results: &mut BTreeMap<PinDeclaration, ElementResult>,
    ) {
        let property = outcome.property.name();
        if !may_have_no_effect(property, part) {
            // Whatever else it sets, it does something.
            for one in outcome.may_win.iter().chain([&outcome.winner]).filter(|one| !is_animation(one)) {
                let declaration = self.declaration(one);
                declaration.into_iter().for_each(|own| results.entry(own).or_default().acts = true);
            }
            return;
        }
        let all = || outcome.may_win.iter().chain([&outcome.winner]).chain(&outcome.losers);
        for (number, one) in all().enumerate() {
            let Some(declaration) = self.declaration(one) else { continue };
            let result = results.entry(declaration).or_default();
            result.is_asked = true;
            // What it overrules had its effect.
            let overrules = outcome.property == *"position" && !outcome.losers.is_empty();
            let is_settled =
                !overrules && number == 0 && outcome.may_win.is_empty() && one.matched == Truth::Yes;
            if result.acts || !is_settled {
                // What may win may have its effect, too. What loses says nothing here.
                result.acts |= number <= outcome.may_win.len();
                continue;
            }
            let value = one.value(&self.sheets.sheets);
            if is_animation(one) && property != "animation-name" {
                continue;
            }
            let is_whole = one.declaration.property == outcome.property;
            match no_effect(cascade, element, part, property, (value, is_whole)) {
                Some(why) => result.idle = Some(why),
                None => result.acts = true,
            }
        }
    }

    /// What one longhand says of each declaration of a pin that sets it.
    fn compare(
        &self,
        outcome: &Outcome<'_>,
        element: ElementRef<'_>,
        results: &mut BTreeMap<PinDeclaration, ElementResult>,
    ) {
        let all = || outcome.may_win.iter().chain([&outcome.winner]).chain(&outcome.losers);
        let winner = &outcome.winner;
        for (number, one) in all().enumerate() {
            let Some(declaration) = self.declaration(one) else { continue };
            let pin = Some(declaration.pin);
            let result = results.entry(declaration).or_default();
            let wins = number <= outcome.may_win.len();
            if wins {
                result.won = true;
                let others = || all().filter(|other| !std::ptr::eq(*other, one));
                result.needs_importance |= one.declaration.important
                    && others().any(|other| self.pin(other) != pin && !one.beats_unimportant(other));
                let is_same = |other: &Applied<'_>| {
                    // What a pin says before, with a prefix say, it says for other browsers.
                    self.pin(other) != pin
                        && other.matched == Truth::Yes
                        && other.longhand == one.longhand
                        && other.value(&self.sheets.sheets) == one.value(&self.sheets.sheets)
                };
                result.changes |= one.matched != Truth::Yes || !outcome.losers.first().is_some_and(is_same);
                continue;
            }
            // What comes to the same loses nothing, and a pin may well overrule itself.
            let same_value = winner.value(&self.sheets.sheets) == one.value(&self.sheets.sheets)
                && winner.declaration.property == one.declaration.property;
            if self.pin(winner) == pin || winner.matched != Truth::Yes || same_value {
                result.won = true;
                result.changes = true;
                result.needs_importance |= one.declaration.important;
            } else {
                result.lost = true;
                if result.winner.is_none() {
                    result.winner = Some(self.winner(winner, one, element));
                }
            }
        }
    }

    fn winner(&self, winner: &Applied<'_>, loser: &Applied<'_>, element: ElementRef<'_>) -> Winner {
        let text = winner.text(&self.sheets.sheets).slice(winner.declaration.span).to_owned();
        let (place, selector) = match winner.sheet() {
            None => (attribute_place(self.page, element), None),
            Some(sheet) => {
                let rules = &self.sheets.sheets[sheet].rules;
                let place = place_in_sheet(self.page, sheet, winner.declaration.span);
                (place, winner.selector().map(|selector| rules.written(selector.span).to_owned()))
            }
        };
        Winner {
            place,
            text,
            selector,
            specificity: winner.specificity(),
            over: loser.specificity(),
            pin: self.pin(winner),
            step: winner.beats_by(loser),
            element: label(element),
        }
    }
}

/// Whether a declaration is of a whole animation: without its name or its duration nothing else of it counts.
fn is_animation(one: &Applied<'_>) -> bool {
    one.declaration.property.name().trim_start_matches("-webkit-") == "animation"
}

/// A place in a sheet of a page, as one in its file; `span` is one of the sheet as it applies.
pub(super) fn place_in_sheet(page: &PageAnalysis<'_>, sheet: usize, span: Span) -> Place {
    let rules = &page.sheets().sheets[sheet].rules;
    let about = &page.sheets().places[sheet];
    let file = match about.origin {
        Origin::Site | Origin::Attribute => page.context().site().path_of(&about.file),
        Origin::Board(_) => about.file.clone(),
    };
    let file = rules.file(span.start).cloned().unwrap_or(file);
    let position = |at: u32| about.position(rules.position(at));
    Place {
        file,
        span: about.span(rules.own_span(span)),
        start: position(span.start),
        end: position(span.end),
        parts: Vec::new(),
    }
}

/// The start tag that a style attribute stands in.
fn attribute_place(page: &PageAnalysis<'_>, element: ElementRef<'_>) -> Place {
    let span = match element.data().origin {
        markup::Origin::Tag(span) => span,
        markup::Origin::Implied(at) => Span { start: at, end: at },
    };
    let position = |at: u32| page.parsed().position(at);
    let file = page.context().site().path_of(&page.page().file);
    let (start, end) = (position(span.start), position(span.end));
    // Places are those of the page as it is served.
    let served = |at: u32| page.parsed().served().map_or(at, |served| served.place(at));
    let span = Span { start: served(span.start), end: served(span.end) };
    Place { file, span, start, end, parts: Vec::new() }
}
