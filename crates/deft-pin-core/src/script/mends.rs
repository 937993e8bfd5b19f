//! What to write where a script does not parse: what was pasted that is no JavaScript, which bracket is open, which
//! quote is not a straight one.

use super::style_names::member_of;
use super::syntax::ScriptFlaw;
use crate::source::Span;

/// What there is to say of a flaw, better than a parser does.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Mend {
    /// Where it is mended, where that is not where the parser stopped.
    pub span: Option<Span>,
    /// What is wrong there.
    pub message: Option<String>,
    /// What to write.
    pub help: Option<String>,
}

impl Mend {
    fn new(span: Option<Span>, message: &str, help: impl Into<String>) -> Self {
        Mend { span, message: Some(message.to_owned()), help: Some(help.into()) }
    }
}

/// What to write where a script does not parse.
pub fn mend(text: &str, flaw: &ScriptFlaw) -> Mend {
    let Some(span) = flaw.span else { return Mend::default() };
    let at = text.floor_char_boundary((span.start as usize).min(text.len()));
    let here = &text[at..];
    if let Some(mend) = of_markup(text, at) {
        return mend;
    }
    if let Some(mend) = of_quotes(here, at) {
        return mend;
    }
    if let Some(mend) = of_references(text, at) {
        return mend;
    }
    if flaw.message.contains("already been declared") {
        return of_declaration(text, flaw);
    }
    if looks_like_css(text) {
        let help = "put the rules into the pin's `style`, and take them out of its `script`";
        return Mend::new(Some(Span::at(0)), "this is CSS, and a pin's script holds JavaScript alone", help);
    }
    if (here.trim_start().is_empty()
        || flaw.message.contains("EOF")
        || flaw.message.starts_with("Unterminated"))
        && let Some(mend) = of_open_bracket(text)
    {
        return mend;
    }
    of_word(text, at).or_else(|| of_closing_bracket(text, at)).unwrap_or_default()
}

/// Tags, and what servers read.
fn of_markup(text: &str, at: usize) -> Option<Mend> {
    let start = text[..at].rfind('<').filter(|start| at - start < 12 && !text[*start..at].contains('\n'));
    let start = if text[at..].starts_with('<') { at } else { start? };
    let tag = text[start + 1..].trim_start_matches('/');
    let name: String =
        tag.chars().take_while(|c| c.is_ascii_alphanumeric() || matches!(c, '?' | '!' | '%' | '-')).collect();
    let line = tag.lines().next().unwrap_or_default();
    let span = Some(Span::new(start, start + 1));
    Some(match name.to_ascii_lowercase().as_str() {
        "script" if line.contains("src=") => {
            let address = quoted_after(line, "src=").unwrap_or_else(|| "…".to_owned());
            let help = format!(
                "bring the file in as a library: `[library.NAME]` with `script = \"{address}\"`, and `needs = [\"NAME\"]` on the pin"
            );
            Mend::new(span, "a tag is no JavaScript", help)
        }
        "script" => {
            Mend::new(span, "a tag is no JavaScript", "take the tags out: a pin's file holds the code alone")
        }
        "link" => {
            let address = quoted_after(line, "href=").unwrap_or_else(|| "…".to_owned());
            let help = format!(
                "bring the sheet in as a library: `[library.NAME]` with `style = \"{address}\"`, and `needs = [\"NAME\"]` on the pin"
            );
            Mend::new(span, "a tag is no JavaScript", help)
        }
        "style" => Mend::new(span, "a tag is no JavaScript", "put the CSS in it into the pin's `style`"),
        name if name.starts_with('?') || name.starts_with('%') => Mend::new(
            span, "this is for a server, and no browser reads it", "write what the server would put there",
        ),
        "!--" => return None,
        name if name.starts_with(|c: char| c.is_ascii_alphabetic()) && flawed_at_tag(text, start) => {
            Mend::new(
                span,
                "a tag is no JavaScript",
                "put markup into a text: \"<p>…</p>\", or make elements: `document.createElement(\"p\")`",
            )
        }
        _ => return None,
    })
}

/// Whether a `<` begins a tag and compares nothing: no value stands before it.
fn flawed_at_tag(text: &str, start: usize) -> bool {
    let before = text[..start].trim_end();
    before.is_empty()
        || before.ends_with(['=', '(', ',', ';', '{', '}', ':', '+', '?', '&', '|'])
        || before.ends_with("return")
}

fn quoted_after(line: &str, key: &str) -> Option<String> {
    let rest = line.split_once(key)?.1;
    let quote = rest.chars().next()?;
    match quote {
        '"' | '\'' => rest[1..].split(quote).next().map(str::to_owned),
        _ => rest.split([' ', '>']).next().map(str::to_owned),
    }
}

/// Quotes that a text editor has bent.
fn of_quotes(here: &str, at: usize) -> Option<Mend> {
    let at = at + here.len() - here.trim_start_matches([' ', '\t']).len();
    let here = here.trim_start_matches([' ', '\t']);
    let first = here.chars().next()?;
    let span = Some(Span::new(at, at + first.len_utf8()));
    let straight = match first {
        '“' | '”' | '„' | '«' | '»' | '″' => '"',
        '‘' | '’' | '‚' | '′' => '\'',
        '\u{a0}' | '\u{200b}' | '\u{feff}' | '\u{2028}' => {
            return Some(Mend::new(
                span, "an odd blank stands here, which looks like a common one", "write a common blank",
            ));
        }
        '–' | '—' | '−' => {
            return Some(Mend::new(span, "this is a dash, and no minus", "write `-`"));
        }
        _ => return None,
    };
    Some(Mend::new(
        span,
        "this is a curled quote, which begins no text",
        format!("write straight quotes: `{straight}`"),
    ))
}

/// Character references of HTML.
fn of_references(text: &str, at: usize) -> Option<Mend> {
    const KNOWN: &[(&str, &str)] = &[
        ("&quot;", "\""),
        ("&amp;", "&"),
        ("&lt;", "<"),
        ("&gt;", ">"),
        ("&#39;", "'"),
        ("&apos;", "'"),
        ("&nbsp;", " "),
    ];
    let from = text.floor_char_boundary(at.saturating_sub(8));
    let to = text.ceil_char_boundary((at + 8).min(text.len()));
    let (place, reference, letter) = KNOWN
        .iter()
        .filter_map(|(reference, letter)| Some((from + text[from..to].find(reference)?, reference, letter)))
        .min_by_key(|(place, ..)| *place)?;
    let help = format!("write `{letter}` in place of `{reference}`, here and further on");
    let span = Some(Span::new(place, place + reference.len()));
    Some(Mend::new(span, "this is a character reference of HTML", help))
}

fn of_declaration(text: &str, flaw: &ScriptFlaw) -> Mend {
    let Some(again) = flaw.related else { return Mend::default() };
    let line = text[..(again.start as usize).min(text.len())].matches('\n').count() + 1;
    let help = format!(
        "it is declared on line {line} already: give this one another name, or set the first one, without a second declaration"
    );
    Mend { span: None, message: None, help: Some(help) }
}

/// Whether a text is a style sheet.
fn looks_like_css(text: &str) -> bool {
    let start = text.trim_start();
    let Some((selector, rest)) = start.split_once('{') else { return false };
    let is_selector = selector.len() < 200
        && !selector.contains(['(', ';', '=', '?'])
        && selector.trim_start().starts_with(['.', '#', '@', '*', '[']);
    let declaration = rest.split(['}', ';']).next().unwrap_or_default();
    is_selector && declaration.contains(':')
}

/// A bracket of a script, with the blanks before its line.
struct Open {
    letter: char,
    at: usize,
    indent: usize,
}

/// A line: where it and what is in it begin, and how many blanks stand before that.
#[derive(Clone, Copy)]
struct Line {
    start: usize,
    begins: usize,
    indent: usize,
}

/// The lines of a text.
struct Lines(Vec<Line>);

impl Lines {
    fn of(text: &str) -> Self {
        let starts = std::iter::once(0).chain(memchr::memchr_iter(b'\n', text.as_bytes()).map(|end| end + 1));
        let line = |start: usize| {
            let rest = &text[start..];
            let blank = |b: &u8| matches!(b, b' ' | b'\t');
            let indent = rest.bytes().take_while(blank).count();
            let begins =
                rest.find(|c: char| c == '\n' || !c.is_whitespace()).map_or(text.len(), |at| start + at);
            Line { start, begins, indent }
        };
        Lines(starts.map(line).collect())
    }

    /// The line of a place.
    fn at(&self, at: usize) -> Line {
        let after = self.0.partition_point(|line| line.start <= at);
        self.0[after.saturating_sub(1)]
    }
}

/// The brackets of a script, outside of texts and comments: what is left open, and the first that closes nothing. Of
/// one that is closed further to the left than it stands, its own closing bracket is missing.
fn brackets(text: &str) -> (Vec<Open>, Option<Open>, Option<usize>) {
    let bytes = text.as_bytes();
    let mut open: Vec<Open> = Vec::new();
    let mut suspect = None;
    let mut at = 0;
    let mut templates: Vec<usize> = Vec::new();
    let lines = Lines::of(text);
    while at < bytes.len() {
        match bytes[at] {
            b'/' if bytes.get(at + 1) == Some(&b'/') => {
                at += memchr::memchr(b'\n', &bytes[at..]).unwrap_or(bytes.len() - at);
            }
            b'/' if bytes.get(at + 1) == Some(&b'*') => {
                at = text[at + 2..].find("*/").map_or(bytes.len(), |end| at + 2 + end + 1);
            }
            quote @ (b'"' | b'\'') => {
                at += 1;
                while at < bytes.len() && bytes[at] != quote && bytes[at] != b'\n' {
                    at += 1 + usize::from(bytes[at] == b'\\');
                }
            }
            b'`' => at = end_of_template(bytes, at + 1, &mut templates, open.len()),
            b'}' if templates.last() == Some(&open.len()) => {
                templates.pop();
                at = end_of_template(bytes, at + 1, &mut templates, open.len());
            }
            letter @ (b'(' | b'[' | b'{') => {
                open.push(Open { letter: char::from(letter), at, indent: lines.at(at).indent })
            }
            letter @ (b')' | b']' | b'}') => {
                let wanted = match letter {
                    b')' => '(',
                    b']' => '[',
                    _ => '{',
                };
                match open.last() {
                    Some(last) if last.letter == wanted => {
                        if let Some(last) = open.pop()
                            && suspect.is_none()
                            && lines.at(at).begins >= at
                            && lines.at(at).indent < last.indent
                        {
                            suspect = Some(last);
                        }
                    }
                    _ => return (open, suspect, Some(at)),
                }
            }
            _ => {}
        }
        at += 1;
    }
    (open, suspect, None)
}

/// Where a template ends, or the code in it begins.
fn end_of_template(bytes: &[u8], mut at: usize, templates: &mut Vec<usize>, depth: usize) -> usize {
    while at < bytes.len() {
        match bytes[at] {
            b'\\' => at += 1,
            b'`' => return at,
            b'$' if bytes.get(at + 1) == Some(&b'{') => {
                templates.push(depth);
                return at + 1;
            }
            _ => {}
        }
        at += 1;
    }
    at
}

fn closing(letter: char) -> char {
    match letter {
        '(' => ')',
        '[' => ']',
        _ => '}',
    }
}

fn of_open_bracket(text: &str) -> Option<Mend> {
    let (mut open, suspect, wrong) = brackets(text);
    if wrong.is_some() {
        return None;
    }
    let last = suspect.or(open.pop())?;
    let close = closing(last.letter);
    let span = Some(Span::new(last.at, last.at + 1));
    Some(Mend::new(span, "this bracket is never closed", format!("close it with `{close}` where it ends")))
}

fn of_closing_bracket(text: &str, at: usize) -> Option<Mend> {
    let (open, _, wrong) = brackets(text);
    let wrong = wrong.filter(|wrong| wrong.abs_diff(at) < 3)?;
    let letter = &text[wrong..=wrong];
    let span = Some(Span::new(wrong, wrong + 1));
    Some(match open.last() {
        None => Mend::new(span, "this bracket closes nothing", format!("take `{letter}` out")),
        Some(last) => {
            let line = text[..last.at].matches('\n').count() + 1;
            let help = format!("`{}` on line {line} wants `{}` first", last.letter, closing(last.letter));
            Mend::new(span, "this is not the bracket that is open here", help)
        }
    })
}

/// Words of other languages, and properties of CSS.
fn of_word(text: &str, at: usize) -> Option<Mend> {
    let is_part = |c: char| c.is_alphanumeric() || matches!(c, '_' | '$' | '.' | '-');
    // What looks like a call may be a word with its condition.
    let before = text[..at].trim_end();
    let end = match before.strip_suffix(')').and_then(|inside| inside.rfind('(')) {
        Some(bracket) => before[..bracket].trim_end().len(),
        None => at,
    };
    let start = text[..end].trim_end().rfind(|c: char| !is_part(c)).map_or(0, |start| start + 1);
    let start = text.ceil_char_boundary(start);
    let word: String = text[start..].chars().take_while(|c| is_part(*c)).collect();
    let span = Some(Span::new(start, start + word.len()));
    let swap = |wanted: &str| Some(Mend { span, message: None, help: Some(format!("write `{wanted}`")) });
    match word.as_str() {
        "elseif" | "elsif" | "elif" => return swap("else if"),
        "func" | "fun" | "def" | "fn" => return swap("function"),
        _ => {}
    }
    if let Some(mend) = of_style(text, at) {
        return Some(mend);
    }
    // A quote inside of a text ends it.
    let before = &text[..at];
    let line = &before[before.rfind('\n').map_or(0, |line| line + 1)..];
    let is_inner = |quote: char| {
        line.ends_with(quote)
            && line[..line.len() - 1].ends_with(char::is_alphabetic)
            && line.matches(quote).count() == 2
    };
    if text[at..].starts_with(char::is_alphabetic) && (is_inner('\'') || is_inner('"')) {
        let quote = if line.ends_with('\'') { '\'' } else { '"' };
        let span = Some(Span::new(at - 1, at));
        return Some(Mend::new(
            span,
            "the text ends at this quote",
            format!("write `\\{quote}` for a quote inside of a text, or put other quotes around it"),
        ));
    }
    None
}

/// A property of CSS as a member of `style`.
fn of_style(text: &str, at: usize) -> Option<Mend> {
    let line = &text[at..];
    let line = &line[..line.find('\n').unwrap_or(line.len())];
    let (before, rest) = line.split_once(".style.")?;
    let property = &rest[..rest.find(|c: char| !(c.is_alphanumeric() || c == '-')).unwrap_or(rest.len())];
    if !property.contains('-') {
        return None;
    }
    let member = member_of(property);
    let start = at + before.len() + ".style.".len();
    let span = Some(Span::new(start, start + property.len()));
    Some(Mend::new(span, "a name with a dash is no member", format!("write `style.{member}`")))
}

#[cfg(test)]
mod tests {
    use super::super::syntax::syntax_flaws;
    use super::*;

    #[test]
    fn flaws_are_told_with_their_mends() {
        for (text, place, said) in [
            ("<script>go()</script>", 0, "take the tags out"),
            (
                "<script src=\"https://cdn.example/x.js\"></script>", 0,
                "`script = \"https://cdn.example/x.js\"`",
            ),
            ("<link rel=stylesheet href='x.css'>", 0, "`style = \"x.css\"`"),
            ("go();\n<?php echo 1 ?>", 6, "what the server would put there"),
            ("x = <p>hi</p>", 4, "put markup into a text"),
            ("go(“fares”)", 3, "straight quotes: `\"`"),
            ("go(&quot;fares&quot;)", 3, "write `\"` in place of `&quot;`"),
            ("if (a &amp;&amp; b) { go() }", 6, "write `&` in place of `&amp;`"),
            ("let a = 1;\nlet a = 2", 15, "declared on line 1"),
            (".fares { color: red }", 0, "`style`"),
            ("go(function () {\n  stay()", 15, "close it with `}`"),
            ("function a() {\n  if (b) {\n    c();\n}\ngo()", 24, "close it with `}`"),
            ("go();\n});", 6, "take `}` out"),
            ("go(a]", 4, "wants `)` first"),
            ("log('It's late')", 7, "`\\'`"),
            ("if (a) { b() } elseif (c) { d() }", 15, "`else if`"),
            ("el.style.background-color = 'red'", 9, "`style.backgroundColor`"),
            ("a = 5 – 3", 6, "write `-`"),
        ] {
            let flaw = syntax_flaws(text).remove(0);
            let mend = mend(text, &flaw);
            let start = mend.span.or(flaw.span).map_or(0, |span| span.start);
            assert_eq!(start, place, "{text}: {flaw:?} {mend:?}");
            assert!(mend.help.as_deref().unwrap_or_default().contains(said), "{text}: {mend:?}");
        }
    }

    #[test]
    fn any_text_gets_an_answer() {
        for text in
            ["`", "`${", "`${`${", "/*", "'", "(", "}", "<", "&", "“", "é“", "a.style.é-", "\u{feff}<é"]
        {
            for at in 0..=text.len() {
                let flaw = ScriptFlaw {
                    message: "EOF".to_owned(),
                    span: Some(Span::at(at)),
                    is_too_much: false,
                    related: None,
                };
                mend(text, &flaw);
            }
        }
    }
}
