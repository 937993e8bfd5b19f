//! The paste-up: as a table, as JSON, and as the page that somebody works from.

use anyhow::{Context as _, Result};
use deft_pin_core::board::BoxReach;
use minijinja::{AutoEscape, Environment, Value, context};
use serde::Serialize;
use similar::{ChangeTag, TextDiff};

use super::findings::told;
use super::json::{FindingAnswer, printed};
use super::notes::{GOOD, NOTE, WARNING};
use super::table::{Styled, table};
use super::text::{columns, counted, cut, shortened, wrapped};
use crate::paste_sheet::{Change, HandRow, PasteRow, PasteSheet, Upload};
use crate::project::Project;
use crate::site_run::RunOutcome;

#[derive(Serialize)]
struct PasteAnswer<'a> {
    version: u32,
    host: &'static str,
    pieces: Vec<PieceAnswer<'a>>,
    by_hand: &'a [HandRow],
    uploads: &'a [Upload],
    findings: Vec<FindingAnswer<'a>>,
}

#[derive(Serialize)]
struct PieceAnswer<'a> {
    piece: &'a str,
    #[serde(rename = "where")]
    reach: &'a str,
    page: Option<&'a str>,
    pages: &'a [String],
    slot: &'a str,
    takes: Option<&'static str>,
    file: Option<&'a str>,
    characters: usize,
    sha256: Option<&'a str>,
    pins: &'a [String],
    libraries: &'a [String],
    only: &'a [String],
    patterns: &'a [String],
    not_on: &'a [String],
    change: &'static str,
}

fn change_name(change: Change) -> &'static str {
    match change {
        Change::New => "new",
        Change::Same => "same",
        Change::Changed => "changed",
    }
}

/// The answer of `paste` for programs.
pub fn paste_json(
    project: &Project,
    outcome: &RunOutcome,
    sheet: &PasteSheet,
    all: bool,
) -> serde_json::Result<String> {
    let mut pieces: Vec<PieceAnswer<'_>> = sheet
        .rows
        .iter()
        .map(|row| PieceAnswer {
            piece: &row.name,
            reach: row.reach.name(),
            page: match row.pages.as_slice() {
                [only] => Some(only),
                _ => None,
            },
            pages: &row.pages,
            slot: &row.slot,
            takes: Some(row.takes.name()),
            file: Some(&row.file),
            characters: row.characters,
            sha256: Some(&row.sha256),
            pins: &row.pins,
            libraries: &row.libraries,
            only: &row.only,
            patterns: &row.patterns,
            not_on: &row.but,
            change: change_name(row.change),
        })
        .collect();
    pieces.extend(sheet.gone.iter().map(|gone| PieceAnswer {
        piece: &gone.name,
        reach: &gone.place.reach,
        page: gone.place.page.as_deref(),
        pages: &gone.place.pages,
        slot: &gone.place.slot,
        takes: None,
        file: None,
        characters: 0,
        sha256: None,
        pins: &[],
        libraries: &[],
        only: &[],
        patterns: &[],
        not_on: &[],
        change: "gone",
    }));
    let (told, _) = told(&outcome.findings, all);
    printed(&PasteAnswer {
        version: 1,
        host: project.board.host.kind.name(),
        pieces,
        by_hand: &sheet.marks,
        uploads: &sheet.uploads,
        findings: told.into_iter().map(Into::into).collect(),
    })
}

/// The box of a piece, in words.
fn place_of(reach: BoxReach, pages: &[String], slot: &str) -> String {
    let what = match slot {
        "styles" => "box of CSS",
        "scripts" => "box of scripts",
        slot => slot,
    };
    match (reach, pages) {
        (BoxReach::Site, _) => format!("Whole site, {what}"),
        (BoxReach::Page, [only]) => format!("{only}, {what}"),
        (BoxReach::Page, [first, rest @ ..]) => format!("{first} and {} more, {what}", rest.len()),
        (BoxReach::Page, []) => what.to_owned(),
    }
}

/// The paste-up as a table.
pub fn paste(project: &Project, sheet: &PasteSheet) -> String {
    let mut rows = Vec::new();
    let places: Vec<String> =
        sheet.rows.iter().map(|row| place_of(row.reach, &row.pages, &row.slot)).collect();
    let widest = |widths: &mut dyn Iterator<Item = usize>, most: usize| widths.max().unwrap_or(0).min(most);
    let taken = widest(&mut places.iter().map(|place| place.chars().count()), 34)
        + widest(&mut sheet.rows.iter().map(|row| row.name.chars().count()), 26);
    // What is left of a line beside the other columns.
    let left = columns().saturating_sub(taken + 30).max(12);
    for (row, place) in sheet.rows.iter().zip(&places) {
        let style = match row.change {
            Change::New => GOOD,
            Change::Changed => WARNING,
            Change::Same => super::notes::FAINT,
        };
        let holds = row.pins.iter().chain(&row.libraries).map(String::as_str).collect::<Vec<_>>().join(", ");
        rows.push(vec![
            Styled(change_name(row.change).to_owned(), style),
            Styled::plain(shortened(place, 34)),
            Styled::plain(shortened(&row.name, 26)),
            Styled::plain(row.characters.to_string()),
            Styled::faint(cut(&holds, left)),
        ]);
    }
    for gone in &sheet.gone {
        let reach = if gone.place.reach == "site" { BoxReach::Site } else { BoxReach::Page };
        rows.push(vec![
            Styled("gone".to_owned(), NOTE),
            Styled::plain(cut(&place_of(reach, &gone.place.pages, &gone.place.slot), 34)),
            Styled::plain(shortened(&gone.name, 26)),
            Styled::plain("0"),
            Styled::faint("empty that box"),
        ]);
    }
    let mut text = table(&["", "box", "piece", "characters", "holds"], &[3], rows);
    let mut more = Vec::new();
    if !sheet.marks.is_empty() {
        more.push(format!("{} to give by hand", counted(sheet.marks.len(), "name")));
    }
    if !sheet.uploads.is_empty() {
        more.push(format!("{} to upload", counted(sheet.uploads.len(), "file")));
    }
    if sheet.rows.is_empty() {
        text = format!("There is nothing to paste: no pin is on any page of `{}`.\n", *project.board.root);
    }
    if !more.is_empty() {
        text.push_str(&wrapped(&format!("And {}.", more.join(", ")), "", ""));
        text.push('\n');
    }
    text
}

/// A row of the page.
#[derive(Serialize)]
struct PageRow<'a> {
    name: &'a str,
    file: &'a str,
    place: String,
    pages: &'a [String],
    is_site: bool,
    takes: &'static str,
    characters: usize,
    share: Option<usize>,
    is_over: bool,
    sha256: &'a str,
    pins: &'a [String],
    libraries: &'a [String],
    only: &'a [String],
    patterns: &'a [String],
    but: &'a [String],
    change: &'static str,
    diff: Vec<DiffLine>,
    text: &'a str,
}

#[derive(Serialize)]
struct DiffLine {
    kind: &'static str,
    mark: &'static str,
    text: String,
}

/// What changed, with two lines around each change.
fn difference(row: &PasteRow) -> Vec<DiffLine> {
    let Some(before) = &row.before else { return Vec::new() };
    let diff = TextDiff::from_lines(before.as_str(), row.text.as_str());
    let mut lines = Vec::new();
    for (number, group) in diff.grouped_ops(2).iter().enumerate() {
        if number > 0 {
            lines.push(DiffLine { kind: "skip", mark: "", text: "…".to_owned() });
        }
        for change in group.iter().flat_map(|op| diff.iter_changes(op)) {
            let (kind, mark) = match change.tag() {
                ChangeTag::Delete => ("gone", "−"),
                ChangeTag::Insert => ("new", "+"),
                ChangeTag::Equal => ("same", " "),
            };
            let text = change.value().trim_end_matches(['\n', '\r']);
            lines.push(DiffLine { kind, mark, text: text.chars().take(400).collect() });
        }
    }
    lines.truncate(400);
    lines
}

/// The page that somebody works from: all in one file.
///
/// # Errors
/// The page cannot be drawn.
pub fn paste_page(project: &Project, sheet: &PasteSheet) -> Result<String> {
    let rows: Vec<PageRow<'_>> = sheet
        .rows
        .iter()
        .map(|row| PageRow {
            name: &row.name,
            file: &row.file,
            place: place_of(row.reach, &row.pages, &row.slot),
            pages: &row.pages,
            is_site: row.reach == BoxReach::Site,
            takes: row.takes.name(),
            characters: row.characters,
            share: sheet.longest.map(|longest| (row.characters * 100 / longest.max(1)).min(100)),
            is_over: sheet.longest.is_some_and(|longest| row.characters > longest),
            sha256: &row.sha256,
            pins: &row.pins,
            libraries: &row.libraries,
            only: &row.only,
            patterns: &row.patterns,
            but: &row.but,
            change: change_name(row.change),
            diff: difference(row),
            text: &row.text,
        })
        .collect();
    // What a page's parser would change stands in there as escapes.
    let texts: Vec<&str> = sheet.rows.iter().map(|row| row.text.as_str()).collect();
    let texts = serde_json::to_string(&texts)?
        .replace('<', "\\u003c")
        .replace('\u{2028}', "\\u2028")
        .replace('\u{2029}', "\\u2029");
    let gone: Vec<_> = sheet
        .gone
        .iter()
        .map(|gone| {
            let reach = if gone.place.reach == "site" { BoxReach::Site } else { BoxReach::Page };
            context! { name => gone.name, place => place_of(reach, &gone.place.pages, &gone.place.slot), pages => gone.place.pages }
        })
        .collect();
    let mut environment = Environment::new();
    environment.set_auto_escape_callback(|_| AutoEscape::Html);
    environment.add_template("paste", include_str!("paste.html")).context("the page cannot be drawn")?;
    let template = environment.get_template("paste").context("the page cannot be drawn")?;
    let to_do = sheet.rows.iter().filter(|row| row.change != Change::Same).count();
    let drawn = template.render(context! {
        host => project.board.host.kind.name(),
        board => project.board_file.as_str(),
        rows => Value::from_serialize(&rows),
        texts,
        gone,
        marks => Value::from_serialize(&sheet.marks),
        uploads => Value::from_serialize(&sheet.uploads),
        uploads_at => project.board.host.files,
        longest => sheet.longest,
        to_do,
        same => sheet.rows.len() - to_do,
    });
    drawn.context("the page cannot be drawn")
}
