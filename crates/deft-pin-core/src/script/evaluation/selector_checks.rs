//! Selectors and names that lookups are given: those that they refuse, and what these ask for.

use html5ever::LocalName;

use super::fault::RunFaultKind;
use super::machine::Machine;
use crate::markup::{NamedPart, SelectorList, attributes_in, names_in, parse_selectors};
use crate::source::Span;

impl Machine<'_> {
    pub(super) fn refused_selector(
        &mut self,
        name: &str,
        text: &str,
        why: &str,
        write: Option<String>,
        span: Span,
    ) -> super::machine::Stop {
        let kind = RunFaultKind::RefusedArgument {
            method: name.to_owned(),
            given: text.to_owned(),
            takes: format!("a selector: {why}"),
            write,
        };
        self.throws(span, kind)
    }

    /// A method that takes a name was given one with the mark of a selector.
    pub(super) fn check_name(&mut self, method: &str, text: &str, mark: &str, span: Span) {
        let Some(bare) = text.trim_start().strip_prefix(mark) else { return };
        let what = if mark == "#" { "an ID" } else { "a class" };
        let kind = RunFaultKind::VainArgument {
            method: method.to_owned(),
            given: text.to_owned(),
            takes: format!("the name of {what}, without `{mark}`"),
            write: Some(bare.to_owned()),
        };
        self.note(span, kind);
    }
}

/// Whether selectors ask for elements that hold code: what a plan puts into a page is there too.
pub(super) fn asks_for_code(text: &str, selectors: &SelectorList) -> bool {
    const TAGS: &[&str] = &["script", "style", "link"];
    // Most ask for nothing of the kind.
    let has_tag =
        |tag: &&str| text.as_bytes().windows(tag.len()).any(|own| own.eq_ignore_ascii_case(tag.as_bytes()));
    if !text.contains('\\') && !TAGS.iter().any(has_tag) {
        return false;
    }
    // A link to something else than a sheet is no code.
    if text.contains("[rel")
        && !text.contains("stylesheet")
        && !text.contains("script")
        && !text.contains("style")
    {
        return false;
    }
    // What a plan puts in has neither an ID nor a class.
    let has_name = |text: &str| text.starts_with(['#', '.']);
    let mut asked = TAGS.iter().flat_map(|tag| text.split(tag).skip(1)).peekable();
    if asked.peek().is_some() && asked.all(has_name) {
        return false;
    }
    // Data in a script is no code.
    if text.contains("type=")
        && ["json", "template", "text/x", "text/html"].iter().any(|kind| text.contains(kind))
    {
        return false;
    }
    // Nor has it data but its own.
    let is_data = |name: &LocalName| name.starts_with("data-") && !name.starts_with("data-deft-pin");
    if selectors.slice().iter().all(|own| attributes_in(own).into_iter().any(is_data)) {
        return false;
    }
    let mut names = selectors.slice().iter().flat_map(names_in);
    names.any(|name| matches!(&name, NamedPart::Tag(tag) if TAGS.contains(&&**tag)))
}

pub(super) fn quoted(text: &str) -> String {
    let mut out = String::new();
    let _ = cssparser::serialize_string(text, &mut out);
    out
}

/// A selector of nearly that text which can be read: names that begin with a digit, values without quotes.
pub(super) fn mended(text: &str) -> Option<String> {
    let candidate = if let Some(rest) = text.strip_prefix(['#', '.'])
        && rest.chars().all(|c| c.is_alphanumeric() || matches!(c, '-' | '_'))
    {
        format!("{}{}", &text[..1], escaped(rest))
    } else if let Some((before, rest)) = text.split_once('=')
        && let Some((value, after)) = rest.split_once(']')
    {
        format!("{before}=\"{}\"]{after}", value.trim_matches(['"', '\'']))
    } else {
        text.trim().trim_end_matches([',', '>', '+', '~', '.', '#', ':', ' ']).to_owned()
    };
    (candidate != text && !candidate.is_empty() && parse_selectors(&candidate).is_ok()).then_some(candidate)
}

pub(super) fn escaped(name: &str) -> String {
    let mut out = String::new();
    // Writing to a string does not fail.
    let _ = cssparser::serialize_identifier(name, &mut out);
    out
}
