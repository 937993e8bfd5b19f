//! What a server's `Content-Security-Policy` allows, loosened as far as the pins of a page need and no further (CSP 3).

/// What pins load, by the directive that stands above it.
#[derive(Clone, Debug, Default)]
pub struct Needed {
    /// The folder that the files of pins are served under, as a source expression.
    pub folder: String,
    /// Files of other hosts: the directive, and the file's URL.
    pub remote: Vec<(&'static str, String)>,
}

/// A policy after it has been loosened.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Loosened {
    /// The header's new value.
    pub policy: String,
    /// What was added or taken away, as sentences.
    pub told: Vec<String>,
    /// The nonce that scripts and sheets of the page carry, so that ours can carry it too.
    pub nonce: Option<String>,
}

/// The directives that pins come under, each with those that stand in for it where it is missing (CSP 3, section 6.8.3).
const DIRECTIVES: [(&str, &[&str]); 5] = [
    ("script-src-elem", &["script-src-elem", "script-src", "default-src"]),
    ("style-src-elem", &["style-src-elem", "style-src", "default-src"]),
    ("connect-src", &["connect-src", "default-src"]),
    ("img-src", &["img-src", "default-src"]),
    ("font-src", &["font-src", "default-src"]),
];

struct Directive {
    name: String,
    values: Vec<String>,
}

/// Loosens a policy.
pub fn loosened(policy: &str, needed: &Needed) -> Loosened {
    let mut told = Vec::new();
    let mut nonce = None;
    let policies: Vec<String> = policy
        .split(',')
        .map(|one| one_loosened(one, needed, &mut told, &mut nonce))
        .filter(|one| !one.is_empty())
        .collect();
    Loosened { policy: policies.join(", "), told, nonce }
}

fn one_loosened(policy: &str, needed: &Needed, told: &mut Vec<String>, nonce: &mut Option<String>) -> String {
    let mut directives: Vec<Directive> = Vec::new();
    for directive in policy.split(';') {
        let mut words = directive.split_ascii_whitespace().map(str::to_owned);
        let Some(name) = words.next().map(|name| name.to_ascii_lowercase()) else { continue };
        // The first of a name counts (CSP 3, section 2.2.1).
        if directives.iter().all(|own| own.name != name) {
            directives.push(Directive { name, values: words.collect() });
        }
    }
    if let Some(ancestors) = directives.iter_mut().find(|own| own.name == "frame-ancestors")
        && ancestors.values.iter().all(|value| value != "'self'" && value != "*")
    {
        told.push("`frame-ancestors` keeps the page out of frames: it may stand in the preview's".to_owned());
        ancestors.values = vec!["'self'".to_owned()];
    }
    for (name, instead) in DIRECTIVES {
        let Some(counting) =
            instead.iter().find_map(|name| directives.iter().position(|own| own.name == *name))
        else {
            continue;
        };
        let own = &directives[counting];
        let given = own.values.iter().find_map(|value| nonce_of(value));
        // What carries the page's nonce is let through, and ours does.
        if given.is_some() && matches!(name, "script-src-elem" | "style-src-elem") {
            *nonce = nonce.take().or(given);
            continue;
        }
        let has_all = own.values.iter().any(|value| value == "*" || value == "'self'");
        let mut wanted: Vec<&str> = Vec::new();
        if !has_all {
            wanted.push(&needed.folder);
        }
        wanted.extend(needed.remote.iter().filter(|(of, _)| *of == name).map(|(_, url)| url.as_str()));
        wanted.retain(|url| !own.values.iter().any(|value| value == url || value == "*"));
        if wanted.is_empty() {
            continue;
        }
        told.push(format!("`{}` lets {} through for {name}", own.name, wanted.join(" ")));
        let mut values: Vec<String> =
            own.values.iter().filter(|value| !value.eq_ignore_ascii_case("'none'")).cloned().collect();
        values.extend(wanted.iter().map(|url| (*url).to_owned()));
        if own.name == name {
            directives[counting].values = values;
        } else {
            directives.push(Directive { name: name.to_owned(), values });
        }
    }
    let written = directives.iter().map(|own| match own.values.is_empty() {
        true => own.name.clone(),
        false => format!("{} {}", own.name, own.values.join(" ")),
    });
    written.collect::<Vec<_>>().join("; ")
}

fn nonce_of(value: &str) -> Option<String> {
    let value = value.strip_prefix("'nonce-")?.strip_suffix('\'')?;
    let is_plain = value.chars().all(|c| c.is_ascii_alphanumeric() || "+/-_=".contains(c));
    is_plain.then(|| value.to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_policy_is_loosened_as_far_as_pins_need() {
        let needed = Needed {
            folder: "http://127.0.0.1:8080/_pins/".to_owned(),
            remote: vec![("script-src-elem", "https://cdn.example/tide.js".to_owned())],
        };
        let none = Needed { remote: Vec::new(), ..needed.clone() };
        let rows: [(&Needed, &str, &str, usize); 8] = [
            (&none, "default-src 'self'", "default-src 'self'", 0),
            (&none, "object-src 'none'; base-uri 'self'", "object-src 'none'; base-uri 'self'", 0),
            (
                &none,
                "default-src 'self'; script-src 'none'",
                "default-src 'self'; script-src 'none'; script-src-elem http://127.0.0.1:8080/_pins/",
                1,
            ),
            (
                &needed,
                "script-src 'self'; frame-ancestors 'none'",
                "script-src 'self'; frame-ancestors 'self'; script-src-elem 'self' https://cdn.example/tide.js",
                2,
            ),
            (
                &none, "script-src-elem 'nonce-abc' 'strict-dynamic'",
                "script-src-elem 'nonce-abc' 'strict-dynamic'", 0,
            ),
            (&none, "script-src *; style-src *, img-src *", "script-src *; style-src *, img-src *", 0),
            (&none, "", "", 0),
            (&none, "SCRIPT-SRC 'self'; script-src 'none'", "script-src 'self'", 0),
        ];
        for (needed, policy, expected, told) in rows {
            let made = loosened(policy, needed);
            assert_eq!(made.policy, expected);
            assert_eq!(made.told.len(), told, "{policy}: {:?}", made.told);
        }
        assert_eq!(loosened("script-src 'nonce-abc='", &none).nonce.as_deref(), Some("abc="));
        assert_eq!(loosened("script-src 'nonce-\"><script'", &none).nonce, None);
    }
}
