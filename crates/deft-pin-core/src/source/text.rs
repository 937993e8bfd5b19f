//! Spans of bytes in a text, and the lines and columns that people call them by.

use std::sync::{Arc, OnceLock};

use serde::Serialize;

use super::files::FilePath;

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
#[derive(Clone, Debug, Default)]
pub struct SourceText {
    text: String,
    lines: OnceLock<LineIndex>,
    /// Where the text is made of several files: its fragments, in order.
    fragments: Vec<Fragment>,
}

/// A fragment of a text that is made of several files.
#[derive(Clone, Debug)]
pub struct Fragment {
    /// Where it begins in the whole.
    pub at: u32,
    /// The file that it is from.
    pub file: FilePath,
    /// All of that file.
    pub own: Arc<SourceText>,
    /// Where it begins there.
    pub from: u32,
}

impl Fragment {
    /// The place in the fragment's own text that a place of the whole is.
    fn place(&self, at: u32) -> u32 {
        (at.saturating_sub(self.at) + self.from).min(offset(self.own.as_str().len()))
    }
}

impl SourceText {
    /// Takes a text over.
    pub fn new(text: String) -> Self {
        SourceText { text, lines: OnceLock::new(), fragments: Vec::new() }
    }

    /// Takes a text over that is made of fragments of files. Its lines and columns are theirs.
    pub fn assembled(text: String, fragments: Vec<Fragment>) -> Self {
        SourceText { text, lines: OnceLock::new(), fragments }
    }

    /// A text with other pieces in the place of some of its own, given in order. Its lines and columns stay those of
    /// the text; a piece that is put in is where it is put.
    pub fn replaced(
        file: &FilePath,
        own: &Arc<SourceText>,
        pieces: impl IntoIterator<Item = (Span, String)>,
    ) -> Self {
        let mut text = String::with_capacity(own.text.len());
        let mut fragments = Vec::new();
        let mut part = |from: u32, piece: &str| {
            let at = offset(text.len());
            fragments.push(Fragment { at, file: file.clone(), own: Arc::clone(own), from });
            text.push_str(piece);
        };
        let mut done = 0;
        for (span, piece) in pieces {
            part(done, own.slice(Span { start: done, end: span.start }));
            part(span.start, &piece);
            done = span.end;
        }
        part(done, own.slice(Span { start: done, end: offset(own.text.len()) }));
        SourceText::assembled(text, fragments)
    }

    fn fragment(&self, at: u32) -> Option<&Fragment> {
        let after = self.fragments.partition_point(|fragment| fragment.at <= at);
        self.fragments[..after].last()
    }

    /// In a text that is made of several files, the one that a place is from.
    pub fn file(&self, at: u32) -> Option<&FilePath> {
        let fragment = self.fragment(at)?;
        // A fragment's own text may be made of several files as well.
        fragment.own.file(fragment.place(at)).or(Some(&fragment.file))
    }

    /// In a text that is made of several files, the parts behind the first that a span goes over.
    pub fn parts_in(&self, span: Span) -> Vec<Span> {
        let first = self.fragments.partition_point(|fragment| fragment.at <= span.start);
        let inner = self.fragments[first..].iter().take_while(|fragment| fragment.at < span.end).take(20);
        let starts: Vec<u32> = inner.map(|fragment| fragment.at).collect();
        let ends = starts.iter().skip(1).copied().chain([span.end]);
        starts.iter().copied().zip(ends).map(|(start, end)| Span { start, end }).collect()
    }

    /// A span as one of the file that it is from.
    pub fn own_span(&self, span: Span) -> Span {
        match self.fragment(span.start) {
            Some(fragment) => fragment.own.own_span(self.span_in(fragment, span)),
            None => Span { start: span.start, end: span.end.max(span.start) },
        }
    }

    /// A span as one of the text that the fragment is from where it begins. Where it ends in another piece of the
    /// same text, it ends there, and not behind what is written in that piece's stead.
    fn span_in(&self, first: &Fragment, span: Span) -> Span {
        let start = first.place(span.start);
        let end = span.end.max(span.start);
        let after = self.fragments.partition_point(|fragment| fragment.at < end);
        let is_same = |other: &&Fragment| Arc::ptr_eq(&other.own, &first.own) && other.from >= first.from;
        let last = self.fragments[..after].last().filter(is_same).unwrap_or(first);
        let most = self.fragments.get(after).filter(is_same).map_or(u32::MAX, |next| next.from);
        Span { start, end: last.place(end).min(most).max(start) }
    }

    /// The whole text.
    pub fn as_str(&self) -> &str {
        &self.text
    }

    /// The part of the text that a span covers; nothing where the span does not fit.
    pub fn slice(&self, span: Span) -> &str {
        self.text.get(span.range()).unwrap_or_default()
    }

    /// The part of the text that a span covers, as it was written: without what was put in for it.
    pub fn written(&self, span: Span) -> &str {
        let first = self.fragment(span.start);
        let after = self.fragments.partition_point(|fragment| fragment.at < span.end.max(span.start));
        let last = self.fragments[..after].last();
        match (first, last) {
            (Some(first), Some(last)) if Arc::ptr_eq(&first.own, &last.own) => {
                let own = self.span_in(first, span);
                // What is put in from elsewhere is shown as it is.
                let is_same = |fragment: &Fragment| Arc::ptr_eq(&fragment.own, &first.own);
                let begins = self.fragments.partition_point(|fragment| fragment.at <= span.start);
                match self.fragments[begins.min(after)..after].iter().all(is_same) {
                    true => first.own.written(own),
                    false => self.slice(span),
                }
            }
            _ => self.slice(span),
        }
    }

    /// The lines and columns where a span begins and ends, in the file that its beginning is from.
    pub fn positions(&self, span: Span) -> (Position, Position) {
        match self.fragment(span.start) {
            Some(fragment) => fragment.own.positions(self.span_in(fragment, span)),
            None => {
                let start = self.position(span.start);
                (start, self.position(span.end).max(start))
            }
        }
    }

    /// The line and column of a byte offset.
    pub fn position(&self, at: u32) -> Position {
        if let Some(fragment) = self.fragment(at) {
            return fragment.own.position(fragment.place(at));
        }
        self.lines.get_or_init(|| LineIndex::new(&self.text)).position(&self.text, at)
    }
}

/// Where the lines of a text start, and how many characters stand before each stretch of it.
#[derive(Clone, Debug)]
pub struct LineIndex {
    starts: Vec<u32>,
    /// The characters before each [`STRETCH`] bytes; none where every byte is a character.
    characters: Vec<u32>,
}

/// How many bytes are counted at once.
const STRETCH: usize = 1024;

impl LineIndex {
    /// Finds the lines of a text: they start after LF, after CR LF, and after a CR alone.
    pub fn new(text: &str) -> Self {
        let bytes = text.as_bytes();
        let mut starts = vec![0];
        for at in memchr::memchr2_iter(b'\n', b'\r', bytes) {
            if bytes[at] == b'\n' || bytes.get(at + 1) != Some(&b'\n') {
                starts.push(offset(at + 1));
            }
        }
        let mut before = 0;
        let counted = |stretch: &[u8]| {
            let characters = before;
            before += offset(count(stretch));
            characters
        };
        let characters =
            if text.is_ascii() { Vec::new() } else { bytes.chunks(STRETCH).map(counted).collect() };
        LineIndex { starts, characters }
    }

    /// The line and column of a byte offset of that text.
    pub fn position(&self, text: &str, at: u32) -> Position {
        let line = self.starts.partition_point(|&start| start <= at).max(1);
        let start = self.starts[line - 1] as usize;
        let at = text.floor_char_boundary(at as usize);
        let before = self.characters_before(text, at) - self.characters_before(text, start);
        Position { line: offset(line), column: offset(before + 1) }
    }

    fn characters_before(&self, text: &str, at: usize) -> usize {
        match self.characters.get(at / STRETCH) {
            Some(before) => *before as usize + count(&text.as_bytes()[at - at % STRETCH..at]),
            // At the end of a text that fills its stretches, or with a character in every byte.
            None if !self.characters.is_empty() => text.chars().count(),
            None => at,
        }
    }
}

/// How many characters begin in some bytes of UTF-8.
fn count(bytes: &[u8]) -> usize {
    bytes.iter().filter(|byte| **byte & 0xc0 != 0x80).count()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn positions_count_characters_and_every_kind_of_line_end() {
        let text = SourceText::new("a\r\nbé\rc\nd".to_owned());
        for (at, line, column) in [(0, 1, 1), (1, 1, 2), (3, 2, 1), (6, 2, 3), (7, 3, 1), (9, 4, 1)] {
            assert_eq!(text.position(at), Position { line, column }, "at byte {at}");
        }
        // Of several files, a span is one of the file that it begins in.
        let own = |text: &str| Arc::new(SourceText::new(text.to_owned()));
        let piece = |at, name: &str, text: &str, from| Fragment {
            at,
            file: FilePath::parse(name).unwrap(),
            own: own(text),
            from,
        };
        let whole = SourceText::assembled(
            "p{} q{}\nr{}".to_owned(),
            vec![
                piece(0, "a.css", "p{} @import 'b';\nr{}", 0),
                piece(4, "b.css", "q{}", 0),
                piece(7, "a.css", "p{} @import 'b';\nr{}", 16),
            ],
        );
        for (start, end) in [(0, 3), (0, 11), (4, 11), (5, 8), (8, 11), (3, 2)] {
            let (from, to) = whole.positions(Span { start, end });
            assert!(from <= to, "{start} to {end}: {from:?} to {to:?}");
        }
        // Over the stretches that are counted at once, in one line and in many.
        for unit in ["é", "ab\n", "aé\nẞb\r\n", "x"] {
            let text = unit.repeat(STRETCH);
            let index = LineIndex::new(&text);
            let (mut line, mut column) = (1, 1);
            for (at, character) in text.char_indices() {
                assert_eq!(index.position(&text, offset(at)), Position { line, column }, "{unit:?} at {at}");
                (line, column) = if character == '\n' { (line + 1, 1) } else { (line, column + 1) };
            }
            assert_eq!(index.position(&text, offset(text.len())), Position { line, column }, "{unit:?}");
        }
    }
}
