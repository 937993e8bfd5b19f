//! Content Security Policy: whether a page's policies let a script or a sheet in. The matching is
//! that of `content-security-policy`; what is ours is to find the policies of a page, to allow for
//! not knowing the host that the site is served from, and to say what would let something in.

use base64::Engine as _;
use content_security_policy::{
    CheckResult, Destination, Element, Initiator, InlineCheckType, ParserMetadata, Policy, PolicyDisposition,
    PolicySource, Request as Fetch, Violates,
};
use html5ever::{LocalName, local_name};
use serde::Serialize;
use sha2::{Digest, Sha256};
use url::Url;

use crate::code::{CodeKind, site_host};
use crate::markup::Document;

/// A policy, and from where on in the page it counts.
#[derive(Clone, Debug)]
pub struct PagePolicy {
    policy: Policy,
    /// The byte of the page's text at which its `<meta>` stands; 0 for one that the page is served
    /// with.
    pub from: u32,
}

/// What a page asks to be let in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Request<'r> {
    /// A file on the host that the page itself is from.
    OwnFile,
    /// A URL on another host.
    Url(&'r str),
    /// The text of an element.
    InlineText(&'r str),
}

/// A policy that stops something.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Stop {
    /// The directive that does.
    pub directive: String,
    /// The source expression that would let it in.
    pub wanted: String,
    /// Whether the policy goes by nonces or hashes alone, so that addresses do not count.
    pub is_strict: bool,
}

/// The policies of a page: those that it is served with, and those in its head. One that is not
/// in the head does not count (HTML, "Content Security Policy state").
pub fn policies(document: &Document, served: Option<&str>) -> Vec<PagePolicy> {
    let served = served.into_iter().flat_map(|text| text.split(','));
    let mut all: Vec<PagePolicy> =
        served.map(|text| PagePolicy::parse(text, PolicySource::Header, 0)).collect();
    let Some(head) = document.head() else { return all };
    let in_head = document.elements().take_while(|element| element.name.local != local_name!("body"));
    for meta in in_head.filter(|element| element.name.local == local_name!("meta")) {
        let is_policy = meta
            .attr(&LocalName::from("http-equiv"))
            .is_some_and(|kind| kind.trim().eq_ignore_ascii_case("content-security-policy"));
        if is_policy && meta.is_within(head) {
            let text = meta.attr(&local_name!("content")).unwrap_or_default();
            let start = meta.data().start();
            all.extend(text.split(',').map(|text| PagePolicy::parse(text, PolicySource::Meta, start)));
        }
    }
    all
}

impl PagePolicy {
    fn parse(text: &str, source: PolicySource, from: u32) -> Self {
        PagePolicy { policy: Policy::parse(text, source, PolicyDisposition::Enforce), from }
    }

    /// What in the policy stops a script or a sheet; none where it is let in, or where that cannot
    /// be known since it depends on the host that the site is served from.
    pub fn stops(&self, kind: CodeKind, request: Request<'_>) -> Option<Stop> {
        let names = match kind {
            CodeKind::Script => ["script-src-elem", "script-src", "default-src"],
            CodeKind::Style => ["style-src-elem", "style-src", "default-src"],
        };
        let find = |name: &&str| self.policy.directive_set.iter().find(|known| known.name == **name);
        let directive = names.iter().find_map(find)?;
        let has = |word: &str| directive.value.iter().any(|source| source.eq_ignore_ascii_case(word));
        let is_strict = kind == CodeKind::Script && has("'strict-dynamic'");
        let (is_let_in, wanted) = match request {
            Request::InlineText(text) => (self.lets_inline(kind, text), hash(text)),
            // A host in the list may be the site's own.
            Request::OwnFile => {
                let is_host = |source: &String| {
                    source.eq_ignore_ascii_case("'self'")
                        || !source.starts_with('\'') && source != "data:" && source != "blob:"
                };
                (!is_strict && directive.value.iter().any(is_host), "'self'".to_owned())
            }
            Request::Url(address) => {
                let url = Url::parse(address).ok()?;
                (self.lets_url(kind, &url), url.origin().ascii_serialization())
            }
        };
        (!is_let_in).then(|| Stop { directive: directive.name.clone(), wanted, is_strict })
    }

    /// "Should element's inline type behavior be blocked by Content Security Policy?", asked of
    /// each directive: what the crate makes of the whole list cuts a sample of the text by bytes.
    fn lets_inline(&self, kind: CodeKind, text: &str) -> bool {
        let kind = match kind {
            CodeKind::Script => InlineCheckType::Script,
            CodeKind::Style => InlineCheckType::Style,
        };
        let element = Element { nonce: None };
        let mut directives = self.policy.directive_set.iter();
        directives.all(|own| own.inline_check(&element, kind, &self.policy, text) == CheckResult::Allowed)
    }

    /// "Does request violate policy?"
    fn lets_url(&self, kind: CodeKind, url: &Url) -> bool {
        let fetch = Fetch {
            url: url.clone(),
            current_url: url.clone(),
            // Where the site is served from is not known; that it is over HTTP or HTTPS is.
            origin: site_host().origin(),
            redirect_count: 0,
            destination: match kind {
                CodeKind::Script => Destination::Script,
                CodeKind::Style => Destination::Style,
            },
            initiator: Initiator::None,
            nonce: String::new(),
            integrity_metadata: String::new(),
            parser_metadata: ParserMetadata::ParserInserted,
        };
        self.policy.does_request_violate_policy(&fetch) == Violates::DoesNotViolate
    }
}

/// The hash source of an inline text.
fn hash(text: &str) -> String {
    format!("'sha256-{}'", base64::engine::general_purpose::STANDARD.encode(Sha256::digest(text.as_bytes())))
}

#[cfg(test)]
mod tests {
    use super::*;
    use CodeKind::{Script, Style};

    #[test]
    fn what_a_policy_stops() {
        let x = "'sha256-LXB4DbsYcMV+4FIjFfq7uUG8vYIUVtpMTkwLoyYg5D0='";
        let table = [
            ("", Script, Request::OwnFile, None),
            ("script-src 'none'", Script, Request::OwnFile, Some("'self'")),
            ("script-src 'self'", Script, Request::OwnFile, None),
            ("script-src 'self'; SCRIPT-SRC 'none'", Script, Request::OwnFile, None),
            (
                "default-src 'self'",
                Script,
                Request::Url("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            ("default-src 'none'; script-src *", Script, Request::Url("https://cdn.example/a.js"), None),
            ("script-src cdn.example", Script, Request::Url("https://cdn.example/a.js"), None),
            ("script-src https:", Script, Request::Url("https://cdn.example/a.js"), None),
            ("script-src *.example", Script, Request::Url("https://cdn.example/a.js"), None),
            (
                "script-src *.cdn.example",
                Script,
                Request::Url("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            (
                "script-src cdn.example/b/",
                Script,
                Request::Url("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            (
                "script-src cdn.example:444",
                Script,
                Request::Url("https://cdn.example/a.js"),
                Some("https://cdn.example"),
            ),
            ("script-src https://www.sorrel.example", Script, Request::OwnFile, None),
            ("script-src 'self' 'strict-dynamic' 'nonce-x'", Script, Request::OwnFile, Some("'self'")),
            ("style-src 'self'", Script, Request::OwnFile, None),
            ("style-src-elem 'none'; style-src 'self'", Style, Request::OwnFile, Some("'self'")),
            ("script-src 'self'", Script, Request::InlineText("x"), Some(x)),
            ("script-src 'unsafe-inline'", Script, Request::InlineText("x"), None),
            ("script-src 'unsafe-inline' 'nonce-abc'", Script, Request::InlineText("x"), Some(x)),
            ("img-src 'none'", Script, Request::InlineText("x"), None),
        ];
        for (text, kind, request, expected) in table {
            let found =
                PagePolicy::parse(text, PolicySource::Header, 0).stops(kind, request).map(|stop| stop.wanted);
            match request {
                Request::InlineText(_) => assert_eq!(found.is_some(), expected.is_some(), "{text}"),
                _ => assert_eq!(found.as_deref(), expected, "{text}"),
            }
        }
        let policy = |text: &str| PagePolicy::parse(text, PolicySource::Meta, 0);
        let by_hash = format!("script-src {}", hash("x"));
        assert_eq!(policy(&by_hash).stops(Script, Request::InlineText("x")), None);
        // What is shown of a text in a report must not be cut within a character.
        let long = "é".repeat(60);
        assert!(
            policy("script-src 'self' 'report-sample'").stops(Script, Request::InlineText(&long)).is_some()
        );
    }
}
