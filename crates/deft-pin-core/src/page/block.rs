//! Where a block of the host stands in a page.

use html5ever::local_name;

use crate::markup::{Assume, Closers, Document, ElementRef, Gap, Matcher, SelectorList};

/// The gap in a page's text for a block: the end of the element that the board names, or else of `main`, or of the
/// body. None where the page has no such place.
pub(super) fn block_gap(document: &Document, text: &str, named: Option<&SelectorList>) -> Option<Gap> {
    let mut matcher = Matcher::new();
    let element: ElementRef<'_> = match named {
        Some(list) => document.elements().find(|element| matcher.matches_any(list, *element, Assume::May))?,
        None => document
            .elements()
            .find(|element| element.is_html(&local_name!("main")))
            .or_else(|| document.body())?,
    };
    let end = document.end_of(element, text)?;
    Some(Gap { at: end.inner, closers: Closers(end.closers), opens_body: false })
}
