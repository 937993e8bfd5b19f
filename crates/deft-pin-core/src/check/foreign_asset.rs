//! Findings about what is loaded from other hosts.

use std::collections::BTreeMap;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place, counted};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::{Address, Owner};
use crate::plan::{FileText, LibraryFile};
use crate::script::Outside;
use crate::style::urls;

pub(super) struct ForeignAssets;

impl Family for ForeignAssets {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        of_origins(input, findings);
        no_integrity(input, findings);
    }
}

/// One use of another host.
struct Use {
    outside: Outside,
    place: Place,
    owner: Owner,
}

fn of_origins(input: &CheckInput<'_>, findings: &mut Vec<Finding>) {
    let mut origins: BTreeMap<String, Vec<Use>> = BTreeMap::new();
    for own in uses(input) {
        if own.outside.is_plain {
            findings.push(plain(input, &own));
        }
        origins.entry(own.outside.origin()).or_default().push(own);
    }
    for (origin, uses) in origins {
        let Some((first, rest)) = uses.split_first() else { continue };
        let mut owners: Vec<&str> = uses.iter().map(|own| input.plan().name_of(own.owner)).collect();
        owners.sort_unstable();
        owners.dedup();
        let owners: Vec<String> = owners.iter().map(|name| format!("`{name}`")).collect();
        let verb = if owners.len() == 1 { "loads" } else { "load" };
        let message = format!(
            "{} {verb} {} from `{origin}`: that host learns who visits, and where it cannot be reached they do without",
            owners.join(", "),
            counted(uses.len(), "file", "files"),
        );
        let mut finding = Finding::new(Code::ForeignAsset, first.place.clone(), message)
            .help("put a copy beside the board, if its licence lets you");
        for other in rest.iter().take(8) {
            finding = finding.related("so does this", other.place.clone());
        }
        findings.push(with_pin(input, finding, first.owner));
    }
}

fn with_pin(input: &CheckInput<'_>, finding: Finding, owner: Owner) -> Finding {
    match owner {
        Owner::Pin(_) => finding.pin(input.plan().name_of(owner)),
        Owner::Library(_) => finding,
    }
}

fn plain(input: &CheckInput<'_>, own: &Use) -> Finding {
    let message = format!(
        "`{}` is asked for over plain HTTP: a page that is served over HTTPS does not load it",
        own.outside.url
    );
    let finding = Finding::new(Code::PlainHttp, own.place.clone(), message)
        .help(format!("write `{}`, if the host has it", own.outside.url.replacen("http:", "https:", 1)));
    with_pin(input, finding, own.owner)
}

fn no_integrity(input: &CheckInput<'_>, findings: &mut Vec<Finding>) {
    for library in &input.plan().board.libraries {
        for source in library.styles.iter().chain(&library.scripts) {
            let Address::Remote(url) = &source.value else { continue };
            if !library.integrity.contains_key(url) {
                let message = format!(
                    "nothing holds `{url}` to what it is today: whoever changes it there changes your pages"
                );
                let help = "add its hash under `integrity`, or put a copy beside the board";
                findings
                    .push(Finding::new(Code::NoIntegrity, input.on_board(source.span), message).help(help));
            }
        }
    }
}

/// Everything that the board loads from other hosts.
fn uses(input: &CheckInput<'_>) -> Vec<Use> {
    let plan = input.plan();
    let mut found = Vec::new();
    for (id, library) in plan.board.libraries.entries() {
        let owner = Owner::Library(id);
        for source in library.styles.iter().chain(&library.scripts) {
            if let Address::Remote(url) = &source.value {
                let outside = Outside::of(url, source.span);
                let place = input.on_board(source.span);
                found.extend(outside.map(|outside| Use { outside, place, owner }));
            }
        }
        let sheets = plan.libraries[id].styles.iter().filter_map(LibraryFile::read);
        sheets.for_each(|file| in_sheet(file, owner, &mut found));
    }
    for (id, pin) in plan.pins.entries() {
        let owner = Owner::Pin(id);
        if let Some(style) = &pin.style {
            in_sheet(&style.file, owner, &mut found);
        }
        let Some((file, facts)) = pin.script.as_ref().zip(pin.script_facts()) else { continue };
        for outside in &facts.outside {
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
