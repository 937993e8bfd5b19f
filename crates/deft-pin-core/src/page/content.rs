//! What pins put into a page before it is read: marks, and markup that is there from the beginning.
//!
//! Marks come first, and markup sees them; neither sees the markup of others. All of it is put into the bytes of the
//! page, which is then parsed: rules, scripts and answers see the page with it in place. That it stands where it is
//! meant to is proved on the new tree.

use std::collections::BTreeMap;
use std::sync::Arc;

use html5ever::ns;
use html5ever::tree_builder::QuirksMode;
use serde::Serialize;

use super::content_edits::{Edits, Written};
use super::content_proof::{Standing, misplaced};
use super::marked_tags::{MarkedTag, attributes_of, is_plain_attribute, mark_tag};
use super::put::{Put, Unplaced, halves, plain_place, put_in};
use crate::board::{Mark, Pin, SelectorText};
use crate::code::PinId;
use crate::markup::{
    Assume, Document, Element, ElementRef, MarkupPlace, Matcher, NamedPart, NodeId, PlainFragment,
    SelectorList, Splice, key_of,
};
use crate::plan::Plan;
use crate::site::{Page, ParsedPage};

/// A piece of what a pin holds for pages.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum ContentPart {
    /// Its mark of this number.
    Mark(usize),
    /// Its markup of this number.
    Markup(usize),
}

/// What came of a piece of a pin's content on a page.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct ContentOutcome {
    /// The pin.
    pub pin: PinId,
    /// Which piece.
    pub part: ContentPart,
    /// How many elements of the page it is for.
    pub elements: usize,
    /// What kept it from being put in at some of them.
    pub trouble: Option<ContentTrouble>,
}

/// What keeps a piece of content from being put in.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum ContentTrouble {
    /// The element has no tag of its own in the page, or it cannot be told where it ends.
    NoTag {
        /// The element's name.
        tag: String,
    },
    /// Put there, it would not be read as it is written.
    Misread(Standing),
    /// The element has another ID.
    TakenId {
        /// That one.
        id: String,
    },
}

impl From<Unplaced> for ContentTrouble {
    fn from(unplaced: Unplaced) -> Self {
        match unplaced {
            Unplaced::NoTag(tag) => ContentTrouble::NoTag { tag },
            Unplaced::NothingToHold => ContentTrouble::Misread(Standing::NothingToHold),
        }
    }
}

/// Up to when what pins hold is put into a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Moment {
    /// What is there from the beginning.
    Served,
    /// What comes once pins have begun as well.
    Settled,
}

/// A page with what pins hold for it.
pub(super) struct PageWithContent<'p> {
    /// The page.
    pub(super) parsed: ParsedPage<'p>,
    /// What came of each piece.
    pub(super) outcomes: Vec<ContentOutcome>,
    /// The pins that are on the page as it is served, before anything was put in; none said where nothing was.
    pub(super) pins: Option<Vec<PinId>>,
}

/// Puts into a page what pins hold for it, those that are meant for it by its path.
pub(super) fn with_content<'p>(
    plan: &Plan<'_>,
    page: &'p Page,
    bytes: &'p [u8],
    meant: &[PinId],
    moment: Moment,
) -> PageWithContent<'p> {
    let mut parsed = ParsedPage::new(page, bytes);
    let pins: Vec<PinId> = meant.iter().copied().filter(|pin| plan.has_content(*pin)).collect();
    if pins.is_empty() {
        return PageWithContent { parsed, outcomes: Vec::new(), pins: None };
    }
    let mut content = Content {
        plan,
        moment,
        marks_are_plain: true,
        marked: BTreeMap::new(),
        outcomes: Vec::new(),
        put: Vec::new(),
    };
    let pins: Vec<PinId> = pins.into_iter().filter(|pin| content.is_on(*pin, &parsed.document)).collect();
    let all = meant.iter().copied().filter(|pin| content.is_on(*pin, &parsed.document));
    let on_page = Some(all.collect());
    let mut edits = Edits::default();
    for pin in &pins {
        for number in 0..plan.board.pins[*pin].marks.len() {
            content.mark(*pin, number, &mut parsed);
        }
    }
    for marked in content.marked.values() {
        mark_tag(&mut edits, parsed.text(), marked);
    }
    for pin in &pins {
        for number in 0..plan.pins[*pin].markup.len() {
            content.markup(*pin, number, &parsed);
        }
    }
    let done = |parsed, outcomes| PageWithContent { parsed, outcomes, pins: on_page };
    let Some(whole) = content.write(&parsed, &edits, &|_| true) else {
        return done(parsed, content.outcomes);
    };
    let parsed = match content.spliced(parsed, whole) {
        Ok(made) => return done(made, content.outcomes),
        Err((parsed, whole)) => {
            let made = ParsedPage::with_content(page, whole.bytes, whole.served);
            if misplaced(&parsed, &made, &content.put).is_empty() {
                return done(made, content.outcomes);
            }
            *parsed
        }
    };
    let (parsed, outcomes) = content.leave_out(page, &parsed, &edits);
    done(parsed, outcomes)
}

struct Content<'c> {
    plan: &'c Plan<'c>,
    moment: Moment,
    /// Whether no mark gives an element what may change how a page is read.
    marks_are_plain: bool,
    /// The tags that marks write into.
    marked: BTreeMap<NodeId, MarkedTag>,
    outcomes: Vec<ContentOutcome>,
    put: Vec<Put>,
}

impl Content<'_> {
    /// Whether a pin is on a page, as far as its `having` tells.
    fn is_on(&self, pin: PinId, document: &Document) -> bool {
        match &self.plan.board.pins[pin].having {
            Some(having) => !matching(document, &having.list).is_empty(),
            None => true,
        }
    }

    /// The elements that a piece is for: those that `at` matches in the pin's target. A mark may make the target: it
    /// is looked for on all of the page then.
    fn elements(
        &self,
        pin: PinId,
        at: Option<&SelectorText>,
        document: &Document,
        is_mark: bool,
    ) -> Vec<NodeId> {
        elements_of(&self.plan.board.pins[pin], at, document, is_mark)
    }

    fn mark(&mut self, pin: PinId, number: usize, parsed: &mut ParsedPage<'_>) {
        let plan = self.plan;
        let mark = &plan.board.pins[pin].marks[number];
        let found = self.elements(pin, mark.at.as_deref(), &parsed.document, true);
        let mut outcome = ContentOutcome { pin, part: ContentPart::Mark(number), elements: 0, trouble: None };
        for id in found {
            let Some(element) = parsed.document.element(id) else { continue };
            outcome.elements += 1;
            let other = element.id().filter(|own| mark.id.as_ref().is_some_and(|id| *id.value != **own));
            let (trouble, set) = match (parsed.document.start_tag(element), other) {
                (None, _) => {
                    (Some(ContentTrouble::NoTag { tag: element.name.local.to_string() }), Vec::new())
                }
                (_, Some(other)) => (Some(ContentTrouble::TakenId { id: other.to_owned() }), Vec::new()),
                (Some(tag), None) => {
                    let set = self.marked.entry(id).or_insert_with(|| MarkedTag::new(tag));
                    (None, set.add(attributes_of(mark, element)))
                }
            };
            for (name, value, _) in set {
                self.marks_are_plain &= is_plain_attribute(&name);
                parsed.document.set_attribute(id, &name, &value);
            }
            outcome.trouble = outcome.trouble.or(trouble);
        }
        self.outcomes.push(outcome);
    }

    fn markup(&mut self, pin: PinId, number: usize, parsed: &ParsedPage<'_>) {
        let markup = &self.plan.pins[pin].markup[number];
        let found = self.elements(pin, markup.at.as_ref(), &parsed.document, false);
        let mut outcome =
            ContentOutcome { pin, part: ContentPart::Markup(number), elements: 0, trouble: None };
        let html: Arc<str> = Arc::from(markup.text.text.as_str());
        let is_around = markup.place == MarkupPlace::Wrap;
        let halves = is_around.then(|| halves(&html)).flatten().map(Arc::new);
        for id in found {
            outcome.elements += 1;
            // What comes later a script puts in.
            if self.plan.pins[pin].beginning.is_some() && self.moment == Moment::Served {
                continue;
            }
            self.put.push(Put {
                outcome: self.outcomes.len(),
                html: Arc::clone(&html),
                halves: halves.clone(),
                place: markup.place,
                element: id,
            });
        }
        self.outcomes.push(outcome);
    }

    /// The bytes of the page with its marks and with some of what is to be put in; none where nothing is.
    fn write(
        &mut self,
        parsed: &ParsedPage<'_>,
        marks: &Edits,
        is_wanted: &dyn Fn(&Put) -> bool,
    ) -> Option<Written> {
        let mut edits = marks.clone();
        for (number, outcome) in self.outcomes.iter_mut().enumerate() {
            let own = self.put.iter().enumerate().filter(|(_, put)| put.outcome == number && is_wanted(put));
            let mut with_own = edits.clone();
            // What cannot stand at one of its places is put in at none.
            let put_all = |(at, put): (usize, &Put)| {
                with_own.put = Some(at);
                put_in(&mut with_own, parsed, put)
            };
            match own.into_iter().try_for_each(put_all) {
                Ok(()) => edits = with_own,
                Err(unplaced) => outcome.trouble = outcome.trouble.take().or(Some(unplaced.into())),
            }
        }
        self.put.retain(|put| self.outcomes[put.outcome].trouble.is_none());
        edits.write(parsed)
    }

    /// The page with its content in a tree that is made of the old one; the page back where it has to be read anew.
    fn spliced<'p>(
        &self,
        parsed: ParsedPage<'p>,
        whole: Written,
    ) -> Result<ParsedPage<'p>, (Box<ParsedPage<'p>>, Written)> {
        let is_whole = whole.only_grows
            && self.marks_are_plain
            && self.put.iter().all(|put| self.outcomes[put.outcome].trouble.is_none());
        if !is_whole || (!self.put.is_empty() && !parsed.document.is_plain_tree()) {
            return Err((Box::new(parsed), whole));
        }
        let mut fragments: Vec<Option<PlainFragment>> = Vec::new();
        let mut numbers: Vec<usize> = Vec::new();
        // Those of one piece stand together.
        for (at, put) in self.put.iter().enumerate() {
            if at == 0 || self.put[at - 1].outcome != put.outcome {
                fragments.push(PlainFragment::of(&put.html));
            }
            numbers.push(fragments.len() - 1);
        }
        let mut splices = Vec::with_capacity(self.put.len());
        for (number, at) in &whole.places {
            let put = &self.put[*number];
            let fragment = fragments[numbers[*number]].as_ref();
            let place = plain_place(&parsed, put);
            let Some((fragment, (parent, before, next))) = fragment.zip(place) else {
                return Err((Box::new(parsed), whole));
            };
            if !parsed.document.takes(parent, fragment) {
                return Err((Box::new(parsed), whole));
            }
            splices.push(Splice { fragment, parent, before, next, at: *at });
        }
        if splices.len() != self.put.len() {
            return Err((Box::new(parsed), whole));
        }
        // In most other encodings the place of each character would have to be found anew.
        let Some(decoded) = parsed.decoded.of_bytes(&whole.bytes) else {
            return Err((Box::new(parsed), whole));
        };
        let growths = whole.growths();
        let Written { bytes, served, .. } = whole;
        Ok(parsed.grown(bytes, decoded, served, |document| document.spliced(&splices, &growths)))
    }

    /// The page with what is read as it is written, and without the rest.
    fn leave_out<'p>(
        mut self,
        page: &'p Page,
        parsed: &ParsedPage<'p>,
        marks: &Edits,
    ) -> (ParsedPage<'p>, Vec<ContentOutcome>) {
        let mut numbers: Vec<usize> =
            (0..self.outcomes.len()).filter(|at| self.put.iter().any(|put| put.outcome == *at)).collect();
        // What is wrong by itself takes up what stands behind it: it is not to keep others out.
        numbers.sort_by_key(|number| self.is_flawed(*number));
        let mut kept: Vec<usize> = Vec::new();
        self.keep(page, parsed, marks, &numbers, &mut kept);
        match self.write(parsed, marks, &|put| kept.contains(&put.outcome)) {
            Some(whole) => (ParsedPage::with_content(page, whole.bytes, whole.served), self.outcomes),
            None => (ParsedPage::new(page, served_bytes(parsed)), self.outcomes),
        }
    }
}

impl Content<'_> {
    /// Whether a piece is wrong by itself.
    fn is_flawed(&self, outcome: usize) -> bool {
        let own = &self.outcomes[outcome];
        match own.part {
            ContentPart::Markup(number) => !self.plan.pins[own.pin].markup[number].flaws.is_empty(),
            ContentPart::Mark(_) => false,
        }
    }

    /// Keeps those of some pieces that are read as they are written beside those that are kept already. Halves of them
    /// are tried, so that few that are wrong among many are soon found; of several that fit alone and not together, the
    /// later ones go.
    fn keep<'p>(
        &mut self,
        page: &'p Page,
        parsed: &ParsedPage<'p>,
        marks: &Edits,
        numbers: &[usize],
        kept: &mut Vec<usize>,
    ) {
        let is_wanted =
            |put: &Put, kept: &[usize]| numbers.contains(&put.outcome) || kept.contains(&put.outcome);
        let Some(whole) = self.write(parsed, marks, &|put| is_wanted(put, kept)) else { return };
        let made = ParsedPage::with_content(page, whole.bytes, whole.served);
        let put: Vec<Put> = self.put.iter().filter(|put| is_wanted(put, kept)).cloned().collect();
        match (misplaced(parsed, &made, &put).into_iter().next(), numbers) {
            (None, _) => kept.extend(numbers),
            (Some(standing), [only]) => {
                let trouble = &mut self.outcomes[*only].trouble;
                *trouble = trouble.take().or(Some(ContentTrouble::Misread(standing)));
            }
            (Some(_), numbers) => {
                let (first, second) = numbers.split_at(numbers.len() / 2);
                self.keep(page, parsed, marks, first, kept);
                self.keep(page, parsed, marks, second, kept);
            }
        }
    }
}

/// The bytes of a page that nothing was put into.
fn served_bytes<'p>(parsed: &ParsedPage<'p>) -> &'p [u8] {
    match parsed.bytes {
        std::borrow::Cow::Borrowed(bytes) => bytes,
        std::borrow::Cow::Owned(_) => &[],
    }
}

/// The elements that a selector matches as the page is served, in the order of the document.
fn matching(document: &Document, list: &SelectorList) -> Vec<NodeId> {
    let mut matcher = Matcher::new();
    // Most elements lack what the selector asks of them themselves: that is soon seen. In quirks mode names match in
    // any case.
    let keys: Vec<Option<NamedPart>> = match document.quirks() {
        QuirksMode::NoQuirks => list.slice().iter().map(|own| key_of(own).map(in_html)).collect(),
        _ => Vec::new(),
    };
    let has = |element: &Element, key: &NamedPart| match key {
        NamedPart::Tag(tag) if element.name.ns == ns!(html) => element.name.local == *tag,
        NamedPart::Tag(tag) => element.name.local.eq_ignore_ascii_case(tag),
        key => key.is_of(element),
    };
    let may_match = |element: &Element| {
        keys.is_empty() || keys.iter().any(|key| key.as_ref().is_none_or(|key| has(element, key)))
    };
    let elements = document.elements_with(may_match);
    let elements = elements.filter(|element| matcher.matches_any(list, *element, Assume::May));
    let mut found: Vec<NodeId> = elements.map(|element| element.id).collect();
    found.sort_unstable();
    found
}

/// What elements of HTML have of a selector: their names are in lower case.
fn in_html(key: NamedPart) -> NamedPart {
    match key {
        NamedPart::Tag(tag) => NamedPart::Tag(tag.to_ascii_lowercase()),
        other => other,
    }
}

/// The elements of a page that a mark of a pin is for, before anything is put in.
pub(super) fn marked_elements(pin: &Pin, mark: &Mark, document: &Document) -> Vec<NodeId> {
    elements_of(pin, mark.at.as_deref(), document, true)
}

fn elements_of(pin: &Pin, at: Option<&SelectorText>, document: &Document, is_mark: bool) -> Vec<NodeId> {
    let targets = pin.within.as_ref().map(|within| matching(document, &within.list));
    match (at, targets) {
        (None, targets) => targets.unwrap_or_default(),
        (Some(at), None) => matching(document, &at.list),
        (Some(at), Some(targets)) if targets.is_empty() && is_mark => matching(document, &at.list),
        (Some(at), Some(targets)) => {
            let mut found = matching(document, &at.list);
            found.retain(|id| {
                let mut around = document.element(*id).into_iter().flat_map(ElementRef::and_ancestors);
                around.any(|around| targets.binary_search(&around.id).is_ok())
            });
            found
        }
    }
}
