//! What no box of a host can hold.

use std::collections::BTreeSet;

use crate::board::MarksBy;
use crate::code::{CodeKind, PinId};
use crate::markup::MarkupPlace;
use crate::page::SiteContext;
use crate::plan::{Plan, PlannedMarkup};

/// A part of the plan that no box of the host can hold.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub struct LeftOut {
    /// The pin that misses it.
    pub pin: PinId,
    /// Of which kind it is; none for markup and marks.
    pub kind: Option<CodeKind>,
    /// Why.
    pub why: OutOfReach,
}

/// Why something cannot be put into a box.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum OutOfReach {
    /// No box takes such code.
    NoBox,
    /// It stands outside the frame in which the host's blocks are.
    OutsideTheFrame,
    /// The frame in which the host's blocks are runs no scripts.
    NoScriptsInTheFrame,
    /// Nothing there can keep it to its pages.
    NotKept,
    /// The text cannot stand in a page without meaning something else.
    NotSafe,
    /// Its namespaces would be those of other sheets in the same box, or theirs its own.
    OtherNamespaces,
}

/// What no box of a host can hold, as the board alone tells.
pub fn left_out_by_host(context: &SiteContext<'_>) -> Vec<LeftOut> {
    let plan = context.plan;
    let host = &plan.board.host;
    if host.changes_files {
        return Vec::new();
    }
    let mut found = BTreeSet::new();
    for (pin, own) in plan.board.active_pins() {
        let planned = &plan.pins[pin];
        let mut lacks = |kind: Option<CodeKind>, why| found.insert(LeftOut { pin, kind, why });
        if host.is_framed && !fits_frame(plan, pin) {
            lacks(None, OutOfReach::OutsideTheFrame);
            continue;
        }
        let takes = |kind| host.takes(kind);
        if host.is_framed
            && planned.script.is_some()
            && !host.frame.iter().any(|word| word == "allow-scripts")
        {
            lacks(Some(CodeKind::Script), OutOfReach::NoScriptsInTheFrame);
        }
        if planned.style.is_some() && !takes(CodeKind::Style) {
            lacks(Some(CodeKind::Style), OutOfReach::NoBox);
        }
        if planned.script.is_some() && !takes(CodeKind::Script) {
            lacks(Some(CodeKind::Script), OutOfReach::NoBox);
        }
        let is_by_script =
            own.marks.iter().any(|mark| host.marks == MarksBy::ByScript || !mark.attributes.is_empty())
                || (planned.beginning.is_none() && !planned.markup.is_empty() && !host.is_framed);
        if is_by_script && !takes(CodeKind::Script) {
            lacks(None, OutOfReach::NoBox);
        }
    }
    found.into_iter().collect()
}

/// Whether all of a pin can stand in the frame of a block: it is markup for that place, with its style and script.
pub fn fits_frame(plan: &Plan<'_>, pin: PinId) -> bool {
    let planned = &plan.pins[pin];
    let own = &plan.board.pins[pin];
    let block = plan.board.host.block.as_ref().map_or("main", |block| block.text.as_str());
    let is_there = |markup: &PlannedMarkup| {
        let at = markup.at.as_ref().or(own.within.as_deref()).map(|at| at.text.trim());
        at == Some(block) && markup.place == MarkupPlace::Append
    };
    !planned.markup.is_empty() && own.marks.is_empty() && planned.markup.iter().all(is_there)
}
