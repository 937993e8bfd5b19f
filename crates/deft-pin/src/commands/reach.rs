//! `reach`: the pages and elements that each pin touches.

use std::sync::Arc;

use anyhow::{Result, bail};
use deft_pin_core::find::{PageIndex, address, label};
use deft_pin_core::markup::{Document, Selector};
use deft_pin_core::plan::{Plan, PlannedSheets, count_unfenced, reach};
use deft_pin_core::source::{Decoded, SourceText, nearest};
use deft_pin_core::style::{StyleRules, Truth};
use rayon::prelude::*;

use crate::arguments::{Common, Format, Reach, Where};
use crate::exit::Exit;
use crate::output::{self, PinReach, Progress, ReachedElement, ReachedPage, RuleReach};
use crate::pages::Pages;

/// Shows what pins touch.
pub fn run(common: &Common, command: &Reach) -> Result<Exit> {
    let pages = Pages::open(common, &Where { site: None })?;
    let Some(board) = &pages.board else { bail!("`reach` needs a board: it is about its pins") };
    let plan = Plan::new(board, &pages.folder);
    let wanted: Vec<usize> = match &command.pin {
        None => (0..board.pins.len()).filter(|pin| !board.pins[*pin].off).collect(),
        Some(name) => match board.pins.iter().position(|pin| *pin.name == *name) {
            Some(pin) => vec![pin],
            None => {
                let near = nearest(name, board.pins.iter().map(|pin| pin.name.as_str()));
                let hint = near.map(|near| format!("; did you mean `{near}`?")).unwrap_or_default();
                bail!("the board has no pin `{name}`{hint}")
            }
        },
    };
    let planned = PlannedSheets::new(&plan);
    let detailed = command.format == Format::Json;
    let progress = Progress::new(common.quiet);
    let bar = progress.bar("pages", pages.site.pages.len());
    let of_pages: Result<Vec<_>> = (0..pages.site.pages.len())
        .into_par_iter()
        .map(|number| {
            bar.inc(1);
            let path = &pages.site.pages[number].path;
            // A page that no pin is for need not be read.
            if !wanted.iter().any(|pin| plan.is_for(*pin, path)) {
                return Ok(Vec::new());
            }
            pages.with(number, |decoded, document| {
                let held = PlannedSheets::held(&plan, path, document);
                let on = wanted.iter().filter(|pin| held.contains(pin));
                on.map(|&pin| {
                    (pin, on_page(&plan, &planned, pin, (decoded, document), path.as_str(), detailed))
                })
                .collect::<Vec<_>>()
            })
        })
        .collect();
    bar.finish_and_clear();
    let mut pins: Vec<PinReach> = wanted
        .iter()
        .map(|&pin| PinReach {
            name: board.pins[pin].name.to_string(),
            rules: rules_of(&plan, &planned, pin),
            fenced: board.pins[pin].within.as_ref().map(|within| within.text.clone()),
            pages: Vec::new(),
        })
        .collect();
    for (pin, page) in of_pages?.into_iter().flatten() {
        if let Some(at) = wanted.iter().position(|wanted| *wanted == pin) {
            pins[at].pages.push(page);
        }
    }
    output::print(&match command.format {
        Format::Json => output::reach_json(&pins)?,
        Format::Text => output::reached(&pins, pages.site.pages.len()),
    });
    Ok(Exit::Good)
}

/// The rules of a pin's sheet, as they were written.
fn rules_of(plan: &Plan<'_>, planned: &PlannedSheets, pin: usize) -> Vec<RuleReach> {
    let (Some(style), Some(rules)) = (&plan.pins[pin].style, planned.of_pin(pin)) else { return Vec::new() };
    let of_rule = |rule: &deft_pin_core::style::CascadeRule| RuleReach {
        selector: rules.written(rule.prelude).to_owned(),
        file: rules.file(rule.prelude.start).unwrap_or(&style.file.path).to_string(),
        line: rules.position(rule.prelude.start).line,
    };
    rules.rules.iter().map(of_rule).collect()
}

fn on_page(
    plan: &Plan<'_>,
    planned: &PlannedSheets,
    pin: usize,
    (decoded, document): (&Decoded, &Document),
    path: &str,
    detailed: bool,
) -> ReachedPage {
    let rules: Arc<StyleRules> = planned.of_pin(pin).cloned().unwrap_or_default();
    let index = PageIndex::new(document);
    let mut touched: Vec<_> = reach(&rules, document).into_iter().map(|it| (it.element, it.rules)).collect();
    if plan.pins[pin].style.is_none()
        && let Some(within) = &plan.board.pins[pin].within
    {
        // A script alone touches its target.
        touched = index.matched(&within.list, usize::MAX).into_iter().map(|id| (id, Vec::new())).collect();
    }
    let lines = detailed.then(|| SourceText::new(decoded.text().to_owned()));
    let element = |(id, rules): (_, Vec<(usize, Truth)>)| {
        let element = document.element(id)?;
        let line = lines.as_ref().map_or(0, |lines| lines.position(element.data().start()).line);
        let name = if detailed { address(&index, element) } else { label(element) };
        Some(ReachedElement { name, line, rules })
    };
    let unfenced = match (&plan.pins[pin].style, &plan.board.pins[pin].within) {
        (Some(style), Some(_)) if !detailed => {
            let own: Vec<&Selector> =
                style.rules.iter().flat_map(|rule| &rule.selectors).map(|test| &test.own).collect();
            count_unfenced(&own, document)
        }
        _ => 0,
    };
    ReachedPage {
        path: path.to_owned(),
        elements: touched.into_iter().filter_map(element).collect(),
        unfenced,
    }
}
