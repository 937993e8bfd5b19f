//! Which part of a plan: whose, of what kind, and which one.

/// Whose a piece of code is: a place in the board's lists.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Owner {
    /// A library.
    Library(usize),
    /// A pin.
    Pin(usize),
}

/// A sheet or a script.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PartKind {
    /// A style sheet.
    Style,
    /// A script.
    Script,
}

/// Which part of the plan: the sheets and scripts of one owner are counted from 0.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PartKey {
    /// Whose it is.
    pub owner: Owner,
    /// A sheet or a script.
    pub kind: PartKind,
    /// Which of the owner's sheets or scripts.
    pub index: usize,
}
