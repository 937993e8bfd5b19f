//! What to write in the place of something that is no selector.

use crate::markup::{Namespaces, SelectorPlace};

/// What was most likely meant by something that is no selector: without a blank behind a mark, with one
/// mark instead of two, without what stands in front or behind.
pub(super) fn mended_selector(text: &str, place: SelectorPlace) -> Option<String> {
    let members = |text: &str| {
        let kept = text.split(',').map(str::trim).filter(|member| !member.is_empty());
        kept.collect::<Vec<_>>().join(", ")
    };
    let joined = |text: &str| {
        ["::", ".", "#", ":"]
            .iter()
            .fold(text.to_owned(), |text, mark| text.replace(&format!("{mark} "), mark))
    };
    let single = |text: &str| {
        let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
        text.replace("..", ".").replace("##", "#").replace(":::", "::").replace("#.", ".").replace(".#", "#")
    };
    let bare = text.trim_matches([';', ':', '>', '+', '~', ' ', '\n']);
    let tries = [
        members(text),
        joined(text),
        single(text),
        bare.to_owned(),
        members(&single(&joined(&single(bare)))),
        quoted(text),
        text.replace("::", ":"),
        text.replace(':', "::"),
        whole_numbers(text),
    ];
    tries
        .into_iter()
        .find(|one| one != text && !one.is_empty() && place.read(one, &Namespaces::default()).is_ok())
}

/// With the values of attribute tests in quotes.
fn quoted(text: &str) -> String {
    let mut out = String::new();
    let mut rest = text;
    while let Some((before, behind)) = rest.split_once('[') {
        let Some((test, after)) = behind.split_once(']') else { break };
        out.push_str(before);
        match test.split_once('=') {
            Some((name, value)) => {
                let value = value.trim().trim_matches(['"', '\'']);
                out.push_str(&format!("[{name}=\"{value}\"]"));
            }
            None => out.push_str(&format!("[{test}]")),
        }
        rest = after;
    }
    out + rest
}

/// With `2n` for `2 n`.
fn whole_numbers(text: &str) -> String {
    let mut out = text.to_owned();
    for digit in 0..10 {
        out = out.replace(&format!("{digit} n"), &format!("{digit}n"));
    }
    out
}
