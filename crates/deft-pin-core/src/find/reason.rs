//! What speaks for a selector, and what against it.

use std::fmt;

/// What makes a selector strong or weak.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Reason {
    /// An ID that reads as if a person had written it.
    WrittenId,
    /// A class with a meaning.
    Class,
    /// An attribute that says what the element is for.
    Attribute(String),
    /// A landmark of the page, by its kind.
    Landmark,
    /// The kind of element alone.
    Kind,
    /// The only one of its kind there.
    OnlyOfItsKind,
    /// By something inside that has a name.
    Holds,
    /// By what comes right before it.
    Neighbour,
    /// A name for a state or a measure.
    Passing(String),
    /// A name that a machine made.
    Generated(String),
    /// A place among siblings.
    Position,
    /// The whole way from the root.
    WholePath,
    /// A chain of children, of so many steps.
    Chain(usize),
}

impl Reason {
    /// Whether it speaks against the selector.
    pub fn is_weak(&self) -> bool {
        use Reason::{Chain, Generated, Neighbour, Passing, Position, WholePath};
        matches!(self, Neighbour | Passing(_) | Generated(_) | Position | WholePath | Chain(_))
    }
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Reason::WrittenId => f.write_str("an ID that somebody wrote"),
            Reason::Class => f.write_str("a class with a meaning"),
            Reason::Attribute(name) => write!(f, "what its `{name}` says"),
            Reason::Landmark => f.write_str("a landmark of the page"),
            Reason::Kind => f.write_str("its kind of element"),
            Reason::OnlyOfItsKind => f.write_str("the only one of its kind there"),
            Reason::Holds => f.write_str("something inside that has a name"),
            Reason::Neighbour => {
                f.write_str("breaks when something comes between it and what stands before it")
            }
            Reason::Passing(name) => write!(f, "`{name}` is a state or a measure, and may pass"),
            Reason::Generated(name) => write!(f, "`{name}` looks made by a machine, and may be made anew"),
            Reason::Position => f.write_str("counts siblings: breaks when one comes before it"),
            Reason::WholePath => f.write_str("the whole way from the root: breaks with any change on it"),
            Reason::Chain(steps) => write!(f, "a chain of {steps} children: breaks with any wrapper"),
        }
    }
}
