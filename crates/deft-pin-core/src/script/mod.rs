//! JavaScript: what of a script a browser cannot read, and scripts made safe to stand in a page.

mod inline;
mod syntax;

pub use inline::inline_safe;
pub use syntax::{ScriptFlaw, syntax_flaws};
