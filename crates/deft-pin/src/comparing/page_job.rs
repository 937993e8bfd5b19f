//! One page, shown without and with its pins at each width.

use std::fs;
use std::path::PathBuf;

use anyhow::{Context as _, Result};
use deft_pin_core::compare::{PinReachSeen, blame, changes};

use super::chosen_pages::ChosenPage;
use super::compared::{ComparedElement, ComparedPage, ComparedWidth, ConsoleLine};
use super::pictures::Pixels;
use crate::browser::{Shown, Window};
use crate::output;

/// A page to compare.
pub(super) struct PageJob {
    pub(super) number: usize,
    pub(super) page: ChosenPage,
    pub(super) before: String,
    pub(super) after: String,
    pub(super) widths: Vec<u32>,
    pub(super) folder: PathBuf,
}

impl PageJob {
    /// Shows the page in a window.
    pub(super) async fn run(&self, window: &Window) -> Result<ComparedPage> {
        let selectors: Vec<Vec<String>> = self
            .page
            .pins
            .iter()
            .flat_map(|pin| [pin.touched.clone(), pin.within.iter().cloned().collect()])
            .collect();
        let mut page = self.blank();
        let mut old_lines: Vec<ConsoleLine> = Vec::new();
        for width in &self.widths {
            let url = format!("{}{}", self.before, self.page.address);
            let before = window.show(&url, *width, &[]).await?;
            let url = format!("{}{}", self.after, self.page.address);
            let after = window.show(&url, *width, &selectors).await?;
            old_lines.extend(lines(&before, &self.before));
            for line in lines(&after, &self.after) {
                if !page.console.contains(&line) {
                    page.console.push(line);
                }
            }
            let names = [
                self.picture(*width, "before"),
                self.picture(*width, "after"),
                self.picture(*width, "difference"),
            ];
            let files = names.clone().map(|name| self.folder.join(name));
            let pins = self.page.pins.clone();
            let width = *width;
            let compared =
                tokio::task::spawn_blocking(move || compared(width, &before, &after, &pins, names, &files));
            page.widths.push(compared.await.context("two pictures could not be compared")??);
        }
        page.console.retain(|line| !old_lines.contains(line));
        Ok(page)
    }

    /// The page where it could not be shown.
    pub(super) fn failed(&self, error: &anyhow::Error) -> ComparedPage {
        ComparedPage { failed: Some(output::reasons(error)), ..self.blank() }
    }

    fn blank(&self) -> ComparedPage {
        ComparedPage {
            number: self.number,
            page: self.page.path.clone(),
            meant: !self.page.pins.is_empty(),
            pins: self.page.pins.iter().map(|pin| pin.name.clone()).collect(),
            for_all: {
                let all = self.page.pins.iter().filter(|pin| pin.is_for_all);
                all.map(|pin| pin.name.clone()).collect()
            },
            widths: Vec::new(),
            console: Vec::new(),
            failed: None,
        }
    }

    fn picture(&self, width: u32, what: &str) -> String {
        format!("{}-{width}-{what}.png", self.number)
    }
}

/// What the console said of a page, with addresses as the site has them.
fn lines(shown: &Shown, origin: &str) -> Vec<ConsoleLine> {
    let line = |text: &String| {
        let (severity, message) = text.split_once(": ").unwrap_or(("error", text));
        ConsoleLine { severity: severity.to_owned(), message: message.replace(origin, "") }
    };
    shown.console.iter().map(line).collect()
}

fn compared(
    width: u32,
    before: &Shown,
    after: &Shown,
    pins: &[super::chosen_pages::ChosenPin],
    names: [String; 3],
    files: &[PathBuf; 3],
) -> Result<ComparedWidth> {
    let written = "a picture cannot be written";
    fs::write(&files[0], &before.picture).context(written)?;
    fs::write(&files[1], &after.picture).context(written)?;
    let [before_name, after_name, difference_name] = names;
    let mut compared = ComparedWidth {
        width,
        same: true,
        differing_pixels: 0,
        before: before_name,
        after: after_name,
        difference: None,
        heights: [0, 0],
        areas: Vec::new(),
        elements: Vec::new(),
        settled: before.is_settled && after.is_settled,
    };
    let old = Pixels::read(&before.picture)?;
    if before.picture == after.picture {
        compared.heights = [old.height(), old.height()];
    } else {
        let new = Pixels::read(&after.picture)?;
        compared.heights = [old.height(), new.height()];
        let made = old.difference(&new);
        if made.pixels > 0 {
            fs::write(&files[2], old.drawn_difference(&new)?).context(written)?;
            compared.difference = Some(difference_name);
        }
        compared.differing_pixels = made.pixels;
        compared.areas = made.areas;
    }
    let found = changes(&before.seen, &after.seen);
    let reach: Vec<PinReachSeen> = pins
        .iter()
        .zip(after.matched.chunks(2))
        .map(|(pin, matched)| PinReachSeen {
            name: pin.name.clone(),
            touched: matched.first().cloned().unwrap_or_default(),
            within: pin.within.as_ref().map(|_| matched.get(1).cloned().unwrap_or_default()),
            has_markup: pin.has_markup,
            has_script: pin.has_script,
        })
        .collect();
    let by = blame(&after.seen, &found, &reach);
    compared.elements = found
        .into_iter()
        .zip(by)
        .map(|(change, pins)| ComparedElement {
            element: change.address,
            how: change.how,
            pin: pins.first().cloned(),
            pins,
            box_before: change.box_before,
            box_after: change.box_after,
            properties: change.properties,
            text: change.text.map(|(before, after)| [before, after]),
        })
        .collect();
    compared.same = compared.differing_pixels == 0 && compared.elements.is_empty();
    Ok(compared)
}
