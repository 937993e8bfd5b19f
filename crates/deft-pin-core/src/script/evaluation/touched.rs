//! What a script does to the page that it runs on: names that it gives and takes, elements that it takes out.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::value::Certainty;
use crate::markup::{NamedPart, NodeId};
use crate::script::program::Words;

/// Names that the script gives to elements, takes from them, or brings in.
#[derive(Clone, Debug, Default)]
pub(super) struct Touched {
    pub(super) ids: FxHashSet<Arc<str>>,
    pub(super) classes: FxHashSet<Arc<str>>,
    pub(super) tags: FxHashSet<Arc<str>>,
    /// The words of which nobody can tell what they have become.
    pub(super) own_words: Option<Arc<Words>>,
    pub(super) attributes: FxHashSet<Arc<str>>,
    /// What IDs and classes begin with of which the rest is not known.
    pub(super) beginnings: FxHashSet<Arc<str>>,
    /// Whether it brings in what nobody can tell.
    pub(super) anything: bool,
    /// Whether elements of the page were moved or taken out.
    pub(super) is_moved: bool,
    /// Names that were taken from elements.
    pub(super) taken: FxHashSet<Arc<str>>,
    /// Names that elements of the page have lost for certain.
    pub(super) lost: Vec<(NodeId, NamedPart)>,
}

impl Touched {
    pub(super) fn is_nothing(&self) -> bool {
        self.beginnings.is_empty()
            && self.ids.is_empty()
            && self.classes.is_empty()
            && self.tags.is_empty()
            && self.attributes.is_empty()
    }

    pub(super) fn has(&self, part: &NamedPart) -> bool {
        if self.own_words.as_ref().is_some_and(|words| words.contains(part.name())) {
            return true;
        }
        let is_begun = |own: &Arc<str>| part.name().starts_with(&**own);
        if !matches!(part, NamedPart::Tag(_)) && self.beginnings.iter().any(is_begun) {
            return true;
        }
        match part {
            NamedPart::Id(name) => self.ids.contains(&**name),
            NamedPart::Class(name) => self.classes.contains(&**name),
            NamedPart::Tag(name) => self.tags.contains(&**name),
        }
    }
}

/// An element of the page that the script takes out.
#[derive(Clone, Copy, Debug)]
pub(super) struct Gone {
    pub(super) node: NodeId,
    /// Whether it goes as a whole, and not what is in it alone.
    pub(super) is_whole: bool,
    pub(super) certainty: Certainty,
}
