//! What stands in a sheet and is no CSS: tags, comments and character references of HTML, and characters
//! that look like a blank or like nothing and are parts of names.

use cssparser::{ParseError, Parser, Token};

use crate::source::Span;

/// What stands in a sheet and belongs elsewhere.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ForeignText {
    /// A tag of HTML: its name.
    Tag(String),
    /// `<!--` or `-->`, which CSS passes over between rules.
    HtmlComment,
    /// A character reference of HTML, and the character that it stands for.
    Reference(char),
    /// A quote that is curled, which no CSS takes for one.
    CurlyQuote(char),
    /// A character that looks like a blank or like nothing, and is part of a name for CSS.
    OddBlank(char),
}

/// The references that people write, without the `&` and the `;`.
const REFERENCES: &[(&str, char)] = &[
    ("amp", '&'),
    ("lt", '<'),
    ("gt", '>'),
    ("quot", '"'),
    ("apos", '\''),
    ("nbsp", '\u{a0}'),
    ("copy", '©'),
    ("reg", '®'),
    ("trade", '™'),
    ("hellip", '…'),
    ("mdash", '—'),
    ("ndash", '–'),
    ("laquo", '«'),
    ("raquo", '»'),
    ("lsquo", '‘'),
    ("rsquo", '’'),
    ("ldquo", '“'),
    ("rdquo", '”'),
    ("middot", '·'),
    ("bull", '•'),
    ("times", '×'),
    ("larr", '←'),
    ("uarr", '↑'),
    ("rarr", '→'),
    ("darr", '↓'),
    ("check", '✓'),
    ("shy", '\u{ad}'),
    ("euro", '€'),
    ("pound", '£'),
];

/// The foreign text of a sheet, in order.
pub(super) fn foreign_texts(text: &str) -> Vec<(ForeignText, Span)> {
    let mut found = Vec::new();
    // Most sheets have none of it.
    if text.contains(['<', '&', '\u{a0}'])
        || text.contains("-->")
        || text.contains(is_odd_blank)
        || text.contains(is_curly_quote)
    {
        scan(text, &mut Parser::new(text), &mut found);
    }
    found
}

/// Whether a character looks like a blank or like nothing, and is part of a name for CSS (css-syntax-3,
/// "ident code point"). Those that join letters of some scripts are not meant.
fn is_odd_blank(character: char) -> bool {
    matches!(
        character,
        '\u{a0}' | '\u{ad}' | '\u{1680}' | '\u{2000}'
            ..='\u{200b}'
                | '\u{2028}'
                | '\u{2029}'
                | '\u{202f}'
                | '\u{205f}'
                | '\u{2060}'
                | '\u{3000}'
                | '\u{feff}'
    )
}

fn scan(text: &str, input: &mut Parser<'_>, found: &mut Vec<(ForeignText, Span)>) {
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        let end = input.position().byte_index();
        let raw = &text[start..end];
        match token {
            Token::CDO | Token::CDC => found.push((ForeignText::HtmlComment, Span::new(start, end))),
            Token::Delim('<') => {
                if let Some((name, length)) = tag(&text[start..]) {
                    found.push((ForeignText::Tag(name), Span::new(start, start + length)));
                    // What the tag has in it is told with it.
                    while input.position().byte_index() < start + length && skip(input) {}
                }
            }
            Token::Delim('&') => {
                let reference = reference(&text[start..]);
                found.extend(
                    reference.map(|(reference, length)| (reference, Span::new(start, start + length))),
                );
            }
            Token::QuotedString(_) | Token::UnquotedUrl(_) => {
                if matches!(token, Token::UnquotedUrl(_)) {
                    note_odd_characters(raw, start, found);
                }
                found.extend(raw.match_indices('&').filter_map(|(at, _)| {
                    let (reference, length) = reference(&raw[at..])?;
                    Some((reference, Span::new(start + at, start + at + length)))
                }));
            }
            Token::CurlyBracketBlock
            | Token::SquareBracketBlock
            | Token::ParenthesisBlock
            | Token::Function(_) => {
                note_odd_characters(raw, start, found);
                let nested: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
                    scan(text, input, found);
                    Ok(())
                });
                if nested.is_err() {
                    return;
                }
            }
            Token::Comment(_) => {}
            _ => note_odd_characters(raw, start, found),
        }
    }
}

/// Passes over one token with all that is in it; `false` at the end.
fn skip(input: &mut Parser<'_>) -> bool {
    input.next_including_whitespace_and_comments().is_ok()
}

fn is_curly_quote(character: char) -> bool {
    matches!(character, '“' | '”' | '„' | '‘' | '’' | '‚' | '‟' | '‛')
}

/// Notes the first character of a name that does not belong there.
fn note_odd_characters(raw: &str, start: usize, found: &mut Vec<(ForeignText, Span)>) {
    // A mark at the start of a file says how it is encoded.
    let is_mark = |at: usize, own: char| own == '\u{feff}' && start + at == 0;
    let mut odd = raw.char_indices().filter_map(|(at, own)| {
        let what = match own {
            own if is_curly_quote(own) => ForeignText::CurlyQuote(own),
            own if is_odd_blank(own) && !is_mark(at, own) => ForeignText::OddBlank(own),
            _ => return None,
        };
        Some((what, Span::new(start + at, start + at + own.len_utf8())))
    });
    found.extend(odd.next());
}

/// The name of the tag that a text starts with, and how long the tag is.
fn tag(text: &str) -> Option<(String, usize)> {
    let rest = text.strip_prefix('<')?;
    let rest = rest.strip_prefix('/').unwrap_or(rest);
    let name: String = rest.chars().take_while(char::is_ascii_alphanumeric).collect();
    let is_letter = name.starts_with(|first: char| first.is_ascii_alphabetic());
    // No tag that is pasted is longer, and a sheet may be made of `<`.
    const LONGEST: usize = 4096;
    let end = text[..text.floor_char_boundary(LONGEST)].find('>')?;
    let is_on_its_line = !text[..end].contains(['{', '}', ';']) || name.eq_ignore_ascii_case("script");
    (is_letter && is_on_its_line).then(|| (name.to_ascii_lowercase(), end + 1))
}

/// The reference that a text starts with, and how long it is.
fn reference(text: &str) -> Option<(ForeignText, usize)> {
    let rest = text.strip_prefix('&')?;
    let length = rest.find(|c: char| !c.is_ascii_alphanumeric() && c != '#')?;
    let (name, after) = rest.split_at(length);
    let numbered = || {
        let digits = name.strip_prefix('#')?;
        let number = match digits.strip_prefix(['x', 'X']) {
            Some(digits) => u32::from_str_radix(digits, 16).ok()?,
            None => digits.parse().ok()?,
        };
        char::from_u32(number)
    };
    let named = REFERENCES.iter().find(|(own, _)| *own == name).map(|(_, character)| *character);
    let character = named.or_else(numbered).filter(|_| after.starts_with(';'))?;
    Some((ForeignText::Reference(character), length + 2))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_no_css_is_found() {
        let table: &[(&str, &[&str])] = &[
            ("a > b { color: red } @media (400px < width) { a { & > i {} } }", &[]),
            ("/* <style> &nbsp; \u{a0} */ a { content: '<b> \u{a0}' } a&.x {} &amp-x {}", &[]),
            ("\u{feff}a {}", &[]),
            ("<style>\na {}\n</style>", &["Tag(\"style\") <style>", "Tag(\"style\") </style>"]),
            ("<style type='text/css'> a {}", &["Tag(\"style\") <style type='text/css'>"]),
            ("<link rel=stylesheet href=\"https://x.example/a;b.css\">", &[]),
            (
                "<link rel=stylesheet href=\"https://x.example/a.css\"> a {}",
                &["Tag(\"link\") <link rel=stylesheet href=\"https://x.example/a.css\">"],
            ),
            ("<!-- a {} -->", &["HtmlComment <!--", "HtmlComment -->"]),
            ("a &gt; b {}", &["Reference('>') &gt;"]),
            ("a { content: '&#8594;&nbsp;' }", &["Reference('→') &#8594;", "Reference('\\u{a0}') &nbsp;"]),
            ("a { background: url(x?a=1&amp;b=2) }", &["Reference('&') &amp;"]),
            ("a { background: url(x?a=1&b=2) }", &[]),
            ("a { content: '“x”'; quotes: '‘' '’' }", &[]),
            ("a { font-family: “Quay Sans”, serif }", &["CurlyQuote('“') “", "CurlyQuote('”') ”"]),
            ("a[href=“x”] {}", &["CurlyQuote('“') “"]),
            ("a { background: url(“a.png”) }", &["CurlyQuote('“') “"]),
            ("\u{200b}a {}", &["OddBlank('\\u{200b}') \u{200b}"]),
            (
                "a { color:\u{a0}red; margin: 0\u{200b} }",
                &["OddBlank('\\u{a0}') \u{a0}", "OddBlank('\\u{200b}') \u{200b}"],
            ),
        ];
        for (text, expected) in table {
            let found = foreign_texts(text);
            let shown: Vec<String> =
                found.iter().map(|(what, span)| format!("{what:?} {}", &text[span.range()])).collect();
            assert_eq!(shown, *expected, "{text}");
        }
    }
}
