//! Where a piece of code is.

use crate::source::FilePath;

/// Where a file of code is.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Address {
    /// A file of a folder that is read: for a page's code as seen from the site's root, for a
    /// board's as seen from the board.
    Local(FilePath),
    /// A URL that is not read: on another host, or one that carries its own data.
    Remote(String),
}

impl Address {
    /// The file or the URL, as text.
    pub fn as_str(&self) -> &str {
        match self {
            Address::Local(file) => file.as_str(),
            Address::Remote(url) => url,
        }
    }

    /// The file, where it is a local one.
    pub fn local(&self) -> Option<&FilePath> {
        match self {
            Address::Local(file) => Some(file),
            Address::Remote(_) => None,
        }
    }
}

/// Where a piece of code of a page is.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Location {
    /// The text of its element.
    Inline,
    /// A file, or another host.
    Linked(Address),
    /// An address that leads out of the site's folder, or is none: nothing is read there.
    Refused(String),
}

impl Location {
    /// The file, where it is a local one.
    pub fn local(&self) -> Option<&FilePath> {
        match self {
            Location::Linked(address) => address.local(),
            Location::Inline | Location::Refused(_) => None,
        }
    }
}
