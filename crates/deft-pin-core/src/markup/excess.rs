//! Pages that are too much to be parsed: they would take memory without end, or names without end.

use std::hash::{BuildHasher as _, BuildHasherDefault};

use rustc_hash::{FxHashSet, FxHasher};

/// How many tags a page may have.
const MOST_TAGS: usize = 2_000_000;
/// How many different names may stand in its tags: elements, attributes, IDs and classes.
const MOST_NAMES: usize = 250_000;
/// Smaller pages have room for neither.
const SMALL: usize = 2 << 20;
/// Names up to this length cost nothing to keep.
const SHORT: usize = 7;

/// What there is too much of in a page for it to be parsed; `None` for pages that people make.
pub fn excess(bytes: &[u8]) -> Option<&'static str> {
    if bytes.len() <= SMALL {
        return None;
    }
    let mut names: FxHashSet<u64> = FxHashSet::default();
    let hasher = BuildHasherDefault::<FxHasher>::default();
    let mut tags = 0;
    let mut rest = bytes;
    while let Some(start) = memchr::memchr(b'<', rest) {
        tags += 1;
        if tags > MOST_TAGS {
            return Some("more than 2,000,000 tags");
        }
        let tag = &rest[start + 1..];
        let end = memchr::memchr(b'>', tag).unwrap_or(tag.len());
        let words = tag[..end].split(|byte| byte.is_ascii_whitespace() || b"\"'=/".contains(byte));
        names.extend(words.filter(|word| word.len() > SHORT).map(|word| hasher.hash_one(word)));
        if names.len() > MOST_NAMES {
            return Some("more than 250,000 different names in its tags");
        }
        rest = &tag[end..];
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn too_much_is_told_and_what_people_make_is_not() {
        let many = |unit: &dyn Fn(usize) -> String, count: usize| (0..count).map(unit).collect::<String>();
        assert_eq!(excess("<p class=a>text</p>\n".repeat(200_000).as_bytes()), None);
        assert!(excess("<p>".repeat(MOST_TAGS + 1).as_bytes()).is_some());
        let classes = format!("<p class='{}'>", many(&|at| format!("class-{at} "), MOST_NAMES + 1000));
        assert!(excess(classes.as_bytes()).is_some());
        assert!(excess(many(&|at| format!("<p data-{at}=1>"), MOST_NAMES * 2).as_bytes()).is_some());
        assert_eq!(
            excess(format!("<p>{}", many(&|at| format!("wording-{at} "), MOST_NAMES * 2)).as_bytes()),
            None
        );
        assert_eq!(excess(many(&|at| format!("<p id=p{} class=fares>", at % 999), 300_000).as_bytes()), None);
    }
}
