//! Which piece of the board's code: whose, of what kind, and which one of several.

use serde::Serialize;

use crate::code::{CodeKind, Owner};

/// A sheet or a script of a board.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct CodeKey {
    /// Whose it is.
    pub owner: Owner,
    /// A sheet or a script.
    pub kind: CodeKind,
    /// Which of the owner's sheets or scripts, counted from 0.
    pub number: u32,
}
