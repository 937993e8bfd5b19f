//! `order`: the timeline of a page.

use anyhow::Result;
use deft_pin_core::check::{FaultScope, timeline_faults};
use deft_pin_core::page::SiteContext;

use crate::arguments::{Common, Format, Order};
use crate::disk::write_again;
use crate::exit::Exit;
use crate::output::{self, Timed};
use crate::project::Project;

/// Draws what comes when.
pub fn run(common: &Common, command: &Order) -> Result<Exit> {
    let project = Project::open(common, &command.place)?;
    let id = project.find(&command.page)?;
    let bytes = project.read(id)?;
    let plan = project.plan(&project.folder)?;
    let context = SiteContext::new(&plan, &project.site, &project.folder).on(project.today);
    let page = context.page(id, &bytes);
    let faults = timeline_faults(&page, FaultScope::Page);
    let timed = Timed { page: &page, faults: &faults };
    if let Some(file) = &command.svg {
        write_again(file, output::order_svg(&timed).as_bytes(), output::is_order_svg)?;
    }
    output::print(&match command.format {
        Format::Json => output::order_json(&timed)?,
        Format::Text => output::order(&timed),
    })?;
    Ok(Exit::Good)
}
