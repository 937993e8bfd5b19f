//! The scripts and sheets of a plan, as steps of a page's timeline.

use std::sync::Arc;

use crate::board::{BoxPlace, BoxReach, ScriptLoad};
use crate::code::{Address, CodeKind, Origin};
use crate::markup::{Assume, Document, InsertionPoint, Matcher, parse_selectors};
use crate::plan::{CodeSource, Placement, Plan};
use crate::script::{Execution, Frame, ScriptKind, Timing};
use crate::site::{PagePart, PlacedStep, StepCode, StepScript};

/// The steps that the plan puts into a page, in the order of the document.
/// `place_of` gives the byte of the page's text for an insertion point.
pub(super) fn planned_steps(
    plan: &Plan<'_>,
    placements: &[Placement],
    document: &Document,
    place_of: &dyn Fn(InsertionPoint) -> Option<u32>,
) -> Vec<PlacedStep> {
    let steps = placements.iter().filter_map(|placement| {
        let at = place_of(placement.at)?;
        let code = plan.code(placement.code)?;
        let kind = placement.code.kind;
        let script = code.file().and_then(|file| file.script.as_ref());
        let frame = script.and_then(|script| script.frame.as_ref());
        let execution = match frame {
            _ if kind == CodeKind::Style => match stands_in_its_box(plan, placement, code) {
                true => Execution::Style,
                false => Execution::Link,
            },
            Some(frame) if !has_target(frame, document) => Execution::Never,
            Some(frame) if frame.starts_later => Execution::Later,
            Some(frame) if frame.waits || waits_in_its_box(plan, placement) => Execution::Ready,
            // What a script puts in holds nothing up.
            _ if plan.board.host.inserts => Execution::Inserted,
            _ => match plan.load_of(placement.code) {
                ScriptLoad::Blocking => Execution::Classic,
                ScriptLoad::Async => Execution::Async,
                ScriptLoad::Defer => Execution::Defer,
            },
        };
        let step_code = match (kind, script) {
            (CodeKind::Style, _) => StepCode::Sheet,
            (CodeKind::Script, None) => StepCode::Unread(kind),
            (CodeKind::Script, Some(script)) => StepCode::Script(StepScript {
                file: Arc::clone(script),
                kind: ScriptKind::Classic,
                imported: Vec::new(),
                has_unknown_imports: false,
                import_flaws: Vec::new(),
            }),
        };
        let address = match code {
            CodeSource::File(file, _) => Address::Local(file.path.clone()),
            CodeSource::Remote(url) => Address::Remote(url.to_owned()),
        };
        let origin = Origin::Board(placement.code.owner);
        let part = match placement.at {
            InsertionPoint::Slot(slot) => PagePart::Slot(slot),
            InsertionPoint::Block => PagePart::Block,
        };
        Some(PlacedStep {
            at,
            part,
            origin,
            address,
            code: step_code,
            timing: Timing { execution, is_loose: plan.board.host.inserts && kind == CodeKind::Style },
        })
    });
    steps.collect()
}

/// Whether a sheet stands in a box of the host with all of its text.
fn stands_in_its_box(plan: &Plan<'_>, placement: &Placement, code: CodeSource<'_>) -> bool {
    let is_uploaded = plan.board.host.files.is_some() && placement.code.owner.pin().is_none();
    placement.in_box.is_some() && code.file().is_some() && !is_uploaded
}

/// Whether a box of the whole site keeps a script to pages by what is on them: it waits until all of a page is there.
fn waits_in_its_box(plan: &Plan<'_>, placement: &Placement) -> bool {
    let is_early = placement.in_box.is_some_and(|of| of.reach == BoxReach::Site && of.place < BoxPlace::Foot);
    let pin = placement.code.owner.pin();
    is_early && pin.is_some_and(|pin| plan.board.pins[pin].having.is_some())
}

/// Whether there is something on a page that a script is for; without that it does not run.
fn has_target(frame: &Frame, document: &Document) -> bool {
    let Some(list) = frame.within.as_ref().and_then(|within| parse_selectors(within).ok()) else {
        return true;
    };
    let mut matcher = Matcher::new();
    document.elements().any(|element| matcher.matches_any(&list, element, Assume::May))
}
