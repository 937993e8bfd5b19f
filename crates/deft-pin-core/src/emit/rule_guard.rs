//! What keeps rules to their pages, where nothing but rules can: what the root elements or the bodies of these pages
//! say and those of no others do, or a class that a script sets.

use std::collections::BTreeMap;

use crate::code::PageId;
use crate::find::Feature;

/// How the rules of a sheet are kept to its pages.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum RuleGuard {
    /// By what their pages say: a selector of the root element.
    Marker(String),
    /// By a class of the root element, which a script sets.
    Class(String),
}

impl RuleGuard {
    /// The selector that the rules get.
    pub(super) fn selector(&self) -> String {
        match self {
            RuleGuard::Marker(selector) => selector.clone(),
            RuleGuard::Class(class) => format!(":root.{class}"),
        }
    }
}

/// The most markers that are named one by one.
const MOST_MARKERS: usize = 12;

/// The features of all pages: by which pages they are.
pub(super) struct PageMarkers {
    pages: BTreeMap<Feature, Vec<PageId>>,
}

impl PageMarkers {
    pub(super) fn of<'f>(pages: impl IntoIterator<Item = (PageId, &'f [Feature])>) -> Self {
        let mut found: BTreeMap<Feature, Vec<PageId>> = BTreeMap::new();
        for (page, features) in pages {
            for feature in features {
                found.entry(feature.clone()).or_default().push(page);
            }
        }
        PageMarkers { pages: found }
    }

    /// A selector of the root elements of exactly these pages; none where what they say does not tell.
    pub(super) fn guard(&self, meant: &[PageId]) -> Option<String> {
        let is_better = |feature: &&Feature| (feature.as_str().contains('['), feature.as_str().len());
        let shared = self.pages.iter().filter(|(_, pages)| pages.as_slice() == meant).map(|(own, _)| own);
        if let Some(best) = shared.min_by_key(is_better) {
            return Some(of_root(best));
        }
        if meant.is_empty() || meant.len() > MOST_MARKERS {
            return None;
        }
        let own = |page: &PageId| {
            let alone = self.pages.iter().filter(|(_, pages)| pages.as_slice() == std::slice::from_ref(page));
            alone.map(|(feature, _)| feature).min_by_key(is_better).map(of_root)
        };
        let all: Option<Vec<String>> = meant.iter().map(own).collect();
        all.map(|all| format!(":is({})", all.join(", ")))
    }
}

/// The root element of a page that says something: rules may be about the root element itself.
fn of_root(feature: &Feature) -> String {
    match feature.as_str().strip_prefix("html") {
        Some(rest) => format!(":root{rest}"),
        None => format!(":root:has(> {})", feature.as_str()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::code::Id as _;
    use crate::find::features;
    use crate::markup::parse;

    #[test]
    fn pages_are_told_apart_by_what_they_say() {
        let pages =
            ["<body id=a class=pier>", "<body id=b class=pier>", "<html lang=en class=home><body>", "<p>"];
        let all: Vec<_> = pages.iter().map(|page| features(&parse(page.as_bytes()).1)).collect();
        let numbered = all.iter().enumerate().map(|(at, own)| (PageId::new(at), own.as_slice()));
        let markers = PageMarkers::of(numbered);
        let guard = |meant: &[usize]| {
            let meant: Vec<PageId> = meant.iter().map(|at| PageId::new(*at)).collect();
            markers.guard(&meant).unwrap_or_default()
        };
        assert_eq!(guard(&[0, 1]), ":root:has(> body.pier)");
        assert_eq!(guard(&[2]), ":root.home");
        assert_eq!(guard(&[0, 2]), ":is(:root:has(> body#a), :root.home)");
        assert_eq!(guard(&[0, 3]), "");
    }
}
