//! What is asked for, and what stands in addresses.

use axum::http::{HeaderMap, HeaderValue, Method, Uri};
use deft_pin_core::source::FilePath;
use percent_encoding::percent_decode_str;

/// What is asked for.
pub(super) struct Asked {
    pub(super) method: Method,
    pub(super) uri: Uri,
    pub(super) headers: HeaderMap,
}

impl Asked {
    pub(super) fn only_reads(&self) -> bool {
        matches!(self.method, Method::GET | Method::HEAD)
    }

    pub(super) fn is_head(&self) -> bool {
        self.method == Method::HEAD
    }

    /// Whether a film or a sound is to be played (Fetch Metadata, `Sec-Fetch-Dest`).
    pub(super) fn is_for_media(&self) -> bool {
        let wanted = self.headers.get("sec-fetch-dest").map(HeaderValue::as_bytes);
        matches!(wanted, Some(b"video" | b"audio"))
    }

    /// A value of the query, as it was meant.
    pub(super) fn query(&self, name: &str) -> Option<String> {
        value_of(self.uri.query()?, name)
    }
}

/// A value of a query (URL, "application/x-www-form-urlencoded").
pub(super) fn value_of(query: &str, name: &str) -> Option<String> {
    let mut values = query.split('&').filter_map(|part| part.split_once('=').or(Some((part, ""))));
    let (_, value) = values.find(|(own, _)| decoded(own) == name)?;
    Some(decoded(&value.replace('+', " ")))
}

pub(super) fn decoded(text: &str) -> String {
    percent_decode_str(text).decode_utf8_lossy().into_owned()
}

/// The path of an address without the choice of pins in its query: `/fares/?_pins=a&b=c` is `/fares/?b=c`.
pub(super) fn without_choice(uri: &Uri, folder: &str) -> Uri {
    let Some(query) = uri.query() else { return uri.clone() };
    let kept: Vec<&str> = query
        .split('&')
        .filter(|part| part.split('=').next().map(decoded).as_deref() != Some(folder))
        .collect();
    let path = match kept.is_empty() {
        true => uri.path().to_owned(),
        false => format!("{}?{}", uri.path(), kept.join("&")),
    };
    path.parse().unwrap_or_else(|_| uri.clone())
}

/// The file below the site's folder that a path may be.
pub(super) fn file_of(path: &str) -> Option<FilePath> {
    let path = percent_decode_str(path.strip_prefix('/')?).decode_utf8().ok()?;
    // What climbs is no path, wherever it would lead to.
    let climbs = path.split(['/', '\\']).any(|part| part == "..");
    if climbs || path.contains(['\0', '\\']) {
        return None;
    }
    FilePath::parse(&path).ok()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_stay_in_the_site() {
        for (path, expected) in [
            ("/a/b.css", Some("a/b.css")),
            ("/a%20b.css", Some("a b.css")),
            ("/../a", None),
            ("/a/../b", None),
            ("/%2e%2e/a", None),
            ("/..%5ca", None),
            ("/a%00", None),
            ("/", None),
            ("//etc/passwd", None),
            ("/c:/x", None),
        ] {
            assert_eq!(file_of(path).as_ref().map(FilePath::as_str), expected, "{path}");
        }
    }

    #[test]
    fn a_choice_is_no_part_of_the_address() {
        for (uri, expected) in [
            ("/a?_pins=x", "/a"),
            ("/a?_pins=", "/a"),
            ("/a?b=c&_pins=-x&d", "/a?b=c&d"),
            ("/a?b=_pins", "/a?b=_pins"),
            ("/a", "/a"),
        ] {
            assert_eq!(without_choice(&uri.parse().unwrap(), "_pins").to_string(), expected);
        }
        assert_eq!(value_of("a=1&_pins=x%2Cy+z", "_pins").as_deref(), Some("x,y z"));
        assert_eq!(value_of("_pins", "_pins").as_deref(), Some(""));
        assert_eq!(value_of("a=1", "_pins"), None);
    }
}
