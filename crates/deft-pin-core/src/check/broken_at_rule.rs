//! What is said of an at-rule of which browsers make nothing.

use super::bad_query::Wording;
use crate::style::AtRuleFault;

/// What is wrong with an at-rule of this name, and what to write. `head` is how it is written, up to its block.
pub(super) fn of_at_rule(name: &str, head: &str, fault: &AtRuleFault) -> Wording {
    let dropped = |why: String| format!("{why}, so `@{name}` is dropped with all that is in it");
    let given = head.trim_start_matches('@').get(name.len()..).unwrap_or_default().trim();
    let dashes = format!("--{}", given.trim_start_matches('-'));
    let (message, help) = match fault {
        AtRuleFault::NoName => {
            (dropped("it has no name".to_owned()), Some(format!("write `@{name} own-name`")))
        }
        AtRuleFault::NoNameAtAll if given.starts_with(|c: char| c.is_ascii_digit()) => (
            dropped(format!("`{given}` is no name: none begins with a digit")),
            Some(format!("write `@{name} own-{given}`, and the same where it is used")),
        ),
        AtRuleFault::NoNameAtAll => {
            let is_part = |c: &char| c.is_alphanumeric() || matches!(c, '-' | '_' | ' ' | ',');
            let bare = joined(&given.chars().filter(is_part).collect::<String>());
            let help = (!bare.is_empty()).then(|| format!("write `@{name} {bare}`"));
            (dropped(format!("`{given}` is no name")), help)
        }
        AtRuleFault::ReservedName => (
            dropped(format!("`{given}` is a word of CSS itself, and no name")),
            Some("give it another name, here and where it is used".to_owned()),
        ),
        AtRuleFault::NotDashed => (
            dropped(format!("its name begins with two dashes, and `{given}` does not")),
            Some(format!("write `@{name} {dashes}`")),
        ),
        AtRuleFault::SeveralNames => (
            dropped(format!("it has one name, and `{given}` is more than one")),
            Some(format!(
                "write it once for each, or join the words with a dash: `@{name} {}`",
                joined(given)
            )),
        ),
        AtRuleFault::TakesNothing => (
            dropped(format!("`{given}` stands between its name and its block, and nothing may")),
            Some(format!("write `@{name} {{ … }}`")),
        ),
        AtRuleFault::NoCondition => (
            dropped("it asks nothing".to_owned()),
            Some("write what is asked in brackets: `@container (width > 400px) { … }`".to_owned()),
        ),
        AtRuleFault::NoBlock => (
            format!("`@{name}` has no block, so it is dropped"),
            Some(format!("write `@{name} {given} {{ … }}`")),
        ),
        AtRuleFault::NoSuchPage => (
            dropped(format!("`{given}` is no page")),
            Some("the pages are `:first`, `:left`, `:right` and `:blank`, one for each rule".to_owned()),
        ),
        AtRuleFault::NotInBrackets => (
            dropped(format!("roots and limits of a scope stand in brackets, and `{given}` does not")),
            Some(match given.split_once(" to ") {
                Some((root, limit)) => format!("write `@scope ({}) to ({})`", bare(root), bare(limit)),
                None => format!("write `@scope ({})`", bare(given)),
            }),
        ),
        AtRuleFault::Lacks(descriptor) => (
            format!("this `@{name}` has no `{descriptor}`, and without it a browser makes nothing of it"),
            Some(format!("write `{descriptor}: …` into it")),
        ),
        AtRuleFault::BadSyntax => (
            dropped("its `syntax` is none".to_owned()),
            Some(
                "write the names of types in quotes: `syntax: \"<length> | auto\"`, or `\"*\"` for anything"
                    .to_owned(),
            ),
        ),
        AtRuleFault::BadInherits => (
            dropped("`inherits` is neither `true` nor `false`".to_owned()),
            Some("write `inherits: true`, or `false`".to_owned()),
        ),
        AtRuleFault::BadInitial => (
            dropped("its `initial-value` is not of its `syntax`".to_owned()),
            Some("make the two fit, or write `syntax: \"*\"`".to_owned()),
        ),
        AtRuleFault::DependentInitial => (
            dropped("its `initial-value` would be another on each element".to_owned()),
            Some("give it in a unit that is the same everywhere, such as `px`".to_owned()),
        ),
        AtRuleFault::NoAddress => (
            format!("`@{name}` names no address in quotes or `url()`, so it is dropped"),
            match given.rsplit(' ').next().filter(|address| !address.is_empty()) {
                Some(address) => {
                    Some(format!("write `{}\"{address}\";`", &head[..head.len() - address.len()]))
                }
                None => Some(format!("write `@{name} \"own.css\";`")),
            },
        ),
        AtRuleFault::NoParameters => (
            dropped(format!("a function's name has brackets behind it, and `{given}` has none")),
            Some(format!("write `@{name} {given}()`")),
        ),
        AtRuleFault::TooLate => (
            format!("`@{name}` stands behind other rules, so it is dropped"),
            Some("put it at the beginning of the sheet".to_owned()),
        ),
    };
    Wording { message, help }
}

fn bare(part: &str) -> &str {
    part.trim().trim_start_matches('(').trim_end_matches(')').trim()
}

/// Several words as one name.
fn joined(words: &str) -> String {
    words.split([' ', ',']).filter(|word| !word.is_empty()).collect::<Vec<_>>().join("-")
}
