//! The parts of a release, as they stand in a page: what a live page is held against.

use anyhow::Result;
use deft_pin_core::board::BoxTakes;
use deft_pin_core::code::CodeKind;
use deft_pin_core::emit::{Piece, PiecePart, surviving};
use deft_pin_core::live::{PartKind, elements_of, nodes_of};
use deft_pin_core::plan::{Part, Plan};

use super::release::StoredPart;
use super::store::Store;
use crate::project::Project;

/// The parts of a piece as its host serves them; their texts are kept.
///
/// # Errors
/// A text cannot be kept.
pub fn parts_of_piece(
    project: &Project,
    plan: &Plan<'_>,
    piece: &Piece,
    store: &Store,
) -> Result<Vec<StoredPart>> {
    let host = &project.board.host;
    let mut rows = Vec::new();
    for part in piece.parts.iter().filter(|part| !part.shown.is_empty()) {
        let text = surviving(&part.shown, piece.of.takes, host);
        let pins = part.of.map(|of| pin_names(project, plan, of)).unwrap_or_default();
        let pages = (!part.on.is_empty() && part.on != piece.only)
            .then(|| part.on.iter().map(|page| project.site.pages[*page].path.as_str().to_owned()).collect());
        let kind = kind_of(piece.of.takes, part, &text);
        rows.push(StoredPart {
            part: kind.name().to_owned(),
            name: part.of.and_then(|of| name_of(plan, of)),
            pins,
            sha256: Some(store.keep(text.as_bytes())?),
            pages,
            ..StoredPart::default()
        });
    }
    Ok(rows)
}

fn kind_of(takes: BoxTakes, part: &PiecePart, text: &str) -> PartKind {
    let by_code = |kind: CodeKind| if kind == CodeKind::Style { PartKind::Style } else { PartKind::Script };
    match (takes, part.of) {
        (_, Some(Part::Code(code))) => by_code(code.kind),
        (BoxTakes::Html, Some(Part::Content(_))) if elements_of(text).is_empty() => PartKind::Markup,
        (BoxTakes::Css, _) => PartKind::Style,
        _ => PartKind::Guard,
    }
}

fn name_of(plan: &Plan<'_>, of: Part) -> Option<String> {
    match of {
        Part::Code(code) => Some(plan.name_of(code.owner).to_owned()),
        Part::Content(_) => None,
    }
}

fn pin_names(project: &Project, plan: &Plan<'_>, of: Part) -> Vec<String> {
    plan.pins_of(of).into_iter().map(|pin| project.board.pins[pin].name.value.clone()).collect()
}

/// The parts of a page that was built: the elements in it that carry the mark, and what pins put in beside them.
///
/// # Errors
/// A text cannot be kept.
pub fn parts_of_page(
    project: &Project,
    plan: &Plan<'_>,
    page: &deft_pin_core::site::Page,
    built: &[u8],
    store: &Store,
) -> Result<Vec<StoredPart>> {
    let served = deft_pin_core::live::ServedPage::read(built);
    let mut rows = Vec::new();
    for (name, kind, html) in served.marked() {
        rows.push(StoredPart {
            part: kind.name().to_owned(),
            pins: users_of(project, plan, page, &name),
            name: Some(name),
            sha256: Some(store.keep(html.as_bytes())?),
            ..StoredPart::default()
        });
    }
    for pin in plan.pins_for(&page.path) {
        let own = &project.board.pins[pin];
        let pins = vec![own.name.value.clone()];
        if own.off {
            continue;
        }
        for markup in plan.pins[pin].markup.iter().filter(|_| plan.pins[pin].beginning.is_none()) {
            let text = markup.text.text.as_str();
            // What cannot be found again in our own page cannot be found in another's.
            let times = nodes_of(text).iter().map(|tree| served.count_of(tree)).min().unwrap_or(0);
            if times == 0 {
                continue;
            }
            rows.push(StoredPart {
                part: PartKind::Markup.name().to_owned(),
                name: Some(own.name.value.clone()),
                pins: pins.clone(),
                sha256: Some(store.keep(text.as_bytes())?),
                times: (times > 1).then_some(times),
                ..StoredPart::default()
            });
        }
        for mark in &own.marks {
            let id = mark.id.as_ref().map(|id| id.value.clone()).filter(|id| served.has_id(id));
            let classes = mark.classes.iter().map(|class| class.value.clone());
            let classes: Vec<String> = classes.filter(|class| served.has_class(class)).collect();
            if id.is_none() && classes.is_empty() {
                continue;
            }
            rows.push(StoredPart {
                part: PartKind::Mark.name().to_owned(),
                name: Some(own.name.value.clone()),
                pins: pins.clone(),
                id,
                classes,
                ..StoredPart::default()
            });
        }
    }
    Ok(rows)
}

/// The pins of a page behind a mark: the pin itself, or those that need the library.
fn users_of(project: &Project, plan: &Plan<'_>, page: &deft_pin_core::site::Page, name: &str) -> Vec<String> {
    let pins = plan.pins_for(&page.path).into_iter().filter(|pin| !project.board.pins[*pin].off);
    let uses = |pin: &deft_pin_core::code::PinId| {
        let own = &project.board.pins[*pin];
        own.name.value == name
            || plan
                .libraries_for(&[*pin])
                .into_iter()
                .any(|library| project.board.libraries[library].name.value == name)
    };
    pins.filter(uses).map(|pin| project.board.pins[pin].name.value.clone()).collect()
}
