//! Declarations as the cascade has them: those of style rules, and those of style attributes.

use super::property_id::PropertyId;
use super::sheet::{Block, Declaration, Item, Rule, Sheet};
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
    /// Whether it takes no part on a page, given the text that it stands in.
    pub fn is_dropped(&self, text: &SourceText, quirks: bool) -> bool {
        let in_quirks = || validity(self.property.name(), text.slice(self.value), true);
        self.validity == Validity::Dropped && !(quirks && in_quirks() != Validity::Dropped)
    }
}

/// A declaration as the cascade has it.
pub(super) fn style_declaration(text: &str, declaration: &Declaration) -> StyleDeclaration {
    let property = PropertyId::of(&declaration.name);
    let mut value = declaration.value;
    if declaration.important {
        let whole = &text[value.range()];
        let end = whole.rfind('!').unwrap_or(whole.len());
        value.end = value.start + whole[..end].trim_end().len() as u32;
    }
    let judged = validity(property.name(), &text[value.range()], false);
    StyleDeclaration {
        property,
        span: declaration.span,
        value,
        important: declaration.important,
        validity: judged,
    }
}

/// The declarations of a block that stand in it themselves.
fn declarations(text: &str, block: &Block) -> Vec<StyleDeclaration> {
    let own = block.items.iter().filter_map(|item| match item {
        Item::Declaration(declaration) => Some(declaration),
        Item::Rule(_) => None,
    });
    own.map(|declaration| style_declaration(text, declaration)).collect()
}

/// The declarations of a style attribute.
pub(super) fn style_attribute(text: &str) -> (SourceText, Vec<StyleDeclaration>) {
    let wrapped = format!("*{{{text}\n}}");
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
