//! A text file that a board names, read.

use std::sync::Arc;

use super::assets::LocalUrl;
use crate::script::ScriptFile;
use crate::source::{FilePath, SourceText, Span};

/// A text file that the board names.
#[derive(Debug)]
pub struct FileText {
    /// The file, as seen from the board.
    pub path: FilePath,
    /// Where the board names it.
    pub place: Span,
    /// Its text, without a byte order mark.
    pub text: SourceText,
    /// The addresses in it that mean files beside the board.
    pub urls: Vec<LocalUrl>,
    /// Files that may be meant by what a script puts together, and that do not go along for that.
    pub left_behind: Vec<FilePath>,
    /// For a script, what is known of it.
    pub script: Option<Arc<ScriptFile>>,
}

impl FileText {
    pub(super) fn new(path: FilePath, place: Span, text: SourceText) -> Self {
        FileText { path, place, text, urls: Vec::new(), left_behind: Vec::new(), script: None }
    }

    pub(super) fn with_script(self, script: Option<Arc<ScriptFile>>) -> Self {
        FileText { script, ..self }
    }
}
