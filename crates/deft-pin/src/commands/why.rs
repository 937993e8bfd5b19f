//! `why`: who wins the properties of an element, and by which step.

use anyhow::{Result, bail};
use deft_pin_core::find::{PageIndex, address};
use deft_pin_core::markup::{Document, ElementRef};
use deft_pin_core::plan::{Plan, PlannedSheets, held_on};
use deft_pin_core::site::{PageSheets, ScriptFiles, SheetFiles, page_sheets};
use deft_pin_core::source::{Decoded, Files, nearest};
use deft_pin_core::style::{
    Cascade, Outcome, Viewport, is_inherited, is_property, longhands, nearest_property,
};

use super::survey::selector;
use crate::arguments::{Common, Format, Shown, Why};
use crate::exit::Exit;
use crate::output::{self, Asked, WhyElement};
use crate::pages::Pages;

/// Execution many elements are shown unless all are asked for.
const SHOWN: usize = 4;

/// Says who wins.
pub fn run(common: &Common, command: &Why) -> Result<Exit> {
    let wanted = selector(&command.selector)?;
    if let Some(property) = command.property.as_deref().filter(|name| !is_property(name)) {
        let near = nearest_property(property).map(|near| format!("; did you mean `{near}`?"));
        bail!("there is no property `{property}`{}", near.unwrap_or_default());
    }
    let pages = Pages::open(common, &command.place)?;
    let number = pages.find(&command.page)?;
    let answer = pages.with(number, |decoded, document| {
        let page = &pages.site.pages[number];
        let sheets = page_sheets_of(&pages, number, decoded, document, &SheetFiles::default());
        let index = PageIndex::new(document);
        let found = index.matched(&wanted.list, usize::MAX);
        if found.is_empty() {
            bail!("{}", unmatched(&command.selector, &index, &wanted.list, page.path.as_str()));
        }
        let elements = found.iter().filter_map(|id| document.element(*id)).collect::<Vec<_>>();
        let shown = if command.all || command.format == Format::Json { elements.len() } else { SHOWN };
        let answer = explain(&elements, shown, command, (decoded, document), &index, &sheets);
        let asked =
            Asked { page: page.path.as_str(), file: &page.file, sheets: &sheets, total: elements.len() };
        Ok(match command.format {
            Format::Json => output::why_json(&asked, &answer)?,
            Format::Text => output::why(
                &asked,
                &answer,
                command.property.as_deref(),
                command.pseudo.as_deref(),
                decoded.text(),
            ),
        })
    })??;
    output::print(&answer);
    Ok(Exit::Good)
}

/// The sheets of a page, with those that the board's pins bring in.
pub fn page_sheets_of(
    pages: &Pages,
    number: usize,
    decoded: &Decoded,
    document: &Document,
    known: &SheetFiles,
) -> PageSheets {
    let page = &pages.site.pages[number];
    let files = (&pages.folder as &dyn Files, &pages.site);
    let placed = pages.board.as_ref().map(|board| {
        let plan = Plan::new(board, &pages.folder);
        let scripts = ScriptFiles::default();
        let (held, copies) = held_on(&plan, page, (decoded.text(), document), files, &scripts);
        PlannedSheets::new(&plan).placed(&plan, (&held, &copies), document)
    });
    page_sheets((decoded.text(), document), page, files, known, placed.unwrap_or_default())
}

/// What is known of where a page is shown.
pub fn viewport(shown: &Shown) -> Viewport {
    Viewport {
        width: shown.width,
        height: shown.height,
        medium: Some(shown.media.clone()),
        scheme: shown.scheme.clone(),
    }
}

/// Says that a selector matches nothing on a page, with the nearest name that is there.
pub fn unmatched(
    text: &str,
    index: &PageIndex<'_>,
    list: &deft_pin_core::markup::SelectorList,
    page: &str,
) -> String {
    let names = list.slice().iter().flat_map(deft_pin_core::markup::names_in);
    let known: Vec<&str> = index.ids().chain(index.classes()).collect();
    let near = names.into_iter().find_map(|name| {
        if known.contains(&name.name()) {
            return None;
        }
        nearest(name.name(), known.iter().copied()).map(str::to_owned)
    });
    let hint = near.map(|near| format!("; there is a `{near}`")).unwrap_or_default();
    format!("`{text}` matches nothing on `{page}`{hint}")
}

fn explain<'p>(
    elements: &[ElementRef<'p>],
    shown: usize,
    command: &Why,
    (decoded, document): (&Decoded, &'p Document),
    index: &PageIndex<'p>,
    sheets: &'p PageSheets,
) -> Vec<WhyElement<'p>> {
    let states = command.state.iter().map(|name| name.trim_start_matches(':').to_ascii_lowercase()).collect();
    let pseudo = command.pseudo.as_deref().map(|name| name.trim_start_matches(':').to_ascii_lowercase());
    let mut cascade = Cascade::new(document, &sheets.sheets, viewport(&command.shown), states);
    let asked: Option<Vec<String>> =
        command.property.as_deref().map(|name| longhands(name).into_iter().map(Into::into).collect());
    let lines = deft_pin_core::source::SourceText::new(decoded.text().to_owned());
    elements
        .iter()
        .take(shown)
        .map(|&element| {
            let mut outcomes = cascade.outcomes(element, pseudo.as_deref());
            if let Some(asked) = &asked {
                let is_asked = |outcome: &Outcome<'_>| {
                    let all = std::iter::once(&outcome.winner).chain(&outcome.losers).chain(&outcome.may_win);
                    asked.contains(&outcome.property)
                        || all.into_iter().any(|one| asked.contains(&one.longhand))
                };
                outcomes.retain(is_asked);
            }
            let missing = asked.iter().flatten().filter(|name| {
                is_inherited(name)
                    && pseudo.is_none()
                    && outcomes.iter().all(|outcome| outcome.property != **name)
            });
            let inherits = missing
                .filter_map(|name| {
                    let (from, outcome) = cascade.inherited_from(element, name)?;
                    let line = lines.position(from.data().start()).line;
                    Some((address(index, from), line, outcome))
                })
                .collect();
            WhyElement {
                element: address(index, element),
                line: lines.position(element.data().start()).line,
                place: lines.position(element.data().start()),
                outcomes,
                inherits,
            }
        })
        .collect()
}
