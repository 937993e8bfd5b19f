//! What stands in markup of the board for the address of a file beside it, until it is known where the file goes.

use super::resolve::encode_segment;
use crate::source::FilePath;

/// How each of them begins, and how it ends. No address of a page looks like that.
const BEGINNING: &str = "deft-pin-beside:";
const END: char = '|';

/// What stands for the address of a file. It can stand in an attribute, in a sheet and in a script.
pub fn beside_mark(path: &FilePath) -> String {
    format!("{BEGINNING}{}{END}", encode_segment(path.as_str()))
}

/// Whether something stands in a text for an address.
pub fn has_beside_marks(text: &str) -> bool {
    text.contains(BEGINNING)
}

/// The places in a text where something stands for an address, each with the file.
pub fn beside_marks_in(text: &str) -> impl Iterator<Item = (std::ops::Range<usize>, FilePath)> {
    text.match_indices(BEGINNING).filter_map(|(start, _)| {
        let inner = start + BEGINNING.len();
        let length = text[inner..].find(END)?;
        let path = percent_encoding::percent_decode_str(&text[inner..inner + length]).decode_utf8().ok()?;
        Some((start..inner + length + END.len_utf8(), FilePath::parse(&path).ok()?))
    })
}

/// A text with the addresses of files in the place of what stands for them.
pub fn with_addresses(text: &str, address: &dyn Fn(&FilePath) -> Option<String>) -> String {
    let mut out = String::with_capacity(text.len());
    let mut done = 0;
    for (range, path) in beside_marks_in(text) {
        out.push_str(&text[done..range.start]);
        out.push_str(&address(&path).unwrap_or_default());
        done = range.end;
    }
    out.push_str(&text[done..]);
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_stands_for_an_address_is_found_again() {
        let path = FilePath::parse("pins/a b|ü.png").unwrap();
        let text = format!("<img src={}#x> {}", beside_mark(&path), beside_mark(&path));
        assert!(has_beside_marks(&text));
        assert_eq!(beside_marks_in(&text).filter(|(_, found)| *found == path).count(), 2);
        let written = with_addresses(&text, &|path| Some(path.name().len().to_string()));
        assert_eq!(written, "<img src=10#x> 10");
    }
}
