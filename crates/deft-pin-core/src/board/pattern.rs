//! Patterns of page paths: the pathname part of the URL Pattern standard.

use std::fmt;

use urlpattern::{UrlPattern, UrlPatternInit, UrlPatternMatchInput, UrlPatternOptions};

use crate::site::PagePath;

/// A URL pattern for the paths of pages: `/piers/*`, `/journal/:year/`, `/fares.html`.
pub struct PagePattern {
    text: String,
    pattern: UrlPattern,
    /// The one path that a pattern without wildcards matches, as a URL has it.
    literal: Option<String>,
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
        let init = UrlPatternInit { pathname: Some(text.to_owned()), ..UrlPatternInit::default() };
        let pattern = UrlPattern::<regex::Regex>::parse(init, UrlPatternOptions::default())
            .map_err(|error| format!("cannot be read: {error}"))?;
        let plain = !text.contains(['*', ':', '{', '}', '(', ')', '?', '+', '\\', '#', '%']);
        let literal = plain.then(|| pattern.pathname().to_owned());
        Ok(PagePattern { text: text.to_owned(), pattern, literal })
    }

    /// The pattern as it was written.
    pub fn as_str(&self) -> &str {
        &self.text
    }

    /// Whether the pattern matches a page's path.
    pub fn matches(&self, path: &PagePath) -> bool {
        self.matches_url(&path.url())
    }

    /// Whether the pattern matches the path of a URL.
    pub fn matches_url(&self, url: &url::Url) -> bool {
        match &self.literal {
            Some(literal) => url.path() == literal,
            None => self.pattern.test(UrlPatternMatchInput::Url(url.clone())).unwrap_or(false),
        }
    }
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
}
