//! Markers: what the root element or the body of a page says that no other page's does, or that
//! only pages of one type say.

use std::collections::{BTreeMap, HashMap};
use std::fmt;

use html5ever::{local_name, ns};

use super::candidates::identifier;
use super::quality::{NameQuality, quality};
use crate::markup::{Document, ElementRef};

/// An id, a class or an attribute of the root element or the body.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub struct Feature(String);

impl fmt::Display for Feature {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

impl Feature {
    /// The selector that it is.
    pub fn as_str(&self) -> &str {
        &self.0
    }
}

/// The longest value of an attribute that is a marker, in bytes.
const LONGEST_VALUE: usize = 80;

/// What a page's root element and body say of it.
pub fn features(document: &Document) -> Vec<Feature> {
    let mut found = Vec::new();
    for (part, element) in [("body", document.body()), ("html", document.root())] {
        let Some(element) = element else { continue };
        collect(part, element, &mut found);
    }
    found
}

fn collect(part: &str, element: ElementRef<'_>, found: &mut Vec<Feature>) {
    let data = element.data();
    if let Some(id) = data.id() {
        found.push(Feature(format!("{part}#{}", identifier(id))));
    }
    let mut classes: Vec<&str> = data.classes().collect();
    classes.sort_unstable();
    classes.dedup();
    found.extend(classes.into_iter().map(|class| Feature(format!("{part}.{}", identifier(class)))));
    for attribute in &data.attrs {
        let name = &attribute.name.local;
        let value = &*attribute.value;
        let says_little = matches!(*name, local_name!("id") | local_name!("class") | local_name!("style"))
            || name.starts_with("on")
            || matches!(&**name, "lang" | "dir" | "version" | "prefix");
        let marks = attribute.name.ns == ns!() && !says_little && value.len() <= LONGEST_VALUE;
        if marks && !value.contains(['\n', '\r', '\0']) {
            let mut text = String::new();
            let _ = cssparser::serialize_string(value, &mut text);
            found.push(Feature(format!("{part}[{}={text}]", identifier(name))));
        }
    }
}

/// What tells a page from the others.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Marker {
    /// No other page has it.
    Own(String),
    /// The rarest that it shares: with so many pages in all, itself among them.
    Shared(String, usize),
    /// It has nothing that not every page has.
    None,
}

/// The features of all pages, counted.
#[derive(Debug, Default)]
pub struct Markers {
    counts: HashMap<Feature, usize>,
    pages: usize,
}

impl Markers {
    /// Counts the features of pages, one list a page.
    pub fn count<'a>(pages: impl IntoIterator<Item = &'a [Feature]>) -> Self {
        let mut markers = Markers::default();
        for features in pages {
            markers.pages += 1;
            for feature in features {
                *markers.counts.entry(feature.clone()).or_default() += 1;
            }
        }
        markers
    }

    /// What tells a page with these features from the others. Of its own markers the one that
    /// reads best; where it has none alone, two together may do.
    pub fn of(&self, features: &[Feature]) -> Marker {
        let count = |feature: &Feature| self.counts.get(feature).copied().unwrap_or(0);
        let rank = |feature: &Feature| {
            let name = feature.0.split(['#', '.', '[']).nth(1).unwrap_or_default();
            let name = name.split('"').nth(1).unwrap_or(name);
            (quality(name) == NameQuality::Generated, feature.0.contains('['), feature.0.len())
        };
        let mut own: Vec<&Feature> = features.iter().filter(|feature| count(feature) == 1).collect();
        own.sort_by_key(|feature| rank(feature));
        if let Some(best) = own.first() {
            return Marker::Own(best.0.clone());
        }
        let shared = features.iter().filter(|feature| count(feature) < self.pages);
        match shared.min_by_key(|feature| (count(feature), rank(feature))) {
            Some(rarest) => Marker::Shared(rarest.0.clone(), count(rarest)),
            None => Marker::None,
        }
    }

    /// The types of pages: what several pages share, with how many they are, most first.
    pub fn types(&self) -> Vec<(&str, usize)> {
        let shared: BTreeMap<&str, usize> = self
            .counts
            .iter()
            .filter(|(_, count)| **count > 1 && **count < self.pages)
            .map(|(feature, count)| (feature.as_str(), *count))
            .collect();
        let mut types: Vec<_> = shared.into_iter().collect();
        types.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
        types
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::parse;

    #[test]
    fn a_marker_is_what_no_other_page_says() {
        let pages = [
            "<html data-page=home><body id=page-8683f915c class='type-home wide'>",
            "<body id=page-99aa01b21 class='type-pier wide'>",
            "<body class='type-pier wide'>",
            "<body class=wide>",
        ];
        let features: Vec<_> = pages.iter().map(|html| features(&parse(html.as_bytes()).1)).collect();
        let markers = Markers::count(features.iter().map(Vec::as_slice));
        let found: Vec<_> = features.iter().map(|features| markers.of(features)).collect();
        let expected = [
            Marker::Own("body.type-home".into()),
            Marker::Own("body#page-99aa01b21".into()),
            Marker::Shared("body.type-pier".into(), 2),
            Marker::None,
        ];
        assert_eq!(found, expected);
        assert_eq!(markers.types(), [("body.type-pier", 2)]);
    }
}
