//! The copies of a board's libraries that a page has by itself. One that serves is used, so that no
//! second one is brought in.

use std::fmt;
use std::sync::LazyLock;

use regex::Regex;

use super::key::{Owner, PartKind};

/// Execution a copy is recognised.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Recognised {
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
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OwnCopy {
    /// The library: its place in the board's list.
    pub library: usize,
    /// Whether it is the library's sheet or its script.
    pub kind: PartKind,
    /// Execution it is recognised.
    pub by: Recognised,
    /// Its file, or its address; the page's own file for what stands in the page.
    pub file: String,
    /// The line of the page on which it is loaded.
    pub line: u32,
    /// Its version and that of the board's.
    pub versions: (Option<Version>, Option<Version>),
    /// Whether it will do: it is there in time, and no other major version is asked for.
    pub serves: bool,
}

/// What a page has by itself of what the board would bring.
#[derive(Clone, Debug, Default)]
pub struct Copies {
    /// Copies of libraries.
    pub found: Vec<OwnCopy>,
    /// Globals that the page's own scripts have defined before those of pins run.
    pub globals: Vec<String>,
}

impl Copies {
    /// Whether the page's own copy of a part of a library is used.
    pub fn serve(&self, library: usize, kind: PartKind) -> bool {
        self.found.iter().any(|copy| copy.library == library && copy.kind == kind && copy.serves)
    }
}

static VERSION: LazyLock<Option<Regex>> =
    LazyLock::new(|| Regex::new(r"(?:^|[^0-9a-zA-Z])[vV]?(\d{1,4})\.(\d{1,4})(?:\.(\d{1,5}))?").ok());

/// A version number, as far as it is written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Version(Vec<u32>);

impl Version {
    pub(super) fn in_text(text: &str) -> Option<Self> {
        let found = VERSION.as_ref()?.captures(text)?;
        let parts = found.iter().skip(1).flatten().filter_map(|part| part.as_str().parse().ok());
        Some(Version(parts.collect()))
    }

    pub(super) fn major(&self) -> Option<&u32> {
        self.0.first()
    }
}

impl fmt::Display for Version {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let parts: Vec<String> = self.0.iter().map(u32::to_string).collect();
        f.write_str(&parts.join("."))
    }
}

impl OwnCopy {
    /// Whose copy it is.
    pub fn owner(&self) -> Owner {
        Owner::Library(self.library)
    }
}
