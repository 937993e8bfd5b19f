//! What looks as if a template left it in the files of a pin, to be filled in.

use std::sync::LazyLock;

use regex::Regex;

use super::leftover_signs::{Belongs, may_have_any, signs_in};
use crate::markup::{MarkupPiece, markup_pieces, tag_attributes};
use crate::plan::{FileText, PlannedPin};
use crate::script::{TextPlace, text_places};
use crate::source::Span;

/// Something that looks as if it was left to be filled in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Leftover {
    /// The file: which of its pin's.
    pub(super) file: PinFile,
    pub(super) span: Span,
    pub(super) name: String,
    pub(super) help: &'static str,
}

/// A file of a pin.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum PinFile {
    Script,
    Style,
    Markup(usize),
}

impl PinFile {
    pub(super) fn text(self, planned: &PlannedPin) -> Option<&FileText> {
        match self {
            PinFile::Script => planned.script.as_ref(),
            PinFile::Style => planned.style.as_ref().map(|style| &style.file),
            PinFile::Markup(number) => planned.markup.get(number).map(|markup| &markup.text),
        }
    }
}

/// What looks left over in the files of a pin.
pub(super) fn leftovers_of(planned: &PlannedPin) -> Vec<Leftover> {
    let mut files = vec![(PinFile::Script, script_texts as Texts), (PinFile::Style, style_texts as Texts)];
    files.extend((0..planned.markup.len()).map(|number| (PinFile::Markup(number), markup_texts as Texts)));
    files.into_iter().flat_map(|(kind, texts)| of_file(planned, kind, texts)).collect()
}

/// The texts of a file in which something may be left over, and what belongs there.
type Texts = fn(&str) -> Vec<(Span, Belongs)>;

/// In a file that is longer, in bytes, words in small letters say nothing.
const LONGEST: usize = 50_000;

fn of_file(planned: &PlannedPin, kind: PinFile, texts: Texts) -> Vec<Leftover> {
    let Some(file) = kind.text(planned) else { return Vec::new() };
    let text = file.text.as_str();
    // Few files have any sign: those alone are cut into their texts.
    if !may_have_any(text) {
        return Vec::new();
    }
    let mut found: Vec<(Span, &'static str)> = Vec::new();
    for (span, belongs) in texts(text) {
        let inner = file.text.slice(span);
        for (range, help) in signs_in(inner, belongs) {
            // The bare host is what scripts hold relative addresses against, and nothing is fetched from there.
            let is_base = inner[range.clone()].starts_with("//")
                && inner[range.end..].trim_matches('/').is_empty()
                && kind == PinFile::Script;
            // An index of words, or a text of instructions in a library, has such words of its own.
            let is_word = text.len() > LONGEST && inner[range.clone()].starts_with("your");
            if !is_base && !is_word {
                found.push((Span::new(range.start, range.end).shifted(span.start as usize), help));
            }
        }
    }
    found.sort_by_key(|(span, _)| *span);
    found.dedup_by(|b, a| b.0.start < a.0.end);
    let told = found.into_iter();
    told.map(|(span, help)| Leftover { file: kind, span, name: file.text.slice(span).to_owned(), help })
        .collect()
}

/// What stands before a text of a script, and so what belongs there.
static BEFORE: LazyLock<Vec<(Regex, Belongs)>> = LazyLock::new(|| {
    let ways = [
        (
            r"(?:getElementById|getElementsByClassName|querySelector|querySelectorAll|closest|matches|\$)\(\s*$",
            Belongs::Name,
        ),
        (
            r#"(?:\b(?:fetch|open|assign|replace|import)\(\s*|\b(?:href|src|action|location|url|link|poster)["']?\s*[:=]\s*|["'](?:href|src|action|poster)["']\s*,\s*)$"#,
            Belongs::Address,
        ),
        (r#"(?i)(?:key|token|secret|id|pixel|account)["']?\s*[:=]\s*$"#, Belongs::Key),
        (r#"(?:fontFamily["']?\s*[:=]\s*|["']font-family["']\s*[:,]\s*)$"#, Belongs::Font),
    ];
    ways.into_iter().map(|(text, belongs)| (pattern(text), belongs)).collect()
});

fn script_texts(text: &str) -> Vec<(Span, Belongs)> {
    let mut found = Vec::new();
    for (span, place) in text_places(text) {
        let quotes = match place {
            TextPlace::Quoted => 1,
            TextPlace::Template => 0,
            TextPlace::RegExp | TextPlace::Comment => continue,
        };
        let (start, end) = (span.start as usize + quotes, (span.end as usize).saturating_sub(quotes));
        if start >= end || !text.is_char_boundary(start) || !text.is_char_boundary(end) {
            continue;
        }
        let own = Span::new(start, end);
        let belongs = belongs_behind(text, start - quotes, &text[start..end]);
        found.push((own, belongs));
        if belongs == Belongs::Name {
            // In a selector.
            found.extend(named_in(text, own, &IN_SHEET[..NAMES]));
        }
    }
    found
}

/// What belongs behind a part of a script.
fn belongs_behind(script: &str, end: usize, own: &str) -> Belongs {
    // What is asked for stands close by.
    const NEAR: usize = 60;
    let mut from = end.saturating_sub(NEAR);
    while !script.is_char_boundary(from) {
        from += 1;
    }
    let before = script[from..end].trim_end_matches('`');
    // `const RECORD_ID = "RECORD_ID"` gives a name to itself.
    let named = before.trim_end_matches([' ', '=', ':', '"', '\'']);
    if named.ends_with(own) {
        return Belongs::Anything;
    }
    let found = BEFORE.iter().find(|(regex, _)| regex.is_match(before));
    found.map_or(Belongs::Anything, |(_, belongs)| *belongs)
}

/// The places of a sheet where names, addresses and fonts stand.
static IN_SHEET: LazyLock<Vec<(Regex, Belongs)>> = LazyLock::new(|| {
    let ways = [
        (r"#([\w-]+)", Belongs::Name),
        (r#"\[[\w-]+[~|^$*]?=\s*["']?([^"'\]\n]+)["']?\s*\]"#, Belongs::Name),
        (r#"(?i)url\(\s*["']?([^"')\n]+)["']?\s*\)"#, Belongs::Address),
        (r#"(?i)font-family\s*:\s*["']([^"'\n]+)["']"#, Belongs::Font),
        (r#"(?i)content\s*:\s*["']([^"'\n]+)["']"#, Belongs::Prose),
    ];
    ways.into_iter().map(|(text, belongs)| (pattern(text), belongs)).collect()
});

fn pattern(text: &str) -> Regex {
    #[allow(clippy::expect_used, reason = "the patterns are our own, and a test reads all of them")]
    Regex::new(text).expect("a pattern of our own")
}

/// How many of these are of names.
const NAMES: usize = 2;

/// What some patterns find in a part of a text.
fn named_in(text: &str, part: Span, ways: &[(Regex, Belongs)]) -> Vec<(Span, Belongs)> {
    let mut found = Vec::new();
    for (regex, belongs) in ways {
        let hits = regex.captures_iter(&text[part.range()]).filter_map(|hit| hit.get(1));
        let spans = hits.map(|hit| Span::new(hit.start(), hit.end()).shifted(part.start as usize));
        found.extend(spans.map(|span| (span, *belongs)));
    }
    found
}

/// All of a sheet but its comments, and the names, addresses and fonts in it.
fn style_texts(text: &str) -> Vec<(Span, Belongs)> {
    let (mut parts, mut from) = (Vec::new(), 0);
    while let Some(start) = text[from..].find("/*").map(|at| from + at) {
        parts.push(Span::new(from, start));
        from = text[start + 2..].find("*/").map_or(text.len(), |end| start + end + 4);
    }
    parts.push(Span::new(from, text.len()));
    let mut found = Vec::new();
    for part in parts {
        found.extend(named_in(text, part, &IN_SHEET));
        found.push((part, Belongs::Anything));
    }
    found
}

/// Texts and the values of attributes.
fn markup_texts(text: &str) -> Vec<(Span, Belongs)> {
    let mut found = Vec::new();
    for (span, piece) in markup_pieces(text) {
        match piece {
            MarkupPiece::Text { .. } => found.push((trimmed(text, span), Belongs::Prose)),
            MarkupPiece::StartTag { .. } => {
                let tag = &text[span.range()];
                for own in tag_attributes(tag).1 {
                    let Some(value) = own.value else { continue };
                    let belongs = match tag[own.name.range()].to_ascii_lowercase().as_str() {
                        "src" | "href" | "action" | "poster" | "srcset" | "data" => Belongs::Address,
                        "id" | "class" | "for" | "name" => Belongs::Name,
                        name if name.starts_with("data-") || name.starts_with("aria-") => Belongs::Name,
                        "alt" | "title" => Belongs::Prose,
                        _ => Belongs::Anything,
                    };
                    found.push((value.shifted(span.start as usize), belongs));
                }
            }
            MarkupPiece::EndTag { .. } | MarkupPiece::Comment => {}
        }
    }
    found
}

/// A span without the blanks around what is in it.
fn trimmed(text: &str, span: Span) -> Span {
    let inner = &text[span.range()];
    let blanks = inner.len() - inner.trim_start().len();
    let from = span.start as usize + blanks;
    Span::new(from, from + inner.trim().len())
}
