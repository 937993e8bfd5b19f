//! Findings about pages that cannot be told apart where one text stands on all of them.

use super::Ground;
use super::finding::{Code, Finding, Severity};
use crate::board::HostKind;
use crate::find::{Feature, Marker, Markers};
use crate::plan::Owner;

/// Whether the host puts the same text on every page, so that pages have to be told apart there.
pub fn tells_pages_apart(kind: HostKind) -> bool {
    matches!(kind, HostKind::SiteSlots)
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    if ground.features.is_empty() {
        return;
    }
    let markers = Markers::count(ground.features.iter().map(Vec::as_slice));
    for (at, pin) in ground.plan.board.pins.iter().enumerate().filter(|(_, pin)| !pin.off) {
        let is_for = |page: &usize| ground.plan.is_for(at, &ground.site.pages[*page].path);
        let meant: Vec<usize> = (0..ground.site.pages.len()).filter(is_for).collect();
        if meant.len() == ground.site.pages.len() || shares_a_marker(ground, &meant) {
            continue;
        }
        let bare = |page: &usize| !matches!(markers.of(&ground.features[*page]), Marker::Own(_));
        let apart: Vec<usize> = meant.into_iter().filter(bare).collect();
        if apart.is_empty() {
            continue;
        }
        let name = ground.plan.name_of(Owner::Pin(at));
        let bare = super::finding::counted(
            apart.len(),
            &format!("page of the pin `{name}` has"),
            &format!("pages of the pin `{name}` have"),
        );
        let message = format!(
            "on this host one text stands on every page, and {bare} no marker on `html` or `body` that is on no other page: its CSS can be kept there by a script alone"
        );
        let place = pin.pages.first().map_or(pin.name.span, |pattern| pattern.span);
        let finding = Finding::new(Code::PageApart, Severity::Note, ground.on_board(place), message);
        let help = "`deft-pin survey` shows the marker of each page; an id or class on `body` would do";
        findings.push(finding.help(help).pin(name).pages(ground.paths(apart)));
    }
}

/// Whether some marker is on exactly these pages: that of a type of page.
fn shares_a_marker(ground: &Ground<'_>, meant: &[usize]) -> bool {
    let Some(first) = meant.first() else { return true };
    let on_all = |feature: &&Feature| {
        ground.features.iter().enumerate().all(|(page, own)| own.contains(feature) == meant.contains(&page))
    };
    ground.features[*first].iter().any(|feature| on_all(&feature))
}
