//! What is live, as a table by pin and for programs.

use std::collections::BTreeMap;

use anstyle::Style;
use deft_pin_core::live::{Held, PartState};
use serde::Serialize;

use super::json::printed;
use super::notes::{ERROR, FAINT, GOOD, WARNING};
use super::table::{Styled, table};
use super::text::{columns, counted, cut, plain, wrapped};
use crate::probing::{Probed, ProbedAsset, ProbedPage};
use crate::releases::difference_lines;

#[derive(Serialize)]
struct ProbeAnswer<'a> {
    version: u32,
    url: &'a str,
    release: u32,
    pages: Vec<PageAnswer<'a>>,
    assets: Vec<AssetAnswer<'a>>,
    not_asked: usize,
}

#[derive(Serialize)]
struct PageAnswer<'a> {
    page: &'a str,
    address: &'a str,
    status: Option<u16>,
    #[serde(skip_serializing_if = "Option::is_none")]
    message: Option<&'a str>,
    pins: Vec<PartAnswer<'a>>,
}

#[derive(Serialize)]
struct PartAnswer<'a> {
    pin: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    library: Option<&'a str>,
    pins: &'a [String],
    part: &'static str,
    state: &'static str,
    release: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    piece: Option<&'a str>,
    message: &'a str,
    #[serde(skip_serializing_if = "Option::is_none")]
    line: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    address: Option<&'a str>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    difference: Vec<String>,
}

#[derive(Serialize)]
struct AssetAnswer<'a> {
    file: &'a str,
    address: Option<&'a str>,
    status: Option<u16>,
    state: &'static str,
    release: Option<u32>,
    message: &'a str,
}

/// The answer of `probe` for programs.
///
/// # Errors
/// It cannot be written as JSON.
pub fn probe_json(probed: &Probed) -> serde_json::Result<String> {
    let pages = probed.pages.iter().map(|own| PageAnswer {
        page: &own.page,
        address: &own.address,
        status: own.status,
        message: own.message.as_deref(),
        pins: own.parts.iter().map(part_answer).collect(),
    });
    let assets = probed.assets.iter().map(|own| AssetAnswer {
        file: &own.place,
        address: own.address.as_deref(),
        status: own.status,
        state: own.state.name(),
        release: own.release,
        message: &own.message,
    });
    printed(&ProbeAnswer {
        version: 1,
        url: &probed.url,
        release: probed.release,
        pages: pages.collect(),
        assets: assets.collect(),
        not_asked: probed.not_asked,
    })
}

fn part_answer(own: &Held) -> PartAnswer<'_> {
    let is_pin = own.name.as_ref().is_none_or(|name| own.pins.contains(name));
    PartAnswer {
        pin: own.name.as_deref().filter(|_| is_pin),
        library: own.name.as_deref().filter(|_| !is_pin),
        pins: &own.pins,
        part: own.kind.name(),
        state: own.state.name(),
        release: own.release,
        piece: own.piece.as_deref(),
        message: &own.message,
        line: own.line,
        address: own.address.as_deref(),
        difference: difference(own),
    }
}

/// The most lines of a difference that are shown.
const MOST_LINES: usize = 12;

fn difference(own: &Held) -> Vec<String> {
    let Some((before, after)) = &own.texts else { return Vec::new() };
    difference_lines(before, after)
}

fn style_of(state: PartState) -> Style {
    match state {
        PartState::Live => GOOD,
        PartState::Stale | PartState::Doubled | PartState::Stray => WARNING,
        PartState::Missing | PartState::Altered => ERROR,
    }
}

/// What is said the same of a part on several pages.
#[derive(PartialEq, Eq, PartialOrd, Ord)]
struct Row<'a> {
    name: &'a str,
    part: &'static str,
    state: PartState,
    message: &'a str,
}

/// A table by pin, pages with the same answer folded into one row.
pub fn probed(probed: &Probed) -> String {
    let width = columns();
    let mut out = String::new();
    let unread: Vec<&ProbedPage> = probed.pages.iter().filter(|page| !page.is_read).collect();
    for page in &unread {
        let status = page.status.map(|status| format!("{status} ")).unwrap_or_default();
        let message = plain(page.message.as_deref().unwrap_or_default());
        out.push_str(&format!("{ERROR}{}{ERROR:#}  {status}{message}\n", plain(&page.page)));
    }
    let mut rows: BTreeMap<Row<'_>, Vec<(&ProbedPage, &Held)>> = BTreeMap::new();
    for page in &probed.pages {
        for part in &page.parts {
            let name = match (&part.name, &part.piece) {
                (Some(name), _) => name.as_str(),
                (None, Some(piece)) => piece.as_str(),
                (None, None) => "",
            };
            // Where all is well nothing is said, so that pages fold.
            let message = if part.state == PartState::Live { "" } else { part.message.as_str() };
            let row = Row { name, part: part.kind.name(), state: part.state, message };
            rows.entry(row).or_default().push((page, part));
        }
    }
    if !rows.is_empty() {
        if !out.is_empty() {
            out.push('\n');
        }
        let cells = folded(&rows).into_iter().map(|Folded { row, parts, list }| {
            let release = match row.state {
                PartState::Stale => list.iter().find_map(|(_, own)| own.release),
                _ => None,
            };
            let state = match release {
                Some(release) => format!("{}, release {release}", row.state.name()),
                None => row.state.name().to_owned(),
            };
            vec![
                Styled::plain(cut(&plain(row.name), 26)),
                Styled::faint(parts.join(", ")),
                Styled(state, style_of(row.state)),
                Styled::plain(pages(list, width.saturating_sub(64).max(20))),
            ]
        });
        out.push_str(&table(&["pin", "part", "state", "pages"], &[], cells.collect()));
    }
    for (row, list) in rows.iter().filter(|(row, _)| row.state != PartState::Live) {
        let style = style_of(row.state);
        let what = format!("{} {}", plain(row.name), row.part);
        out.push_str(&format!(
            "\n{style}{}{style:#} {what} on {}\n",
            row.state.name(),
            pages(list, width.saturating_sub(what.len() + 16).max(20))
        ));
        out.push_str(&format!("{}\n", wrapped(row.message, "  ", "  ")));
        let lines = list.iter().map(|(_, own)| difference(own)).find(|lines| !lines.is_empty());
        out.push_str(&shown(&lines.unwrap_or_default(), width));
    }
    for page in probed.pages.iter().filter(|page| page.is_read) {
        if let Some(message) = &page.message {
            out.push_str(&format!("\n{}: {}\n", plain(&page.page), plain(message)));
        }
    }
    out.push_str(&assets(&probed.assets));
    out
}

fn shown(lines: &[String], width: usize) -> String {
    let mut out = String::new();
    for line in lines.iter().take(MOST_LINES) {
        let style = match line.as_bytes().first() {
            Some(b'-') => ERROR,
            Some(b'+') => GOOD,
            _ => FAINT,
        };
        out.push_str(&format!("    {style}{}{style:#}\n", cut(&plain(line), width.saturating_sub(4))));
    }
    if lines.len() > MOST_LINES {
        let more = counted(lines.len() - MOST_LINES, "more line");
        out.push_str(&format!("    {FAINT}{more}{FAINT:#}\n"));
    }
    out
}

/// Rows with the parts of one pin that have the same to say of the same pages in one.
struct Folded<'r, 'a> {
    row: &'r Row<'a>,
    parts: Vec<&'static str>,
    list: &'r [(&'a ProbedPage, &'a Held)],
}

fn folded<'r, 'a>(rows: &'r BTreeMap<Row<'a>, Vec<(&'a ProbedPage, &'a Held)>>) -> Vec<Folded<'r, 'a>> {
    let mut made: Vec<Folded<'_, '_>> = Vec::new();
    for (row, list) in rows {
        let is_same = |other: &&mut Folded<'_, '_>| {
            other.row.name == row.name && other.row.state == row.state && paths(other.list) == paths(list)
        };
        match made.iter_mut().rev().find(is_same) {
            Some(own) if own.parts.contains(&row.part) => {}
            Some(own) => own.parts.push(row.part),
            None => made.push(Folded { row, parts: vec![row.part], list }),
        }
    }
    made
}

fn paths<'a>(list: &[(&'a ProbedPage, &Held)]) -> Vec<&'a str> {
    let mut paths: Vec<&str> = list.iter().map(|(page, _)| page.page.as_str()).collect();
    paths.dedup();
    paths
}

/// The pages of a row in so many columns: as many of their paths as fit.
fn pages(list: &[(&ProbedPage, &Held)], width: usize) -> String {
    let paths = paths(list);
    let all = plain(&paths.join(", ")).into_owned();
    if paths.len() == 1 || all.chars().count() <= width {
        return cut(&all, width);
    }
    let mut out = String::new();
    for (number, path) in paths.iter().enumerate() {
        let more = format!(" and {} more", paths.len() - number);
        let next = if out.is_empty() { plain(path).into_owned() } else { format!("{out}, {}", plain(path)) };
        if number > 0 && next.chars().count() + more.len() > width {
            return format!("{out}{more}");
        }
        out = next;
    }
    out
}

/// The files that do not answer as they should.
fn assets(assets: &[ProbedAsset]) -> String {
    let mut out = String::new();
    for own in assets.iter().filter(|own| own.state != PartState::Live) {
        let style = style_of(own.state);
        let address = own.address.as_deref().unwrap_or(&own.place);
        out.push_str(&format!(
            "\n{style}{}{style:#} file {}\n  {}\n",
            own.state.name(),
            plain(address),
            plain(&own.message)
        ));
    }
    out
}
