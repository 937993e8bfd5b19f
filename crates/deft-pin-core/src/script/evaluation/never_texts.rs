//! Texts that members of the platform never are.

use super::machine::Machine;
use super::vain_comparisons::{Told, told};

/// Interfaces of addresses in their parts (HTML, URL).
const ADDRESSES: &[&str] = &["HTMLAnchorElement", "HTMLAreaElement", "Location", "URL"];
/// Keys of a keyboard that have names of several letters (UI Events, "KeyboardEvent key Values").
const KEYS: &[&str] = &[
    "Alt", "ArrowDown", "ArrowLeft", "ArrowRight", "ArrowUp", "Backspace", "CapsLock", "ContextMenu",
    "Control", "Delete", "End", "Enter", "Escape", "Home", "Insert", "Meta", "PageDown", "PageUp", "Shift",
    "Tab",
];
/// What people write for them, and what old browsers gave.
const KEYS_OTHERWISE: &[(&str, &str)] = &[
    ("cmd", "Meta"),
    ("ctrl", "Control"),
    ("del", "Delete"),
    ("down", "ArrowDown"),
    ("esc", "Escape"),
    ("left", "ArrowLeft"),
    ("return", "Enter"),
    ("right", "ArrowRight"),
    ("space", " "),
    ("spacebar", " "),
    ("up", "ArrowUp"),
];
/// Elements of HTML that drawings and feeds have none of by that name.
const HTML_ALONE: &[&str] = &[
    "button", "details", "dialog", "div", "fieldset", "footer", "form", "h1", "h2", "h3", "h4", "h5", "h6",
    "iframe", "img", "input", "label", "li", "main", "nav", "ol", "option", "p", "section", "select", "span",
    "summary", "table", "td", "textarea", "th", "tr", "ul",
];

impl Machine<'_> {
    /// A text that a member of the platform never is.
    pub(super) fn never_text(&self, of: &str, name: &str, written: &str, text: &str) -> Option<Told> {
        let begins = |mark: &str| {
            told(
                format!("`{written}` begins with `{mark}` where it is not empty"),
                format!("\"{mark}{text}\""),
            )
        };
        let is_element = of.starts_with("HTML") && of.ends_with("Element");
        match name {
            _ if text.is_empty() => None,
            "hash" if ADDRESSES.contains(&of) && !text.starts_with('#') => begins("#"),
            "search" if ADDRESSES.contains(&of) && !text.starts_with('?') => begins("?"),
            "pathname" if ADDRESSES.contains(&of) && !text.starts_with('/') => begins("/"),
            "pathname" if ADDRESSES.contains(&of) && text.contains(['?', '#']) => told(
                format!("`{written}` ends before `?` and `#`"),
                format!("\"{}\"", text.split(['?', '#']).next().unwrap_or_default()),
            ),
            "language" if of == "Navigator" && text.contains('_') => {
                told(format!("`{written}` has no `_` in it"), format!("\"{}\"", text.replace('_', "-")))
            }
            "type" if of == "HTMLInputElement" && text.bytes().any(|byte| byte.is_ascii_uppercase()) => {
                told(format!("`{written}` is in small letters"), format!("\"{}\"", text.to_ascii_lowercase()))
            }
            "protocol" if ADDRESSES.contains(&of) && !text.ends_with(':') => {
                told(format!("`{written}` ends with `:`"), format!("\"{text}:\""))
            }
            "href" if ADDRESSES.contains(&of) && !text.contains(':') => told(
                format!("`{written}` is a whole address, and never `{text}`"),
                written.strip_suffix("href").map(|of| format!("{of}pathname")),
            ),
            "host" | "hostname" if ADDRESSES.contains(&of) && text.contains('/') => {
                told(format!("`{written}` has neither a protocol nor a path"), None)
            }
            "visibilityState" if !matches!(text, "hidden" | "visible") => told(
                format!("`{written}` is `hidden` or `visible`, and never `{text}`"),
                format!("\"{}\"", text.to_ascii_lowercase()),
            ),
            "readyState"
                if of == "HTMLDocument" && !matches!(text, "loading" | "interactive" | "complete") =>
            {
                told(
                    format!("`{written}` is `loading`, `interactive` or `complete`, and never `{text}`"),
                    "\"complete\"".to_owned(),
                )
            }
            "tagName" | "nodeName"
                if is_element
                    && text.bytes().any(|byte| byte.is_ascii_lowercase())
                    && (of != "HTMLElement" || HTML_ALONE.contains(&text)) =>
            {
                told(
                    format!("`{written}` is in capital letters for an element of HTML"),
                    format!("\"{}\"", text.to_ascii_uppercase()),
                )
            }
            "localName" if is_element && text.bytes().any(|byte| byte.is_ascii_uppercase()) => told(
                format!("`{written}` is in small letters for an element of HTML"),
                format!("\"{}\"", text.to_ascii_lowercase()),
            ),
            "className" | "id" if is_element && text.starts_with(['.', '#']) => {
                told(format!("`{written}` has no mark before it"), format!("\"{}\"", &text[1..]))
            }
            "key" if of == "KeyboardEvent" => self.never_key(written, text),
            "code" if of == "KeyboardEvent" => {
                let write = match text {
                    " " => "Space".to_owned(),
                    _ if text.len() == 1 && text.bytes().all(|byte| byte.is_ascii_alphabetic()) => {
                        format!("Key{}", text.to_ascii_uppercase())
                    }
                    _ if text.len() == 1 && text.bytes().all(|byte| byte.is_ascii_digit()) => {
                        format!("Digit{text}")
                    }
                    _ => {
                        let is_it = |key: &&&str| key.eq_ignore_ascii_case(text) && **key != text;
                        (*KEYS.iter().chain(&["Space"]).find(is_it)?).to_owned()
                    }
                };
                told(format!("`{written}` is never `{text}`"), format!("\"{write}\""))
            }
            _ => None,
        }
    }

    fn never_key(&self, written: &str, text: &str) -> Option<Told> {
        let lower = text.to_ascii_lowercase();
        let is_it = |key: &&&str| key.eq_ignore_ascii_case(text);
        let meant = match KEYS.iter().find(is_it) {
            Some(key) if *key == text => return None,
            Some(key) => key,
            None => KEYS_OTHERWISE.iter().find(|(own, _)| *own == lower).map(|(_, key)| key)?,
        };
        // Beside the name that is right stands the one that old browsers gave.
        let is_beside = [format!("\"{meant}\""), format!("'{meant}'"), format!("`{meant}`")]
            .iter()
            .any(|quoted| self.text.contains(quoted.as_str()));
        if is_beside {
            return None;
        }
        told(format!("`{written}` is never `{text}`"), format!("\"{meant}\""))
    }
}
