//! The globals that browsers have by themselves.

use std::collections::HashSet;
use std::sync::LazyLock;

static BROWSER: LazyLock<HashSet<&'static str>> = LazyLock::new(|| {
    let names = include_str!("../../data/globals.txt").lines().filter(|line| !line.starts_with('#'));
    names.chain(["arguments", "undefined", "import"]).collect()
});

/// Whether browsers have a global of that name by themselves.
pub fn is_browser_global(name: &str) -> bool {
    BROWSER.contains(name)
}
