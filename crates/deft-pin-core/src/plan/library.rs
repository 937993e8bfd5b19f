//! The board's libraries and pins with their files.

use super::file_text::FileText;
use super::fill::Fill;
use super::markup::PlannedMarkup;
use super::pin_style::PinStyle;
use crate::code::CodeKind;
use crate::markup::{NamedPart, names_in};
use crate::script::{ScriptFacts, ScriptFile, ScriptKind};
use crate::source::Span;
use crate::start::Beginning;

/// A file of a library.
#[derive(Debug)]
pub enum LibraryFile {
    /// One beside the board.
    Read(FileText),
    /// One on another host, by its URL.
    Remote(String),
    /// One that could not be read; it is told as a problem.
    Missing,
}

impl LibraryFile {
    /// The file, where it is one beside the board.
    pub fn read(&self) -> Option<&FileText> {
        match self {
            LibraryFile::Read(file) => Some(file),
            LibraryFile::Remote(_) | LibraryFile::Missing => None,
        }
    }
}

/// A library with its files.
#[derive(Debug)]
pub struct PlannedLibrary {
    /// Its sheets, in order.
    pub styles: Vec<LibraryFile>,
    /// Its scripts, in order.
    pub scripts: Vec<LibraryFile>,
}

impl PlannedLibrary {
    /// Its files of a kind, in order.
    pub fn files(&self, kind: CodeKind) -> &[LibraryFile] {
        match kind {
            CodeKind::Style => &self.styles,
            CodeKind::Script => &self.scripts,
        }
    }

    /// Whether all of its files could be read here.
    pub fn is_known(&self) -> bool {
        self.scripts.iter().chain(&self.styles).all(|file| matches!(file, LibraryFile::Read(_)))
    }

    /// The facts of its scripts, as far as they are beside the board, each with its number.
    pub fn script_facts(&self) -> impl Iterator<Item = (u32, &ScriptFacts)> {
        let read = (0..).zip(&self.scripts).filter_map(|(number, file)| Some((number, file.read()?)));
        read.filter_map(|(number, file)| Some((number, file.script.as_ref()?.facts(ScriptKind::Classic))))
    }
}

/// A pin with its files.
#[derive(Debug, Default)]
pub struct PlannedPin {
    /// Its sheet.
    pub style: Option<PinStyle>,
    /// Its script; where it puts in markup later, one that does that.
    pub script: Option<FileText>,
    /// Its markup, in order.
    pub markup: Vec<PlannedMarkup>,
    /// What it waits for; none where it begins as the page is read.
    pub beginning: Option<Beginning>,
    /// What came of putting values into its files.
    pub fills: Vec<Fill>,
}

impl PlannedPin {
    /// Its script, with what is known of it.
    pub fn script_file(&self) -> Option<&ScriptFile> {
        self.script.as_ref()?.script.as_deref()
    }

    /// The facts of its script, as it runs in its frame.
    pub fn script_facts(&self) -> Option<&ScriptFacts> {
        self.script_file().map(|script| script.facts(ScriptKind::Confined))
    }

    /// The classes and IDs that its script adds and its sheet says the look of, each with the place
    /// in the script.
    pub fn added_and_styled(&self) -> Vec<(NamedPart, Span)> {
        let Some(facts) = self.script_facts() else { return Vec::new() };
        let selectors = self.style.iter().flat_map(|style| style.selectors());
        let mut styled: Vec<NamedPart> = selectors.flat_map(|selector| names_in(&selector.written)).collect();
        styled.sort();
        styled.dedup();
        let span_of = |name: &NamedPart| {
            let is_id = matches!(name, NamedPart::Id(_));
            let is_tag = matches!(name, NamedPart::Tag(_));
            let added = facts.adds.iter().find(|added| added.is_id == is_id && added.name == name.name());
            added.filter(|_| !is_tag).map(|added| added.span)
        };
        styled.into_iter().filter_map(|name| span_of(&name).map(|span| (name, span))).collect()
    }
}
