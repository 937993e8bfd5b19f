//! Where elements lie above each other (CSS 2, appendix E; css-position-3, "stacking contexts"), as far as what
//! certainly applies tells.

use rustc_hash::FxHashMap;

use super::cascade::Cascade;
use crate::markup::{ElementRef, LocalName, NodeId};

/// An element that lies at a depth of its own, with all that is in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct StackingLevel {
    /// The element.
    pub element: NodeId,
    /// Its `z-index`, or 0 where it has none and lies apart all the same.
    pub depth: i64,
}

/// An element that is positioned, or lies apart otherwise.
#[derive(Debug)]
pub struct StackedElement<'p> {
    /// The element.
    pub element: ElementRef<'p>,
    /// The levels that it lies in, from the outside in; its own is the last.
    pub levels: Vec<StackingLevel>,
    /// Whether it stays in view while the page scrolls.
    pub stays: bool,
}

const ASKED: &[&str] = &[
    "position", "z-index", "display", "visibility", "opacity", "isolation", "mix-blend-mode", "will-change",
    "transform", "translate", "rotate", "scale", "filter", "backdrop-filter", "perspective", "clip-path",
    "mask-image", "contain",
];

/// What was asked of an element, by the names of `ASKED`.
struct Values(Vec<Option<String>>);

impl Values {
    fn of(&self, name: &str) -> Option<&str> {
        let place = ASKED.iter().position(|own| *own == name)?;
        self.0[place].as_deref()
    }

    fn is_any(&self, name: &str, words: &[&str]) -> bool {
        self.of(name).is_some_and(|value| words.contains(&value))
    }

    /// Whether the element starts a stacking context without a `z-index`.
    fn lies_apart(&self) -> bool {
        const PARTED_BY: &[&str] = &[
            "transform", "translate", "rotate", "scale", "filter", "backdrop-filter", "perspective",
            "clip-path", "mask-image",
        ];
        let is_set = |name: &&&str| {
            self.of(name).is_some_and(|value| !matches!(value, "none" | "initial" | "unset" | "revert"))
        };
        let is_clear = self.of("opacity").is_some_and(|value| {
            let share = value
                .strip_suffix('%')
                .map_or(value.parse(), |part| part.parse().map(|part: f64| part / 100.0));
            share.is_ok_and(|share| share < 1.0)
        });
        let announces = |value: &str| {
            value
                .split(',')
                .map(str::trim)
                .any(|name| PARTED_BY.contains(&name) || matches!(name, "opacity" | "position" | "z-index"))
        };
        let contains = |value: &str| {
            value
                .split_ascii_whitespace()
                .any(|word| matches!(word, "paint" | "layout" | "strict" | "content"))
        };
        PARTED_BY.iter().any(|name| is_set(&name))
            || is_clear
            || self.is_any("isolation", &["isolate"])
            || self.of("mix-blend-mode").is_some_and(|value| value != "normal")
            || self.of("will-change").is_some_and(announces)
            || self.of("contain").is_some_and(contains)
            || self.is_any("position", &["fixed", "sticky"])
    }
}

impl<'p> Cascade<'p> {
    /// The elements of a page that are shown and lie at a depth of their own, or are positioned, in tree order.
    pub fn stacked_elements(
        &mut self,
        elements: impl Iterator<Item = ElementRef<'p>>,
    ) -> Vec<StackedElement<'p>> {
        let mut hidden: FxHashMap<NodeId, bool> = FxHashMap::default();
        let mut levels: FxHashMap<NodeId, StackingLevel> = FxHashMap::default();
        let mut lays_out_items: FxHashMap<NodeId, bool> = FxHashMap::default();
        let mut found = Vec::new();
        for element in elements {
            let values = Values(self.certain_values(element, ASKED));
            let parent = element.parent().map(|parent| parent.id);
            let in_hidden = parent.is_some_and(|parent| hidden.get(&parent).copied().unwrap_or_default());
            let is_hidden = in_hidden || is_not_shown(element, &values);
            hidden.insert(element.id, is_hidden);
            let display = values.of("display").unwrap_or_default();
            lays_out_items.insert(element.id, display.contains("flex") || display.contains("grid"));
            let is_positioned = values.is_any("position", &["relative", "absolute", "fixed", "sticky"]);
            let is_item =
                parent.is_some_and(|parent| lays_out_items.get(&parent).copied().unwrap_or_default());
            let depth = values.of("z-index").filter(|_| is_positioned || is_item);
            let depth = depth.and_then(|value| value.parse().ok()).or(values.lies_apart().then_some(0));
            if let Some(depth) = depth {
                levels.insert(element.id, StackingLevel { element: element.id, depth });
            }
            let is_seen = !is_hidden && !values.is_any("visibility", &["hidden", "collapse"]);
            if !is_seen || !is_positioned && depth.is_none() {
                continue;
            }
            let mut own: Vec<StackingLevel> =
                element.and_ancestors().skip(1).filter_map(|at| levels.get(&at.id).copied()).collect();
            own.reverse();
            own.push(StackingLevel { element: element.id, depth: depth.unwrap_or(0) });
            let stays = values.is_any("position", &["fixed", "sticky"]);
            found.push(StackedElement { element, levels: own, stays });
        }
        found
    }
}

/// Whether an element has no box: what is in it has none either.
fn is_not_shown(element: ElementRef<'_>, values: &Values) -> bool {
    let has = |name: &str| element.data().attr(&LocalName::from(name)).is_some();
    let name = &*element.data().name.local;
    match values.of("display") {
        Some(display) => display == "none",
        None => {
            has("hidden")
                || has("popover")
                || name == "dialog" && !has("open")
                || matches!(name, "head" | "script" | "style" | "template" | "title" | "noscript")
        }
    }
}
