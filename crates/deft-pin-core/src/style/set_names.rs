//! Names that a sheet sets, for those that something cannot do without: keyframes, and custom properties.

use rustc_hash::FxHashSet;

use super::at_rule::AtRuleKind;
use super::rule::{CascadeRule, Definition};
use crate::source::SourceText;

/// A name that a declaration cannot do without.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum UsedName {
    /// The keyframes of an animation.
    Keyframes(String),
    /// A custom property, which no other value stands in for.
    Property(String),
}

/// The keyframes that a sheet defines, and the custom properties that it sets or registers with a value.
pub(super) fn set_names(
    rules: &[CascadeRule],
    definitions: &[Definition],
    text: &SourceText,
) -> FxHashSet<UsedName> {
    let custom = rules.iter().flat_map(|rule| &rule.declarations).filter(|own| own.property.is_custom());
    let set = custom.map(|own| UsedName::Property(own.property.name().to_owned()));
    let defined = definitions.iter().filter_map(|own| match own.kind {
        AtRuleKind::Keyframes => Some(UsedName::Keyframes(own.name.clone())),
        AtRuleKind::Property if text.slice(own.span).contains("initial-value") => {
            Some(UsedName::Property(own.name.clone()))
        }
        _ => None,
    });
    set.chain(defined).collect()
}
