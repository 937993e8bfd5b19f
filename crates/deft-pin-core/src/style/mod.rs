//! CSS: a sheet's text to rules and declarations with their places, what a browser drops of it,
//! what it loads, and the fence that confines it to a part of the page.

mod edit;
mod fence;
mod inline;
mod list;
mod losses;
mod properties;
mod sheet;
mod tokens;
mod urls;

pub use edit::{Edit, apply};
pub use fence::{Fence, Fenced, NotConfined, fence};
pub use inline::inline_safe;
pub use list::members;
pub use losses::{Loss, LossKind, losses};
pub use properties::{is_descriptor, is_property, nearest_property};
pub use sheet::{AtRule, Block, Declaration, Item, Rule, Sheet, Skipped, StyleRule};
pub use tokens::{Bracket, Flaw, FlawKind, flaws};
pub use urls::{UrlUse, urls};
