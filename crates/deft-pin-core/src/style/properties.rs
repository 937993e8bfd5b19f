//! The names of the properties and descriptors that the standards know.

use std::collections::HashSet;
use std::sync::LazyLock;

use crate::source::nearest;

/// Made by `scripts/property-names.sh`.
const TABLE: &str = include_str!("../../data/properties.txt");

static NAMES: LazyLock<HashSet<&str>> = LazyLock::new(|| rows().collect());

fn rows() -> impl Iterator<Item = &'static str> {
    TABLE.lines().filter(|line| !line.starts_with('#') && !line.is_empty())
}

/// Whether some browser may know a property of that name. Custom properties and names with a
/// vendor's prefix always may be known.
pub fn is_property(name: &str) -> bool {
    name.starts_with('-') || NAMES.contains(name.to_ascii_lowercase().as_str())
}

/// Whether an at-rule has a descriptor of that name. At-rules whose descriptors no standard lists
/// may have any.
pub fn is_descriptor(at_rule: &str, name: &str) -> bool {
    let row = format!("@{at_rule} {}", name.to_ascii_lowercase());
    let prefix = format!("@{at_rule} ");
    name.starts_with('-') || NAMES.contains(row.as_str()) || !rows().any(|row| row.starts_with(&prefix))
}

/// The property that someone who wrote `name` most likely meant.
pub fn nearest_property(name: &str) -> Option<&'static str> {
    nearest(name, rows().filter(|row| !row.starts_with('@')))
}
