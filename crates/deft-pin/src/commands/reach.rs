//! `reach`: the pages and elements that each pin touches.

use anyhow::Result;
use deft_pin_core::board::SelectorText;
use deft_pin_core::code::{PageId, PinId};
use deft_pin_core::find::{PageIndex, address, label};
use deft_pin_core::markup::Selector;
use deft_pin_core::page::{
    ContentOutcome, ContentPart, PageAnalysis, Reached, SiteContext, count_unfenced, reach,
};
use deft_pin_core::plan::Plan;
use rayon::prelude::*;

use crate::arguments::{Common, Format, Reach, Where};
use crate::exit::Exit;
use crate::output::{self, ContentReach, Notes, PinReach, Progress, ReachedElement, ReachedPage, RuleReach};
use crate::project::Project;

/// Shows what pins touch.
pub fn run(common: &Common, command: &Reach) -> Result<Exit> {
    let project = Project::open(common, &Where { site: None })?;
    let board = &project.board;
    let plan = Plan::new(board, &project.folder);
    let wanted: Vec<PinId> = match &command.pin {
        None => board.active_pins().map(|(pin, _)| pin).collect(),
        Some(name) => vec![project.pin(name)?],
    };
    let context = SiteContext::new(&plan, &project.site, &project.folder);
    let is_detailed = command.format == Format::Json;
    let bar = Progress::of(Notes::of(common)).bar("pages", project.site.pages.len());
    let pages: Vec<PageId> = project.site.pages.ids().collect();
    let of_page = |id: PageId| {
        bar.inc(1);
        let path = &project.site.pages[id].path;
        // A page that no pin is for need not be read.
        if !wanted.iter().any(|pin| plan.is_for(*pin, path)) {
            return Ok(Vec::new());
        }
        let bytes = project.read(id)?;
        let served = context.page(id, &bytes);
        // What pins put in later is touched as well.
        let settled = served.settled();
        let page = settled.as_ref().unwrap_or(&served);
        let on = wanted.iter().filter(|pin| page.pins().contains(pin));
        Ok(on.map(|&pin| (pin, on_page(page, served.content(), pin, is_detailed))).collect())
    };
    let of_pages: Result<Vec<Vec<_>>> = pages.into_par_iter().map(of_page).collect();
    bar.finish_and_clear();
    let mut pins: Vec<PinReach> = wanted
        .iter()
        .map(|&pin| PinReach {
            name: board.pins[pin].name.to_string(),
            rules: rules_of(&context, pin),
            content: content_of(&context, pin),
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
        Format::Text => output::reached(&pins, project.site.pages.len()),
    })?;
    Ok(Exit::Good)
}

/// The rules of a pin's sheet, as they were written.
fn rules_of(context: &SiteContext<'_>, pin: PinId) -> Vec<RuleReach> {
    let style = context.plan.pins[pin].style.as_ref();
    let Some((style, rules)) = style.zip(context.sheets.of_pin(pin)) else { return Vec::new() };
    let of_rule = |rule: &deft_pin_core::style::CascadeRule| RuleReach {
        selector: rules.written(rule.prelude).to_owned(),
        file: rules.file(rule.prelude.start).unwrap_or(&style.file.path).to_string(),
        line: rules.position(rule.prelude.start).line,
    };
    rules.rules.iter().map(of_rule).collect()
}

/// The markup and the marks of a pin, as they are told.
fn content_of(context: &SiteContext<'_>, pin: PinId) -> Vec<ContentReach> {
    let (own, planned) = (&context.plan.board.pins[pin], &context.plan.pins[pin]);
    let at = |at: Option<&SelectorText>| at.map_or("the target", |at| at.text.as_str()).to_owned();
    let start = planned.beginning.as_ref().map(|beginning| beginning.start.to_string());
    let marks = own.marks.iter().enumerate().map(|(number, mark)| ContentReach {
        part: ContentPart::Mark(number),
        name: format!("mark on {}", at(mark.at.as_deref())),
        start: None,
    });
    let markup = planned.markup.iter().enumerate().map(|(number, markup)| ContentReach {
        part: ContentPart::Markup(number),
        name: format!("markup {} {}", markup.place.name(), at(markup.at.as_ref())),
        start: start.clone(),
    });
    marks.chain(markup).collect()
}

fn on_page(
    page: &PageAnalysis<'_>,
    content: &[ContentOutcome],
    pin: PinId,
    is_detailed: bool,
) -> ReachedPage {
    let plan = page.context().plan;
    let document = page.document();
    let (style, within) = (&plan.pins[pin].style, &plan.board.pins[pin].within);
    let index = PageIndex::new(document);
    let touched = match (page.context().sheets.of_pin(pin), within) {
        (Some(rules), _) => reach(rules, document),
        // A script alone touches its target.
        (None, Some(within)) if style.is_none() => {
            let targets = index.matched(&within.list, usize::MAX).into_iter();
            targets.map(|element| Reached { element, rules: Vec::new() }).collect()
        }
        (None, _) => Vec::new(),
    };
    let element = |reached: Reached| {
        let element = document.element(reached.element)?;
        let line = if is_detailed { page.parsed().line_of(element) } else { 0 };
        let name = if is_detailed { address(&index, element) } else { label(element) };
        Some(ReachedElement { name, line, rules: reached.rules })
    };
    let unfenced = match (style, within) {
        (Some(style), Some(_)) if !is_detailed => {
            let written: Vec<&Selector> =
                style.styling_selectors().map(|selector| &selector.written).collect();
            count_unfenced(&written, document)
        }
        _ => 0,
    };
    ReachedPage {
        path: page.page().path.to_string(),
        elements: touched.into_iter().filter_map(element).collect(),
        content: content
            .iter()
            .filter(|own| own.pin == pin && own.trouble.is_none())
            .map(|own| (own.part, own.elements))
            .collect(),
        unfenced,
    }
}
