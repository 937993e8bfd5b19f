//! Addresses that cannot be read, and headers that no request can have (URL, "URL parsing"; Fetch, "Headers").

use url::Url;

use super::argument_checks::method_name;
use super::arguments::Arguments;
use super::machine::{Machine, Run, Stop};
use super::platform::Interface;
use super::value::{Kind, ObjectId, Value};
use crate::code::site_host;
use crate::source::Span;

/// What takes an address, and at which place.
const ADDRESSES: &[(&str, &str, usize)] = &[
    ("EventSource", "new", 0),
    ("History", "pushState", 2),
    ("History", "replaceState", 2),
    ("Location", "assign", 0),
    ("Location", "replace", 0),
    ("Navigator", "sendBeacon", 0),
    ("Request", "new", 0),
    ("SharedWorker", "new", 0),
    ("Window", "fetch", 0),
    ("Window", "open", 0),
    ("Worker", "new", 0),
    ("XMLHttpRequest", "open", 1),
];

/// What takes the name of a header, and its value behind it.
const HEADERS: &[(&str, &str)] = &[
    ("Headers", "append"),
    ("Headers", "delete"),
    ("Headers", "get"),
    ("Headers", "has"),
    ("Headers", "set"),
    ("XMLHttpRequest", "setRequestHeader"),
];

/// Whether an address cannot be read, wherever the page is.
pub(super) fn is_unreadable(address: &str) -> bool {
    let mut secure = site_host();
    // `https:` alone is relative on a page that came so, and nothing on another.
    secure.set_scheme("https").is_ok()
        && is_unreadable_on(&site_host(), address)
        && is_unreadable_on(&secure, address)
}

/// The same for an address on a page. Some browsers read signs in the name of a host that the standard has not there.
pub(super) fn is_unreadable_on(page: &Url, address: &str) -> bool {
    let is_plain = |c: &char| c.is_alphanumeric() || "/:?#[]@!$&'()*+,;=-._~%".contains(*c);
    page.join(address).is_err() && page.join(&address.chars().filter(is_plain).collect::<String>()).is_err()
}

/// The same for one that has to be whole.
pub(super) fn is_no_whole(address: &str) -> bool {
    match Url::parse(address) {
        Ok(_) => false,
        // What it is relative to is missing.
        Err(url::ParseError::RelativeUrlWithoutBase) => true,
        Err(_) => is_unreadable(address),
    }
}

impl Machine<'_> {
    /// What is thrown where an address cannot be read, or a header cannot be sent.
    pub(super) fn refused_address(
        &mut self,
        of: Interface,
        name: &str,
        arguments: &Arguments,
        span: Span,
    ) -> Option<Stop> {
        let place = ADDRESSES.iter().find(|row| row.0 == of && row.1 == name);
        if let Some(Value::Text(address)) = place.map(|row| arguments.get(row.2))
            && is_unreadable(&address)
        {
            let takes = "an address that can be read";
            return Some(self.refused(&method_name(of, name), &*address, takes, None, span));
        }
        if HEADERS.contains(&(of, name)) {
            return self.refused_header(of, name, (&arguments.get(0), &arguments.get(1)), span);
        }
        let given = match (of, name) {
            ("Window", "fetch") | ("Request", "new") => self.option(&arguments.get(1), "headers")?,
            ("Headers", "new") => arguments.get(0),
            _ => return None,
        };
        let Value::Object(id) = given else { return None };
        if !matches!(self.object(id).kind, Kind::Plain) {
            return None;
        }
        let all: Vec<(Value, Value)> =
            self.object(id).members.iter().map(|(name, value)| (Value::text(name), value.clone())).collect();
        all.iter().find_map(|(key, value)| self.refused_header(of, name, (key, value), span))
    }

    /// What is thrown where a page is to be left for an address that cannot be read.
    pub(super) fn refused_place(&mut self, id: ObjectId, key: &str, value: &Value, span: Span) -> Run<()> {
        let (true, Value::Text(address)) = (matches!(key, "href" | "location"), value) else { return Ok(()) };
        let is_refused = match (&self.object(id).kind, key) {
            (Kind::Window | Kind::Document, "location") | (Kind::Instance("Location"), "href") => {
                is_unreadable(address)
            }
            (Kind::Instance("URL"), "href") => is_no_whole(address),
            _ => false,
        };
        match is_refused {
            true => {
                Err(self.refused(&format!("{key} ="), &**address, "an address that can be read", None, span))
            }
            false => Ok(()),
        }
    }

    fn refused_header(
        &mut self,
        of: Interface,
        method: &str,
        (name, value): (&Value, &Value),
        span: Span,
    ) -> Option<Stop> {
        let method = method_name(of, method);
        if let Value::Text(name) = name
            && !is_token(name)
        {
            let takes = "the name of a header: letters, digits and dashes";
            return Some(self.refused(&method, &**name, takes, None, span));
        }
        if let Value::Text(value) = value
            && let Some(sign) = value.chars().find(|c| *c > '\u{ff}')
        {
            let takes = "for a header the signs of Latin-1 alone";
            return Some(self.refused(&method, sign.to_string(), takes, None, span));
        }
        None
    }
}

/// Whether it is a token (RFC 9110, "Tokens").
fn is_token(name: &str) -> bool {
    let is_sign = |byte: u8| byte.is_ascii_alphanumeric() || b"!#$%&'*+-.^_`|~".contains(&byte);
    !name.is_empty() && name.bytes().all(is_sign)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_and_headers_are_read_as_the_standards_say() {
        for (address, expected) in [
            ("http://", true),
            ("http://[", true),
            ("https://sorrel ferries.example/", false),
            ("//:80", true),
            ("", false),
            ("fares page.html?a b", false),
            ("mailto:", false),
            ("http:", false),
            ("https:", false),
            ("#", false),
        ] {
            assert_eq!(is_unreadable(address), expected, "{address}");
        }
        assert!(is_token("X-Pier") && !is_token("Content Type") && !is_token("Accept:") && !is_token(""));
    }
}
