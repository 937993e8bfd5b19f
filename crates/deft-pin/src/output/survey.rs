//! What `survey` answers: the pages of a site, or the outline of one.

use std::collections::HashMap;

use anstyle::{AnsiColor, Style};
use deft_pin_core::code::CodeKind;
use deft_pin_core::find::{Detail, Marker, Markers, NameQuality, PageSurvey, SectionSurvey, quality};
use deft_pin_core::markup::Slot;
use deft_pin_core::site::Page;
use serde::Serialize;

use super::json::printed;
use super::notes::{FAINT, WARNING};
use super::table::{Styled, table};
use super::text::{columns, counted, cut, plain, shortened, wrapped};

/// A page, with what is to be told of it.
pub struct PageAnswer<'a> {
    /// The page.
    pub page: &'a Page,
    /// What was found on it.
    pub survey: &'a PageSurvey,
    /// What tells it from the others.
    pub marker: Marker,
    /// On how many pages each of its IDs is, where that was asked.
    pub on: Option<&'a HashMap<&'a str, usize>>,
}

/// Landmarks: what pages are made of.
const LANDMARK: Style = AnsiColor::Blue.on_default().bold();
/// Sections and articles.
const SECTION: Style = AnsiColor::Blue.on_default();
/// Names to lean on.
const NAME: Style = AnsiColor::Green.on_default();

/// How many rows are shown unless all are asked for.
const ROWS: usize = 40;

#[derive(Serialize)]
struct SurveyJson<'a> {
    version: u32,
    pages: Vec<PageJson<'a>>,
}

#[derive(Serialize)]
struct PageJson<'a> {
    page: &'a str,
    file: &'a str,
    title: &'a str,
    marker: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    shares: Option<SharesJson<'a>>,
    slots: Vec<Slot>,
    head_tag: bool,
    body_tag: bool,
    loads: Vec<LoadJson>,
    sections: Vec<SectionJson<'a>>,
    ids: Vec<IdJson<'a>>,
}

#[derive(Serialize)]
struct SharesJson<'a> {
    selector: &'a str,
    pages: usize,
}

#[derive(Serialize)]
struct LoadJson {
    kind: &'static str,
    address: String,
}

#[derive(Serialize)]
struct SectionJson<'a> {
    selector: &'a str,
    tag: &'a str,
    role: Option<&'a str>,
    id: Option<&'a str>,
    line: u32,
    depth: usize,
    heading: Option<&'a str>,
    elements: usize,
    times: usize,
}

#[derive(Serialize)]
struct IdJson<'a> {
    id: &'a str,
    tag: &'a str,
    line: u32,
    times: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    pages: Option<usize>,
}

/// The answer for programs.
pub fn survey_json(answers: &[PageAnswer<'_>]) -> serde_json::Result<String> {
    let pages = answers.iter().filter_map(page_json).collect();
    printed(&SurveyJson { version: 1, pages })
}

fn page_json<'a>(answer: &'a PageAnswer<'a>) -> Option<PageJson<'a>> {
    let detail = answer.survey.detail.as_ref()?;
    let (marker, shares) = match &answer.marker {
        Marker::Own(selector) => (Some(selector.as_str()), None),
        Marker::Shared(selector, pages) => (None, Some(SharesJson { selector, pages: *pages })),
        Marker::None => (None, None),
    };
    let sections = detail.sections.iter().map(|survey| SectionJson {
        selector: &survey.selector,
        tag: &survey.section.tag,
        role: survey.section.role.as_deref(),
        id: survey.section.id.as_deref(),
        line: survey.line,
        depth: survey.section.depth,
        heading: survey.section.heading.as_deref(),
        elements: survey.section.elements,
        times: survey.times,
    });
    let ids = detail.ids.iter().map(|id| IdJson {
        id: &id.id,
        tag: &id.tag,
        line: id.line,
        times: id.times,
        pages: answer.on.and_then(|on| on.get(id.id.as_str()).copied()),
    });
    let loads = detail.loads.iter().map(|load| LoadJson {
        kind: match load.kind {
            CodeKind::Style => "style",
            CodeKind::Script => "script",
        },
        address: load.name().to_owned(),
    });
    Some(PageJson {
        page: answer.page.path.as_str(),
        file: answer.page.file.as_str(),
        title: &answer.survey.title,
        marker,
        shares,
        slots: detail.slots.clone(),
        head_tag: detail.has_head_tag,
        body_tag: detail.has_body_tag,
        loads: loads.collect(),
        sections: sections.collect(),
        ids: ids.collect(),
    })
}

/// All pages, one a row.
pub fn survey_pages(answers: &[PageAnswer<'_>], markers: &Markers, all: bool) -> String {
    let shown = if all { answers.len() } else { answers.len().min(ROWS) };
    // What is left beside the two columns of numbers is parted among the three of text.
    let room = columns().saturating_sub(2 * 8 + 8);
    let longest = answers.iter().take(shown).map(|answer| answer.page.path.as_str().chars().count()).max();
    let path_room = longest.unwrap_or(0).clamp(4, room * 2 / 5);
    let marker_room = (room - path_room) / 2;
    let title_room = room - path_room - marker_room;
    let rows = answers.iter().take(shown).map(|answer| {
        let survey = answer.survey;
        let marker = match &answer.marker {
            Marker::Own(selector) => Styled(shortened(selector, marker_room), NAME),
            Marker::Shared(selector, pages) => {
                let rest = format!(" on {pages}");
                Styled::plain(shortened(selector, marker_room.saturating_sub(rest.len())) + &rest)
            }
            Marker::None => Styled::faint("none"),
        };
        vec![
            Styled::plain(shortened(answer.page.path.as_str(), path_room)),
            Styled::plain(cut(&survey.title, title_room)),
            Styled::plain(survey.section_count.to_string()),
            Styled::plain(survey.id_count.to_string()),
            marker,
        ]
    });
    let mut drawn = table(&["page", "title", "sections", "IDs", "marker"], &[2, 3], rows.collect());
    if shown < answers.len() {
        let rest = answers.len() - shown;
        drawn.push_str(&format!("{FAINT}and {}; --all shows them{FAINT:#}\n", counted(rest, "more page")));
    }
    let types = markers.types();
    if !types.is_empty() {
        let names = types.iter().take(6).map(|(name, count)| format!("{} on {count}", shortened(name, 36)));
        let more = types.len().saturating_sub(6);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let line = format!("shared by pages of a type: {}{more}", names.collect::<Vec<_>>().join(", "));
        drawn.push_str(&format!("\n{}\n", wrapped(&line, "", "  ")));
    }
    drawn
}

fn marker_line(marker: &Marker) -> String {
    match marker {
        Marker::Own(selector) => {
            let name = selector.trim_start_matches("body").trim_start_matches("html");
            let doubt = match quality(name.trim_start_matches(['#', '.'])) {
                NameQuality::Generated => ", made by a machine, on no other page",
                _ => ", on no other page",
            };
            format!("{selector}{doubt}")
        }
        Marker::Shared(selector, pages) => {
            format!("none of its own; it shares {selector} with {}", counted(pages - 1, "other page"))
        }
        Marker::None => "none: its root element and body say nothing that not every page says".to_owned(),
    }
}

/// One page: what it is, and its sections as a tree.
pub fn survey_page(answer: &PageAnswer<'_>, ids: bool, all: bool) -> String {
    let Some(detail) = &answer.survey.detail else { return String::new() };
    let mut drawn =
        format!("{}  {FAINT}{}{FAINT:#}\n", plain(answer.page.path.as_str()), plain(&answer.survey.title));
    let mut line = |name: &str, text: &str| {
        let first = format!("  {name:<8}");
        drawn.push_str(&format!("{}\n", wrapped(text, &first, "          ")));
    };
    line("file", answer.page.file.as_str());
    line("marker", &marker_line(&answer.marker));
    line("slots", &slots(detail));
    for (kind, name) in [(CodeKind::Style, "styles"), (CodeKind::Script, "scripts")] {
        let names: Vec<String> = detail
            .loads
            .iter()
            .filter(|load| load.kind == kind)
            .map(|load| shortened(load.name(), 80))
            .collect();
        line(name, &if names.is_empty() { "none".to_owned() } else { names.join(", ") });
    }
    drawn.push('\n');
    drawn.push_str(&sections(answer, detail, ids, all));
    drawn
}

fn slots(detail: &Detail) -> String {
    let names: Vec<&str> = detail.slots.iter().map(|slot| slot.name()).collect();
    let omitted = match (detail.has_head_tag, detail.has_body_tag) {
        (true, true) => "",
        (false, true) => " (the page leaves its <head> tag out)",
        (true, false) => " (the page leaves its <body> tag out)",
        (false, false) => " (the page leaves its <head> and <body> tags out)",
    };
    format!("{}{omitted}", names.join(", "))
}

fn sections(answer: &PageAnswer<'_>, detail: &Detail, ids: bool, all: bool) -> String {
    let mut rows = Vec::new();
    let own_ids = |section: Option<usize>| {
        detail.ids.iter().filter(move |id| id.section == section).filter(move |id| {
            section.is_none_or(|at| detail.sections[at].section.id.as_deref() != Some(&id.id))
        })
    };
    let id_row = |id: &deft_pin_core::find::IdSurvey, depth: usize| {
        vec![
            Styled::faint(id.line.to_string()),
            // What is there to be copied is never cut.
            Styled(format!("{}{} #{}", "  ".repeat(depth), plain(&id.tag), plain(&id.id)), NAME),
            Styled::plain(""),
            Styled::plain(""),
            times(id.times, answer.on.and_then(|on| on.get(id.id.as_str()).copied())),
        ]
    };
    if ids {
        rows.extend(own_ids(None).map(|id| (id.line, id_row(id, 0))));
    }
    for (at, survey) in detail.sections.iter().enumerate() {
        rows.push((survey.line, section_row(survey, answer)));
        if ids {
            let own = own_ids(Some(at)).map(|id| (id.line, id_row(id, survey.section.depth + 1)));
            rows.extend(own);
        }
    }
    // In the order of the document.
    rows.sort_by_key(|(line, _)| *line);
    let mut rows: Vec<Vec<Styled>> = rows.into_iter().map(|(_, row)| row).collect();
    if rows.is_empty() {
        return "no sections: no landmarks, and no element with an ID that holds a heading\n".to_owned();
    }
    let count = rows.len();
    if !all {
        rows.truncate(2 * ROWS);
    }
    let mut drawn = table(&["line", "section", "heading", "elements", "ID"], &[0, 3], rows);
    if count > 2 * ROWS && !all {
        drawn.push_str(&format!(
            "{FAINT}and {}; --all shows them{FAINT:#}\n",
            counted(count - 2 * ROWS, "more row")
        ));
    }
    drawn
}

fn section_row(survey: &SectionSurvey, answer: &PageAnswer<'_>) -> Vec<Styled> {
    let section = &survey.section;
    let style = match (section.tag.as_str(), &section.role) {
        ("header" | "nav" | "main" | "aside" | "footer" | "search", _) | (_, Some(_)) => LANDMARK,
        ("section" | "article", _) => SECTION,
        _ => Style::new(),
    };
    let mut name = section.tag.clone();
    if let Some(role) = &section.role {
        name.push_str(&format!(" role={role}"));
    }
    // The tag with the ID where that finds it; else the selector that does.
    let by_id = section.id.as_ref().filter(|_| survey.times == 1);
    let called = match by_id {
        Some(id) => format!("{name} #{id}"),
        None => survey.selector.clone(),
    };
    let on = section.id.as_deref().and_then(|id| answer.on?.get(id).copied());
    vec![
        Styled::faint(survey.line.to_string()),
        Styled(format!("{}{}", "  ".repeat(section.depth.min(12)), plain(&called)), style),
        Styled::plain(shortened(section.heading.as_deref().unwrap_or_default(), 28)),
        Styled::plain(section.elements.to_string()),
        times(survey.times, on),
    ]
}

/// How often an ID stands on its page, and on how many pages.
fn times(times: usize, on: Option<usize>) -> Styled {
    let pages = match on {
        Some(1) => "only here".to_owned(),
        Some(pages) => format!("on {pages} pages"),
        None => String::new(),
    };
    match times {
        0 => Styled::faint("no ID"),
        1 => Styled::faint(pages),
        times => Styled(format!("{times} times here, {pages}"), WARNING),
    }
}
