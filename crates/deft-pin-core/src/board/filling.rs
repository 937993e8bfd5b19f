//! Values put into texts: by what they are and by where they stand. Whatever the text of a value, it comes out as one
//! value, text or literal, and nothing around it changes.

use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

use super::value::{Value, ValueKind, is_single, literal, seconds};
use crate::markup::{MarkupPiece, TagAttribute, markup_pieces, tag_attributes};
use crate::script::{TextPlace, text_places};
use crate::source::{FilePath, Fragment, SourceText, Span};

/// A name in double braces.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Placeholder {
    /// All of it, with its braces.
    pub span: Span,
    /// The name.
    pub name: String,
}

/// What kind of text is filled.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum FilledKind {
    /// CSS, and selectors.
    Style,
    /// JavaScript.
    Script,
    /// HTML.
    Markup,
}

/// A text with its values put in.
#[derive(Clone, Debug, Default)]
pub struct Filled {
    /// The text.
    pub text: String,
    /// Its parts, in order.
    parts: Vec<Part>,
    /// Names of values that were put in.
    pub used: BTreeSet<String>,
    /// Names that have no value, where they stand in the text as it was written.
    pub unfilled: Vec<Placeholder>,
    /// Values that cannot stand where their names do: in the name of a tag or of an attribute.
    pub misplaced: Vec<Placeholder>,
}

/// A part of a filled text.
#[derive(Clone, Copy, Debug)]
struct Part {
    /// Where it begins in the filled text.
    at: u32,
    /// Where it begins in the text as it was written, or the value's text on the board.
    from: u32,
    /// Whether it is a value.
    is_value: bool,
}

/// The names in double braces in a text, in order.
pub fn placeholders(text: &str) -> Vec<Placeholder> {
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(start) = text[at..].find("{{").map(|start| at + start) {
        let inner = text[start + 2..].trim_start_matches([' ', '\t']);
        let length = inner.len()
            - inner.trim_start_matches(|c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_').len();
        let (name, rest) = inner.split_at(length);
        let end = rest.trim_start_matches([' ', '\t']).strip_prefix("}}").map(|rest| text.len() - rest.len());
        match end.filter(|_| name.starts_with(|c: char| c.is_ascii_alphabetic())) {
            Some(end) => {
                found.push(Placeholder { span: Span::new(start, end), name: name.to_owned() });
                at = end;
            }
            None => at = start + 1,
        }
    }
    found
}

/// Where in a text a value stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Context {
    /// By itself: a value of CSS, an expression, a text of HTML.
    Alone,
    /// As a part of a name or number of CSS.
    InName,
    /// Right behind a `#`: as the beginning of an ID, or of a colour's digits.
    BehindHash,
    /// As the beginning of one.
    StartsName,
    /// Between quotes.
    Quoted,
    /// In a `url()` without quotes, as all of it.
    WholeUrl,
    /// In one, as a part of it.
    InUrl,
    /// In a template of JavaScript.
    Template,
    /// In a regular expression.
    RegExp,
    /// In a comment.
    Comment,
    /// As the value of an attribute, without quotes, and as all of it.
    WholeAttribute,
    /// In one, as a part of it.
    InAttribute,
    /// In the text of a `<style>`.
    Sheet,
    /// Where no value can stand.
    Nowhere,
}

/// Puts values into a text.
pub fn fill(text: &str, kind: FilledKind, values: &[&Value]) -> Filled {
    let mut filled = Filled::default();
    let places = placeholders(text);
    if places.is_empty() {
        filled.text = text.to_owned();
        return filled;
    }
    let contexts = contexts(text, kind, &places);
    // A pin's own values come first.
    let mut named: HashMap<&str, &Value> = HashMap::new();
    named.extend(values.iter().rev().map(|value| (value.name.value.as_str(), *value)));
    let mut done = 0;
    for (place, context) in places.into_iter().zip(contexts) {
        let Some(value) = named.get(place.name.as_str()) else {
            filled.unfilled.push(place);
            continue;
        };
        filled.used.insert(place.name.clone());
        if context == Context::Nowhere {
            filled.misplaced.push(place);
            continue;
        }
        filled.own(text, done, place.span.start as usize);
        done = place.span.end as usize;
        let at = Span::at(filled.text.len()).start;
        filled.parts.push(Part { at, from: value.span().start, is_value: true });
        filled.text.push_str(&put(value, kind, context));
    }
    filled.own(text, done, text.len());
    filled
}

impl Filled {
    fn own(&mut self, text: &str, from: usize, to: usize) {
        let at = Span::at(self.text.len()).start;
        self.parts.push(Part { at, from: Span::at(from).start, is_value: false });
        self.text.push_str(&text[from..to]);
    }

    /// The text, whose places are those of the file that it is from, and those of values the board's.
    pub fn into_text(
        self,
        own: (&FilePath, &Arc<SourceText>),
        board: (&FilePath, &Arc<SourceText>),
    ) -> SourceText {
        let fragment = |part: &Part| {
            let (file, text) = if part.is_value { board } else { own };
            Fragment { at: part.at, file: file.clone(), own: Arc::clone(text), from: part.from }
        };
        let fragments = self.parts.iter().map(fragment).collect();
        SourceText::assembled(self.text, fragments)
    }
}

/// The text with each placeholder as a name of the same length, which any language reads as one.
fn with_names(text: &str, places: &[Placeholder]) -> String {
    let mut out = String::with_capacity(text.len());
    let mut done = 0;
    for place in places {
        out.push_str(&text[done..place.span.start as usize]);
        out.push_str(&"z".repeat(place.span.range().len()));
        done = place.span.end as usize;
    }
    out.push_str(&text[done..]);
    out
}

fn contexts(text: &str, kind: FilledKind, places: &[Placeholder]) -> Vec<Context> {
    let named = with_names(text, places);
    match kind {
        FilledKind::Style => style_contexts(&named, places),
        FilledKind::Script => script_contexts(&named, places),
        FilledKind::Markup => markup_contexts(&named, places),
    }
}

fn script_contexts(text: &str, places: &[Placeholder]) -> Vec<Context> {
    let texts = text_places(text);
    let context = |place: &Placeholder| {
        let after = texts.partition_point(|(span, _)| span.start <= place.span.start);
        // Texts do not hold each other.
        let around = texts[..after].last().filter(|(span, _)| span.end >= place.span.end);
        match around.map(|(_, place)| *place) {
            Some(TextPlace::Quoted) => Context::Quoted,
            Some(TextPlace::Template) => Context::Template,
            Some(TextPlace::RegExp) => Context::RegExp,
            Some(TextPlace::Comment) => Context::Comment,
            None => Context::Alone,
        }
    };
    places.iter().map(context).collect()
}

/// In one pass (css-syntax-3, 4): comments, quotes, and what stands in `url()`.
fn style_contexts(text: &str, places: &[Placeholder]) -> Vec<Context> {
    let bytes = text.as_bytes();
    let mut contexts = Vec::new();
    let mut places = places.iter().peekable();
    let mut at = 0;
    // Everything up to the end of a token is in it.
    let mut take = |contexts: &mut Vec<Context>, end: usize, context: &dyn Fn(&Placeholder) -> Context| {
        while let Some(place) = places.next_if(|place| (place.span.start as usize) < end) {
            contexts.push(context(place));
        }
    };
    while at < bytes.len() {
        let rest = &text[at..];
        let end = match bytes[at] {
            b'/' if rest.starts_with("/*") => {
                let end = rest[2..].find("*/").map_or(text.len(), |end| at + end + 4);
                take(&mut contexts, end, &|_| Context::Comment);
                end
            }
            quote @ (b'"' | b'\'') => {
                let end = string_end(bytes, at + 1, quote);
                take(&mut contexts, end, &|_| Context::Quoted);
                end
            }
            b'u' | b'U' if is_bare_url(text, at) => {
                let inside = at + 4 + (rest[4..].len() - rest[4..].trim_start().len());
                let end = rest.find(')').map_or(text.len(), |end| at + end);
                let inner = inside..inside.max(at + rest[..end - at].trim_end().len());
                take(&mut contexts, end, &|place| match place.span.range() == inner {
                    true => Context::WholeUrl,
                    false => Context::InUrl,
                });
                end
            }
            _ => {
                let end = at + rest.chars().next().map_or(1, char::len_utf8);
                take(&mut contexts, end, &|place| {
                    let range = place.span.range();
                    let is_part = |c: char| {
                        c.is_alphanumeric() || matches!(c, '-' | '_' | '#' | '@' | '\\') || !c.is_ascii()
                    };
                    let before = text[..range.start].chars().next_back().is_some_and(is_part);
                    let after = text[range.end..].chars().next();
                    let goes_on =
                        after.is_some_and(|c| is_part(c) && c != '#' && c != '@') || after == Some('(');
                    // A dot before a name makes it a class, and none of a number.
                    let dotted = text[..range.start].ends_with('.');
                    match before {
                        true if text[..range.start].ends_with('#') => Context::BehindHash,
                        true => Context::InName,
                        false if goes_on || dotted => Context::StartsName,
                        false => Context::Alone,
                    }
                });
                end
            }
        };
        at = end.max(at + 1);
        while at < text.len() && !text.is_char_boundary(at) {
            at += 1;
        }
    }
    contexts
}

/// Where a quoted text ends: behind its quote, or where its line does (css-syntax-3, 4.3.5).
fn string_end(bytes: &[u8], from: usize, quote: u8) -> usize {
    let mut at = from;
    while at < bytes.len() {
        match bytes[at] {
            b'\\' => at += 2,
            b'\n' | b'\r' | 0x0c => return at,
            byte if byte == quote => return at + 1,
            _ => at += 1,
        }
    }
    bytes.len()
}

/// Whether a `url(` with nothing in quotes begins there.
fn is_bare_url(text: &str, at: usize) -> bool {
    let is_name = |c: char| c.is_alphanumeric() || c == '-' || c == '_' || !c.is_ascii();
    let begins = text.get(at..at + 4).is_some_and(|start| start.eq_ignore_ascii_case("url("));
    begins
        && !text[..at].chars().next_back().is_some_and(is_name)
        && !text[at + 4..].trim_start().starts_with(['"', '\''])
}

fn markup_contexts(text: &str, places: &[Placeholder]) -> Vec<Context> {
    let pieces = markup_pieces(text);
    // Many may stand in one tag.
    let mut last: Option<(Span, Vec<TagAttribute>)> = None;
    let mut context = |place: &Placeholder| {
        let after = pieces.partition_point(|(span, _)| span.start <= place.span.start);
        let Some((span, piece)) = pieces[..after].last().filter(|(span, _)| span.end >= place.span.end)
        else {
            return Context::Nowhere;
        };
        match piece {
            MarkupPiece::Text { raw: Some(name) } if name == "style" => Context::Sheet,
            MarkupPiece::Text { raw: Some(name) } if !matches!(name.as_str(), "textarea" | "title") => {
                Context::Nowhere
            }
            MarkupPiece::Text { .. } => Context::Alone,
            MarkupPiece::Comment => Context::Comment,
            MarkupPiece::EndTag { .. } => Context::Nowhere,
            MarkupPiece::StartTag { .. } => {
                let own = Span { start: place.span.start - span.start, end: place.span.end - span.start };
                if last.as_ref().is_none_or(|(known, _)| known != span) {
                    last = Some((*span, tag_attributes(&text[span.range()]).1));
                }
                let attributes = last.as_ref().map_or(&[][..], |(_, attributes)| attributes);
                let holds = |value: &Span| value.start <= own.start && own.end <= value.end;
                let after = attributes.partition_point(|attribute| attribute.name.start <= own.start);
                let within = attributes[..after]
                    .last()
                    .filter(|attribute| attribute.value.as_ref().is_some_and(holds));
                match within {
                    Some(attribute) if attribute.quote.is_some() => Context::Quoted,
                    Some(attribute) if attribute.value == Some(own) => Context::WholeAttribute,
                    Some(_) => Context::InAttribute,
                    None => Context::Nowhere,
                }
            }
        }
    };
    places.iter().map(&mut context).collect()
}

/// A value as it is written at a place.
fn put(value: &Value, kind: FilledKind, context: Context) -> String {
    match (kind, context) {
        (_, Context::Comment) => plain(value)
            .replace("*/", "* /")
            .replace("--", "- -")
            .replace(['\n', '\r', '\u{2028}', '\u{2029}', '>'], " "),
        (FilledKind::Style, _) | (FilledKind::Markup, Context::Sheet) => {
            let items: Vec<String> =
                value.items.iter().map(|item| in_style(value.kind, &item.value, context)).collect();
            let text = items.join(", ");
            // In a page an end tag would end the sheet.
            if context == Context::Sheet { text.replace("</", "<\\/") } else { text }
        }
        (FilledKind::Script, Context::Alone) => {
            let text = value.script();
            let is_bare = text.starts_with(['"', '['])
                || value.kind == ValueKind::Boolean
                || text.bytes().all(|b| b.is_ascii_digit());
            if is_bare { text } else { format!("({text})") }
        }
        (FilledKind::Script, Context::RegExp) => regex_text(&plain(value)),
        (FilledKind::Script, _) => quoted_text(&plain(value)),
        (FilledKind::Markup, Context::WholeAttribute) => format!("\"{}\"", escaped(&plain(value))),
        (FilledKind::Markup, Context::InAttribute) => {
            let text = escaped(&plain(value));
            let blank = |c: char| {
                if c.is_whitespace() || matches!(c, '=' | '`') {
                    format!("&#{};", c as u32)
                } else {
                    c.to_string()
                }
            };
            text.chars().map(blank).collect()
        }
        (FilledKind::Markup, _) => escaped(&plain(value)),
    }
}

/// A value's text, as it is written; of a list all of them.
fn plain(value: &Value) -> String {
    let items: Vec<&str> = value.items.iter().map(|item| item.value.as_str()).collect();
    items.join(", ")
}

fn in_style(kind: ValueKind, text: &str, context: Context) -> String {
    let mut out = String::new();
    // Writing to a string does not fail.
    match (context, kind) {
        (Context::Quoted, _) => {
            let _ = cssparser::serialize_string(text, &mut out);
            // A quote of either kind may be around it.
            let inner = out.get(1..out.len().saturating_sub(1)).unwrap_or_default();
            return inner.replace('\'', "\\'");
        }
        (Context::WholeUrl, _) => {
            let _ = cssparser::serialize_string(text, &mut out);
        }
        (Context::InUrl, _) => {
            for c in text.chars() {
                match c {
                    '"' | '\'' | '(' | ')' | '\\' => out.extend(['\\', c]),
                    c if c.is_whitespace() || c.is_control() => out.push_str(&format!("\\{:x} ", c as u32)),
                    c => out.push(c),
                }
            }
        }
        (_, ValueKind::Number | ValueKind::Length | ValueKind::Boolean) if is_single(text) => {
            out.push_str(text.trim())
        }
        (Context::BehindHash, ValueKind::Id | ValueKind::Class) => {
            let _ = cssparser::serialize_identifier(text, &mut out);
        }
        (Context::InName | Context::BehindHash, _) => {
            let _ = cssparser::serialize_name(text, &mut out);
        }
        (Context::StartsName, _) => {
            let _ = cssparser::serialize_identifier(text, &mut out);
        }
        (_, ValueKind::Colour) if is_single(text) => out.push_str(text.trim()),
        (_, ValueKind::Time) if seconds(text).is_some() => {
            out = seconds(text).map(|seconds| format!("{seconds}s")).unwrap_or_default();
        }
        (_, ValueKind::Id | ValueKind::Class) => {
            let _ = cssparser::serialize_identifier(text, &mut out);
        }
        (_, ValueKind::Selector) if crate::markup::parse_selectors(text).is_ok() => out.push_str(text),
        (_, ValueKind::Url) => {
            let _ = cssparser::serialize_string(text, &mut out);
            out = format!("url({out})");
        }
        _ => {
            let _ = cssparser::serialize_string(text, &mut out);
        }
    }
    out
}

/// A text for between quotes or backquotes of JavaScript.
fn quoted_text(text: &str) -> String {
    let quoted = literal(text);
    let inner = quoted.get(1..quoted.len().saturating_sub(1)).unwrap_or_default();
    inner.replace('\'', "\\'").replace('`', "\\`").replace("${", "\\${")
}

/// A text for a regular expression that matches just it.
fn regex_text(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        match c {
            '\n' => out.push_str("\\n"),
            '\r' => out.push_str("\\r"),
            '\u{2028}' => out.push_str("\\u2028"),
            '\u{2029}' => out.push_str("\\u2029"),
            '<' => out.push_str("\\x3c"),
            c if c.is_ascii_punctuation()
                && !matches!(
                    c,
                    '_' | ',' | '!' | '"' | '\'' | '#' | '%' | '&' | ':' | ';' | '=' | '>' | '@' | '`' | '~'
                ) =>
            {
                out.extend(['\\', c]);
            }
            c => out.push(c),
        }
    }
    out
}

/// A text for HTML, in quotes or without.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
        .replace('"', "&quot;")
        .replace('\'', "&#39;")
}

#[cfg(test)]
mod tests {
    use super::super::spanned::Spanned;
    use super::*;

    fn value(name: &str, kind: ValueKind, text: &str) -> Value {
        let spanned = |text: &str| Spanned { value: text.to_owned(), span: Span::new(7, 9) };
        Value {
            name: spanned(name),
            kind,
            is_said: true,
            is_list: false,
            items: vec![spanned(text)],
            each: None,
        }
    }

    fn filled(kind: FilledKind, text: &str) -> String {
        let all = [
            value("t", ValueKind::Text, "a 'b' \"c\" </x>"),
            value("n", ValueKind::Number, "-3"),
            value("len", ValueKind::Length, "12px"),
            value("c", ValueKind::Colour, "#a33400"),
            value("at", ValueKind::Time, "10:22"),
            value("on", ValueKind::Boolean, "false"),
            value("url", ValueKind::Url, "/a(b).png"),
            value("id", ValueKind::Id, "1a"),
            value("bad", ValueKind::Colour, "red; } a { x"),
            value("sel", ValueKind::Selector, "#a > b"),
        ];
        fill(text, kind, &all.iter().collect::<Vec<_>>()).text
    }

    #[test]
    fn values_are_put_in_by_what_they_are_and_where_they_stand() {
        for (text, expected) in [
            ("a { color: {{c}} }", "a { color: #a33400 }"),
            ("a { color: {{ bad }} }", "a { color: \"red; } a { x\" }"),
            ("a { margin: {{n}}px -{{len}} }", "a { margin: -3px -12px }"),
            ("a { content: {{t}} }", "a { content: \"a 'b' \\\"c\\\" </x>\" }"),
            (
                "a { content: \"{{t}}\" '{{t}}' }",
                "a { content: \"a \\'b\\' \\\"c\\\" </x>\" 'a \\'b\\' \\\"c\\\" </x>' }",
            ),
            ("a { background: url({{url}}) }", "a { background: url(\"/a(b).png\") }"),
            ("a { background: {{url}} }", "a { background: url(\"/a(b).png\") }"),
            (
                "a { background: url(/x/{{t}}.png) }",
                "a { background: url(/x/a\\20 \\'b\\'\\20 \\\"c\\\"\\20 </x>.png) }",
            ),
            ("#{{id}}, .{{id}} {}", "#\\31 a, .\\31 a {}"),
            ("a { color: #{{n}} }", "a { color: #-3 }"),
            ("{{sel}} i { transition-delay: {{at}} }", "#a > b i { transition-delay: 622s }"),
            ("/* {{t}} */ a {}", "/* a 'b' \"c\" </x  */ a {}"),
            ("a { x: {{none}} }", "a { x: {{none}} }"),
        ] {
            assert_eq!(filled(FilledKind::Style, text), expected, "{text}");
        }
        for (text, expected) in [
            ("let a = {{t}};", "let a = \"a 'b' \\\"c\\\" \\u003c/x>\";"),
            ("let a = -{{n}} + {{at}};", "let a = -(-3) + 622;"),
            (
                "go('{{t}}', `${1}{{t}}`)",
                "go('a \\'b\\' \\\"c\\\" \\u003c/x>', `${1}a \\'b\\' \\\"c\\\" \\u003c/x>`)",
            ),
            ("if ({{on}} || !{{on}}) a('{{on}}')", "if (false || !false) a('false')"),
            ("x = /^{{url}}$/", "x = /^\\/a\\(b\\)\\.png$/"),
            ("// {{t}}\ny", "// a 'b' \"c\" </x \ny"),
        ] {
            assert_eq!(filled(FilledKind::Script, text), expected, "{text}");
        }
        for (text, expected) in [
            ("<p>{{t}}</p>", "<p>a &#39;b&#39; &quot;c&quot; &lt;/x&gt;</p>"),
            ("<a href={{url}}>", "<a href=\"/a(b).png\">"),
            ("<a title='{{t}}'>", "<a title='a &#39;b&#39; &quot;c&quot; &lt;/x&gt;'>"),
            ("<a title=x{{t}}>", "<a title=xa&#32;&#39;b&#39;&#32;&quot;c&quot;&#32;&lt;/x&gt;>"),
            ("<style>a { color: {{c}} }</style>", "<style>a { color: #a33400 }</style>"),
            ("<{{id}}>", "<{{id}}>"),
            ("<!-- {{t}} -->", "<!-- a 'b' \"c\" </x  -->"),
        ] {
            assert_eq!(filled(FilledKind::Markup, text), expected, "{text}");
        }
    }

    #[test]
    fn names_in_braces_are_found_and_nothing_else() {
        let names: Vec<String> = placeholders("{{a}} {{ b-1 }} {{{c}}} {{ d e }} {{1}} {{}} {{f\n}} ${{g}}")
            .into_iter()
            .map(|own| own.name)
            .collect();
        assert_eq!(names, ["a", "b-1", "c", "g"]);
    }
}
