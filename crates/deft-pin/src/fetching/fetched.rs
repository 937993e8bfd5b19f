//! What a server answered.

use http::HeaderMap;
use http::header::{AGE, CACHE_CONTROL, CONTENT_TYPE, HeaderName, LOCATION, X_CONTENT_TYPE_OPTIONS};
use url::Url;

/// What a server answered.
#[derive(Clone, Debug)]
pub struct Fetched {
    /// The address that the answer is for, after redirects.
    pub url: Url,
    /// The status.
    pub status: u16,
    /// The headers.
    pub headers: HeaderMap,
    /// The body, uncompressed.
    pub body: Vec<u8>,
}

/// Why there is no answer.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FetchProblem {
    /// `robots.txt` asks to stay away from it.
    #[error("`robots.txt` asks programs to stay away from it (--own-site asks all the same)")]
    Robots,
    /// It leads on and on.
    #[error("it leads in a circle: {0}")]
    Circle(String),
    /// It leads to another server.
    #[error("it leads to another server: `{0}`")]
    Elsewhere(String),
    /// There is more than anybody would want.
    #[error("its body is longer than {} MB", super::LARGEST_BODY / 1_000_000)]
    TooLong,
    /// The body is in an encoding that nobody asked for, or broken in it.
    #[error("its body cannot be read: {0}")]
    Unreadable(String),
    /// There was no answer.
    #[error("{0}")]
    NoAnswer(String),
}

impl Fetched {
    /// A header as text; nothing where there is none.
    pub fn header(&self, name: &HeaderName) -> &str {
        self.headers.get(name).and_then(|own| own.to_str().ok()).unwrap_or_default()
    }

    /// The type of the body in lower case, without parameters: `text/html`.
    pub fn kind(&self) -> String {
        let kind = self.header(&CONTENT_TYPE).split(';').next().unwrap_or_default();
        kind.trim().to_ascii_lowercase()
    }

    /// The encoding that its type names.
    pub fn charset(&self) -> Option<&str> {
        charset_in(self.header(&CONTENT_TYPE))
    }

    /// Whether it is a page.
    pub fn is_page(&self) -> bool {
        matches!(self.kind().as_str(), "text/html" | "application/xhtml+xml")
    }

    /// Whether browsers may not guess its type.
    pub fn is_nosniff(&self) -> bool {
        self.header(&X_CONTENT_TYPE_OPTIONS).trim().eq_ignore_ascii_case("nosniff")
    }

    /// What says that a copy was answered, by a cache on the way; nothing where none says so.
    pub fn cache(&self) -> Option<String> {
        let age = self.header(&AGE).trim().parse::<u64>().ok().filter(|age| *age > 0);
        if let Some(age) = age {
            return Some(format!("a cache answered, with a copy that is {age} s old"));
        }
        ["x-cache", "cf-cache-status", "x-varnish-cache"].into_iter().find_map(|name| {
            let value = self.header(&HeaderName::from_static(name));
            value
                .to_ascii_lowercase()
                .contains("hit")
                .then(|| format!("a cache answered (`{name}: {value}`)"))
        })
    }

    /// How long browsers may keep it, as the server says.
    pub fn kept_for(&self) -> &str {
        self.header(&CACHE_CONTROL)
    }

    /// Where it leads on to; none where it does not.
    pub fn leads_to(&self) -> Option<Result<Url, String>> {
        let is_redirect = matches!(self.status, 301 | 302 | 303 | 307 | 308);
        let location = self.headers.get(LOCATION).filter(|_| is_redirect)?;
        let text = String::from_utf8_lossy(location.as_bytes()).into_owned();
        Some(self.url.join(text.trim()).map_err(|_| text))
    }
}

/// The encoding that a type names: `text/html; charset=utf-8`.
pub fn charset_in(kind: &str) -> Option<&str> {
    kind.split(';').skip(1).find_map(|own| {
        let (name, value) = own.split_once('=')?;
        name.trim().eq_ignore_ascii_case("charset").then(|| value.trim().trim_matches('"'))
    })
}
