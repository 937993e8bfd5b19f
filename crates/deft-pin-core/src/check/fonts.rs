//! Findings about fonts: families that nothing on a page loads, and lists without a fallback.

use std::collections::BTreeMap;

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::plan::{Owner, PinStyle, PlannedSheets};
use crate::site::PageSheets;
use crate::source::{Span, nearest};
use crate::style::{FontUse, StyleRules, families_in_url, font_uses, is_installed};

/// A font family that a pin uses and nothing on a page loads.
#[derive(Clone, Debug)]
pub struct FontGap {
    /// The declaration, in the pin's sheet as it was written.
    pub span: Span,
    /// The family.
    pub family: String,
    /// One of nearly that name that is loaded there.
    pub near: Option<String>,
    /// An address that asks for fonts, and not for this one.
    pub asked: Option<String>,
}

/// The families that a pin's sheet uses and that nothing on a page loads. A sheet of another host
/// may hold any font, unless its address says which.
pub(super) fn gaps(uses: &[FontUse], own: &StyleRules, sheets: &PageSheets) -> Vec<FontGap> {
    let wanted = |used: &FontUse| used.families.iter().any(|family| !is_installed(family));
    if !uses.iter().any(wanted) {
        return Vec::new();
    }
    let mut loaded: Vec<String> = Vec::new();
    for sheet in &sheets.sheets {
        let faces = sheet.rules.definitions.iter().filter(|definition| definition.kind == "font-face");
        loaded.extend(faces.map(|face| face.name.clone()));
    }
    let mut asked = None;
    for address in &sheets.unread {
        match families_in_url(address).as_slice() {
            [] => return Vec::new(),
            names => {
                loaded.extend_from_slice(names);
                asked = Some(address.clone());
            }
        }
    }
    let is_loaded = |family: &str| loaded.iter().any(|name| name.eq_ignore_ascii_case(family));
    let gap = |used: &FontUse| {
        let missing = used.families.iter().filter(|family| !is_installed(family) && !is_loaded(family));
        let gaps = missing.map(|family| FontGap {
            span: own.source(used.span).1,
            family: family.clone(),
            near: nearest(family, loaded.iter().map(String::as_str)).map(str::to_owned),
            asked: asked.clone(),
        });
        gaps.collect::<Vec<_>>()
    };
    uses.iter().flat_map(gap).collect()
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let planned = PlannedSheets::new(ground.plan);
    for (pin, about) in ground.plan.pins.iter().enumerate() {
        let Some((style, rules)) = about.style.as_ref().zip(planned.of_pin(pin)) else { continue };
        let first = findings.len();
        for used in font_uses(rules).iter().filter(|used| !used.has_fallback && !used.families.is_empty()) {
            findings.push(no_fallback(style, rules, used));
        }
        let mut found: BTreeMap<(Span, &str), (&FontGap, Vec<usize>)> = BTreeMap::new();
        for (page, facts) in ground.pages_of(pin) {
            for gap in &facts.fonts {
                found.entry((gap.span, &gap.family)).or_insert((gap, Vec::new())).1.push(page);
            }
        }
        for ((span, family), (gap, pages)) in found {
            findings.push(not_loaded(style, span, family, gap).pages(ground.paths(pages)));
        }
        let name = ground.plan.name_of(Owner::Pin(pin));
        findings[first..].iter_mut().for_each(|finding| finding.pin = Some(name.to_owned()));
    }
}

fn no_fallback(style: &PinStyle, rules: &StyleRules, used: &FontUse) -> Finding {
    let (_, span) = rules.source(used.span);
    let place = Place::new(&style.file.path, &style.file.text, span);
    let last = used.families.last().map_or("", String::as_str);
    let message = format!(
        "after `{last}` this list of fonts ends: where it is not loaded or not installed, a browser takes its own font"
    );
    Finding::new(Code::NoFallbackFont, Severity::Warning, place, message)
        .help("end the list with a generic family: `serif`, `sans-serif`, `monospace`, `system-ui`")
}

fn not_loaded(style: &PinStyle, span: Span, family: &str, gap: &FontGap) -> Finding {
    let place = Place::new(&style.file.path, &style.file.text, span);
    let message = format!(
        "no sheet loads the font `{family}` there, so visitors see the next one of the list, unless they have it installed"
    );
    let help = match (&gap.near, &gap.asked) {
        (Some(near), Some(address)) => format!("`{address}` asks for `{near}`; did you mean that?"),
        (Some(near), None) => format!("`{near}` is loaded; did you mean that?"),
        (None, Some(address)) => format!("`{address}` does not ask for it: add it there"),
        (None, None) => "declare it with `@font-face`, or link the sheet that does".to_owned(),
    };
    Finding::new(Code::FontNotLoaded, Severity::Warning, place, message).help(help)
}
