//! What `@supports` asks (css-conditional-3), as far as the tables of properties and selectors tell.

use super::properties::is_property;
use super::truth::Truth;
use super::values::supported;
use crate::markup::parse_selectors;

/// Whether a browser supports what the prelude of `@supports` asks for.
pub(super) fn supports(text: &str) -> Truth {
    let mut input = cssparser::Parser::new(text);
    supports_condition(&mut input).unwrap_or(Truth::No)
}

type Bad = cssparser::ParseError<()>;

fn supports_condition(input: &mut cssparser::Parser<'_>) -> Result<Truth, Bad> {
    if input.try_parse(|input| input.expect_ident_matching("not")).is_ok() {
        let inner = supports_in_parens(input)?;
        input.expect_exhausted()?;
        return Ok(!inner);
    }
    let mut truth = supports_in_parens(input)?;
    while !input.is_exhausted() {
        let word = input.expect_ident()?.to_ascii_lowercase();
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
                Ok(name) => supported(&name, &value),
                Err(_) => Truth::No,
            })
        }),
        cssparser::Token::Function(name) => {
            let inner = input.parse_nested_block(|input| Ok::<_, Bad>(rest_of(input)))?;
            Ok(match name.to_ascii_lowercase().as_str() {
                "selector" => Truth::from(parse_selectors(&inner).is_ok()),
                _ => Truth::AtRunTime,
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
