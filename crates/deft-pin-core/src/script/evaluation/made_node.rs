//! Nodes that a script makes.

use std::ops::Deref;
use std::rc::Rc;
use std::sync::Arc;

use super::platform::Interface;

use crate::markup::{Document, LocalName, NodeId};

/// The name of what is no element and holds some.
pub(super) const FRAGMENT: &str = "#document-fragment";

/// The name of the top of a tree in the shadow of an element.
pub(super) const SHADOW: &str = "#shadow-root";

/// The name of a document that the script reads from a text.
pub(super) const READ: &str = "#document";

/// A node that the script makes.
#[derive(Clone, Debug)]
pub(super) struct MadeNode {
    /// The name of its tag.
    pub(super) tag: Arc<str>,
    /// What is in it.
    pub(super) contents: Contents,
    /// The number of the copy, or of the piece of markup, that it stands in.
    pub(super) copy: u32,
    /// How often names had been given when it came to have its contents.
    pub(super) givings: u32,
    /// Whether there was nothing in it when it was made.
    pub(super) is_bare: bool,
    /// The interface of one of SVG or MathML.
    pub(super) drawing: Option<Interface>,
}

/// What is in a node that the script makes.
#[derive(Clone, Debug)]
pub(super) enum Contents {
    /// What the script puts in, of which the names alone are known.
    Own,
    /// What is in an element of the page as it is served, or in a template's fragment.
    CopyOf(NodeId),
    /// What is in an element of markup of the script.
    Parsed(Rc<Document>, NodeId),
    /// That cannot be told.
    Open,
}

/// The name of a tag, as the page or the script keeps it.
pub(super) enum Tag {
    Page(LocalName),
    Made(Arc<str>),
}

impl Deref for Tag {
    type Target = str;

    fn deref(&self) -> &str {
        match self {
            Tag::Page(name) => name,
            Tag::Made(name) => name,
        }
    }
}
