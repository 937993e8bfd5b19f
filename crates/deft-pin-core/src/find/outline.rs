//! The outline of a page: its landmarks and sections, one inside the other, with what each is
//! called and how much is in it.

use html5ever::{LocalName, local_name, ns};

use super::index::PageIndex;
use super::lasting::lasting_selectors;
use crate::markup::{Document, ElementRef, NodeId, SelectorList};

/// A page's sections in tree order, and its IDs.
#[derive(Clone, Debug)]
pub struct Outline {
    /// The text of `<title>`.
    pub title: String,
    /// The sections, each after the one that it is in.
    pub sections: Vec<Section>,
}

/// A landmark or section of a page.
#[derive(Clone, Debug)]
pub struct Section {
    /// The element.
    pub element: NodeId,
    /// How many sections it is in.
    pub depth: usize,
    /// The name of the element.
    pub tag: String,
    /// The ARIA landmark that its `role` makes of it.
    pub role: Option<String>,
    /// Its ID.
    pub id: Option<String>,
    /// The text of its heading, or its label.
    pub heading: Option<String>,
    /// How many elements are in it.
    pub elements: usize,
}

/// Roles of landmarks and sections (WAI-ARIA 1.2, 5.3.4), and of an article.
const ROLES: &[&str] =
    &["article", "banner", "complementary", "contentinfo", "form", "main", "navigation", "region", "search"];

fn role(element: ElementRef<'_>) -> Option<&str> {
    let roles = element.data().attr(&LocalName::from("role"))?;
    roles.split_ascii_whitespace().next().filter(|role| ROLES.contains(role))
}

fn is_heading(element: ElementRef<'_>) -> bool {
    let data = element.data();
    data.name.ns == ns!(html)
        && matches!(
            data.name.local,
            local_name!("h1")
                | local_name!("h2")
                | local_name!("h3")
                | local_name!("h4")
                | local_name!("h5")
                | local_name!("h6")
        )
        || data.attr(&LocalName::from("role")) == Some("heading")
}

/// A landmark or a section by its own kind.
fn is_by_kind(element: ElementRef<'_>) -> bool {
    let name = &*element.data().name.local;
    let kinds = ["header", "nav", "main", "section", "article", "aside", "footer", "search"];
    element.data().name.ns == ns!(html) && kinds.contains(&name) || role(element).is_some()
}

/// A text in one line: runs of blanks are one, and none stands at the ends.
pub(super) fn folded(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// What a section is called: its label, else the first heading in it that is in no section of its
/// own.
fn heading_of(section: ElementRef<'_>) -> Option<String> {
    let document = section.document();
    let heading = |skip_inner: bool| {
        let mut next = document.descendants(section.id).filter_map(|id| document.element(id));
        next.find(|element| {
            is_heading(*element) && (!skip_inner || nearest_section(*element) == Some(section.id))
        })
    };
    let text =
        heading(true).map(|heading| folded(&document.text_of(heading.id))).filter(|text| !text.is_empty());
    let label =
        || section.data().attr(&LocalName::from("aria-label")).map(folded).filter(|text| !text.is_empty());
    let inner = || {
        // A main part whose heading stands in a header of its own.
        let heading = heading(false)?;
        let holder = document.element(nearest_section(heading)?)?;
        (holder.data().is_html(&local_name!("header")) && holder.parent() == Some(section))
            .then(|| folded(&document.text_of(heading.id)))
    };
    text.or_else(label).or_else(inner)
}

fn nearest_section(element: ElementRef<'_>) -> Option<NodeId> {
    let ancestors = std::iter::successors(element.parent(), |ancestor| ancestor.parent());
    let is_one = |ancestor: &ElementRef<'_>| {
        is_by_kind(*ancestor)
            || ancestor.data().id().is_some() && !ancestor.data().is_html(&local_name!("body"))
    };
    ancestors.into_iter().find(is_one).map(|ancestor| ancestor.id)
}

/// The title of a page.
pub(super) fn title(document: &Document) -> String {
    let title = document.elements().find(|element| element.data().is_html(&local_name!("title")));
    title.map(|title| folded(&document.text_of(title.id))).unwrap_or_default()
}

/// The outline of a page. `section` says what counts as a section where the page has its own way.
pub fn outline(document: &Document, section: Option<&SelectorList>) -> Outline {
    let chosen = section.map(|list| {
        let index = PageIndex::new(document);
        index.matched(list, usize::MAX).into_iter().collect::<std::collections::HashSet<_>>()
    });
    let holders = if chosen.is_none() { with_headings(document) } else { Default::default() };
    let mut sections: Vec<Section> = Vec::new();
    // The sections that the walk is inside of, and how many elements they have.
    let mut open: Vec<usize> = Vec::new();
    for element in document.elements() {
        while let Some(&last) = open.last() {
            let holder = document.element(sections[last].element);
            if holder.is_some_and(|holder| element.is_within(holder)) {
                break;
            }
            open.pop();
        }
        open.iter().for_each(|&at| sections[at].elements += 1);
        let counts = match &chosen {
            Some(chosen) => chosen.contains(&element.id),
            None => is_by_kind(element) || holders.contains(&element.id),
        };
        if counts {
            let data = element.data();
            sections.push(Section {
                element: element.id,
                depth: open.len(),
                tag: data.name.local.to_string(),
                role: role(element).map(str::to_owned),
                id: data.id().map(str::to_owned),
                heading: heading_of(element),
                elements: 0,
            });
            open.push(sections.len() - 1);
        }
    }
    Outline { title: title(document), sections }
}

/// The elements with an ID that hold a heading, found from the headings upward, so that a page is
/// gone through once.
fn with_headings(document: &Document) -> std::collections::HashSet<NodeId> {
    let mut found = std::collections::HashSet::new();
    let mut seen = std::collections::HashSet::new();
    for heading in document.elements().filter(|element| is_heading(*element)) {
        for ancestor in std::iter::successors(heading.parent(), |ancestor| ancestor.parent()) {
            if !seen.insert(ancestor.id) {
                break;
            }
            let is_page = matches!(ancestor.data().name.local, local_name!("html") | local_name!("body"));
            if ancestor.data().id().is_some() && !is_page && !is_heading(ancestor) {
                found.insert(ancestor.id);
            }
        }
    }
    found
}

impl Section {
    /// The best selector for the section.
    pub fn selector(&self, index: &PageIndex<'_>) -> String {
        if let Some(id) = &self.id
            && index.times(id) == 1
        {
            let selector = format!("#{}", super::candidates::identifier(id));
            if index.is_unique(&selector, self.element) {
                return selector;
            }
        }
        let element = index.document().element(self.element);
        let best = element.and_then(|element| lasting_selectors(index, element, 1).into_iter().next());
        best.map(|best| best.selector).unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::{parse, parse_selectors};

    fn drawn(html: &str, section: Option<&str>) -> Vec<String> {
        let (_, document) = parse(html.as_bytes());
        let list = section.map(|text| parse_selectors(text).unwrap());
        let index = PageIndex::new(&document);
        let outline = outline(&document, list.as_ref());
        let line = |section: &Section| {
            let heading = section.heading.as_deref().unwrap_or("-");
            format!(
                "{}{} {} {}",
                " ".repeat(section.depth),
                section.selector(&index),
                heading,
                section.elements
            )
        };
        outline.sections.iter().map(line).collect()
    }

    #[test]
    fn sections_are_landmarks_and_named_boxes_with_a_heading() {
        let html = "<!doctype html><title> Fares </title><header><h1>Sorrel</h1></header><nav aria-label=Main><a>x</a></nav>\
            <main><header><h1>Fares  2027</h1></header><div id=adult><h2>Adults <b>and</b> dogs</h2><p>1</div><div id=plain><p>2</div>\
            <section><p>no heading</section><div role=region aria-label=Notes></div></main>";
        let expected = [
            "header:has(> h1) Sorrel 1", "nav Main 1", "main Fares 2027 11", " main header Fares 2027 1",
            " #adult Adults and dogs 3", " section - 1", " div[role=\"region\"] Notes 0",
        ];
        let found = drawn(html, None);
        assert_eq!(found.len(), expected.len(), "{found:#?}");
        for (found, expected) in found.iter().zip(expected) {
            let tail = |line: &str| line.split_once(' ').map(|(_, tail)| tail.to_owned());
            if !expected.starts_with("header:has") {
                assert_eq!(found, expected);
            } else {
                assert!(tail(found).unwrap().ends_with("Sorrel 1"), "{found}");
            }
        }
        assert_eq!(drawn(html, Some("p")).len(), 3);
    }

    #[test]
    fn an_id_that_stands_twice_is_no_selector() {
        let html =
            "<!doctype html><section id=a class=one><h2>1</h2></section><section id=a class=two></section>";
        assert_eq!(drawn(html, None), [".one 1 1", ".two - 0"]);
    }
}
