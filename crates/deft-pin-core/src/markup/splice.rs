//! Markup spliced into a tree that has been built: the same tree that the parser makes of the new text, without going
//! over all of the page again. Only for what is plain: markup whose elements all have their tags, put where nothing
//! that is open around it changes how it is read. Everything else is parsed anew.

use std::rc::Rc;

use html5ever::{LocalName, local_name, ns};

use super::document::{Document, Element, ElementRef, Node, NodeData, NodeId, Origin};
use super::parse::{is_void, parse};
use super::slots::Gap;
use super::tags::{MarkupPiece, markup_pieces};
use crate::source::{Span, offset};

/// Elements that end a `<p>` that they would stand in (HTML, "in body").
const BLOCKS: &[&str] = &[
    "article", "aside", "blockquote", "details", "div", "dl", "figcaption", "figure", "footer", "h1", "h2",
    "h3", "h4", "h5", "h6", "header", "hr", "main", "nav", "ol", "p", "section", "summary", "ul",
];
/// Other elements that are read alike wherever text can stand.
const PHRASES: &[&str] = &[
    "a", "abbr", "audio", "b", "br", "button", "cite", "code", "del", "em", "i", "img", "input", "ins",
    "kbd", "label", "mark", "picture", "q", "small", "source", "span", "strong", "sub", "sup", "time", "u",
    "video", "wbr",
];
/// Elements in which any of these can stand.
const HOLDERS: &[&str] = &[
    "article", "aside", "blockquote", "body", "dd", "details", "div", "dt", "fieldset", "figcaption",
    "figure", "footer", "form", "header", "html", "li", "main", "nav", "section", "table", "tbody", "td",
    "tfoot", "th", "thead", "tr", "ul", "ol", "dl",
];
/// Elements in which those can stand that end no `<p>`.
const TEXT_HOLDERS: &[&str] = &[
    "p", "h1", "h2", "h3", "h4", "h5", "h6", "span", "b", "i", "em", "strong", "small", "label", "summary",
    "time", "cite", "q", "code",
];
/// So deep nothing is spliced in: there the parser has a limit.
const DEEP: usize = 300;

/// A piece of markup that is read alike wherever it is put.
#[derive(Debug)]
pub struct PlainFragment {
    /// Its nodes in tree order; their links count from 1, as if they were a document of their own.
    nodes: Vec<Node>,
    has_blocks: bool,
    /// Whether its outermost elements are rows of a list.
    has_rows: bool,
    names: Vec<LocalName>,
}

/// Markup at one place of a tree.
#[derive(Debug)]
pub struct Splice<'s> {
    /// What.
    pub fragment: &'s PlainFragment,
    /// The element that it stands in.
    pub parent: NodeId,
    /// What it stands before; none for the end of the element.
    pub before: Option<NodeId>,
    /// The node of the old tree that comes next in the text; none where none does.
    pub next: Option<NodeId>,
    /// Where it begins in the new text.
    pub at: u32,
}

/// Something that was written into a text: where, and how much longer the text became.
#[derive(Clone, Copy, Debug)]
pub struct Growth {
    /// The place in the old text.
    pub at: u32,
    /// By how many bytes.
    pub by: u32,
}

impl PlainFragment {
    /// Reads a piece of markup; none where how it is read may depend on where it stands.
    pub fn of(html: &str) -> Option<PlainFragment> {
        let trimmed = html.trim_ascii();
        if !trimmed.starts_with('<') || !trimmed.ends_with('>') || html.len() > 1 << 20 {
            return None;
        }
        const BEFORE: &str = "<!doctype html><body><div>";
        let text = format!("{BEFORE}{html}</div>");
        let (_, document) = parse(text.as_bytes());
        let holder = document.elements().find(|element| element.is_html(&local_name!("div")))?;
        let end = offset(BEFORE.len() + html.len());
        if holder.data().end_tag.map(|tag| tag.start) != Some(end) || document.node(holder.id).next.is_some()
        {
            return None;
        }
        let ids: Vec<NodeId> = document.descendants(holder.id).collect();
        // Finding the number of each takes the square of how many there are.
        if ids.is_empty() || ids.len() > 500 {
            return None;
        }
        let number = |id: Option<NodeId>| {
            id.and_then(|id| ids.iter().position(|own| *own == id)).map(NodeId::from_index)
        };
        let mut fragment =
            PlainFragment { nodes: Vec::new(), has_blocks: false, has_rows: false, names: Vec::new() };
        for id in &ids {
            let node = document.node(*id);
            let data = match &node.data {
                NodeData::Element(element) => {
                    let is_top = node.parent == Some(holder.id);
                    let own = fragment.element(element, is_top, document.parent_element(*id), end)?;
                    NodeData::Element(Rc::new(own))
                }
                NodeData::Text(text) => NodeData::Text(text.clone()),
                NodeData::Comment(text) => NodeData::Comment(text.clone()),
                _ => return None,
            };
            fragment.nodes.push(Node {
                data,
                parent: number(node.parent),
                previous: number(node.previous),
                next: number(node.next),
                first_child: number(node.first_child),
                last_child: number(node.last_child),
            });
        }
        // A tag that the parser drops is in no tree.
        let pieces = markup_pieces(html);
        let count = |is_it: fn(&MarkupPiece) -> bool| pieces.iter().filter(|(_, piece)| is_it(piece)).count();
        let elements = || {
            fragment.nodes.iter().filter_map(|node| match &node.data {
                NodeData::Element(element) => Some(element),
                _ => None,
            })
        };
        let is_whole = elements().count() == count(|piece| matches!(piece, MarkupPiece::StartTag { .. }))
            && elements().filter(|own| own.end_tag.is_some()).count()
                == count(|piece| matches!(piece, MarkupPiece::EndTag { .. }));
        is_whole.then_some(fragment)
    }

    fn element(
        &mut self,
        element: &Element,
        is_top: bool,
        parent: Option<ElementRef<'_>>,
        end: u32,
    ) -> Option<Element> {
        const BEFORE: u32 = "<!doctype html><body><div>".len() as u32;
        let Origin::Tag(tag) = element.origin else { return None };
        let name = &*element.name.local;
        let is_row = name == "li";
        let in_list = parent.is_some_and(|parent| matches!(&*parent.name.local, "ul" | "ol"));
        let is_known = BLOCKS.contains(&name) || PHRASES.contains(&name) || (is_row && (in_list || is_top));
        let ends_within = element.end_tag.is_some_and(|tag| tag.end <= end);
        if element.name.ns != ns!(html) || !is_known || !(is_void(&element.name.local) || ends_within) {
            return None;
        }
        self.has_blocks |= BLOCKS.contains(&name) || is_row;
        self.has_rows |= is_row && is_top;
        if !self.names.contains(&element.name.local) {
            self.names.push(element.name.local.clone());
        }
        let moved = |span: Span| Span { start: span.start - BEFORE, end: span.end - BEFORE };
        Some(Element {
            name: element.name.clone(),
            attrs: element.attrs.clone(),
            id: element.id.clone(),
            classes: element.classes.clone(),
            origin: Origin::Tag(moved(tag)),
            end_tag: element.end_tag.map(moved),
            contents: None,
            shadow: None,
        })
    }
}

impl Document {
    /// Whether all of the tree is as its tags are written: each element with its end tag or without need for one, and
    /// each in the text where it is in the tree. Then nothing is open anywhere that the tree does not show.
    pub fn is_plain_tree(&self) -> bool {
        let has_body = self.body().is_some_and(|body| matches!(body.data().origin, Origin::Tag(_)));
        has_body
            && self.nodes.iter().all(|node| match &node.data {
                NodeData::Element(element) => is_plain(element) && self.is_nested(node, element),
                _ => true,
            })
    }

    /// Whether the text of an element stands within that of its parent.
    fn is_nested(&self, node: &Node, element: &Element) -> bool {
        let Some(parent) = node.parent.and_then(|parent| self.element(parent)) else { return true };
        let end = element.end_tag.map_or(element.start(), |tag| tag.end);
        let begins = match parent.data().origin {
            Origin::Tag(tag) => tag.end <= element.start(),
            Origin::Implied(at) => at <= element.start(),
        };
        begins && parent.data().end_tag.is_none_or(|tag| end <= tag.start)
    }

    /// Whether a fragment that is put into an element is read there as by itself.
    pub fn takes(&self, parent: NodeId, fragment: &PlainFragment) -> bool {
        let Some(first) = self.element(parent) else { return false };
        let is_list = matches!(&*first.name.local, "ul" | "ol");
        // In a table or its rows no element can stand, nor in a list any but its rows.
        let is_apart =
            matches!(&*first.name.local, "table" | "tbody" | "thead" | "tfoot" | "tr" | "html" | "dl");
        if is_apart || is_list != fragment.has_rows {
            return false;
        }
        let mut depth = 0;
        let mut around = first.and_ancestors();
        let fits = around.all(|element| {
            depth += 1;
            let name = &*element.name.local;
            let is_holder = HOLDERS.contains(&name)
                || (!fragment.has_blocks && (TEXT_HOLDERS.contains(&name) || name == "a"));
            let is_twice =
                matches!(name, "a" | "button" | "form") && fragment.names.contains(&element.name.local);
            element.name.ns == ns!(html) && is_holder && !is_twice && depth < DEEP
        });
        fits && self.body().is_some_and(|body| first.is_within(body))
    }

    /// The node that comes behind an element and all that is in it.
    pub fn behind(&self, id: NodeId) -> Option<NodeId> {
        self.after(id, NodeId::DOCUMENT)
    }

    /// The tree of the text into which these fragments were put, and which grew at these places, both in the order
    /// of the text.
    pub fn spliced(self, splices: &[Splice<'_>], growths: &[Growth]) -> Document {
        let shifts = Shifts::of(growths);
        let mut order: Vec<&Splice<'_>> = splices.iter().collect();
        let end = self.nodes.len();
        let place = |splice: &Splice<'_>| splice.next.map_or(end, NodeId::index);
        order.sort_by_key(|splice| (place(splice), splice.at));
        // Where the nodes of each fragment begin in the new list.
        let mut begins = Vec::with_capacity(order.len());
        let mut added = 0;
        for splice in &order {
            begins.push(place(splice) + added);
            added += splice.fragment.nodes.len();
        }
        let places: Vec<(usize, usize)> = order
            .iter()
            .scan(0, |sum, splice| {
                *sum += splice.fragment.nodes.len();
                Some((place(splice), *sum))
            })
            .collect();
        let first = places.first().map_or(end, |(place, _)| *place);
        let moved = |id: NodeId| {
            if id.index() < first {
                return id;
            }
            let before = places.partition_point(|(place, _)| *place <= id.index());
            NodeId::from_index(id.index() + before.checked_sub(1).map_or(0, |at| places[at].1))
        };
        let mut nodes = self.nodes;
        for node in &mut nodes {
            if first < end {
                for link in [
                    &mut node.parent, &mut node.previous, &mut node.next, &mut node.first_child,
                    &mut node.last_child,
                ] {
                    *link = link.map(moved);
                }
            }
            if let Some(element) = node.data.element_mut() {
                element.contents = element.contents.map(moved);
                element.shadow = element.shadow.map(moved);
                element.origin = match element.origin {
                    Origin::Tag(span) => Origin::Tag(shifts.span(span)),
                    Origin::Implied(at) => Origin::Implied(shifts.start(at)),
                };
                element.end_tag = element.end_tag.map(|span| shifts.span(span));
            }
        }
        let nodes = with_fragments(nodes, &order, &begins);
        let mut slots = self.slots;
        for (number, gap) in slots.gaps.iter_mut().enumerate() {
            // The slot at the body's end stands behind what is put there, the others before it.
            let shift = |gap: &Gap| if number == 3 { shifts.start(gap.at) } else { shifts.end(gap.at) };
            if let Some(gap) = gap {
                gap.at = shift(gap);
            }
        }
        slots.meta_end = slots.meta_end.map(|at| shifts.end(at));
        let mut document = Document {
            nodes,
            quirks: self.quirks,
            slots,
            bases: self.bases.into_iter().map(moved).collect(),
            hosts: self.hosts.into_iter().map(moved).collect(),
        };
        let mut in_text: Vec<(&Splice<'_>, usize)> = order.into_iter().zip(begins).collect();
        in_text.sort_by_key(|(splice, _)| splice.at);
        for (splice, begin) in in_text {
            document.link(moved(splice.parent), splice.before.map(moved), splice.fragment, begin);
        }
        document
    }

    /// Links the outermost nodes of a fragment into their place.
    fn link(&mut self, parent: NodeId, before: Option<NodeId>, fragment: &PlainFragment, begin: usize) {
        let tops = (0..fragment.nodes.len()).filter(|at| fragment.nodes[*at].parent.is_none());
        for id in tops.map(|at| NodeId::from_index(begin + at)) {
            let previous = match before {
                Some(before) => self.nodes[before.index()].previous,
                None => self.nodes[parent.index()].last_child,
            };
            let node = &mut self.nodes[id.index()];
            (node.parent, node.previous, node.next) = (Some(parent), previous, before);
            match previous {
                Some(previous) => self.nodes[previous.index()].next = Some(id),
                None => self.nodes[parent.index()].first_child = Some(id),
            }
            match before {
                Some(before) => self.nodes[before.index()].previous = Some(id),
                None => self.nodes[parent.index()].last_child = Some(id),
            }
        }
    }
}

/// Nodes with those of fragments among them: where each of these begins in the end, in order.
fn with_fragments(mut nodes: Vec<Node>, order: &[&Splice<'_>], begins: &[usize]) -> Vec<Node> {
    // Behind few of them the rest is moved on as one, and nothing is behind one at the end.
    const FEW: usize = 3;
    let added: usize = order.iter().map(|splice| splice.fragment.nodes.len()).sum();
    if order.len() <= FEW {
        nodes.reserve(added);
        for (splice, begin) in order.iter().zip(begins) {
            nodes.splice(*begin..*begin, moved_fragment(splice, *begin));
        }
        return nodes;
    }
    let mut all: Vec<Node> = Vec::with_capacity(nodes.len() + added);
    let mut own = nodes.into_iter();
    for (splice, begin) in order.iter().zip(begins) {
        all.extend(own.by_ref().take(begin - all.len()));
        all.extend(moved_fragment(splice, *begin));
    }
    all.extend(own);
    all
}

/// Whether an element has its end tag, or is one that none is missing of.
fn is_plain(element: &Element) -> bool {
    let name = &*element.name.local;
    let may_be_left_out = || {
        let has_optional_end = matches!(
            name,
            "html"
                | "head"
                | "body"
                | "li"
                | "dt"
                | "dd"
                | "p"
                | "thead"
                | "tbody"
                | "tfoot"
                | "tr"
                | "td"
                | "th"
                | "colgroup"
                | "caption"
                | "option"
                | "optgroup"
        );
        has_optional_end || is_void(&element.name.local)
    };
    let may_be_made_up = || matches!(name, "html" | "head" | "tbody" | "tr" | "colgroup");
    match element.origin {
        // What is drawn in a page is ended by the slash in its tag as well.
        Origin::Tag(_) => element.end_tag.is_some() || element.name.ns != ns!(html) || may_be_left_out(),
        Origin::Implied(_) => element.name.ns == ns!(html) && may_be_made_up(),
    }
}

/// The nodes of a fragment, as they are from a place of the list on.
fn moved_fragment<'s>(splice: &'s Splice<'_>, begin: usize) -> impl Iterator<Item = Node> + 's {
    let moved = move |id: NodeId| NodeId::from_index(begin + id.index());
    let shifted = move |span: Span| span.shifted(splice.at as usize);
    splice.fragment.nodes.iter().map(move |node| {
        let data = match &node.data {
            NodeData::Element(element) => NodeData::Element(Rc::new(Element {
                name: element.name.clone(),
                attrs: element.attrs.clone(),
                id: element.id.clone(),
                classes: element.classes.clone(),
                origin: match element.origin {
                    Origin::Tag(span) => Origin::Tag(shifted(span)),
                    Origin::Implied(at) => Origin::Implied(at + splice.at),
                },
                end_tag: element.end_tag.map(shifted),
                contents: None,
                shadow: None,
            })),
            NodeData::Text(text) | NodeData::Doctype(text) => NodeData::Text(text.clone()),
            NodeData::Comment(text) => NodeData::Comment(text.clone()),
            NodeData::Document | NodeData::Fragment => NodeData::Fragment,
        };
        Node {
            data,
            parent: node.parent.map(moved),
            previous: node.previous.map(moved),
            next: node.next.map(moved),
            first_child: node.first_child.map(moved),
            last_child: node.last_child.map(moved),
        }
    })
}

/// How far the places of a text move.
struct Shifts {
    /// Where the first of them is.
    first: u32,
    sums: Vec<(u32, u32)>,
}

impl Shifts {
    fn of(growths: &[Growth]) -> Self {
        let mut sum = 0;
        let sums = growths.iter().map(|growth| {
            sum += growth.by;
            (growth.at, sum)
        });
        Shifts { first: growths.first().map_or(u32::MAX, |growth| growth.at), sums: sums.collect() }
    }

    fn moved(&self, at: u32, count: usize) -> u32 {
        at + count.checked_sub(1).map_or(0, |last| self.sums[last].1)
    }

    /// Where something begins: behind what is put right before it.
    fn start(&self, at: u32) -> u32 {
        if at < self.first {
            return at;
        }
        self.moved(at, self.sums.partition_point(|(place, _)| *place <= at))
    }

    /// Where something ends: before what is put right behind it.
    fn end(&self, at: u32) -> u32 {
        if at <= self.first {
            return at;
        }
        self.moved(at, self.sums.partition_point(|(place, _)| *place < at))
    }

    fn span(&self, span: Span) -> Span {
        Span { start: self.start(span.start), end: self.end(span.end) }
    }
}
