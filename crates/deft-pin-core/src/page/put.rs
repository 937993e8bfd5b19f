//! A piece of markup at one element of a page: where in the bytes and where in the tree it goes.

use std::sync::Arc;

use html5ever::local_name;

use super::content_edits::{Edits, Rank};
use crate::markup::{BEFORE_FRAGMENT, MarkupPlace, NodeId, parse_fragment};
use crate::site::ParsedPage;
use crate::source::Span;

/// Markup that is put in at one element.
#[derive(Clone, Debug)]
pub(super) struct Put {
    /// Which outcome it belongs to.
    pub(super) outcome: usize,
    /// Its HTML.
    pub(super) html: Arc<str>,
    /// For what goes around the element, its two halves.
    pub(super) halves: Option<Arc<(String, String)>>,
    /// Where it stands, as seen from the element.
    pub(super) place: MarkupPlace,
    /// The element.
    pub(super) element: NodeId,
}

/// Why a piece cannot be written at an element.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Unplaced {
    /// The element, of that name, has no tag of its own in the page, or it cannot be told where it ends.
    NoTag(String),
    /// There is no element in it that another one could be put into.
    NothingToHold,
}

/// Where in the tree a piece of markup comes to stand: in what, before what of that, and before what of the whole text.
/// None where that depends on how the page is read.
pub(super) fn plain_place(
    parsed: &ParsedPage<'_>,
    put: &Put,
) -> Option<(NodeId, Option<NodeId>, Option<NodeId>)> {
    let document = &parsed.document;
    let element = document.element(put.element)?;
    document.start_tag(element)?;
    let node = document.node(element.id);
    let parent = element.parent().map(|parent| parent.id);
    let end = || document.end_of(element, parsed.text()).filter(|end| !end.is_open && end.closers.is_empty());
    match put.place {
        MarkupPlace::Before => {
            let is_plain = document.open_before(element, parsed.text()).is_empty()
                && !document.has_fostered(element, parsed.text());
            is_plain.then_some((parent?, Some(element.id), Some(element.id)))
        }
        MarkupPlace::Prepend => {
            document.inside_of(element)?;
            let first = document.children(element.id).next();
            Some((element.id, first, first.or_else(|| document.behind(element.id))))
        }
        MarkupPlace::Append => {
            let end = end()?;
            // What stands behind its end tag and in it all the same comes later.
            let children = document.children(element.id).filter_map(|child| document.element(child));
            let is_plain = children.into_iter().all(|child| child.data().start() < end.inner);
            is_plain.then(|| (element.id, None, document.behind(element.id)))
        }
        MarkupPlace::After => {
            end()?;
            let is_plain = !document.is_reopened(element);
            is_plain.then_some((parent?, node.next(), document.behind(element.id)))
        }
        MarkupPlace::Replace | MarkupPlace::Wrap => None,
    }
}

/// The text of a page's element that a piece of markup goes with, and what is written there.
pub(super) fn put_in(edits: &mut Edits, parsed: &ParsedPage<'_>, put: &Put) -> Result<(), Unplaced> {
    let document = &parsed.document;
    let Some(element) = document.element(put.element) else { return Ok(()) };
    let none = || Unplaced::NoTag(element.name.local.to_string());
    let inside = || document.inside_of(element).ok_or_else(none);
    let own_tag = document.start_tag(element);
    let tag = || own_tag.filter(|_| !document.has_fostered(element, parsed.text())).ok_or_else(none);
    let depth = element.and_ancestors().count();
    let end = || document.end_of(element, parsed.text()).ok_or_else(none);
    let html = put.html.to_string();
    // What stands before it and no tag ends would take up what comes next.
    let ended = document.open_before(element, parsed.text());
    match put.place {
        MarkupPlace::Before => edits.insert_behind(tag()?.start, Rank::before(depth), ended, html),
        MarkupPlace::Prepend => {
            // The first line end in there is none (HTML, "in body", a start tag of `pre`).
            let swallows = matches!(
                element.name.local,
                local_name!("pre") | local_name!("listing") | local_name!("textarea")
            );
            let rest = &parsed.text()[inside()? as usize..];
            let line_end =
                if rest.starts_with("\r\n") { 2 } else { u32::from(rest.starts_with(['\n', '\r'])) };
            let at = inside()? + if swallows { line_end } else { 0 };
            edits.insert(at, Rank::prepend(depth), html);
        }
        MarkupPlace::Append => {
            let end = end()?;
            let rank =
                if end.inner == inside()? { Rank::append_to_nothing(depth) } else { Rank::append(depth) };
            edits.insert_behind(end.inner, rank, end.closers, html);
        }
        MarkupPlace::After => {
            own_tag.filter(|_| !document.is_reopened(element)).ok_or_else(none)?;
            let end = end()?;
            edits.insert_behind(end.outer, Rank::after(depth), end.closers_behind(element), html);
        }
        MarkupPlace::Replace => {
            let end = end()?;
            edits.replace_behind(Span { start: tag()?.start, end: end.outer }, ended, html);
        }
        MarkupPlace::Wrap => {
            let end = end()?;
            let halves = put.halves.as_deref().ok_or(Unplaced::NothingToHold)?;
            let (open, close) = halves.clone();
            edits.insert_behind(tag()?.start, Rank::wrap(depth), ended, open);
            edits.insert_behind(end.outer, Rank::wrapped(depth), end.closers_behind(element), close);
        }
    }
    Ok(())
}

/// The two halves of what is put around an element: it goes to the end of the innermost element of the first.
pub(super) fn halves(html: &str) -> Option<(String, String)> {
    let (document, contents) = parse_fragment(html)?;
    let elements =
        |id: NodeId| document.children(id).filter_map(|id| document.element(id)).collect::<Vec<_>>();
    let mut inner = *elements(contents).first()?;
    while let [only] = elements(inner.id)[..] {
        inner = only;
    }
    let at = inner.data().end_tag?.start as usize - BEFORE_FRAGMENT.len();
    Some((html.get(..at)?.to_owned(), html.get(at..)?.to_owned()))
}
