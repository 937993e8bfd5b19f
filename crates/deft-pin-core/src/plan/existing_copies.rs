//! The copies of a board's libraries that a page has by itself. One that serves is used, so that no
//! second one is brought in.

use std::fmt;
use std::sync::LazyLock;

use regex::Regex;
use serde::Serialize;

use crate::code::{CodeKind, LibraryId};

/// How a copy is recognised.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum RecognisedBy {
    /// By the selector that the board gives.
    Selector,
    /// By its text.
    Text,
    /// By the name of its file.
    FileName,
    /// By the globals that it defines.
    Globals,
}

/// A copy of a library that a page has by itself.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct ExistingCopy {
    /// The library.
    pub library: LibraryId,
    /// Whether it is the library's sheet or its script.
    pub kind: CodeKind,
    /// How it is recognised.
    pub by: RecognisedBy,
    /// Its file or its address; none for what stands in the page.
    pub address: Option<String>,
    /// The line of the page on which it is loaded.
    pub line: u32,
    /// Its version, where that is known.
    pub version: Option<Version>,
    /// The version of the board's, where that is known.
    pub board_version: Option<Version>,
    /// Whether it will do: it is there in time, and no other major version is asked for.
    pub serves: bool,
}

/// What a page has by itself of what the board would bring.
#[derive(Clone, Debug, Default)]
pub struct ExistingCopies {
    /// Copies of libraries.
    pub found: Vec<ExistingCopy>,
    /// Globals that the page's own scripts have defined before those of pins run.
    pub globals: Vec<String>,
}

impl ExistingCopy {
    /// Whether it is known to be another version than the board's.
    pub fn is_other_version(&self) -> bool {
        matches!((&self.version, &self.board_version), (Some(own), Some(boards)) if own != boards)
    }
}

impl ExistingCopies {
    /// Whether the page has a copy of any part of a library.
    pub fn has(&self, library: LibraryId) -> bool {
        self.found.iter().any(|copy| copy.library == library)
    }

    /// Whether the page's own copy of a part of a library is used.
    pub fn serve(&self, library: LibraryId, kind: CodeKind) -> bool {
        self.found.iter().any(|copy| copy.library == library && copy.kind == kind && copy.serves)
    }
}

static VERSION: LazyLock<Option<Regex>> =
    LazyLock::new(|| Regex::new(r"(?:^|[^0-9a-zA-Z])[vV]?(\d{1,4})\.(\d{1,4})(?:\.(\d{1,5}))?").ok());

/// A version number, as far as it is written.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Version(Vec<u32>);

impl Version {
    pub(crate) fn in_text(text: &str) -> Option<Self> {
        let found = VERSION.as_ref()?.captures(text)?;
        let parts = found.iter().skip(1).flatten().filter_map(|part| part.as_str().parse().ok());
        Some(Version(parts.collect()))
    }

    pub(crate) fn major(&self) -> Option<&u32> {
        self.0.first()
    }
}

impl fmt::Display for Version {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let parts: Vec<String> = self.0.iter().map(u32::to_string).collect();
        f.write_str(&parts.join("."))
    }
}
