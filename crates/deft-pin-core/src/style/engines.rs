//! The engines of browsers, and which of them take what not all take: Chromium by what it says itself, the
//! others by published compatibility data.

use std::sync::LazyLock;

use cssparser::Parser;
use rustc_hash::FxHashMap;
use schemars::JsonSchema;

use super::component::{Tok, tokens};
use super::property_id::PropertyId;
use super::values::{Validity, validity};

/// Made by `scripts/engine-table.sh`.
const TABLE: &str = include_str!("../../data/engines.txt");

/// An engine that browsers are built on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, JsonSchema)]
#[schemars(rename_all = "lowercase")]
pub enum Engine {
    /// That of Chromium, and of the browsers made from it.
    Chromium,
    /// That of Firefox.
    Firefox,
    /// That of Safari, and of every browser on iOS.
    Safari,
}

impl Engine {
    /// All of them.
    pub const ALL: [Engine; 3] = [Engine::Chromium, Engine::Firefox, Engine::Safari];

    /// Its name in boards and arguments.
    pub fn name(self) -> &'static str {
        match self {
            Engine::Chromium => "chromium",
            Engine::Firefox => "firefox",
            Engine::Safari => "safari",
        }
    }

    /// Its name in sentences.
    pub fn title(self) -> &'static str {
        match self {
            Engine::Chromium => "Chromium",
            Engine::Firefox => "Firefox",
            Engine::Safari => "Safari",
        }
    }
}

/// Some of the engines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Engines(u8);

impl Engines {
    /// All of them.
    pub const ALL: Engines = Engines(0b111);
    /// None of them.
    pub const NONE: Engines = Engines(0);

    /// Those of a list.
    pub fn of(engines: impl IntoIterator<Item = Engine>) -> Self {
        engines.into_iter().fold(Engines::NONE, |all, engine| Engines(all.0 | 1 << engine as u8))
    }

    /// Whether one is among them.
    pub fn has(self, engine: Engine) -> bool {
        self.0 & 1 << engine as u8 != 0
    }

    /// Whether there is none.
    pub fn is_empty(self) -> bool {
        self.0 == 0
    }

    /// Those that are among others too.
    pub fn and(self, other: Engines) -> Self {
        Engines(self.0 & other.0)
    }

    /// Those, and others.
    pub fn or(self, other: Engines) -> Self {
        Engines(self.0 | other.0)
    }

    /// Those that are not among others.
    pub fn without(self, other: Engines) -> Self {
        Engines(self.0 & !other.0)
    }

    /// Each of them.
    pub fn iter(self) -> impl Iterator<Item = Engine> {
        Engine::ALL.into_iter().filter(move |engine| self.has(*engine))
    }

    /// Those of the table's letters.
    fn from_letters(letters: &str) -> Self {
        let letter = |engine: &Engine| engine.name().starts_with(|first| letters.contains(first));
        Engines::of(Engine::ALL.into_iter().filter(letter))
    }
}

static ROWS: LazyLock<FxHashMap<(&'static str, &'static str), Engines>> = LazyLock::new(|| {
    let rows = TABLE.lines().filter(|line| !line.starts_with('#'));
    let row = |line: &'static str| {
        let mut columns = line.split('\t');
        let (of, name) = (columns.next()?, columns.next()?);
        Some(((of, name), Engines::from_letters(columns.next()?)))
    };
    rows.filter_map(row).collect()
});

fn row(of: &str, name: &str) -> Option<Engines> {
    ROWS.get(&(of, name)).copied()
}

/// The engines that take a declaration, by its property and its value without `!important`.
pub fn takers(property: &str, value: &str) -> Engines {
    takers_of(property, value, validity(property, value, false))
}

/// The same, where it is known how it was judged.
pub(super) fn takers_of(property: &str, value: &str, judged: Validity) -> Engines {
    if property.starts_with("--") {
        return Engines::ALL;
    }
    let others = Engines::of([Engine::Firefox, Engine::Safari]);
    let mut takers = match judged {
        Validity::Dropped => return Engines::NONE,
        Validity::Taken | Validity::Unknown => Engines::ALL,
        Validity::Elsewhere => others,
    };
    // Of what is not Chromium's, somebody has to have said that another one takes it.
    let mut is_said = judged != Validity::Elsewhere;
    let mut narrow = |said: Option<Engines>| {
        if let Some(said) = said {
            takers = takers.and(said.or(Engines::of([Engine::Chromium])));
            is_said = true;
        }
    };
    let is_vendors_alone = property.starts_with('-') && super::properties::property(property).is_none();
    narrow(row(property, "*").or_else(|| is_vendors_alone.then_some(Engines::NONE)));
    let id = PropertyId::of(property);
    let found = tokens(&mut Parser::new(value)).unwrap_or_default();
    each(&found, &mut |token| {
        let of_property = |name: &str| {
            let longhands = || id.longhands().iter().find_map(|longhand| row(longhand.name(), name));
            row(property, name).or_else(longhands)
        };
        match token {
            Tok::Word(word) => {
                let word = word.to_ascii_lowercase();
                let is_vendors = word.starts_with('-') && !word.starts_with("--");
                narrow(of_property(&word).or_else(|| is_vendors.then(|| prefixed(&word))));
            }
            Tok::Function(name, _) => {
                let name = name.to_ascii_lowercase();
                let is_vendors = name.starts_with('-') && !name.starts_with("--");
                let own = of_property(&format!("{name}()")).or_else(|| row("@function", &name));
                narrow(own.or_else(|| is_vendors.then(|| prefixed(&name))));
            }
            Tok::Dimension(_, unit) => narrow(row("@unit", unit)),
            _ => {}
        }
    });
    if is_said { takers } else { Engines::NONE }
}

/// The engines that know a name with a vendor's prefix that the table does not list: `-webkit-` ones that
/// Chromium takes are taken by all as a rule (Compatibility Standard); others are of nobody any more.
fn prefixed(name: &str) -> Engines {
    if name.starts_with("-webkit-") { Engines::ALL } else { Engines::NONE }
}

/// A name without its vendor's prefix.
pub fn unprefixed(name: &str) -> &str {
    let prefixes = ["-webkit-", "-moz-", "-ms-", "-o-", "-khtml-"];
    prefixes.iter().find_map(|prefix| name.strip_prefix(prefix)).unwrap_or(name)
}

/// Whether a vendor's prefix stands in front of a property, or of a word or function of its value.
pub fn is_vendors(property: &str, value: &str) -> bool {
    let is_mark = |c: char| !c.is_ascii_alphanumeric() && c != '-';
    unprefixed(property) != property || value.split(is_mark).any(|word| unprefixed(word) != word)
}

fn each(tokens: &[Tok], act: &mut dyn FnMut(&Tok)) {
    for token in tokens {
        act(token);
        if let Tok::Function(_, inner) | Tok::Block(_, inner) = token {
            each(inner, act);
        }
    }
}

/// The engines that know what a selector asks for: a pseudo-class or pseudo-element that not all know
/// makes the others drop its rule (Selectors 4, "invalid selectors and error handling").
pub fn selector_takers(selector: &str) -> Engines {
    let mut takers = Engines::ALL;
    let bytes = selector.as_bytes();
    for (at, _) in selector.match_indices(':').filter(|(at, _)| *at == 0 || bytes[at - 1] != b':') {
        let rest = &selector[at..];
        let marks = rest.len() - rest.trim_start_matches(':').len();
        let is_name = |c: char| c.is_ascii_alphanumeric() || c == '-';
        let length = rest[marks..].find(|c| !is_name(c)).unwrap_or(rest.len() - marks);
        let name = rest[..marks + length].to_ascii_lowercase();
        let called = format!("{name}()");
        if let Some(said) = row("@selector", &name).or_else(|| row("@selector", &called)) {
            takers = takers.and(said.or(Engines::of([Engine::Chromium])));
        } else if name.contains(":-moz-") {
            takers = takers.and(Engines::of([Engine::Firefox]));
        } else if name.contains(":-ms-") || name.contains(":-o-") {
            takers = Engines::NONE;
        }
    }
    takers
}

#[cfg(test)]
mod tests {
    use super::*;

    fn drawn(engines: Engines) -> String {
        engines.iter().map(|engine| &engine.name()[..1]).collect()
    }

    #[test]
    fn who_takes_what_is_known() {
        for (property, value, expected) in [
            ("color", "red", "cfs"),
            ("--x", "anything", "cfs"),
            ("color", "nonsense", ""),
            ("text-wrap", "balance", "cfs"),
            ("text-wrap", "pretty", "cs"),
            ("user-select", "none", "cf"),
            ("-webkit-user-select", "none", "cfs"),
            ("-moz-user-select", "none", "f"),
            ("-moz-border-radius", "3px", ""),
            ("width", "-moz-fit-content", "f"),
            ("width", "-webkit-fill-available", "cfs"),
            ("width", "stretch", "cs"),
            ("vertical-align", "center", "f"),
            ("display", "-ms-flexbox", ""),
            ("width", "if(media(print): 1px; else: 2px)", "c"),
            ("background", "-moz-linear-gradient(red, blue)", ""),
            ("-webkit-font-smoothing", "antialiased", "cs"),
            ("-moz-osx-font-smoothing", "grayscale", "f"),
        ] {
            assert_eq!(drawn(takers(property, value)), expected, "{property}: {value}");
        }
        for (selector, expected) in [
            ("a:hover::before", "cfs"),
            ("option::checkmark", "cs"),
            (":has-slotted", "f"),
            ("::-webkit-scrollbar", "cs"),
        ] {
            assert_eq!(
                drawn(selector_takers(selector)),
                expected.replace("f", if expected == "f" { "cf" } else { "f" }),
                "{selector}"
            );
        }
    }
}
