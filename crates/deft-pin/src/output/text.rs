//! Text for a terminal: no control characters from outside, and lines that fit.

use std::borrow::Cow;

/// The most columns that a line for a person takes, where the terminal has as many.
pub const WIDTH: usize = 100;

/// The columns there are: those of the terminal, and at most [`WIDTH`].
pub fn columns() -> usize {
    let terminal = terminal_size::terminal_size().map_or(WIDTH, |(width, _)| usize::from(width.0));
    terminal.clamp(40, WIDTH)
}

/// What a terminal would obey, or what turns the direction of writing: control characters of both sets,
/// and the marks of Unicode's bidirectional algorithm.
pub fn is_obeyed(c: char) -> bool {
    c.is_control()
        || matches!(c, '\u{61c}' | '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}')
}

/// A text in one line without anything that a terminal would obey: that is shown by its escapes.
pub fn plain(text: &str) -> Cow<'_, str> {
    if text.contains(is_obeyed) {
        Cow::Owned(shown(text, |c| matches!(c, '\n' | '\t' | '\r'), " "))
    } else {
        Cow::Borrowed(text)
    }
}

/// The same in the lines that it has.
pub fn plain_lines(text: &str) -> Cow<'_, str> {
    let is_kept = |c: char| matches!(c, '\n' | '\t');
    if text.contains(|c| is_obeyed(c) && !is_kept(c)) {
        let lines: Vec<String> = text.split('\n').map(|line| shown(line, |c| c == '\t', "\t")).collect();
        Cow::Owned(lines.join("\n"))
    } else {
        Cow::Borrowed(text)
    }
}

fn shown(text: &str, is_blank: impl Fn(char) -> bool, blank: &str) -> String {
    let mut shown = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            c if is_blank(c) => shown.push_str(blank),
            c if is_obeyed(c) => shown.extend(c.escape_unicode()),
            c => shown.push(c),
        }
    }
    shown
}

/// A text as it stands in HTML.
pub fn html_text(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// `1 page`, `2 pages`.
pub fn counted(count: usize, noun: &str) -> String {
    format!("{count} {noun}{}", if count == 1 { "" } else { "s" })
}

/// A text in one line of at most so many columns, with a mark where it was cut.
pub fn cut(text: &str, columns: usize) -> String {
    use unicode_width::UnicodeWidthChar as _;
    let text = plain(text);
    let mut width = 0;
    let mut end = text.len();
    for (at, character) in text.char_indices() {
        width += character.width().unwrap_or(0);
        if width < columns {
            end = at + character.len_utf8();
        }
    }
    if width < columns {
        return text.into_owned();
    }
    // No word is cut where there is a blank near.
    let kept = text[..end].trim_end();
    let kept = kept.rfind(' ').filter(|at| at + 16 > kept.len()).map_or(kept, |at| kept[..at].trim_end());
    format!("{kept}…")
}

/// A text in one line of at most so many columns, with its middle left out where it is longer:
/// of a path or a selector both ends tell.
pub fn shortened(text: &str, columns: usize) -> String {
    use unicode_width::UnicodeWidthStr as _;
    let text = plain(text);
    if text.width() <= columns {
        return text.into_owned();
    }
    let room = columns.saturating_sub(1);
    let head = fitting(text.chars(), room.div_ceil(2));
    let tail = fitting(text.chars().rev(), room / 2);
    format!("{head}…{}", tail.chars().rev().collect::<String>())
}

/// As many of the characters as fit.
fn fitting(characters: impl Iterator<Item = char>, columns: usize) -> String {
    use unicode_width::UnicodeWidthChar as _;
    let mut width = 0;
    characters
        .take_while(|character| {
            width += character.width().unwrap_or(0);
            width <= columns
        })
        .collect()
}

/// A text in lines that fit, the first behind `first` and the others behind `rest`.
pub fn wrapped(text: &str, first: &str, rest: &str) -> String {
    let options = textwrap::Options::new(columns())
        .initial_indent(first)
        .subsequent_indent(rest)
        .word_separator(textwrap::WordSeparator::AsciiSpace)
        .word_splitter(textwrap::WordSplitter::NoHyphenation);
    textwrap::fill(&plain(text), options)
}
