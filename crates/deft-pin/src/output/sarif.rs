//! Findings in SARIF 2.1.0, the open format that code hosts and editors read.

use deft_pin_core::check::{Code, Finding, Place, Severity};
use deft_pin_core::code::encode_segment;
use serde_json::{Value, json};

use super::findings::told;
use super::json::printed;
use crate::site_run::RunOutcome;

/// The answer of `check`, for what reads SARIF.
pub fn check_sarif(outcome: &RunOutcome, all: bool) -> serde_json::Result<String> {
    let (told, untold) = told(&outcome.findings, all);
    let mut codes: Vec<Code> = told.iter().map(|finding| finding.code).collect();
    codes.sort_by_key(|code| code.name());
    codes.dedup();
    let rules: Vec<Value> = codes.iter().map(|code| json!({ "id": code.name() })).collect();
    let results: Vec<Value> = told.iter().map(|finding| result(finding, &codes)).collect();
    let properties = if untold.is_empty() { json!({}) } else { json!({ "untold": untold }) };
    printed(&json!({
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": { "name": "Deft Pin", "version": env!("CARGO_PKG_VERSION"), "rules": rules } },
            "columnKind": "unicodeCodePoints",
            "results": results,
            "properties": properties,
        }],
    }))
}

fn result(finding: &Finding, codes: &[Code]) -> Value {
    let text = match &finding.help {
        Some(help) => format!("{}. {help}.", finding.message),
        None => finding.message.clone(),
    };
    let level = match finding.severity {
        Severity::Error => "error",
        Severity::Warning => "warning",
        Severity::Note => "note",
    };
    let related = finding.related.iter().enumerate().map(|(at, related)| {
        let mut location = location(&related.place);
        location["id"] = json!(at + 1);
        location["message"] = json!({ "text": related.message });
        location
    });
    let pages: Vec<&str> = finding.pages.iter().map(|page| page.as_str()).collect();
    json!({
        "ruleId": finding.code.name(),
        "ruleIndex": codes.iter().position(|code| *code == finding.code),
        "level": level,
        "message": { "text": text },
        "locations": [location(&finding.place)],
        "relatedLocations": related.collect::<Vec<_>>(),
        "properties": { "pin": finding.pin, "pages": pages },
    })
}

/// A place, with its file as seen from the board's folder.
fn location(place: &Place) -> Value {
    let uri: Vec<String> = place.file.as_str().split('/').map(encode_segment).collect();
    json!({
        "physicalLocation": {
            "artifactLocation": { "uri": uri.join("/") },
            "region": {
                "startLine": place.start.line,
                "startColumn": place.start.column,
                "endLine": place.end.line,
                "endColumn": place.end.column,
            },
        },
    })
}
