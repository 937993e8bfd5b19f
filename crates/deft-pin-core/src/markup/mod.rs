//! HTML: bytes to a tree whose elements know where they stand in the file, the slots of a
//! document, and the matching of selectors against the tree.

mod anatomy;
mod document;
mod matching;
mod parse;
mod sink;
mod slots;

pub use anatomy::{NamedPart, key_of, names_in};
pub use document::{Attribute, Document, Element, ElementRef, Node, NodeData, NodeId, Origin};
pub use html5ever::{LocalName, Namespace, QualName, local_name, ns};
pub use matching::{
    Assume, Matcher, Name, Names, PseudoClass, PseudoElement, Selector, SelectorError, SelectorList,
    parse_selectors,
};
pub use parse::parse;
pub use slots::{Closers, Gap, Slot, Slots};
