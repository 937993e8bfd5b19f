//! Findings about the scripts of pins and libraries on a page's timeline.

use std::collections::BTreeMap;

use super::Ground;
use super::finding::{Finding, Place};
use super::trouble::TroubleKind;
use crate::plan::{FileText, Inferred, LibraryPart};
use crate::script::{ScriptKind, When};
use crate::site::SheetOrigin;
use crate::source::Span;

/// What does not work out for a script of the board on a page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ScriptTrouble {
    /// Whose script it is.
    pub origin: SheetOrigin,
    /// Its file, as seen from the board.
    pub file: String,
    /// Where in it.
    pub span: Span,
    /// What.
    pub kind: TroubleKind,
    /// The script that defines the global too late, or perhaps.
    pub by: Option<String>,
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let mut found: BTreeMap<(&str, Span), (&ScriptTrouble, Vec<usize>)> = BTreeMap::new();
    for facts in ground.facts {
        for trouble in &facts.troubles {
            found.entry((&trouble.file, trouble.span)).or_insert((trouble, Vec::new())).1.push(facts.page);
        }
    }
    // A circle has one cause, and is told as such.
    let is_circular = |trouble: &ScriptTrouble| {
        let circular = ground.plan.needs.circular.iter();
        let same = |need: &Inferred| {
            trouble.origin == SheetOrigin::Library(ground.plan.name_of(need.owner).to_owned())
        };
        circular.filter(|need| same(need)).any(|need| need.span == trouble.span)
    };
    for (trouble, pages) in found.into_values().filter(|(trouble, _)| !is_circular(trouble)) {
        let Some(file) = file_of(ground, &trouble.file) else { continue };
        let place = Place::new(&file.path, &file.text, trouble.span);
        let mut finding = told(ground, trouble, place).pages(ground.paths(pages));
        if let SheetOrigin::Pin(name) = &trouble.origin {
            finding = finding.pin(name);
        }
        findings.push(finding);
    }
}

fn file_of<'g>(ground: &Ground<'g>, path: &str) -> Option<&'g FileText> {
    let pins = ground.plan.pins.iter().filter_map(|pin| pin.script.as_ref());
    let libraries = ground.plan.libraries.iter().flat_map(|library| &library.scripts);
    pins.chain(libraries.filter_map(LibraryPart::local)).find(|file| file.path.as_str() == path)
}

fn told(ground: &Ground<'_>, trouble: &ScriptTrouble, place: Place) -> Finding {
    let by = trouble.by.as_deref().unwrap_or_default();
    let kind = &trouble.kind;
    let finding = |message: String| Finding::new(kind.code(), kind.severity(), place.clone(), message);
    let then = |when: When| match when {
        When::Now => "so the script stops here",
        _ => "so this fails once it comes to it",
    };
    match kind {
        TroubleKind::Missing { name, when, near } => {
            let message = format!("nothing on the page defines `{name}`, {}", then(*when));
            let finding = finding(message);
            match (library_with(ground, name), near) {
                (Some(library), _) => {
                    finding.help(format!("the library `{library}` defines it: add it to `needs`"))
                }
                (None, _) if pin_with(ground, name).is_some() => {
                    let pin = pin_with(ground, name).unwrap_or_default();
                    finding.help(format!("the pin `{pin}` keeps it to itself: let it `share = [\"{name}\"]`"))
                }
                (None, Some(near)) => finding.help(format!("did you mean `{near}`?")),
                (None, None) => {
                    finding.help("bring in the library that defines it, or ask for it first: `typeof` tells")
                }
            }
        }
        TroubleKind::Late { name, .. } => {
            let message = format!(
                "`{name}` is defined by `{by}`, which comes later on the page, so the script stops here"
            );
            let help = match library_with(ground, name) {
                Some(library) => format!("put `{library}` into `needs`, so that it comes first"),
                None => "use a later slot, or wait for the page: `DOMContentLoaded`".to_owned(),
            };
            finding(message).help(help)
        }
        TroubleKind::Race { name, .. } => {
            let message = format!(
                "`{name}` is defined by `{by}`, which runs whenever it is there: before this script or after it, and then the script stops here"
            );
            finding(message).help("take `async` away there, or wait for `load`")
        }
        TroubleKind::Early { selector, line } => {
            let message = format!(
                "`{selector}` is looked up before it is there (it begins on line {line} of the page), so the script stops here"
            );
            finding(message)
                .help("use the slot `foot`, wait for `DOMContentLoaded`, or ask whether it was found")
        }
        TroubleKind::Made { selector, name, .. } => {
            let message = format!(
                "`{selector}` is not on the page as it is served: `{name}` is added at run time by `{by}`, which nothing puts before this"
            );
            finding(message).help("look it up once it is there, or ask whether it was found")
        }
        TroubleKind::Kept { name, handler, .. } => {
            let asks = match handler {
                Some((attribute, line)) => format!("`{attribute}` on line {line} of the page"),
                None => format!("`{by}`"),
            };
            let message =
                format!("{asks} asks for `{name}`, which stays in this script, so that fails there");
            finding(message).help(format!("let the page have it: `share = [\"{name}\"]`"))
        }
        TroubleKind::Overwrites { name, by: Some(_) } => {
            let message = format!("`{by}` defines `{name}` too: whichever runs last is what both find there");
            finding(message).help("give it a name of your own, or keep what is there: `x = x || …`")
        }
        TroubleKind::Overwrites { name, by: None } => {
            let message =
                format!("`{name}` is the browser's own, and every script on the page gets this one instead");
            finding(message).help("give it a name of your own")
        }
        TroubleKind::Unknown { name, near, in_rule } => {
            let knows = if *in_rule { "a rule has" } else { "the page has" };
            let message = format!(
                "this adds `{name}`, which no rule, element or script on the page knows; {knows} `{near}`"
            );
            finding(message).help(format!("did you mean `{near}`?"))
        }
        TroubleKind::Lost { selector, when, name, near } => {
            let message = format!("`{selector}` finds nothing on the page, {}", then(*when));
            let finding = finding(message);
            match (name, near) {
                (Some(name), Some(near)) => {
                    finding.help(format!("there is no `{name}`; did you mean `{near}`?"))
                }
                _ => finding.help("ask whether it was found, or narrow the pin to pages that have it"),
            }
        }
    }
}

/// The pin of the board whose script declares a name and keeps it to itself.
fn pin_with<'g>(ground: &Ground<'g>, name: &str) -> Option<&'g str> {
    let at = ground.plan.pins.iter().position(|pin| {
        let script = pin.script.as_ref().and_then(|file| file.script.as_ref());
        script
            .is_some_and(|script| script.facts(ScriptKind::Confined).keeps.iter().any(|(own, _)| own == name))
    })?;
    Some(ground.plan.name_of(crate::plan::Owner::Pin(at)))
}

/// The library of the board that defines a global.
fn library_with<'g>(ground: &Ground<'g>, name: &str) -> Option<&'g str> {
    let at = ground.plan.libraries.iter().position(|library| {
        let files = library.scripts.iter().filter_map(LibraryPart::local);
        files.filter_map(|file| file.script.as_ref()).any(|script| {
            let facts = script.facts(ScriptKind::Classic);
            facts.defines.iter().any(|own| own.name == name && own.when != When::Later)
        })
    })?;
    Some(ground.plan.name_of(crate::plan::Owner::Library(at)))
}
