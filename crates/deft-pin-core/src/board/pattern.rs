//! Patterns of page paths: the pathname part of the URL Pattern standard.

use std::fmt;

use urlpattern::quirks::parse_pattern;
use urlpattern::regexp::RegExp;
use urlpattern::{RegexSyntax, UrlPattern, UrlPatternInit, UrlPatternMatchInput, UrlPatternOptions};

use crate::site::PagePath;

/// A URL pattern for the paths of pages: `/piers/*`, `/journal/:year/`, `/fares.html`.
pub struct PagePattern {
    text: String,
    kind: Kind,
}

/// A pattern by how it is matched. Most are plain, and a board may have thousands of them: only the
/// others become expressions.
enum Kind {
    /// Texts with any text between one and the next.
    Plain(Vec<String>),
    /// Everything that the standard has.
    Full(Box<UrlPattern>),
}

impl PagePattern {
    /// Reads a pattern.
    ///
    /// # Errors
    /// Why the text is none, in words that follow "the pattern …".
    pub fn parse(text: &str) -> Result<Self, String> {
        if !text.starts_with(['/', '*', ':', '{', '(']) {
            return Err("has to start with `/`, as the paths of pages do".to_owned());
        }
        if is_plain(text) {
            let parts = text.split('*').map(str::to_owned).collect();
            return Ok(PagePattern { text: text.to_owned(), kind: Kind::Plain(parts) });
        }
        let init = UrlPatternInit { pathname: Some(text.to_owned()), ..UrlPatternInit::default() };
        let pattern = UrlPattern::<regex::Regex>::parse(init, UrlPatternOptions::default())
            .map_err(|error| format!("cannot be read: {error}"))?;
        Ok(PagePattern { text: text.to_owned(), kind: Kind::Full(Box::new(pattern)) })
    }

    /// The pattern as it was written.
    pub fn as_str(&self) -> &str {
        &self.text
    }

    /// The same as a regular expression of JavaScript for the path of a URL, from its beginning to its end, in the
    /// form in which it stands between slashes (URL Pattern, "generate a regular expression and name list").
    pub fn script_source(&self) -> String {
        match &self.kind {
            Kind::Plain(parts) => {
                let escaped = |part: &String| {
                    regex::escape(part).replace('/', "\\/").replace("\\-", "-").replace("\\~", "~")
                };
                parts.iter().map(escaped).collect::<Vec<_>>().join(".*")
            }
            Kind::Full(_) => {
                let init = UrlPatternInit { pathname: Some(self.text.clone()), ..UrlPatternInit::default() };
                let parsed = parse_pattern::<ScriptSource>(init, UrlPatternOptions::default());
                let source = parsed.map(|pattern| pattern.pathname.regexp_string).unwrap_or_default();
                let inner = source.strip_prefix('^').and_then(|source| source.strip_suffix('$'));
                with_slashes_escaped(inner.unwrap_or("(?!)"))
            }
        }
    }

    /// The one path that it matches, as a URL has it; none for a pattern that may match more.
    pub(crate) fn only_path(&self) -> Option<&str> {
        match &self.kind {
            Kind::Plain(parts) => parts.first().filter(|_| parts.len() == 1).map(String::as_str),
            Kind::Full(_) => None,
        }
    }

    /// Whether the pattern matches a page's path.
    pub fn matches(&self, path: &PagePath) -> bool {
        self.matches_url(&path.url())
    }

    /// Whether the pattern matches the path of a URL.
    pub fn matches_url(&self, url: &url::Url) -> bool {
        match &self.kind {
            Kind::Plain(parts) => has_parts(url.path(), parts),
            Kind::Full(pattern) => pattern.test(UrlPatternMatchInput::Url(url.clone())).unwrap_or(false),
        }
    }
}

/// A regular expression as it stands between slashes.
fn with_slashes_escaped(source: &str) -> String {
    let mut text = String::with_capacity(source.len() + 8);
    let mut is_escaped = false;
    for c in source.chars() {
        if c == '/' && !is_escaped {
            text.push('\\');
        }
        is_escaped = c == '\\' && !is_escaped;
        text.push(c);
    }
    text
}

/// The text of a regular expression of JavaScript, which nothing runs here.
struct ScriptSource(String);

impl RegExp for ScriptSource {
    fn syntax() -> RegexSyntax {
        RegexSyntax::EcmaScript
    }

    fn parse(pattern: &str, _: &str, _: bool) -> Result<Self, ()> {
        Ok(ScriptSource(pattern.to_owned()))
    }

    fn matches<'a>(&self, _: &'a str) -> Option<Vec<Option<&'a str>>> {
        None
    }

    fn pattern_string(&self) -> &str {
        &self.0
    }
}

/// Whether a pattern has nothing but wildcards and what a URL writes as it is.
fn is_plain(text: &str) -> bool {
    let is_kept = |c: char| c.is_ascii_alphanumeric() || "/_-.~*".contains(c);
    text.starts_with('/')
        && text.chars().all(is_kept)
        && !text.contains("**")
        && !text.split(['/', '*']).any(|segment| matches!(segment, "." | ".."))
}

/// Whether a text has these parts one after the other, from its beginning to its end.
pub(crate) fn has_parts(text: &str, parts: &[String]) -> bool {
    let Some((first, others)) = parts.split_first() else { return false };
    let Some((last, middle)) = others.split_last() else { return text == first };
    let Some(mut rest) = text.strip_prefix(first.as_str()) else { return false };
    for part in middle {
        match rest.find(part.as_str()) {
            Some(at) => rest = &rest[at + part.len()..],
            None => return false,
        }
    }
    rest.ends_with(last.as_str())
}

impl fmt::Debug for PagePattern {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.text.fmt(f)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::Page;
    use crate::source::FilePath;
    use proptest::prelude::*;

    #[test]
    fn patterns_are_those_of_the_standard() {
        let table = [
            ("/", "index.html", true),
            ("/", "fares/index.html", false),
            ("/piers/*", "piers/ellery.html", true),
            ("/piers/*", "piers/index.html", true),
            ("/piers/*", "fares.html", false),
            ("/piers/:pier/", "piers/ellery/index.html", true),
            ("/piers/:pier/", "piers/ellery/map/index.html", false),
            ("/*.html", "fares.html", true),
            ("/journal/(\\d+)/", "journal/2026/index.html", true),
            ("/journal/{old-}?news.html", "journal/news.html", true),
            ("/piers/Port Ellery.html", "piers/Port Ellery.html", true),
            ("*", "fares.html", true),
        ];
        for (pattern, file, expected) in table {
            let page = Page::new(FilePath::parse(file).unwrap());
            let found = PagePattern::parse(pattern).unwrap().matches(&page.path);
            assert_eq!(found, expected, "{pattern} on {}", page.path);
        }
        for bad in ["fares.html", "/(", "/{a", "/:a:a"] {
            assert!(PagePattern::parse(bad).is_err(), "{bad}");
        }
    }

    proptest! {
        #[test]
        fn plain_patterns_match_what_the_standard_says(pattern in "/[ab./*-]{0,7}", path in "/[ab./-]{0,9}") {
            prop_assume!(is_plain(&pattern));
            let url = url::Url::parse(&format!("https://site.example{path}")).unwrap();
            let init = UrlPatternInit { pathname: Some(pattern.clone()), ..UrlPatternInit::default() };
            let full = UrlPattern::<regex::Regex>::parse(init, UrlPatternOptions::default()).unwrap();
            let expected = full.test(UrlPatternMatchInput::Url(url.clone())).unwrap();
            prop_assert_eq!(PagePattern::parse(&pattern).unwrap().matches_url(&url), expected);
        }
    }
}
