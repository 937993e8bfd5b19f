//! What a script may do to a page's elements, as far as the words in it tell: more than it really does, and so never a
//! *no* where a browser might say *yes*.

use memchr::memmem::find_iter;

use super::file::ScriptFile;
use super::style_names::member_of;

/// What puts elements in, takes them out or moves them (DOM, HTML; jQuery).
const MOVERS: &[&str] = &[
    "after", "append", "appendChild", "appendTo", "before", "html", "innerHTML", "insertAdjacentElement",
    "insertAdjacentHTML", "insertAfter", "insertBefore", "moveBefore", "outerHTML", "prepend", "prependTo",
    "remove", "removeChild", "replaceAll", "replaceChild", "replaceChildren", "replaceWith", "unwrap",
    "wrap", "wrapAll", "wrapInner", "write",
];

/// What makes elements that it does not name (HTML).
const MAKERS: &[(&str, &[&str])] = &[
    ("audio", &["Audio"]),
    ("caption", &["createCaption"]),
    ("img", &["Image"]),
    ("option", &["Option"]),
    ("tbody", &["createTBody", "insertRow"]),
    ("td", &["insertCell"]),
    ("tfoot", &["createTFoot"]),
    ("thead", &["createTHead"]),
    ("tr", &["insertRow"]),
];

/// What sets attributes by their names.
const SETTERS: &[&str] =
    &["attr", "removeAttr", "removeAttribute", "setAttribute", "setAttributeNS", "toggleAttribute"];

impl ScriptFile {
    /// Whether it may put elements in, take them out or move them.
    pub fn moves_elements(&self) -> bool {
        *self.moves_elements.get_or_init(|| self.has_any_word(MOVERS))
    }

    /// Whether it may make an element of that name: it stands in markup, or in quotes by itself.
    pub fn makes_element(&self, tag: &str) -> bool {
        let makers = MAKERS.iter().find(|(own, _)| *own == tag).map_or(&[][..], |(_, makers)| makers);
        if makers.iter().any(|word| self.has_word(word)) {
            return true;
        }
        // The parser makes those itself (HTML, "the rules for parsing").
        let implied = if tag == "tbody" { &["tbody", "tr", "td"][..] } else { std::slice::from_ref(&tag) };
        implied.iter().any(|tag| self.has_word(tag) && self.names_element(tag))
    }

    fn names_element(&self, tag: &str) -> bool {
        let bytes = self.text.as_str().as_bytes();
        find_iter(bytes, tag).any(|at| {
            let before = at.checked_sub(1).map(|at| bytes[at]);
            let behind = bytes.get(at + tag.len()).copied();
            match before {
                Some(b'<') => !behind.is_some_and(|byte| byte.is_ascii_alphanumeric() || byte == b'-'),
                Some(quote @ (b'"' | b'\'' | b'`')) => behind == Some(quote),
                _ => false,
            }
        })
    }

    /// Whether it may set or take out an attribute, by its name or as the member that it is.
    pub fn sets_attribute(&self, name: &str) -> bool {
        if self.has_word(name) && SETTERS.iter().any(|word| self.has_word(word)) {
            return true;
        }
        let member = match name.strip_prefix("data-") {
            Some(rest) => {
                let kept = member_of(rest);
                return self.has_word("dataset") && self.has_word(&kept)
                    || self.has_word(name) && self.moves_elements();
            }
            None if name.starts_with("aria-") => member_of(name),
            None => name.to_owned(),
        };
        self.sets_member(&member) || self.has_word(name) && self.moves_elements()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn elements_are_made_by_their_names_in_markup_or_in_quotes() {
        for (text, tag, expected) in [
            ("document.createElement('dialog')", "dialog", true),
            ("el.innerHTML = '<p><em>x</em>'", "em", true),
            ("el.innerHTML = '<emx>'", "em", false),
            ("const em = 1; el.append(em)", "em", false),
            ("document.querySelector('em b')", "em", false),
            ("new Image()", "img", true),
            ("table.insertRow()", "tbody", true),
            ("el.innerHTML = `<table><tr>`", "tbody", true),
        ] {
            assert_eq!(ScriptFile::new(text.to_owned()).makes_element(tag), expected, "{text}: {tag}");
        }
    }

    #[test]
    fn attributes_are_set_by_name_or_as_members() {
        for (text, name, expected) in [
            ("el.setAttribute('data-open', '')", "data-open", true),
            ("el.dataset.openNow = ''", "data-open-now", true),
            ("el.ariaExpanded = 'true'", "aria-expanded", true),
            ("el.title = 'x'", "title", true),
            ("if (el.title == 'x') go()", "title", false),
            ("el.getAttribute('data-open')", "data-open", false),
            ("el.innerHTML = '<p data-open>'", "data-open", true),
        ] {
            assert_eq!(ScriptFile::new(text.to_owned()).sets_attribute(name), expected, "{text}: {name}");
        }
    }
}
