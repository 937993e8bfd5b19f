//! Code as it is compared: without what hosts add and take.

use super::part_kind::PartKind;
use crate::{script, style};

/// The least text, in characters, that is taken for the same wherever it is found: less may stand there by chance.
pub(super) const TELLING: usize = 24;

/// A text with one blank for several, and none where hosts put and take them: beside brackets, commas and the like.
pub fn squeezed(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut is_parted = false;
    for c in text.chars() {
        if c.is_whitespace() || c == '\u{feff}' {
            is_parted = true;
            continue;
        }
        let is_needed = !(out.is_empty() || out.ends_with(['{', '}', ';', ',', ':', '>', '(']));
        if is_parted && is_needed && !matches!(c, '{' | '}' | ';' | ',' | '>' | ')') {
            out.push(' ');
        }
        is_parted = false;
        out.push(c);
    }
    out
}

/// A text without any blanks: what can be read on a page is compared so, since elements part it.
pub(super) fn without_blanks(text: &str) -> String {
    text.chars().filter(|c| !c.is_whitespace() && *c != '\u{feff}').collect()
}

/// A text without comments and blanks: two that are the same so mean the same.
pub(super) fn shortest(kind: PartKind, text: &str) -> String {
    match kind {
        PartKind::Style => squeezed(&style::short(text)),
        _ => squeezed(&script::short(text)),
    }
}

/// Whether a host wrote a piece of code in another way, with the same meaning.
pub(super) fn means_the_same(kind: PartKind, one: &str, other: &str) -> bool {
    // What is much longer or shorter is another one: comments are seldom more than the code.
    let (less, more) = (one.len().min(other.len()), one.len().max(other.len()));
    less > 0 && more / less < 8 && shortest(kind, one) == shortest(kind, other)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn code_that_a_host_wrote_shorter_means_the_same() {
        let table = [
            (PartKind::Style, "a { color: red; }\n/* x */", "a{color:red}", true),
            (PartKind::Style, "a { color: red }", "a{color:tan}", false),
            (PartKind::Style, "a b { margin: 1px 0 }", "a b{margin:1px 0}", true),
            (PartKind::Style, "a b { margin: 0 }", "ab{margin:0}", false),
            (PartKind::Style, "a :hover { top: 0 }", "a:hover{top:0}", false),
            (PartKind::Style, "a { content: 'x y' }", "a{content:'xy'}", false),
            (PartKind::Script, "// one\nvar a = 1;\ngo(a)", "var a=1;go(a);", true),
            (PartKind::Script, "go('a b')", "go('ab')", false),
            (PartKind::Script, "", "", false),
        ];
        for (kind, one, other, expected) in table {
            assert_eq!(means_the_same(kind, one, other), expected, "{one}");
        }
    }
}
