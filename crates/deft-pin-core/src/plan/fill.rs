//! What came of putting the board's values into a file.

use std::collections::BTreeSet;
use std::sync::Arc;

use crate::board::{Filled, FilledKind, Placeholder};
use crate::source::{FilePath, SourceText};

/// What came of putting values into a file.
#[derive(Clone, Debug)]
pub struct Fill {
    /// What the file is.
    pub kind: FilledKind,
    /// The file.
    pub path: FilePath,
    /// Its text, as it was written.
    pub text: Arc<SourceText>,
    /// The values that were put in.
    pub used: BTreeSet<String>,
    /// Names in it that have no value.
    pub unfilled: Vec<Placeholder>,
    /// Names that stand where no value can.
    pub misplaced: Vec<Placeholder>,
}

impl Fill {
    pub(super) fn of(filled: &Filled, kind: FilledKind, path: &FilePath, text: &Arc<SourceText>) -> Self {
        Fill {
            kind,
            path: path.clone(),
            text: Arc::clone(text),
            used: filled.used.clone(),
            unfilled: filled.unfilled.clone(),
            misplaced: filled.misplaced.clone(),
        }
    }
}
