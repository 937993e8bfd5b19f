//! Names that a sheet uses and something has to set: keyframes, and custom properties.

use super::at_rule::AtRuleKind;
use super::rules::StyleRules;
use super::shared_names::keyframes_named;
use super::variables::variables;
use crate::source::Span;

/// A name that a declaration cannot do without.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum UsedName {
    /// The keyframes of an animation.
    Keyframes(String),
    /// A custom property, which no other value stands in for.
    Property(String),
}

/// A use of a name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NameUse {
    /// The name.
    pub name: UsedName,
    /// The declaration, in the text of the sheet as it applies.
    pub span: Span,
}

/// The names that the declarations of a sheet cannot do without. What a custom property is made of matters
/// only where it is used.
pub fn name_uses(rules: &StyleRules) -> Vec<NameUse> {
    let mut found = Vec::new();
    for own in rules.rules.iter().flat_map(|rule| &rule.declarations).filter(|own| !own.property.is_custom())
    {
        let value = rules.text.slice(own.value);
        let keyframes = keyframes_named(own.property.name(), value).into_iter().map(UsedName::Keyframes);
        let bare = variables(value).into_iter().filter(|variable| variable.fallback.is_none());
        let properties = bare.map(|variable| UsedName::Property(variable.name));
        found.extend(keyframes.chain(properties).map(|name| NameUse { name, span: own.span }));
    }
    found
}

/// The keyframes that a sheet defines, and the custom properties that it sets or registers with a value.
pub(super) fn set_names(rules: &StyleRules) -> Vec<UsedName> {
    let declared = rules.rules.iter().flat_map(|rule| &rule.declarations);
    let custom = declared.filter(|own| own.property.is_custom());
    let set = custom.map(|own| UsedName::Property(own.property.name().to_owned()));
    let defined = rules.definitions.iter().filter_map(|own| match own.kind {
        AtRuleKind::Keyframes => Some(UsedName::Keyframes(own.name.clone())),
        AtRuleKind::Property if rules.text.slice(own.span).contains("initial-value") => {
            Some(UsedName::Property(own.name.clone()))
        }
        _ => None,
    });
    set.chain(defined).collect()
}
