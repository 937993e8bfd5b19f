//! `order`: the timeline of a page.

use std::fs;
use std::sync::Arc;

use anyhow::{Context as _, Result};
use deft_pin_core::check::{Scene, troubles};
use deft_pin_core::plan::{Plan, held_on, placed_steps};
use deft_pin_core::script::Timeline;
use deft_pin_core::site::{ScriptFiles, SheetFiles, handlers, page_steps, with_placed};
use deft_pin_core::source::Files;

use super::why::page_sheets_of;
use crate::arguments::{Common, Format, Order};
use crate::exit::Exit;
use crate::output::{self, Steps};
use crate::pages::Pages;

/// Draws what comes when.
pub fn run(common: &Common, command: &Order) -> Result<Exit> {
    let pages = Pages::open(common, &command.place)?;
    let number = pages.find(&command.page)?;
    let answer = pages.with(number, |decoded, document| {
        let page = &pages.site.pages[number];
        let files = (&pages.folder as &dyn Files, &pages.site);
        let known = ScriptFiles::default();
        let (mut adds, mut own_copies) = (Vec::new(), Vec::new());
        let placed = pages.board.as_ref().map(|board| {
            let plan = Plan::new(board, &pages.folder);
            let (held, copies) = held_on(&plan, page, (decoded.text(), document), files, &known);
            held.iter().for_each(|pin| adds.extend(board.pins[*pin].adds.iter().cloned()));
            own_copies = copies.found.iter().map(|copy| plan.name_of(copy.owner()).to_owned()).collect();
            placed_steps(&plan, (&held, &copies), document)
        });
        let own = page_steps((decoded.text(), document), page, files, &known);
        let steps = with_placed(own, placed.unwrap_or_default(), decoded.text());
        let turns: Vec<_> = steps.iter().map(|step| step.timing).collect();
        let timeline = Timeline::new(&turns);
        let sheets = || {
            let all = page_sheets_of(&pages, number, decoded, document, &SheetFiles::default());
            let rules = all.sheets.iter().map(|sheet| Arc::clone(&sheet.rules)).collect();
            all.unread.is_empty().then_some(rules)
        };
        let handlers = handlers(document, &known);
        let troubles = troubles(&Scene {
            steps: &steps,
            timeline: &timeline,
            handlers: &handlers,
            text: decoded.text(),
            document,
            adds: &adds,
            own: &own_copies,
            sheets: &sheets,
            of_board: false,
        });
        let all = Steps {
            page: page.path.as_str(),
            steps: &steps,
            timeline: &timeline,
            troubles: &troubles,
            handlers: &handlers,
            text: decoded.text(),
            document,
        };
        if let Some(file) = &command.svg {
            fs::write(file, output::order_picture(&all))
                .with_context(|| format!("the picture `{}` cannot be written", file.display()))?;
        }
        anyhow::Ok(match command.format {
            Format::Json => output::order_json(&all)?,
            Format::Text => output::order(&all),
        })
    })??;
    output::print(&answer);
    Ok(Exit::Good)
}
