//! The pieces of a text of HTML: tags with their attributes, texts and comments, each with its place.

use std::convert::Infallible;

use html5gum::emitters::callback::{CallbackEmitter, CallbackEvent};
use html5gum::{Span as TokenSpan, Tokenizer};

use crate::source::Span;

/// What a piece of HTML is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum MarkupPiece {
    /// A start tag.
    StartTag {
        /// Its name, in lower case.
        name: String,
        /// Whether it ends in `/>`.
        is_self_closing: bool,
    },
    /// An end tag.
    EndTag {
        /// Its name, in lower case.
        name: String,
    },
    /// A run of text; that of a `<style>` or `<script>` with its name.
    Text {
        /// The element whose text is no markup.
        raw: Option<String>,
    },
    /// A comment.
    Comment,
}

/// Cuts a text of HTML into its pieces, in order.
pub fn markup_pieces(text: &str) -> Vec<(Span, MarkupPiece)> {
    let mut pieces = Vec::new();
    let mut open: Option<(String, usize)> = None;
    let mut raw: Option<String> = None;
    let mut emitter =
        CallbackEmitter::new(|event: CallbackEvent<'_>, span: TokenSpan<usize>| -> Option<Infallible> {
            let at = Span::new(span.start, span.end);
            let named = |name: &[u8]| String::from_utf8_lossy(name).to_ascii_lowercase();
            match event {
                CallbackEvent::OpenStartTag { name } => open = Some((named(name), span.start)),
                CallbackEvent::CloseStartTag { self_closing } => {
                    if let Some((name, start)) = open.take() {
                        raw = Some(name.clone()).filter(|name| {
                            matches!(
                                name.as_str(),
                                "style"
                                    | "script"
                                    | "textarea"
                                    | "title"
                                    | "xmp"
                                    | "iframe"
                                    | "noembed"
                                    | "noframes"
                                    | "plaintext"
                            )
                        });
                        pieces.push((
                            Span::new(start, span.end),
                            MarkupPiece::StartTag { name, is_self_closing: self_closing },
                        ));
                    }
                }
                CallbackEvent::EndTag { name } => {
                    raw = None;
                    pieces.push((at, MarkupPiece::EndTag { name: named(name) }));
                }
                CallbackEvent::String { .. } => pieces.push((at, MarkupPiece::Text { raw: raw.clone() })),
                CallbackEvent::Comment { .. } => pieces.push((at, MarkupPiece::Comment)),
                CallbackEvent::AttributeName { .. }
                | CallbackEvent::AttributeValue { .. }
                | CallbackEvent::Doctype { .. }
                | CallbackEvent::Error(_) => {}
            }
            None
        });
    emitter.naively_switch_states(true);
    let Ok(()) = Tokenizer::new_with_emitter(text, emitter).finish();
    pieces
}

/// An attribute of a tag.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TagAttribute {
    /// Its name.
    pub name: Span,
    /// What is between its quotes, or stands there without; none of an attribute without a value.
    pub value: Option<Span>,
    /// The quote around its value.
    pub quote: Option<char>,
}

/// The attributes of a tag, which begins with its `<` (HTML, "before attribute name state" and what follows).
/// Also the place behind its name.
pub fn tag_attributes(tag: &str) -> (usize, Vec<TagAttribute>) {
    let bytes = tag.as_bytes();
    let blank = |b: u8| matches!(b, b'\t' | b'\n' | 0x0c | b'\r' | b' ');
    let until = |from: usize, ends: &dyn Fn(u8) -> bool| {
        bytes[from..].iter().position(|b| ends(*b)).map_or(bytes.len(), |length| from + length)
    };
    let name_end = until(1.min(bytes.len()), &|b| blank(b) || b == b'/' || b == b'>');
    let mut at = name_end;
    let mut found = Vec::new();
    loop {
        at = until(at, &|b| !blank(b) && b != b'/');
        if at >= bytes.len() || bytes[at] == b'>' {
            return (name_end, found);
        }
        // A `=` in front is a part of the name.
        let end = until(at + 1, &|b| blank(b) || b == b'/' || b == b'>' || b == b'=');
        let name = Span::new(at, end);
        let sign = until(end, &|b| !blank(b));
        if bytes.get(sign) != Some(&b'=') {
            found.push(TagAttribute { name, value: None, quote: None });
            at = end;
            continue;
        }
        let start = until(sign + 1, &|b| !blank(b));
        let (value, quote, next) = match bytes.get(start) {
            Some(&quote @ (b'"' | b'\'')) => {
                let end = until(start + 1, &|b| b == quote);
                (Span::new(start + 1, end), Some(quote as char), (end + 1).min(bytes.len()))
            }
            Some(b'>') | None => (Span::at(start), None, start),
            Some(_) => {
                let end = until(start, &|b| blank(b) || b == b'>');
                (Span::new(start, end), None, end)
            }
        };
        found.push(TagAttribute { name, value: Some(value), quote });
        at = next;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn attributes_stand_where_a_browser_reads_them() {
        for (tag, expected) in [
            ("<a>", ""),
            ("<a href=x>", "href|x"),
            ("<a  href = \"x y\" b>", "href|\"x y; b"),
            ("<a b=''c>", "b|'; c"),
            ("<a/b=/c/>", "b|/c/"),
            ("<a =b=c>", "=b|c"),
            ("<a b= >", "b|"),
            ("<a\nclass=x\tid>", "class|x; id"),
            ("<a b=\"x", "b|\"x"),
            ("<br/>", ""),
            ("<a b=c/>", "b|c/"),
        ] {
            let (_, found) = tag_attributes(tag);
            let drawn: Vec<String> = found
                .iter()
                .map(|own| {
                    let value = own.value.map(|value| {
                        format!(
                            "|{}{}",
                            own.quote.map_or(String::new(), |q| q.to_string()),
                            &tag[value.range()]
                        )
                    });
                    format!("{}{}", &tag[own.name.range()], value.unwrap_or_default())
                })
                .collect();
            assert_eq!(drawn.join("; "), expected, "{tag}");
        }
    }

    #[test]
    fn pieces_are_those_of_the_tokenizer() {
        let text = "a<P class=x>b&amp;<!-- c --><style>d<b></style></P><br/>e";
        let drawn: Vec<&str> = markup_pieces(text).iter().map(|(span, _)| &text[span.range()]).collect();
        assert_eq!(
            drawn,
            ["a", "<P class=x>", "b&amp;", "<!-- c -->", "<style>", "d<b>", "</style>", "</P>", "<br/>", "e"]
        );
    }
}
