//! Values of a board: what stands in one place and is put into CSS, scripts, markup and selectors.

use cssparser::{Parser, Token};

use super::moment::Moment;
use super::spanned::{SelectorText, Spanned};
use crate::markup::parse_selectors;
use crate::script::quoted;
use crate::source::Span;
use crate::style::{Validity, validity};

/// What a value is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, serde::Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum ValueKind {
    /// A text.
    Text,
    /// A number without a unit.
    Number,
    /// Yes or no: `true` or `false`.
    Boolean,
    /// A length of CSS, or a percentage.
    Length,
    /// A colour of CSS.
    Colour,
    /// A stretch of time: `3s`, `400ms`, or `10:22` for minutes and seconds.
    Time,
    /// A day, perhaps with a time.
    Date,
    /// An address.
    Url,
    /// An ID, without its `#`.
    Id,
    /// A class, without its dot.
    Class,
    /// A selector.
    Selector,
    /// Several values of one kind.
    List,
}

impl ValueKind {
    /// Every kind.
    pub const ALL: [ValueKind; 12] = [
        ValueKind::Text,
        ValueKind::Number,
        ValueKind::Boolean,
        ValueKind::Length,
        ValueKind::Colour,
        ValueKind::Time,
        ValueKind::Date,
        ValueKind::Url,
        ValueKind::Id,
        ValueKind::Class,
        ValueKind::Selector,
        ValueKind::List,
    ];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            ValueKind::Text => "text",
            ValueKind::Number => "number",
            ValueKind::Boolean => "boolean",
            ValueKind::Length => "length",
            ValueKind::Colour => "colour",
            ValueKind::Time => "time",
            ValueKind::Date => "date",
            ValueKind::Url => "url",
            ValueKind::Id => "id",
            ValueKind::Class => "class",
            ValueKind::Selector => "selector",
            ValueKind::List => "list",
        }
    }
}

/// A value of the board.
#[derive(Clone, Debug)]
pub struct Value {
    /// Its name.
    pub name: Spanned<String>,
    /// What it is; of a list, what each of its entries is.
    pub kind: ValueKind,
    /// Whether the board says what it is.
    pub is_said: bool,
    /// Whether it is a list.
    pub is_list: bool,
    /// Its text; of a list the text of each entry.
    pub items: Vec<Spanned<String>>,
    /// What a list has an entry for: each match.
    pub each: Option<Spanned<SelectorText>>,
}

/// Why a text is not what its value is said to be, and what would be right.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Misfit {
    /// The text.
    pub span: Span,
    /// What is wrong with it.
    pub message: String,
    /// What would be right.
    pub help: String,
}

impl Value {
    /// Where its text stands on the board.
    pub fn span(&self) -> Span {
        let ends = self.items.first().zip(self.items.last());
        ends.map_or(self.name.span, |(first, last)| Span { start: first.span.start, end: last.span.end })
    }

    /// Its text, where it is no list.
    pub fn text(&self) -> Option<&str> {
        self.items.first().filter(|_| !self.is_list).map(|item| item.value.as_str())
    }

    /// What is wrong with its texts.
    pub fn misfits(&self) -> impl Iterator<Item = Misfit> {
        self.items.iter().filter_map(|item| {
            let (message, help) = misfit(self.kind, &item.value)?;
            Some(Misfit { span: item.span, message, help })
        })
    }

    /// Its kind, as a person says it.
    pub fn kind_name(&self) -> String {
        if self.is_list { format!("a list of {}s", self.kind.name()) } else { self.kind.name().to_owned() }
    }

    /// It as an expression of JavaScript, that means the same in every version of the language.
    pub fn script(&self) -> String {
        if !self.is_list {
            return self
                .items
                .first()
                .map_or_else(|| "\"\"".to_owned(), |item| script(self.kind, &item.value));
        }
        let items: Vec<String> = self.items.iter().map(|item| script(self.kind, &item.value)).collect();
        format!("[{}]", items.join(", "))
    }
}

/// The values that a pin sees: its own, and those of the board that it has none of its own for.
pub(super) fn in_scope<'v>(own: &'v [Value], board: &'v [Value]) -> Vec<&'v Value> {
    let is_own = |value: &&Value| own.iter().any(|own| *own.name == *value.name);
    own.iter().chain(board.iter().filter(|value| !is_own(value))).collect()
}

/// A text as an expression of JavaScript.
fn script(kind: ValueKind, text: &str) -> String {
    let number = match kind {
        ValueKind::Number => text.parse::<f64>().ok().filter(|number| number.is_finite()),
        ValueKind::Time => seconds(text),
        _ => None,
    };
    match (kind, number) {
        (_, Some(number)) => format!("{number}"),
        (ValueKind::Boolean, _) if is_boolean(text) => text.to_owned(),
        (ValueKind::Date, _) => Moment::parse(text).map_or_else(|| literal(text), Moment::script),
        _ => literal(text),
    }
}

fn is_boolean(text: &str) -> bool {
    matches!(text, "true" | "false")
}

/// A string literal of JavaScript that can stand anywhere a script can, in a page too.
pub fn literal(text: &str) -> String {
    quoted(text).replace('<', "\\u003c")
}

/// The seconds of `3s`, `400ms`, `1:30` (minutes and seconds), `1:02:03` (with hours), or a number of seconds.
pub fn seconds(text: &str) -> Option<f64> {
    let text = text.trim();
    let number = |text: &str| {
        let is_plain = !text.is_empty() && text.bytes().all(|b| b.is_ascii_digit() || b == b'.');
        is_plain.then(|| text.parse::<f64>().ok()).flatten()
    };
    if let Some(milliseconds) = text.strip_suffix("ms") {
        return Some(number(milliseconds.trim())? / 1000.0);
    }
    for (units, length) in
        [(&["s", "sec", "seconds", "second"][..], 1.0), (&["min", "minutes", "minute"], 60.0)]
    {
        let found = units.iter().find_map(|unit| number(text.strip_suffix(unit)?.trim_end()));
        if let Some(found) = found {
            return Some(found * length);
        }
    }
    let parts: Vec<&str> = text.split(':').collect();
    let clock = |part: &str| number(part).filter(|part| *part < 60.0);
    match parts[..] {
        [seconds] => number(seconds),
        [minutes, seconds] => Some(number(minutes)? * 60.0 + clock(seconds)?),
        [hours, minutes, seconds] => Some(number(hours)? * 3600.0 + clock(minutes)? * 60.0 + clock(seconds)?),
        _ => None,
    }
}

/// What a text most likely is, where the board does not say.
pub(super) fn kind_of_text(text: &str) -> ValueKind {
    let text = text.trim();
    let is_hash_colour = text
        .strip_prefix('#')
        .is_some_and(|hex| matches!(hex.len(), 3 | 4 | 6 | 8) && hex.bytes().all(|b| b.is_ascii_hexdigit()));
    let fits = |kind: ValueKind| misfit(kind, text).is_none();
    let is_address = ["https://", "http://", "/", "./", "../", "mailto:", "tel:"]
        .iter()
        .any(|start| text.starts_with(start) && text.len() > start.len() || text == "/");
    if is_hash_colour {
        ValueKind::Colour
    } else if text.is_empty() {
        ValueKind::Text
    } else if is_boolean(text) {
        ValueKind::Boolean
    } else if is_address && fits(ValueKind::Url) {
        ValueKind::Url
    } else if text.starts_with(|c: char| c.is_ascii_digit()) && Moment::parse(text).is_some() {
        ValueKind::Date
    } else if text.starts_with(|c: char| c.is_ascii_digit())
        && text.ends_with(|c: char| c.is_alphanumeric())
        && !text.contains(' ')
        && text.parse::<f64>().is_err()
        && seconds(text).is_some()
    {
        ValueKind::Time
    } else if text.contains(|c: char| c.is_ascii_digit())
        && text.parse::<f64>().is_err()
        && fits(ValueKind::Length)
    {
        ValueKind::Length
    } else if text.contains('(') && fits(ValueKind::Colour) && text.to_lowercase() != "currentcolor" {
        ValueKind::Colour
    } else if text.starts_with(['#', '.'])
        && text.len() > 1
        && !text.ends_with('.')
        && fits(ValueKind::Selector)
    {
        ValueKind::Selector
    } else if text.bytes().all(|b| b.is_ascii_lowercase()) && fits(ValueKind::Colour) {
        ValueKind::Colour
    } else {
        ValueKind::Text
    }
}

/// Why a text is not of a kind, and what would be right.
fn misfit(kind: ValueKind, text: &str) -> Option<(String, String)> {
    let told = |message: &str, help: &str| {
        Some((format!("`{text}` is no {}: {message}", kind.name()), help.to_owned()))
    };
    let has_blank = text.contains(char::is_whitespace);
    match kind {
        ValueKind::Text | ValueKind::List => None,
        ValueKind::Number => match text.trim().parse::<f64>().is_ok_and(f64::is_finite) {
            true => None,
            false => told(
                "it is not a number alone",
                "write the digits alone, as in `3` or `0.5`, or give it another type",
            ),
        },
        ValueKind::Boolean => match is_boolean(text) {
            true => None,
            false => told("it is neither yes nor no", "write `true` or `false`"),
        },
        ValueKind::Length => match is_length(text) {
            true => None,
            false if text.trim().parse::<f64>().is_ok() => {
                Some((format!("`{text}` is no length: it has no unit"), format!("write `{}px`", text.trim())))
            }
            false => told(
                "CSS knows no such length",
                "write a number with its unit, as in `12px`, `1.5rem` or `40%`",
            ),
        },
        ValueKind::Colour => match is_single(text) && validity("color", text, false) == Validity::Taken {
            true => None,
            false => told("CSS knows no such colour", "write it as `#a33400`, `rgb(163 52 0)` or `teal`"),
        },
        ValueKind::Time => match seconds(text) {
            Some(_) => None,
            None => told("it is not a time", "write `3s`, `400ms`, or `10:22` for minutes and seconds"),
        },
        ValueKind::Date => match Moment::parse(text) {
            Some(_) => None,
            None => {
                told("there is no such day", "write it as `2027-01-05`, or with a time as `2027-01-05T10:00`")
            }
        },
        ValueKind::Url => {
            let scheme = text.split(':').next().unwrap_or_default().trim().to_ascii_lowercase();
            match () {
                () if text.trim().is_empty() => {
                    told("it is empty", "write a path or an address: `/fares/`, `https://…`")
                }
                () if has_blank => told("it has a blank in it", "write `%20` for a blank"),
                () if text.chars().any(char::is_control) => told(
                    "it has a control character in it", "write a path or an address: `/fares/`, `https://…`",
                ),
                () if scheme == "javascript" => {
                    told("it is code", "write a path or an address: `/fares/`, `https://…`")
                }
                () => None,
            }
        }
        ValueKind::Id | ValueKind::Class => {
            let mark = if kind == ValueKind::Id { '#' } else { '.' };
            match text.strip_prefix(mark) {
                Some(bare) => told(&format!("the name stands without `{mark}`"), &format!("write `{bare}`")),
                None if text.is_empty() => told("it is empty", "write the name"),
                None if has_blank => told(
                    "it has a blank in it",
                    &format!("write `{}`", text.split_whitespace().collect::<Vec<_>>().join("-")),
                ),
                None => None,
            }
        }
        ValueKind::Selector => match parse_selectors(text) {
            Ok(_) => None,
            Err(why) => told(&why.to_string(), "write a selector, as in `#status > h2`"),
        },
    }
}

/// Whether a text is one component value of CSS, which ends nothing around it.
pub(super) fn is_single(text: &str) -> bool {
    // What its end alone closes would take up what comes behind it.
    if text.ends_with('\\') || !crate::style::flaws(text).is_empty() {
        return false;
    }
    let mut input = Parser::new(text);
    let whole = input.parse_entirely(|input| {
        let token = input.next()?.clone();
        let is_open = match token {
            Token::Semicolon
            | Token::Delim('!')
            | Token::CurlyBracketBlock
            | Token::BadString(_)
            | Token::BadUrl(_) => true,
            Token::CloseCurlyBracket | Token::CloseParenthesis | Token::CloseSquareBracket => true,
            Token::Function(_) | Token::ParenthesisBlock | Token::SquareBracketBlock => {
                !input.parse_nested_block(|inner| Ok::<_, cssparser::ParseError<()>>(has_no_ends(inner)))?
            }
            _ => false,
        };
        Ok::<_, cssparser::ParseError<()>>(!is_open)
    });
    matches!(whole, Ok(true))
}

fn has_no_ends(input: &mut Parser<'_>) -> bool {
    while let Ok(token) = input.next() {
        let nested = match token {
            Token::Semicolon | Token::CurlyBracketBlock | Token::BadString(_) | Token::BadUrl(_) => {
                return false;
            }
            Token::Function(_) | Token::ParenthesisBlock | Token::SquareBracketBlock => true,
            _ => false,
        };
        if nested {
            let inner =
                input.parse_nested_block(|inner| Ok::<_, cssparser::ParseError<()>>(has_no_ends(inner)));
            if !matches!(inner, Ok(true)) {
                return false;
            }
        }
    }
    true
}

fn is_length(text: &str) -> bool {
    is_single(text) && !text.trim().is_empty() && {
        let is_zero = text.trim().parse::<f64>() == Ok(0.0);
        let is_word = text.trim().bytes().all(|b| b.is_ascii_alphabetic() || b == b'-');
        // What a margin takes is a length, a percentage, or a word.
        (is_zero || text.trim().parse::<f64>().is_err())
            && !is_word
            && validity("margin-left", text, false) == Validity::Taken
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_text_is_most_likely() {
        for (text, kind) in [
            ("#a33400", ValueKind::Colour),
            ("#fff", ValueKind::Colour),
            ("teal", ValueKind::Colour),
            ("rgb(1 2 3 / .5)", ValueKind::Colour),
            ("#status", ValueKind::Selector),
            (".note", ValueKind::Selector),
            ("main", ValueKind::Text),
            ("12px", ValueKind::Length),
            ("40%", ValueKind::Length),
            ("calc(1px + 2em)", ValueKind::Length),
            ("3s", ValueKind::Time),
            ("400ms", ValueKind::Time),
            ("10:22", ValueKind::Time),
            ("1:02:03", ValueKind::Time),
            ("2027-01-05", ValueKind::Date),
            ("2027-01-05T10:00Z", ValueKind::Date),
            ("/fares/", ValueKind::Url),
            ("https://a.example/x", ValueKind::Url),
            ("Storm tonight", ValueKind::Text),
            ("3 boats", ValueKind::Text),
            ("", ValueKind::Text),
            ("007", ValueKind::Text),
            ("../a b", ValueKind::Text),
            ("...", ValueKind::Text),
            ("transparent", ValueKind::Colour),
            ("No. 5", ValueKind::Text),
        ] {
            assert_eq!(kind_of_text(text), kind, "{text}");
        }
    }

    #[test]
    fn what_does_not_fit_is_known_with_what_would_be_right() {
        for (kind, text, fits) in [
            (ValueKind::Number, "3", true),
            (ValueKind::Number, "3px", false),
            (ValueKind::Number, "inf", false),
            (ValueKind::Length, "0", true),
            (ValueKind::Length, "12", false),
            (ValueKind::Length, "12p", false),
            (ValueKind::Length, "auto", false),
            (ValueKind::Length, "1px; color: red", false),
            (ValueKind::Length, "-3em", true),
            (ValueKind::Colour, "tael", false),
            (ValueKind::Colour, "red} a{", false),
            (ValueKind::Colour, "hsl(1 2% 3%)", true),
            (ValueKind::Colour, "red green", false),
            (ValueKind::Colour, "rgb(1 2 3", false),
            (ValueKind::Time, "10:61", false),
            (ValueKind::Time, "1.5s", true),
            (ValueKind::Time, "soon", false),
            (ValueKind::Date, "2027-02-29", false),
            (ValueKind::Date, "2027-01-05", true),
            (ValueKind::Url, "/a b", false),
            (ValueKind::Url, "javascript:go()", false),
            (ValueKind::Url, "x.html#a", true),
            (ValueKind::Id, "#a", false),
            (ValueKind::Id, "a b", false),
            (ValueKind::Class, ".a", false),
            (ValueKind::Class, "a", true),
            (ValueKind::Selector, "#a >", false),
            (ValueKind::Selector, "#a > b", true),
        ] {
            assert_eq!(misfit(kind, text).is_none(), fits, "{kind:?} {text}");
        }
    }

    #[test]
    fn scripts_get_literals() {
        for (kind, text, expected) in [
            (ValueKind::Text, "a \"b\" </script>\u{2028}", "\"a \\\"b\\\" \\u003c/script>\\u2028\""),
            (ValueKind::Number, "1.50", "1.5"),
            (ValueKind::Time, "10:22", "622"),
            (ValueKind::Time, "400ms", "0.4"),
            (ValueKind::Date, "2027-01-05", "+new Date(2027, 0, 5)"),
            (ValueKind::Colour, "#fff", "\"#fff\""),
            (ValueKind::Date, "never", "\"never\""),
        ] {
            assert_eq!(script(kind, text), expected, "{text}");
        }
    }
}
