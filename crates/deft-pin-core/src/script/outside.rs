//! What scripts load from other hosts: by the addresses that they write out.

use std::sync::LazyLock;

use regex::Regex;

use crate::source::Span;

/// Something that is loaded from another host.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Outside {
    /// Its address, with a scheme.
    pub url: String,
    /// Whether it is asked for over plain HTTP.
    pub is_plain: bool,
    /// Where.
    pub span: Span,
}

impl Outside {
    /// What an address loads, where it names a host.
    pub fn of(address: &str, span: Span) -> Option<Self> {
        let address = address.trim();
        let whole = match address.strip_prefix("//") {
            Some(rest) => format!("https://{rest}"),
            None => address.to_owned(),
        };
        let url = url::Url::parse(&whole).ok()?;
        let is_plain = url.scheme() == "http";
        (is_plain || url.scheme() == "https").then(|| Outside { url: url.to_string(), is_plain, span })
    }

    /// Whether it is a style sheet by its name.
    pub fn is_sheet(&self) -> bool {
        self.url.split(['?', '#']).next().is_some_and(|path| path.to_ascii_lowercase().ends_with(".css"))
    }

    /// The origin: scheme, host and port.
    pub fn origin(&self) -> String {
        url::Url::parse(&self.url).map(|url| url.origin().ascii_serialization()).unwrap_or_default()
    }
}

static LOADED: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r#"(?i)<(?:img|script|iframe|audio|video|source|embed|link)\b[^>]*?\s(?:src|href)\s*=\s*["']?((?:https?:)?//[^\s"'>]+)"#).ok()
});

/// What markup in a string loads.
pub(super) fn in_markup(text: &str, span: Span, outside: &mut Vec<Outside>) {
    if !text.contains('<') || !text.contains("//") {
        return;
    }
    let found = LOADED.as_ref().into_iter().flat_map(|loaded| loaded.captures_iter(text));
    outside.extend(found.filter_map(|own| Outside::of(own.get(1)?.as_str(), span)));
}
