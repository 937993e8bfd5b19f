//! What pages are written with, and what comes of it that cannot be written.

use super::output_files::OutputFiles;
use crate::markup::Slot;
use crate::plan::Plan;

/// How code is put into pages.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Embedding {
    /// As elements that link files.
    #[default]
    Linked,
    /// As elements that hold the text, wherever it can stand in the page.
    Inline,
}

/// How placements become bytes.
#[derive(Clone, Copy)]
pub struct Emitter<'a> {
    /// The plan.
    pub plan: &'a Plan<'a>,
    /// The files that go along.
    pub files: &'a OutputFiles,
    /// How code is put into pages.
    pub embedding: Embedding,
}

/// The slots that a page has no place for, so that nothing is put into it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Refused(pub Vec<Slot>);
