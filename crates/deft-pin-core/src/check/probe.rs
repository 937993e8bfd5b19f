//! The selectors of all pins, sorted by the name that an element needs to match them, so that
//! one walk over a page's elements tries only what may match.

use html5ever::tree_builder::QuirksMode;
use rustc_hash::FxHashMap;

use crate::markup::{
    Assume, Document, ElementRef, Matcher, NamedPart, NodeId, Selector, SelectorList, key_of,
};
use crate::plan::Plan;

/// What a selector is tried for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Question {
    /// Does the page have what the pin's `having` asks for?
    Having,
    /// What is the pin's target on the page?
    Within,
    /// Does the selector of this number, counted over the pin's whole sheet, match?
    Rule(usize),
}

struct Test {
    pin: usize,
    question: Question,
    selector: Selector,
}

/// Every selector of a plan that pages are matched against.
#[derive(Default)]
pub struct Probe {
    tests: Vec<Test>,
    by_id: FxHashMap<Box<str>, Vec<usize>>,
    by_class: FxHashMap<Box<str>, Vec<usize>>,
    by_tag: FxHashMap<Box<str>, Vec<usize>>,
    anywhere: Vec<usize>,
}

/// What a walk over a page found for one pin.
#[derive(Clone, Debug, Default)]
pub(super) struct Answers {
    pub(super) having: bool,
    pub(super) within: Vec<NodeId>,
    /// By the number of the selector.
    pub(super) matched: Vec<bool>,
}

impl Probe {
    /// Sorts the selectors of a plan.
    pub fn new(plan: &Plan<'_>) -> Self {
        let mut probe = Probe::default();
        for (pin, (board, planned)) in plan.board.pins.iter().zip(&plan.pins).enumerate() {
            if board.off {
                continue;
            }
            if let Some(having) = &board.having {
                probe.add_list(pin, Question::Having, &having.list);
            }
            if let Some(within) = &board.within {
                probe.add_list(pin, Question::Within, &within.list);
            }
            let rules = planned.style.iter().flat_map(|style| &style.rules);
            for (number, test) in rules.flat_map(|rule| &rule.selectors).enumerate() {
                probe.add(pin, Question::Rule(number), test.placed.clone());
            }
        }
        probe
    }

    fn add_list(&mut self, pin: usize, question: Question, list: &SelectorList) {
        for selector in list.slice() {
            self.add(pin, question, selector.clone());
        }
    }

    fn add(&mut self, pin: usize, question: Question, selector: Selector) {
        let number = self.tests.len();
        match key_of(&selector) {
            Some(NamedPart::Id(name)) => self.by_id.entry((*name).into()).or_default(),
            Some(NamedPart::Class(name)) => self.by_class.entry((*name).into()).or_default(),
            Some(NamedPart::Tag(name)) => self.by_tag.entry((*name).into()).or_default(),
            None => &mut self.anywhere,
        }
        .push(number);
        self.tests.push(Test { pin, question, selector });
    }

    /// Walks a page once for some of the pins; the answers are in the order of `pins`.
    pub(super) fn walk(&self, document: &Document, pins: &[usize], plan: &Plan<'_>) -> Vec<Answers> {
        let blank = |pin: &usize| {
            let rules = plan.pins[*pin].style.iter().flat_map(|style| &style.rules);
            let selectors = rules.map(|rule| rule.selectors.len()).sum();
            Answers {
                having: plan.board.pins[*pin].having.is_none(),
                within: Vec::new(),
                matched: vec![false; selectors],
            }
        };
        let answers = pins.iter().map(blank).collect();
        let mut places = vec![None; plan.pins.len()];
        pins.iter().enumerate().for_each(|(place, pin)| places[*pin] = Some(place));
        let mut walk = Walk { probe: self, places, answers, matcher: Matcher::new() };
        if document.quirks() == QuirksMode::Quirks {
            // Names match in any case, so the tables of names say nothing.
            let all: Vec<usize> = (0..self.tests.len()).collect();
            document.elements().for_each(|element| walk.try_all(&all, element));
        } else {
            document.elements().for_each(|element| walk.element(element));
        }
        walk.answers
    }
}

struct Walk<'p> {
    probe: &'p Probe,
    /// Where in the answers each pin of the plan is.
    places: Vec<Option<usize>>,
    answers: Vec<Answers>,
    matcher: Matcher,
}

impl Walk<'_> {
    fn element(&mut self, element: ElementRef<'_>) {
        let probe = self.probe;
        let name: &str = &element.data().name.local;
        // Only names in SVG and MathML have capitals.
        let tests = match name.bytes().any(|b| b.is_ascii_uppercase()) {
            true => probe.by_tag.get(&*name.to_ascii_lowercase()),
            false => probe.by_tag.get(name),
        };
        if let Some(tests) = tests {
            self.try_all(tests, element);
        }
        if !probe.by_id.is_empty()
            && let Some(tests) = element.data().id().and_then(|id| probe.by_id.get(id))
        {
            self.try_all(tests, element);
        }
        if !probe.by_class.is_empty() {
            for tests in element.data().classes().filter_map(|class| probe.by_class.get(class)) {
                self.try_all(tests, element);
            }
        }
        self.try_all(&probe.anywhere, element);
    }

    fn try_all(&mut self, tests: &[usize], element: ElementRef<'_>) {
        for test in tests.iter().map(|&number| &self.probe.tests[number]) {
            let Some(place) = self.places[test.pin] else { continue };
            let answers = &mut self.answers[place];
            let known = match test.question {
                Question::Having => answers.having,
                Question::Within => answers.within.last() == Some(&element.id),
                Question::Rule(number) => answers.matched[number],
            };
            if known || !self.matcher.matches(&test.selector, element, Assume::May) {
                continue;
            }
            match test.question {
                Question::Having => answers.having = true,
                Question::Within => answers.within.push(element.id),
                Question::Rule(number) => answers.matched[number] = true,
            }
        }
    }
}
