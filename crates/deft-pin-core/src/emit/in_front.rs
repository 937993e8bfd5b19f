//! Something of our own put in front of everything that a page loads.

use crate::markup::Slot;
use crate::site::{Page, ParsedPage};

/// The bytes of a page with an element right at the start of its head, and every other byte as it was; none where the
/// page has no such place.
pub fn put_in_front(page: &Page, bytes: &[u8], element: &str) -> Option<Vec<u8>> {
    let parsed = ParsedPage::new(page, bytes);
    let gap = parsed.document.slots().gap(Slot::HeadStart)?;
    let at = parsed.decoded.origin(gap.at) as usize;
    let element = parsed.decoded.encode(element)?;
    let closers = parsed.decoded.encode(&gap.closers.0)?;
    let (before, behind) = bytes.split_at_checked(at)?;
    Some([before, &closers, &element, behind].concat())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::FilePath;

    #[test]
    fn the_element_is_the_first_of_the_head() {
        let page = Page::new(FilePath::parse("index.html").unwrap());
        for (html, expected) in [
            ("<!doctype html><html><head><title>x</title>", "<!doctype html><html><head><i><title>x</title>"),
            ("<!doctype html><title>x</title>", "<!doctype html><i><title>x</title>"),
            ("<!-- a --><p>x", "<!-- a --><i><p>x"),
            ("", "<i>"),
        ] {
            let made = put_in_front(&page, html.as_bytes(), "<i>").unwrap();
            assert_eq!(String::from_utf8(made).unwrap(), expected);
        }
        let utf16: Vec<u8> = "\u{feff}<head>x".encode_utf16().flat_map(u16::to_le_bytes).collect();
        let made = put_in_front(&page, &utf16, "<i>").unwrap();
        assert_eq!(made.len(), utf16.len() + 6);
    }
}
