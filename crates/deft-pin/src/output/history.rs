//! Releases: as a table, one in full, two against each other.

use std::collections::BTreeMap;

use serde::Serialize;

use super::json::printed;
use super::notes::{ERROR, FAINT, GOOD, WARNING};
use super::table::{Styled, table};
use super::text::{columns, counted, cut, plain, wrapped};
use crate::publishing::SinceLast;
use crate::releases::{PinChanges, Release, Since};

#[derive(Serialize)]
struct HistoryAnswer<'a> {
    version: u32,
    releases: Vec<ReleaseAnswer<'a>>,
}

#[derive(Serialize)]
struct ReleaseAnswer<'a> {
    release: u32,
    time: &'a str,
    note: Option<&'a str>,
    host: &'a str,
    undoes: Option<u32>,
    pins: &'a PinChanges,
    pages: usize,
    pieces: usize,
    findings: usize,
}

/// The answer of `history` for programs, the newest release first.
pub fn history_json(releases: &[Release]) -> serde_json::Result<String> {
    let releases = releases.iter().rev().map(|own| ReleaseAnswer {
        release: own.release,
        time: &own.time,
        note: own.note.as_deref(),
        host: &own.host,
        undoes: own.undoes,
        pins: &own.changes,
        pages: pages_of(own),
        pieces: own.pieces.len(),
        findings: own.findings.len(),
    });
    printed(&HistoryAnswer { version: 1, releases: releases.collect() })
}

#[derive(Serialize)]
struct DifferenceAnswer<'a> {
    version: u32,
    before: Option<u32>,
    after: u32,
    pins: &'a PinChanges,
    files: Vec<FileAnswer<'a>>,
}

#[derive(Serialize)]
struct FileAnswer<'a> {
    file: &'a str,
    change: &'static str,
    lines: &'a [String],
}

/// Two releases against each other, for programs.
pub fn difference_json(since: &SinceLast, after: u32) -> serde_json::Result<String> {
    let files = since.files.iter().map(|own| FileAnswer {
        file: &own.file,
        change: name_of(own.since),
        lines: &own.lines,
    });
    printed(&DifferenceAnswer {
        version: 1,
        before: since.last.as_ref().map(|last| last.release),
        after,
        pins: &since.pins,
        files: files.collect(),
    })
}

fn name_of(since: Since) -> &'static str {
    match since {
        Since::New => "new",
        Since::Changed => "changed",
        Since::Gone => "gone",
    }
}

/// On how many pages it does something.
fn pages_of(release: &Release) -> usize {
    if !release.pages.is_empty() {
        return release.pages.len();
    }
    let pages: std::collections::BTreeSet<String> =
        release.pieces.iter().flat_map(|own| own.words("only")).collect();
    pages.len()
}

/// A row a release, the newest first.
pub fn history(releases: &[Release]) -> String {
    let rows = releases.iter().rev().map(|own| {
        let note = match (own.undoes, own.note.as_deref()) {
            (Some(of), None) => format!("as release {of}"),
            (Some(of), Some(note)) => format!("as release {of}: {note}"),
            (None, note) => note.unwrap_or_default().to_owned(),
        };
        vec![
            Styled(own.release.to_string(), GOOD),
            Styled::plain(own.time.replace('T', " ").trim_end_matches('Z').to_owned()),
            Styled::plain(cut(&changes(&own.changes), columns().saturating_sub(62).max(20))),
            Styled::plain(pages_of(own).to_string()),
            Styled::faint(cut(&note, 24)),
        ]
    });
    table(&["release", "time (UTC)", "pins", "pages", "note"], &[0, 3], rows.collect())
}

/// `+ storm-notice, fares changed, − old`
fn changes(pins: &PinChanges) -> String {
    let new = pins.new.iter().map(|name| format!("+ {name}"));
    let changed = pins.changed.iter().map(|name| format!("{name} changed"));
    let gone = pins.gone.iter().map(|name| format!("− {name}"));
    let all: Vec<String> = new.chain(changed).chain(gone).collect();
    if all.is_empty() { "no pin changed".to_owned() } else { all.join(", ") }
}

/// One release in full.
pub fn release(own: &Release) -> String {
    let mut text = format!("{GOOD}release {}{GOOD:#}, {}", own.release, own.time);
    if let Some(note) = &own.note {
        text.push_str(&format!(": {}", plain(note)));
    }
    text.push('\n');
    if let Some(of) = own.undoes {
        text.push_str(&format!("  puts back release {of}\n"));
    }
    text.push_str(&format!("{}\n", wrapped(&changes(&own.changes), "  ", "    ")));
    let pins: Vec<&str> = own.pins.keys().map(String::as_str).collect();
    text.push_str(&format!("{}\n", wrapped(&format!("pins: {}", pins.join(", ")), "  ", "    ")));
    text.push_str(&format!(
        "  board {} with {}, for the host {}, made by Deft Pin {}\n",
        plain(&own.board.file),
        counted(own.files.len(), "file"),
        own.host,
        own.tool
    ));
    let rows: Vec<Vec<Styled>> = match own.pieces.as_slice() {
        [] => own
            .pages
            .iter()
            .map(|page| {
                vec![
                    Styled::plain(format!("  {}", plain(&page.page))),
                    Styled::faint(page.sha256[..12.min(page.sha256.len())].to_owned()),
                ]
            })
            .collect(),
        pieces => pieces
            .iter()
            .map(|piece| {
                vec![
                    Styled::plain(format!("  {}", plain(&piece.file))),
                    Styled::faint(piece.sha256[..12.min(piece.sha256.len())].to_owned()),
                ]
            })
            .collect(),
    };
    let head = if own.pieces.is_empty() { "  page" } else { "  piece" };
    text.push_str(&table(&[head, "sha-256"], &[], rows));
    for finding in &own.findings {
        text.push_str(&format!(
            "{}\n",
            wrapped(
                &format!("{} {} at {}: {}", finding.severity, finding.code, finding.place, finding.message),
                "  ",
                "    "
            )
        ));
    }
    text
}

/// How many lines of a file's difference are shown.
const SHOWN: usize = 24;

/// What changed since a release.
pub fn since_last(since: &SinceLast) -> String {
    let Some(last) = &since.last else { return "this is the first release\n".to_owned() };
    let mut text = format!("since release {}: {}\n", last.release, changes(&since.pins));
    for own in &since.files {
        text.push_str(&format!("{FAINT}{}{FAINT:#} {}\n", name_of(own.since), plain(&own.file)));
        for line in own.lines.iter().take(SHOWN) {
            let style = match line.as_bytes().first() {
                Some(b'+') => GOOD,
                Some(b'-') => ERROR,
                _ => FAINT,
            };
            text.push_str(&format!("  {style}{}{style:#}\n", cut(line, columns() - 2)));
        }
        match own.lines.len().saturating_sub(SHOWN) {
            0 => {}
            more => text.push_str(&format!("  {WARNING}and {}{WARNING:#}\n", counted(more, "more line"))),
        }
    }
    text
}

/// The pages, or the pieces, that came out otherwise than at the release before.
pub fn outcome_since(since: &SinceLast, release: Option<&Release>) -> String {
    let (Some(last), Some(release)) = (&since.last, release) else { return String::new() };
    let of = |own: &Release| -> BTreeMap<String, String> {
        let pages = own.pages.iter().map(|page| (page.page.clone(), page.sha256.clone()));
        let pieces = own.pieces.iter().map(|piece| (piece.piece.clone(), piece.sha256.clone()));
        pages.chain(pieces).collect()
    };
    let differing = PinChanges::between(&of(last), &of(release));
    let noun = if release.pieces.is_empty() { "page" } else { "piece" };
    let rows = [("new", &differing.new), ("changed", &differing.changed), ("gone", &differing.gone)];
    let told = rows.iter().filter(|(_, names)| !names.is_empty()).map(|(word, names)| {
        let text = format!("{} {word}: {}", counted(names.len(), noun), names.join(", "));
        format!("{}\n", cut(&text, columns()))
    });
    let told: String = told.collect();
    if told.is_empty() { format!("no {noun} comes out otherwise\n") } else { told }
}
