//! CSS: a sheet's text to rules and declarations with their places, what a browser drops of it,
//! what it loads, and the fence that confines it to a part of the page.

mod applied;
mod at_rule;
mod attributes;
mod cascade;
mod compile;
mod component;
mod condition;
mod declaration;
mod edit;
mod fence;
mod fonts;
mod grammar;
mod inline;
mod keywords;
mod layers;
mod likeness;
mod list;
mod losses;
mod math;
mod media;
mod on_page;
mod presentational_hints;
mod properties;
mod property_id;
mod rule;
mod rule_matching;
mod rules;
mod shared_names;
mod sharing;
mod sheet;
mod supports;
mod tokens;
mod truth;
mod urls;
mod value_rules;
mod values;

pub use applied::{Applied, AppliedDeclaration, DeclarationSource, Outcome, Step, layer_name};
pub use at_rule::AtRuleKind;
pub use cascade::Cascade;
pub(crate) use compile::MOST_SELECTORS;
pub use condition::{Condition, ConditionTest};
pub use declaration::StyleDeclaration;
pub use edit::{Edit, apply};
pub use fence::{Fence, Fenced, FencedSheet, NotConfined, Strength, fence, longest_fenced};
pub(crate) use fonts::declared_families;
pub use fonts::{FontUse, families_in_url, font_uses, is_installed};
pub use inline::inline_safe;
pub(crate) use inline::with_backslash;
pub use keywords::nearest_keyword;
pub use likeness::Likeness;
pub use list::members;
pub use losses::{Loss, LossKind, losses};
pub use media::{MediaList, Viewport};
pub use on_page::PageSheet;
pub use properties::{
    Flow, Property, is_descriptor, is_inherited, is_property, nearest_property, properties, property,
};
pub use property_id::PropertyId;
pub use rule::{CascadeRule, CascadeSelector, Definition, Import, LayerName, LayerPath};
pub use rules::StyleRules;
pub use sheet::{AtRule, Block, Declaration, Item, Rule, Sheet, Skipped, StyleRule};
pub use tokens::{Bracket, Flaw, FlawKind, flaws};
pub use truth::Truth;
pub use urls::{UrlUse, urls};
pub use values::{Validity, validity};
