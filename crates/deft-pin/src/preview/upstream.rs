//! A running server that a preview stands in front of: what it sends is passed on, and its addresses stay those of this
//! server.

use std::io::{Cursor, Read};
use std::time::Duration;

use anyhow::{Result, bail};
use axum::body::{Body, Bytes};
use axum::http::{HeaderMap, HeaderName, HeaderValue, Method, Request, StatusCode, Uri, header};
use axum::response::Response;
use deft_pin_core::source::LARGEST_FILE;
use flate2::read::MultiGzDecoder;
use tokio::sync::mpsc;
use ureq::Agent;

/// The server, by where it listens.
#[derive(Clone)]
pub struct Upstream {
    agent: Agent,
    /// Its scheme, host and port: `http://staging.example:8080`.
    pub origin: String,
    host: HeaderValue,
}

/// What the server sent.
pub struct Sent {
    /// The status.
    pub status: StatusCode,
    /// The headers that are for whoever asked.
    pub headers: HeaderMap,
    /// The body, as it comes.
    pub body: SentBody,
}

/// A body.
pub enum SentBody {
    /// A page, whole and uncompressed.
    Page(Vec<u8>),
    /// Anything else, as it comes.
    Other(Box<dyn Read + Send>),
}

/// Headers that are between two neighbours alone (RFC 9110, section 7.6.1), and what would hold this server to the
/// other one's name.
const NOT_PASSED_ON: [&str; 11] = [
    "connection", "keep-alive", "proxy-authenticate", "proxy-authorization", "proxy-connection", "te",
    "trailer", "transfer-encoding", "upgrade", "strict-transport-security", "alt-svc",
];

impl Upstream {
    /// A server by its URL.
    ///
    /// # Errors
    /// It is no URL of a server.
    pub fn new(url: &str) -> Result<Self> {
        let uri: Uri = url.parse().map_err(|error| anyhow::anyhow!("`--of {url}` is no URL: {error}"))?;
        let (Some(scheme), Some(authority)) = (uri.scheme_str(), uri.authority()) else {
            bail!("`--of {url}` names no server: write it as `http://127.0.0.1:8080`");
        };
        if !matches!(scheme, "http" | "https") {
            bail!("`--of {url}`: a server is reached by http or https");
        }
        if !matches!(uri.path(), "" | "/") {
            bail!(
                "`--of {url}` names a page: name the server alone, `{scheme}://{authority}`, and the page as PAGE"
            );
        }
        let host = HeaderValue::from_str(authority.host_and_port())?;
        let is_here = matches!(authority.host(), "localhost" | "127.0.0.1" | "[::1]");
        let mut config = Agent::config_builder()
            .http_status_as_error(false)
            .max_redirects(0)
            .max_redirects_will_error(false)
            .allow_non_standard_methods(true)
            .user_agent("")
            .accept("")
            .timeout_connect(Some(Duration::from_secs(10)))
            .timeout_recv_response(Some(Duration::from_secs(60)));
        if is_here {
            config = config.proxy(None);
        }
        let agent = Agent::new_with_config(config.build());
        Ok(Upstream { agent, origin: format!("{scheme}://{authority}"), host })
    }

    /// Asks the server for what this one was asked for.
    ///
    /// # Errors
    /// It does not answer.
    pub fn ask(&self, method: &Method, uri: &Uri, asked: &HeaderMap, body: Bytes, own: &str) -> Result<Sent> {
        let path = uri.path_and_query().map_or("/", |path| path.as_str());
        let mut request = Request::builder().method(method).uri(format!("{}{path}", self.origin));
        if let Some(headers) = request.headers_mut() {
            self.pass_on(asked, headers, own);
        }
        let answered = match body.is_empty() {
            true => self.agent.run(request.body(())?),
            false => self.agent.run(request.body(body.to_vec())?),
        };
        let answered =
            answered.map_err(|error| anyhow::anyhow!("{} does not answer: {error}", self.origin))?;
        let (parts, body) = answered.into_parts();
        let status = StatusCode::from_u16(parts.status.as_u16())?;
        let mut headers = self.passed_back(&parts.headers, own);
        let reader = body.into_reader();
        let is_page = is_html(&headers)
            && method != Method::HEAD
            && !matches!(
                status,
                StatusCode::PARTIAL_CONTENT | StatusCode::NOT_MODIFIED | StatusCode::NO_CONTENT
            );
        let encoding = headers.get(header::CONTENT_ENCODING).and_then(|own| own.to_str().ok());
        let is_gzip = encoding.is_some_and(|own| own.trim().eq_ignore_ascii_case("gzip"));
        if !is_page || !(encoding.is_none() || is_gzip) {
            return Ok(Sent { status, headers, body: SentBody::Other(Box::new(reader)) });
        }
        let mut page: Box<dyn Read + Send> =
            if is_gzip { Box::new(MultiGzDecoder::new(reader)) } else { Box::new(reader) };
        headers.remove(header::CONTENT_ENCODING);
        let mut bytes = Vec::new();
        page.by_ref().take(LARGEST_FILE + 1).read_to_end(&mut bytes)?;
        if bytes.len() as u64 > LARGEST_FILE {
            // Too much to be looked into: it goes on as it is.
            headers.remove(header::CONTENT_LENGTH);
            return Ok(Sent {
                status,
                headers,
                body: SentBody::Other(Box::new(Cursor::new(bytes).chain(page))),
            });
        }
        Ok(Sent { status, headers, body: SentBody::Page(bytes) })
    }

    fn pass_on(&self, asked: &HeaderMap, headers: &mut HeaderMap, own: &str) {
        for (name, value) in asked.iter().filter(|(name, _)| is_passed_on(asked, name)) {
            let text = value.to_str().unwrap_or_default();
            let value = match name.as_str() {
                "host" => self.host.clone(),
                // Only what can be undone is asked for.
                "accept-encoding" => {
                    let takes_gzip = text.split(',').any(|own| own.trim().starts_with("gzip"));
                    HeaderValue::from_static(if takes_gzip { "gzip" } else { "identity" })
                }
                "origin" | "referer" if text.starts_with(own) => {
                    let there = format!("{}{}", self.origin, &text[own.len()..]);
                    HeaderValue::from_str(&there).unwrap_or_else(|_| value.clone())
                }
                _ => value.clone(),
            };
            headers.append(name, value);
        }
        headers.entry(header::ACCEPT_ENCODING).or_insert(HeaderValue::from_static("identity"));
    }

    fn passed_back(&self, sent: &HeaderMap, own: &str) -> HeaderMap {
        let mut headers = HeaderMap::new();
        for (name, value) in sent.iter().filter(|(name, _)| is_passed_on(sent, name)) {
            let text = value.to_str().ok();
            let value = match (name.as_str(), text) {
                ("location" | "content-location" | "refresh", Some(text)) => {
                    let here = here(text, &self.origin, own);
                    HeaderValue::from_str(&here).unwrap_or_else(|_| value.clone())
                }
                ("set-cookie", Some(text)) => {
                    HeaderValue::from_str(&without_domain(text)).unwrap_or_else(|_| value.clone())
                }
                _ => value.clone(),
            };
            headers.append(name, value);
        }
        headers
    }
}

trait HostAndPort {
    fn host_and_port(&self) -> &str;
}

impl HostAndPort for axum::http::uri::Authority {
    /// Without a user's name and password.
    fn host_and_port(&self) -> &str {
        self.as_str().rsplit('@').next().unwrap_or_default()
    }
}

fn is_html(headers: &HeaderMap) -> bool {
    let kind = headers.get(header::CONTENT_TYPE).and_then(|kind| kind.to_str().ok()).unwrap_or_default();
    kind.split(';').next().is_some_and(|kind| kind.trim().eq_ignore_ascii_case("text/html"))
}

/// Whether a header is for more than the next neighbour.
fn is_passed_on(all: &HeaderMap, name: &HeaderName) -> bool {
    let named = all.get_all(header::CONNECTION).iter().filter_map(|own| own.to_str().ok());
    let is_named =
        named.flat_map(|own| own.split(',')).any(|own| own.trim().eq_ignore_ascii_case(name.as_str()));
    !is_named && !NOT_PASSED_ON.contains(&name.as_str())
}

/// An address of the other server as one of this one; any other address as it is.
fn here(address: &str, origin: &str, own: &str) -> String {
    match address.find(origin) {
        Some(at) if matches!(address.as_bytes().get(at + origin.len()), None | Some(b'/' | b'?' | b'#')) => {
            format!("{}{own}{}", &address[..at], &address[at + origin.len()..])
        }
        _ => address.to_owned(),
    }
}

/// A cookie without the name of the other server, which browsers would refuse from this one (RFC 6265, section 5.3).
fn without_domain(cookie: &str) -> String {
    let parts = cookie.split(';');
    let is_domain =
        |part: &str| part.split('=').next().is_some_and(|name| name.trim().eq_ignore_ascii_case("domain"));
    let kept: Vec<&str> =
        parts.enumerate().filter(|(at, part)| *at == 0 || !is_domain(part)).map(|(_, part)| part).collect();
    kept.join(";")
}

/// A body that is passed on as it is read.
pub fn streamed(mut reader: Box<dyn Read + Send>) -> Body {
    let (sender, receiver) = mpsc::channel::<std::io::Result<Bytes>>(4);
    tokio::task::spawn_blocking(move || {
        loop {
            let mut part = vec![0; 64 << 10];
            let read = match reader.read(&mut part) {
                Ok(0) => return,
                Ok(length) => {
                    part.truncate(length);
                    Ok(Bytes::from(part))
                }
                Err(error) => Err(error),
            };
            let is_over = read.is_err();
            if sender.blocking_send(read).is_err() || is_over {
                return;
            }
        }
    });
    let stream = futures_util::stream::unfold(receiver, |mut receiver| async move {
        let part = receiver.recv().await?;
        Some((part, receiver))
    });
    Body::from_stream(stream)
}

/// An answer with these headers.
pub fn response(status: StatusCode, headers: HeaderMap, body: Body) -> Response {
    let mut response = Response::new(body);
    *response.status_mut() = status;
    *response.headers_mut() = headers;
    response
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_of_the_server_become_those_of_this_one() {
        let (origin, own) = ("http://staging.example:8080", "http://127.0.0.1:4000");
        for (address, expected) in [
            ("http://staging.example:8080/fares/", "http://127.0.0.1:4000/fares/"),
            ("http://staging.example:8080", "http://127.0.0.1:4000"),
            ("/fares/", "/fares/"),
            ("http://staging.example:80801/", "http://staging.example:80801/"),
            ("5; url=http://staging.example:8080/a", "5; url=http://127.0.0.1:4000/a"),
            ("https://other.example/", "https://other.example/"),
        ] {
            assert_eq!(here(address, origin, own), expected);
        }
    }

    #[test]
    fn cookies_are_for_this_server() {
        for (cookie, expected) in [
            ("a=b; Path=/; HttpOnly", "a=b; Path=/; HttpOnly"),
            ("a=b; Domain=staging.example; Path=/", "a=b; Path=/"),
            ("domain=x; domain=staging.example", "domain=x"),
        ] {
            assert_eq!(without_domain(cookie), expected);
        }
    }

    #[test]
    fn a_server_is_named_by_its_origin() {
        for (url, words) in [
            ("staging", "names no server"),
            ("ftp://a.example", "http or https"),
            ("http://a.example/fares/", "names a page"),
            ("http://[", "is no URL"),
        ] {
            let error = Upstream::new(url).err().map(|error| error.to_string()).unwrap_or_default();
            assert!(error.contains(words), "{url}: {error}");
        }
        assert_eq!(Upstream::new("http://a.example:81/").unwrap().origin, "http://a.example:81");
    }
}
