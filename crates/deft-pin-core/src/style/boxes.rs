//! The boxes that elements make, as far as a page tells for certain: what `display` and the like come to,
//! by the declarations that apply and by what browsers give each element by itself (HTML, "rendering").

use html5ever::{local_name, ns};

use super::applied::Applied;
use super::cascade::Cascade;
use super::property_id::PropertyId;
use super::truth::Truth;
use super::values::is_wide;
use super::variables::variables;
use crate::markup::ElementRef;

/// What a property of an element comes to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Settled {
    /// Nothing sets it.
    Unset,
    /// This, in lower case.
    Value(String),
    /// Not for certain: a state, a query, a script's class or another element decides.
    Open,
}

impl Settled {
    /// Whether it certainly is what nothing but the property's initial value would be.
    pub(super) fn is_unset_or(&self, words: &[&str]) -> bool {
        match self {
            Settled::Unset => true,
            Settled::Value(value) => words.contains(&value.as_str()),
            Settled::Open => false,
        }
    }

    /// Its value, where it is certain.
    pub(super) fn value(&self) -> Option<&str> {
        match self {
            Settled::Value(value) => Some(value),
            _ => None,
        }
    }
}

/// The box of an element or of one of its pseudo-elements, asked property by property.
pub(super) struct ElementBox<'c, 'p> {
    cascade: &'c mut Cascade<'p>,
    pub(super) element: ElementRef<'p>,
    part: Option<&'c str>,
    applied: Vec<Applied<'p>>,
}

impl<'c, 'p> ElementBox<'c, 'p> {
    pub(super) fn new(cascade: &'c mut Cascade<'p>, element: ElementRef<'p>, part: Option<&'c str>) -> Self {
        let applied = cascade.applied(element, part);
        ElementBox { cascade, element, part, applied }
    }

    pub(super) fn is_part(&self) -> bool {
        self.part.is_some()
    }

    /// The box of the parent, or of the element that a pseudo-element belongs to.
    fn parent(&mut self) -> Option<ElementBox<'_, 'p>> {
        let parent = match self.part {
            Some(_) => Some(self.element),
            None => self.element.parent(),
        };
        parent.map(|parent| ElementBox::new(self.cascade, parent, None))
    }

    /// What a longhand comes to. Of a shorthand that sets it, its whole value.
    pub(super) fn settled(&mut self, longhand: &str) -> Settled {
        let id = PropertyId::of(longhand);
        let sets = |one: &&Applied<'p>| one.declaration.property.longhands().contains(&id);
        let own: Vec<&Applied<'p>> = self.applied.iter().filter(sets).collect();
        if own.iter().any(|one| one.matched != Truth::Yes) {
            return Settled::Open;
        }
        let sheets = self.cascade.sheets();
        let winner = own.into_iter().max_by(|a, b| a.by_strength(b));
        let settled = match winner {
            None => Settled::Unset,
            Some(winner) => {
                let value = winner.value(sheets).trim().to_ascii_lowercase();
                let is_open = is_wide(&value) || !variables(&value).is_empty();
                if is_open { Settled::Open } else { Settled::Value(value) }
            }
        };
        // One more class, or a state, may bring in another rule.
        let may_change = self.cascade.may_be_set_otherwise(self.element, self.part, &id);
        if may_change { Settled::Open } else { settled }
    }

    /// Its `display`, as it comes to for certain.
    pub(super) fn display(&mut self) -> Option<String> {
        if self.part.is_some() {
            return self.worked_out_display();
        }
        if let Some(known) = self.cascade.displays.get(&self.element.id) {
            return known.clone();
        }
        let display = self.worked_out_display();
        self.cascade.displays.insert(self.element.id, display.clone());
        display
    }

    fn worked_out_display(&mut self) -> Option<String> {
        let own = match self.settled("display") {
            Settled::Value(value) => value,
            Settled::Open => return None,
            Settled::Unset if self.part.is_some() => "inline".to_owned(),
            Settled::Unset => default_display(self.element)?.to_owned(),
        };
        let is_blockified = self.is_apart()? || self.is_item()?;
        Some(match (own.as_str(), is_blockified) {
            ("inline" | "inline-block", true) => "block".to_owned(),
            ("inline-flex", true) => "flex".to_owned(),
            ("inline-grid", true) => "grid".to_owned(),
            ("inline-table", true) => "table".to_owned(),
            // A part of a table without its table around it is a block (css-display-3, 2.7).
            (part, true) if part.starts_with("table-") => "block".to_owned(),
            _ => own,
        })
    }

    /// The `display` of its parent, as far as it can be told; nothing stands in for one that has no box.
    pub(super) fn parent_display(&mut self) -> Option<String> {
        // Boxes of old lay out their children in ways of their own.
        self.parent()?.display().filter(|display| display != "contents" && !display.contains("-box"))
    }

    /// Whether it is out of the flow: floated, or positioned by itself.
    pub(super) fn is_apart(&mut self) -> Option<bool> {
        let position = self.is_absolute()?;
        match self.settled("float") {
            Settled::Open => None,
            Settled::Unset => Some(position),
            Settled::Value(value) => Some(position || value != "none"),
        }
    }

    /// Whether it is positioned by itself, out of the flow.
    pub(super) fn is_absolute(&mut self) -> Option<bool> {
        match self.settled("position") {
            Settled::Open => None,
            Settled::Unset => Some(false),
            Settled::Value(value) => Some(matches!(value.as_str(), "absolute" | "fixed")),
        }
    }

    /// Whether its parent lays it out as an item of a flex container or of a grid.
    pub(super) fn is_item(&mut self) -> Option<bool> {
        // The root has no parent.
        if self.part.is_none() && self.element.parent().is_none() {
            return Some(false);
        }
        // Asked once: each question goes up to the root.
        let around = self.parent_display()?;
        Some(is_flex(&around) || is_grid(&around))
    }

    /// Whether an ancestor cuts off what flows over it and does not scroll, so that nothing sticks to what
    /// scrolls around that. What the body says is the viewport's (css-overflow-3, 3.3).
    pub(super) fn is_cut(&mut self) -> bool {
        let mut at = self.element.parent();
        while let Some(ancestor) = at.filter(|at| !matches!(&*at.data().name.local, "body" | "html")) {
            let mut around = ElementBox::new(self.cascade, ancestor, None);
            let axes = ["overflow-x", "overflow-y"].map(|axis| around.settled(axis));
            if axes.iter().all(|axis| axis.value() == Some("hidden")) {
                return true;
            }
            if axes.iter().any(|axis| !axis.is_unset_or(&["visible"])) {
                return false;
            }
            at = ancestor.parent();
        }
        false
    }

    /// Whether something else than the page's text is shown in it: an image, a film, a control.
    pub(super) fn is_replaced(&self) -> bool {
        const REPLACED: &[&str] = &[
            "img", "video", "audio", "canvas", "iframe", "embed", "object", "input", "select", "textarea",
            "button", "meter", "progress", "svg", "fencedframe", "math",
        ];
        let name = &self.element.data().name;
        self.part.is_none() && (name.ns != ns!(html) || REPLACED.contains(&&*name.local))
    }
}

/// Whether children are laid out as flex items.
pub(super) fn is_flex(display: &str) -> bool {
    display
        .split(' ')
        .any(|word| matches!(word, "flex" | "inline-flex" | "-webkit-flex" | "-webkit-inline-flex"))
        || display.contains("-box")
}

/// Whether children are laid out in a grid.
pub(super) fn is_grid(display: &str) -> bool {
    display
        .split(' ')
        .any(|word| matches!(word, "grid" | "inline-grid" | "grid-lanes" | "inline-grid-lanes" | "masonry"))
}

/// Whether it is a box in a line of text, with nothing of its own but its text.
pub(super) fn is_inline(display: &str) -> bool {
    display == "inline" || display == "inline flow"
}

/// Whether it is a box that takes lines of its own in the flow around it.
pub(super) fn is_block(display: &str) -> bool {
    matches!(display, "block" | "flow-root" | "list-item" | "flex" | "grid" | "table" | "block flow-root")
}

/// The `display` that a browser gives an element by itself; none for those that are laid out in ways of
/// their own.
fn default_display(element: ElementRef<'_>) -> Option<&'static str> {
    let data = element.data();
    if data.name.ns != ns!(html) || data.attr(&local_name!("hidden")).is_some() {
        return None;
    }
    Some(match &*data.name.local {
        "html" | "body" | "address" | "article" | "aside" | "blockquote" | "center" | "dd" | "dir"
        | "div" | "dl" | "dt" | "figcaption" | "figure" | "footer" | "form" | "h1" | "h2" | "h3" | "h4"
        | "h5" | "h6" | "header" | "hgroup" | "hr" | "main" | "menu" | "nav" | "ol" | "p" | "pre"
        | "search" | "section" | "ul" | "listing" | "plaintext" | "xmp" => "block",
        "li" => "list-item",
        "table" => "table",
        "caption" => "table-caption",
        "colgroup" => "table-column-group",
        "col" => "table-column",
        "thead" => "table-header-group",
        "tbody" => "table-row-group",
        "tfoot" => "table-footer-group",
        "tr" => "table-row",
        "td" | "th" => "table-cell",
        "a" | "abbr" | "acronym" | "b" | "bdi" | "bdo" | "big" | "cite" | "code" | "data" | "del" | "dfn"
        | "em" | "font" | "i" | "ins" | "kbd" | "label" | "mark" | "nobr" | "output" | "q" | "s" | "samp"
        | "small" | "span" | "strike" | "strong" | "sub" | "sup" | "time" | "tt" | "u" | "var" | "img"
        | "video" | "canvas" | "iframe" | "embed" | "object" | "picture" => "inline",
        _ => return None,
    })
}
