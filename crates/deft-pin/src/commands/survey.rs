//! `survey`: what pages there are, and what is on one of them.

use std::collections::HashMap;

use anyhow::{Result, bail};
use deft_pin_core::board::SelectorText;
use deft_pin_core::find::{Marker, Markers, features, survey};
use deft_pin_core::markup::parse_selectors;

use crate::arguments::{Common, Format, Survey};
use crate::exit::Exit;
use crate::output::{self, PageAnswer, Progress};
use crate::pages::Pages;

/// Looks at a site or one of its pages.
pub fn run(common: &Common, command: &Survey) -> Result<Exit> {
    let pages = Pages::open(common, &command.place)?;
    let section = match &command.section {
        Some(text) => Some(selector(text)?),
        None => pages.board.as_ref().and_then(|board| board.section.as_ref()).map(|own| own.value.clone()),
    };
    let progress = Progress::new(common.quiet);
    match &command.page {
        Some(page) => one(&pages, pages.find(page)?, section.as_ref(), command, progress)?,
        None => all(&pages, section.as_ref(), command, progress)?,
    }
    Ok(Exit::Good)
}

/// Reads a selector that was given as an argument.
///
/// # Errors
/// It is none.
pub fn selector(text: &str) -> Result<SelectorText> {
    match parse_selectors(text) {
        Ok(list) => Ok(SelectorText { text: text.to_owned(), list }),
        Err(why) => bail!("`{text}` is no selector: {why}"),
    }
}

fn all(pages: &Pages, section: Option<&SelectorText>, command: &Survey, progress: Progress) -> Result<()> {
    let detailed = command.format == Format::Json || command.ids;
    let surveys = pages.each(progress, |page, decoded, document| {
        survey(&pages.site.pages[page], decoded, document, section.map(|section| &section.list), detailed)
    })?;
    let markers = Markers::count(surveys.iter().map(|survey| survey.features.as_slice()));
    let answers: Vec<PageAnswer<'_>> = pages
        .site
        .pages
        .iter()
        .zip(&surveys)
        .map(|(page, survey)| PageAnswer { page, survey, marker: markers.of(&survey.features), on: None })
        .collect();
    match command.format {
        Format::Json => output::print(&output::survey_json(&answers)?),
        Format::Text => output::print(&output::survey_pages(&answers, &markers, command.all)),
    }
    Ok(())
}

fn one(
    pages: &Pages,
    number: usize,
    section: Option<&SelectorText>,
    command: &Survey,
    progress: Progress,
) -> Result<()> {
    let page = &pages.site.pages[number];
    let found = pages.with(number, |decoded, document| {
        survey(page, decoded, document, section.map(|section| &section.list), true)
    })?;
    let wanted: Vec<&str> =
        found.detail.iter().flat_map(|detail| &detail.ids).map(|id| id.id.as_str()).collect();
    let others = pages.each(progress, |_, _, document| {
        let own: std::collections::HashSet<&str> =
            document.elements().filter_map(|element| element.data().id()).collect();
        let shared: Vec<bool> = wanted.iter().map(|id| own.contains(id)).collect();
        (features(document), shared)
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
        Format::Json => output::print(&output::survey_json(&[answer])?),
        Format::Text => output::print(&output::survey_page(&answer, command.ids, command.all)),
    }
    Ok(())
}
