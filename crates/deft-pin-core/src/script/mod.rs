//! JavaScript: what of a script a browser cannot read, what it needs and gives, and scripts made
//! safe to stand in a page.

mod facts;
mod inline;
mod markup;
mod syntax;
mod timeline;
mod values;

pub use facts::{AddedName, GlobalUse, LookUp, ScriptFacts, When, facts, is_browser_global};
pub use inline::inline_safe;
pub use syntax::{ScriptFlaw, ScriptKind, syntax_flaws};
pub use timeline::{How, Timeline, Turn};
