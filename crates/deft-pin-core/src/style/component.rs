//! Values as components, without blanks and comments (css-syntax-3, "component values").

use cssparser::{ParseError, Parser, Token};

/// A component of a value.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Tok {
    Word(String),
    Function(String, Vec<Tok>),
    Number(f64, bool),
    Percentage(f64),
    Dimension(f64, String),
    Text(String),
    Url,
    Hash(String),
    Comma,
    Mark(char),
    Block(char, Vec<Tok>),
}

/// Stands for a `+` or `-` without blanks on both of its sides, which calculates nothing.
pub(super) const TIGHT: char = '\u{b1}';

impl Tok {
    /// Whether it is this word, in any case.
    pub(super) fn is_word(&self, word: &str) -> bool {
        matches!(self, Tok::Word(own) if own.eq_ignore_ascii_case(word))
    }
}

/// Whether a component passes a test, or one inside of it does.
pub(super) fn any(tokens: &[Tok], test: &dyn Fn(&Tok) -> bool) -> bool {
    tokens.iter().any(|token| {
        test(token)
            || match token {
                Tok::Function(_, inner) | Tok::Block(_, inner) => any(inner, test),
                _ => false,
            }
    })
}

/// The parts of a value between its own commas.
pub(super) fn parts(tokens: &[Tok]) -> impl Iterator<Item = &[Tok]> + Clone {
    tokens.split(|token| matches!(token, Tok::Comma))
}

/// The components of a value.
///
/// # Errors
/// Something stands in it that no value may have.
pub(super) fn tokens(input: &mut Parser<'_>) -> Result<Vec<Tok>, ParseError<()>> {
    let mut found = Vec::new();
    let mut is_behind_blank = true;
    while let Ok(token) = input.next_including_whitespace().cloned() {
        let was_behind_blank = std::mem::replace(&mut is_behind_blank, false);
        let mut nested = || input.parse_nested_block(tokens);
        found.push(match token {
            Token::WhiteSpace(_) => {
                is_behind_blank = true;
                continue;
            }
            Token::Ident(word) => Tok::Word(word.to_string()),
            Token::Function(name) => Tok::Function(name.to_string(), nested()?),
            Token::Number { value, int_value, .. } => Tok::Number(value.into(), int_value.is_some()),
            Token::Percentage { unit_value, .. } => Tok::Percentage(f64::from(unit_value) * 100.0),
            Token::Dimension { value, unit, .. } => Tok::Dimension(value.into(), unit.to_ascii_lowercase()),
            Token::QuotedString(text) => Tok::Text(text.to_string()),
            Token::UnquotedUrl(_) => Tok::Url,
            Token::Hash(name) | Token::IDHash(name) => Tok::Hash(name.to_string()),
            Token::Comma => Tok::Comma,
            Token::Delim(mark @ ('+' | '-')) => {
                let start = input.state();
                let is_before_blank =
                    matches!(input.next_including_whitespace(), Ok(Token::WhiteSpace(_)) | Err(_));
                input.reset(&start);
                Tok::Mark(if was_behind_blank && is_before_blank { mark } else { TIGHT })
            }
            Token::Delim(mark) => Tok::Mark(mark),
            Token::Colon => Tok::Mark(':'),
            Token::Semicolon => Tok::Mark(';'),
            Token::ParenthesisBlock => Tok::Block('(', nested()?),
            Token::SquareBracketBlock => Tok::Block('[', nested()?),
            Token::CurlyBracketBlock => Tok::Block('{', nested()?),
            _ => return Err(ParseError::unexpected_token()),
        });
    }
    Ok(found)
}
