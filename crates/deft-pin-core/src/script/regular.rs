//! Regular expressions, matched where both the pattern and the text are known (ECMA-262, "RegExp (Regular Expression)
//! Objects"). They are matched in linear time; one that looks around or back is left unknown.

use std::sync::{Arc, OnceLock};

use regex::{Regex, RegexBuilder};

/// A regular expression as it is written, read once it is asked.
#[derive(Debug)]
pub(super) struct Regular {
    pattern: Arc<str>,
    flags: Arc<str>,
    compiled: OnceLock<Option<Compiled>>,
}

/// A regular expression that can be matched.
#[derive(Debug)]
pub(super) struct Compiled {
    pub(super) regex: Regex,
    pub(super) is_global: bool,
    /// Whether it asks for the ends of words, which are other ones beyond ASCII.
    asks_for_words: bool,
}

impl Regular {
    pub(super) fn new(pattern: &str, flags: &str) -> Self {
        Regular { pattern: Arc::from(pattern), flags: Arc::from(flags), compiled: OnceLock::new() }
    }

    /// Whether it goes through all of a text: `/…/g`.
    pub(super) fn is_global(&self) -> bool {
        self.flags.contains('g')
    }

    /// As it is written.
    pub(super) fn written(&self) -> String {
        format!("/{}/{}", self.pattern, self.flags)
    }

    /// What it finds in a text is what a browser finds; none where that cannot be told.
    pub(super) fn for_text(&self, text: &str) -> Option<&Compiled> {
        let compiled = self.compiled.get_or_init(|| Compiled::new(&self.pattern, &self.flags)).as_ref()?;
        let is_plain = text.chars().all(|c| c.len_utf16() == 1);
        (is_plain && (!compiled.asks_for_words || text.is_ascii())).then_some(compiled)
    }
}

/// The blanks of the language.
const BLANKS: &str =
    r"\t\n\x0B\x0C\r \u{A0}\u{1680}\u{2000}-\u{200A}\u{2028}\u{2029}\u{202F}\u{205F}\u{3000}\u{FEFF}";

impl Compiled {
    /// Of a literal's parts; none where it asks for what takes longer than linear time, or differs elsewhere.
    fn new(pattern: &str, flags: &str) -> Option<Self> {
        if flags.contains(|c| !"dgimsu".contains(c)) || pattern.len() > 2000 {
            return None;
        }
        let (translated, asks_for_words) = translated(pattern, flags.contains('s'))?;
        let regex = RegexBuilder::new(&translated)
            .case_insensitive(flags.contains('i'))
            .multi_line(flags.contains('m'))
            .size_limit(1 << 20)
            .build()
            .ok()?;
        Some(Compiled { regex, is_global: flags.contains('g'), asks_for_words })
    }
}

/// A pattern in the syntax of the crate; and whether it asks for the ends of words.
fn translated(pattern: &str, dot_is_all: bool) -> Option<(String, bool)> {
    let mut out = String::new();
    let mut asks_for_words = false;
    let mut rest = pattern.chars().peekable();
    let mut in_class = false;
    while let Some(c) = rest.next() {
        match c {
            '\\' => match rest.next()? {
                'd' if in_class => out.push_str("0-9"),
                'd' => out.push_str("[0-9]"),
                'D' => out.push_str("[^0-9]"),
                'w' if in_class => out.push_str("0-9A-Za-z_"),
                'w' => out.push_str("[0-9A-Za-z_]"),
                'W' => out.push_str("[^0-9A-Za-z_]"),
                's' if in_class => out.push_str(BLANKS),
                's' => out.push_str(&format!("[{BLANKS}]")),
                'S' => out.push_str(&format!("[^{BLANKS}]")),
                'b' if in_class => out.push_str("\\x08"),
                mark @ ('b' | 'B') => {
                    asks_for_words = true;
                    out.push('\\');
                    out.push(mark);
                }
                'x' => out.push_str(&code_point(&mut rest, 2)?),
                'u' if rest.peek() != Some(&'{') => out.push_str(&code_point(&mut rest, 4)?),
                same @ ('n' | 'r' | 't' | 'f' | 'v') => {
                    out.push('\\');
                    out.push(same);
                }
                // Groups that were found, properties, control characters.
                'k' | 'p' | 'P' | 'c' | 'u' | '0'..='9' => return None,
                other => out.push_str(&regex::escape(&other.to_string())),
            },
            '[' if in_class => out.push_str("\\["),
            '[' => {
                in_class = true;
                out.push('[');
                if rest.peek() == Some(&'^') {
                    out.push('^');
                    rest.next();
                }
                // One that is empty matches nothing, or anything.
                if rest.peek() == Some(&']') {
                    return None;
                }
            }
            ']' if in_class => {
                in_class = false;
                out.push(']');
            }
            c @ ('&' | '~') if in_class => {
                out.push('\\');
                out.push(c);
            }
            '-' if in_class && (out.ends_with('-') || out.ends_with("0-9") || out.ends_with('_')) => {
                out.push_str("\\-");
            }
            c if in_class => out.push(c),
            ']' => out.push_str("\\]"),
            '.' if dot_is_all => out.push_str("(?s:.)"),
            '.' => out.push_str(r"[^\n\r\u{2028}\u{2029}]"),
            '(' if rest.peek() == Some(&'?') => {
                rest.next();
                match rest.next()? {
                    ':' => out.push_str("(?:"),
                    '<' if !matches!(rest.peek(), Some('=' | '!')) => out.push_str("(?P<"),
                    _ => return None,
                }
            }
            '{' if !is_count(&rest.clone().collect::<String>()) => out.push_str("\\{"),
            c => out.push(c),
        }
    }
    (!in_class).then_some((out, asks_for_words))
}

fn code_point(rest: &mut impl Iterator<Item = char>, digits: usize) -> Option<String> {
    let code: String = rest.take(digits).collect();
    let is_whole = code.len() == digits && code.bytes().all(|b| b.is_ascii_hexdigit());
    let number = u32::from_str_radix(&code, 16).ok().filter(|_| is_whole)?;
    char::from_u32(number)?;
    Some(format!("\\x{{{code}}}"))
}

/// Whether what stands behind a brace makes it say how often something is repeated.
fn is_count(rest: &str) -> bool {
    let Some((count, _)) = rest.split_once('}') else { return false };
    let mut parts = count.splitn(2, ',');
    let is_number = |part: &str| part.bytes().all(|b| b.is_ascii_digit());
    parts.next().is_some_and(|first| !first.is_empty() && is_number(first)) && parts.all(is_number)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn patterns_mean_what_they_mean_in_scripts() {
        for (pattern, flags, text, expected) in [
            (r"(\d+):(\d+)", "", "at 07:30", Some("07:30")),
            (r"(\d+):(\d+)", "", "at 07.30", None),
            (r"^\/fares\/(\w+)", "", "/fares/adult/", Some("/fares/adult")),
            ("[^a-z[-]+", "i", "ab[1]", Some("1]")),
            (r"[\w-]+", "", "a-b c", Some("a-b")),
            ("a{2}b{", "", "aab{", Some("aab{")),
            ("a.c", "", "a\nc", None),
            ("a.c", "s", "a\nc", Some("a\nc")),
            (r"\u0041\x42", "", "AB", Some("AB")),
            ("^b$", "m", "a\nb\nc", Some("b")),
            (r"\s$", "", "a\u{FEFF}", Some("\u{FEFF}")),
            ("]", "", "a]", Some("]")),
        ] {
            let compiled = Compiled::new(pattern, flags).unwrap();
            let found = compiled.regex.find(text).map(|found| found.as_str());
            assert_eq!(found, expected, "/{pattern}/{flags} on {text:?}");
        }
        for (pattern, flags) in
            [("(?=a)", ""), (r"(a)\1", ""), ("[]", ""), ("a", "y"), ("a", "v"), ("[a", "")]
        {
            assert!(Compiled::new(pattern, flags).is_none(), "/{pattern}/{flags}");
        }
    }
}
