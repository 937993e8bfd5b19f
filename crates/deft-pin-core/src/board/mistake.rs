//! What is wrong with a board.

use crate::source::Span;

/// A mistake in a board, where it stands, and what to do about it.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Mistake {
    /// The part of the board that is wrong.
    pub span: Span,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: Option<String>,
}

impl Mistake {
    pub(super) fn new(span: Span, message: impl Into<String>) -> Self {
        Mistake { span, message: message.into(), help: None }
    }

    pub(super) fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }
}
