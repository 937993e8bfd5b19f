//! Facts of pages: what each page says for the findings, as plain data that depends on that page,
//! the plan and shared files alone, and the same facts of all pages together.

use std::collections::BTreeMap;
use std::hash::Hash;

use indexmap::IndexMap;
use rustc_hash::FxBuildHasher;

use crate::code::PageId;

/// What some pages say: each fact once, with the pages that say it.
#[derive(Clone, Debug)]
pub struct FactsByPage<F>(IndexMap<F, Vec<PageId>, FxBuildHasher>);

impl<F> Default for FactsByPage<F> {
    fn default() -> Self {
        FactsByPage(IndexMap::default())
    }
}

/// Facts that say the same, with all the pages that say so.
#[derive(Clone, Debug)]
pub(super) struct SharedFact<'f, F> {
    /// The one of the first page, for what differs from page to page and is told as an example.
    pub(super) first: &'f F,
    /// The pages, in the order of the site.
    pub(super) pages: Vec<PageId>,
}

impl<F: Eq + Hash> FactsByPage<F> {
    /// Adds what a page says. Pages are added in the order of the site.
    pub(super) fn add(&mut self, page: PageId, facts: Vec<F>) {
        for fact in facts {
            let pages = self.0.entry(fact).or_default();
            if pages.last() != Some(&page) {
                pages.push(page);
            }
        }
    }

    /// Each different fact, with its pages.
    pub(super) fn iter(&self) -> impl Iterator<Item = (&F, &[PageId])> {
        self.0.iter().map(|(fact, pages)| (fact, pages.as_slice()))
    }

    /// What each page says that says something, in the order of the site.
    pub(super) fn by_page(&self) -> Vec<(PageId, &F)> {
        let each = self.iter().flat_map(|(fact, pages)| pages.iter().map(move |page| (*page, fact)));
        let mut all: Vec<(PageId, &F)> = each.collect();
        // Facts of one page stay in the order in which they were first said.
        all.sort_by_key(|(page, _)| *page);
        all
    }

    /// The same for each thing that facts are about.
    pub(super) fn by_subject<S: Ord>(&self, subject: impl Fn(&F) -> S) -> BTreeMap<S, Vec<(PageId, &F)>> {
        let mut subjects: BTreeMap<S, Vec<(PageId, &F)>> = BTreeMap::new();
        for (page, fact) in self.by_page() {
            subjects.entry(subject(fact)).or_default().push((page, fact));
        }
        subjects
    }

    /// Facts that say the same, sorted by what they say. What the key leaves out differs from page
    /// to page and is told as an example, if at all.
    pub(super) fn shared<K: Ord>(&self, key: impl Fn(&F) -> K) -> Vec<SharedFact<'_, F>> {
        let mut shared: BTreeMap<K, SharedFact<'_, F>> = BTreeMap::new();
        for (page, fact) in self.by_page() {
            let known = shared.entry(key(fact)).or_insert(SharedFact { first: fact, pages: Vec::new() });
            if known.pages.last() != Some(&page) {
                known.pages.push(page);
            }
        }
        shared.into_values().collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::code::Id as _;

    #[test]
    fn facts_that_say_the_same_come_together_and_no_others() {
        let mut facts = FactsByPage::default();
        for (page, said) in
            [(0, vec![("late", 3)]), (1, vec![("missing", 9), ("late", 3)]), (2, vec![("late", 7)])]
        {
            facts.add(PageId::new(page), said);
        }
        assert_eq!(facts.iter().count(), 3);
        let shared = facts.shared(|(what, _)| *what);
        let told: Vec<_> = shared.iter().map(|one| (*one.first, one.pages.len())).collect();
        assert_eq!(told, [(("late", 3), 3), (("missing", 9), 1)]);
        assert_eq!(facts.shared(|fact| *fact).len(), 3);
        let pages: Vec<usize> = facts.by_page().iter().map(|(page, _)| page.index()).collect();
        assert_eq!(pages, [0, 1, 1, 2]);
    }
}
