//! What keeps a board from being carried out as it stands.

use crate::code::{Owner, PinId};
use crate::source::{FileError, FilePath, Span};

/// Something that the plan had to leave out or could not put in order.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Problem {
    /// A file that the board names cannot be read.
    Missing {
        /// Who needs it.
        owner: Owner,
        /// Where the board names it.
        place: Span,
        /// The file.
        path: FilePath,
        /// Why it cannot be read.
        error: FileError,
        /// A file there is, of nearly that name.
        nearest: Option<FilePath>,
    },
    /// A file that the board names is not in UTF-8.
    NotUtf8 {
        /// Who needs it.
        owner: Owner,
        /// Where the board names it.
        place: Span,
        /// The file.
        path: FilePath,
        /// The first byte that is not.
        at: usize,
    },
    /// A sheet loads a file that cannot be read.
    MissingUrl {
        /// Whose sheet it is.
        owner: Owner,
        /// The sheet.
        file: FilePath,
        /// Where in the sheet.
        place: Span,
        /// The file that it loads.
        path: FilePath,
        /// Why it cannot be read.
        error: FileError,
    },
    /// A sheet loads something from outside of the board's folder.
    OutsideUrl {
        /// Whose sheet it is.
        owner: Owner,
        /// The sheet.
        file: FilePath,
        /// Where in the sheet.
        place: Span,
        /// The address.
        url: String,
    },
    /// Files that lie beside a script which puts their address together: they do not go along.
    LeftBehind {
        /// Whose script it is.
        owner: Owner,
        /// The script.
        file: FilePath,
        /// Where in it.
        place: Span,
        /// The files that may be meant, as seen from the board.
        meant: Vec<FilePath>,
    },
    /// Libraries that need each other, or pins that each come after another, in a circle.
    Cycle {
        /// All of the circle, each needing the next and the last the first, with the place where
        /// the board says so.
        circle: Vec<(Owner, Span)>,
    },
    /// A pin's script stands in an earlier slot than the script that it has to come after.
    EarlySlot {
        /// The pin.
        pin: PinId,
        /// The pin that it has to come after.
        after: PinId,
        /// Where the board says so.
        place: Span,
    },
}
