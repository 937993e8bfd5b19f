//! A filter of the names on a page, which is small enough to be kept for each page of a site: it says
//! for sure that a selector cannot match there, without reading the page again.

use html5ever::LocalName;
use precomputed_hash::PrecomputedHash as _;

use crate::markup::{Document, Selector, SelectorList, names_in};

/// How many bits a filter has: with the 100 names of a common page, about one in 400 of those that
/// are not there seems to be.
const BITS: usize = 2048;

/// The names on a page, as bits (Bloom, "Space/time trade-offs in hash coding with allowable
/// errors"). Names are taken without regard to case.
#[derive(Clone, Debug)]
pub struct NameFilter(Box<[u64; BITS / 64]>);

impl NameFilter {
    /// The names of a page.
    pub fn of(document: &Document) -> Self {
        let mut filter = NameFilter(Box::new([0; BITS / 64]));
        for element in document.elements() {
            let data = element.data();
            filter.add(&data.name.local);
            data.id.iter().chain(&data.classes).for_each(|name| filter.add(name));
        }
        filter
    }

    fn add(&mut self, name: &LocalName) {
        bits_of(name).into_iter().for_each(|bit| self.0[bit / 64] |= 1 << (bit % 64));
    }

    fn may_have(&self, name: &LocalName) -> bool {
        bits_of(name).into_iter().all(|bit| self.0[bit / 64] & (1 << (bit % 64)) != 0)
    }

    /// Whether some selector of a list may match on the page.
    pub fn may_match(&self, list: &SelectorList) -> bool {
        let may_match = |selector: &Selector| {
            names_in(selector).iter().all(|name| self.may_have(&LocalName::from(name.name())))
        };
        list.slice().iter().any(may_match)
    }
}

fn bits_of(name: &LocalName) -> [usize; 3] {
    let hash = match name.bytes().any(|byte| byte.is_ascii_uppercase()) {
        true => name.to_ascii_lowercase().precomputed_hash(),
        false => name.precomputed_hash(),
    };
    // Three numbers of one hash, mixed so that each of its bits counts.
    let mixed = u64::from(hash).wrapping_mul(0x9e37_79b9_7f4a_7c15);
    [11, 27, 43].map(|shift| (mixed >> shift) as usize % BITS)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::find::PageIndex;
    use crate::markup::{parse, parse_selectors};

    #[test]
    fn what_matches_passes_and_most_of_the_rest_does_not() {
        let html = "<main id=Fares class='Wide table'><svg><linearGradient/></svg><p class=x>x</main>";
        let (_, document) = parse(html.as_bytes());
        let filter = NameFilter::of(&document);
        let list = |text: &str| parse_selectors(text).unwrap();
        for text in
            ["#fares .x", "main.wide > p", "linearGradient", "*", ".gone, p", ":is(.gone, p)", "p:not(.gone)"]
        {
            assert!(filter.may_match(&list(text)), "{text}");
            assert!(!PageIndex::new(&document).matched(&list(text), 1).is_empty(), "{text}");
        }
        let passed = (0..1000).filter(|number| filter.may_match(&list(&format!(".gone-{number}"))));
        assert!(passed.count() < 20);
    }
}
