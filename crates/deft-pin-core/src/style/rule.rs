//! The rules of a sheet as the cascade has them: data alone.

use super::at_rule::AtRuleKind;
use super::condition::Condition;
use super::declaration::StyleDeclaration;
use crate::markup::{AskedAncestors, Selector, SelectorList};
use crate::source::Span;

/// One style rule, or a run of declarations that stands behind rules nested in it: such a run is a
/// rule of its own (css-nesting-1, 4.2).
#[derive(Debug)]
pub struct CascadeRule {
    /// The selector list as it was written.
    pub prelude: Span,
    /// The selectors.
    pub selectors: Vec<CascadeSelector>,
    /// The layer that it is in, within this sheet.
    pub layer: LayerPath,
    /// The scopes around it, outermost first.
    pub scopes: Vec<ScopeRange>,
    /// The conditions that it stands under, outermost first.
    pub conditions: Vec<Condition>,
    /// Its declarations, in order.
    pub declarations: Vec<StyleDeclaration>,
}

/// A complex selector of a rule.
#[derive(Debug)]
pub struct CascadeSelector {
    /// The selector, ready to be matched.
    pub selector: Selector,
    /// Where it was written.
    pub span: Span,
    /// The pseudo-element that it is for, by its name without the colons.
    pub pseudo: Option<String>,
    /// What it asks of ancestors.
    pub(super) ancestors: AskedAncestors,
    /// Whether it asks for something that only a running page settles.
    pub(super) is_open: bool,
}

impl CascadeSelector {
    /// Its specificity (Selectors 4, 15): IDs; classes, attributes and pseudo-classes; elements
    /// and pseudo-elements.
    pub fn specificity(&self) -> [u32; 3] {
        let packed = self.selector.specificity();
        [packed >> 20, (packed >> 10) & 0x3ff, packed & 0x3ff]
    }
}

/// The names of a layer and those around it, outermost first. Anonymous layers have numbers.
pub type LayerPath = Vec<LayerName>;

/// The name of a layer.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum LayerName {
    /// A name.
    Named(String),
    /// No name: every such layer is one of its own.
    Anonymous(u32),
}

/// What matters for the order of layers.
#[derive(Debug)]
pub(super) enum Mention {
    /// A layer is named or opened, under some conditions: where they do not hold, it is not
    /// (css-cascade-5, 6.4.3).
    Layer(LayerPath, Vec<Condition>),
    /// A sheet is imported, by its place in the list.
    Import(usize),
}

/// An imported sheet (css-cascade-5, 2).
#[derive(Debug)]
pub struct Import {
    /// Its address as written.
    pub url: String,
    /// Where the rule stands.
    pub span: Span,
    /// The layer that it goes into.
    pub layer: Option<LayerName>,
    /// More names, where the layer's name has dots.
    pub sublayers: Vec<LayerName>,
    /// The conditions that it is imported under.
    pub conditions: Vec<Condition>,
}

/// A range of elements that rules are confined to (css-cascade-6, 2.5).
#[derive(Clone, Debug)]
pub struct ScopeRange {
    /// What its roots match; `None` for the parent of the element that holds the sheet.
    pub roots: Option<SelectorList>,
    /// What ends it.
    pub limits: Option<SelectorList>,
}

/// An at-rule that defines something by name.
#[derive(Debug)]
pub struct Definition {
    /// The kind of at-rule.
    pub kind: AtRuleKind,
    /// Its name, in lower case, without the `@`.
    pub at_rule: String,
    /// The name that it defines.
    pub name: String,
    /// Where all of it stands.
    pub span: Span,
}
