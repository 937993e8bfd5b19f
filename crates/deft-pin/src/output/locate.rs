//! What `locate` answers: elements, where they sit, and the selectors that find them.

use std::collections::BTreeMap;

use anstyle::{AnsiColor, Style};
use deft_pin_core::find::{HitKind, Reason};
use serde::Serialize;

use super::json::printed;
use super::notes::{FAINT, WARNING};
use super::text::{columns, counted, cut, plain, shortened, wrapped};

/// An element that was found.
pub struct Found {
    /// Its page.
    pub page: String,
    /// The line that it begins at, from 1.
    pub line: u32,
    /// A short name for it.
    pub label: String,
    /// Its ancestors from the body down, itself last.
    pub ancestors: Vec<String>,
    /// Its text.
    pub text: String,
    /// Other pages with such an element at the same place.
    pub alike: Vec<String>,
    /// How it was found.
    pub kind: HitKind,
    /// The selectors that find it, best first.
    pub ways: Vec<Way>,
}

/// A selector.
pub struct Way {
    /// The selector.
    pub selector: String,
    /// What makes it strong or weak.
    pub reasons: Vec<Reason>,
    /// What it matches on other pages.
    pub elsewhere: Elsewhere,
}

/// What a selector matches on other pages.
#[derive(Default)]
pub struct Elsewhere {
    /// The pages on which it matches.
    pub pages: Vec<String>,
    /// How many elements of each short name it matches there.
    pub labels: BTreeMap<String, usize>,
}

#[derive(Serialize)]
struct LocateJson<'a> {
    version: u32,
    found: usize,
    elements: Vec<FoundJson<'a>>,
}

#[derive(Serialize)]
struct FoundJson<'a> {
    page: &'a str,
    line: u32,
    element: &'a str,
    ancestors: &'a [String],
    text: String,
    by: &'static str,
    also_on: &'a [String],
    selectors: Vec<WayJson<'a>>,
}

#[derive(Serialize)]
struct WayJson<'a> {
    selector: &'a str,
    strong: Vec<String>,
    weak: Vec<String>,
    other_pages: &'a [String],
    matches_there: &'a BTreeMap<String, usize>,
}

/// How much of an element's text an answer holds, in characters.
const TEXT: usize = 200;

/// The answer for programs.
pub fn located_json(found: &[Found], total: usize) -> serde_json::Result<String> {
    let elements = found.iter().map(|found| FoundJson {
        page: &found.page,
        line: found.line,
        element: &found.label,
        ancestors: &found.ancestors,
        text: found.text.chars().take(TEXT).collect(),
        by: match found.kind {
            HitKind::Selector => "name",
            HitKind::Text => "text",
            HitKind::Near(_) => "near",
        },
        also_on: &found.alike,
        selectors: found
            .ways
            .iter()
            .map(|way| WayJson {
                selector: &way.selector,
                strong: reasons(&way.reasons, false),
                weak: reasons(&way.reasons, true),
                other_pages: &way.elsewhere.pages,
                matches_there: &way.elsewhere.labels,
            })
            .collect(),
    });
    let answer = LocateJson { version: 1, found: total, elements: elements.collect() };
    printed(&answer)
}

fn reasons(reasons: &[Reason], weak: bool) -> Vec<String> {
    reasons.iter().filter(|reason| reason.is_weak() == weak).map(ToString::to_string).collect()
}

/// Selectors to lean on.
const STRONG: Style = AnsiColor::Green.on_default();

/// The answer for a person.
pub fn located(wanted: &str, found: &[Found], total: usize) -> String {
    let mut drawn = String::new();
    if let Some(HitKind::Near(name)) = found.first().map(|found| &found.kind) {
        let line = format!("nothing is called `{wanted}`; `{name}` is nearly that");
        drawn.push_str(&format!("{}\n\n", wrapped(&line, "", "  ")));
    }
    for found in found {
        let place = format!("{} line {}", plain(&found.page), found.line);
        let alike = match found.alike.len() {
            0 => String::new(),
            pages => format!(", and at the same place of {}", counted(pages, "other page")),
        };
        drawn.push_str(&format!("{place}{FAINT}{alike}{FAINT:#}\n"));
        drawn.push_str(&format!("{}\n", way_to(&found.ancestors)));
        if !found.text.is_empty() {
            drawn.push_str(&format!("  {FAINT}“{}”{FAINT:#}\n", cut(&found.text, columns() - 6)));
        }
        for (number, way) in found.ways.iter().enumerate() {
            let weak = way.reasons.iter().any(Reason::is_weak);
            let style = if weak { WARNING } else { STRONG };
            let lines = wrapped(&way.selector, "", "     ");
            drawn.push_str(&format!("  {} {style}{lines}{style:#}\n", number + 1));
            drawn.push_str(&said(way));
        }
        drawn.push('\n');
    }
    if found.len() < total {
        let more = counted(total - found.len(), "more element");
        drawn.push_str(&format!("{FAINT}and {more}; --all shows them, --page looks on one page{FAINT:#}\n"));
    }
    drawn
}

/// What makes a selector strong and weak, and what it matches elsewhere.
fn said(way: &Way) -> String {
    let strong = reasons(&way.reasons, false).join(", ");
    let weak = reasons(&way.reasons, true).join("; ");
    let mut drawn = String::new();
    let mut line = |mark: &str, text: &str, style: Style| {
        let text = wrapped(text, &format!("     {mark} "), "       ");
        drawn.push_str(&format!("{style}{text}{style:#}\n"));
    };
    if !strong.is_empty() {
        line("by", &strong, FAINT);
    }
    if !weak.is_empty() {
        line("but", &weak, Style::new());
    }
    match way.elsewhere.pages.len() {
        0 => line("on", "no other page", FAINT),
        pages => {
            let mut labels: Vec<(&String, &usize)> = way.elsewhere.labels.iter().collect();
            labels.sort_by_key(|(_, count)| std::cmp::Reverse(**count));
            let shown =
                labels.iter().take(3).map(|(label, count)| format!("{} ×{count}", shortened(label, 30)));
            let more = labels.len().saturating_sub(3);
            let more = if more > 0 { format!(" and {more} other kinds") } else { String::new() };
            let names = shown.collect::<Vec<_>>().join(", ");
            line("on", &format!("{} too: {names}{more}", counted(pages, "other page")), FAINT);
        }
    }
    drawn
}

/// The ancestors in one line, with the middle left out where they are too many.
fn way_to(ancestors: &[String]) -> String {
    let room = columns().saturating_sub(4);
    let mut shown: Vec<String> = ancestors.iter().map(|label| shortened(label, 40)).collect();
    let length = |shown: &[String]| shown.iter().map(|label| label.chars().count() + 3).sum::<usize>();
    let mut left_out = false;
    while length(&shown) + 4 > room && shown.len() > 2 {
        let at = if left_out { 2 } else { 1 };
        if at + 1 >= shown.len() {
            break;
        }
        if left_out {
            shown.remove(at);
        } else {
            shown[at] = "…".to_owned();
            left_out = true;
        }
    }
    format!("  {}", shown.join(" › "))
}
