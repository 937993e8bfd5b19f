//! Answers for programs. Their shape is kept stable by `version`.

use deft_pin_core::check::{Finding, Place, Severity};
use serde::Serialize;

use super::findings::{Untold, told};
use super::text::is_obeyed;
use crate::project::Project;
use crate::site_run::RunOutcome;

#[derive(Serialize)]
struct CheckAnswer<'a> {
    version: u32,
    pages: usize,
    findings: Vec<FindingAnswer<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    untold: Vec<Untold>,
}

#[derive(Serialize)]
struct BuildAnswer<'a> {
    version: u32,
    pages: usize,
    customised: usize,
    placements: usize,
    written: bool,
    findings: Vec<FindingAnswer<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    untold: Vec<Untold>,
}

#[derive(Serialize)]
pub(super) struct FindingAnswer<'a> {
    code: &'a str,
    severity: Severity,
    message: &'a str,
    help: Option<&'a str>,
    pin: Option<&'a str>,
    #[serde(flatten)]
    place: PlaceAnswer<'a>,
    pages: Vec<&'a str>,
    related: Vec<RelatedAnswer<'a>>,
}

#[derive(Serialize)]
pub(super) struct PlaceAnswer<'a> {
    file: &'a str,
    line: u32,
    column: u32,
    end_line: u32,
    end_column: u32,
}

#[derive(Serialize)]
pub(super) struct RelatedAnswer<'a> {
    message: &'a str,
    #[serde(flatten)]
    place: PlaceAnswer<'a>,
}

impl<'a> From<&'a Place> for PlaceAnswer<'a> {
    fn from(place: &'a Place) -> Self {
        PlaceAnswer {
            file: place.file.as_str(),
            line: place.start.line,
            column: place.start.column,
            end_line: place.end.line,
            end_column: place.end.column,
        }
    }
}

impl<'a> From<&'a Finding> for FindingAnswer<'a> {
    fn from(finding: &'a Finding) -> Self {
        FindingAnswer {
            code: finding.code.name(),
            severity: finding.severity,
            message: &finding.message,
            help: finding.help.as_deref(),
            pin: finding.pin.as_deref(),
            place: (&finding.place).into(),
            pages: finding.pages.iter().map(|page| page.as_str()).collect(),
            related: finding
                .related
                .iter()
                .map(|related| RelatedAnswer { message: &related.message, place: (&related.place).into() })
                .collect(),
        }
    }
}

/// An answer's text, with the end of its last line. What a terminal would obey stands in it as
/// escapes, which mean the same (RFC 8259, "Strings").
pub(super) fn printed(answer: &impl Serialize) -> serde_json::Result<String> {
    let text = serde_json::to_string_pretty(answer)? + "\n";
    let is_kept = |c: char| c == '\n' || !is_obeyed(c);
    if text.chars().all(is_kept) {
        return Ok(text);
    }
    let mut safe = String::with_capacity(text.len());
    for c in text.chars() {
        if is_kept(c) { safe.push(c) } else { safe.push_str(&format!("\\u{:04x}", u32::from(c))) }
    }
    Ok(safe)
}

/// The answer of `check`.
pub fn check_json(project: &Project, outcome: &RunOutcome, all: bool) -> serde_json::Result<String> {
    let (told, untold) = told(&outcome.findings, all);
    let findings = told.into_iter().map(Into::into).collect();
    printed(&CheckAnswer { version: 1, pages: project.site.pages.len(), findings, untold })
}

/// The answer of `build`.
pub fn build_json(
    project: &Project,
    outcome: &RunOutcome,
    written: bool,
    all: bool,
) -> serde_json::Result<String> {
    let (told, untold) = told(&outcome.findings, all);
    printed(&BuildAnswer {
        version: 1,
        pages: project.site.pages.len(),
        customised: outcome.customised,
        placements: outcome.placements,
        written,
        findings: told.into_iter().map(Into::into).collect(),
        untold,
    })
}
