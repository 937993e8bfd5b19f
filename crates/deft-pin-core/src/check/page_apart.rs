//! Findings about pages that cannot be told apart where one text stands on all of them.

use serde::Serialize;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, counted};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::BoxPlace;
use crate::code::{CodeKind, Owner, PageId, Table};
use crate::find::{Feature, Marker, Markers, features};
use crate::markup::Slot;

pub(super) struct PagesApart;

/// What the root element and the body of a page say of it, on a host where that matters.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct PageFeatures(Vec<Feature>);

impl Family for PagesApart {
    type Fact = PageFeatures;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<PageFeatures>) {
        let context = page.page.context();
        if !context.layout.guarded_by_rules().is_empty() {
            facts.push(PageFeatures(features(page.page.document())));
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<PageFeatures>, findings: &mut Vec<Finding>) {
        let plan = input.plan();
        let by_page = facts.by_page();
        if by_page.is_empty() {
            return;
        }
        // On such a host every page is looked at.
        let features: Table<PageId, &[Feature]> =
            by_page.iter().map(|(_, PageFeatures(features))| features.as_slice()).collect();
        let markers = Markers::count(features.iter().copied());
        let guarded = input.context.layout.guarded_by_rules();
        // Without a script that gives a class nothing could be done: that is told by itself.
        let takes_scripts = plan.board.host.takes(CodeKind::Script);
        for (id, pin) in plan.board.active_pins().filter(|_| takes_scripts) {
            let pages = &input.site().pages;
            let meant: Vec<PageId> = pages.ids().filter(|page| plan.is_for(id, &pages[*page].path)).collect();
            let is_everywhere = meant.len() == pages.len();
            if is_everywhere
                || !guarded.iter().any(|code| code.owner == Owner::Pin(id))
                || share_a_marker(&features, &meant)
            {
                continue;
            }
            let bare = |page: &PageId| !matches!(markers.of(features[*page]), Marker::Own(_));
            let apart: Vec<PageId> = meant.into_iter().filter(bare).collect();
            if apart.is_empty() {
                continue;
            }
            let name = input.pin_name(id);
            let bare = counted(
                apart.len(),
                &format!("page of the pin `{name}` has"),
                &format!("pages of the pin `{name}` have"),
            );
            // A class that is set at the foot comes after the page has been seen.
            let place = plan.board.host.place_for(Slot::HeadStart, CodeKind::Script);
            let is_late = place.is_some_and(|place| place >= BoxPlace::Block);
            let (severity, seen) = match is_late {
                true => (Severity::Warning, ", at the foot alone: the page is seen without it first"),
                false => (Severity::Note, ""),
            };
            let message = format!(
                "its CSS goes into a box that is on every page, and {bare} no marker on `html` or `body` that is on no other page: a class that a script sets keeps it there{seen}"
            );
            let place = pin.pages.first().map_or(pin.name.span, |pattern| pattern.span);
            let finding = Finding::new(Code::PageApart, input.on_board(place), message);
            let help = "`deft-pin survey` shows the marker of each page; an id or class on `body` would do";
            findings.push(finding.severity(severity).help(help).pin(name).pages(input.paths(apart)));
        }
    }
}

/// Whether some marker is on exactly these pages: that of a type of page.
fn share_a_marker(features: &Table<PageId, &[Feature]>, meant: &[PageId]) -> bool {
    let Some(first) = meant.first() else { return true };
    let mut is_meant: Table<PageId, bool> = features.map(|_| false);
    meant.iter().for_each(|page| is_meant[*page] = true);
    let is_on_all_alone =
        |feature: &&Feature| features.entries().all(|(page, own)| own.contains(feature) == is_meant[page]);
    features[*first].iter().any(|feature| is_on_all_alone(&feature))
}
