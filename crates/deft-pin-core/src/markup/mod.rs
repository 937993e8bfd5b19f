//! HTML: bytes to a tree whose elements know where they stand in the file, the slots of a
//! document, and the matching of selectors against the tree.

mod anatomy;
mod ancestor_filter;
mod at_rest;
mod directionality;
mod document;
mod editing;
mod excess;
mod fragment;
mod links;
mod markup_flaws;
mod matching;
mod misread;
mod namespaces;
mod parse;
mod places;
mod pseudo_names;
mod reading;
mod selector;
mod selector_flaws;
mod selector_index;
mod shadow;
mod sink;
mod slots;
mod sought;
mod splice;
mod tags;

pub use anatomy::{NamedPart, addresses_in, attributes_in, key_of, names_in};
pub(crate) use anatomy::{asks_for_scope, is_beside_elements, parent_uses, selectors_in};
pub use ancestor_filter::{AncestorFilter, AskedAncestors};
pub use directionality::Direction;
pub use document::{Attribute, Document, Element, ElementRef, Node, NodeData, NodeId, Origin};
pub use excess::excess;
pub(crate) use fragment::{BEFORE_FRAGMENT, parse_fragment, parse_within};
pub use html5ever::{LocalName, Namespace, QualName, local_name, ns};
pub use markup_flaws::{MarkupFlaw, markup_flaws};
pub use matching::{Matcher, State};
pub use namespaces::Namespaces;
pub use parse::{is_void, parse};
pub use places::{ElementEnd, MarkupPlace};
pub(crate) use reading::is_supported_selector;
pub use reading::{
    SelectorPlace, asked_selectors, parse_nested_selectors, parse_scoped_selectors, parse_selectors,
};
pub use selector::{Assume, AttrValue, Name, Names, PseudoClass, PseudoElement, Selector, SelectorList};
pub use selector_flaws::SelectorError;
pub use selector_index::SelectorIndex;
pub use slots::{Closers, Gap, InsertionPoint, Slot, Slots};
pub(crate) use sought::Sought;
pub use splice::{Growth, PlainFragment, Splice};
pub use tags::{MarkupPiece, TagAttribute, markup_pieces, tag_attributes};
