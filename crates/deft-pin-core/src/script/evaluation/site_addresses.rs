//! Addresses of the site (URL, "API"), of which the path is known and the host is not: `link.href`, `location.href`.

use std::sync::Arc;

use url::Url;

use super::arguments::Arguments;
use super::machine::Machine;
use super::piece::{Piece, SitePart};
use super::value::{Doubt, Value};
use crate::code::site_host;

/// What stands for `http:` or `https:`, for the name of the host, and for what follows that: its port, if any.
const SCHEME: char = '\u{e001}';
const HOSTNAME: char = '\u{e002}';
const PORT: char = '\u{e003}';
/// What stands for a query and a fragment.
const REST: char = '\u{e004}';

/// Longer texts are not followed.
const LONGEST: usize = 2_000;

impl SitePart {
    fn spelled(self) -> String {
        match self {
            SitePart::Host => format!("{HOSTNAME}{PORT}"),
            SitePart::Hostname => HOSTNAME.to_string(),
            SitePart::Rest => REST.to_string(),
            SitePart::Origin => format!("{SCHEME}//{HOSTNAME}{PORT}"),
        }
    }
}

/// A value as a text with signs for the parts of the site's own address; none where more of it is not known.
fn spelled(value: &Value) -> Option<String> {
    let text = match value {
        Value::Text(text) => text.to_string(),
        Value::Some("String", Doubt::Site(part)) => part.spelled(),
        Value::Pieced(pieces, _) => {
            let mut out = String::new();
            for piece in pieces.iter() {
                match piece {
                    Piece::Known(text) => out.push_str(text),
                    Piece::Site(part) => out.push_str(&part.spelled()),
                    _ => return None,
                }
            }
            out
        }
        _ => return None,
    };
    (text.len() <= LONGEST).then_some(text)
}

fn has_sign(text: &str) -> bool {
    text.contains([SCHEME, HOSTNAME, PORT, REST])
}

/// The value that is spelled in that way.
fn read(text: &str) -> Value {
    let origin = SitePart::Origin.spelled();
    let (mut pieces, mut known, mut rest) = (Vec::new(), String::new(), text);
    while let Some(first) = rest.chars().next() {
        let piece = match first {
            SCHEME if rest.starts_with(&origin) => Piece::Site(SitePart::Origin),
            SCHEME | PORT => Piece::Hole,
            HOSTNAME if rest[first.len_utf8()..].starts_with(PORT) => Piece::Site(SitePart::Host),
            HOSTNAME => Piece::Site(SitePart::Hostname),
            REST => Piece::Site(SitePart::Rest),
            other => {
                known.push(other);
                rest = &rest[other.len_utf8()..];
                continue;
            }
        };
        let length = match &piece {
            Piece::Site(part) => part.spelled().len(),
            _ => first.len_utf8(),
        };
        rest = &rest[length..];
        if !known.is_empty() {
            pieces.push(Piece::Known(Arc::from(std::mem::take(&mut known))));
        }
        pieces.push(piece);
    }
    match pieces.as_slice() {
        [] => Value::text(text),
        [Piece::Site(part)] if known.is_empty() => part.value(),
        [Piece::Hole] if known.is_empty() => Value::Some("String", Doubt::Page),
        _ => {
            if !known.is_empty() {
                pieces.push(Piece::Known(Arc::from(known)));
            }
            Value::Pieced(Arc::from(pieces), Doubt::Site(SitePart::Origin))
        }
    }
}

/// Whether a text may be found where the host of an address is, or over its ends, of which what stands behind is known.
fn may_be_over_host(text: &str, behind: &str) -> bool {
    // A host has a dot in it, and none but these letters.
    let is_end_of_host = |part: &str| {
        let bare = part.trim_start_matches(|c: char| "htps:/".contains(c));
        let is_host = bare.chars().all(|c| c.is_ascii_alphanumeric() || matches!(c, '.' | '-' | ':'));
        is_host && (!part.contains('/') || bare.contains('.') || bare.is_empty())
    };
    let ends = text.char_indices().map(|(at, _)| at).chain([text.len()]);
    ends.filter(|at| *at > 0).any(|at| {
        let (part, rest) = text.split_at(at);
        is_end_of_host(part) && (behind.starts_with(rest) || rest.is_empty())
    })
}

impl Machine<'_> {
    /// The address of a page or of a link on the site.
    pub(super) fn address_on_site(path: &str) -> Value {
        read(&format!("{}{path}", SitePart::Origin.spelled()))
    }

    /// The same with a query and a fragment that are not known.
    pub(super) fn address_begun_with(path: &str) -> Value {
        let rest = Piece::Site(SitePart::Rest);
        let pieces = [Piece::Site(SitePart::Origin), Piece::Known(Arc::from(path)), rest];
        Value::Pieced(Arc::from(pieces), Doubt::Visit)
    }

    /// What `new URL` makes of an address on the site, and a base; none for others.
    pub(super) fn joined_on_site(arguments: &Arguments) -> Option<Url> {
        let origin = SitePart::Origin.spelled();
        let texts: Vec<String> = arguments.values.iter().map(spelled).collect::<Option<_>>()?;
        if !texts.iter().any(|text| text.starts_with(&origin)) {
            return None;
        }
        let host = site_host();
        let whole = |text: &str| text.replacen(&origin, host.as_str().trim_end_matches('/'), 1);
        let joined = match texts.as_slice() {
            [address] => Url::parse(&whole(address)).ok()?,
            [address, base] => Url::parse(&whole(base)).ok()?.join(&whole(address)).ok()?,
            _ => return None,
        };
        (joined.host() == host.host() && !has_sign(&texts.concat().replace(&origin, ""))).then_some(joined)
    }

    /// Whether two texts of which parts of the site's address are known are the same; none where that is not known.
    pub(super) fn same_addresses(left: &Value, right: &Value) -> Option<bool> {
        let may_have_sign =
            |value: &Value| matches!(value, Value::Pieced(..) | Value::Some(_, Doubt::Site(_)));
        if !may_have_sign(left) && !may_have_sign(right) {
            return None;
        }
        let (left, right) = (spelled(left)?, spelled(right)?);
        if !has_sign(&left) && !has_sign(&right) {
            return None;
        }
        if left == right {
            return Some(true);
        }
        // What may stand behind the one is part of the other.
        if let Some((known, _)) = left.split_once(REST).or_else(|| right.split_once(REST)) {
            let other = if left.contains(REST) { &right } else { &left };
            let is_other = match (known.starts_with(SCHEME), has_sign(other)) {
                (true, true) => {
                    other.starts_with(SCHEME) && !other.contains(REST) && !other.starts_with(known)
                }
                (true, false) => !other.starts_with("http"),
                (false, _) => !has_sign(known) && !has_sign(other) && !other.starts_with(known),
            };
            return is_other.then_some(false);
        }
        let (whole, other) = if left.starts_with(SCHEME) { (&left, &right) } else { (&right, &left) };
        let is_whole = |text: &str| text.starts_with(&SitePart::Origin.spelled());
        match is_whole(whole) {
            true if is_whole(other) => Some(false),
            // Another host may be the site's own.
            true if !has_sign(other) && !other.starts_with("http") => Some(false),
            _ => None,
        }
    }

    /// What a method of a text gives of an address of the site; none where that is not known.
    pub(super) fn of_address(&mut self, name: &str, this: &Value, arguments: &Arguments) -> Option<Value> {
        if matches!(this, Value::Text(_)) && arguments.values.first().is_none_or(|own| own.doubt().is_none())
        {
            return None;
        }
        let own = spelled(this)?;
        let given = arguments.values.first().map(spelled);
        if !has_sign(&own) && !given.as_ref().is_some_and(|given| given.as_deref().is_some_and(has_sign)) {
            return None;
        }
        if own.contains(REST) {
            return match (name, given) {
                ("includes", Some(Some(given))) if own.contains(&given) => Some(Value::Boolean(true)),
                ("startsWith", Some(Some(given))) if own.starts_with(&given) => Some(Value::Boolean(true)),
                ("replace", Some(Some(given))) if own.starts_with(&given) && !given.is_empty() => {
                    let Some(Value::Text(by)) = arguments.values.get(1) else { return None };
                    (!by.contains('$')).then(|| read(&own.replacen(&given, by, 1)))
                }
                ("toString" | "valueOf", None) => Some(this.clone()),
                _ => None,
            };
        }
        let behind = own.rfind([HOSTNAME, PORT]).map_or("", |at| &own[at + PORT.len_utf8()..]);
        let is_lost = |given: &str| has_sign(&own) && !has_sign(given) && may_be_over_host(given, behind);
        match (name, given) {
            ("trim" | "toString" | "valueOf", None) => Some(read(&own)),
            ("toLowerCase", None) => Some(read(&own.to_lowercase())),
            ("includes", Some(Some(given))) if arguments.values.len() == 1 => match own.contains(&given) {
                true => Some(Value::Boolean(true)),
                false => (!is_lost(&given)).then_some(Value::Boolean(false)),
            },
            ("indexOf" | "lastIndexOf", Some(Some(given)))
                if arguments.values.len() == 1 && !own.contains(&given) =>
            {
                (!is_lost(&given)).then_some(Value::Number(-1.0))
            }
            ("startsWith", Some(Some(given))) if arguments.values.len() == 1 => {
                let is_decided =
                    own.starts_with(&given) || !own.starts_with(SCHEME) || !given.starts_with('h');
                match is_decided && (has_sign(&given) || own.starts_with(SCHEME)) {
                    true => Some(Value::Boolean(own.starts_with(&given))),
                    false => ("http".starts_with(given.as_str())).then_some(Value::Boolean(true)),
                }
            }
            ("endsWith", Some(Some(given))) if arguments.values.len() == 1 && !behind.is_empty() => match own
                .ends_with(&given)
            {
                true => Some(Value::Boolean(true)),
                false => (given.len() <= behind.len() || !is_lost(&given)).then_some(Value::Boolean(false)),
            },
            ("split", Some(Some(given))) if matches!(given.as_str(), "/" | "#" | "?" | "&" | "=") => {
                let parts: Vec<Value> = own.split(given.as_str()).map(read).collect();
                (arguments.values.len() == 1).then(|| self.array(parts, false))
            }
            ("replace" | "replaceAll", Some(Some(given)))
                if !given.is_empty() && (own.contains(&given) || !is_lost(&given)) =>
            {
                let Some(Value::Text(by)) = arguments.values.get(1) else { return None };
                let most = if name == "replace" { 1 } else { usize::MAX };
                (!by.contains('$')).then(|| read(&own.replacen(&given, by, most)))
            }
            _ => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_may_stand_in_a_host_is_not_known_to_be_missing() {
        for (text, behind, expected) in [
            ("timetable", "/fares/", true),
            ("/timetable/", "/fares/", false),
            ("/fares", "/x/", false),
            ("#fares", "/x/", false),
            ("?pier", "/x/", false),
            ("example/fares", "/fares/", true),
            ("example/piers", "/fares/", false),
            ("https://www.sorrel.example/", "/fares/", true),
            ("//www.sorrel.example", "/fares/", true),
            ("mailto:x@sorrel.example", "/", false),
            ("index.html", "/fares/", true),
            ("/index.html", "/fares/", true),
            ("fares.html?x", "/fares/", false),
        ] {
            assert_eq!(may_be_over_host(text, behind), expected, "{text} before {behind}");
        }
    }

    #[test]
    fn addresses_are_read_as_they_are_spelled() {
        let here = Machine::address_on_site("/fares/#day");
        assert_eq!(read(&spelled(&here).unwrap()).doubt(), here.doubt());
        assert_eq!(Machine::same_addresses(&here, &Machine::address_on_site("/fares/#day")), Some(true));
        assert_eq!(Machine::same_addresses(&here, &Machine::address_on_site("/fares/")), Some(false));
        assert_eq!(Machine::same_addresses(&here, &Value::text("/fares/#day")), Some(false));
        assert_eq!(Machine::same_addresses(&here, &Value::text("https://a.example/fares/#day")), None);
        let begun = Machine::address_begun_with("/fares/");
        for (other, expected) in [
            (Machine::address_begun_with("/fares/"), Some(true)),
            (Machine::address_on_site("/fares/"), None),
            (here, None),
            (Machine::address_on_site("/piers/"), Some(false)),
            (Value::text("/fares/"), Some(false)),
        ] {
            assert_eq!(Machine::same_addresses(&begun, &other), expected, "{other:?}");
        }
    }
}
