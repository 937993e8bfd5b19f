//! What functions of the platform need, by a table made from the published WebIDL.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use super::platform::{self, Interface};

/// What a call needs.
#[derive(Clone, Copy, Debug)]
pub(super) struct Needs {
    /// So many arguments at least.
    pub(super) count: usize,
    types: &'static str,
}

/// The type of an argument, as far as it refuses something.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum ArgumentType {
    Any,
    /// One of an interface.
    Interface(Interface),
    /// Something that can be called.
    Function,
    /// That, or an object with a method.
    Listener,
    Object,
    /// Something that can be gone over.
    List,
    /// The same, whose items are of an interface.
    ListOf(Interface),
    /// A finite number.
    Number,
    /// One of the words of an enumeration.
    Word(&'static str),
    /// An object with members of some names; whether something else than an object may stand there too.
    Options(&'static str, bool),
}

/// What the table has by an interface and a name; what has a name alone, by that.
static ROWS: LazyLock<FxHashMap<(&'static str, &'static str), &'static str>> = LazyLock::new(|| {
    let table = include_str!("../../../data/calls.txt");
    let rows = table.lines().filter(|line| !line.starts_with('#')).filter_map(|line| line.split_once(' '));
    rows.map(|(key, row)| (key.split_once('.').unwrap_or(("", key)), row)).collect()
});

/// What functions need, by the same.
static NEEDS: LazyLock<FxHashMap<(&'static str, &'static str), Needs>> = LazyLock::new(|| {
    let needs = |row: &'static str| {
        let (count, types) = row.split_once(' ').unwrap_or((row, ""));
        Some(Needs { count: count.parse().ok()?, types })
    };
    ROWS.iter().filter_map(|(key, row)| Some((*key, needs(row)?))).collect()
});

/// What a method of an interface needs, or of those that it extends; `new` for its constructor, `!name` for a method
/// of the interface itself.
pub(super) fn needs(of: Interface, name: &str) -> Option<Needs> {
    // A constructor is not inherited, nor what another has by itself; functions of the window are its own.
    let is_inherited = name != "new" && !name.starts_with('!');
    let by = platform::member(of, name).filter(|_| is_inherited).map_or(of, |member| member.of);
    NEEDS.get(&(by, name)).copied()
}

impl Needs {
    /// The types of its arguments, in order, and whether each may be `null`.
    pub(super) fn types(self) -> impl Iterator<Item = (ArgumentType, bool)> {
        self.types.split(',').map(ArgumentType::or_null)
    }
}

impl ArgumentType {
    /// A type, and whether `null` may stand there too.
    fn or_null(name: &'static str) -> (Self, bool) {
        let (own, may_be_null) = name.strip_suffix('?').map_or((name, false), |own| (own, true));
        (ArgumentType::of(own), may_be_null)
    }

    fn of(name: &'static str) -> Self {
        match name {
            "function" => ArgumentType::Function,
            "listener" => ArgumentType::Listener,
            "object" => ArgumentType::Object,
            "list" => ArgumentType::List,
            "number" => ArgumentType::Number,
            _ if name.starts_with('|') => ArgumentType::Word(name),
            _ if name.starts_with('{') => ArgumentType::Options(name, false),
            _ if name.starts_with('[') => {
                platform::interface(&name[1..]).map_or(ArgumentType::List, ArgumentType::ListOf)
            }
            _ => match name.strip_prefix('@') {
                Some(options) => ArgumentType::Options(options, true),
                None => platform::interface(name).map_or(ArgumentType::Any, ArgumentType::Interface),
            },
        }
    }
}

/// The attributes that refuse something, by their names: each with its interface and its type.
static ATTRIBUTES: LazyLock<FxHashMap<&'static str, Vec<(Interface, &'static str)>>> = LazyLock::new(|| {
    let mut all: FxHashMap<&'static str, Vec<(Interface, &'static str)>> = FxHashMap::default();
    for ((of, name), row) in ROWS.iter() {
        if let (Some(name), Some((_, own))) = (name.strip_suffix('='), row.split_once(' ')) {
            all.entry(name).or_default().push((of, own));
        }
    }
    all
});

/// What an attribute of an interface takes, or of one that it extends, and whether that may be `null`; none where it
/// refuses nothing.
pub(super) fn attribute_type(of: Interface, name: &str) -> Option<(ArgumentType, bool)> {
    let (_, own) = ATTRIBUTES.get(name)?.iter().find(|(interface, _)| platform::extends(of, interface))?;
    Some(ArgumentType::or_null(own))
}

/// The words of an enumeration.
pub(super) fn words(of: &str) -> impl Iterator<Item = &'static str> + Clone {
    let row = ROWS.get(&("", of)).copied().unwrap_or_default();
    row.split(' ').map(|word| if word == "\"\"" { "" } else { word })
}

/// The members of a dictionary that refuse something, with the type of each, and whether it may be `null`.
pub(super) fn typed_members(of: &str) -> impl Iterator<Item = (&'static str, (ArgumentType, bool))> {
    let entries = ROWS.get(&("", of)).copied().unwrap_or_default().split(' ');
    entries.filter_map(|entry| entry.split_once(':')).map(|(name, own)| (name, ArgumentType::or_null(own)))
}

/// The members of a dictionary that have to be there.
pub(super) fn required_members(of: &str) -> impl Iterator<Item = &'static str> {
    ROWS.get(&("", of)).copied().unwrap_or_default().split(' ').filter_map(|entry| entry.strip_prefix('!'))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn calls_need_what_the_standards_say() {
        let types = |of, name| needs(of, name).map(|needs| needs.types().collect::<Vec<_>>());
        assert_eq!(needs("HTMLElement", "replaceChild").map(|needs| needs.count), Some(2));
        assert_eq!(
            types("HTMLDivElement", "appendChild").unwrap()[0],
            (ArgumentType::Interface("Node"), false)
        );
        assert_eq!(types("HTMLElement", "addEventListener").unwrap()[1], (ArgumentType::Listener, true));
        assert!(needs("HTMLElement", "nope").is_none() && needs("HTMLElement", "new").is_none());
        for (of, name) in ROWS.keys() {
            let is_method = !name.starts_with('!') && !name.ends_with('=') && *name != "new";
            let by = platform::member(platform::interface(of).unwrap_or("Window"), name);
            assert!(
                !is_method || matches!(*of, "" | "Window") || by.is_some_and(|by| by.of == *of),
                "{of}.{name}"
            );
        }
        assert!(words("|ScrollBehavior").any(|word| word == "smooth"));
        assert_eq!(required_members("{ShadowRootInit").collect::<Vec<_>>(), ["mode"]);
        assert_eq!(types("URL", "!createObjectURL").unwrap()[0], (ArgumentType::Object, false));
        assert_eq!(attribute_type("HTMLVideoElement", "volume"), Some((ArgumentType::Number, false)));
        assert_eq!(
            attribute_type("HTMLDocument", "adoptedStyleSheets"),
            Some((ArgumentType::ListOf("CSSStyleSheet"), false))
        );
        assert_eq!(attribute_type("HTMLElement", "volume").or(attribute_type("HTMLElement", "style")), None);
        let members = |of| typed_members(of).collect::<Vec<_>>();
        assert_eq!(
            members("{ScrollToOptions"),
            [("behavior", (ArgumentType::Word("|ScrollBehavior"), false))]
        );
        assert_eq!(
            members("{AddEventListenerOptions"),
            [("signal", (ArgumentType::Interface("AbortSignal"), false))]
        );
    }
}
