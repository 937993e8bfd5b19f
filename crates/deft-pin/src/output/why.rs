//! What `why` answers: winners and losers, by property.

use anstyle::{AnsiColor, Style};
use deft_pin_core::board::Board;
use deft_pin_core::code::{Origin, Owner};
use deft_pin_core::markup::{ElementRef, Origin as Tag};
use deft_pin_core::page::PageAnalysis;
use deft_pin_core::site::PageSheets;
use deft_pin_core::source::{FilePath, Position};
use deft_pin_core::style::{Applied, Outcome, PropertyId, Step, Truth, layer_name, open_states, written_at};
use serde::Serialize;

use super::json::printed;
use super::notes::{FAINT, NOTE};
use super::text::{columns, counted, plain, shortened, wrapped};

/// What was asked about.
pub struct Asked<'a> {
    /// The page.
    pub page: &'a PageAnalysis<'a>,
    /// The board that says whose the sheets are.
    pub board: &'a Board,
    /// The page's sheets.
    pub sheets: &'a PageSheets,
    /// How many elements the selector matches.
    pub total: usize,
}

/// One element, with what its properties come to.
pub struct WhyElement<'p> {
    /// The element.
    pub element: ElementRef<'p>,
    /// A selector for it.
    pub address: String,
    /// By longhand.
    pub outcomes: Vec<SchemeOutcome<'p>>,
    /// What it takes from an ancestor.
    pub inherits: Vec<InheritedOutcome<'p>>,
}

/// What a property comes to, in both colour schemes where it is not said which the visitor prefers.
pub struct SchemeOutcome<'p> {
    /// What it comes to: in a light scheme, where they differ.
    pub outcome: Outcome<'p>,
    /// What wins in a dark scheme, where that is something else.
    pub dark: Option<Applied<'p>>,
}

/// What an element takes from an ancestor.
pub struct InheritedOutcome<'p> {
    /// The ancestor.
    pub from: ElementRef<'p>,
    /// A selector for it.
    pub address: String,
    /// What the property comes to there.
    pub outcome: SchemeOutcome<'p>,
}

#[derive(Serialize)]
struct WhyJson<'a> {
    version: u32,
    page: &'a str,
    elements: Vec<ElementJson<'a>>,
    #[serde(skip_serializing_if = "<[_]>::is_empty")]
    unread: &'a [String],
}

#[derive(Serialize)]
struct ElementJson<'a> {
    element: &'a str,
    line: u32,
    properties: Vec<PropertyJson<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    inherits: Vec<InheritJson<'a>>,
}

#[derive(Serialize)]
struct InheritJson<'a> {
    from: &'a str,
    line: u32,
    #[serde(flatten)]
    outcome: PropertyJson<'a>,
}

#[derive(Serialize)]
struct PropertyJson<'a> {
    property: &'a str,
    winner: AppliedJson<'a>,
    by: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    rolled_back_to: Option<AppliedJson<'a>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    dark: Option<AppliedJson<'a>>,
    losers: Vec<AppliedJson<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    may_win: Vec<AppliedJson<'a>>,
}

#[derive(Serialize)]
struct AppliedJson<'a> {
    value: &'a str,
    important: bool,
    selector: Option<&'a str>,
    specificity: [u32; 3],
    layer: Option<String>,
    origin: String,
    file: &'a str,
    line: u32,
    column: u32,
    #[serde(rename = "match")]
    matched: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    declared: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    shorthand: Option<&'a str>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    depends_on: Vec<String>,
}

/// The answer for programs.
pub fn why_json(asked: &Asked<'_>, elements: &[WhyElement<'_>]) -> serde_json::Result<String> {
    let line_of = |element| asked.page.parsed().line_of(element);
    let elements = elements.iter().map(|own| ElementJson {
        element: &own.address,
        line: line_of(own.element),
        properties: own.outcomes.iter().map(|outcome| property_json(asked, own.element, outcome)).collect(),
        inherits: own
            .inherits
            .iter()
            .map(|inherited| InheritJson {
                from: &inherited.address,
                line: line_of(inherited.from),
                outcome: property_json(asked, inherited.from, &inherited.outcome),
            })
            .collect(),
    });
    let page = asked.page.page().path.as_str();
    printed(&WhyJson { version: 1, page, elements: elements.collect(), unread: &asked.sheets.unread })
}

fn property_json<'a>(
    asked: &'a Asked<'_>,
    element: ElementRef<'_>,
    SchemeOutcome { outcome, dark }: &'a SchemeOutcome<'_>,
) -> PropertyJson<'a> {
    let one = |applied: &'a Applied<'_>| applied_json(asked, element, outcome, applied);
    PropertyJson {
        property: outcome.property.name(),
        winner: one(&outcome.winner),
        by: outcome.by.name(),
        rolled_back_to: rolled_back_to(outcome).map(one),
        dark: dark.as_ref().map(one),
        losers: outcome.losers.iter().map(one).collect(),
        may_win: outcome.may_win.iter().map(one).collect(),
    }
}

/// Where a declaration stands: its file and place. One of an attribute is the element's.
fn place<'a>(
    asked: &'a Asked<'_>,
    element: ElementRef<'_>,
    applied: &Applied<'_>,
) -> (&'a FilePath, Position) {
    match applied.sheet() {
        None => {
            let at = written_at(applied, element, asked.page.text());
            (&asked.page.page().file, asked.page.parsed().position(at))
        }
        Some(sheet) => {
            let about = &asked.sheets.places[sheet];
            let rules = &asked.sheets.sheets[sheet].rules;
            let at = applied.declaration.span.start;
            (rules.file(at).unwrap_or(&about.file), about.position(rules.position(at)))
        }
    }
}

fn origin(asked: &Asked<'_>, applied: &Applied<'_>) -> String {
    match applied.sheet() {
        None if applied.is_hint() => "attribute".to_owned(),
        None => "inline".to_owned(),
        Some(sheet) => match asked.sheets.places[sheet].origin {
            Origin::Site | Origin::Attribute => "site".to_owned(),
            Origin::Board(owner) => {
                let kind = if owner.pin().is_some() { "pin" } else { "library" };
                format!("{kind}:{}", asked.board.name_of(owner))
            }
        },
    }
}

/// The selector as it was written.
fn selector<'a>(asked: &'a Asked<'_>, applied: &Applied<'_>) -> Option<&'a str> {
    let span = applied.selector()?.span;
    Some(asked.sheets.sheets[applied.sheet()?].rules.written(span))
}

fn layer(asked: &Asked<'_>, applied: &Applied<'_>) -> Option<String> {
    let sheet = &asked.sheets.sheets[applied.sheet()?];
    let outer = sheet.layer.iter().flat_map(|(_, names)| names);
    let path: Vec<_> = outer.chain(applied.rule().iter().flat_map(|rule| &rule.layer)).cloned().collect();
    layer_name(&path)
}

/// What the winner rolls back to, where it says so.
fn rolled_back_to<'o, 'p>(outcome: &'o Outcome<'p>) -> Option<&'o Applied<'p>> {
    outcome.losers.get(outcome.rolled_back_to?)
}

fn applied_json<'a>(
    asked: &'a Asked<'_>,
    element: ElementRef<'_>,
    outcome: &'a Outcome<'_>,
    applied: &'a Applied<'_>,
) -> AppliedJson<'a> {
    let (file, position) = place(asked, element, applied);
    AppliedJson {
        value: applied.value(&asked.sheets.sheets),
        important: applied.declaration.important,
        selector: selector(asked, applied),
        specificity: applied.specificity(),
        layer: layer(asked, applied),
        origin: origin(asked, applied),
        file: file.as_str(),
        line: position.line,
        column: position.column,
        matched: if applied.matched == Truth::Yes { "yes" } else { "at-run-time" },
        declared: applied
            .longhand
            .as_ref()
            .filter(|longhand| **longhand != outcome.property)
            .map(PropertyId::name),
        shorthand: Some(&applied.declaration.property)
            .filter(|property| Some(*property) != applied.longhand.as_ref())
            .map(PropertyId::name),
        depends_on: depends_on(applied),
    }
}

/// What it takes for a declaration to apply that does not certainly: conditions and states.
fn depends_on(applied: &Applied<'_>) -> Vec<String> {
    let conditions = applied.depends_on.iter().map(|condition| condition.text.clone());
    conditions.chain(states(applied)).collect()
}

/// The states that a declaration waits for which does not certainly apply.
fn states(applied: &Applied<'_>) -> Vec<String> {
    let selector = applied.selector().filter(|_| applied.matched != Truth::Yes);
    selector.map(|selector| open_states(&selector.selector)).unwrap_or_default()
}

/// What wins.
const WINS: Style = AnsiColor::Green.on_default();

/// The answer for a person.
pub fn why(
    asked: &Asked<'_>,
    elements: &[WhyElement<'_>],
    property: Option<&str>,
    pseudo: Option<&str>,
) -> String {
    let mut drawn = String::new();
    let path = plain(asked.page.page().path.as_str());
    for element in elements {
        let part = pseudo.map(|name| format!("::{}", name.trim_start_matches(':'))).unwrap_or_default();
        let name = shortened(&element.address, columns() - 12);
        let line = asked.page.parsed().line_of(element.element);
        drawn.push_str(&format!("{path} line {line}  {name}{part}\n"));
        let source = source_line(asked.page, element.element);
        drawn.push_str(&format!("  {FAINT}{}{FAINT:#}\n", super::text::cut(source, columns() - 4)));
        for (name, outcome) in grouped(&element.outcomes) {
            drawn.push_str(&drawn_outcome(asked, element.element, &name, outcome, property.is_some()));
        }
        for InheritedOutcome { from, address, outcome } in &element.inherits {
            let name = outcome.outcome.property.name();
            let line = asked.page.parsed().line_of(*from);
            let text = format!("{name} is inherited from {address}, line {line}");
            drawn.push_str(&format!("\n  {}\n", wrapped(&text, "", "    ").trim_start()));
            drawn.push_str(&drawn_outcome(asked, *from, name, outcome, true));
        }
        if element.outcomes.is_empty() && element.inherits.is_empty() {
            let what = property.map_or("anything".to_owned(), |name| format!("`{name}`"));
            drawn.push_str(&format!(
                "  no sheet of this page sets {what} on it: it is as the browser has it\n"
            ));
        }
        drawn.push('\n');
    }
    if elements.len() < asked.total {
        let more = counted(asked.total - elements.len(), "more element");
        drawn.push_str(&format!("{FAINT}and {more}; --all shows them{FAINT:#}\n"));
    }
    if !asked.sheets.unread.is_empty() {
        let text = format!("not looked into: {}", asked.sheets.unread.join(", "));
        drawn.push_str(&format!("{NOTE}note{NOTE:#} {}\n", wrapped(&text, "", "     ").trim_start()));
    }
    drawn
}

/// How many losers of a property are shown in a list of all properties.
const LOSERS: usize = 3;

/// The text of a page from an element on, to the end of the line; all of its line for an element without a tag.
fn source_line<'p>(page: &'p PageAnalysis<'_>, element: ElementRef<'_>) -> &'p str {
    let at = element.data().start() as usize;
    let from = match element.data().origin {
        Tag::Tag(_) => at,
        Tag::Implied(_) => page.text()[..at].rfind('\n').map_or(0, |end| end + 1),
    };
    page.text()[from..].lines().next().unwrap_or_default().trim()
}

/// Longhands that come to the same by the same declarations, as one.
fn grouped<'o, 'p>(outcomes: &'o [SchemeOutcome<'p>]) -> Vec<(String, &'o SchemeOutcome<'p>)> {
    let key = |SchemeOutcome { outcome, dark }: &SchemeOutcome<'_>| {
        let all = dark.iter().chain(&outcome.may_win).chain([&outcome.winner]).chain(&outcome.losers);
        all.map(|one| (one.sheet(), one.declaration.span)).collect::<Vec<_>>()
    };
    let mut groups: Vec<(Vec<_>, Vec<&str>, &SchemeOutcome<'_>)> = Vec::new();
    for outcome in outcomes {
        let key = key(outcome);
        let name = outcome.outcome.property.name();
        match groups.iter_mut().find(|(known, ..)| *known == key) {
            Some((_, names, _)) => names.push(name),
            None => groups.push((key, vec![name], outcome)),
        }
    }
    let named = |(_, names, outcome): (Vec<_>, Vec<&str>, &'o SchemeOutcome<'p>)| {
        let name = match names.len() {
            0..=4 => names.join(", "),
            more => format!("{} and {} more", names[..3].join(", "), more - 3),
        };
        (name, outcome)
    };
    groups.into_iter().map(named).collect()
}

fn drawn_outcome(
    asked: &Asked<'_>,
    element: ElementRef<'_>,
    name: &str,
    SchemeOutcome { outcome, dark }: &SchemeOutcome<'_>,
    whole: bool,
) -> String {
    let mut drawn = format!("\n  {}\n", wrapped(name, "", "    ").trim_start());
    let mut line = |mark: &str, style: Style, applied: &Applied<'_>, note: &str| {
        drawn.push_str(&drawn_applied(asked, element, (mark, style), applied, note));
    };
    let is_dark = |one: &Applied<'_>| dark.as_ref().is_some_and(|dark| dark.is_same(one));
    for one in outcome.may_win.iter().filter(|one| !is_dark(one)) {
        line("may win", NOTE, one, "");
    }
    if let Some(dark) = dark {
        line("wins", WINS, dark, "in a dark colour scheme");
    }
    let sure = outcome.winner.matched == Truth::Yes;
    let note = if dark.is_some() { "in a light colour scheme" } else { "" };
    line(if sure { "wins" } else { "may win" }, if sure { WINS } else { NOTE }, &outcome.winner, note);
    if let Some(one) = rolled_back_to(outcome) {
        line("counts", WINS, one, "what `revert-layer` rolls back to");
    }
    let shown = if whole { outcome.losers.len() } else { outcome.losers.len().min(LOSERS) };
    for loser in &outcome.losers[..shown] {
        let by = outcome.winner.beats_by(loser);
        line("loses", FAINT, loser, &lost_by(by));
    }
    if shown < outcome.losers.len() {
        let more = outcome.losers.len() - shown;
        drawn.push_str(&format!("    {FAINT}        and {more} weaker{FAINT:#}\n"));
    }
    drawn
}

fn lost_by(step: Step) -> String {
    match step {
        Step::Alone => String::new(),
        Step::Importance => "by importance".to_owned(),
        Step::Context => "by tree: the page before its shadow trees".to_owned(),
        Step::Inline => "to the style attribute".to_owned(),
        Step::Origin => "as attributes do to any sheet".to_owned(),
        Step::Order => "by order: the winner comes later".to_owned(),
        step => format!("by {}", step.name()),
    }
}

/// A declaration in two lines: what it says, and where it stands.
fn drawn_applied(
    asked: &Asked<'_>,
    element: ElementRef<'_>,
    (mark, style): (&str, Style),
    applied: &Applied<'_>,
    note: &str,
) -> String {
    let (file, position) = place(asked, element, applied);
    let important = if applied.declaration.important { " !important" } else { "" };
    let value = plain(applied.value(&asked.sheets.sheets)).into_owned();
    let said = format!("{}: {}{important}", applied.declaration.property, value);
    let said = shortened(&said, columns() - 16);
    let note = if note.is_empty() { String::new() } else { format!("  {FAINT}{note}{FAINT:#}") };
    let owner = match applied.sheet().map(|sheet| asked.sheets.places[sheet].origin) {
        Some(Origin::Board(owner)) => {
            let kind = if matches!(owner, Owner::Pin(_)) { "pin" } else { "library" };
            format!(", {kind} {}", asked.board.name_of(owner))
        }
        Some(Origin::Site | Origin::Attribute) => String::new(),
        None if applied.is_hint() => ", its attributes".to_owned(),
        None => ", its style attribute".to_owned(),
    };
    let [a, b, c] = applied.specificity();
    let by = match selector(asked, applied) {
        Some(selector) => format!("{}  ({a},{b},{c})", shortened(selector, 40)),
        None => String::new(),
    };
    let layer = layer(asked, applied).map(|name| format!(", layer {name}")).unwrap_or_default();
    let under = applied.depends_on.iter().map(|condition| condition.text.as_str()).collect::<Vec<_>>();
    let depends = match (applied.matched, under.is_empty(), states(applied).join(" ")) {
        (Truth::Yes, ..) => String::new(),
        (_, true, states) if states.is_empty() => {
            ", depends on the shadow tree that a script makes".to_owned()
        }
        (_, true, states) => format!(", while {states}"),
        (_, false, states) if states.is_empty() => format!(", under {}", under.join(" ")),
        (_, false, states) => format!(", under {}, while {states}", under.join(" ")),
    };
    let place = format!("{file}:{}:{}{owner}{layer}{depends}", position.line, position.column);
    let place = wrapped(&place, "            ", "              ");
    let mut drawn = format!("    {style}{mark:<7}{style:#} {said}{note}\n");
    if !by.is_empty() {
        drawn.push_str(&format!("            {by}\n"));
    }
    drawn.push_str(&format!("{FAINT}{place}{FAINT:#}\n"));
    drawn
}
