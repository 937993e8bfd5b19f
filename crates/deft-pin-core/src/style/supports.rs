//! What `@supports` asks (css-conditional-3), as far as the tables of properties and selectors tell.

use super::component::{Tok, tokens};
use super::engines::takers;
use super::properties::is_property;
use super::truth::Truth;
use super::values::supported;
use crate::markup::is_supported_selector;

/// Whether a browser supports what the prelude of `@supports` asks for.
pub(super) fn supports(text: &str) -> Truth {
    let mut input = cssparser::Parser::new(text);
    supports_condition(&mut input).unwrap_or(Truth::No)
}

/// What is wrong with what `@supports` asks, where that is no support.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum SupportsFault {
    /// A declaration stands without brackets.
    MissingBrackets,
    /// It cannot be read.
    Unreadable,
    /// No browser supports this declaration.
    Declaration {
        /// Its property.
        property: String,
        /// Its value.
        value: String,
    },
}

/// What is wrong with the prelude of an `@supports` that no browser says yes to.
pub(super) fn supports_fault(text: &str) -> Option<SupportsFault> {
    let mut input = cssparser::Parser::new(text);
    match supports_condition(&mut input) {
        Err(_) => {
            let has_colon =
                |text: &str| text.split_once(':').is_some_and(|(name, _)| is_property(name.trim()));
            Some(if has_colon(text) { SupportsFault::MissingBrackets } else { SupportsFault::Unreadable })
        }
        Ok(Truth::No) => {
            // One declaration alone: more of them tell old browsers apart.
            let found = tokens(&mut cssparser::Parser::new(text)).ok()?;
            let [Tok::Block('(', _)] = found.as_slice() else { return None };
            let (property, value) = text.trim().strip_prefix('(')?.strip_suffix(')')?.split_once(':')?;
            let (property, value) = (property.trim().to_owned(), value.trim().to_owned());
            // With a vendor's prefix, or where another engine has it, engines are told apart.
            let is_others = property.starts_with('-')
                || value.starts_with('-')
                || !takers(&property, without_importance(&value)).is_empty();
            (!is_others).then_some(SupportsFault::Declaration { property, value })
        }
        Ok(_) => None,
    }
}

type Bad = cssparser::ParseError<()>;

/// The formats and the technologies of fonts that Chromium has (css-fonts-4, "font-format" and
/// "font-tech").
const FONT_FORMATS: &[&str] = &["collection", "opentype", "truetype", "woff", "woff2"];
const FONT_TECHNOLOGIES: &[&str] = &[
    "color-cbdt", "color-colrv0", "color-colrv1", "color-sbix", "features-aat", "features-opentype",
    "palettes", "variations",
];

/// A value without its `!important`.
fn without_importance(value: &str) -> &str {
    match value.rsplit_once('!') {
        Some((rest, word)) if word.trim().eq_ignore_ascii_case("important") => rest,
        _ => value,
    }
}

fn supports_condition(input: &mut cssparser::Parser<'_>) -> Result<Truth, Bad> {
    if input.try_parse(|input| input.expect_ident_matching("not")).is_ok() {
        let inner = supports_in_parens(input)?;
        input.expect_exhausted()?;
        return Ok(!inner);
    }
    let mut truth = supports_in_parens(input)?;
    let mut first = None;
    while !input.is_exhausted() {
        let word = input.expect_ident()?.to_ascii_lowercase();
        // They are not mixed without brackets.
        if *first.get_or_insert_with(|| word.clone()) != word {
            return Err(Bad::unexpected_token());
        }
        let next = supports_in_parens(input)?;
        truth = match word.as_str() {
            "and" => truth.and(next),
            "or" => truth.or(next),
            _ => return Err(Bad::unexpected_token()),
        };
    }
    Ok(truth)
}

fn supports_in_parens(input: &mut cssparser::Parser<'_>) -> Result<Truth, Bad> {
    match input.next()?.clone() {
        cssparser::Token::ParenthesisBlock => input.parse_nested_block(|input| {
            if let Ok(truth) = input.try_parse(|input| {
                let truth = supports_condition(input)?;
                input.expect_exhausted()?;
                Ok::<_, Bad>(truth)
            }) {
                return Ok(truth);
            }
            let declaration = input.try_parse(|input| {
                let name = input.expect_ident()?.to_string();
                input.expect_colon()?;
                Ok::<_, Bad>(name)
            });
            let value = rest_of(input);
            Ok(match declaration {
                Ok(name) if name.starts_with("--") => Truth::Yes,
                Ok(name) if name.starts_with('-') && super::properties::property(&name).is_none() => {
                    Truth::No
                }
                Ok(name) if !is_property(&name) || value.trim().is_empty() => Truth::No,
                Ok(name) => supported(&name, without_importance(&value)),
                Err(_) => Truth::No,
            })
        }),
        cssparser::Token::Function(name) => {
            let inner = input.parse_nested_block(|input| Ok::<_, Bad>(rest_of(input)))?;
            Ok(match name.to_ascii_lowercase().as_str() {
                "selector" => Truth::from(is_supported_selector(&inner)),
                "font-format" => {
                    Truth::from(FONT_FORMATS.contains(&inner.trim().to_ascii_lowercase().as_str()))
                }
                "font-tech" => {
                    Truth::from(FONT_TECHNOLOGIES.contains(&inner.trim().to_ascii_lowercase().as_str()))
                }
                "at-rule" => Truth::AtRunTime,
                // What nobody knows is not supported (css-conditional-3, "general enclosed").
                _ => Truth::No,
            })
        }
        _ => Err(Bad::unexpected_token()),
    }
}

/// The text up to the end of a block.
pub(super) fn rest_of(input: &mut cssparser::Parser<'_>) -> String {
    let start = input.position();
    while input.next().is_ok() {}
    input.slice_from(start).to_owned()
}
