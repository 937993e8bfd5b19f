//! A filter of the names around an element: what says for sure that some ancestor is missing which a
//! selector asks for, without looking at any.

use precomputed_hash::PrecomputedHash;
use selectors::bloom::{BLOOM_HASH_MASK, BloomFilter};
use selectors::context::QuirksMode;
use selectors::parser::AncestorHashes;

use super::document::{ElementRef, NodeId};
use super::selector::{Name, Selector};

/// What a selector asks of ancestors, as hashes of names.
#[derive(Clone, Debug)]
pub struct AskedAncestors(pub(super) AncestorHashes);

impl AskedAncestors {
    /// What a selector asks of ancestors in a page that is not in quirks mode.
    pub fn of(selector: &Selector) -> Self {
        AskedAncestors(AncestorHashes::new(selector, QuirksMode::NoQuirks))
    }
}

/// The names of the ancestors of one element, as hashes. Made for one element after the other in tree
/// order, it changes little from one to the next.
pub struct AncestorFilter {
    pub(super) filter: Box<BloomFilter>,
    /// The ancestors, from the root down.
    path: Vec<NodeId>,
}

impl Default for AncestorFilter {
    fn default() -> Self {
        AncestorFilter { filter: Box::new(BloomFilter::new()), path: Vec::new() }
    }
}

impl AncestorFilter {
    /// Makes it hold the ancestors of an element.
    pub fn enter(&mut self, element: ElementRef<'_>) {
        let document = element.document();
        let parent = element.parent().map(|parent| parent.id);
        if self.path.last().copied() == parent {
            return;
        }
        let above = std::iter::successors(element.parent(), |at| at.parent());
        let mut chain: Vec<NodeId> = above.map(|at| at.id).collect();
        chain.reverse();
        let shared = self.path.iter().zip(&chain).take_while(|(a, b)| a == b).count();
        for left in self.path.drain(shared..) {
            let left = document.element(left);
            left.into_iter().for_each(|left| each_hash(left, |hash| self.filter.remove_hash(hash)));
        }
        for entered in &chain[shared..] {
            let entered = document.element(*entered);
            entered.into_iter().for_each(|entered| each_hash(entered, |hash| self.filter.insert_hash(hash)));
        }
        self.path = chain;
    }
}

/// The hashes of all that a selector may ask of an element by name.
fn each_hash(element: ElementRef<'_>, mut found: impl FnMut(u32)) {
    let data = element.data();
    let name = |name: &html5ever::LocalName| Name(name.clone()).precomputed_hash() & BLOOM_HASH_MASK;
    found(name(&data.name.local));
    found(data.name.ns.precomputed_hash() & BLOOM_HASH_MASK);
    data.id.iter().for_each(|id| found(name(id)));
    data.classes.iter().for_each(|class| found(name(class)));
    data.attrs.iter().for_each(|attribute| found(name(&attribute.name.local)));
}
