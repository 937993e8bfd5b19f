//! Whose a piece of code is, and of what kind.

use std::fmt;

use serde::Serialize;

use super::id::{LibraryId, PinId};

/// Whose a piece of code of a board is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum Owner {
    /// A library's.
    Library(LibraryId),
    /// A pin's.
    Pin(PinId),
}

impl Owner {
    /// The pin whose it is; none for a library's.
    pub fn pin(self) -> Option<PinId> {
        match self {
            Owner::Pin(pin) => Some(pin),
            Owner::Library(_) => None,
        }
    }
}

/// Where a piece of code on a page comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum Origin {
    /// The page has it by itself, as an element.
    Site,
    /// The page has it by itself, as an attribute of an element.
    Attribute,
    /// The board brings it in.
    Board(Owner),
}

impl Origin {
    /// The pin that brings it in.
    pub fn pin(self) -> Option<PinId> {
        match self {
            Origin::Board(owner) => owner.pin(),
            Origin::Site | Origin::Attribute => None,
        }
    }

    /// The library that it is of.
    pub fn library(self) -> Option<LibraryId> {
        match self {
            Origin::Board(Owner::Library(library)) => Some(library),
            _ => None,
        }
    }
}

/// What kind of code a piece is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum CodeKind {
    /// A style sheet.
    Style,
    /// A script.
    Script,
}

impl CodeKind {
    /// Both kinds.
    pub const ALL: [CodeKind; 2] = [CodeKind::Style, CodeKind::Script];

    /// What a person calls such a piece: `sheet` or `script`.
    pub fn noun(self) -> &'static str {
        match self {
            CodeKind::Style => "sheet",
            CodeKind::Script => "script",
        }
    }

    /// The extension of a file of this kind.
    pub fn extension(self) -> &'static str {
        match self {
            CodeKind::Style => "css",
            CodeKind::Script => "js",
        }
    }
}

impl fmt::Display for CodeKind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.noun())
    }
}
