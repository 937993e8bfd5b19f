//! The values of a board's keys, checked as they are read.

use toml::Spanned as TomlSpanned;
use toml::de::{DeTable, DeValue};

use super::mistake::Mistake;
use super::pattern::PagePattern;
use super::spanned::{SelectorText, Spanned};
use super::value::Value as BoardValue;
use crate::code::{Id, LibraryId};
use crate::markup::{Slot, is_beside_elements, parse_selectors};
use crate::source::{FilePath, PathError, Span, nearest};

pub(super) type Value<'t, 'i> = &'t TomlSpanned<DeValue<'i>>;

pub(super) type Entry<'t, 'i> = (Spanned<String>, Value<'t, 'i>);

#[derive(Default)]
pub(super) struct Reader {
    pub(super) mistakes: Vec<Mistake>,
    pub(super) libraries: Vec<String>,
    pub(super) pins: Vec<String>,
    /// The values of the board.
    pub(super) board_values: Vec<BoardValue>,
    /// Those of the pin that is being read.
    pub(super) own_values: Vec<BoardValue>,
    /// Names of values that texts of the board, or of that pin, have.
    pub(super) used_values: Vec<String>,
}

pub(super) fn span_of<T>(spanned: &TomlSpanned<T>) -> Span {
    let range = spanned.span();
    Span::new(range.start, range.end)
}

/// A table's entries in the order in which the board lists them.
pub(super) fn entries<'t, 'i>(table: &'t DeTable<'i>) -> Vec<Entry<'t, 'i>> {
    let mut entries: Vec<_> = table
        .iter()
        .map(|(key, value)| (Spanned { value: key.get_ref().to_string(), span: span_of(key) }, value))
        .collect();
    entries.sort_by_key(|(key, _)| key.span);
    entries
}

pub(super) fn kind_of(value: &DeValue<'_>) -> &'static str {
    match value {
        DeValue::String(_) => "a text",
        DeValue::Integer(_) | DeValue::Float(_) => "a number",
        DeValue::Boolean(_) => "true or false",
        DeValue::Datetime(_) => "a date",
        DeValue::Array(_) => "a list",
        DeValue::Table(_) => "a table",
    }
}

impl Reader {
    pub(super) fn mistake(&mut self, span: Span, message: impl Into<String>) {
        self.mistakes.push(Mistake::new(span, message));
    }

    pub(super) fn unknown_key(&mut self, key: &Spanned<String>, place: &str, known: &[String]) {
        let message = format!("{place} has no key `{}`", **key);
        let known = known.iter().map(String::as_str);
        let help = match nearest(key, known.clone()) {
            Some(near) => format!("did you mean `{near}`?"),
            None => format!("its keys are {}", listed(known)),
        };
        self.mistakes.push(Mistake::new(key.span, message).help(help));
    }

    pub(super) fn table<'t, 'i>(&mut self, value: Value<'t, 'i>, name: &str) -> Option<&'t DeTable<'i>> {
        match value.get_ref() {
            DeValue::Table(table) => Some(table),
            other => {
                let message = format!("`{name}` is a table, and this is {}", kind_of(other));
                self.mistake(span_of(value), message);
                None
            }
        }
    }

    pub(super) fn text(&mut self, key: &str, value: Value<'_, '_>) -> Option<Spanned<String>> {
        match value.get_ref() {
            DeValue::String(text) => Some(Spanned { value: text.to_string(), span: span_of(value) }),
            other => {
                let message = format!("`{key}` is a text in quotes, and this is {}", kind_of(other));
                self.mistake(span_of(value), message);
                None
            }
        }
    }

    pub(super) fn texts(&mut self, key: &str, value: Value<'_, '_>) -> Vec<Spanned<String>> {
        match value.get_ref() {
            DeValue::Array(items) => items.iter().filter_map(|item| self.text(key, item)).collect(),
            DeValue::String(text) => {
                let message = format!("`{key}` is a list");
                self.mistakes.push(
                    Mistake::new(span_of(value), message).help(format!("write `{key} = [\"{text}\"]`")),
                );
                Vec::new()
            }
            other => {
                let message = format!("`{key}` is a list of texts, and this is {}", kind_of(other));
                self.mistake(span_of(value), message);
                Vec::new()
            }
        }
    }

    pub(super) fn file(&mut self, key: &str, path: Spanned<String>) -> Option<Spanned<FilePath>> {
        match FilePath::parse(&path) {
            Ok(value) => Some(Spanned { value, span: path.span }),
            Err(error) => {
                let message = format!("`{key}` names {error}");
                let help = match error {
                    PathError::Empty => "name a file as seen from the board's folder",
                    _ => "what a board uses has to be in the board's own folder, or below it",
                };
                self.mistakes.push(Mistake::new(path.span, message).help(help));
                None
            }
        }
    }

    pub(super) fn name(&mut self, name: &Spanned<String>, kind: &str) {
        let fits = |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_';
        if name.is_empty() || !name.chars().all(fits) {
            let message = format!("a {kind}'s name has letters, digits, `-` and `_` alone");
            self.mistake(name.span, message);
        }
    }

    pub(super) fn libraries_named(&mut self, key: &str, value: Value<'_, '_>) -> Vec<Spanned<LibraryId>> {
        let known = self.libraries.clone();
        self.named(key, value, "library", &known)
    }

    pub(super) fn named<I: Id>(
        &mut self,
        key: &str,
        value: Value<'_, '_>,
        kind: &str,
        known: &[String],
    ) -> Vec<Spanned<I>> {
        let mut found = Vec::new();
        for name in self.texts(key, value) {
            match known.iter().position(|known| *known == *name) {
                Some(place) => found.push(Spanned { value: I::new(place), span: name.span }),
                None => {
                    let message = format!("the board has no {kind} `{}`", *name);
                    let names = known.iter().map(String::as_str);
                    let help = match nearest(&name, names.clone()) {
                        Some(near) => format!("did you mean `{near}`?"),
                        None if known.is_empty() => format!("add `[{kind}.{}]`", *name),
                        None => format!("there are {}", listed(names)),
                    };
                    self.mistakes.push(Mistake::new(name.span, message).help(help));
                }
            }
        }
        found
    }

    pub(super) fn patterns(&mut self, key: &str, value: Value<'_, '_>) -> Vec<Spanned<PagePattern>> {
        let before = self.mistakes.len();
        let texts = self.texts(key, value);
        if texts.is_empty() && self.mistakes.len() == before {
            let mistake = Mistake::new(span_of(value), format!("`{key}` names no page"));
            self.mistakes.push(
                mistake
                    .help("without the key a pin is for every page; to leave a pin out, write `off = true`"),
            );
        }
        let mut patterns = Vec::new();
        for text in texts {
            match PagePattern::parse(&text) {
                Ok(value) => patterns.push(Spanned { value, span: text.span }),
                Err(why) => {
                    let mistake = Mistake::new(text.span, format!("the pattern {why}"));
                    let help = match pattern_meant(&text) {
                        Some(meant) => format!("did you mean `{meant}`?"),
                        None => PATTERNS.to_owned(),
                    };
                    self.mistakes.push(mistake.help(help));
                }
            }
        }
        patterns
    }

    pub(super) fn selector(&mut self, key: &str, value: Value<'_, '_>) -> Option<Spanned<SelectorText>> {
        let text = self.text(key, value)?;
        self.selector_text(key, text)
    }

    /// The same of a text that has been read.
    pub(super) fn selector_text(
        &mut self,
        key: &str,
        text: Spanned<String>,
    ) -> Option<Spanned<SelectorText>> {
        let text = self.filled(key, text)?;
        let list = match parse_selectors(&text) {
            Ok(list) => list,
            Err(why) => {
                let message = format!("`{key}` is no selector: {why}");
                self.mistake(text.span, message);
                return None;
            }
        };
        if list
            .slice()
            .iter()
            .any(|s| is_beside_elements(s) || s.has_parent_selector() || s.has_scope_selector())
        {
            let message = format!("`{key}` has to name elements: no pseudo-elements, no `&`, no `:scope`");
            self.mistake(text.span, message);
            return None;
        }
        Some(Spanned { value: SelectorText { text: text.value, list }, span: text.span })
    }

    pub(super) fn count(&mut self, key: &str, value: Value<'_, '_>) -> Option<Spanned<usize>> {
        let span = span_of(value);
        let number = match value.get_ref() {
            DeValue::Integer(number) => usize::from_str_radix(number.as_str(), number.radix()).ok(),
            _ => None,
        };
        if number.is_none() {
            self.mistake(
                span,
                format!("`{key}` is a whole number, and this is {}", kind_of(value.get_ref())),
            );
        }
        number.map(|value| Spanned { value, span })
    }

    /// Whether a key is switched on.
    pub(super) fn boolean(&mut self, key: &str, value: Value<'_, '_>) -> bool {
        match value.get_ref() {
            DeValue::Boolean(is_on) => *is_on,
            other => {
                let message = format!("`{key}` is true or false, and this is {}", kind_of(other));
                self.mistake(span_of(value), message);
                false
            }
        }
    }

    pub(super) fn slot(&mut self, value: Value<'_, '_>) -> Option<Spanned<Slot>> {
        let text = self.text("slot", value)?;
        let found = self.one_of("slot", &text, &Slot::ALL.map(Slot::name))?;
        Some(Spanned { value: Slot::ALL[found], span: text.span })
    }

    /// The place of a text in a list of names; one that is not there is a mistake.
    pub(super) fn one_of(&mut self, kind: &str, text: &Spanned<String>, names: &[&str]) -> Option<usize> {
        let found = names.iter().position(|name| *name == text.as_str());
        if found.is_none() {
            let help = match nearest(text, names.iter().copied()) {
                Some(near) => format!("did you mean `{near}`?"),
                None => {
                    let ending = if kind.ends_with('x') { "es" } else { "s" };
                    format!("the {kind}{ending} are {}", listed(names.iter().copied()))
                }
            };
            self.mistakes
                .push(Mistake::new(text.span, format!("there is no {kind} `{}`", **text)).help(help));
        }
        found
    }
}

const PATTERNS: &str =
    "patterns are those of the URL Pattern standard: `/fares.html`, `/piers/*`, `/journal/:year/`";

/// The pattern that an address most likely means: its path alone, without `index.html`.
fn pattern_meant(text: &str) -> Option<String> {
    let path = match url::Url::parse(text) {
        Ok(url) if url.has_host() => url.path().to_owned(),
        _ => text.split(['?', '#']).next()?.trim_start_matches("./").to_owned(),
    };
    let path = path.strip_suffix("index.html").unwrap_or(&path);
    let meant = format!("/{}", path.trim_start_matches('/'));
    (meant != text && PagePattern::parse(&meant).is_ok()).then_some(meant)
}

pub(super) fn listed<'a>(names: impl IntoIterator<Item = &'a str>) -> String {
    names.into_iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ")
}
