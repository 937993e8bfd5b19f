//! What several commands are asked alike: selectors, and where a page is shown.

use anyhow::{Result, bail};
use deft_pin_core::board::SelectorText;
use deft_pin_core::find::PageIndex;
use deft_pin_core::markup::{SelectorList, names_in, parse_selectors};
use deft_pin_core::source::nearest;
use deft_pin_core::style::Viewport;

use crate::arguments::Shown;

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

/// Says that a selector matches nothing on a page, with the nearest name that is there.
pub fn unmatched(text: &str, index: &PageIndex<'_>, list: &SelectorList, page: &str) -> String {
    let names = list.slice().iter().flat_map(names_in);
    let mut known: Vec<&str> = index.ids().chain(index.classes()).collect();
    known.sort_unstable();
    let near = names.into_iter().find_map(|name| {
        if known.contains(&name.name()) {
            return None;
        }
        nearest(name.name(), known.iter().copied()).map(str::to_owned)
    });
    let hint = near.map(|near| format!("; there is a `{near}`")).unwrap_or_default();
    format!("`{text}` matches nothing on `{page}`{hint}")
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
