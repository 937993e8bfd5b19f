//! The wording of findings about media queries, container queries and `@supports` that never hold.

use super::code::Code;
use super::finding::{Finding, Place};
use super::repair::repaired;
use crate::style::{MediaFault, MediaFaultKind, SupportsFault, is_property, nearest_property};

/// What is wrong, what follows from it, and what to write.
pub(super) struct Wording {
    pub(super) message: String,
    pub(super) help: Option<String>,
}

impl Wording {
    /// A finding of a code at a place, in these words.
    pub(super) fn finding(self, code: Code, place: Place) -> Finding {
        let finding = Finding::new(code, place, self.message);
        match self.help {
            Some(help) => finding.help(help),
            None => finding,
        }
    }
}

/// The words about a media or container query, whose text is given.
pub(super) fn of_query(fault: &MediaFault, text: &str) -> Wording {
    let listed = |words: &[&str]| words.iter().map(|word| format!("`{word}`")).collect::<Vec<_>>().join(", ");
    let meant = |name: &str| format!("did you mean `{name}`?");
    let (what, help) = match &fault.kind {
        MediaFaultKind::UnknownMedium { name, nearest } => (
            format!("`{name}` is no medium: there are `all`, `screen` and `print`"),
            Some(nearest.map_or("ask for a size instead: `(max-width: 600px)`".to_owned(), meant)),
        ),
        MediaFaultKind::OldMedium { name } => (
            format!("no browser takes itself for the medium `{name}` any more"),
            Some("ask for a size instead: `(max-width: 600px)`".to_owned()),
        ),
        MediaFaultKind::UnknownFeature { name, nearest } => {
            (format!("there is no feature `{name}`"), nearest.as_deref().map(meant))
        }
        MediaFaultKind::BracketedMedium { name } => {
            (format!("`{name}` is a medium, and in brackets a feature is looked for"), {
                Some(format!("write `{name}` without the brackets, before the features"))
            })
        }
        MediaFaultKind::MissingUnit { number } => {
            (format!("`{number}` is no length: it has no unit"), Some(format!("did you mean `{number}px`?")))
        }
        MediaFaultKind::MissingValue { feature } => {
            (format!("`{feature}` has no value to compare with"), Some(format!("write `({feature}: 600px)`")))
        }
        MediaFaultKind::BadValue { feature, words: [] } => {
            (format!("`{feature}` takes no such value"), None)
        }
        MediaFaultKind::BadValue { feature, words } => {
            (format!("`{feature}` takes no such value"), Some(format!("it takes {}", listed(words))))
        }
        MediaFaultKind::MissingBrackets => {
            ("a feature stands without brackets".to_owned(), Some(format!("write `{}`", in_brackets(text))))
        }
        MediaFaultKind::MissingBlank { word } => (
            format!("`{word}(` is read as one word, since no blank is between"),
            Some(format!("write `{word} (`")),
        ),
        MediaFaultKind::MissingAnd => {
            ("two of its parts have nothing between them".to_owned(), Some("write `and` between them".to_owned()))
        }
        MediaFaultKind::MissingColon => {
            ("a feature and its value have no colon between them".to_owned(), Some("write `(max-width: 600px)`".to_owned()))
        }
        MediaFaultKind::CommaInBrackets => (
            "a comma stands inside of the brackets".to_owned(),
            Some("give each feature its own brackets, with `and` between".to_owned()),
        ),
        MediaFaultKind::Variable => (
            "a variable is not filled in there: custom properties do not work in queries, and names of preprocessors mean nothing to a browser".to_owned(),
            Some("write the value itself".to_owned()),
        ),
        MediaFaultKind::MixedWords => (
            "`and` and `or` stand side by side".to_owned(),
            Some("put brackets around those that belong together; a comma says `or` between whole queries".to_owned()),
        ),
        MediaFaultKind::BadComparison => (
            "its signs do not compare".to_owned(),
            Some("they are `<`, `<=`, `>`, `>=` and `=`, and two of them lead the same way: `(400px <= width <= 700px)`".to_owned()),
        ),
        MediaFaultKind::Contradiction { feature } => (
            format!("no {} is as small and as large as it asks", feature.replace('-', " ")),
            Some("one of the two bounds is the wrong way round, or a comma is meant instead of `and`".to_owned()),
        ),
        MediaFaultKind::Unreadable => ("a browser cannot read it".to_owned(), None),
    };
    let follows = match fault.is_only {
        true => "so this query never holds, and nothing in the block applies",
        false => "so this part of the query never holds, and the other parts decide alone",
    };
    Wording { message: format!("{what}, {follows}"), help }
}

/// A query with brackets around the features that have none.
fn in_brackets(text: &str) -> String {
    let parts =
        text.split(" and ").map(str::trim).map(|part| match part.contains(':') && !part.starts_with('(') {
            true => format!("({part})"),
            false => part.to_owned(),
        });
    parts.collect::<Vec<_>>().join(" and ")
}

/// The words about an `@supports`; none where what it asks for may be another engine's.
pub(super) fn of_supports(fault: &SupportsFault) -> Option<Wording> {
    let follows = "so nothing in the block applies";
    match fault {
        SupportsFault::MissingBrackets => Some(Wording {
            message: format!("a declaration stands without brackets, {follows}"),
            help: Some("write `@supports (display: grid)`".to_owned()),
        }),
        SupportsFault::Unreadable => {
            Some(Wording { message: format!("a browser cannot read this, {follows}"), help: None })
        }
        SupportsFault::Declaration { property, value } if is_property(property) => {
            let right = repaired(property, value)?;
            Some(Wording {
                message: format!("no browser supports `{property}: {value}`, {follows}"),
                help: Some(format!("did you mean `{right}`?")),
            })
        }
        SupportsFault::Declaration { property, value } => {
            let right = nearest_property(property)?;
            Some(Wording {
                message: format!("no browser supports `{property}: {value}`, {follows}"),
                help: Some(format!("did you mean `{right}`?")),
            })
        }
    }
}
