//! Changes to a text that leave everything else of it as it is, byte for byte.

use crate::source::Span;

/// A part of a text, and what stands there instead.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// The bytes to replace; empty to insert.
    pub span: Span,
    /// What stands there instead.
    pub text: String,
}

impl Edit {
    /// Puts something in at one place.
    pub fn insert(at: u32, text: impl Into<String>) -> Self {
        Edit { span: Span { start: at, end: at }, text: text.into() }
    }
}

/// The text with its edits, which may come in any order. Of two that overlap the earlier one holds.
pub fn apply(text: &str, mut edits: Vec<Edit>) -> String {
    edits.sort_by_key(|edit| edit.span);
    let mut out = String::with_capacity(text.len() + edits.iter().map(|edit| edit.text.len()).sum::<usize>());
    let mut done = 0;
    for edit in &edits {
        let range = edit.span.range();
        if range.start < done {
            continue;
        }
        out.push_str(text.get(done..range.start).unwrap_or_default());
        out.push_str(&edit.text);
        done = range.end;
    }
    out.push_str(text.get(done..).unwrap_or_default());
    out
}
