//! The proof that what was put into a page is read as it is written, and that everything else is read as before.

use rustc_hash::{FxHashMap, FxHashSet};
use serde::Serialize;

use super::put::Put;
use crate::markup::{ElementRef, MarkupPlace, NodeData, NodeId, Origin, parse_fragment};
use crate::site::ParsedPage;

/// How what is put in would be read.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum Standing {
    /// An element of it would stand elsewhere, or not at all.
    Moved {
        /// The element's name.
        tag: String,
        /// The element in which it was to stand.
        parent: String,
    },
    /// Text of it would stand elsewhere.
    MovedText {
        /// The element in which it was to stand.
        parent: String,
    },
    /// An element of the page would stand elsewhere.
    Others {
        /// The element's name.
        tag: String,
    },
    /// There is no element in it that another one could be put into.
    NothingToHold,
}

/// Where an element stands: the last one around it that counts, by its number.
type Row = (String, Option<usize>);

/// What is not read as it is meant; nothing, if all is well.
pub(super) fn misplaced(before: &ParsedPage<'_>, now: &ParsedPage<'_>, put: &[Put]) -> Vec<Standing> {
    let Some(served) = now.served() else { return Vec::new() };
    if before.encoding() != now.encoding() {
        return vec![Standing::Others { tag: "meta".to_owned() }];
    }
    let gone: Vec<NodeId> =
        put.iter().filter(|put| put.place == MarkupPlace::Replace).map(|put| put.element).collect();
    let is_gone = |element: ElementRef<'_>| {
        !gone.is_empty() && element.and_ancestors().any(|around| gone.contains(&around.id))
    };
    let mut wrong = Vec::new();
    let old: Vec<ElementRef<'_>> = before.document.elements().filter(|element| !is_gone(*element)).collect();
    let all: Vec<ElementRef<'_>> = now.document.elements().collect();
    let (mut own, mut added): (Vec<ElementRef<'_>>, Vec<ElementRef<'_>>) = (Vec::new(), Vec::new());
    for element in all {
        let is_own = match element.data().origin {
            Origin::Tag(span) => !served.is_new(span.start),
            // What the parser makes up, it may make up for what was put in, and had made up before for something else.
            Origin::Implied(at) => !served.is_new(at) || is_implied_too(old.get(own.len()), element),
        };
        if is_own { own.push(element) } else { added.push(element) }
    }
    let (old_rows, own_rows) = (rows(&old), rows(&own));
    if let Some(first) = old_rows.iter().zip(&own_rows).position(|(old, own)| old != own) {
        // One more than there were is one that something made.
        let row = if own_rows.len() > old_rows.len() { &own_rows[first] } else { &old_rows[first] };
        wrong.push(Standing::Others { tag: row.0.clone() });
    } else if old_rows.len() != own_rows.len() {
        let rest = old_rows.get(own_rows.len()).or_else(|| own_rows.get(old_rows.len()));
        wrong.push(Standing::Others { tag: rest.map_or(String::new(), |row| row.0.clone()) });
    }
    if wrong.is_empty() {
        wrong.extend(of_added(before, &added, put));
    }
    wrong
}

/// Whether the parser made up the same element before.
fn is_implied_too(old: Option<&ElementRef<'_>>, element: ElementRef<'_>) -> bool {
    old.is_some_and(|old| matches!(old.data().origin, Origin::Implied(_)) && old.name == element.name)
}

fn rows(elements: &[ElementRef<'_>]) -> Vec<Row> {
    let numbers: FxHashMap<NodeId, usize> =
        elements.iter().enumerate().map(|(at, element)| (element.id, at)).collect();
    let row = |element: &ElementRef<'_>| {
        let around = element.and_ancestors().skip(1);
        let parent = around.filter_map(|element| numbers.get(&element.id).copied()).next();
        (element.name.local.to_string(), parent)
    };
    elements.iter().map(row).collect()
}

/// Whether what was put in stands as it is written: its elements under each other, and its outermost ones where they
/// are to be.
fn of_added(before: &ParsedPage<'_>, added: &[ElementRef<'_>], put: &[Put]) -> Vec<Standing> {
    let mut known: FxHashMap<&str, Fragment> = FxHashMap::default();
    let mut wrong = Vec::new();
    let mut outer: FxHashSet<(String, String)> = FxHashSet::default();
    // How many elements of each name are to be in what.
    let mut counts: FxHashMap<(String, String), i64> = FxHashMap::default();
    for put in put {
        let Some(element) = before.document.element(put.element) else { continue };
        let parent = if put.place.is_beside() { element.parent() } else { Some(element) };
        let parent = parent.map_or(String::new(), |parent| parent.name.local.to_string());
        let fragment = known.entry(&put.html).or_insert_with(|| Fragment::of(&put.html));
        if fragment.has_text && holds_no_text(&parent) {
            wrong.push(Standing::MovedText { parent: parent.clone() });
        }
        for (tag, inside) in &fragment.elements {
            if inside.is_none() {
                outer.insert((tag.clone(), parent.clone()));
            }
            let inside = inside.map_or(&parent, |at| &fragment.elements[at].0);
            *counts.entry((tag.clone(), inside.clone())).or_default() += 1;
        }
    }
    for element in added {
        let parent = element.parent().map_or(String::new(), |parent| parent.name.local.to_string());
        *counts.entry((element.name.local.to_string(), parent)).or_default() -= 1;
    }
    let mut off: Vec<((String, String), i64)> = counts.into_iter().filter(|(_, count)| *count != 0).collect();
    off.sort();
    // What is missing says what was meant, the outermost first; what is too much where it went.
    let is_outer = |row: &(String, String)| outer.contains(row);
    let missing = off.iter().find(|(row, count)| *count > 0 && is_outer(row));
    let missing = missing.or_else(|| off.iter().find(|(_, count)| *count > 0)).or(off.first());
    wrong.extend(
        missing.map(|((tag, parent), _)| Standing::Moved { tag: tag.clone(), parent: parent.clone() }),
    );
    wrong
}

fn holds_no_text(parent: &str) -> bool {
    matches!(
        parent,
        "table" | "tbody" | "thead" | "tfoot" | "tr" | "colgroup" | "frameset" | "head" | "html" | ""
    )
}

/// What a piece of markup is when it is read by itself.
struct Fragment {
    /// Its elements: the name of each, and the number of the one that it is in.
    elements: Vec<(String, Option<usize>)>,
    /// Whether it has text that is in none of them.
    has_text: bool,
}

impl Fragment {
    fn of(html: &str) -> Fragment {
        let Some((document, top)) = parse_fragment(html) else {
            return Fragment { elements: Vec::new(), has_text: false };
        };
        let found: Vec<ElementRef<'_>> =
            document.descendants(top).filter_map(|id| document.element(id)).collect();
        let elements = rows(&found);
        let is_text =
            |id: NodeId| matches!(&document.node(id).data, NodeData::Text(text) if !text.trim().is_empty());
        let has_text = document.children(top).any(is_text);
        Fragment { elements, has_text }
    }
}
