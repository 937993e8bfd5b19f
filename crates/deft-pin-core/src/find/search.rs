//! Finding elements: by the text that a visitor sees, by ID or class, or by selector.

use std::cell::LazyCell;

use html5ever::{local_name, ns};
use rustc_hash::FxHashSet;

use super::candidates::tag;
use super::index::PageIndex;
use super::outline::folded;
use crate::markup::{Document, ElementRef, NodeData, NodeId, SelectorList, parse_selectors};
use crate::source::nearest;

/// What is looked for.
#[derive(Clone, Debug)]
pub struct Query {
    text: Option<String>,
    name: Option<String>,
    selector: Option<SelectorList>,
}

/// How an element was found.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum HitKind {
    /// By its ID, class or kind, or by a selector.
    Selector,
    /// By the text in it.
    Text,
    /// By an ID or class of nearly that name, which stands here with its mark.
    Near(String),
}

/// An element that was found.
#[derive(Clone, Debug)]
pub struct Hit {
    /// The element.
    pub element: NodeId,
    /// How it was found.
    pub kind: HitKind,
}

impl Query {
    /// Words or a selector, whichever they are: a selector where they read as one that means
    /// more than a bare word; a bare word is an ID, a class, a kind of element or a text.
    pub fn guess(wanted: &str) -> Self {
        let wanted = wanted.trim();
        let is_word =
            !wanted.is_empty() && !wanted.contains(|c: char| c.is_whitespace() || "#.[>:+~*,()".contains(c));
        let selector = (!is_word && wanted.contains(['#', '.', '[', '>', ':', '+', '~', '*']))
            .then(|| parse_selectors(wanted).ok())
            .flatten();
        Query {
            text: Some(folded_case(wanted)).filter(|text| !text.is_empty()),
            name: is_word.then(|| wanted.to_owned()),
            selector,
        }
    }

    /// Whether it is a selector.
    pub fn is_selector(&self) -> bool {
        self.selector.is_some()
    }

    /// Whether it asks for names, of which some may be near others; else for a text alone.
    pub fn has_names(&self) -> bool {
        self.name.is_some() || self.selector.is_some()
    }

    /// A text alone.
    pub fn text(wanted: &str) -> Self {
        Query { text: Some(folded_case(wanted)), name: None, selector: None }
    }

    /// A selector alone.
    pub fn selector(list: SelectorList) -> Self {
        Query { text: None, name: None, selector: Some(list) }
    }
}

fn folded_case(text: &str) -> String {
    folded(text).to_lowercase()
}

/// The elements of a page that a query finds, in tree order, those found by name first. Nearly
/// equal names are looked for only where `near` says so.
pub fn search(document: &Document, query: &Query, near: bool) -> Vec<Hit> {
    // A text is found without the names of the page.
    let index = LazyCell::new(|| PageIndex::new(document));
    let mut hits = Vec::new();
    let mut add = |elements: Vec<NodeId>, kind: HitKind| {
        hits.extend(elements.into_iter().map(|element| Hit { element, kind: kind.clone() }));
    };
    if let Some(list) = &query.selector {
        add(index.matched(list, usize::MAX), HitKind::Selector);
    }
    if let Some(name) = &query.name {
        add(named(&index, name), HitKind::Selector);
    }
    if let Some(text) =
        query.text.as_ref().filter(|_| query.selector.is_none() || !has_any(&query.selector, &index))
    {
        add(holding_text(document, text), HitKind::Text);
    }
    let mut seen = FxHashSet::default();
    hits.retain(|hit| seen.insert(hit.element));
    if hits.is_empty() && near {
        hits.extend(nearly_named(&index, query));
    }
    hits
}

fn has_any(selector: &Option<SelectorList>, index: &PageIndex<'_>) -> bool {
    selector.as_ref().is_some_and(|list| !index.matched(list, 1).is_empty())
}

/// The elements of that very ID; else of that class; else of that kind.
fn named(index: &PageIndex<'_>, name: &str) -> Vec<NodeId> {
    let by = |test: &dyn Fn(ElementRef<'_>) -> bool| -> Vec<NodeId> {
        index.elements().filter(|element| test(*element)).map(|element| element.id).collect()
    };
    let ids = by(&|element| element.data().id() == Some(name));
    let classes = by(&|element| element.data().classes().any(|class| class == name));
    if !ids.is_empty() || !classes.is_empty() {
        let mut both: Vec<NodeId> = ids.into_iter().chain(classes).collect();
        let mut seen = FxHashSet::default();
        both.retain(|element| seen.insert(*element));
        return both;
    }
    by(&|element| element.data().name.local.to_string().eq_ignore_ascii_case(name))
}

fn nearly_named(index: &PageIndex<'_>, query: &Query) -> Vec<Hit> {
    let names: Vec<String> = match (&query.name, &query.selector) {
        (Some(name), _) => vec![name.clone()],
        (None, Some(list)) => {
            let names = list.slice().iter().flat_map(crate::markup::names_in);
            names.map(|name| name.name().to_owned()).collect()
        }
        (None, None) => Vec::new(),
    };
    let mut found: Vec<Hit> = Vec::new();
    for name in names {
        let mut known: Vec<&str> = index.ids().chain(index.classes()).collect();
        known.sort_unstable();
        // An ID asked for as a class, or the other way round.
        let same = known.iter().copied().find(|known| *known == name);
        if let Some(near) = same.or_else(|| nearest(&name, known)) {
            let is_id = index.times(near) > 0;
            let mark = if is_id { format!("#{near}") } else { format!(".{near}") };
            let mut elements = named(index, near);
            elements.retain(|element| found.iter().all(|hit| hit.element != *element));
            let elements = elements.into_iter();
            found.extend(elements.map(|element| Hit { element, kind: HitKind::Near(mark.clone()) }));
        }
    }
    found
}

/// Elements whose text nobody sees.
fn is_unseen(element: ElementRef<'_>) -> bool {
    element.data().name.ns == ns!(html)
        && matches!(
            element.data().name.local,
            local_name!("script")
                | local_name!("style")
                | local_name!("noscript")
                | local_name!("template")
                | local_name!("head")
        )
}

/// The innermost elements that hold a text, case and blanks folded.
fn holding_text(document: &Document, wanted: &str) -> Vec<NodeId> {
    let mut found = Vec::new();
    if wanted.is_empty() {
        return found;
    }
    if let Some(body) = document.root() {
        innermost(document, body.id, wanted, &mut found);
    }
    found
}

/// Adds the innermost elements below one that hold the text; whether there is one at all.
fn innermost(document: &Document, top: NodeId, wanted: &str, found: &mut Vec<NodeId>) -> bool {
    // Texts of elements from the leaves up would be quadratic in depth; the text of the page is
    // made once, with where each text node begins in it, and hits are taken back to elements.
    let mut text = String::new();
    let mut starts: Vec<(usize, NodeId)> = Vec::new();
    let mut skip_below: Option<ElementRef<'_>> = None;
    for id in document.descendants(top) {
        match &document.node(id).data {
            NodeData::Element(_) => {
                let Some(element) = document.element(id) else { continue };
                if skip_below.is_some_and(|skipped| element.is_within(skipped)) {
                    continue;
                }
                skip_below = is_unseen(element).then_some(element);
                // Between boxes there is a gap to the eye even where there is none in the text.
                if !is_phrasing(element) && !text.ends_with(' ') {
                    text.push(' ');
                }
            }
            NodeData::Text(own) => {
                let parent = document.parent_element(id);
                if parent.is_some_and(|parent| skip_below.is_some_and(|skipped| parent.is_within(skipped))) {
                    continue;
                }
                starts.push((text.len(), id));
                push_folded(&mut text, own);
            }
            _ => {}
        }
    }
    let mut any = false;
    for (at, matched) in text.match_indices(wanted) {
        let node = |at: usize| starts[starts.partition_point(|(start, _)| *start <= at).saturating_sub(1)].1;
        let (first, last) = (node(at), node(at + matched.len() - 1));
        if let Some(element) = common_ancestor(document, first, last) {
            any = true;
            if found.last() != Some(&element) {
                found.push(element);
            }
        }
    }
    any
}

/// Adds a text in lower case, with runs of blanks made one.
fn push_folded(text: &mut String, own: &str) {
    let mut push = |c: char| {
        if !c.is_whitespace() {
            text.push(c);
        } else if !text.ends_with(' ') {
            text.push(' ');
        }
    };
    if own.is_ascii() {
        own.bytes().for_each(|byte| push(byte.to_ascii_lowercase() as char));
    } else {
        own.chars().flat_map(char::to_lowercase).for_each(push);
    }
}

/// Elements within a line of text: no gap stands around them.
fn is_phrasing(element: ElementRef<'_>) -> bool {
    matches!(
        element.data().name.local,
        local_name!("a")
            | local_name!("abbr")
            | local_name!("b")
            | local_name!("bdi")
            | local_name!("bdo")
            | local_name!("cite")
            | local_name!("code")
            | local_name!("data")
            | local_name!("del")
            | local_name!("dfn")
            | local_name!("em")
            | local_name!("font")
            | local_name!("i")
            | local_name!("ins")
            | local_name!("kbd")
            | local_name!("label")
            | local_name!("mark")
            | local_name!("q")
            | local_name!("s")
            | local_name!("samp")
            | local_name!("small")
            | local_name!("span")
            | local_name!("strong")
            | local_name!("sub")
            | local_name!("sup")
            | local_name!("time")
            | local_name!("tt")
            | local_name!("u")
            | local_name!("var")
            | local_name!("wbr")
    )
}

fn common_ancestor(document: &Document, first: NodeId, last: NodeId) -> Option<NodeId> {
    let first = document.parent_element(first)?;
    let last = document.parent_element(last)?;
    let ancestors = std::iter::successors(Some(first), |element| element.parent());
    ancestors.into_iter().find(|ancestor| last.is_within(*ancestor)).map(|ancestor| ancestor.id)
}

/// A short name for an element: its kind with its ID, or else its first class.
pub fn label(element: ElementRef<'_>) -> String {
    let data = element.data();
    match (data.id(), data.classes().next()) {
        (Some(id), _) => format!("{}#{id}", tag(element)),
        (None, Some(class)) => format!("{}.{class}", tag(element)),
        (None, None) => tag(element),
    }
}

/// Where an element sits: its ancestors from the body down, itself last.
pub fn ancestors(element: ElementRef<'_>) -> Vec<String> {
    let mut labels: Vec<String> =
        std::iter::successors(Some(element), |element| element.parent()).map(label).collect();
    labels.reverse();
    if labels.len() > 1 {
        labels.remove(0);
    }
    labels
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::parse;

    #[test]
    fn finds_by_text_name_and_selector() {
        let html = "<!doctype html><title>Sailing</title><body><nav id=nav><a class=link>Fares</a></nav><main>\
            <h2 id=status-title>Sailing\n <em>today</em></h2><p>All   sailings run</p><p class='storm x'>Sailing today is off</p>\
            <div>one</div><div>two</div><script>var fares = 'one two';</script><p>Ärger</p></main>";
        let (_, document) = parse(html.as_bytes());
        let table = [
            ("sailing TODAY", "h2#status-title p.storm"),
            ("today", "em p.storm"),
            ("one two", "main"),
            ("fares", "a.link"),
            ("storm", "p.storm"),
            ("nav", "nav#nav"),
            ("p", "p p.storm p"),
            ("#status-title em", "em"),
            (".storm", "p.storm"),
            ("ärger", "p"),
            ("statusTitle", "~h2#status-title"),
            (".strom", "~p.storm"),
            (".linke", "~a.link"),
            ("nothing here", ""),
        ];
        for (wanted, expected) in table {
            let hits = search(&document, &Query::guess(wanted), true);
            let shown = hits.iter().map(|hit| {
                let near = if matches!(hit.kind, HitKind::Near(_)) { "~" } else { "" };
                format!("{near}{}", label(document.element(hit.element).unwrap()))
            });
            assert_eq!(shown.collect::<Vec<_>>().join(" "), expected, "{wanted}");
        }
    }
}
