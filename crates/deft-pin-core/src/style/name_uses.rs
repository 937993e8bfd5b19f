//! Names that a sheet uses and something has to set: keyframes, and custom properties.

use super::rules::StyleRules;
use super::set_names::UsedName;
use super::shared_names::keyframes_named;
use super::variables::variables;
use crate::source::Span;

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
