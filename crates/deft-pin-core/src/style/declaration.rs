//! Declarations as the cascade has them: those of style rules, and those of style attributes.

use rustc_hash::FxHashMap;

use super::engines::{Engine, takers_of};
use super::property_id::PropertyId;
use super::sheet::{Block, Declaration, Item, Rule, Sheet};
use super::tokens::{Bracket, FlawKind, flaws};
use super::values::{Validity, validity};
use crate::source::{SourceText, Span};

/// A declaration of a style rule.
#[derive(Clone, Debug)]
pub struct StyleDeclaration {
    /// The property.
    pub property: PropertyId,
    /// All of it.
    pub span: Span,
    /// The value, without `!important`.
    pub value: Span,
    /// Whether it is important.
    pub important: bool,
    /// Whether a browser takes it.
    pub validity: Validity,
}

impl StyleDeclaration {
    /// Whether it takes no part on a page in an engine, given the text that it stands in.
    pub fn is_dropped(&self, text: &SourceText, quirks: bool, engine: Engine) -> bool {
        if engine != Engine::Chromium {
            let takers = |validity| takers_of(self.property.name(), text.slice(self.value), validity);
            return !takers(self.validity).has(engine);
        }
        let is_none = |validity| matches!(validity, Validity::Dropped | Validity::Elsewhere);
        let in_quirks = || validity(self.property.name(), text.slice(self.value), true);
        is_none(self.validity) && (!quirks || is_none(in_quirks()))
    }
}

/// The declarations of a text as the cascade has them, each judged once for all that say the same.
pub(super) struct Declarations<'t> {
    text: &'t str,
    judged: FxHashMap<(PropertyId, &'t str), Validity>,
}

impl<'t> Declarations<'t> {
    pub(super) fn of(text: &'t str) -> Self {
        Declarations { text, judged: FxHashMap::default() }
    }

    /// A declaration as the cascade has it.
    pub(super) fn read(&mut self, declaration: &Declaration) -> StyleDeclaration {
        let property = PropertyId::of(&declaration.name);
        let mut value = declaration.value;
        if declaration.important {
            let whole = &self.text[value.range()];
            let end = whole.rfind('!').unwrap_or(whole.len());
            value.end = value.start + whole[..end].trim_end().len() as u32;
        }
        let written = &self.text[value.range()];
        let judge = || validity(property.name(), written, false);
        let validity = match property.is_custom() {
            true => judge(),
            false => *self.judged.entry((property.clone(), written)).or_insert_with(judge),
        };
        StyleDeclaration {
            property,
            span: declaration.span,
            value,
            important: declaration.important,
            validity,
        }
    }
}

/// The declarations of a block that stand in it themselves.
fn declarations(text: &str, block: &Block) -> Vec<StyleDeclaration> {
    let own = block.items.iter().filter_map(|item| match item {
        Item::Declaration(declaration) => Some(declaration),
        Item::Rule(_) => None,
    });
    let mut declarations = Declarations::of(text);
    own.map(|declaration| declarations.read(declaration)).collect()
}

/// What is put before the text of a style attribute, for a rule to stand around it.
pub(super) const BEFORE_DECLARATIONS: &str = "*{";

/// The declarations of a style attribute.
pub(super) fn style_attribute(text: &str) -> (SourceText, Vec<StyleDeclaration>) {
    // No block is around it that a brace could close: the declaration that has one is dropped (css-style-attr,
    // 3). With another character in its place, as long, that is what becomes of it.
    let strays = flaws(text).into_iter().filter(|flaw| flaw.kind == FlawKind::Stray(Bracket::Curly));
    let mut text = text.to_owned();
    for stray in strays {
        text.replace_range(stray.span.range(), "!");
    }
    let wrapped = format!("{BEFORE_DECLARATIONS}{text}\n}}");
    let sheet = Sheet::parse(&wrapped);
    let declarations = match sheet.rules.first() {
        Some(Rule::Style(rule)) => declarations(&wrapped, &rule.block),
        _ => Vec::new(),
    };
    (SourceText::new(wrapped), declarations)
}

/// Whether a property decides how text runs.
pub(super) fn sets_flow(property: &PropertyId) -> bool {
    matches!(property.name(), "writing-mode" | "direction" | "all")
}
