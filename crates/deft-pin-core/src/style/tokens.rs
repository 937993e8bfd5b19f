//! Flaws that reach further than they look: quotes, comments and brackets that nothing closes,
//! and closing brackets that close nothing.

use cssparser::{ParseError, Parser, Token};

use crate::source::Span;

/// A kind of bracket.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bracket {
    /// `{ }`
    Curly,
    /// `[ ]`
    Square,
    /// `( )`, also those of a function.
    Round,
}

impl Bracket {
    /// The character that closes it.
    pub fn closer(self) -> char {
        match self {
            Bracket::Curly => '}',
            Bracket::Square => ']',
            Bracket::Round => ')',
        }
    }
}

/// What is wrong with the tokens at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FlawKind {
    /// A bracket that the file ends in.
    Unclosed(Bracket),
    /// A comment that the file ends in.
    UnclosedComment,
    /// A quote that the file ends in, or one that its line ends in.
    UnclosedString,
    /// A `url(` with a quote, a bracket or a blank in the middle.
    BadUrl,
    /// A closing bracket with nothing to close.
    Stray(Bracket),
    /// Brackets nested more deeply than anybody does; what is in them was not looked at.
    TooDeep,
}

/// A flaw and its place: the opening bracket, quote or comment.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Flaw {
    /// What is wrong.
    pub kind: FlawKind,
    /// The token; for an unclosed one, from there to where it ends for a browser.
    pub span: Span,
}

/// Every flaw of a text's tokens, in order.
pub fn flaws(text: &str) -> Vec<Flaw> {
    let mut found = Vec::new();
    scan(text, &mut Parser::new(text), &mut found);
    found.sort_by_key(|flaw| flaw.span);
    found
}

fn scan(text: &str, input: &mut Parser<'_>, found: &mut Vec<Flaw>) {
    while !is_too_deep(found) {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        let end = input.position().byte_index();
        let raw = &text[start..end];
        let span = Span::new(start, end);
        let mut flaw = |kind| found.push(Flaw { kind, span });
        match token {
            Token::Comment(_) if raw.len() < 4 || !raw.ends_with("*/") => flaw(FlawKind::UnclosedComment),
            Token::QuotedString(_) if end == text.len() && !is_closed_string(raw) => {
                flaw(FlawKind::UnclosedString)
            }
            Token::BadString(_) => flaw(FlawKind::UnclosedString),
            Token::BadUrl(_) => flaw(FlawKind::BadUrl),
            Token::UnquotedUrl(_) if !raw.ends_with(')') => flaw(FlawKind::Unclosed(Bracket::Round)),
            Token::CloseCurlyBracket => flaw(FlawKind::Stray(Bracket::Curly)),
            Token::CloseSquareBracket => flaw(FlawKind::Stray(Bracket::Square)),
            Token::CloseParenthesis => flaw(FlawKind::Stray(Bracket::Round)),
            Token::CurlyBracketBlock => scan_block(text, input, span, Bracket::Curly, found),
            Token::SquareBracketBlock => scan_block(text, input, span, Bracket::Square, found),
            Token::ParenthesisBlock | Token::Function(_) => {
                scan_block(text, input, span, Bracket::Round, found)
            }
            _ => {}
        }
    }
}

fn scan_block(text: &str, input: &mut Parser<'_>, opener: Span, bracket: Bracket, found: &mut Vec<Flaw>) {
    let mut inside = 0;
    let before = found.len();
    let result: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
        scan(text, input, found);
        inside = input.position().byte_index();
        Ok(())
    });
    if is_too_deep(found) {
        // Told already, further in.
    } else if result.is_err() {
        found.push(Flaw { kind: FlawKind::TooDeep, span: opener });
    } else if !text[inside..].starts_with(bracket.closer()) {
        // What the bracket swallowed closes nothing, for that reason alone; and what swallowed
        // the end of this one is the cause of both.
        let swallowed = found.split_off(before);
        let cause = |flaw: &Flaw| match flaw.kind {
            FlawKind::Unclosed(inner) => inner != Bracket::Curly,
            FlawKind::UnclosedString | FlawKind::UnclosedComment | FlawKind::BadUrl => true,
            FlawKind::Stray(_) | FlawKind::TooDeep => false,
        };
        let caused = swallowed.iter().any(cause);
        found.extend(swallowed.into_iter().filter(|flaw| !matches!(flaw.kind, FlawKind::Stray(_))));
        if !caused {
            let span = Span { start: opener.start, end: Span::at(text.len()).end };
            found.push(Flaw { kind: FlawKind::Unclosed(bracket), span });
        }
    }
}

/// Once brackets are too deep, where the others end is anybody's guess.
fn is_too_deep(found: &[Flaw]) -> bool {
    found.last().is_some_and(|flaw| flaw.kind == FlawKind::TooDeep)
}

pub(super) fn is_closed_string(raw: &str) -> bool {
    let mut characters = raw.chars();
    let quote = characters.next();
    let mut escaped = false;
    for character in characters {
        if escaped {
            escaped = false;
        } else if character == '\\' {
            escaped = true;
        } else if Some(character) == quote {
            return true;
        }
    }
    false
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_left_open_is_told_where_it_opens() {
        use FlawKind::*;
        let table: &[(&str, &[(FlawKind, usize)])] = &[
            ("a { b: c(d) }", &[]),
            ("a { b: c", &[(Unclosed(Bracket::Curly), 2)]),
            ("a { b: c(d; }", &[(Unclosed(Bracket::Round), 7)]),
            ("a { b: 'c; }\n", &[(UnclosedString, 7)]),
            ("a { b { c: d", &[(Unclosed(Bracket::Curly), 2), (Unclosed(Bracket::Curly), 6)]),
            ("a { b: 'c;\n d: e }", &[(UnclosedString, 7)]),
            ("a { b: 'c", &[(UnclosedString, 7)]),
            ("a {} /* b", &[(UnclosedComment, 5)]),
            ("a {} } b {}", &[(Stray(Bracket::Curly), 5)]),
            ("a { b: url(x y) }", &[(BadUrl, 7)]),
            ("a[b='\\'']{}", &[]),
        ];
        for (text, expected) in table {
            let found: Vec<_> = flaws(text).iter().map(|f| (f.kind, f.span.start as usize)).collect();
            assert_eq!(found, *expected, "{text}");
        }
    }

    #[test]
    fn deep_nesting_is_told_and_not_followed() {
        let text = "{".repeat(100_000);
        let kinds: Vec<_> = flaws(&text).iter().map(|flaw| flaw.kind).collect();
        assert_eq!(kinds, [FlawKind::TooDeep]);
    }
}
