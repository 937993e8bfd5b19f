//! What a page's policies stop of what is put into it.

use super::assets::Assets;
use super::page::{Manner, elements};
use crate::check::Stopped;
use crate::markup::Document;
use crate::plan::{Content, PartKind, Placement, Plan};
use crate::site::{Page, Policy, Request};
use crate::source::Decoded;

/// The placements that some policy stops. One in the page's head counts for what stands after it.
pub(super) fn stopped(
    (plan, assets, manner): (&Plan<'_>, &Assets, Manner),
    page: &Page,
    (decoded, document): (&Decoded<'_>, &Document),
    placements: &[Placement<'_>],
    policies: &[Policy],
) -> Vec<Stopped> {
    if policies.is_empty() {
        return Vec::new();
    }
    let written = elements(plan, assets, manner, page, (decoded, document), placements);
    let mut found = Vec::new();
    for (placement, element) in placements.iter().zip(written) {
        let at = document.slots().gap(placement.slot).map_or(0, |gap| gap.at);
        let Some(element) = element else { continue };
        let text = inline_text(&element);
        let request = match (placement.content, &text) {
            (Content::Remote(url), _) => Request::Foreign(url),
            (Content::Local, Some(text)) => Request::Inline(text),
            (Content::Local, None) => Request::Own,
        };
        let counts = policies.iter().filter(|policy| policy.from == 0 || policy.from < at);
        let is_script = placement.part.kind == PartKind::Script;
        let stop = counts.filter_map(|policy| policy.stops(is_script, request)).next();
        found.extend(stop.map(|stop| Stopped { part: placement.part, stop }));
    }
    found
}

/// The text that a page's parser finds in an element; none for one that links a file.
fn inline_text(element: &str) -> Option<String> {
    let (tag, rest) = element.split_once('>')?;
    if tag.contains(" src=") || tag.starts_with("<link") {
        return None;
    }
    let (text, _) = rest.rsplit_once("</")?;
    Some(text.replace("\r\n", "\n").replace('\r', "\n"))
}
