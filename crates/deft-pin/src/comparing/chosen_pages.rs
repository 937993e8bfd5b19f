//! Which pages are compared: those that pins are for, and of the others some.

use std::collections::BTreeSet;

use anyhow::Result;
use deft_pin_core::board::Board;
use deft_pin_core::code::PageId;

use crate::preview::{Generation, PinOnPage, PlannedSite};

/// A page that is to be compared.
#[derive(Clone, Debug)]
pub struct ChosenPage {
    /// Its path.
    pub path: String,
    /// Its path as it stands in an address.
    pub address: String,
    /// The pins that are on it.
    pub pins: Vec<ChosenPin>,
}

/// A pin on a page.
#[derive(Clone, Debug)]
pub struct ChosenPin {
    /// Its name.
    pub name: String,
    /// Selectors of what it touches.
    pub touched: Vec<String>,
    /// The selector of its target.
    pub within: Option<String>,
    /// Whether nothing narrows it: it is for all of every page.
    pub is_for_all: bool,
    /// Whether it has markup.
    pub has_markup: bool,
    /// Whether it has a script.
    pub has_script: bool,
}

/// How many pages that no pin is for are compared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sampling {
    /// Some, from all over the site.
    Some,
    /// All of them.
    All,
}

/// How many are some.
const SOME: usize = 8;

/// The pages to compare, in the order of the site: those that are named, or those that pins are for; and of the others
/// as many as are asked for.
///
/// # Errors
/// A page cannot be read.
pub async fn chosen_pages(
    generation: &Generation,
    named: Vec<PageId>,
    sampling: Sampling,
) -> Result<Vec<ChosenPage>> {
    let site = &generation.project.site;
    let mut chosen = Vec::new();
    let mut others = Vec::new();
    let named: BTreeSet<PageId> = named.into_iter().collect();
    for id in site.pages.ids() {
        let page = &site.pages[id];
        let is_wanted = named.is_empty() || named.contains(&id);
        let pins = generation.ask(move |site: &PlannedSite<'_>| site.pins_if_any(id)).await;
        let pins = pins.unwrap_or_else(|| Ok(Vec::new()))?;
        let on = pins.into_iter().filter(|pin| pin.is_on_page);
        let on: Vec<ChosenPin> = on.map(|pin| ChosenPin::of(&generation.project.board, pin)).collect();
        let page = ChosenPage { path: page.path.to_string(), address: page.path.encoded(), pins: on };
        match (is_wanted, page.pins.is_empty()) {
            (true, false) => chosen.push((id, page)),
            // A page that somebody names is looked at, whatever it holds.
            (true, true) if !named.is_empty() => chosen.push((id, page)),
            (_, true) => others.push((id, page)),
            (false, false) => {}
        }
    }
    let step = match sampling {
        Sampling::All => 1,
        Sampling::Some => others.len().div_ceil(SOME).max(1),
    };
    chosen.extend(others.into_iter().step_by(step));
    chosen.sort_by_key(|(id, _)| *id);
    Ok(chosen.into_iter().map(|(_, page)| page).collect())
}

impl ChosenPin {
    fn of(board: &Board, own: PinOnPage) -> Self {
        let pin = &board.pins[own.pin];
        ChosenPin {
            name: pin.name.to_string(),
            touched: own.touched,
            within: pin.within.as_ref().map(|within| within.text.clone()),
            is_for_all: pin.within.is_none() && !pin.is_for_some_pages(),
            has_markup: !pin.markup.is_empty() || !pin.marks.is_empty(),
            has_script: pin.script.is_some(),
        }
    }
}
