//! The proof that what was put into an odd page stands where it is meant to: the new page is
//! parsed, and its tree is looked at.

use std::ops::Range;

use html5ever::local_name;

use super::tags::is_placed;
use crate::markup::{ElementRef, Origin, Slot, parse};
use crate::plan::Placement;

/// The slots whose placements do not stand where they are meant to; none, if all is well.
/// `inserted` are the places of the page that were put in.
pub(super) fn stands_as_meant(
    bytes: &[u8],
    placements: &[Placement],
    inserted: &[Range<usize>],
) -> Vec<Slot> {
    let (decoded, document) = parse(bytes);
    let elements: Vec<ElementRef<'_>> = document.elements().collect();
    // A page may have such elements by itself, from an earlier build.
    let is_put_in = |element: ElementRef<'_>| {
        let start = decoded.origin(element.data().start()) as usize;
        is_placed(element) && inserted.iter().any(|range| range.contains(&start))
    };
    let is_own = |element: &&ElementRef<'_>| is_put_in(**element);
    let placed: Vec<ElementRef<'_>> = elements.iter().filter(is_own).copied().collect();
    let all_slots = || {
        Slot::ALL
            .into_iter()
            .filter(|slot| placements.iter().any(|p| p.at.slot() == *slot))
            .collect::<Vec<_>>()
    };
    if placed.len() != placements.len() {
        return all_slots();
    }
    let (Some(head), Some(root)) = (document.head(), document.root()) else { return all_slots() };
    let body = document.body();
    let stands = |element: ElementRef<'_>, slot: Slot| {
        let html = element.name.ns == root.name.ns;
        html && match slot {
            Slot::HeadStart | Slot::Head => element.parent() == Some(head),
            Slot::BodyStart | Slot::Foot => body.is_some_and(|body| element.is_within(body)),
        }
    };
    let mut wrong: Vec<Slot> = placements
        .iter()
        .zip(&placed)
        .filter(|(placement, element)| !stands(**element, placement.at.slot()))
        .map(|(placement, _)| placement.at.slot())
        .collect();
    // At the foot nothing of the page's own is parsed after; at the body's start nothing before.
    // In what order elements are parsed, their ids tell: a misplaced table may stand behind.
    let foot = placements.iter().position(|p| p.at.slot() == Slot::Foot).map(|at| placed[at]);
    if let Some(first) = foot
        && elements
            .iter()
            .filter(|e| e.id > first.id)
            .any(|e| !is_put_in(*e) && !runs_on(*e) && body.is_some_and(|body| e.is_within(body)))
    {
        wrong.push(Slot::Foot);
    }
    let start = placements.iter().rposition(|p| p.at.slot() == Slot::BodyStart).map(|at| placed[at]);
    if let (Some(last), Some(body)) = (start, body)
        && elements
            .iter()
            .take_while(|e| **e != last)
            .any(|e| *e != body && e.is_within(body) && !is_put_in(*e))
    {
        wrong.push(Slot::BodyStart);
    }
    wrong.sort();
    wrong.dedup();
    wrong
}

/// Whether an element takes up the rest of the file, so that there is no place behind it, or is
/// one that the parser opened again in there.
fn runs_on(element: ElementRef<'_>) -> bool {
    let endless = matches!(element.name.local, local_name!("script") | local_name!("plaintext"));
    element.end_tag.is_none() && endless || matches!(element.origin, Origin::Implied(_))
}
