//! Elements that stand elsewhere in the tree that a browser makes than they are written, or not at all.

use rustc_hash::{FxHashMap, FxHashSet};

use super::document::{Document, NodeId, Origin};
use super::fragment::{BEFORE_FRAGMENT, parse_fragment};
use crate::source::Span;

/// An element as it is written.
pub(super) struct Written {
    pub(super) name: String,
    pub(super) tag: Span,
    /// The one that it is written in, by its number.
    pub(super) parent: Option<usize>,
    /// Its end tag.
    pub(super) end: Option<Span>,
    /// Whether it is over with what it is written in, without an end tag of its own.
    pub(super) is_cut: bool,
}

/// How far out what an element ends is looked for.
const FAR: usize = 50;

/// The elements of a tree by the places of their tags: which of them stand in which.
struct Standing {
    /// For the place of each tag the turn of its element, and the turn behind all that is in it.
    turns: FxHashMap<u32, (usize, usize)>,
}

impl Standing {
    fn of(document: &Document, top: NodeId) -> Standing {
        let mut order: Vec<(NodeId, Option<u32>)> = Vec::new();
        let mut numbers: FxHashMap<NodeId, usize> = FxHashMap::default();
        for id in document.descendants(top) {
            let Some(element) = document.element(id) else { continue };
            numbers.insert(id, order.len());
            let place = match element.data().origin {
                Origin::Tag(span) => Some(span.start),
                Origin::Implied(_) => None,
            };
            order.push((id, place));
        }
        // What is in an element comes right behind it.
        let mut ends: Vec<usize> = (1..=order.len()).collect();
        for at in (0..order.len()).rev() {
            let parent = document.parent_element(order[at].0).and_then(|parent| numbers.get(&parent.id));
            if let Some(parent) = parent {
                ends[*parent] = ends[*parent].max(ends[at]);
            }
        }
        let placed =
            order.iter().enumerate().filter_map(|(at, (_, place))| Some((((*place)?), (at, ends[at]))));
        Standing { turns: placed.collect() }
    }

    fn of_tag(&self, tag: Span) -> Option<(usize, usize)> {
        self.turns.get(&(tag.start + Span::at(BEFORE_FRAGMENT.len()).start)).copied()
    }
}

/// What is told of elements that are read otherwise than they are written.
pub(super) fn misread(html: &str, elements: &[Written]) -> Vec<(Span, String, String)> {
    let Some((document, contents)) = parse_fragment(html) else { return Vec::new() };
    let standing = Standing::of(&document, contents);
    let mut told = Vec::new();
    // Those in which nothing is looked at: one that is out of place takes along what is in it; what is in a template
    // stands by itself; what a list of choices takes is being changed by browsers.
    let mut quiet = vec![false; elements.len()];
    let mut in_form = vec![false; elements.len()];
    // The next one around each that is not over where no end tag says so.
    let mut holders: Vec<Option<usize>> = vec![None; elements.len()];
    let mut ended_early: FxHashSet<usize> = FxHashSet::default();
    for (number, element) in elements.iter().enumerate() {
        let outer = element.parent;
        in_form[number] = outer.is_some_and(|outer| in_form[outer] || elements[outer].name == "form");
        holders[number] = outer.and_then(|outer| {
            let may_be_over = elements[outer].end.is_none() && may_stay_open(&elements[outer].name);
            if may_be_over { holders[outer] } else { Some(outer) }
        });
        let is_apart = |at: usize| matches!(elements[at].name.as_str(), "template" | "select");
        quiet[number] = outer.is_some_and(|outer| quiet[outer] || is_apart(outer));
        if quiet[number] {
            continue;
        }
        // That it is cut off is told by itself.
        if element.is_cut && element.end.is_some() {
            quiet[number] = true;
            continue;
        }
        // In a template, as it is read here, forms may stand in each other.
        let is_inner_form = element.name == "form" && in_form[number];
        let Some((turn, _)) = standing.of_tag(element.tag).filter(|_| !is_inner_form) else {
            quiet[number] = true;
            let (message, help) = dropped(&element.name);
            told.push((element.tag, message, help));
            continue;
        };
        let is_left = |at: &usize| {
            standing.of_tag(elements[*at].tag).is_some_and(|(from, end)| !(from..end).contains(&turn))
        };
        let ways = std::iter::successors(holders[number], |at| holders[*at]);
        let Some(innermost) = ways.clone().next().filter(is_left) else { continue };
        let is_table = |at: &usize| is_of_table(&elements[*at].name);
        // The outermost one that is over by then is what the others end with.
        let around = if is_table(&innermost) {
            innermost
        } else {
            ways.take(FAR).take_while(|at| is_left(at) && !is_table(at)).last().unwrap_or(innermost)
        };
        if ended_early.contains(&around) {
            continue;
        }
        quiet[number] = true;
        let outer = elements[around].name.as_str();
        if !is_of_table(outer) {
            ended_early.insert(around);
        }
        let (message, help) = misplaced(&element.name, outer);
        told.push((element.tag, message, help));
    }
    told
}

/// What is told of an element that is not there.
fn dropped(name: &str) -> (String, String) {
    let message = format!("a browser drops this `<{name}>`");
    let help = match name {
        "form" => "a form cannot stand in another one: end the first before it",
        "html" | "head" | "body" | "frameset" => "the page has its own: take the tag away",
        "tr" | "td" | "th" | "tbody" | "thead" | "tfoot" | "caption" | "col" | "colgroup" => {
            "it stands in a `<table>` alone"
        }
        _ => "take it away, or put it where it can stand",
    };
    (message, help.to_owned())
}

/// What is told of an element that is not in the one that it is written in.
fn misplaced(name: &str, around: &str) -> (String, String) {
    if is_of_table(around) {
        let message =
            format!("a `<{name}>` cannot stand in a `<{around}>`: a browser moves it out, before the table");
        return (message, rows_help(around));
    }
    let message =
        format!("a `<{name}>` cannot stand in a `<{around}>`: a browser ends the `<{around}>` before it");
    let help = match around {
        "p" => "write `</p>` before it; or use a `<div>` around it, or a `<span>` in its stead".to_owned(),
        "svg" | "math" => "put it into a `<foreignObject>`, or behind the drawing".to_owned(),
        _ => format!("write `</{around}>` before it"),
    };
    (message, help)
}

pub(super) fn rows_help(around: &str) -> String {
    match around {
        "tr" => "put it into a `<td>`".to_owned(),
        _ => "put it into a cell: `<tr><td>…</td></tr>`".to_owned(),
    }
}

pub(super) fn is_of_table(name: &str) -> bool {
    matches!(name, "table" | "tbody" | "thead" | "tfoot" | "tr")
}

/// Elements whose end tag may be left out (HTML, "optional tags").
pub(super) fn may_stay_open(name: &str) -> bool {
    const OPTIONAL: [&str; 19] = [
        "html", "head", "body", "li", "dt", "dd", "p", "rt", "rp", "optgroup", "option", "colgroup",
        "caption", "thead", "tbody", "tfoot", "tr", "td", "th",
    ];
    OPTIONAL.contains(&name)
}
