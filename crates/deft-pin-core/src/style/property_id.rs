//! Properties by number: compared and looked up without reading their names.

use std::borrow::Cow;
use std::cmp::Ordering;
use std::fmt;
use std::sync::{Arc, LazyLock};

use rustc_hash::FxHashMap;

use super::properties::{Flow, longhand_names, properties};

/// A property: one that the standards and browsers know, a custom one, or a name that nobody knows.
#[derive(Clone, PartialEq, Eq, Hash)]
pub struct PropertyId(Name);

#[derive(Clone, PartialEq, Eq, Hash)]
enum Name {
    /// Its place in the table.
    Known(u16),
    /// As it is written.
    Other(Arc<str>),
}

/// The properties of the table, by name.
struct Table {
    names: Vec<&'static str>,
    numbers: FxHashMap<&'static str, u16>,
    longhands: Vec<Vec<PropertyId>>,
    /// Whether some longhand of each has a physical twin.
    is_logical: Vec<bool>,
}

static TABLE: LazyLock<Table> = LazyLock::new(|| {
    let mut names: Vec<&'static str> =
        properties().map(|property| property.name).filter(|name| !name.starts_with('@')).collect();
    names.sort_unstable();
    let numbers: FxHashMap<&'static str, u16> = names.iter().copied().zip(0..).collect();
    let longhands: Vec<Vec<&str>> = names.iter().map(|name| longhand_names(name)).collect();
    let id_of = |name: &&str| match numbers.get(*name) {
        Some(number) => PropertyId(Name::Known(*number)),
        None => PropertyId(Name::Other(Arc::from(*name))),
    };
    let is_mapped = |name: &&str| Flow::default().mapped(name) != **name;
    Table {
        is_logical: longhands.iter().map(|names| names.iter().any(is_mapped)).collect(),
        longhands: longhands.iter().map(|names| names.iter().map(id_of).collect()).collect(),
        numbers,
        names,
    }
});

impl PropertyId {
    /// The property of a name. Those that are known go by their names in lower case, and so do those
    /// that nobody knows; the names of custom properties are as they are written.
    pub fn of(name: &str) -> Self {
        if let Some(number) = TABLE.numbers.get(name) {
            return PropertyId(Name::Known(*number));
        }
        let name = match name.starts_with("--") {
            true => Cow::Borrowed(name),
            false => Cow::Owned(name.to_ascii_lowercase()),
        };
        match TABLE.numbers.get(&*name) {
            Some(number) => PropertyId(Name::Known(*number)),
            None => PropertyId(Name::Other(Arc::from(&*name))),
        }
    }

    /// Its name.
    pub fn name(&self) -> &str {
        match &self.0 {
            Name::Known(number) => TABLE.names[usize::from(*number)],
            Name::Other(name) => name,
        }
    }

    /// The longhands that a declaration of it sets: itself for a longhand, a custom property or a
    /// name that nobody knows.
    pub fn longhands(&self) -> &[PropertyId] {
        match &self.0 {
            Name::Known(number) => &TABLE.longhands[usize::from(*number)],
            Name::Other(_) => std::slice::from_ref(self),
        }
    }

    /// Whether what it sets depends on how text runs (css-logical-1).
    pub fn is_logical(&self) -> bool {
        matches!(self.0, Name::Known(number) if TABLE.is_logical[usize::from(number)])
    }

    /// The physical twin of a logical longhand; any other as it is.
    pub(super) fn physical(&self, flow: Flow) -> PropertyId {
        if self.is_logical() { PropertyId::of(&flow.mapped(self.name())) } else { self.clone() }
    }

    /// Whether it is a custom property (css-variables-1).
    pub fn is_custom(&self) -> bool {
        self.name().starts_with("--")
    }
}

/// In the order of the names.
impl Ord for PropertyId {
    fn cmp(&self, other: &Self) -> Ordering {
        match (&self.0, &other.0) {
            (Name::Known(a), Name::Known(b)) => a.cmp(b),
            _ => self.name().cmp(other.name()),
        }
    }
}

impl PartialOrd for PropertyId {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq<str> for PropertyId {
    fn eq(&self, name: &str) -> bool {
        self.name() == name
    }
}

impl PartialEq<&str> for PropertyId {
    fn eq(&self, name: &&str) -> bool {
        self.name() == *name
    }
}

impl fmt::Display for PropertyId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

impl fmt::Debug for PropertyId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:?}", self.name())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn longhands(name: &str) -> Vec<String> {
        PropertyId::of(name).longhands().iter().map(ToString::to_string).collect()
    }

    #[test]
    fn shorthands_set_their_longhands_and_aliases_what_they_stand_for() {
        assert_eq!(longhands("MARGIN"), ["margin-top", "margin-right", "margin-bottom", "margin-left"]);
        assert_eq!(longhands("word-wrap"), ["overflow-wrap"]);
        assert_eq!(longhands("-webkit-box-shadow"), ["box-shadow"]);
        assert_eq!(longhands("--X"), ["--X"]);
        assert_eq!(longhands("Colr"), ["colr"]);
        assert!(longhands("border").contains(&"border-image-source".to_owned()));
        assert!(longhands("all").len() > 300 && !longhands("all").contains(&"direction".to_owned()));
    }

    #[test]
    fn numbers_stand_for_names_and_keep_their_order() {
        let names = ["z-index", "--Tide", "color", "colr", "-webkit-line-clamp", "--tide"];
        let mut ids: Vec<PropertyId> = names.iter().map(|name| PropertyId::of(name)).collect();
        ids.sort();
        assert_eq!(ids, ["--Tide", "--tide", "-webkit-line-clamp", "color", "colr", "z-index"]);
        assert_eq!(PropertyId::of("COLOR"), PropertyId::of("color"));
        assert_ne!(PropertyId::of("--Tide"), PropertyId::of("--tide"));
        let custom: Vec<bool> = ids.iter().map(PropertyId::is_custom).collect();
        assert_eq!(custom, [true, true, false, false, false, false]);
    }

    #[test]
    fn logical_properties_have_physical_twins() {
        let table = [
            ("horizontal-tb", "ltr", "margin-inline-start", "margin-left"),
            ("horizontal-tb", "rtl", "margin-inline-start", "margin-right"),
            ("vertical-rl", "ltr", "margin-inline-start", "margin-top"),
            ("vertical-rl", "rtl", "padding-block-start", "padding-right"),
            ("vertical-lr", "rtl", "inset-inline-end", "top"),
            ("vertical-rl", "ltr", "block-size", "width"),
            ("horizontal-tb", "ltr", "min-inline-size", "min-width"),
            ("horizontal-tb", "rtl", "border-start-end-radius", "border-top-left-radius"),
            ("vertical-rl", "ltr", "border-start-end-radius", "border-bottom-right-radius"),
            ("horizontal-tb", "ltr", "border-block-end-color", "border-bottom-color"),
            ("horizontal-tb", "ltr", "overflow-block", "overflow-y"),
            ("horizontal-tb", "ltr", "inline-sizing", "inline-sizing"),
            ("vertical-rl", "ltr", "color", "color"),
        ];
        for (mode, direction, logical, physical) in table {
            let found = PropertyId::of(logical).physical(Flow::of(mode, direction));
            assert_eq!(found, physical, "{mode} {direction}");
        }
        for (name, is_logical) in
            [("margin-inline", true), ("inset", false), ("padding-block-end", true), ("color", false)]
        {
            assert_eq!(PropertyId::of(name).is_logical(), is_logical, "{name}");
        }
    }
}
