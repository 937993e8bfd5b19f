//! What `reach` answers: pins, their pages, and what their rules match there.

use anstyle::Style;
use deft_pin_core::page::ContentPart;
use deft_pin_core::style::Truth;
use serde::Serialize;

use super::json::printed;
use super::notes::{FAINT, WARNING};
use super::text::{columns, counted, plain, shortened, wrapped};

/// A pin with what it touches.
pub struct PinReach {
    /// Its name.
    pub name: String,
    /// The rules of its sheet.
    pub rules: Vec<RuleReach>,
    /// Its markup and its marks.
    pub content: Vec<ContentReach>,
    /// What it is confined to.
    pub fenced: Option<String>,
    /// The pages that it is on.
    pub pages: Vec<ReachedPage>,
}

/// A rule, as it was written.
pub struct RuleReach {
    /// Its selector list.
    pub selector: String,
    /// Its file, as seen from the board.
    pub file: String,
    /// Its line, from 1.
    pub line: u32,
}

/// Markup or a mark of a pin.
pub struct ContentReach {
    /// Which, by its kind and its number.
    pub part: ContentPart,
    /// What it is and where it goes: `markup before #status h2`.
    pub name: String,
    /// When it comes, where a script puts it in.
    pub start: Option<String>,
}

/// A page that a pin is on.
pub struct ReachedPage {
    /// The page's path.
    pub path: String,
    /// What the pin touches there.
    pub elements: Vec<ReachedElement>,
    /// For each of its markup and marks how many elements it goes to there.
    pub content: Vec<(ContentPart, usize)>,
    /// How many elements its rules would match there if they were not confined.
    pub unfenced: usize,
}

/// An element that a pin touches.
pub struct ReachedElement {
    /// A selector or a short name for it.
    pub name: String,
    /// The line that it begins at, from 1; 0 where nobody asked.
    pub line: u32,
    /// The rules that match it, by their place in the list, and whether for certain.
    pub rules: Vec<(usize, Truth)>,
}

#[derive(Serialize)]
struct ReachJson<'a> {
    version: u32,
    pins: Vec<PinJson<'a>>,
}

#[derive(Serialize)]
struct PinJson<'a> {
    pin: &'a str,
    pages: Vec<PageJson<'a>>,
}

#[derive(Serialize)]
struct PageJson<'a> {
    page: &'a str,
    elements: Vec<ElementJson<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    content: Vec<ContentJson<'a>>,
}

#[derive(Serialize)]
struct ContentJson<'a> {
    what: &'a str,
    elements: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    start: Option<&'a str>,
}

#[derive(Serialize)]
struct ElementJson<'a> {
    element: &'a str,
    line: u32,
    rules: Vec<RuleJson<'a>>,
}

#[derive(Serialize)]
struct RuleJson<'a> {
    file: &'a str,
    line: u32,
    #[serde(rename = "match")]
    matched: &'static str,
}

/// The answer for programs.
pub fn reach_json(pins: &[PinReach]) -> serde_json::Result<String> {
    let rule = |pin: &'_ PinReach, at: usize, truth: Truth| -> Option<(usize, &'static str)> {
        let matched = if truth == Truth::Yes { "yes" } else { "at-run-time" };
        pin.rules.get(at).map(|_| (at, matched))
    };
    let pins = pins.iter().map(|pin| PinJson {
        pin: &pin.name,
        pages: pin
            .pages
            .iter()
            .map(|page| PageJson {
                page: &page.path,
                content: page
                    .content
                    .iter()
                    .filter_map(|(part, elements)| content_json(pin, *part, *elements))
                    .collect(),
                elements: page
                    .elements
                    .iter()
                    .map(|element| ElementJson {
                        element: &element.name,
                        line: element.line,
                        rules: element
                            .rules
                            .iter()
                            .filter_map(|(at, truth)| rule(pin, *at, *truth))
                            .map(|(at, matched)| RuleJson {
                                file: &pin.rules[at].file,
                                line: pin.rules[at].line,
                                matched,
                            })
                            .collect(),
                    })
                    .collect(),
            })
            .collect(),
    });
    printed(&ReachJson { version: 1, pins: pins.collect() })
}

fn content_json(pin: &PinReach, part: ContentPart, elements: usize) -> Option<ContentJson<'_>> {
    let own = pin.content.iter().find(|own| own.part == part)?;
    Some(ContentJson { what: &own.name, elements, start: own.start.as_deref() })
}

/// The answer for a person: one row a rule, however many pages it is on.
pub fn reached(pins: &[PinReach], site: usize) -> String {
    let mut drawn = String::new();
    for pin in pins {
        let names: Vec<&str> = pin.pages.iter().take(3).map(|page| page.path.as_str()).collect();
        let more = pin.pages.len().saturating_sub(3);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let pages = match pin.pages.len() {
            0 => "on no page".to_owned(),
            count => format!("on {count} of {}: {}{more}", counted(site, "page"), names.join(", ")),
        };
        let head = wrapped(&pages, "", "    ");
        drawn.push_str(&format!("{}  {FAINT}{}{FAINT:#}\n", plain(&pin.name), head.trim_start()));
        for (number, rule) in pin.rules.iter().enumerate() {
            drawn.push_str(&drawn_rule(pin, number, rule));
        }
        pin.content.iter().for_each(|own| drawn.push_str(&drawn_content(pin, own)));
        let touched: usize = pin.pages.iter().map(|page| page.elements.len()).sum();
        if pin.rules.is_empty() && touched > 0 {
            drawn.push_str(&format!("  its script is for {}\n", counted(touched, "element")));
        }
        let unfenced: usize = pin.pages.iter().map(|page| page.unfenced).sum();
        if let Some(within) = pin.fenced.as_ref().filter(|_| unfenced > touched) {
            let text = format!(
                "kept to `{within}`: {}; without that these rules would match {} there",
                counted(touched, "element"),
                counted(unfenced, "element"),
            );
            drawn.push_str(&format!("{FAINT}{}{FAINT:#}\n", wrapped(&text, "  ", "    ")));
        }
        drawn.push('\n');
    }
    drawn
}

fn drawn_content(pin: &PinReach, own: &ContentReach) -> String {
    let of_page = |page: &ReachedPage| {
        page.content.iter().find(|(part, _)| *part == own.part).map_or(0, |(_, count)| *count)
    };
    let counts: Vec<usize> = pin.pages.iter().map(of_page).filter(|count| *count > 0).collect();
    let start =
        own.start.as_ref().map_or(String::new(), |start| format!("  {FAINT}{}{FAINT:#}", plain(start)));
    let head = format!("  {}{start}\n", shortened(&own.name, columns().saturating_sub(24)));
    match counts.iter().sum() {
        0 => format!("{head}    {WARNING}nowhere{WARNING:#}\n"),
        sum => format!("{head}    {} on {}\n", counted(sum, "element"), counted(counts.len(), "page")),
    }
}

fn drawn_rule(pin: &PinReach, number: usize, rule: &RuleReach) -> String {
    let (mut sure, mut open, mut pages) = (0, 0, 0);
    let mut sample: Vec<&str> = Vec::new();
    for page in &pin.pages {
        let mut here = false;
        for element in &page.elements {
            match element.rules.iter().find(|(at, _)| *at == number) {
                Some((_, Truth::Yes)) => sure += 1,
                Some(_) => open += 1,
                None => continue,
            }
            here = true;
            if sample.len() < 3 && !sample.contains(&element.name.as_str()) {
                sample.push(&element.name);
            }
        }
        pages += usize::from(here);
    }
    let place = format!("{}:{}", rule.file, rule.line);
    let room = columns().saturating_sub(place.chars().count() + 6).min(60);
    let head = format!("  {}  {FAINT}{}{FAINT:#}\n", shortened(&rule.selector, room), plain(&place));
    let on = counted(pages, "page");
    let text = match (sure, open) {
        (0, 0) => return format!("{head}    {WARNING}nothing{WARNING:#} as the pages are served\n"),
        (sure, 0) => format!("{} on {on}", counted(sure, "element")),
        (0, open) => {
            format!("{} on {on}, depending on a state, a query or a script", counted(open, "element"))
        }
        (sure, open) => {
            format!("{} on {on}, and {open} depending on a state or a query", counted(sure, "element"))
        }
    };
    let plain_style = Style::new();
    let line = wrapped(&format!("{text}: {}", sample.join(", ")), "    ", "      ");
    format!("{head}{plain_style}{line}{plain_style:#}\n")
}
