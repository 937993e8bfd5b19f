//! What is written into a page's bytes, in the order in which it has to stand.

use crate::markup::Growth;
use crate::site::{ParsedPage, ServedRow, ServedText};
use crate::source::{Span, unshifted};

/// In which order several things stand that are written at one place: first what ends something, from the inside out,
/// then what begins something, from the outside in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Rank(i64);

/// Deeper than anything is.
const DEEP: i64 = 1 << 20;

impl Rank {
    /// In a tag, nothing else is.
    pub(super) const TAG: Rank = Rank(0);

    fn ending(depth: usize, turn: i64) -> Rank {
        Rank((DEEP - depth as i64) * 4 + turn - 8 * DEEP)
    }

    fn beginning(depth: usize, turn: i64) -> Rank {
        Rank(depth as i64 * 4 + turn + DEEP)
    }

    pub(super) fn append(depth: usize) -> Rank {
        Rank::ending(depth, 0)
    }

    pub(super) fn wrapped(depth: usize) -> Rank {
        Rank::ending(depth, 1)
    }

    pub(super) fn after(depth: usize) -> Rank {
        Rank::ending(depth, 2)
    }

    pub(super) fn before(depth: usize) -> Rank {
        Rank::beginning(depth, 0)
    }

    pub(super) fn wrap(depth: usize) -> Rank {
        Rank::beginning(depth, 1)
    }

    pub(super) fn prepend(depth: usize) -> Rank {
        Rank::beginning(depth, 2)
    }

    /// Behind what is put first in an element that has nothing in it.
    pub(super) fn append_to_nothing(depth: usize) -> Rank {
        Rank::beginning(depth, 3)
    }
}

/// What is written into a page.
#[derive(Clone, Debug, Default)]
pub(super) struct Edits {
    all: Vec<Edit>,
    /// The piece whose edits are being noted.
    pub(super) put: Option<usize>,
    /// Whether something is replaced, so that the text does not only grow.
    replaces: bool,
}

/// Something that is written at one place.
#[derive(Clone, Debug)]
struct Edit {
    /// What it stands in the stead of.
    span: Span,
    rank: Rank,
    /// End tags for what has to be over before, unless they have been written there.
    closers: String,
    text: String,
    /// The piece that it is for.
    put: Option<usize>,
}

/// A page's bytes with everything in them.
#[derive(Debug)]
pub(super) struct Written {
    pub(super) bytes: Vec<u8>,
    /// How its text goes with the one that is served.
    pub(super) served: ServedText,
    /// Where each piece begins in its text.
    pub(super) places: Vec<(usize, u32)>,
    /// Whether nothing was taken away.
    pub(super) only_grows: bool,
}

impl Written {
    /// What was written where, in the order of the text that is served.
    pub(super) fn growths(&self) -> Vec<Growth> {
        let pairs = self.served.rows.windows(2);
        let new = pairs.filter(|pair| pair[0].is_new);
        new.map(|pair| Growth { at: pair[0].served, by: pair[1].at - pair[0].at }).collect()
    }
}

impl Edits {
    pub(super) fn insert(&mut self, at: u32, rank: Rank, text: String) {
        self.insert_behind(at, rank, String::new(), text);
    }

    /// The same where something has to be over first.
    pub(super) fn insert_behind(&mut self, at: u32, rank: Rank, closers: String, text: String) {
        self.all.push(Edit { span: Span { start: at, end: at }, rank, closers, text, put: self.put });
    }

    pub(super) fn replace(&mut self, span: Span, text: String) {
        self.replace_behind(span, String::new(), text);
    }

    /// The same where something has to be over first.
    pub(super) fn replace_behind(&mut self, span: Span, closers: String, text: String) {
        self.replaces = true;
        self.all.push(Edit { span, rank: Rank::beginning(0, 0), closers, text, put: self.put });
    }

    /// The page with everything in it; none where nothing is written.
    pub(super) fn write(mut self, parsed: &ParsedPage<'_>) -> Option<Written> {
        if self.all.is_empty() {
            return None;
        }
        // What stands at one place keeps the order of the board.
        self.all.sort_by_key(|edit| (edit.span.start, edit.rank));
        let (text, bytes, decoded) = (parsed.text(), &*parsed.bytes, &parsed.decoded);
        let mut out: Vec<u8> = Vec::with_capacity(bytes.len() + 1024);
        let mut served =
            ServedText { text: text.to_owned(), rows: vec![ServedRow { at: 0, served: 0, is_new: false }] };
        let (mut done, mut done_bytes, mut length) = (0, 0, 0);
        let mut closed: Option<(u32, &str)> = None;
        let mut places = Vec::new();
        for Edit { span, closers, text: insertion, put, .. } in &self.all {
            // In the midst of what is replaced nothing is put in.
            if span.start < done {
                continue;
            }
            let at = decoded.origin(span.start) as usize;
            out.extend_from_slice(bytes.get(done_bytes..at)?);
            length += span.start - done;
            let is_closed = closed == Some((span.start, closers.as_str()));
            if !closers.is_empty() {
                closed = Some((span.start, closers));
            }
            let whole = if is_closed { insertion.clone() } else { format!("{closers}{insertion}") };
            let (encoded, characters) = encoded(decoded, &whole);
            served.rows.push(ServedRow { at: length, served: span.start, is_new: true });
            places.extend(put.map(|put| (put, length)));
            let encoded = match decoded.encoding() == encoding_rs::ISO_2022_JP {
                true => unshifted(encoded, bytes, at),
                false => encoded,
            };
            out.extend_from_slice(&encoded);
            length += characters;
            served.rows.push(ServedRow { at: length, served: span.end, is_new: false });
            (done, done_bytes) = (span.end, decoded.origin(span.end) as usize);
        }
        out.extend_from_slice(bytes.get(done_bytes..)?);
        Some(Written { bytes: out, served, places, only_grows: !self.replaces })
    }
}

/// A text in a page's encoding, and how long it is when it is read again. What the encoding has no bytes for becomes a
/// character reference.
fn encoded(decoded: &crate::source::Decoded<'_>, text: &str) -> (Vec<u8>, u32) {
    let length = |text: &str| Span::at(text.len()).start;
    if let Some(bytes) = decoded.encode(text) {
        return (bytes.into_owned(), length(text));
    }
    let mut written = String::new();
    for c in text.chars() {
        match decoded.encode(c.encode_utf8(&mut [0; 4])) {
            Some(_) => written.push(c),
            None => written.push_str(&format!("&#{};", c as u32)),
        }
    }
    let bytes = decoded.encode(&written).map(|bytes| bytes.into_owned()).unwrap_or_default();
    (bytes, length(&written))
}
