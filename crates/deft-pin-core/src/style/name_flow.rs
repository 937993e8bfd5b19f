//! Names that travel through custom properties: `--spin: turn 1s` with `animation: var(--spin)` names keyframes,
//! wherever it stands.

use rustc_hash::FxHashMap;

use super::sheet::{Block, Declaration, Item, Rule, Sheet};
use super::variables::variables;

/// What a name is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum NameKind {
    Keyframes,
    Font,
    CounterStyle,
    Property,
    Layer,
    Container,
    /// A counter: it counts on through the page (css-lists-3, 4).
    Counter,
    /// An anchor that boxes are positioned by (css-anchor-position-1).
    Anchor,
    /// A timeline of scrolling (scroll-animations-1).
    Timeline,
    /// A place for a box that does not fit at its first one (css-anchor-position-1).
    PositionTry,
    /// Colours of a font (css-fonts-4).
    Palette,
    /// A function of the sheet's own (css-mixins-1).
    Function,
}

/// For each custom property of a sheet the kinds of names that its value is read for.
#[derive(Debug, Default)]
pub(super) struct NameFlow(FxHashMap<String, Vec<NameKind>>);

impl NameFlow {
    pub(super) fn of(text: &str, sheet: &Sheet) -> Self {
        let mut flow = NameFlow::default();
        // What one custom property takes from others, in pairs.
        let mut passed: Vec<(String, String)> = Vec::new();
        each_declaration(sheet, &mut |own| {
            let value = &text[own.value.range()];
            let kind = kind_read(&own.name);
            for used in used_in(value) {
                match kind {
                    Some(kind) => flow.add(&used, kind),
                    None if own.is_custom() => passed.push((own.name.clone(), used)),
                    None => {}
                }
            }
        });
        // Each pass carries kinds one step on; what goes in a circle comes to an end.
        for _ in 0..passed.len().min(16) {
            for (to, from) in &passed {
                for kind in flow.kinds(to).to_vec() {
                    flow.add(from, kind);
                }
            }
        }
        flow
    }

    fn add(&mut self, property: &str, kind: NameKind) {
        let kinds = self.0.entry(property.to_owned()).or_default();
        if !kinds.contains(&kind) {
            kinds.push(kind);
        }
    }

    /// The kinds of names that the value of a custom property is read for.
    pub(super) fn kinds(&self, property: &str) -> &[NameKind] {
        self.0.get(property).map_or(&[], Vec::as_slice)
    }
}

/// The custom properties that a value uses, those in fallbacks too.
fn used_in(value: &str) -> Vec<String> {
    let mut found = Vec::new();
    for used in variables(value) {
        if let Some(fallback) = &used.fallback {
            found.extend(used_in(fallback));
        }
        found.push(used.name);
    }
    found
}

/// The kind of name that a property reads.
fn kind_read(property: &str) -> Option<NameKind> {
    let property = property.to_ascii_lowercase();
    Some(match property.strip_prefix("-webkit-").unwrap_or(&property) {
        "animation" | "animation-name" => NameKind::Keyframes,
        "font" | "font-family" => NameKind::Font,
        "list-style" | "list-style-type" => NameKind::CounterStyle,
        "position-try" | "position-try-fallbacks" => NameKind::PositionTry,
        "font-palette" => NameKind::Palette,
        _ => return None,
    })
}

/// Goes over all declarations of a sheet, nested ones too.
pub(super) fn each_declaration(sheet: &Sheet, act: &mut dyn FnMut(&Declaration)) {
    fn of_block(block: &Block, act: &mut dyn FnMut(&Declaration)) {
        for item in &block.items {
            match item {
                Item::Declaration(own) => act(own),
                Item::Rule(rule) => of_rule(rule, act),
            }
        }
    }
    fn of_rule(rule: &Rule, act: &mut dyn FnMut(&Declaration)) {
        match rule {
            Rule::Style(style) => of_block(&style.block, act),
            Rule::At(at) => at.block.iter().for_each(|block| of_block(block, act)),
        }
    }
    sheet.rules.iter().for_each(|rule| of_rule(rule, act));
}
