//! The words that Chromium takes alone as the value of a property, as it says itself.

use std::sync::LazyLock;

use rustc_hash::{FxHashMap, FxHashSet};

use crate::source::nearest;

/// Made by `scripts/keyword-table.sh`.
const TABLE: &str = include_str!("../../data/keywords.txt");

/// The words of a property.
struct Keywords {
    words: FxHashSet<&'static str>,
    /// Whether it takes the names of colours too.
    has_colors: bool,
    /// Whether it takes any word but these.
    is_open: bool,
}

static KEYWORDS: LazyLock<FxHashMap<&'static str, Keywords>> = LazyLock::new(|| {
    let rows = TABLE.lines().filter(|line| !line.starts_with('#')).filter_map(|line| line.split_once('\t'));
    let read = |(name, words): (&'static str, &'static str)| {
        let words = words.split(' ').filter(|word| !word.is_empty());
        let keywords = Keywords {
            has_colors: words.clone().any(|word| word == "@color"),
            is_open: words.clone().any(|word| word == "*"),
            words: words.map(|word| word.trim_start_matches('!')).collect(),
        };
        (name, keywords)
    };
    rows.map(read).collect()
});

/// Whether Chromium knows a property.
pub(super) fn is_known(property: &str) -> bool {
    KEYWORDS.contains_key(property)
}

/// Whether a property takes names that authors make up, and so says of no word that it is none but of
/// those that are reserved.
pub(super) fn takes_names(property: &str) -> bool {
    KEYWORDS.get(property).is_some_and(|keywords| keywords.is_open)
}

/// Whether Chromium takes a word alone as the value of a property; `None` where it does not know the
/// property, or was not asked about a word with a prefix. Words that every property takes are no matter of this.
pub(super) fn takes_word(property: &str, word: &str) -> Option<bool> {
    let keywords = KEYWORDS.get(property)?;
    let word = word.to_ascii_lowercase();
    let has = |keywords: &Keywords| keywords.words.contains(word.as_str());
    Some(match keywords.is_open {
        true => !has(keywords),
        false => {
            let is_taken = has(keywords) || keywords.has_colors && KEYWORDS.get("@color").is_some_and(has);
            // What no grammar has and no browser had, none takes; a prefix may be another's.
            if !is_taken && word.starts_with('-') && !KEYWORDS.get("@asked").is_some_and(has) {
                return None;
            }
            is_taken
        }
    })
}

/// Whether Chromium takes a component of a kind (`length`, `text`, …) alone as the value of a property; `None` where it
/// does not know the property.
pub(super) fn takes_kind(property: &str, kind: &str) -> Option<bool> {
    let keywords = KEYWORDS.get(property)?;
    Some(keywords.words.iter().any(|word| word.strip_prefix('@') == Some(kind)))
}

/// Whether Chromium takes a component of a kind beside another in the value of a property; `pair` asks whether it takes
/// two components at all, `word` whether names that authors make up. `None` where it does not know the property.
pub(super) fn takes_beside(property: &str, kind: &str) -> Option<bool> {
    let keywords = KEYWORDS.get(property)?;
    Some(keywords.words.iter().any(|word| word.strip_prefix('&') == Some(kind)))
}

/// Whether any property of Chromium, or any grammar, has a word.
pub(super) fn is_word_of_any(word: &str) -> bool {
    let word = word.to_ascii_lowercase();
    ["@asked", "@color"]
        .iter()
        .any(|row| KEYWORDS.get(row).is_some_and(|row| row.words.contains(word.as_str())))
}

/// The word nearest to one that a property does not take.
pub fn nearest_keyword(property: &str, word: &str) -> Option<String> {
    let keywords = KEYWORDS.get(property)?;
    let colors = KEYWORDS.get("@color").filter(|_| keywords.has_colors);
    let own = keywords.words.iter().filter(|word| !keywords.is_open && !word.starts_with(['@', '&']));
    let mut words: Vec<&str> = own.chain(colors.iter().flat_map(|colors| &colors.words)).copied().collect();
    words.sort_unstable();
    nearest(&word.to_ascii_lowercase(), words).map(str::to_owned)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_are_taken_as_chromium_takes_them() {
        for (property, word, expected) in [
            ("cursor", "hand", Some(false)),
            ("cursor", "GRAB", Some(true)),
            ("writing-mode", "tb-rl", Some(true)),
            ("color", "rebeccapurple", Some(true)),
            ("color", "center", Some(false)),
            ("animation-name", "turn", Some(true)),
            ("animation-name", "default", Some(false)),
            ("no-such-property", "none", None),
            ("cursor", "no-such-word", Some(false)),
            ("cursor", "-own-word", None),
        ] {
            assert_eq!(takes_word(property, word), expected, "{property}: {word}");
        }
    }
}
