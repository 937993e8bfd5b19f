//! The platform's interfaces, by a table made from the published WebIDL and from asking Chromium.

use std::sync::{LazyLock, OnceLock};

use rustc_hash::{FxHashMap, FxHashSet};

use crate::source::nearest;

/// An interface, by its name.
pub(super) type Interface = &'static str;

/// A member of an interface.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Member {
    /// The interface that has it by itself.
    pub(super) of: Interface,
    pub(super) is_function: bool,
    pub(super) is_writable: bool,
    /// What it comes to: the name of an interface, `string`, `number`, `boolean`, `promise`, `void`, `any` and the
    /// like, `promise:` before what a promise comes to; `?` behind it where that may be `null`.
    pub(super) result: &'static str,
}

/// Objects that are no interfaces, and have members of their own.
const STATIC: &[&str] = &["console"];

struct Row {
    name: Interface,
    parent: &'static str,
    /// The row of the interface that it extends, once that is asked for.
    above: OnceLock<Option<&'static Row>>,
    /// With a blank before each member, and one at the end.
    members: &'static str,
    /// The same by their names, once they are asked for, with those of the interfaces that it extends.
    by_name: OnceLock<FxHashMap<&'static str, Member>>,
}

impl Row {
    /// The row of the interface that it extends.
    fn above(&self) -> Option<&'static Row> {
        *self.above.get_or_init(|| row(self.parent))
    }

    /// A member that it has, or one of those that it extends.
    fn member(&self, name: &str) -> Option<Member> {
        let all = self.by_name.get_or_init(|| {
            let mut all = FxHashMap::default();
            let mut at = Some(self);
            while let Some(row) = at {
                for entry in row.members.split(' ') {
                    if let Some((name, member)) = member_of(row.name, entry) {
                        // Of several the first counts.
                        all.entry(name).or_insert(member);
                    }
                }
                at = row.above();
            }
            all
        });
        all.get(name).copied()
    }
}

/// A member by its entry in the table, with its name.
fn member_of(of: Interface, entry: &'static str) -> Option<(&'static str, Member)> {
    let (name, rest) = entry.split_at(entry.find(['(', '=', '-'])?);
    let is_function = rest.starts_with('(');
    let result = rest.get(if is_function { 2 } else { 1 }..)?;
    Some((name, Member { of, is_function, is_writable: rest.starts_with('='), result }))
}

static ROWS: LazyLock<FxHashMap<&'static str, Row>> = LazyLock::new(|| {
    let table = include_str!("../../../data/platform.txt");
    let row = |line: &'static str| {
        let (name, rest) = line.split_once(':')?;
        let (parent, members) = rest.split_at(rest.find(' ').unwrap_or(rest.len()));
        Some((name, Row { name, parent, above: OnceLock::new(), members, by_name: OnceLock::new() }))
    };
    table.lines().filter(|line| !line.starts_with('#')).filter_map(row).collect()
});

fn row(name: &str) -> Option<&'static Row> {
    ROWS.get(name)
}

/// The interface of that name.
pub(super) fn interface(name: &str) -> Option<Interface> {
    let is_row = |name: &str| !matches!(name, "tags" | "events" | "window-itself");
    ROWS.get_key_value(name).map(|(name, _)| *name).filter(|name| is_row(name))
}

/// The interface of a tag's elements.
pub(super) fn of_tag(tag: &str) -> Interface {
    static TAGS: LazyLock<FxHashMap<&'static str, Interface>> = LazyLock::new(|| {
        let entries = row("tags").map_or("", |row| row.parent).split(',');
        entries.filter_map(|entry| entry.split_once('=')).collect()
    });
    let known = TAGS.get(tag).copied();
    let unknown = if tag.contains('-') { "HTMLElement" } else { "HTMLUnknownElement" };
    known.unwrap_or(unknown)
}

/// The interface of an element of SVG, or of MathML.
pub(super) fn of_drawing(tag: &str, is_svg: bool) -> Interface {
    static NAMES: LazyLock<FxHashMap<String, Interface>> = LazyLock::new(|| {
        let inner = |name: &'static str| name.strip_prefix("SVG")?.strip_suffix("Element");
        let names = ROWS.keys().filter_map(|name| Some((inner(name)?.to_ascii_lowercase(), *name)));
        names.collect()
    });
    match is_svg {
        true => NAMES.get(&tag.to_ascii_lowercase()).copied().unwrap_or("SVGElement"),
        false => "MathMLElement",
    }
}

/// The member of an interface, or of those that it extends.
pub(super) fn member(of: Interface, name: &str) -> Option<Member> {
    row(of)?.member(name)
}

/// A member of an interface itself, or of those that it extends: `Date.now`, `Math.PI`, `Uint8Array.from`.
pub(super) fn static_member(of: Interface, name: &str) -> Option<Member> {
    member(of, &format!("!{name}"))
}

/// A global by that name, as a member of the window.
pub(super) fn global(name: &str) -> Option<Member> {
    member("window-itself", name)
        .or_else(|| member("EventTarget", name))
        .map(|found| Member { of: "Window", ..found })
}

/// Whether a function of an interface, or of the global object, gives a promise.
pub(super) fn gives_promise(of: Interface, name: &str) -> bool {
    let found = match of {
        "Window" => global(name),
        _ => member(of, name).or_else(|| static_member(of, name)),
    };
    found.is_some_and(|own| own.is_function && own.result.starts_with("promise"))
}

/// Whether some interface has a member of that name.
pub(super) fn is_member_of_any(name: &str) -> bool {
    ALL_NAMES.binary_search(&name).is_ok()
}

/// The names of all members of all interfaces, each once, by the alphabet.
static ALL_NAMES: LazyLock<Vec<&'static str>> = LazyLock::new(|| {
    let entries = ROWS.values().flat_map(|row| row.members.split(' '));
    let name = |entry: &'static str| entry.find(['(', '=', '-']).map(|end| &entry[..end]);
    let mut all: Vec<&'static str> =
        entries.map(|entry| entry.trim_start_matches('!')).filter_map(name).collect();
    all.sort_unstable();
    all.dedup();
    all
});

/// A member of some interface whose name is nearly that one.
pub(super) fn near_any(name: &str) -> Option<&'static str> {
    nearest(name, ALL_NAMES.iter().copied())
}

/// Whether one interface is another, or extends it.
pub(super) fn extends(of: Interface, other: &str) -> bool {
    let mut at = row(of);
    let mut name = of;
    while name != other {
        let Some(row) = at else { return false };
        (name, at) = (row.parent, row.above());
    }
    true
}

/// The interface that one extends.
pub(super) fn parent(of: Interface) -> Option<Interface> {
    row(of).map(|row| row.parent).filter(|parent| !parent.is_empty())
}

/// Whether other interfaces extend one.
pub(super) fn is_extended(of: Interface) -> bool {
    static EXTENDED: LazyLock<FxHashSet<&'static str>> =
        LazyLock::new(|| ROWS.values().map(|row| row.parent).collect());
    // What extends a text stands in XML alone.
    of != "Text" && EXTENDED.contains(of)
}

/// Whether an interface that extends one has a member of that name.
pub(super) fn is_member_below(of: Interface, name: &str) -> bool {
    let is_it = |entry: &str| entry.strip_prefix(name).is_some_and(|rest| rest.starts_with(['(', '=', '-']));
    ROWS.iter().any(|(own, row)| {
        row.members.contains(name) && row.members.split(' ').any(is_it) && *own != of && extends(own, of)
    })
}

/// The names of the members of an interface and of those that it extends.
fn names(of: Interface) -> Vec<&'static str> {
    let mut all = Vec::new();
    let mut at = of;
    while let Some(row) = row(at) {
        let name = |entry: &'static str| entry.find(['(', '=', '-']).map(|end| &entry[..end]);
        all.extend(row.members.split(' ').filter(|entry| !entry.starts_with('!')).filter_map(name));
        at = row.parent;
    }
    all
}

/// The member of an interface whose name is nearly that one.
pub(super) fn near(of: Interface, name: &str) -> Option<&'static str> {
    let mut all = names(of);
    if let Some(row) =
        row(of).filter(|_| STATIC.contains(&of) || of.starts_with(|c: char| c.is_ascii_uppercase()))
    {
        let own = row.members.split(' ').filter_map(|entry| entry.strip_prefix('!'));
        all.extend(own.filter_map(|entry| entry.find(['(', '=', '-']).map(|end| &entry[..end])));
    }
    let same = all.iter().find(|own| own.eq_ignore_ascii_case(name));
    same.copied().or_else(|| nearest(name, all))
}

/// Whether browsers have an event of that name.
pub(super) fn is_event(name: &str) -> bool {
    static EVENTS: LazyLock<FxHashSet<&'static str>> =
        LazyLock::new(|| row("events").map(|row| row.members.split(' ').collect()).unwrap_or_default());
    EVENTS.contains(name)
}

/// The event whose name is nearly that one.
pub(super) fn near_event(name: &str) -> Option<&'static str> {
    let row = row("events")?;
    let all = || row.members.split(' ').filter(|own| !own.is_empty());
    let bare = name.strip_prefix("on").filter(|bare| is_event(bare));
    let same = bare.and_then(|bare| all().find(|own| *own == bare));
    same.or_else(|| all().find(|own| own.eq_ignore_ascii_case(name))).or_else(|| nearest(name, all()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn members_are_found_with_what_they_come_to() {
        let found = |of: &str, name: &str| {
            let found = member(interface(of)?, name)?;
            Some((found.of, found.is_function, found.is_writable, found.result))
        };
        assert_eq!(found("HTMLElement", "querySelector"), Some(("Element", true, false, "Element?")));
        assert_eq!(found("HTMLElement", "innerHTML"), Some(("Element", false, true, "any")));
        assert_eq!(found("HTMLElement", "addEventListner"), None);
        assert_eq!(found("NodeList", "forEach"), Some(("NodeList", true, false, "any")));
        assert_eq!(found("NodeList", "style"), None);
        assert_eq!(near("HTMLElement", "addEventListner"), Some("addEventListener"));
        assert_eq!(near("HTMLElement", "innerHtml"), Some("innerHTML"));
        assert_eq!(
            (of_tag("a"), of_tag("x-y"), of_tag("blah")),
            ("HTMLAnchorElement", "HTMLElement", "HTMLUnknownElement")
        );
        assert!(static_member("Math", "floor").is_some() && global("querySelector").is_none());
        assert_eq!(global("document").map(|member| member.result), Some("Document"));
        assert!(extends("HTMLElement", "Node") && !extends("NodeList", "Node"));
        assert!(is_event("click") && !is_event("onclick"));
        assert_eq!((near_event("onclick"), near_event("clik")), (Some("click"), Some("click")));
    }
}
