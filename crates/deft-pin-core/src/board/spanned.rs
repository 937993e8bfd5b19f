//! Parts of a board with the places where they stand.

use std::fmt;
use std::ops::Deref;

use crate::markup::SelectorList;
use crate::source::Span;

/// A value of the board, and where it stands.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Spanned<T> {
    /// The value.
    pub value: T,
    /// Where it stands in the board's text.
    pub span: Span,
}

impl<T> Deref for Spanned<T> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.value
    }
}

impl fmt::Display for SelectorText {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.text)
    }
}

/// A selector of the board: its text and what it parses to.
#[derive(Clone, Debug)]
pub struct SelectorText {
    /// The selector as it was written.
    pub text: String,
    /// The selector, parsed.
    pub list: SelectorList,
}
