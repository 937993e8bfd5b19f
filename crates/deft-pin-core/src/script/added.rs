//! Names that scripts add to a page, by themselves or in markup.

use crate::source::Span;

/// A class or an ID that a script gives to elements.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct AddedName {
    /// The name.
    pub name: String,
    /// Whether it is an ID; else it is a class.
    pub is_id: bool,
    /// Where.
    pub span: Span,
}

/// The classes and IDs in a piece of markup that stands in a string; nothing where the string is
/// none. Pieces may end anywhere: they are put together at run time.
pub(super) fn names_of_markup(text: &str, span: Span, adds: &mut Vec<AddedName>) {
    if !text.contains('<') {
        return;
    }
    for (attribute, is_id) in [("class", false), ("id", true)] {
        let mut rest = text;
        while let Some(at) = rest.find(attribute) {
            let before = rest[..at].chars().next_back();
            rest = &rest[at + attribute.len()..];
            let Some(value) = rest.trim_start().strip_prefix('=').map(str::trim_start) else { continue };
            if !before.is_some_and(char::is_whitespace) {
                continue;
            }
            let (inside, is_open) = match value.chars().next() {
                Some(quote @ ('"' | '\'')) => match value[1..].split_once(quote) {
                    Some((inside, _)) => (inside, false),
                    None => (&value[1..], true),
                },
                _ => (value.split(|c: char| c.is_whitespace() || c == '>').next().unwrap_or_default(), false),
            };
            // The last name of an open piece may go on in the next.
            let names: Vec<&str> = inside.split_ascii_whitespace().collect();
            let whole =
                if is_open && !inside.ends_with(' ') { names.len().saturating_sub(1) } else { names.len() };
            let names = names[..whole].iter();
            adds.extend(names.map(|name| AddedName { name: (*name).to_owned(), is_id, span }));
        }
    }
}

/// The names in a piece of code.
pub(super) fn words_of(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !(c.is_alphanumeric() || c == '_' || c == '$')).filter(|word| !word.is_empty())
}
