//! Pages of a server that the preview stands in front of: fetched, given their pins, and sent on under a policy that lets
//! these through.

use axum::body::Bytes;
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, Uri, header};
use axum::response::Response;
use deft_pin_core::site::Page;
use deft_pin_core::source::FilePath;

use super::answers::said;
use super::planned_site::{PlannedSite, ServedPage};
use super::policy::{Needed, loosened};
use super::request::{Asked, file_of, without_choice};
use super::routes::Served;
use super::upstream::{Sent, SentBody, response, streamed};
use crate::output;

/// How many policies are remembered.
const POLICIES: usize = 400;

impl Served {
    /// The bytes of a page of the server that the preview stands in front of.
    pub(super) async fn foreign_bytes(&self, path: &str, asked: &Asked) -> Option<(FilePath, Vec<u8>)> {
        let upstream = self.preview.upstream.clone()?;
        let uri: Uri = path.parse().ok()?;
        let file = foreign_file(uri.path())?;
        let (headers, own) = (asked.headers.clone(), self.origin());
        let ask = move || upstream.ask(&Method::GET, &uri, &headers, Bytes::new(), &own);
        let sent = tokio::task::spawn_blocking(ask).await.ok()?.ok()?;
        match sent.body {
            SentBody::Page(bytes) => Some((file, bytes)),
            SentBody::Other(_) => None,
        }
    }

    pub(super) async fn upstream_answer(&self, asked: &Asked, body: Bytes) -> Response {
        let Some(upstream) = self.preview.upstream.clone() else {
            return self.missing(asked.uri.path()).await;
        };
        let folder = &self.preview.showing.making.folder;
        let uri = without_choice(&asked.uri, folder);
        let (method, headers, own) = (asked.method.clone(), asked.headers.clone(), self.origin());
        let choice = self.choice(asked);
        let Ok(_turn) = self.preview.turns.acquire().await else { return self.missing(uri.path()).await };
        let there = uri.clone();
        let ask = move || upstream.ask(&method, &there, &headers, body, &own);
        let sent = match tokio::task::spawn_blocking(ask).await {
            Ok(Ok(sent)) => sent,
            Ok(Err(error)) => {
                return said(StatusCode::BAD_GATEWAY, "The server does not answer", &output::reasons(&error));
            }
            Err(_) => {
                return said(StatusCode::BAD_GATEWAY, "The server does not answer", "it could not be asked");
            }
        };
        let Sent { status, mut headers, body } = sent;
        let bytes = match body {
            SentBody::Other(reader) => return response(status, headers, streamed(reader)),
            SentBody::Page(bytes) => bytes,
        };
        let Some(file) = foreign_file(uri.path()) else { return response(status, headers, bytes.into()) };
        let page = Page::new(file.clone());
        let number = self.preview.number();
        let current = self.preview.current();
        let made = current.ask(move |site: &PlannedSite<'_>| {
            let served = site.foreign_page(file, &bytes, &choice);
            (served, site.remote_needs())
        });
        let Some((served, remote)) = made.await else {
            return said(
                StatusCode::INTERNAL_SERVER_ERROR,
                "This page cannot be shown",
                "it could not be worked out",
            );
        };
        let nonce = self.loosen(&mut headers, uri.path(), remote);
        let marked = match &nonce {
            Some(nonce) => ServedPage { bytes: with_nonce(&served.bytes, nonce), ..served },
            None => served,
        };
        let bytes = self.with_script(&page, &marked, number, nonce.as_deref());
        for name in [
            header::CONTENT_LENGTH,
            header::ETAG,
            header::LAST_MODIFIED,
            header::ACCEPT_RANGES,
            header::EXPIRES,
        ] {
            headers.remove(name);
        }
        headers.insert(header::CACHE_CONTROL, HeaderValue::from_static("no-store"));
        headers.insert(header::CONTENT_LENGTH, bytes.len().into());
        response(status, headers, bytes.into())
    }

    /// Loosens what a server says of its page as far as pins and the frame need it, notes that, and gives the nonce
    /// that elements of the page carry.
    fn loosen(
        &self,
        headers: &mut HeaderMap,
        path: &str,
        remote: Vec<(&'static str, String)>,
    ) -> Option<String> {
        let folder = format!("{}/{}/", self.origin(), self.preview.showing.making.folder);
        let needed = Needed { folder, remote };
        let mut told = Vec::new();
        let mut nonce = None;
        let own: Vec<HeaderValue> =
            headers.get_all(header::CONTENT_SECURITY_POLICY).iter().cloned().collect();
        headers.remove(header::CONTENT_SECURITY_POLICY);
        for policy in own {
            let made = loosened(policy.to_str().unwrap_or_default(), &needed);
            if let Ok(value) = HeaderValue::from_str(&made.policy) {
                headers.append(header::CONTENT_SECURITY_POLICY, value);
            }
            told.extend(made.told);
            nonce = nonce.or(made.nonce);
        }
        if headers.remove(header::X_FRAME_OPTIONS).is_some() {
            told.push(
                "`X-Frame-Options` keeps the page out of frames: it may stand in the preview's".to_owned(),
            );
        }
        let mut state = self.preview.state();
        let is_new = !told.is_empty() && state.policies.get(path) != Some(&told);
        let is_first = is_new && !state.policies.values().any(|own| *own == told);
        if is_new {
            if state.policies.len() >= POLICIES {
                state.policies.pop_first();
            }
            state.policies.insert(path.to_owned(), told.clone());
        }
        drop(state);
        if is_first && !self.preview.showing.is_quiet {
            output::say(&format!("policy of {path}, in this preview alone: {}\n", told.join("; ")));
        }
        nonce
    }
}

/// The file that a page of a server stands for: pins are for pages by their paths.
fn foreign_file(path: &str) -> Option<FilePath> {
    match path.ends_with('/') {
        true => file_of(&format!("{path}index.html")),
        false => file_of(path),
    }
}

/// The elements that were put into a page, with the nonce that its policy asks for.
fn with_nonce(bytes: &[u8], nonce: &str) -> Vec<u8> {
    // What was put in is in ASCII, and so is every encoding of the web but one in these characters.
    let mark = b" data-deft-pin=\"";
    let mut made = Vec::with_capacity(bytes.len() + 256);
    let mut rest = bytes;
    while let Some(at) = rest.windows(mark.len()).position(|part| part == mark) {
        made.extend_from_slice(&rest[..at]);
        made.extend_from_slice(format!(" nonce=\"{nonce}\"").as_bytes());
        made.extend_from_slice(mark);
        rest = &rest[at + mark.len()..];
    }
    made.extend_from_slice(rest);
    made
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_put_in_carries_the_nonce() {
        let made = with_nonce(b"<p><script src=\"x\" data-deft-pin=\"a\"></script>", "n");
        assert_eq!(made, b"<p><script src=\"x\" nonce=\"n\" data-deft-pin=\"a\"></script>");
    }
}
