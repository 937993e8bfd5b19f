//! Findings about markup and marks: what a browser would read otherwise, elements that are not there, IDs that are.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use super::code::{Code, Severity};
use super::explanations::{MissingName, missing};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, Place, named};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use super::target::never_help;
use crate::board::SelectorText;
use crate::code::{PageId, PinId};
use crate::markup::NamedPart;
use crate::page::{ContentPart, ContentTrouble, Standing};
use crate::plan::Plan;
use crate::script::{ScriptKind, is_member};
use crate::site::PageStep;
use crate::source::{Span, nearest};

pub(super) struct Contents;

/// What a page says of a piece of a pin's content.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct ContentFact {
    pin: PinId,
    part: ContentPart,
    what: ContentWord,
}

#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
enum ContentWord {
    /// There is no element that it is for.
    NoPlace {
        /// What is not there.
        missing: MissingName,
        /// Whether a script may add it.
        is_late: bool,
    },
    /// There are several.
    Many(usize),
    /// It is not put in as it is written.
    Trouble(ContentTrouble),
    /// An ID that it brings is there more than once.
    DuplicateId(String, usize),
    /// Code in an attribute of it asks for a name that nothing on the page defines; one that is nearly it.
    NoName(String, Option<String>),
}

impl Family for Contents {
    type Fact = ContentFact;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<ContentFact>) {
        let plan = page.page.context().plan;
        let analysis = page.page;
        let counts = counts_of_new_ids(page);
        for outcome in analysis.content().iter().filter(|outcome| analysis.pins().contains(&outcome.pin)) {
            let (pin, part) = (outcome.pin, outcome.part);
            let mut say = |what| facts.push(ContentFact { pin, part, what });
            if outcome.elements == 0 {
                let has_target =
                    analysis.matches().iter().any(|own| own.pin == pin && !own.targets.is_empty());
                // That there is no target is told by itself.
                if plan.board.pins[pin].within.is_none() || has_target {
                    say(no_place(page, pin, part));
                }
                continue;
            }
            // That an ID comes several times is told by itself.
            if outcome.elements > 1 && new_ids(plan, pin, part).is_empty() {
                say(ContentWord::Many(outcome.elements));
            }
            if let Some(trouble) = &outcome.trouble {
                say(ContentWord::Trouble(trouble.clone()));
                continue;
            }
            for (name, near) in undefined_names(page, pin, part) {
                say(ContentWord::NoName(name, near));
            }
            let is_late = plan.pins[pin].beginning.is_some() && matches!(part, ContentPart::Markup(_));
            // Of many the first tell enough.
            for id in new_ids(plan, pin, part).into_iter().take(50) {
                let own = if is_late { outcome.elements } else { 0 };
                let there = counts.get(&id).copied().unwrap_or(0);
                if there + own > 1 {
                    say(ContentWord::DuplicateId(id, there + own));
                }
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<ContentFact>, findings: &mut Vec<Finding>) {
        for (pin, planned) in input.plan().pins.entries() {
            for markup in &planned.markup {
                for flaw in &markup.flaws {
                    let place = Place::new(&markup.text.path, &markup.text.text, flaw.span);
                    let finding =
                        Finding::new(Code::BadMarkup, place, flaw.message.clone()).help(flaw.help.clone());
                    findings.push(finding.pin(input.pin_name(pin)));
                }
            }
        }
        for shared in facts.shared(|fact| fact.clone()) {
            findings.extend(told(input, shared.first, shared.pages));
        }
    }
}

/// Names that code in attributes of a piece asks for and nothing on the page defines, as far as all of it is known.
fn undefined_names(page: &PageChecker<'_>, pin: PinId, part: ContentPart) -> Vec<(String, Option<String>)> {
    let plan = page.page.context().plan;
    let ContentPart::Markup(number) = part else { return Vec::new() };
    let codes = plan.pins[pin].markup.get(number).map_or(&[][..], |markup| &markup.codes);
    if codes.is_empty() || page.page.steps().iter().any(PageStep::may_define_anything) {
        return Vec::new();
    }
    let own = plan.pins[pin]
        .script_facts()
        .into_iter()
        .flat_map(|facts| &facts.keeps)
        .map(|(name, _)| name.as_str());
    let defined = page.page.steps().iter().flat_map(PageStep::all_facts).flat_map(|facts| &facts.defines);
    let known: BTreeSet<&str> = defined.map(|own| own.name.as_str()).chain(own).collect();
    let mut found: Vec<(String, Option<String>)> = Vec::new();
    for code in codes {
        let script = page.page.context().shelf.event_handler(code);
        for read in script.facts(ScriptKind::Confined).reads.iter().filter(|read| !read.guarded) {
            let name = read.name.as_str();
            // What belongs to the element or the page is found before the window.
            let is_there =
                known.contains(name) || is_member(name) || page.page.document().has_window_name(name);
            if !is_there && !found.iter().any(|(told, _)| told == name) {
                found.push((name.to_owned(), nearest(name, known.iter().copied()).map(str::to_owned)));
            }
        }
    }
    found
}

/// How often each ID is on a page that some piece of content brings.
fn counts_of_new_ids(page: &PageChecker<'_>) -> BTreeMap<String, usize> {
    let plan = page.page.context().plan;
    let content = page.page.content().iter();
    let new = content.flat_map(|outcome| new_ids(plan, outcome.pin, outcome.part));
    let mut counts: BTreeMap<String, usize> = new.map(|id| (id, 0)).collect();
    if !counts.is_empty() {
        for element in page.page.document().elements() {
            if let Some(count) = element.id().and_then(|id| counts.get_mut(id)) {
                *count += 1;
            }
        }
    }
    counts
}

fn at_of<'p>(plan: &'p Plan<'_>, pin: PinId, part: ContentPart) -> Option<&'p SelectorText> {
    match part {
        ContentPart::Mark(number) => plan.board.pins[pin].marks.get(number)?.at.as_deref(),
        ContentPart::Markup(number) => plan.pins[pin].markup.get(number)?.at.as_ref(),
    }
}

/// The IDs that a piece of content brings, each once.
fn new_ids(plan: &Plan<'_>, pin: PinId, part: ContentPart) -> Vec<String> {
    match part {
        ContentPart::Mark(number) => plan.board.pins[pin]
            .marks
            .get(number)
            .and_then(|mark| mark.id.as_ref())
            .map(|id| id.value.clone())
            .into_iter()
            .collect(),
        ContentPart::Markup(number) => {
            let names = plan.pins[pin].markup.get(number).map_or(&[][..], |markup| &markup.names);
            let ids = names.iter().filter(|name| matches!(name, NamedPart::Id(_)));
            ids.map(|name| name.name().to_owned()).collect()
        }
    }
}

fn no_place(page: &PageChecker<'_>, pin: PinId, part: ContentPart) -> ContentWord {
    let selectors = at_of(page.page.context().plan, pin, part).map_or(&[][..], |at| at.list.slice());
    ContentWord::NoPlace { missing: missing(page.page, selectors), is_late: page.is_awaited(pin, selectors) }
}

/// Where the board says what a piece is for, and what a person calls the piece.
fn place_of(input: &CheckInput<'_>, pin: PinId, part: ContentPart) -> (Span, &'static str) {
    match part {
        ContentPart::Mark(number) => {
            let mark = &input.plan().board.pins[pin].marks[number];
            (mark.at.as_ref().map_or(mark.span, |at| at.span), "mark")
        }
        ContentPart::Markup(number) => (input.plan().pins[pin].markup[number].at_span, "markup"),
    }
}

fn told(input: &CheckInput<'_>, fact: &ContentFact, pages: Vec<PageId>) -> Option<Finding> {
    let (span, noun) = place_of(input, fact.pin, fact.part);
    let at = at_of(input.plan(), fact.pin, fact.part).map_or("the target", |at| at.text.as_str());
    let paths = input.paths(pages);
    let on = named(&paths)?;
    let planned = &input.plan().pins[fact.pin];
    let is_late = planned.beginning.is_some() && noun == "markup";
    let on_board = || input.on_board(span);
    let finding = match &fact.what {
        ContentWord::NoPlace { is_late: true, .. } if is_late => return None,
        ContentWord::NoPlace { missing, is_late } => {
            let message = format!("`{at}` matches nothing on {on}, so the {noun} is not put in there");
            let help = match is_late {
                true => {
                    format!("a script may add it: write `start = \"appears {at}\"`, and it is put in then")
                }
                false => never_help(Some(missing), at),
            };
            Finding::new(Code::NoPlace, on_board(), message).help(help)
        }
        ContentWord::Many(times) => {
            let message =
                format!("`{at}` matches {times} elements on {on}, so the {noun} is there {times} times");
            let help = "where one of them alone is meant, name the section around it";
            Finding::new(Code::ManyPlaces, on_board(), message).help(help)
        }
        ContentWord::Trouble(ContentTrouble::TakenId { id }) => {
            let mark = match fact.part {
                ContentPart::Mark(number) => input.plan().board.pins[fact.pin].marks[number].id.as_ref(),
                ContentPart::Markup(_) => None,
            };
            let new = mark.map_or("", |id| id.value.as_str());
            let message = format!(
                "the element has the ID `{id}` already, and rules, scripts and links may lean on that: it does not get `{new}` on {on}"
            );
            let place = mark.map_or_else(on_board, |id| input.on_board(id.span));
            Finding::new(Code::TakenId, place, message)
                .help(format!("use `#{id}`, or give the element a class"))
        }
        ContentWord::Trouble(ContentTrouble::NoTag { tag }) => {
            let message = format!(
                "`{at}` is a `<{tag}>` that is not written in the page so that something could be put there ({on})"
            );
            Finding::new(Code::NoPlace, on_board(), message).help("name an element around it or in it")
        }
        ContentWord::Trouble(ContentTrouble::Misread(standing)) => misread(input, fact, &on, standing)?,
        ContentWord::NoName(name, near) => {
            let message = format!(
                "the markup asks for `{name}`, and nothing on {on} defines it: what it is for stops there"
            );
            let help = match near {
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("declare `{name}` in the pin's script: the page gets it from there"),
            };
            let place = id_place(input, fact, name).unwrap_or_else(on_board);
            Finding::new(Code::MissingLibrary, place, message).severity(Severity::Warning).help(help)
        }
        ContentWord::DuplicateId(id, times) => {
            let message = format!(
                "the ID `{id}` is there {times} times on {on} then: a script and a link find the first alone"
            );
            let help = "give one of them another name, or use a class";
            let place = id_place(input, fact, id).unwrap_or_else(on_board);
            Finding::new(Code::DuplicateId, place, message).help(help).severity(Severity::Error)
        }
    };
    Some(finding.pin(input.pin_name(fact.pin)).pages(paths))
}

/// Where an ID that a piece brings, or a name in it, is written.
fn id_place(input: &CheckInput<'_>, fact: &ContentFact, id: &str) -> Option<Place> {
    match fact.part {
        ContentPart::Mark(number) => {
            Some(input.on_board(input.plan().board.pins[fact.pin].marks[number].id.as_ref()?.span))
        }
        ContentPart::Markup(number) => {
            let text = &input.plan().pins[fact.pin].markup[number].text;
            let at = text.text.as_str().find(id)?;
            Some(Place::new(&text.path, &text.text, Span::new(at, at + id.len())))
        }
    }
}

fn misread(input: &CheckInput<'_>, fact: &ContentFact, on: &str, standing: &Standing) -> Option<Finding> {
    let ContentPart::Markup(number) = fact.part else { return None };
    let markup = &input.plan().pins[fact.pin].markup[number];
    // What is wrong with it by itself is told there.
    let html = markup.text.text.as_str();
    if !markup.flaws.is_empty() {
        return None;
    }
    let place = |tag: &str| {
        let found = html.to_ascii_lowercase().find(&format!("<{tag}"));
        let span = found.map_or(Span::new(0, html.len().min(1)), |at| Span::new(at, at + tag.len() + 1));
        Place::new(&markup.text.path, &markup.text.text, span)
    };
    let (message, help, at) = match standing {
        Standing::Moved { tag, parent } => (
            format!("a `<{tag}>` cannot stand in a `<{parent}>`: a browser moves it or leaves it out, so the markup is not put in on {on}"),
            match parent.as_str() {
                "table" | "tbody" | "thead" | "tfoot" => format!("a `<{parent}>` holds rows: `<tr><td>…</td></tr>`"),
                "tr" => "a `<tr>` holds `<td>` and `<th>` alone".to_owned(),
                "select" | "datalist" => format!("a `<{parent}>` holds `<option>` alone"),
                _ => format!("put it beside the `<{parent}>`, or use an element that can stand in one"),
            },
            place(tag),
        ),
        Standing::MovedText { parent } => (
            format!("text cannot stand in a `<{parent}>`: a browser moves it, so the markup is not put in on {on}"),
            "put it into an element that can stand there".to_owned(),
            place(""),
        ),
        Standing::Others { tag } => (
            format!("with this markup there, a browser would end or move a `<{tag}>` of the page, so it is not put in on {on}"),
            "an element such as `<div>` ends the `<p>` that it stands in: put it beside that, or use a `<span>`".to_owned(),
            place(""),
        ),
        Standing::NothingToHold => (
            "there is no element in it that another one could be put into".to_owned(),
            "what goes around an element is an element itself: `<div class=\"frame\"></div>`".to_owned(),
            place(""),
        ),
    };
    Some(Finding::new(Code::BadMarkup, at, message).help(help))
}
