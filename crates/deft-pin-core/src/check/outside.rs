//! Findings about what is loaded from other hosts.

use std::collections::BTreeMap;

use super::Ground;
use super::finding::{Code, Finding, Place, Severity, counted};
use crate::board::Source;
use crate::plan::{FileText, LibraryPart, Owner};
use crate::script::{Outside, ScriptKind};
use crate::style::urls;

/// One use of another host.
struct Use {
    outside: Outside,
    place: Place,
    owner: Owner,
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let mut origins: BTreeMap<String, Vec<Use>> = BTreeMap::new();
    for own in uses(ground) {
        if own.outside.is_plain {
            findings.push(plain(ground, &own));
        }
        origins.entry(own.outside.origin()).or_default().push(own);
    }
    for (origin, uses) in origins {
        let Some((first, rest)) = uses.split_first() else { continue };
        let mut owners: Vec<&str> = uses.iter().map(|own| ground.plan.name_of(own.owner)).collect();
        owners.sort_unstable();
        owners.dedup();
        let owners: Vec<String> = owners.iter().map(|name| format!("`{name}`")).collect();
        let verb = if owners.len() == 1 { "loads" } else { "load" };
        let message = format!(
            "{} {verb} {} from `{origin}`: that host learns who visits, and where it cannot be reached they do without",
            owners.join(", "),
            counted(uses.len(), "file", "files"),
        );
        let mut finding = Finding::new(Code::ForeignAsset, Severity::Note, first.place.clone(), message)
            .help("put a copy beside the board, if its licence lets you");
        for other in rest.iter().take(8) {
            finding = finding.related("so does this", other.place.clone());
        }
        findings.push(with_pin(ground, finding, first.owner));
    }
    no_integrity(ground, findings);
}

fn with_pin(ground: &Ground<'_>, finding: Finding, owner: Owner) -> Finding {
    match owner {
        Owner::Pin(_) => finding.pin(ground.plan.name_of(owner)),
        Owner::Library(_) => finding,
    }
}

fn plain(ground: &Ground<'_>, own: &Use) -> Finding {
    let message = format!(
        "`{}` is asked for over plain HTTP: a page that is served over HTTPS does not load it",
        own.outside.url
    );
    let finding = Finding::new(Code::PlainHttp, Severity::Warning, own.place.clone(), message)
        .help(format!("write `{}`, if the host has it", own.outside.url.replacen("http:", "https:", 1)));
    with_pin(ground, finding, own.owner)
}

fn no_integrity(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for library in &ground.plan.board.libraries {
        for source in library.styles.iter().chain(&library.scripts) {
            let Source::Url(url) = &source.value else { continue };
            if !library.integrity.contains_key(url) {
                let message = format!(
                    "nothing holds `{url}` to what it is today: whoever changes it there changes your pages"
                );
                let help = "add its hash under `integrity`, or put a copy beside the board";
                findings.push(
                    Finding::new(Code::NoIntegrity, Severity::Warning, ground.on_board(source.span), message)
                        .help(help),
                );
            }
        }
    }
}

/// Everything that the board loads from other hosts.
fn uses(ground: &Ground<'_>) -> Vec<Use> {
    let plan = ground.plan;
    let mut found = Vec::new();
    for (at, library) in plan.board.libraries.iter().enumerate() {
        let owner = Owner::Library(at);
        for source in library.styles.iter().chain(&library.scripts) {
            if let Source::Url(url) = &source.value {
                let outside = Outside::of(url, source.span);
                let place = ground.on_board(source.span);
                found.extend(outside.map(|outside| Use { outside, place, owner }));
            }
        }
        let sheets = plan.libraries[at].styles.iter().filter_map(LibraryPart::local);
        sheets.for_each(|file| in_sheet(file, owner, &mut found));
    }
    for (at, pin) in plan.pins.iter().enumerate() {
        let owner = Owner::Pin(at);
        if let Some(style) = &pin.style {
            in_sheet(&style.file, owner, &mut found);
        }
        let Some(file) = &pin.script else { continue };
        let facts = file.script.as_ref().map(|script| script.facts(ScriptKind::Confined));
        for outside in facts.iter().flat_map(|facts| &facts.outside) {
            let place = Place::new(&file.path, &file.text, outside.span);
            found.push(Use { outside: outside.clone(), place, owner });
        }
    }
    found
}

fn in_sheet(file: &FileText, owner: Owner, found: &mut Vec<Use>) {
    for url in urls(file.text.as_str()) {
        if let Some(outside) = Outside::of(&url.url, url.span) {
            found.push(Use { outside, place: Place::new(&file.path, &file.text, url.span), owner });
        }
    }
}
