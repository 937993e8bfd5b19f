//! The namespaces that a sheet declares for its selectors (css-namespaces-3).

use html5ever::Namespace;

use super::selector::Name;

/// What the prefixes of a sheet's selectors mean, and names without one.
#[derive(Clone, Debug, Default)]
pub struct Namespaces {
    default: Option<Namespace>,
    prefixes: Vec<(Name, Namespace)>,
    /// Whether what other engines than Chromium know is taken too.
    pub(super) of_all_engines: bool,
}

/// None.
pub(super) const NONE: &Namespaces =
    &Namespaces { default: None, prefixes: Vec::new(), of_all_engines: false };

impl Namespaces {
    /// Takes in what an `@namespace` says between its name and its semicolon; what is none is passed over. Of two for
    /// one prefix the later counts.
    pub fn declare(&mut self, prelude: &str) {
        let mut input = cssparser::Parser::new(prelude);
        let prefix = input.try_parse(|input| input.expect_ident().map(|prefix| Name::from(&**prefix))).ok();
        let Ok(url) = input.expect_url_or_string().map(|url| Namespace::from(&*url.to_string())) else {
            return;
        };
        if !input.is_exhausted() {
            return;
        }
        match prefix {
            None => self.default = Some(url),
            Some(prefix) => {
                self.prefixes.retain(|(own, _)| *own != prefix);
                self.prefixes.push((prefix, url));
            }
        }
    }

    /// Takes in what another sheet in the same text declares. `false` where one of the two would read its selectors
    /// anew: by another default, or by another meaning of a prefix.
    pub fn share(&mut self, other: Namespaces) -> bool {
        let is_at_odds =
            |(prefix, url): &(Name, Namespace)| self.of_prefix(prefix).is_some_and(|own| own != *url);
        if self.default != other.default || other.prefixes.iter().any(is_at_odds) {
            return false;
        }
        self.prefixes.extend(other.prefixes);
        true
    }

    /// The same for selectors that may be those of any engine.
    pub(crate) fn for_all_engines(self) -> Self {
        Namespaces { of_all_engines: true, ..self }
    }

    pub(super) fn default_namespace(&self) -> Option<Namespace> {
        self.default.clone()
    }

    pub(super) fn of_prefix(&self, prefix: &Name) -> Option<Namespace> {
        self.prefixes.iter().find(|(own, _)| own == prefix).map(|(_, url)| url.clone())
    }
}
