//! What a style sheet loads: its `url()`s and the sheets that it imports.

use cssparser::{ParseError, Parser, Token};

use crate::source::Span;

/// One address in a sheet.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct UrlUse {
    /// The address, unescaped.
    pub url: String,
    /// The token that holds it: all of `url(…)`, or the string.
    pub span: Span,
    /// Whether the token is a string and has to stay one.
    pub is_string: bool,
    /// Whether it is the address of an `@import`.
    pub import: bool,
}

/// Every address that a sheet loads something from, in order. Those of `@namespace` are names.
pub fn urls(text: &str) -> Vec<UrlUse> {
    let mut found = Vec::new();
    scan(text, &mut Parser::new(text), Where::Anywhere, &mut found);
    found
}

#[derive(Clone, Copy, PartialEq)]
enum Where {
    Anywhere,
    /// After `@import`, up to its address.
    Import,
    /// After `@namespace`, up to the semicolon.
    Namespace,
    /// In `image-set()`, where a string is an address.
    ImageSet,
}

fn scan(text: &str, input: &mut Parser<'_>, outer: Where, found: &mut Vec<UrlUse>) {
    let mut place = outer;
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        let span = Span::new(start, input.position().byte_index());
        let mut take = |url: &str, span: Span, is_string: bool| {
            if place != Where::Namespace {
                found.push(UrlUse { url: url.to_owned(), span, is_string, import: place == Where::Import });
            }
        };
        match token {
            Token::AtKeyword(name) if name.eq_ignore_ascii_case("import") => place = Where::Import,
            Token::AtKeyword(name) if name.eq_ignore_ascii_case("namespace") => place = Where::Namespace,
            Token::Semicolon => place = outer,
            Token::UnquotedUrl(url) => {
                take(&url, span, false);
                place = outer;
            }
            Token::QuotedString(url) if matches!(place, Where::Import | Where::ImageSet) => {
                take(&url, span, true);
                place = outer;
            }
            Token::Function(name) if name.eq_ignore_ascii_case("url") || name.eq_ignore_ascii_case("src") => {
                let mut url = None;
                let mut end = 0;
                let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
                    url = input.expect_string_cloned().ok();
                    end = input.position().byte_index();
                    Ok(())
                });
                // What stands behind the string (`url("a" crossorigin(…))`) stays as it is, so
                // the string alone is the token.
                if let Some(url) = url {
                    let string_start = text[span.end as usize..end].len()
                        - text[span.end as usize..end].trim_ascii_start().len();
                    take(&url, Span::new(span.end as usize + string_start, end), true);
                    place = outer;
                }
            }
            Token::Function(name) => {
                let image_set =
                    name.eq_ignore_ascii_case("image-set") || name.eq_ignore_ascii_case("-webkit-image-set");
                let inner = if image_set { Where::ImageSet } else { Where::Anywhere };
                // In `type("image/png")` of an image set the string is no address.
                descend(text, input, inner, found);
            }
            Token::CurlyBracketBlock => {
                place = outer;
                descend(text, input, Where::Anywhere, found);
            }
            Token::ParenthesisBlock | Token::SquareBracketBlock => {
                descend(text, input, Where::Anywhere, found)
            }
            _ => {}
        }
    }
}

fn descend(text: &str, input: &mut Parser<'_>, place: Where, found: &mut Vec<UrlUse>) {
    let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
        scan(text, input, place, found);
        Ok(())
    });
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_what_a_sheet_loads_and_nothing_else() {
        let text = "@charset 'x';@import 'a.css' screen;@import url(b.css);@namespace s url(http://n);\
            p{background:url( c.png ),url(\"d\\'.png\"/**/),image-set('e.png' 1x type('image/png'));content:'no'}";
        let found: Vec<_> =
            urls(text).into_iter().map(|u| (u.url, text[u.span.range()].to_owned(), u.import)).collect();
        let expected = [
            ("a.css", "'a.css'", true),
            ("b.css", "url(b.css)", true),
            ("c.png", "url( c.png )", false),
            ("d'.png", "\"d\\'.png\"", false),
            ("e.png", "'e.png'", false),
        ];
        let expected: Vec<_> = expected.iter().map(|(u, s, i)| (u.to_string(), s.to_string(), *i)).collect();
        assert_eq!(found, expected);
    }
}
