//! What standards or other engines have and Chromium has not, where its words alone (`keywords.rs`) do not tell.

use super::component::{Tok, any, parts};
use super::keywords::takes_word;

/// Whether a property is the size of a box in some direction.
fn is_size(property: &str) -> bool {
    ["width", "height", "inline-size", "block-size"].iter().any(|side| {
        property.strip_suffix(side).is_some_and(|before| {
            matches!(
                before,
                "" | "min-" | "max-" | "-webkit-logical-" | "-webkit-min-logical-" | "-webkit-max-logical-"
            )
        })
    })
}

/// Whether a value has something in it that Chromium does not take, though the property's grammar has room for it.
pub(super) fn is_not_chromiums(property: &str, tokens: &[Tok]) -> bool {
    any(tokens, &is_other_function)
        || match property {
            // Its words stand together as each stands alone.
            "text-transform" | "text-autospace" => tokens
                .iter()
                .any(|token| matches!(token, Tok::Word(word) if takes_word(property, word) == Some(false))),
            "align-items" | "align-self" | "align-content" | "justify-items" | "justify-self" => {
                tokens.windows(2).any(|pair| {
                    pair[0].is_word("baseline") && (pair[1].is_word("first") || pair[1].is_word("last"))
                })
            }
            "flex" | "-webkit-flex" | "flex-basis" | "-webkit-flex-basis" | "columns" | "column-width"
            | "-webkit-column-width" | "size"
                if has_function(tokens, "fit-content") =>
            {
                true
            }
            "animation" => has_function(tokens, "scroll") || has_function(tokens, "view"),
            "animation-name" => tokens.contains(&Tok::Text(String::new())),
            "counter-reset" => has_function(tokens, "reversed"),
            // A corner is no side of a shape.
            "clip-path" | "shape-outside" => ["circle", "ellipse"].iter().any(|name| {
                let corner = |token: &Tok| token.is_word("closest-corner") || token.is_word("farthest-corner");
                tokens.iter().any(|token| {
                    matches!(token, Tok::Function(own, inner) if own.eq_ignore_ascii_case(name) && inner.iter().any(corner))
                })
            }),
            // One word alone.
            "object-fit" | "vertical-align" => tokens.len() > 1,
            "column-span" | "-webkit-column-span" => tokens.iter().any(|token| match token {
                Tok::Number(..) => true,
                Tok::Function(name, _) => super::math::is_math(name),
                _ => false,
            }),
            "column-width" | "-webkit-column-width" | "columns" => {
                any(tokens, &|token| matches!(token, Tok::Percentage(_)))
            }
            "white-space" => tokens.len() > 1 && tokens.iter().any(|token| token.is_word("none")),
            "stroke-width" => tokens.contains(&Tok::Comma),
            "d" => tokens.iter().any(|token| matches!(token, Tok::Text(_))),
            _ if property.ends_with("-radius") && !property.ends_with("border-radius") => {
                tokens.contains(&Tok::Mark('/'))
            }
            _ if is_size(property) => has_function(tokens, "fit-content"),
            _ => false,
        }
}

fn has_function(tokens: &[Tok], name: &str) -> bool {
    tokens.iter().any(|token| matches!(token, Tok::Function(own, _) if own.eq_ignore_ascii_case(name)))
}

fn is_other_function(token: &Tok) -> bool {
    let Tok::Function(name, inner) = token else { return false };
    match name.to_ascii_lowercase().as_str() {
        "running" | "generic" | "inherit" => true,
        // Two colors, no fewer and no more (css-color-5 has room for any number).
        "color-mix" => {
            parts(inner).filter(|part| !part.first().is_some_and(|word| word.is_word("in"))).count() != 2
        }
        // Two images and a share behind them.
        "cross-fade" => parts(inner).any(|part| part.len() > 1),
        _ => false,
    }
}
