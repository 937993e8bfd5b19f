//! The names that browsers have by themselves.

use std::sync::LazyLock;

use rustc_hash::FxHashSet;

fn names(table: &'static str) -> impl Iterator<Item = &'static str> {
    table.lines().filter(|line| !line.starts_with('#'))
}

static BROWSER: LazyLock<FxHashSet<&'static str>> = LazyLock::new(|| {
    names(include_str!("../../data/globals.txt")).chain(["arguments", "undefined", "import"]).collect()
});
static MEMBERS: LazyLock<FxHashSet<&'static str>> =
    LazyLock::new(|| names(include_str!("../../data/members.txt")).collect());

/// Whether browsers have a global of that name by themselves.
pub fn is_browser_global(name: &str) -> bool {
    BROWSER.contains(name)
}

/// Whether code in an attribute for an event finds a name on its element, on the form around it or
/// on the document, before it comes to globals.
pub fn is_member(name: &str) -> bool {
    MEMBERS.contains(name)
}
