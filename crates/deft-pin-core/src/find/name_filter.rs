//! A filter of the names and addresses on a page, which is small enough to be kept for each page of a site: it says
//! for sure that a selector cannot match there, without reading the page again.

use std::hash::BuildHasher as _;

use html5ever::{LocalName, local_name};
use precomputed_hash::PrecomputedHash as _;
use rustc_hash::FxBuildHasher;

use crate::markup::{Document, Selector, SelectorList, addresses_in, names_in};

/// How many bits a filter has: with the 100 names and 300 links of a common page, about one in 60 of
/// those that are not there seems to be.
const BITS: usize = 4096;

/// The names and the addresses of links on a page, as bits (Bloom, "Space/time trade-offs in hash coding with allowable
/// errors"). Names are taken without regard to case.
#[derive(Clone, Debug)]
pub struct NameFilter(Box<[u64; BITS / 64]>);

impl NameFilter {
    /// The names of a page.
    pub fn of(document: &Document) -> Self {
        let mut filter = NameFilter(Box::new([0; BITS / 64]));
        for element in document.elements() {
            let data = element.data();
            filter.add(of_name(&data.name.local));
            data.id.iter().chain(&data.classes).for_each(|name| filter.add(of_name(name)));
            if let Some(href) = data.attr(&local_name!("href")) {
                filter.add(of_address(href));
            }
        }
        filter
    }

    fn add(&mut self, hash: u64) {
        bits_of(hash).into_iter().for_each(|bit| self.0[bit / 64] |= 1 << (bit % 64));
    }

    fn may_have(&self, hash: u64) -> bool {
        bits_of(hash).into_iter().all(|bit| self.0[bit / 64] & (1 << (bit % 64)) != 0)
    }

    /// Whether some selector of a list may match on the page.
    pub fn may_match(&self, asked: &AskedNames) -> bool {
        asked.0.iter().any(|selector| selector.iter().all(|hash| self.may_have(*hash)))
    }
}

/// What a list of selectors asks of a page, made ready once for all pages: for each selector the names
/// and addresses that have to be there.
#[derive(Clone, Debug)]
pub struct AskedNames(Vec<Vec<u64>>);

impl AskedNames {
    /// What a list of selectors asks for.
    pub fn of(list: &SelectorList) -> Self {
        let of_selector = |selector: &Selector| {
            let names = names_in(selector).into_iter().map(|name| of_name(&LocalName::from(name.name())));
            names.chain(addresses_in(selector).into_iter().map(of_address)).collect()
        };
        AskedNames(list.slice().iter().map(of_selector).collect())
    }
}

/// The hash of a name, whatever its case.
fn of_name(name: &LocalName) -> u64 {
    let hash = match name.bytes().any(|byte| byte.is_ascii_uppercase()) {
        true => name.to_ascii_lowercase().precomputed_hash(),
        false => name.precomputed_hash(),
    };
    u64::from(hash)
}

/// The hash of an address, letter by letter.
fn of_address(href: &str) -> u64 {
    FxBuildHasher.hash_one(href)
}

/// Three numbers of one hash, mixed so that each of its bits counts.
fn bits_of(hash: u64) -> [usize; 3] {
    let mixed = (hash ^ (hash >> 32)).wrapping_mul(0x9e37_79b9_7f4a_7c15);
    [11, 27, 43].map(|shift| (mixed >> shift) as usize % BITS)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::find::PageIndex;
    use crate::markup::{parse, parse_selectors};

    #[test]
    fn what_matches_passes_and_most_of_the_rest_does_not() {
        let html = "<main id=Fares class='Wide table'><svg><linearGradient/></svg><p class=x>x<a href=/Fares?day=1>y</a></main>";
        let (_, document) = parse(html.as_bytes());
        let filter = NameFilter::of(&document);
        let list = |text: &str| parse_selectors(text).unwrap();
        for text in [
            "#fares .x", "main.wide > p", "linearGradient", "*", ".gone, p", ":is(.gone, p)", "p:not(.gone)",
            "a[href='/Fares?day=1']", "p:has(> [href='/Fares?day=1'])", "[href='/fares?day=1' i]",
            "p:not([href='/x'])",
        ] {
            assert!(filter.may_match(&AskedNames::of(&list(text))), "{text}");
            assert!(!PageIndex::new(&document).matched(&list(text), 1).is_empty(), "{text}");
        }
        for text in ["a[href='/fares']", "p:has([href='/x'])", ":is(a[href='/y'])"] {
            assert!(!filter.may_match(&AskedNames::of(&list(text))), "{text}");
        }
        let passed =
            (0..1000).filter(|number| filter.may_match(&AskedNames::of(&list(&format!(".gone-{number}")))));
        assert!(passed.count() < 20);
    }
}
