//! What changed between two states of a board, for a person to read.

use std::collections::BTreeMap;

use similar::TextDiff;

/// What changed about a file.
#[derive(Debug)]
pub struct FileDifference {
    /// Its path, as seen from the board.
    pub file: String,
    /// The changed lines with a few around them, each with its mark; none where it is no text.
    pub lines: Vec<String>,
    /// Whether it is new, changed or gone.
    pub since: Since,
}

/// What has come of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Since {
    /// It was not there.
    New,
    /// It is another.
    Changed,
    /// It is there no more.
    Gone,
}

/// The files that differ, by name.
pub fn differences(
    before: &BTreeMap<String, Vec<u8>>,
    after: &BTreeMap<String, Vec<u8>>,
) -> Vec<FileDifference> {
    let mut names: Vec<&String> = before.keys().chain(after.keys()).collect();
    names.sort();
    names.dedup();
    let row = |name: &String| {
        let (old, new) = (before.get(name), after.get(name));
        let since = match (old, new) {
            (Some(old), Some(new)) if old == new => return None,
            (Some(_), Some(_)) => Since::Changed,
            (None, _) => Since::New,
            (_, None) => Since::Gone,
        };
        Some(FileDifference { file: name.clone(), lines: lines(old, new), since })
    };
    names.into_iter().filter_map(row).collect()
}

fn lines(old: Option<&Vec<u8>>, new: Option<&Vec<u8>>) -> Vec<String> {
    let text = |bytes: Option<&Vec<u8>>| match bytes {
        None => Some(String::new()),
        Some(bytes) => String::from_utf8(bytes.clone()).ok().filter(|text| !text.contains('\0')),
    };
    let (Some(old), Some(new)) = (text(old), text(new)) else { return Vec::new() };
    difference_lines(&old, &new)
}

/// The lines of two texts that differ with one around them, each with its mark.
pub fn difference_lines(old: &str, new: &str) -> Vec<String> {
    let difference = TextDiff::from_lines(old, new);
    let mut lines = Vec::new();
    for group in difference.grouped_ops(1) {
        if !lines.is_empty() {
            lines.push("  …".to_owned());
        }
        for change in group.iter().flat_map(|op| difference.iter_changes(op)) {
            let mark = match change.tag() {
                similar::ChangeTag::Delete => '-',
                similar::ChangeTag::Insert => '+',
                similar::ChangeTag::Equal => ' ',
            };
            lines.push(format!("{mark} {}", change.value().trim_end_matches(['\n', '\r'])));
        }
    }
    lines
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_that_differ_are_shown_with_their_lines() {
        let files = |rows: &[(&str, &str)]| -> BTreeMap<String, Vec<u8>> {
            rows.iter().map(|(name, text)| ((*name).to_owned(), text.as_bytes().to_vec())).collect()
        };
        let before =
            files(&[("a.css", "h1 {}\np {}\n"), ("b.css", "x"), ("c.css", "same"), ("d.png", "\0a")]);
        let after = files(&[
            ("a.css", "h1 {}\np { color: teal }\n"),
            ("c.css", "same"),
            ("d.png", "\0b"),
            ("e.js", "1"),
        ]);
        let told: Vec<(String, Since, String)> = differences(&before, &after)
            .into_iter()
            .map(|own| (own.file, own.since, own.lines.join("|")))
            .collect();
        assert_eq!(
            told,
            [
                ("a.css".to_owned(), Since::Changed, "  h1 {}|- p {}|+ p { color: teal }".to_owned()),
                ("b.css".to_owned(), Since::Gone, "- x".to_owned()),
                ("d.png".to_owned(), Since::Changed, String::new()),
                ("e.js".to_owned(), Since::New, "+ 1".to_owned()),
            ]
        );
    }
}
