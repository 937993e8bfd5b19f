//! What browsers drop in at-rules that are no rules for elements: selectors of keyframes (css-animations-1, 3), and
//! descriptors of fonts (css-fonts-4, 4). Held against Chromium.

use cssparser::Parser;

use super::component::{Tok, any, parts, tokens};
use super::value_rules::is_generic;
use super::values::is_wide;

/// Whether the selector of a keyframe is none, so that the keyframe is dropped.
pub(super) fn is_no_keyframe(prelude: &str) -> bool {
    // What does not parse at all is told as that.
    let Ok(all) = tokens(&mut Parser::new(prelude)) else { return false };
    let is_one = |part: &[Tok]| match part {
        [Tok::Word(word)] => ["from", "to"].iter().any(|own| word.eq_ignore_ascii_case(own)),
        [Tok::Percentage(share)] => (0.0..=100.0).contains(share),
        // A place in the range of a timeline (scroll-animations-1).
        [Tok::Word(word), Tok::Percentage(_)] => {
            ["cover", "contain", "entry", "exit", "entry-crossing", "exit-crossing", "scroll"]
                .iter()
                .any(|own| word.eq_ignore_ascii_case(own))
        }
        _ => false,
    };
    !parts(&all).all(is_one)
}

/// Whether a descriptor of `@font-face` is dropped for its value, as far as that is certain.
pub(super) fn is_no_font_descriptor(name: &str, value: &str) -> bool {
    if name == "unicode-range" {
        return !value.split(',').all(is_range);
    }
    let Ok(all) = tokens(&mut Parser::new(value)) else { return false };
    let substitutes = |token: &Tok| matches!(token, Tok::Function(name, _) if is_calculated(name));
    if any(&all, &substitutes) {
        return false;
    }
    match name {
        // Of a list those that are none are passed over.
        "src" => !parts(&all).any(is_source),
        "font-family" => match all.as_slice() {
            [Tok::Text(_)] => false,
            [Tok::Word(word)] => is_wide(word) || is_generic(word),
            words => words.is_empty() || !words.iter().all(|token| matches!(token, Tok::Word(_))),
        },
        "font-weight" => {
            let is_one = |token: &Tok| match token {
                Tok::Number(weight, _) => (1.0..=1000.0).contains(weight),
                _ => token.is_word("normal") || token.is_word("bold"),
            };
            let is_pair = all.len() == 2 && all.iter().all(|token| matches!(token, Tok::Number(..)));
            !(all.iter().all(is_one) && (all.len() == 1 || is_pair)) && !is_auto(&all)
        }
        "font-style" => match all.as_slice() {
            [only] => !["normal", "italic", "oblique", "auto"].iter().any(|word| only.is_word(word)),
            [first, rest @ ..] => {
                !first.is_word("oblique")
                    || rest.len() > 2
                    || !rest.iter().all(|token| matches!(token, Tok::Dimension(..) | Tok::Number(0.0, _)))
            }
            [] => false,
        },
        "font-display" => {
            let words = ["auto", "block", "swap", "fallback", "optional"];
            !matches!(all.as_slice(), [only] if words.iter().any(|word| only.is_word(word)))
        }
        "size-adjust" => !matches!(all.as_slice(), [Tok::Percentage(share)] if *share >= 0.0),
        "ascent-override" | "descent-override" | "line-gap-override" => match all.as_slice() {
            [Tok::Percentage(share)] => *share < 0.0,
            [only] => !only.is_word("normal"),
            _ => false,
        },
        _ => false,
    }
}

fn is_auto(all: &[Tok]) -> bool {
    matches!(all, [only] if only.is_word("auto"))
}

fn is_calculated(name: &str) -> bool {
    ["calc", "min", "max", "clamp", "round", "env", "if"].iter().any(|own| name.eq_ignore_ascii_case(own))
}

/// One entry of the list of a font's sources.
fn is_source(part: &[Tok]) -> bool {
    let is_function =
        |token: &Tok, name: &str| matches!(token, Tok::Function(own, _) if own.eq_ignore_ascii_case(name));
    match part {
        [Tok::Function(name, inner)] if name.eq_ignore_ascii_case("local") => !inner.is_empty(),
        [first, rest @ ..] => {
            let is_address = *first == Tok::Url || is_function(first, "url") || is_function(first, "src");
            is_address
                && match rest {
                    [] => true,
                    [one] => is_function(one, "format") && has_known_format(one) || is_function(one, "tech"),
                    [one, two] => {
                        is_function(one, "format") && has_known_format(one) && is_function(two, "tech")
                    }
                    _ => false,
                }
        }
        [] => false,
    }
}

fn has_known_format(token: &Tok) -> bool {
    let Tok::Function(_, inner) = token else { return false };
    // Those that a browser of today has no use for are for older ones.
    const KNOWN: &[&str] = &[
        "woff2", "woff", "truetype", "opentype", "collection", "woff2-variations", "woff-variations",
        "truetype-variations", "opentype-variations", "embedded-opentype", "svg",
    ];
    let word = match inner.as_slice() {
        [Tok::Word(word) | Tok::Text(word)] => word,
        _ => return false,
    };
    KNOWN.iter().any(|own| word.eq_ignore_ascii_case(own))
}

/// A range of characters, as in `U+26` or `U+0025-00FF` (css-syntax-3, 7).
fn is_range(part: &str) -> bool {
    let part = part.trim();
    let Some(rest) = part.strip_prefix("U+").or_else(|| part.strip_prefix("u+")) else { return false };
    let is_hex = |text: &str| (1..=6).contains(&text.len()) && text.bytes().all(|b| b.is_ascii_hexdigit());
    match rest.split_once('-') {
        Some((from, to)) => is_hex(from) && is_hex(to),
        None => {
            let digits = rest.trim_end_matches('?');
            (1..=6).contains(&rest.len()) && digits.bytes().all(|b| b.is_ascii_hexdigit())
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What Chromium keeps and what it drops, as it says itself.
    #[test]
    fn keyframes_and_fonts_are_dropped_as_chromium_drops_them() {
        for kept in [
            "0%", "from", "From", "50.5%", "0%,50%", "entry 0%", "exit 100%", "from, to", "+50%", "1e1%",
            "entry -5%",
        ] {
            assert!(!is_no_keyframe(kept), "{kept}");
        }
        for dropped in ["0", "100", "110%", "-1%", "start", "0%, 50", "0%,", "entry", "0 %", "p", "50%x"] {
            assert!(is_no_keyframe(dropped), "{dropped}");
        }
        for kept in [
            "src: url(a.woff2)", "src: url('a') format('woff2')",
            "src: url(a) format(woff2) tech(variations)", "src: local('A'), url(a)", "src: local(A B)",
            "src: url(a), own", "src: own, url(a)", "font-family: Own", "font-family: 'Own'",
            "font-family: My Font", "font-weight: bold", "font-weight: 100 900", "font-style: italic",
            "font-style: oblique 0deg 10deg", "font-display: swap", "unicode-range: U+0-FF",
            "unicode-range: U+26, u+4??", "size-adjust: 90%", "ascent-override: normal",
            "font-stretch: 75% 125%",
        ] {
            let (name, value) = kept.split_once(": ").unwrap();
            assert!(!is_no_font_descriptor(name, value), "{kept}");
        }
        for dropped in [
            "src: own.woff2", "src: 'own.woff2'", "src: url(a) 'woff2'", "src: url(a) format('foo')",
            "src: url(a) woff2", "src: none", "src: url(a) url(b)", "src: local()",
            "font-family: Own, serif", "font-family: 1a", "font-family: serif", "font-family: inherit",
            "font-weight: bolder", "font-weight: 400px", "font-weight: 0", "font-weight: normal bold",
            "font-weight: semibold", "font-style: slanted", "font-display: swapp", "font-display: none",
            "unicode-range: 0-FF", "unicode-range: 'U+26'", "size-adjust: 0.9", "ascent-override: -1%",
        ] {
            let (name, value) = dropped.split_once(": ").unwrap();
            assert!(is_no_font_descriptor(name, value), "{dropped}");
        }
    }
}
