//! Who is answered: whoever asks for this server by its own name and port, and no page of another origin.
//!
//! A page of another site can make a browser send requests here. By its own name (DNS rebinding) it could even read the
//! answers; so the name that is asked for has to be ours (RFC 9110, section 7.2). What a browser says of where a request
//! comes from (Fetch, `Origin`; Fetch Metadata, `Sec-Fetch-Site`) has to be ours as well, but for a link that somebody
//! follows in the window itself.

use axum::http::{HeaderMap, Method, StatusCode, header};

/// Why a request is refused.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Refusal {
    /// It asks for another host.
    Host,
    /// A page of another origin sent it.
    Origin,
}

impl Refusal {
    /// The status of the answer.
    pub fn status(self) -> StatusCode {
        match self {
            Refusal::Host => StatusCode::MISDIRECTED_REQUEST,
            Refusal::Origin => StatusCode::FORBIDDEN,
        }
    }

    /// What is said.
    pub fn message(self) -> &'static str {
        match self {
            Refusal::Host => "This server answers to its own name and port alone: 127.0.0.1 and localhost.",
            Refusal::Origin => "This server does not answer to pages of other sites.",
        }
    }
}

/// Whether a request is answered.
///
/// # Errors
/// It asks for another host, or comes from a page of another origin.
pub fn check(method: &Method, headers: &HeaderMap, port: u16) -> Result<(), Refusal> {
    let text = |name: &str| headers.get(name).map(|value| value.to_str().unwrap_or("?"));
    let is_own = |host: &str| host == format!("127.0.0.1:{port}") || host == format!("localhost:{port}");
    let host = text(header::HOST.as_str()).unwrap_or_default();
    if !is_own(host) || headers.get_all(header::HOST).iter().count() != 1 {
        return Err(Refusal::Host);
    }
    let is_followed_link = text("sec-fetch-mode") == Some("navigate")
        && text("sec-fetch-dest") == Some("document")
        && matches!(*method, Method::GET | Method::HEAD);
    if let Some(origin) = text(header::ORIGIN.as_str()).filter(|_| !is_followed_link)
        && origin.strip_prefix("http://") != Some(host)
    {
        return Err(Refusal::Origin);
    }
    match text("sec-fetch-site") {
        None | Some("same-origin" | "none") => Ok(()),
        Some(_) if is_followed_link => Ok(()),
        Some(_) => Err(Refusal::Origin),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use axum::http::HeaderValue;

    #[test]
    fn own_requests_are_answered_and_others_are_not() {
        let ok = Ok(());
        type Row<'r> = (&'r str, &'r [(&'r str, &'r str)], Result<(), Refusal>);
        let rows: [Row<'_>; 15] = [
            ("GET", &[("host", "127.0.0.1:8080")], ok),
            ("GET", &[("host", "localhost:8080")], ok),
            ("GET", &[], Err(Refusal::Host)),
            ("GET", &[("host", "127.0.0.1")], Err(Refusal::Host)),
            ("GET", &[("host", "127.0.0.1:80")], Err(Refusal::Host)),
            ("GET", &[("host", "ferries.example:8080")], Err(Refusal::Host)),
            ("GET", &[("host", "127.0.0.1:8080.ferries.example")], Err(Refusal::Host)),
            ("GET", &[("host", "127.0.0.1:8080"), ("origin", "http://127.0.0.1:8080")], ok),
            ("GET", &[("host", "127.0.0.1:8080"), ("origin", "http://localhost:8080")], Err(Refusal::Origin)),
            ("GET", &[("host", "127.0.0.1:8080"), ("origin", "null")], Err(Refusal::Origin)),
            (
                "POST",
                &[("host", "127.0.0.1:8080"), ("origin", "http://127.0.0.1:9090")],
                Err(Refusal::Origin),
            ),
            ("GET", &[("host", "127.0.0.1:8080"), ("sec-fetch-site", "cross-site")], Err(Refusal::Origin)),
            ("GET", &[("host", "127.0.0.1:8080"), ("sec-fetch-site", "same-site")], Err(Refusal::Origin)),
            (
                "GET",
                &[
                    ("host", "127.0.0.1:8080"),
                    ("sec-fetch-site", "cross-site"),
                    ("sec-fetch-mode", "navigate"),
                    ("sec-fetch-dest", "document"),
                ],
                ok,
            ),
            (
                "GET",
                &[
                    ("host", "127.0.0.1:8080"),
                    ("sec-fetch-site", "cross-site"),
                    ("sec-fetch-mode", "navigate"),
                    ("sec-fetch-dest", "iframe"),
                ],
                Err(Refusal::Origin),
            ),
        ];
        for (method, given, expected) in rows {
            let mut headers = HeaderMap::new();
            for (name, value) in given {
                headers.insert(
                    axum::http::HeaderName::from_bytes(name.as_bytes()).unwrap(),
                    HeaderValue::from_str(value).unwrap(),
                );
            }
            assert_eq!(check(&method.parse().unwrap(), &headers, 8080), expected, "{given:?}");
        }
    }
}
