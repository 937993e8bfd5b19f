//! The properties and descriptors that the standards and browsers know: what each sets, whether it
//! is inherited, and the grammar of its value.

use std::borrow::Cow;
use std::sync::LazyLock;

use rustc_hash::FxHashMap;

use crate::source::nearest;

/// Made by `scripts/property-table.sh`.
const TABLE: &str = include_str!("../../data/properties.txt");

/// A property, or an at-rule and one of its descriptors.
#[derive(Debug)]
pub struct Property {
    /// Its name.
    pub name: &'static str,
    /// Whether an element that nothing sets it on takes it from its parent.
    pub inherited: bool,
    /// What it is where nothing sets it, as the standard words it.
    pub initial: Option<&'static str>,
    /// The longhands that it sets; empty where it is one.
    pub longhands: Vec<&'static str>,
    /// The grammar of its value (css-values-4, 2), where one is published.
    pub grammar: Option<&'static str>,
}

static PROPERTIES: LazyLock<FxHashMap<&'static str, Property>> =
    LazyLock::new(|| rows().map(|property| (property.name, property)).collect());

fn rows() -> impl Iterator<Item = Property> {
    TABLE.lines().filter(|line| !line.starts_with('#') && !line.is_empty()).filter_map(|line| {
        let mut columns = line.split('\t');
        let name = columns.next()?;
        let inherited = columns.next() == Some("inherited");
        let published = |text: &'static str| (text != "-").then_some(text);
        let initial = columns.next().and_then(published);
        let longhands = columns.next().unwrap_or_default().trim_end_matches('*').trim();
        let longhands = published(longhands).map(|names| names.split(' ').collect()).unwrap_or_default();
        Some(Property { name, inherited, initial, longhands, grammar: columns.next().and_then(published) })
    })
}

/// Every property, and every at-rule with each of its descriptors.
pub fn properties() -> impl Iterator<Item = &'static Property> {
    PROPERTIES.values()
}

/// The names of properties without a vendor's prefix, in order.
static NAMES: LazyLock<Vec<&'static str>> = LazyLock::new(|| {
    let mut names: Vec<_> = PROPERTIES.keys().copied().filter(|name| !name.starts_with(['@', '-'])).collect();
    names.sort_unstable();
    names
});

/// The property of a name, in any case. Custom properties have no entry.
pub fn property(name: &str) -> Option<&'static Property> {
    PROPERTIES.get(&*lower(name))
}

fn lower(name: &str) -> Cow<'_, str> {
    if name.bytes().any(|b| b.is_ascii_uppercase()) {
        Cow::Owned(name.to_ascii_lowercase())
    } else {
        Cow::Borrowed(name)
    }
}

/// The longhands that `all` sets: every one but those of the direction of writing (css-cascade-5,
/// 3.2).
static ALL: LazyLock<Vec<&'static str>> = LazyLock::new(|| {
    let longhands = PROPERTIES.values().filter(|property| property.longhands.is_empty());
    let mut names: Vec<_> = longhands.map(|property| property.name).collect();
    names.retain(|name| !name.starts_with('@') && !matches!(*name, "all" | "direction" | "unicode-bidi"));
    names.sort_unstable();
    names
});

/// The names of the longhands that a declaration of a known property sets: itself for a longhand.
pub(super) fn longhand_names(name: &'static str) -> Vec<&'static str> {
    match property(name) {
        Some(property) if property.name == "all" => ALL.clone(),
        Some(property) if !property.longhands.is_empty() => property.longhands.clone(),
        _ => vec![name],
    }
}

/// Whether a property is inherited (css-cascade-5, 7.2). Custom properties are, unless
/// `@property` says otherwise.
pub fn is_inherited(name: &str) -> bool {
    name.starts_with("--") || property(name).is_some_and(|property| property.inherited)
}

/// Whether some browser may know a property of that name. Custom properties and names with a
/// vendor's prefix always may be known.
pub fn is_property(name: &str) -> bool {
    name.starts_with('-') || property(name).is_some()
}

/// Whether an at-rule has a descriptor of that name. At-rules whose descriptors no standard lists
/// may have any.
pub fn is_descriptor(at_rule: &str, name: &str) -> bool {
    let row = format!("@{at_rule} {}", lower(name));
    let prefix = format!("@{at_rule} ");
    name.starts_with('-')
        || PROPERTIES.contains_key(row.as_str())
        || !PROPERTIES.keys().any(|row| row.starts_with(&prefix))
}

/// The property that someone who wrote `name` most likely meant.
pub fn nearest_property(name: &str) -> Option<&'static str> {
    // What people call them.
    const CALLED: &[(&str, &str)] = &[
        ("font-color", "color"),
        ("text-color", "color"),
        ("font-decoration", "text-decoration"),
        ("text-style", "font-style"),
        ("text-weight", "font-weight"),
        ("text-size", "font-size"),
        ("align", "text-align"),
        ("bgcolor", "background-color"),
        ("bg-color", "background-color"),
        ("bg", "background"),
        ("valign", "vertical-align"),
        ("vertical-alignment", "vertical-align"),
        ("text-alignment", "text-align"),
        ("font-colour", "color"),
        ("text-colour", "color"),
        ("foreground-color", "color"),
        ("corner-radius", "border-radius"),
        ("rounded", "border-radius"),
        ("drop-shadow", "box-shadow"),
        ("shadow", "box-shadow"),
        ("line-spacing", "line-height"),
        ("character-spacing", "letter-spacing"),
        ("font-spacing", "letter-spacing"),
        ("background-opacity", "opacity"),
        ("alpha", "opacity"),
    ];
    if let Some((_, meant)) = CALLED.iter().find(|(called, _)| name.eq_ignore_ascii_case(called)) {
        return Some(meant);
    }
    nearest(name, NAMES.iter().copied())
}

/// How text runs in an element: what logical properties are mapped by (css-logical-1, 4).
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Flow {
    /// Lines are vertical.
    pub vertical: bool,
    /// Lines follow each other from right to left, in a vertical flow.
    pub blocks_leftward: bool,
    /// A line runs from right to left, or from bottom to top.
    pub reversed: bool,
}

impl Flow {
    /// The flow of an element with these values of `writing-mode` and `direction`.
    pub fn of(writing_mode: &str, direction: &str) -> Self {
        let vertical = writing_mode.starts_with("vertical") || writing_mode.starts_with("sideways");
        let rtl = direction.eq_ignore_ascii_case("rtl");
        let sideways_lr = writing_mode == "sideways-lr";
        Flow {
            vertical,
            blocks_leftward: matches!(writing_mode, "vertical-rl" | "sideways-rl"),
            reversed: rtl != sideways_lr,
        }
    }

    fn side(self, word: &str) -> Option<&'static str> {
        let Flow { vertical, blocks_leftward, reversed } = self;
        Some(match (word, vertical) {
            ("inline-start", false) => {
                if reversed {
                    "right"
                } else {
                    "left"
                }
            }
            ("inline-end", false) => {
                if reversed {
                    "left"
                } else {
                    "right"
                }
            }
            ("inline-start", true) => {
                if reversed {
                    "bottom"
                } else {
                    "top"
                }
            }
            ("inline-end", true) => {
                if reversed {
                    "top"
                } else {
                    "bottom"
                }
            }
            ("block-start", false) => "top",
            ("block-end", false) => "bottom",
            ("block-start", true) => {
                if blocks_leftward {
                    "right"
                } else {
                    "left"
                }
            }
            ("block-end", true) => {
                if blocks_leftward {
                    "left"
                } else {
                    "right"
                }
            }
            _ => return None,
        })
    }

    /// The physical twin of a logical longhand; any other name as it is.
    pub(super) fn mapped(self, name: &str) -> Cow<'_, str> {
        for word in ["inline-start", "inline-end", "block-start", "block-end"] {
            let Some((head, tail)) = name.split_once(word) else { continue };
            let fits = matches!(
                head,
                "margin-" | "padding-" | "border-" | "inset-" | "scroll-margin-" | "scroll-padding-"
            );
            if let Some(side) = self.side(word).filter(|_| fits) {
                return if head == "inset-" {
                    Cow::Borrowed(side)
                } else {
                    Cow::Owned(format!("{head}{side}{tail}"))
                };
            }
        }
        for (logical, inline) in [("inline-size", true), ("block-size", false)] {
            let Some(head) = name.strip_suffix(logical) else { continue };
            if matches!(head, "" | "min-" | "max-" | "contain-intrinsic-") {
                let size = if inline != self.vertical { "width" } else { "height" };
                return if head.is_empty() {
                    Cow::Borrowed(size)
                } else {
                    Cow::Owned(format!("{head}{size}"))
                };
            }
        }
        for (logical, inline) in [("-inline", true), ("-block", false)] {
            let Some(head) = name.strip_suffix(logical) else { continue };
            if matches!(head, "overflow" | "overscroll-behavior") {
                return Cow::Owned(format!("{head}-{}", if inline != self.vertical { "x" } else { "y" }));
            }
        }
        self.corner(name).unwrap_or(Cow::Borrowed(name))
    }

    /// `border-start-end-radius`: the side of the block first, then that of the line.
    fn corner(self, name: &str) -> Option<Cow<'static, str>> {
        let corner = name.strip_prefix("border-")?.strip_suffix("-radius")?;
        let (block, inline) = match corner {
            "start-start" => ("block-start", "inline-start"),
            "start-end" => ("block-start", "inline-end"),
            "end-start" => ("block-end", "inline-start"),
            "end-end" => ("block-end", "inline-end"),
            _ => return None,
        };
        let (block, inline) = (self.side(block)?, self.side(inline)?);
        let (vertical, horizontal) = if self.vertical { (inline, block) } else { (block, inline) };
        Some(Cow::Owned(format!("border-{vertical}-{horizontal}-radius")))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_known_of_properties() {
        assert!(is_inherited("color") && is_inherited("--x") && !is_inherited("margin-top"));
        assert!(is_property("COLOR") && is_property("-webkit-nothing") && !is_property("colr"));
        assert!(is_descriptor("font-face", "src") && !is_descriptor("font-face", "color"));
        assert!(is_descriptor("nobody-knows", "anything"));
        assert_eq!(nearest_property("colr"), Some("color"));
        assert_eq!(nearest_property("nothing-of-the-kind"), None);
    }
}
