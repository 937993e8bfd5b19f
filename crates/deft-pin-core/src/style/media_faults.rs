//! What is wrong with media queries that can never hold: what a browser does not know, cannot read, or
//! what contradicts itself (mediaqueries-5, 3.2: such a query counts as `not all`).

use cssparser::Parser;

use super::component::{Tok, any, parts, tokens};
use super::list::members;
use super::media::{Condition, Feature, Value, condition, query};
use super::media_features::{FeatureValues, feature_names, media_feature};
use crate::source::{Span, nearest};

/// What is wrong with a media query.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MediaFault {
    /// What.
    pub kind: MediaFaultKind,
    /// The query, in the text of the list.
    pub span: Span,
    /// Whether no other query of the list may hold.
    pub is_only: bool,
}

/// What keeps a media query from ever holding.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum MediaFaultKind {
    /// No medium has this name.
    UnknownMedium {
        /// The name.
        name: String,
        /// One that is nearly the same.
        nearest: Option<&'static str>,
    },
    /// A medium that no browser is any more.
    OldMedium {
        /// Its name.
        name: String,
    },
    /// No feature has this name.
    UnknownFeature {
        /// The name.
        name: String,
        /// One that is nearly the same.
        nearest: Option<String>,
    },
    /// A medium stands in brackets.
    BracketedMedium {
        /// Its name.
        name: String,
    },
    /// A length has no unit.
    MissingUnit {
        /// The number.
        number: String,
    },
    /// A feature that sets a bound has no value.
    MissingValue {
        /// The feature.
        feature: String,
    },
    /// The feature takes no such value.
    BadValue {
        /// The feature.
        feature: String,
        /// The words that it takes, where it takes words.
        words: &'static [&'static str],
    },
    /// A feature stands without brackets.
    MissingBrackets,
    /// There is no blank between a word and the bracket behind it, which makes a function of both.
    MissingBlank {
        /// The word: `and`, `or`, `not`.
        word: String,
    },
    /// Two parts stand side by side with no `and` between.
    MissingAnd,
    /// A name and a value with no colon between.
    MissingColon,
    /// A comma stands inside of brackets.
    CommaInBrackets,
    /// A custom property, or a variable of a preprocessor.
    Variable,
    /// `and` and `or` stand side by side with no brackets to say which comes first.
    MixedWords,
    /// Signs that compare are not as they are written, or lead two ways.
    BadComparison,
    /// No size is as large and as small as is asked for.
    Contradiction {
        /// The feature.
        feature: String,
    },
    /// Something else that is no query.
    Unreadable,
}

const MEDIA: &[&str] = &["all", "print", "screen"];
/// Those of CSS 2 that mediaqueries-4 took out: they match nothing.
const OLD_MEDIA: &[&str] = &["aural", "braille", "embossed", "handheld", "projection", "speech", "tty", "tv"];

/// What is wrong with the queries of a list. Queries that are written for another engine are passed over.
pub fn media_faults(list: &str) -> Vec<MediaFault> {
    let spans = members(list);
    let written: Vec<(Span, &str)> = spans.iter().map(|span| (*span, list[span.range()].trim())).collect();
    let written: Vec<_> = written.into_iter().filter(|(_, text)| !text.is_empty()).collect();
    let faults: Vec<_> = written.iter().filter_map(|(span, text)| Some((*span, fault(text)?))).collect();
    let is_only = faults.len() == written.len() && faults.iter().all(|(_, (_, is_whole))| *is_whole);
    faults
        .into_iter()
        // In a list, an old medium stands beside those that are.
        .filter(|(_, (kind, _))| is_only || !matches!(kind, MediaFaultKind::OldMedium { .. }))
        .map(|(span, (kind, _))| MediaFault { kind, span, is_only })
        .collect()
}

/// What is wrong with a query, and whether it keeps all of it from holding.
fn fault(text: &str) -> Option<(MediaFaultKind, bool)> {
    // With a backslash, old browsers were told apart on purpose.
    if text.contains('\\') {
        return None;
    }
    let found = tokens(&mut Parser::new(text)).unwrap_or_default();
    if text.contains(['$', '@']) || text.contains("#{") || any(&found, &is_variable) {
        return Some((MediaFaultKind::Variable, true));
    }
    let mut input = Parser::new(text);
    let Ok(read) = query(&mut input) else { return Some((unreadable(&found), true)) };
    if let Some(medium) = &read.medium
        && !MEDIA.contains(&medium.as_str())
    {
        let name = medium.clone();
        let kind = match OLD_MEDIA.contains(&medium.as_str()) {
            true => MediaFaultKind::OldMedium { name },
            false => {
                let nearest = nearest(medium, MEDIA.iter().copied());
                MediaFaultKind::UnknownMedium { name, nearest }
            }
        };
        return Some((kind, true));
    }
    let condition = read.condition.as_ref()?;
    let contradiction = || (!read.negated).then(|| contradiction(condition)).flatten();
    of_condition(condition, !read.negated).or_else(|| Some((contradiction()?, true)))
}

/// What is wrong with a query of a container (css-conditional-5): its name and its condition.
pub fn container_fault(prelude: &str) -> Option<MediaFault> {
    let found = tokens(&mut Parser::new(prelude)).unwrap_or_default();
    let has_name = matches!(found.first(), Some(Tok::Word(word)) if !word.eq_ignore_ascii_case("not"));
    let mut input = Parser::new(prelude);
    if has_name {
        input.next().ok()?;
    }
    let condition = input.try_parse(|input| {
        let condition = condition(input, true)?;
        input.expect_exhausted()?;
        Ok::<_, cssparser::ParseError<()>>(condition)
    });
    let (kind, is_only) = match condition {
        Ok(condition) => of_condition(&condition, true).filter(|(kind, _)| match kind {
            MediaFaultKind::UnknownFeature { name, .. } => {
                let bare = name.trim_start_matches("min-").trim_start_matches("max-");
                !matches!(bare, "inline-size" | "block-size")
            }
            _ => true,
        })?,
        Err(_) if input.is_exhausted() => return None,
        Err(_) => (unreadable(&found[usize::from(has_name)..]), true),
    };
    Some(MediaFault { kind, span: Span::new(0, prelude.len()), is_only })
}

fn is_variable(token: &Tok) -> bool {
    match token {
        Tok::Function(name, _) => name.eq_ignore_ascii_case("var"),
        Tok::Word(word) => word.starts_with("--"),
        _ => false,
    }
}

/// Why a query that cannot be read cannot be.
fn unreadable(found: &[Tok]) -> MediaFaultKind {
    let is_joining = |word: &str| ["and", "or", "not"].iter().any(|own| word.eq_ignore_ascii_case(own));
    let function = found.iter().find_map(|token| match token {
        Tok::Function(name, _) if is_joining(name) => Some(name.to_ascii_lowercase()),
        _ => None,
    });
    if let Some(word) = function {
        return MediaFaultKind::MissingBlank { word };
    }
    if found.iter().any(|token| matches!(token, Tok::Mark(':' | '<' | '>' | '='))) {
        return MediaFaultKind::MissingBrackets;
    }
    let is_block = |token: &Tok| matches!(token, Tok::Block('(', _));
    let is_name = |token: &Tok| matches!(token, Tok::Word(word) if !is_joining(word));
    let side_by_side = |pair: &[Tok]| {
        is_block(&pair[1]) && (is_block(&pair[0]) || is_name(&pair[0]) && !pair[0].is_word("only"))
    };
    if found.windows(2).any(side_by_side) {
        return MediaFaultKind::MissingAnd;
    }
    let has = |word: &str| found.iter().any(|token| token.is_word(word));
    match has("or") && (has("and") || found.first().is_some_and(is_name)) {
        true => MediaFaultKind::MixedWords,
        false => MediaFaultKind::Unreadable,
    }
}

/// What keeps a condition from ever holding, and whether it is all of it that cannot hold: of several
/// with `or` between, the others may. One that is negated holds where what it negates does not.
fn of_condition(condition: &Condition, is_wanted: bool) -> Option<(MediaFaultKind, bool)> {
    match condition {
        Condition::Feature(feature) => Some((of_feature(feature)?, true)),
        Condition::Unknown(text) => Some((of_unknown(text)?, true)),
        Condition::Not(inner) => of_condition(inner, !is_wanted),
        Condition::And(all) | Condition::Or(all) => {
            let is_each_needed = matches!(condition, Condition::And(_)) == is_wanted;
            let faults: Vec<_> = all.iter().filter_map(|one| of_condition(one, is_wanted)).collect();
            let are_all = faults.len() == all.len() && faults.iter().all(|(_, is_whole)| *is_whole);
            let worst = faults.into_iter().max_by_key(|(_, is_whole)| *is_whole);
            worst.map(|(kind, is_whole)| (kind, is_whole && is_each_needed || are_all))
        }
    }
}

fn of_feature(feature: &Feature) -> Option<MediaFaultKind> {
    let written = &feature.written;
    let Some(known) = media_feature(&feature.name) else {
        if MEDIA.contains(&written.as_str()) && feature.comparisons.is_empty() {
            return Some(MediaFaultKind::BracketedMedium { name: written.clone() });
        }
        // With a vendor's prefix it is another engine's.
        if written.starts_with('-') || written.contains("-moz-") || written.contains("-pixel-ratio") {
            return None;
        }
        let names: Vec<String> = feature_names().collect();
        if feature.comparisons.is_empty() && names.contains(written) {
            return Some(MediaFaultKind::MissingValue { feature: written.clone() });
        }
        let nearest = nearest(written, names.iter().map(String::as_str)).map(str::to_owned);
        return Some(MediaFaultKind::UnknownFeature { name: written.clone(), nearest });
    };
    if feature.fits(known.values) {
        return None;
    }
    let number = feature.comparisons.iter().find_map(|(_, value)| match value {
        Value::Number(number, _) if *number != 0.0 => Some(number.to_string()),
        _ => None,
    });
    Some(match (known.values, number) {
        (FeatureValues::Lengths, Some(number)) => MediaFaultKind::MissingUnit { number },
        (FeatureValues::Words(words), _) => {
            MediaFaultKind::BadValue { feature: known.name.to_owned(), words }
        }
        _ => MediaFaultKind::BadValue { feature: known.name.to_owned(), words: &[] },
    })
}

/// What a bracket holds that is no feature; none where it may be a later standard's.
fn of_unknown(text: &str) -> Option<MediaFaultKind> {
    let found = tokens(&mut Parser::new(text)).unwrap_or_default();
    if parts(&found).count() > 1 {
        return Some(MediaFaultKind::CommaInBrackets);
    }
    let is_sign = |token: &Tok| matches!(token, Tok::Mark('<' | '>' | '='));
    if found.iter().any(is_sign) {
        return Some(MediaFaultKind::BadComparison);
    }
    let is_known = |word: &str| feature_names().any(|name| word.eq_ignore_ascii_case(&name));
    match found.as_slice() {
        [Tok::Word(name), value] if is_known(name) && !matches!(value, Tok::Mark(_) | Tok::Block(..)) => {
            Some(MediaFaultKind::MissingColon)
        }
        [Tok::Word(name), Tok::Mark(':')] if is_known(name) => {
            let known = media_feature(name.trim_start_matches("min-").trim_start_matches("max-"));
            let words: &[&str] = match known.map(|known| known.values) {
                Some(FeatureValues::Words(words)) => words,
                _ => &[],
            };
            Some(MediaFaultKind::BadValue { feature: name.to_ascii_lowercase(), words })
        }
        _ => None,
    }
}

/// A size that is asked to be larger and smaller than it can be.
fn contradiction(condition: &Condition) -> Option<MediaFaultKind> {
    let Condition::And(all) = condition else {
        let Condition::Feature(feature) = condition else { return None };
        let (low, high) = feature.bounds();
        return (low > high).then(|| MediaFaultKind::Contradiction { feature: feature.name.clone() });
    };
    let features = all.iter().filter_map(|one| match one {
        Condition::Feature(feature) => Some(feature),
        _ => None,
    });
    let mut bounds: Vec<(&str, f64, f64)> = Vec::new();
    for feature in features {
        let (low, high) = feature.bounds();
        match bounds.iter_mut().find(|(name, ..)| *name == feature.name) {
            Some(known) => *known = (&feature.name, known.1.max(low), known.2.min(high)),
            None => bounds.push((&feature.name, low, high)),
        }
    }
    let (feature, ..) = bounds.into_iter().find(|(_, low, high)| low > high)?;
    Some(MediaFaultKind::Contradiction { feature: feature.to_owned() })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_keeps_a_query_from_holding_is_found() {
        let table: &[(&str, &[&str])] = &[
            ("", &[]),
            ("screen", &[]),
            ("only screen and (max-width: 600px)", &[]),
            ("(min-width: 30em) and (max-width: 50em)", &[]),
            ("(hover) and (pointer: fine)", &[]),
            ("(width >= 600px) and (width <= 900px)", &[]),
            ("not all and (hover)", &[]),
            ("(max-width: calc(40em + 1px))", &[]),
            (
                "screen and (-webkit-min-device-pixel-ratio: 2), (min-resolution: 192dpi), (min--moz-device-pixel-ratio: 2)",
                &[],
            ),
            ("screen and (-ms-high-contrast: active)", &[]),
            ("screen and (min-width: 0\\0)", &[]),
            ("screen, handheld", &[]),
            ("print,", &[]),
            ("(prefers-reduced-data: reduce)", &[]),
            ("(min-aspect-ratio: 16/9), (aspect-ratio: 1.5)", &[]),
            ("not (color)", &[]),
            ("(max-width: 600)", &["MissingUnit { number: \"600\" }"]),
            ("(600 <= width)", &["MissingUnit { number: \"600\" }"]),
            ("screen and max-width: 600px", &["MissingBrackets"]),
            ("max-width: 600px", &["MissingBrackets"]),
            ("screen and(max-width: 600px)", &["MissingBlank { word: \"and\" }"]),
            ("screen (max-width: 600px)", &["MissingAnd"]),
            ("(min-width: 1px) (max-width: 600px)", &["MissingAnd"]),
            ("(max-widht: 600px)", &["UnknownFeature { name: \"max-widht\", nearest: Some(\"max-width\") }"]),
            (
                "(orientaton: portrait)",
                &["UnknownFeature { name: \"orientaton\", nearest: Some(\"orientation\") }"],
            ),
            ("(min-width)", &["MissingValue { feature: \"min-width\" }"]),
            (
                "(orientation: potrait)",
                &["BadValue { feature: \"orientation\", words: [\"portrait\", \"landscape\"] }"],
            ),
            ("(max-width: red)", &["BadValue { feature: \"width\", words: [] }"]),
            ("(max-width 600px)", &["MissingColon"]),
            ("(max-width: 600px, orientation: portrait)", &["CommaInBrackets"]),
            ("(width =< 900px)", &["BadComparison"]),
            ("(400px <= width >= 700px)", &["BadComparison"]),
            ("(max-width: var(--small))", &["Variable"]),
            ("(--small)", &["Variable"]),
            ("$phone", &["Variable"]),
            ("mobile", &["UnknownMedium { name: \"mobile\", nearest: None }"]),
            ("sreen and (min-width: 1px)", &["UnknownMedium { name: \"sreen\", nearest: Some(\"screen\") }"]),
            ("handheld", &["OldMedium { name: \"handheld\" }"]),
            ("(print)", &["BracketedMedium { name: \"print\" }"]),
            ("(min-width: 600px) or (print)", &["BracketedMedium { name: \"print\" }"]),
            ("(min-width: 1px) and (max-width: 9px) or (color)", &["MixedWords"]),
            (
                "screen and (max-width: 600px) and (min-width: 800px)",
                &["Contradiction { feature: \"width\" }"],
            ),
            ("(900px <= width <= 600px)", &["Contradiction { feature: \"width\" }"]),
            ("print, (max-width: 600)", &["MissingUnit { number: \"600\" }"]),
        ];
        for (list, expected) in table {
            let found: Vec<String> =
                media_faults(list).iter().map(|fault| format!("{:?}", fault.kind)).collect();
            assert_eq!(found, *expected, "{list}");
        }
        assert!(!media_faults("print, (max-width: 600)")[0].is_only);
    }
}
