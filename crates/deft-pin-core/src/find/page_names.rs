//! The names on a page: its IDs, its classes and the names of its elements.

use html5ever::LocalName;
use html5ever::tree_builder::QuirksMode;
use rustc_hash::FxHashSet;

use crate::markup::{Document, NamedPart};
use crate::source::nearest;

/// The names of one page, as selectors match them there.
#[derive(Clone, Debug)]
pub struct PageNames {
    ids: FxHashSet<LocalName>,
    classes: FxHashSet<LocalName>,
    tags: FxHashSet<LocalName>,
    /// In quirks mode IDs and classes match in any case (HTML, "the document has quirks"); those of
    /// the page are kept in lower case too then.
    folded: Option<FxHashSet<NamedPart>>,
}

impl PageNames {
    /// Gathers the names of a page.
    pub fn of(document: &Document) -> Self {
        let mut names = PageNames {
            ids: FxHashSet::default(),
            classes: FxHashSet::default(),
            tags: FxHashSet::default(),
            folded: None,
        };
        for element in document.elements() {
            let data = element.data();
            names.ids.extend(data.id.iter().cloned());
            names.classes.extend(data.classes.iter().cloned());
            if !names.tags.contains(&data.name.local) {
                names.tags.insert(data.name.local.clone());
            }
        }
        if document.quirks() == QuirksMode::Quirks {
            let ids = names.ids.iter().map(|id| NamedPart::Id(id.to_ascii_lowercase()));
            let classes = names.classes.iter().map(|class| NamedPart::Class(class.to_ascii_lowercase()));
            names.folded = Some(ids.chain(classes).collect());
        }
        names
    }

    /// Whether the page has a name, as a browser matches it.
    pub fn has(&self, name: &NamedPart) -> bool {
        let is_there = match name {
            NamedPart::Id(id) => self.ids.contains(id),
            NamedPart::Class(class) => self.classes.contains(class),
            NamedPart::Tag(tag) => {
                return self.tags.contains(tag) || self.tags.iter().any(|own| own.eq_ignore_ascii_case(tag));
            }
        };
        is_there || self.folded.as_ref().is_some_and(|folded| folded.contains(&name.to_ascii_lowercase()))
    }

    /// The nearest name of the same kind, as in a selector; else a class where an ID was asked for,
    /// or the other way round, of the same name or nearly.
    pub fn near(&self, name: &NamedPart) -> Option<String> {
        let wanted = name.name();
        let (mark, names, other_mark, others) = match name {
            NamedPart::Id(_) => ("#", &self.ids, ".", &self.classes),
            NamedPart::Class(_) => (".", &self.classes, "#", &self.ids),
            // A name that lacks its mark is more likely than another kind of element.
            NamedPart::Tag(tag) if self.classes.contains(tag) => return Some(format!(".{wanted}")),
            NamedPart::Tag(tag) if self.ids.contains(tag) => return Some(format!("#{wanted}")),
            NamedPart::Tag(_) => return nearest(wanted, sorted(&self.tags)).map(str::to_owned),
        };
        if let Some(same) = nearest(wanted, sorted(names)) {
            return Some(format!("{mark}{same}"));
        }
        let others = sorted(others);
        let found = others.iter().find(|other| **other == wanted).copied();
        found.or_else(|| nearest(wanted, others)).map(|found| format!("{other_mark}{found}"))
    }

    /// The IDs, or else the classes, of the page, in the order of the alphabet.
    pub fn ids_or_classes(&self, is_id: bool) -> Vec<&str> {
        sorted(if is_id { &self.ids } else { &self.classes })
    }
}

/// Among names that are equally near the first of the alphabet counts.
fn sorted(names: &FxHashSet<LocalName>) -> Vec<&str> {
    let mut names: Vec<&str> = names.iter().map(|name| &**name).collect();
    names.sort_unstable();
    names
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::{names_in, parse, parse_selectors};

    fn asked(html: &str, selector: &str) -> (bool, Option<String>) {
        let names = PageNames::of(&parse(html.as_bytes()).1);
        let part = names_in(&parse_selectors(selector).unwrap().slice()[0]).remove(0);
        (names.has(&part), names.near(&part))
    }

    #[test]
    fn names_are_there_as_a_browser_matches_them() {
        let body = "<main id=Fares class='wide Title'><svg><linearGradient/></svg></main>";
        let (standard, quirks) = (format!("<!doctype html>{body}"), body.to_owned());
        for (html, selector, is_there, near) in [
            (&standard, "#Fares", true, None),
            (&standard, "#fares", false, Some("#Fares")),
            (&quirks, "#fares", true, Some("#Fares")),
            (&standard, ".title", false, Some(".Title")),
            (&quirks, ".TITLE", true, Some(".Title")),
            (&standard, ".Fares", false, Some("#Fares")),
            (&standard, "#wide", false, Some(".wide")),
            (&standard, ".wyde", false, Some(".wide")),
            (&standard, "lineargradient", true, None),
            (&standard, "mian", false, Some("main")),
            (&standard, ".nothing-like-it", false, None),
        ] {
            let (found, nearest) = asked(html, selector);
            assert_eq!(found, is_there, "{selector} on {html}");
            if let (Some(near), false) = (near, is_there && nearest.is_none()) {
                assert_eq!(nearest.as_deref(), Some(near), "{selector} on {html}");
            }
        }
    }
}
