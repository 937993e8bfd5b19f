//! Content Security Policy: whether a page's policies let a script or a sheet in (CSP3 6.7).

use base64::Engine as _;
use html5ever::{LocalName, local_name};
use sha2::{Digest, Sha256};
use url::Url;

use crate::markup::Document;

/// A policy, and from where on in the page it counts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Policy {
    directives: Vec<(String, Vec<String>)>,
    /// The byte of the page's text at which its `<meta>` stands; 0 for one that the page is served
    /// with.
    pub from: u32,
}

/// What would be let in or not.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Request<'r> {
    /// A file beside the page.
    Own,
    /// An address on another host.
    Foreign(&'r str),
    /// The text of an element.
    Inline(&'r str),
}

/// A policy that stops something.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Stop {
    /// The directive that does.
    pub directive: String,
    /// The source expression that would let it in.
    pub wanted: String,
    /// Whether the policy goes by nonces or hashes alone, so that addresses do not count.
    pub is_strict: bool,
}

/// The policies of a page: those that it is served with, and those in its head. One that is not
/// in the head does not count (HTML 4.2.5.3).
pub fn policies(document: &Document, served: Option<&str>) -> Vec<Policy> {
    let mut all: Vec<Policy> =
        served.into_iter().flat_map(|text| text.split(',')).map(|text| Policy::parse(text, 0)).collect();
    let Some(head) = document.head() else { return all };
    let in_head = document.elements().take_while(|element| element.name.local != local_name!("body"));
    for meta in in_head.filter(|element| element.name.local == local_name!("meta")) {
        let is_policy = meta
            .attr(&LocalName::from("http-equiv"))
            .is_some_and(|kind| kind.trim().eq_ignore_ascii_case("content-security-policy"));
        if is_policy && meta.is_within(head) {
            let text = meta.attr(&local_name!("content")).unwrap_or_default();
            all.extend(text.split(',').map(|text| Policy::parse(text, meta.data().start())));
        }
    }
    all
}

impl Policy {
    /// Reads a policy (CSP3 2.2.1). A directive that stands there twice counts the first time.
    pub fn parse(text: &str, from: u32) -> Self {
        let mut directives: Vec<(String, Vec<String>)> = Vec::new();
        for directive in text.split(';') {
            let mut words = directive.split_ascii_whitespace();
            let Some(name) = words.next().map(str::to_ascii_lowercase) else { continue };
            if directives.iter().all(|(known, _)| *known != name) {
                directives.push((name, words.map(str::to_owned).collect()));
            }
        }
        Policy { directives, from }
    }

    /// What in the policy stops a script or a sheet; none where it is let in, or where that cannot
    /// be known since it depends on the host that the site is served from.
    pub fn stops(&self, is_script: bool, request: Request<'_>) -> Option<Stop> {
        let names = match is_script {
            true => ["script-src-elem", "script-src", "default-src"],
            false => ["style-src-elem", "style-src", "default-src"],
        };
        let find = |name: &&str| self.directives.iter().find(|(known, _)| known == name);
        let (directive, sources) = names.iter().find_map(find)?;
        let lower: Vec<String> = sources.iter().map(|source| source.to_ascii_lowercase()).collect();
        let has = |word: &str| lower.iter().any(|source| source == word);
        let is_hash = |source: &String| {
            ["'sha256-", "'sha384-", "'sha512-"].iter().any(|kind| source.starts_with(kind))
        };
        let has_nonce = lower.iter().any(|source| source.starts_with("'nonce-"));
        let is_dynamic = is_script && has("'strict-dynamic'");
        let by_host =
            |matches: &dyn Fn(&str) -> bool| !is_dynamic && lower.iter().any(|source| matches(source));
        let is_let_in = match request {
            Request::Inline(text) => {
                let open = has("'unsafe-inline'") && !has_nonce && !lower.iter().any(is_hash) && !is_dynamic;
                open || sources.contains(&hash(text))
            }
            // A host in the list may be the site's own.
            Request::Own => by_host(&|source| {
                source == "'self'" || !source.starts_with('\'') && source != "data:" && source != "blob:"
            }),
            Request::Foreign(url) => by_host(&|source| matches_url(source, url)),
        };
        if is_let_in {
            return None;
        }
        let wanted = match request {
            Request::Inline(text) => hash(text),
            Request::Own => "'self'".to_owned(),
            Request::Foreign(url) => {
                Url::parse(url).map(|url| url.origin().ascii_serialization()).unwrap_or_default()
            }
        };
        Some(Stop { directive: directive.clone(), wanted, is_strict: is_dynamic })
    }
}

/// The hash source of an inline text.
fn hash(text: &str) -> String {
    format!("'sha256-{}'", base64::engine::general_purpose::STANDARD.encode(Sha256::digest(text.as_bytes())))
}

/// Whether a scheme or host source matches a URL (CSP3 6.7.2.8).
fn matches_url(source: &str, address: &str) -> bool {
    let Ok(url) = Url::parse(address) else { return false };
    if source == "*" {
        return matches!(url.scheme(), "http" | "https");
    }
    if source.starts_with('\'') {
        return false;
    }
    if let Some(scheme) = source.strip_suffix(':').filter(|scheme| !scheme.contains('/')) {
        return scheme_matches(scheme, url.scheme());
    }
    let (scheme, rest) = match source.split_once("://") {
        Some((scheme, rest)) => (Some(scheme), rest),
        None => (None, source),
    };
    let (host, path) = rest.split_once('/').map_or((rest, ""), |(host, path)| (host, path));
    let (host, port) = host.rsplit_once(':').map_or((host, None), |(host, port)| (host, Some(port)));
    let own = url.host_str().unwrap_or_default().to_ascii_lowercase();
    let host_matches = match host.strip_prefix("*.") {
        Some(domain) => own.strip_suffix(domain).is_some_and(|rest| rest.ends_with('.')),
        None => own == host,
    };
    let port_matches = match port {
        Some("*") => true,
        Some(port) => url.port_or_known_default().is_some_and(|own| own.to_string() == port),
        None => url.port().is_none(),
    };
    let path_matches = match path {
        "" => true,
        path if path.ends_with('/') => url.path()[1..].to_ascii_lowercase().starts_with(path),
        path => url.path()[1..].eq_ignore_ascii_case(path),
    };
    scheme.is_none_or(|scheme| scheme_matches(scheme, url.scheme()))
        && host_matches
        && port_matches
        && path_matches
}

fn scheme_matches(source: &str, own: &str) -> bool {
    source == own || (source == "http" && own == "https")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_policy_stops() {
        let x = "'sha256-LXB4DbsYcMV+4FIjFfq7uUG8vYIUVtpMTkwLoyYg5D0='";
        let table = [
            ("", true, Request::Own, None),
            ("script-src 'none'", true, Request::Own, Some("'self'")),
            ("script-src 'self'", true, Request::Own, None),
            ("script-src 'self'; SCRIPT-SRC 'none'", true, Request::Own, None),
            (
                "default-src 'self'",
                true,
                Request::Foreign("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            ("default-src 'none'; script-src *", true, Request::Foreign("https://cdn.example/a.js"), None),
            ("script-src cdn.example", true, Request::Foreign("https://cdn.example/a.js"), None),
            ("script-src https:", true, Request::Foreign("https://cdn.example/a.js"), None),
            ("script-src *.example", true, Request::Foreign("https://cdn.example/a.js"), None),
            (
                "script-src *.cdn.example",
                true,
                Request::Foreign("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            (
                "script-src cdn.example/b/",
                true,
                Request::Foreign("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            (
                "script-src cdn.example:444",
                true,
                Request::Foreign("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            ("script-src https://www.sorrel.example", true, Request::Own, None),
            ("script-src 'self' 'strict-dynamic' 'nonce-x'", true, Request::Own, Some("'self'")),
            ("style-src 'self'", true, Request::Own, None),
            ("style-src-elem 'none'; style-src 'self'", false, Request::Own, Some("'self'")),
            ("script-src 'self'", true, Request::Inline("x"), Some(x)),
            ("script-src 'unsafe-inline'", true, Request::Inline("x"), None),
            ("script-src 'unsafe-inline' 'nonce-abc'", true, Request::Inline("x"), Some(x)),
            ("img-src 'none'", true, Request::Inline("x"), None),
        ];
        for (text, is_script, request, expected) in table {
            let found = Policy::parse(text, 0).stops(is_script, request).map(|stop| stop.wanted);
            match request {
                Request::Inline(_) => assert_eq!(found.is_some(), expected.is_some(), "{text}"),
                _ => assert_eq!(found.as_deref(), expected, "{text}"),
            }
        }
        let own = hash("x");
        assert_eq!(Policy::parse(&format!("script-src {own}"), 0).stops(true, Request::Inline("x")), None);
    }
}
