//! Findings about fonts: families that nothing on a page loads, and lists without a fallback.

use serde::Serialize;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PinId;
use crate::site::PageSheets;
use crate::source::{Span, nearest};
use crate::style::{AtRuleKind, FontUse, StyleRules, families_in_url, is_installed};

pub(super) struct Fonts;

/// A font family that a pin uses and nothing on a page loads.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct FontGap {
    pin: PinId,
    /// The declaration, in the pin's sheet as it was written.
    span: Span,
    /// The family.
    family: String,
    /// One of nearly that name that is loaded there.
    near: Option<String>,
    /// An address that asks for fonts, and not for this one.
    asked: Option<String>,
}

impl Family for Fonts {
    type Fact = FontGap;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<FontGap>) {
        let ready = &page.page.context().sheets;
        for pin in page.styled_pins() {
            let wants = |used: &FontUse| used.families.iter().any(|family| !is_installed(family));
            let uses = ready.fonts_of(pin);
            if let Some(rules) = ready.of_pin(pin).filter(|_| uses.iter().any(wants)) {
                facts.extend(gaps(pin, uses, rules, page.page.sheets()));
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<FontGap>, findings: &mut Vec<Finding>) {
        let ready = &input.context.sheets;
        for pin in input.plan().board.pins.ids() {
            let Some(rules) = ready.of_pin(pin) else { continue };
            let bare = |used: &&FontUse| {
                !used.has_fallback
                    && !used.families.is_empty()
                    && !used.families.iter().any(|name| is_of_icons(name))
            };
            let bare = ready.fonts_of(pin).iter().filter(bare);
            findings.extend(bare.filter_map(|used| no_fallback(input, pin, rules, used)));
        }
        for shared in facts.shared(FontGap::clone) {
            let finding = not_loaded(input, shared.first);
            findings.extend(finding.map(|finding| finding.pages(input.paths(shared.pages))));
        }
    }
}

/// Whether a font holds pictures in the place of letters: no other font can stand in for it.
fn is_of_icons(family: &str) -> bool {
    let family = family.to_ascii_lowercase();
    ["icon", "glyph", "symbol", "awesome", "emoji", "dingbat"].iter().any(|part| family.contains(part))
        || family.split([' ', '-', '_']).any(|word| word == "fa")
}

/// The families that a pin's sheet uses and that nothing on a page loads. A sheet of another host
/// may hold any font, unless its address says which.
fn gaps(pin: PinId, uses: &[FontUse], own: &StyleRules, sheets: &PageSheets) -> Vec<FontGap> {
    let mut loaded: Vec<String> = Vec::new();
    for sheet in &sheets.sheets {
        let faces =
            sheet.rules.definitions.iter().filter(|definition| definition.kind == AtRuleKind::FontFace);
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
        // A name with curled quotes in it is told as what it is.
        let is_name = |family: &&String| !family.contains(['“', '”', '‘', '’']);
        let families = used.families.iter().filter(is_name);
        let missing = families.filter(|family| !is_installed(family) && !is_loaded(family));
        let gaps = missing.map(|family| FontGap {
            pin,
            span: own.source(used.span).1,
            family: family.clone(),
            near: nearest(family, loaded.iter().map(String::as_str)).map(str::to_owned),
            asked: asked.clone(),
        });
        gaps.collect::<Vec<_>>()
    };
    uses.iter().flat_map(gap).collect()
}

fn no_fallback(input: &CheckInput<'_>, pin: PinId, rules: &StyleRules, used: &FontUse) -> Option<Finding> {
    let (_, span) = rules.source(used.span);
    let last = used.families.last().map_or("", String::as_str);
    // In a fenced sheet its own fonts have the pin's name in front.
    let last = last.strip_prefix(&format!("{} ", input.pin_name(pin))).unwrap_or(last);
    let message = format!(
        "after `{last}` this list of fonts ends: where it is not loaded or not installed, a browser takes its own font"
    );
    let help = match GENERIC.contains(&last) {
        true => format!("in quotes that is the name of a font: write `{last}` without them"),
        false => {
            "end the list with a generic family: `serif`, `sans-serif`, `monospace`, `system-ui`".to_owned()
        }
    };
    let finding = Finding::new(Code::NoFallbackFont, input.in_sheet(pin, span)?, message).help(help);
    Some(finding.pin(input.pin_name(pin)))
}

fn not_loaded(input: &CheckInput<'_>, gap: &FontGap) -> Option<Finding> {
    let message = format!(
        "no sheet loads the font `{}` there, so visitors see the next one of the list, unless they have it installed",
        gap.family
    );
    let help = match (&gap.near, &gap.asked) {
        _ if gap.family.contains(',') => {
            let each = gap.family.split(',').map(|name| quoted_family(name.trim()));
            format!("each family has quotes of its own: `{}`", each.collect::<Vec<_>>().join(", "))
        }
        _ if generic_meant(&gap.family).is_some() => {
            format!("did you mean `{}`?", generic_meant(&gap.family).unwrap_or_default())
        }
        (Some(near), Some(address)) => format!("`{address}` asks for `{near}`; did you mean that?"),
        (Some(near), None) => format!("`{near}` is loaded; did you mean that?"),
        (None, Some(address)) => format!("`{address}` does not ask for it: add it there"),
        (None, None) => "declare it with `@font-face`, or link the sheet that does".to_owned(),
    };
    let finding = Finding::new(Code::FontNotLoaded, input.in_sheet(gap.pin, gap.span)?, message);
    Some(finding.help(help).pin(input.pin_name(gap.pin)))
}

/// A family as it is written in a list: a generic one without quotes.
fn quoted_family(name: &str) -> String {
    match GENERIC.contains(&name.to_ascii_lowercase().as_str()) {
        true => name.to_owned(),
        false => format!("\"{name}\""),
    }
}

/// The generic families that people write in lists.
const GENERIC: [&str; 6] = ["serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui"];

/// The generic family that somebody meant who wrote it otherwise.
fn generic_meant(family: &str) -> Option<&'static str> {
    let bare = family.to_ascii_lowercase().replace([' ', '_'], "-");
    match bare.as_str() {
        "sans" | "sansserif" | "san-serif" | "sans-serrif" => Some("sans-serif"),
        "mono" | "monospaced" | "mono-space" => Some("monospace"),
        other => GENERIC.into_iter().find(|own| *own == other),
    }
}
