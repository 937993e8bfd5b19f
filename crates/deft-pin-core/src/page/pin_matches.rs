//! What a page has of what pins ask for: their `having`, their targets, and the elements that the
//! selectors of their sheets match. One walk over the page's elements finds all of it.

use crate::code::{Id as _, PinId, Table};
use crate::markup::{Assume, Document, Matcher, NodeId, Selector, SelectorIndex, SelectorList};
use crate::plan::{Plan, PlannedPin};

/// What a page has of what one pin asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PinMatches {
    /// The pin.
    pub pin: PinId,
    /// Whether the page holds what the pin's `having` asks for, so that the pin is on it.
    pub is_on_page: bool,
    /// The elements that are its target.
    pub targets: Vec<NodeId>,
    /// For each selector of its sheet, whether it may match something, confined as it will be.
    pub matched: Box<[bool]>,
}

/// What a selector is tried for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Question {
    /// Does the page have what the pin's `having` asks for?
    Having,
    /// What is the pin's target on the page?
    Within,
    /// Does the selector of this number, counted over the pin's whole sheet, match?
    Rule(usize),
}

#[derive(Debug)]
struct Test {
    pin: PinId,
    question: Question,
    selector: Selector,
}

/// The selectors of all pins that are not left out.
#[derive(Debug, Default)]
pub struct PinSelectors {
    tests: Vec<Test>,
    index: SelectorIndex<u32>,
    /// How many selectors the sheet of each pin has.
    counts: Table<PinId, usize>,
}

impl PinSelectors {
    /// Sorts the selectors of a plan.
    pub fn new(plan: &Plan<'_>) -> Self {
        let count = |(_, pin): (_, &PlannedPin)| pin.style.iter().flat_map(|style| style.selectors()).count();
        let mut all = PinSelectors { counts: plan.pins.map(count), ..PinSelectors::default() };
        for (id, pin) in plan.board.active_pins() {
            if let Some(having) = &pin.having {
                all.add_list(id, Question::Having, &having.list);
            }
            if let Some(within) = &pin.within {
                all.add_list(id, Question::Within, &within.list);
            }
            let selectors = plan.pins[id].style.iter().flat_map(|style| style.selectors());
            for (number, selector) in selectors.enumerate() {
                all.add(id, Question::Rule(number), &selector.fenced);
            }
        }
        all
    }

    fn add_list(&mut self, pin: PinId, question: Question, list: &SelectorList) {
        list.slice().iter().for_each(|selector| self.add(pin, question, selector));
    }

    fn add(&mut self, pin: PinId, question: Question, selector: &Selector) {
        self.index.add(selector, crate::source::offset(self.tests.len()));
        self.tests.push(Test { pin, question, selector: selector.clone() });
    }

    /// What a page has of what some pins ask for, in their order.
    pub fn matches(&self, document: &Document, pins: &[PinId], plan: &Plan<'_>) -> Vec<PinMatches> {
        let blank = |pin: &PinId| PinMatches {
            pin: *pin,
            is_on_page: plan.board.pins[*pin].having.is_none(),
            targets: Vec::new(),
            matched: vec![false; self.counts[*pin]].into(),
        };
        let mut found: Vec<PinMatches> = pins.iter().map(blank).collect();
        let mut places = vec![None; plan.pins.len()];
        pins.iter().enumerate().for_each(|(place, pin)| places[pin.index()] = Some(place));
        let mut matcher = Matcher::new();
        for element in document.elements() {
            self.index.each_candidate(element.data(), |number| {
                let test = &self.tests[number as usize];
                let Some(place) = places[test.pin.index()] else { return };
                let own = &mut found[place];
                let is_known = match test.question {
                    Question::Having => own.is_on_page,
                    Question::Within => own.targets.last() == Some(&element.id),
                    Question::Rule(number) => own.matched[number],
                };
                if is_known || !matcher.matches(&test.selector, element, Assume::May) {
                    return;
                }
                match test.question {
                    Question::Having => own.is_on_page = true,
                    Question::Within => own.targets.push(element.id),
                    Question::Rule(number) => own.matched[number] = true,
                }
            });
        }
        found
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::board::Board;
    use crate::markup::parse;
    use crate::source::MemoryFiles;

    #[test]
    fn one_walk_finds_what_each_pin_asks_for() {
        let board = Board::parse(
            "[site]\nroot = 's'\n[pin.a]\nhaving = '.wide, #none'\nwithin = 'p'\nstyle = 'a.css'\n\
             [pin.b]\nhaving = '.gone'\nstyle = 'a.css'\n[pin.c]\nwithin = '#Fares'\nstyle = 'a.css'\noff = true\n",
        )
        .unwrap();
        let files = MemoryFiles::from([("a.css", "b, main {} .x:hover {} .gone {}")]);
        let plan = Plan::new(&board, &files);
        let selectors = PinSelectors::new(&plan);
        let html = "<!doctype html><main id=fares class=WIDE><p>1<p class='x wide'>2 <b>x</b></main>";
        for (html, expected) in [
            (html.to_owned(), "true 2 [true, false, true, false]"),
            (html[15..].to_owned(), "true 2 [true, false, true, false]"),
            ("<!doctype html><p>".to_owned(), "false 1 [false, false, false, false]"),
        ] {
            let (_, document) = parse(html.as_bytes());
            let pins: Vec<PinId> = board.pins.ids().take(2).collect();
            let found = selectors.matches(&document, &pins, &plan);
            let own = &found[0];
            assert_eq!(
                format!("{} {} {:?}", own.is_on_page, own.targets.len(), own.matched),
                expected,
                "{html}"
            );
            assert!(!found[1].is_on_page && found[1].targets.is_empty());
        }
    }
}
