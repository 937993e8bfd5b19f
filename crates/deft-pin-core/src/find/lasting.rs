//! Selectors for an element that match nothing else on the page and are likely to go on matching
//! it: each is proved by matching before it is given.

use selectors::parser::Component;

use super::candidates::{
    CHILD, Candidate, GENERATED, INSIDE, NEXT, POSITION, holding, identifier, is_anchor, own, path_from_root,
    positioned, siblings, tag,
};
use super::index::PageIndex;
use super::quality::{NameQuality, quality};
use super::reason::Reason;
use crate::markup::{ElementRef, NamedPart, Names, Selector, names_in, selectors_in};

/// A selector that matches one element of a page and nothing else there.
#[derive(Clone, Debug)]
pub struct Lasting {
    /// The selector.
    pub selector: String,
    /// What makes it strong or weak, in the order of its parts.
    pub reasons: Vec<Reason>,
}

impl Lasting {
    /// Whether nothing speaks against it.
    pub fn is_strong(&self) -> bool {
        !self.reasons.iter().any(Reason::is_weak)
    }
}

/// How many selectors are tried at most before the whole path has to do.
const TRIED: usize = 600;

/// Up to `wanted` selectors, best first, that match the element and nothing else on its page.
/// There is always one.
pub fn lasting_selectors(index: &PageIndex<'_>, element: ElementRef<'_>, wanted: usize) -> Vec<Lasting> {
    let mut candidates = candidates(element);
    candidates.sort_by(|a, b| {
        let key = |candidate: &Candidate| candidate.cost + candidate.selector.len() as u32 / 8;
        key(a).cmp(&key(b)).then_with(|| a.selector.len().cmp(&b.selector.len()))
    });
    candidates.truncate(TRIED);
    let doubtful = candidates.split_off(candidates.partition_point(|candidate| candidate.cost < GENERATED));
    let mut found = Vec::new();
    take_unique(index, element, candidates, wanted, &mut found);
    if found.is_empty() {
        found.extend(steps_from_anchor(index, element));
    }
    if found.len() < wanted {
        take_unique(index, element, doubtful, wanted, &mut found);
    }
    if found.is_empty() {
        let path = path_from_root(element);
        found.push(Lasting { selector: path.selector, reasons: path.reasons });
    }
    found
}

/// Adds those that match the element alone, until there are as many as are wanted.
fn take_unique(
    index: &PageIndex<'_>,
    element: ElementRef<'_>,
    candidates: Vec<Candidate>,
    wanted: usize,
    found: &mut Vec<Lasting>,
) {
    for candidate in candidates {
        // A second choice that leans on what the first leans on is none.
        let leans_alike = |known: &Lasting| {
            let start = |selector: &str| selector.split(' ').next().map(str::to_owned);
            candidate.selector.contains(&known.selector)
                || start(&candidate.selector) == start(&known.selector)
        };
        if found.len() >= wanted {
            return;
        }
        if !found.iter().any(leans_alike) && index.is_unique(&candidate.selector, element.id) {
            found.push(Lasting { selector: candidate.selector, reasons: candidate.reasons });
        }
    }
}

/// What it costs to lean on a kind of element alone.
const ALONE: u32 = 10;

/// How many ancestors are looked at, and how many names of each.
const ANCESTORS: usize = 24;
const NAMES_OF_EACH: usize = 4;

/// The starts of a way to the element: names of its ancestors, cheapest first.
fn anchors(element: ElementRef<'_>) -> Vec<Candidate> {
    let ancestors = std::iter::successors(element.parent(), |ancestor| ancestor.parent());
    let mut anchors = Vec::new();
    for (distance, ancestor) in ancestors.take(ANCESTORS).enumerate() {
        if !is_anchor(ancestor) {
            // The names of the whole page tell pages apart, not elements.
            break;
        }
        let mut names = own(ancestor);
        names.truncate(NAMES_OF_EACH);
        if distance < 4 {
            names.extend(holding(ancestor).into_iter().take(2));
        }
        for mut name in names {
            name.cost += distance as u32;
            anchors.push(name);
        }
    }
    anchors.sort_by_key(|anchor| anchor.cost);
    anchors
}

fn candidates(element: ElementRef<'_>) -> Vec<Candidate> {
    let mut plain = own(element);
    plain.truncate(14);
    plain.extend(holding(element));
    let anchors = anchors(element);
    let mut all = plain.clone();
    // The only one of its kind today: the next button on the page takes that away.
    let kind = tag(element);
    let is_bare =
        |own: &&mut Candidate| own.selector == kind && own.reasons == [Reason::Kind] && kind != "h1";
    all.iter_mut().filter(is_bare).for_each(|own| own.cost += ALONE);
    for anchor in anchors.iter().take(16) {
        all.extend(plain.iter().map(|own| anchor.then(" ", own, INSIDE)));
    }
    for outer in anchors.iter().take(6) {
        for inner in anchors.iter().take(10).filter(|inner| inner.selector != outer.selector) {
            let way = outer.then(" ", inner, INSIDE + 4);
            all.extend(plain.iter().take(5).map(|own| way.then(" ", own, INSIDE)));
        }
    }
    let place = positioned(element);
    for anchor in anchors.iter().take(10) {
        all.push(anchor.then(" ", &place, INSIDE));
        all.push(anchor.then(" > ", &place, CHILD));
        if let Some(parent) = element.parent() {
            let step = Candidate { selector: tag(parent), cost: 6, reasons: Vec::new() };
            all.push(anchor.then(" ", &step, INSIDE).then(" > ", &place, CHILD));
        }
    }
    // On its own a place says little: any list has a third item.
    all.push(Candidate { cost: place.cost + INSIDE * 8, ..place });
    let before: Vec<ElementRef<'_>> = siblings(element).take_while(|other| *other != element).collect();
    if let Some(before) = before.last() {
        for name in own(*before).iter().chain(&holding(*before)).filter(|name| name.cost < 30).take(4) {
            let mut name = name.clone();
            name.reasons.push(Reason::Neighbour);
            for own in plain.iter().take(3) {
                all.push(name.then(" + ", own, NEXT));
            }
        }
    }
    all
}

/// From the nearest ancestor that has a good name down to the element, child by child, each told
/// from its siblings by a class where that does, else by its place; then without the steps that
/// it is unique without.
fn steps_from_anchor(index: &PageIndex<'_>, element: ElementRef<'_>) -> Option<Lasting> {
    let mut steps = vec![step(element)];
    let mut at = element;
    while let Some(parent) = at.parent() {
        let mut names = own(parent);
        // The body's names tell pages apart; its kind is where every way can start.
        names.retain(|name| name.cost < POSITION && (is_anchor(parent) || name.reasons == [Reason::Kind]));
        for name in names.into_iter().take(NAMES_OF_EACH) {
            let way =
                Way { steps: std::iter::once(&name).chain(steps.iter().rev()).map(|s| (" > ", s)).collect() };
            if index.is_unique(&way.selector(), element.id) {
                return Some(way.shortened(index, element).lasting());
            }
        }
        steps.push(step(parent));
        at = parent;
    }
    None
}

/// Steps from an ancestor to an element, each with the combinator before it.
#[derive(Clone)]
struct Way<'c> {
    steps: Vec<(&'static str, &'c Candidate)>,
}

impl Way<'_> {
    fn selector(&self) -> String {
        let mut text = String::new();
        for (number, (combinator, step)) in self.steps.iter().enumerate() {
            if number > 0 {
                text.push_str(combinator);
            }
            text.push_str(&step.selector);
        }
        text
    }

    /// Without the steps, and with as few children, as leave it unique: what is not said cannot
    /// break.
    fn shortened(mut self, index: &PageIndex<'_>, element: ElementRef<'_>) -> Self {
        let is_unique = |way: &Self| index.is_unique(&way.selector(), element.id);
        // Steps that count siblings go first.
        for counted in [true, false] {
            for at in (1..self.steps.len().saturating_sub(1)).rev() {
                if self.steps[at].1.reasons.contains(&Reason::Position) != counted {
                    continue;
                }
                let mut without = self.clone();
                without.steps.remove(at);
                without.steps[at].0 = " ";
                if is_unique(&without) {
                    self = without;
                }
            }
        }
        for at in 1..self.steps.len() {
            let mut loose = self.clone();
            loose.steps[at].0 = " ";
            if is_unique(&loose) {
                self = loose;
            }
        }
        self
    }

    fn lasting(&self) -> Lasting {
        let mut reasons: Vec<Reason> = Vec::new();
        for reason in self.steps.iter().flat_map(|(_, step)| &step.reasons) {
            if !reasons.contains(reason) {
                reasons.push(reason.clone());
            }
        }
        let children = self.steps.iter().skip(1).filter(|(combinator, _)| *combinator == " > ").count();
        if children > 2 {
            reasons.push(Reason::Chain(children));
        }
        Lasting { selector: self.selector(), reasons }
    }
}

fn step(element: ElementRef<'_>) -> Candidate {
    let alone = |class: &str| {
        siblings(element).all(|other| other == element || other.data().classes().all(|own| own != class))
    };
    let by_class =
        element.data().classes().find(|class| quality(class) <= NameQuality::Numbered && alone(class));
    match by_class {
        Some(class) => Candidate {
            selector: format!("{}.{}", tag(element), identifier(class)),
            cost: 10,
            reasons: vec![Reason::Class],
        },
        None => positioned(element),
    }
}

/// A selector that says where an element is: from itself or the nearest ancestor with an ID that
/// no other element has, child by child. Quick to make, and unique.
pub fn address(index: &PageIndex<'_>, element: ElementRef<'_>) -> String {
    let mut steps: Vec<String> = Vec::new();
    for at in std::iter::successors(Some(element), |at| at.parent()) {
        if let Some(id) = at.data().id().filter(|id| index.times(id) == 1) {
            steps.push(format!("#{}", identifier(id)));
            break;
        }
        let same = || siblings(at).filter(|other| other.data().name.local == at.data().name.local);
        let place = same().position(|other| other == at).map_or(1, |place| place + 1);
        let name = tag(at);
        steps.push(if same().nth(1).is_some() { format!("{name}:nth-of-type({place})") } else { name });
    }
    steps.reverse();
    steps.join(" > ")
}

/// How many steps from child to child make a chain.
const CHAIN: usize = 4;

/// What speaks against a selector that somebody else wrote, inside of `:is()`, `:not()` and `:has()`
/// too.
pub fn weaknesses(selector: &Selector) -> Vec<Reason> {
    let mut found = Vec::new();
    weigh(selector, &mut found);
    found
}

fn weigh(selector: &Selector, found: &mut Vec<Reason>) {
    let mut add = |reason: Reason| {
        if !found.contains(&reason) {
            found.push(reason);
        }
    };
    for name in names_in(selector) {
        let generated = !matches!(name, NamedPart::Tag(_)) && quality(name.name()) == NameQuality::Generated;
        if generated {
            add(Reason::Generated(name.name().to_owned()));
        }
    }
    let mut children = 0;
    let mut inner: Vec<&Selector> = Vec::new();
    for component in selector.iter_raw_match_order() {
        match component {
            Component::Combinator(selectors::parser::Combinator::Child) => children += 1,
            component if counts_siblings(component) => add(Reason::Position),
            component => inner.extend(selectors_in(component)),
        }
    }
    if children >= CHAIN {
        add(Reason::Chain(children));
    }
    inner.into_iter().for_each(|inner| weigh(inner, found));
}

/// Whether it is one place among many: `:nth-child(3)`, but not `:nth-child(odd)`, which is a
/// pattern, nor the first or the last, which are places of their own.
fn counts_siblings(component: &Component<Names>) -> bool {
    match component {
        Component::Nth(nth) => {
            let place = nth.an_plus_b;
            place.0 == 0 && place.1 > 1
        }
        _ => false,
    }
}
