//! `survey`: what pages there are, and what is on one of them.

use std::collections::HashMap;

use anyhow::Result;
use deft_pin_core::board::SelectorText;
use deft_pin_core::code::PageId;
use deft_pin_core::find::{Marker, Markers, features, survey};

use crate::arguments::{Common, Format, Survey};
use crate::asked::selector;
use crate::exit::Exit;
use crate::output::{self, Notes, PageAnswer, Progress};
use crate::project::Project;

/// Looks at a site or one of its pages.
pub fn run(common: &Common, command: &Survey) -> Result<Exit> {
    let project = Project::open(common, &command.place)?;
    let section = match &command.section {
        Some(text) => Some(selector(text)?),
        None => project.board.section.as_ref().map(|section| section.value.clone()),
    };
    let progress = Progress::of(Notes::of(common));
    match &command.page {
        Some(page) => one(&project, project.find(page)?, section.as_ref(), command, progress)?,
        None => all(&project, section.as_ref(), command, progress)?,
    }
    Ok(Exit::Good)
}

fn all(
    project: &Project,
    section: Option<&SelectorText>,
    command: &Survey,
    progress: Progress,
) -> Result<()> {
    let detailed = command.format == Format::Json || command.ids;
    let list = section.map(|section| &section.list);
    let surveys = project.each(progress, |_, page| survey(page, list, detailed))?;
    let markers = Markers::count(surveys.iter().map(|survey| survey.features.as_slice()));
    let answers: Vec<PageAnswer<'_>> = project
        .site
        .pages
        .iter()
        .zip(&surveys)
        .map(|(page, survey)| PageAnswer { page, survey, marker: markers.of(&survey.features), on: None })
        .collect();
    match command.format {
        Format::Json => output::print(&output::survey_json(&answers)?)?,
        Format::Text => output::print(&output::survey_pages(&answers, &markers, command.all))?,
    }
    Ok(())
}

fn one(
    project: &Project,
    id: PageId,
    section: Option<&SelectorText>,
    command: &Survey,
    progress: Progress,
) -> Result<()> {
    let page = &project.site.pages[id];
    let found = project.with(id, |page| survey(page, section.map(|section| &section.list), true))?;
    let wanted: Vec<&str> =
        found.detail.iter().flat_map(|detail| &detail.ids).map(|id| id.id.as_str()).collect();
    let others = project.each(progress, |_, page| {
        let own: std::collections::HashSet<&str> =
            page.document.elements().filter_map(|element| element.data().id()).collect();
        let shared: Vec<bool> = wanted.iter().map(|id| own.contains(id)).collect();
        (features(&page.document), shared)
    })?;
    let markers = Markers::count(others.iter().map(|(features, _)| features.as_slice()));
    let mut on: HashMap<&str, usize> = HashMap::new();
    for (_, shared) in &others {
        for (id, _) in wanted.iter().zip(shared).filter(|(_, shared)| **shared) {
            *on.entry(id).or_default() += 1;
        }
    }
    let marker: Marker = markers.of(&found.features);
    let answer = PageAnswer { page, survey: &found, marker, on: Some(&on) };
    match command.format {
        Format::Json => output::print(&output::survey_json(&[answer])?)?,
        Format::Text => output::print(&output::survey_page(&answer, command.ids, command.all))?,
    }
    Ok(())
}
