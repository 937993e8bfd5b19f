//! Sheets that are kept to some pages by their own rules.

use super::edit::apply;
use super::fence::{Fence, Strength, fence};
use super::sheet::Sheet;

/// A sheet whose rules count only where a selector matches, with the same strength as before; none where something in
/// it cannot be kept so. `name` goes in front of the names that it would share with other pages.
pub fn kept_to(text: &str, guard: &str, name: &str) -> Option<String> {
    let around = Fence::around(guard, name, Strength::Keep, &[]);
    let fenced = fence(text, &Sheet::parse(text), &around).ok()?;
    Some(apply(text, fenced.edits))
}
