//! Findings about starts: pins that never begin on a page, or not any more.

use serde::Serialize;

use super::code::{Code, Severity};
use super::explanations::{MissingName, missing};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, named};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use super::target::never_help;
use crate::board::Start;
use crate::code::PinId;
use crate::markup::{Assume, Matcher};

pub(super) struct Starts;

/// What a page says of the start of a pin.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct StartFact {
    pin: PinId,
    what: StartWord,
}

#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
enum StartWord {
    /// The page has nothing that the start waits for, nor a script that may add it.
    Nothing(MissingName),
    /// What it waits for is an element without a clock.
    NoMedia {
        /// The element's name.
        tag: String,
        /// Whether a media element is in it.
        holds_one: bool,
    },
    /// An element that is to appear is there from the beginning.
    ThereAlready,
}

impl Family for Starts {
    type Fact = StartFact;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<StartFact>) {
        let plan = page.page.context().plan;
        for pin in page.page.pins() {
            let own = &plan.board.pins[*pin];
            let Some(selector) = own.start.selector() else { continue };
            let mut matcher = Matcher::new();
            let document = page.page.document();
            let found: Vec<_> = document
                .elements()
                .filter(|element| matcher.matches_any(&selector.list, *element, Assume::May))
                .collect();
            let is_media = |name: &str| matches!(name, "video" | "audio");
            let what = match (&own.start.value, found.first()) {
                (_, None) if page.is_awaited(*pin, selector.list.slice()) => continue,
                (_, None) => StartWord::Nothing(missing(page.page, selector.list.slice())),
                (Start::Playing(..), Some(first))
                    if !found.iter().any(|element| is_media(&element.name.local)) =>
                {
                    let mut inner = document.descendants(first.id).filter_map(|id| document.element(id));
                    let holds_one = inner.any(|element| is_media(&element.name.local));
                    StartWord::NoMedia { tag: first.name.local.to_string(), holds_one }
                }
                (Start::Appears(_), Some(_)) => StartWord::ThereAlready,
                _ => continue,
            };
            facts.push(StartFact { pin: *pin, what });
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<StartFact>, findings: &mut Vec<Finding>) {
        for (id, pin) in input.plan().board.active_pins() {
            let name = input.pin_name(id);
            if let (Some(from), Some(until)) = (&pin.from, &pin.until)
                && from.order() > until.order()
            {
                let message = format!("the pin `{name}` never begins: its `from` comes after its `until`");
                let finding = Finding::new(Code::NeverStarts, input.on_board(until.span), message);
                findings.push(finding.help("write the earlier date as `from`").pin(name));
            } else if let (Some(until), Some(today)) = (&pin.until, input.context.today)
                && until.day < today
            {
                let message = format!(
                    "`until` is past: it is {today} today, so the pin `{name}` does not begin any more"
                );
                let finding = Finding::new(Code::PastDate, input.on_board(until.span), message);
                findings.push(
                    finding
                        .help("write a date that is still to come, or take the pin off the board")
                        .pin(name),
                );
            }
            if matches!(pin.start.value, Start::Leaving) {
                let message =
                    "on a touch screen there is no pointer that leaves, so the pin never begins there";
                let finding = Finding::new(Code::NeverStarts, input.on_board(pin.start.span), message);
                let help = format!(
                    "let it begin there by a pin of its own, `start = \"after 20s\"` say, or answer it: `accept = [\"{}\"]`",
                    Code::NeverStarts.name()
                );
                findings.push(finding.severity(Severity::Note).help(help).pin(name));
            }
            if pin.waits_to_begin() && pin.script.is_none() && input.plan().pins[id].markup.is_empty() {
                let place = if pin.start.is_later() { pin.start.span } else { pin.name.span };
                let message =
                    format!("the pin `{name}` has neither a script nor markup, so there is nothing to begin");
                let finding = Finding::new(Code::NeverStarts, input.on_board(place), message);
                findings.push(finding.severity(Severity::Warning).help("CSS stands from the beginning: take `start`, `once`, `from` and `until` away, or add what is to begin").pin(name));
            }
        }
        for shared in facts.shared(|fact| fact.clone()) {
            let StartFact { pin, what } = shared.first;
            let start = &input.plan().board.pins[*pin].start;
            let at = start.selector().map_or("", |selector| selector.text.as_str());
            let paths = input.paths(shared.pages);
            let Some(on) = named(&paths) else { continue };
            let (message, help, severity) = match what {
                StartWord::Nothing(missing) => {
                    let mut help = never_help(Some(missing), at);
                    if let MissingName { name: Some(name), near: None, .. } = missing {
                        let bare = name.trim_start_matches(['.', '#']);
                        help.push_str(&format!("; where a script adds it, say so: `adds = [\"{bare}\"]`"));
                    }
                    let message = format!(
                        "the pin never begins on {on}: `{at}`, which its start waits for, matches nothing there"
                    );
                    (message, help, Severity::Error)
                }
                StartWord::NoMedia { tag, holds_one } => (
                    format!("the pin never begins on {on}: `{at}` is a `<{tag}>`, which has no clock"),
                    match (holds_one, tag.as_str()) {
                        (true, _) => format!("name the film in it: `{at} video`, say"),
                        (_, "iframe") => "what plays in a frame of another site tells nobody its time: start `after` some seconds, or use the script that the site of the film offers".to_owned(),
                        _ => "name a `<video>` or an `<audio>`".to_owned(),
                    },
                    Severity::Error,
                ),
                StartWord::ThereAlready => (
                    format!("`{at}` is on {on} from the beginning, so the pin begins at once there"),
                    "write `start = \"ready\"` where that is meant".to_owned(),
                    Severity::Note,
                ),
            };
            let code = if severity == Severity::Note { Code::StartsAtOnce } else { Code::NeverStarts };
            let finding = Finding::new(code, input.on_board(start.span), message).severity(severity);
            findings.push(finding.help(help).pin(input.pin_name(*pin)).pages(paths));
        }
    }
}
