//! A sheet's text so that it can stand between `<style>` tags without ending there early.

use cssparser::{ParseError, Parser, Token};

use super::edit::{Edit, apply};
use crate::source::Span;

/// The same sheet with no `</style` in it (HTML, "RAWTEXT end tag name state": the text of the element ends at the first
/// one). `None` where it stands where it cannot be written otherwise.
pub fn inline_safe(text: &str) -> Option<String> {
    let places: Vec<usize> = dangers(text).collect();
    if places.is_empty() {
        return Some(text.to_owned());
    }
    let mut edits = Vec::new();
    scan(&mut Parser::new(text), text, &places, &mut edits);
    let safe = apply(text, edits);
    let harmless = dangers(&safe).next().is_none();
    harmless.then_some(safe)
}

fn dangers(text: &str) -> impl Iterator<Item = usize> + '_ {
    let bytes = text.as_bytes();
    memchr::memchr_iter(b'<', bytes)
        .filter(|&at| bytes.len() >= at + 7 && bytes[at..at + 7].eq_ignore_ascii_case(b"</style"))
}

/// A character with the backslash that escapes it already, if one does.
pub(crate) fn with_backslash(text: &str, at: usize) -> Span {
    let backslashes = text[..at].bytes().rev().take_while(|byte| *byte == b'\\').count();
    Span::new(at - backslashes % 2, at + 1)
}

fn scan(input: &mut Parser<'_>, text: &str, places: &[usize], edits: &mut Vec<Edit>) {
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        let end = input.position().byte_index();
        let from = places.partition_point(|&at| at < start);
        let inside = places[from..].iter().take_while(|&&at| at < end);
        match token {
            Token::Comment(_) => edits.extend(inside.map(|&at| Edit::insert(Span::at(at + 1).start, "\\"))),
            // An escape and the blank that ends it (css-syntax-3, 4.3.7).
            Token::QuotedString(_) | Token::UnquotedUrl(_) => {
                let escape = |&at: &usize| Edit { span: with_backslash(text, at), text: "\\3c ".to_owned() };
                edits.extend(inside.map(escape));
            }
            Token::Function(_)
            | Token::ParenthesisBlock
            | Token::SquareBracketBlock
            | Token::CurlyBracketBlock => {
                let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
                    scan(input, text, places, edits);
                    Ok(())
                });
            }
            _ => {}
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sheets_end_where_they_end() {
        let table = [
            ("a{content:'</style>'}", Some("a{content:'\\3c /style>'}")),
            ("a{b:url(x</STYLE>)}/* </style> */", Some("a{b:url(x\\3c /STYLE>)}/* <\\/style> */")),
            (r"a{content:'\</style>'}", Some(r"a{content:'\3c /style>'}")),
            (r"a{content:'\\</style>'}", Some(r"a{content:'\\\3c /style>'}")),
            (r"a{b:url(\</style>)}", Some(r"a{b:url(\3c /style>)}")),
            ("a </style> {}", None),
            ("a{b:c}", Some("a{b:c}")),
        ];
        for (text, expected) in table {
            assert_eq!(inline_safe(text).as_deref(), expected, "{text}");
        }
    }
}
