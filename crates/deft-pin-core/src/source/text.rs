//! Spans of bytes in a text, and the lines and columns that people call them by.

use std::sync::OnceLock;

use serde::Serialize;

/// A range of bytes in a text, end excluded. Texts are at most 4 GiB long.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Span {
    /// The first byte.
    pub start: u32,
    /// The byte after the last.
    pub end: u32,
}

impl Span {
    /// A span from two byte offsets.
    pub fn new(start: usize, end: usize) -> Self {
        Span { start: offset(start), end: offset(end) }
    }

    /// An empty span at one byte offset.
    pub fn at(position: usize) -> Self {
        Span::new(position, position)
    }

    /// The span as a range that slices a string.
    pub fn range(self) -> std::ops::Range<usize> {
        self.start as usize..self.end as usize
    }

    /// This span moved by a number of bytes: what a part of a text is within the whole.
    pub fn shifted(self, by: usize) -> Self {
        Span::new(self.start as usize + by, self.end as usize + by)
    }
}

/// A byte offset, held in four bytes. Texts over 4 GiB are refused before they get here; an
/// offset that is too large all the same stays at the largest, and never wraps.
pub(crate) fn offset(value: usize) -> u32 {
    u32::try_from(value).unwrap_or(u32::MAX)
}

/// A place in a text as people count: lines and columns from 1, columns in characters.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Position {
    /// The line, from 1.
    pub line: u32,
    /// The column in characters, from 1.
    pub column: u32,
}

/// A text that can say on which line each of its bytes stands. The lines are counted at the
/// first question.
#[derive(Debug, Default)]
pub struct SourceText {
    text: String,
    line_starts: OnceLock<Vec<u32>>,
}

impl SourceText {
    /// Takes a text over.
    pub fn new(text: String) -> Self {
        SourceText { text, line_starts: OnceLock::new() }
    }

    /// The whole text.
    pub fn as_str(&self) -> &str {
        &self.text
    }

    /// The part of the text that a span covers; nothing where the span does not fit.
    pub fn slice(&self, span: Span) -> &str {
        self.text.get(span.range()).unwrap_or_default()
    }

    /// The line and column of a byte offset.
    pub fn position(&self, at: u32) -> Position {
        let starts = self.line_starts.get_or_init(|| line_starts(&self.text));
        position_among(starts, &self.text, at)
    }
}

/// The line and column of one byte offset of a text that nobody will ask again.
pub(crate) fn position_in(text: &str, at: u32) -> Position {
    let mut end = (at as usize).min(text.len());
    while !text.is_char_boundary(end) {
        end -= 1;
    }
    let starts = line_starts(&text[..end]);
    position_among(&starts, text, offset(end))
}

fn position_among(starts: &[u32], text: &str, at: u32) -> Position {
    let line = starts.partition_point(|&start| start <= at).max(1);
    let start = starts[line - 1] as usize;
    let before = text.get(start..at as usize).unwrap_or_default();
    Position { line: offset(line), column: offset(before.chars().count() + 1) }
}

/// Where lines start: after LF, after CR LF, and after a CR alone.
fn line_starts(text: &str) -> Vec<u32> {
    let bytes = text.as_bytes();
    let mut starts = vec![0];
    for at in memchr::memchr2_iter(b'\n', b'\r', bytes) {
        if bytes[at] == b'\n' || bytes.get(at + 1) != Some(&b'\n') {
            starts.push(offset(at + 1));
        }
    }
    starts
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn positions_count_characters_and_every_kind_of_line_end() {
        let text = SourceText::new("a\r\nbé\rc\nd".to_owned());
        for (at, line, column) in [(0, 1, 1), (1, 1, 2), (3, 2, 1), (6, 2, 3), (7, 3, 1), (9, 4, 1)] {
            assert_eq!(text.position(at), Position { line, column }, "at byte {at}");
            assert_eq!(position_in(text.as_str(), at), Position { line, column }, "at byte {at}");
        }
    }
}
