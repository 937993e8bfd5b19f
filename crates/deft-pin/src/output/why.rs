//! What `why` answers: winners and losers, by property.

use anstyle::{AnsiColor, Style};
use deft_pin_core::board::Board;
use deft_pin_core::code::{Origin, Owner};
use deft_pin_core::site::PageSheets;
use deft_pin_core::source::{FilePath, Position};
use deft_pin_core::style::{Applied, Outcome, PropertyId, Step, Truth, layer_name};
use serde::Serialize;

use super::json::printed;
use super::notes::{FAINT, NOTE};
use super::text::{columns, counted, plain, shortened, wrapped};

/// What was asked about.
pub struct Asked<'a> {
    /// The page's path.
    pub page: &'a str,
    /// The page's file.
    pub file: &'a FilePath,
    /// The board that says whose the sheets are.
    pub board: &'a Board,
    /// Its sheets.
    pub sheets: &'a PageSheets,
    /// How many elements the selector matches.
    pub total: usize,
}

/// One element, with what its properties come to.
pub struct WhyElement<'p> {
    /// A selector for it.
    pub element: String,
    /// The line that it begins at, from 1.
    pub line: u32,
    /// Where it begins.
    pub place: Position,
    /// By longhand.
    pub outcomes: Vec<Outcome<'p>>,
    /// What it takes from an ancestor: that, its line, and what the property comes to there.
    pub inherits: Vec<(String, u32, Outcome<'p>)>,
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
    depends_on: Vec<&'a str>,
}

/// The answer for programs.
pub fn why_json(asked: &Asked<'_>, elements: &[WhyElement<'_>]) -> serde_json::Result<String> {
    let elements = elements.iter().map(|element| ElementJson {
        element: &element.element,
        line: element.line,
        properties: element.outcomes.iter().map(|outcome| property_json(asked, element, outcome)).collect(),
        inherits: element
            .inherits
            .iter()
            .map(|(from, line, outcome)| InheritJson {
                from,
                line: *line,
                outcome: property_json(asked, element, outcome),
            })
            .collect(),
    });
    let answer =
        WhyJson { version: 1, page: asked.page, elements: elements.collect(), unread: &asked.sheets.unread };
    printed(&answer)
}

fn property_json<'a>(
    asked: &'a Asked<'_>,
    element: &'a WhyElement<'_>,
    outcome: &'a Outcome<'_>,
) -> PropertyJson<'a> {
    let all = |list: &'a [Applied<'_>]| {
        list.iter().map(|one| applied_json(asked, element, outcome, one)).collect::<Vec<_>>()
    };
    PropertyJson {
        property: outcome.property.name(),
        winner: applied_json(asked, element, outcome, &outcome.winner),
        by: outcome.by.name(),
        rolled_back_to: rolled_back_to(outcome).map(|one| applied_json(asked, element, outcome, one)),
        losers: all(&outcome.losers),
        may_win: all(&outcome.may_win),
    }
}

/// Where a declaration stands: its file and place.
fn place<'a>(
    asked: &'a Asked<'_>,
    element: &WhyElement<'_>,
    applied: &Applied<'_>,
) -> (&'a FilePath, Position) {
    match applied.sheet() {
        None => (asked.file, element.place),
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
    element: &'a WhyElement<'_>,
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
        depends_on: applied.depends_on.iter().map(|condition| condition.text.as_str()).collect(),
    }
}

/// What wins.
const WINS: Style = AnsiColor::Green.on_default();

/// The answer for a person.
pub fn why(
    asked: &Asked<'_>,
    elements: &[WhyElement<'_>],
    property: Option<&str>,
    pseudo: Option<&str>,
    page: &str,
) -> String {
    let mut drawn = String::new();
    for element in elements {
        let part = pseudo.map(|name| format!("::{}", name.trim_start_matches(':'))).unwrap_or_default();
        let name = shortened(&element.element, columns() - 12);
        let head = format!("{name}{part}");
        drawn.push_str(&format!("{} line {}  {head}\n", plain(asked.page), element.line));
        let source = page.lines().nth(element.line as usize - 1).unwrap_or_default().trim();
        drawn.push_str(&format!("  {FAINT}{}{FAINT:#}\n", super::text::cut(source, columns() - 4)));
        for group in grouped(&element.outcomes) {
            drawn.push_str(&drawn_outcome(asked, element, &group, property.is_some()));
        }
        for (from, line, outcome) in &element.inherits {
            let text = format!("{} is inherited from {from}, line {line}", outcome.property);
            drawn.push_str(&format!("\n  {}\n", wrapped(&text, "", "    ").trim_start()));
            drawn.push_str(&drawn_outcome(asked, element, &(outcome.property.to_string(), outcome), true));
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

/// Longhands that come to the same by the same declarations, as one.
fn grouped<'o, 'p>(outcomes: &'o [Outcome<'p>]) -> Vec<(String, &'o Outcome<'p>)> {
    let key = |outcome: &Outcome<'_>| {
        let all = outcome.may_win.iter().chain([&outcome.winner]).chain(&outcome.losers);
        all.map(|one| (one.sheet(), one.declaration.span)).collect::<Vec<_>>()
    };
    let mut groups: Vec<(Vec<_>, Vec<&str>, &Outcome<'_>)> = Vec::new();
    for outcome in outcomes {
        let key = key(outcome);
        match groups.iter_mut().find(|(known, ..)| *known == key) {
            Some((_, names, _)) => names.push(outcome.property.name()),
            None => groups.push((key, vec![outcome.property.name()], outcome)),
        }
    }
    let named = |(_, names, outcome): (Vec<_>, Vec<&str>, &'o Outcome<'p>)| {
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
    element: &WhyElement<'_>,
    (name, outcome): &(String, &Outcome<'_>),
    whole: bool,
) -> String {
    let mut drawn = format!("\n  {}\n", wrapped(name, "", "    ").trim_start());
    let mut line = |mark: &str, style: Style, applied: &Applied<'_>, note: &str| {
        drawn.push_str(&drawn_applied(asked, element, (mark, style), applied, note));
    };
    for one in &outcome.may_win {
        line("may win", NOTE, one, "");
    }
    let sure = outcome.winner.matched == Truth::Yes;
    line(if sure { "wins" } else { "may win" }, if sure { WINS } else { NOTE }, &outcome.winner, "");
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
        Step::Inline => "to the style attribute".to_owned(),
        Step::Origin => "as attributes do to any sheet".to_owned(),
        Step::Order => "by order: the winner comes later".to_owned(),
        step => format!("by {}", step.name()),
    }
}

/// A declaration in two lines: what it says, and where it stands.
fn drawn_applied(
    asked: &Asked<'_>,
    element: &WhyElement<'_>,
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
    let depends = applied.depends_on.iter().map(|condition| condition.text.as_str()).collect::<Vec<_>>();
    let depends = match (applied.matched, depends.as_slice()) {
        (Truth::Yes, _) => String::new(),
        (_, []) => ", depends on a state".to_owned(),
        (_, texts) => format!(", under {}", texts.join(" ")),
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
