//! Explanations: why something does not match, where a target stands, and what would last longer
//! than a selector. They are worked out on the few pages that findings speak of, once it is known
//! from the facts of all pages what there is to explain.

use std::collections::{BTreeMap, BTreeSet};

use super::selector_places::{LastingSelector, SelectorPlace, brittle_selectors, lasting_alternative};
use crate::code::{PageId, PinId};
use crate::find::label;
use crate::markup::{Assume, Matcher, NamedPart, Selector, names_in};
use crate::page::PageAnalysis;

/// What is asked of a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Question {
    /// What does it lack that the pin's `having` asks for?
    MissingHaving(PinId),
    /// What does it lack of the pin's target?
    MissingTarget(PinId),
    /// What does it lack that the selector of this number in the pin's sheet asks for?
    MissingMatch(PinId, u32),
    /// On which lines do the pin's targets begin?
    TargetLines(PinId),
    /// What finds the same as a brittle selector of the pin, and is likely to last?
    LastingAlternative(PinId, SelectorPlace),
}

/// What a page answers.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Explanation {
    /// Why a selector matches nothing.
    Missing(MissingName),
    /// The lines on which elements begin, from 1.
    Lines(Vec<u32>),
    /// What is likely to last; none where the brittle selector matches nothing.
    Alternative(Option<LastingSelector>),
}

/// Why a selector matches nothing on a page.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub struct MissingName {
    /// The first name in it that the page does not have; none where all are there.
    pub name: Option<String>,
    /// A name of the page that is nearly that one.
    pub near: Option<String>,
    /// Whether it matches outside of the pin's target.
    pub is_outside: bool,
    /// The element in whose shadow tree the page has the name.
    pub in_shadow_of: Option<String>,
}

/// How many of the pages that say the same are asked: pages of one type have much the same names.
pub(super) const ASKED_PAGES: usize = 64;

/// How much a page is asked at most. Findings past that go without an explanation: there are more of
/// them than anybody reads.
const MOST_QUESTIONS: usize = 1000;

/// What is asked, page by page.
#[derive(Clone, Debug, Default)]
pub struct Questions(BTreeMap<PageId, BTreeSet<Question>>);

impl Questions {
    /// Asks the first few of some pages, which are in the order of the site.
    pub(super) fn ask_some(&mut self, pages: &[PageId], question: Question) {
        pages.iter().take(ASKED_PAGES).for_each(|page| self.ask(*page, question));
    }

    /// Asks one page.
    pub(super) fn ask(&mut self, page: PageId, question: Question) {
        let asked = self.0.entry(page).or_default();
        if asked.len() < MOST_QUESTIONS {
            asked.insert(question);
        }
    }

    /// The pages that are asked something, in the order of the site, with what they are asked.
    pub fn pages(&self) -> impl Iterator<Item = (PageId, &BTreeSet<Question>)> {
        self.0.iter().map(|(page, questions)| (*page, questions))
    }
}

/// What pages answered.
#[derive(Clone, Debug, Default)]
pub struct Explanations(BTreeMap<(Question, PageId), Explanation>);

impl Explanations {
    /// Takes the answers of a page.
    pub fn add(&mut self, page: PageId, answers: Vec<(Question, Explanation)>) {
        self.0.extend(answers.into_iter().map(|(question, answer)| ((question, page), answer)));
    }

    fn of(&self, question: Question) -> impl Iterator<Item = (PageId, &Explanation)> {
        self.0
            .range((question, PageId::FIRST)..)
            .take_while(move |((asked, _), _)| *asked == question)
            .map(|((_, page), answer)| (*page, answer))
    }

    /// Of what pages lack, what tells the most: the first that has something near, else the first
    /// with a name, else the first.
    pub(super) fn missing(&self, questions: impl Iterator<Item = Question> + Clone) -> Option<&MissingName> {
        let all = || {
            let answers = questions.clone().flat_map(|question| self.of(question));
            answers.filter_map(|(_, answer)| match answer {
                Explanation::Missing(missing) => Some(missing),
                _ => None,
            })
        };
        let has_near = |missing: &&MissingName| missing.near.is_some();
        all().find(has_near).or_else(|| all().find(|missing| missing.name.is_some())).or_else(|| all().next())
    }

    /// The lines that a page answered with.
    pub(super) fn lines(&self, question: Question) -> &[u32] {
        let mut lines = self.of(question).filter_map(|(_, answer)| match answer {
            Explanation::Lines(lines) => Some(lines.as_slice()),
            _ => None,
        });
        lines.next().unwrap_or_default()
    }

    /// What is likely to last, with the page that says so.
    pub(super) fn alternative(&self, question: Question) -> Option<(PageId, &LastingSelector)> {
        self.of(question).find_map(|(page, answer)| match answer {
            Explanation::Alternative(found) => Some((page, found.as_ref()?)),
            _ => None,
        })
    }
}

/// What a page answers to a question.
pub(super) fn explain(page: &PageAnalysis<'_>, question: Question) -> Option<Explanation> {
    let plan = page.context().plan;
    let matches = |pin| page.matches().iter().find(|matches| matches.pin == pin);
    Some(match question {
        Question::MissingHaving(pin) => {
            Explanation::Missing(missing(page, plan.board.pins[pin].having.as_ref()?.list.slice()))
        }
        Question::MissingTarget(pin) => {
            Explanation::Missing(missing(page, plan.board.pins[pin].within.as_ref()?.list.slice()))
        }
        Question::MissingMatch(pin, number) => {
            let style = plan.pins[pin].style.as_ref()?;
            let written = &style.selector(number)?.written;
            let mut found = missing(page, std::slice::from_ref(written));
            let text = style.file.text.slice(style.selector(number)?.span);
            if let (Some(name), None) = (&found.name, &found.near) {
                found.near = parted_name(page, name, text);
            }
            if found.name.is_none() && plan.board.pins[pin].within.is_some() {
                let mut matcher = Matcher::new();
                let mut elements = page.document().elements();
                found.is_outside = elements.any(|element| matcher.matches(written, element, Assume::May));
            }
            Explanation::Missing(found)
        }
        Question::TargetLines(pin) => {
            let targets = matches(pin)?.targets.iter().take(3);
            let elements = targets.filter_map(|id| page.document().element(*id));
            Explanation::Lines(elements.map(|element| page.parsed().line_of(element)).collect())
        }
        Question::LastingAlternative(pin, place) => {
            let brittle = brittle_selectors(plan, pin).into_iter().filter(|brittle| brittle.place == place);
            let mut found = brittle.filter_map(|brittle| lasting_alternative(&brittle, page.document()));
            Explanation::Alternative(found.next())
        }
    })
}

/// A name of the page that a selector has with a blank in the place of its dash.
fn parted_name(page: &PageAnalysis<'_>, name: &str, selector: &str) -> Option<String> {
    let words: Vec<&str> = selector.split_ascii_whitespace().collect();
    let pairs = words.windows(2).filter(|pair| pair[0].ends_with(name));
    let mut whole = pairs.map(|pair| format!("{name}-{}", pair[1]));
    whole.find(|whole| {
        let part = match whole.strip_prefix('#') {
            Some(id) => NamedPart::Id(id.into()),
            None => NamedPart::Class(whole.trim_start_matches('.').into()),
        };
        page.names().has(&part)
    })
}

/// What a page lacks for any of some selectors to match.
pub(super) fn missing(page: &PageAnalysis<'_>, selectors: &[Selector]) -> MissingName {
    let mut names = selectors.iter().flat_map(names_in);
    // What a script brings in is not what is wrong with a selector that matches nothing.
    let absent: Vec<_> = names.by_ref().filter(|name| !page.names().has(name)).collect();
    let is_brought = |name: &&crate::markup::NamedPart| page.bringing_script(name.name()).is_some();
    let telling = absent.iter().find(|name| !is_brought(name)).or(absent.first());
    match telling {
        None => MissingName::default(),
        Some(name) => {
            let host = page
                .document()
                .shadow_hosts()
                .find(|host| host.shadow_elements().any(|element| name.is_of(element.data())));
            MissingName {
                near: page.names().near(name),
                name: Some(name.to_string()),
                is_outside: false,
                in_shadow_of: host.map(label),
            }
        }
    }
}
