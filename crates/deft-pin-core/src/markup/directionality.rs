//! Which way the text of an element runs by its `dir` attribute (HTML, 3.2.6.4, "the dir attribute").

use html5ever::{LocalName, local_name, ns};
use icu_properties::CodePointMapData;
use icu_properties::props::BidiClass;

use super::document::{ElementRef, NodeData, NodeId};

/// The directions of text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Direction {
    /// From left to right.
    LeftToRight,
    /// From right to left.
    RightToLeft,
}

impl Direction {
    /// The word that attributes and properties have for it.
    pub fn word(self) -> &'static str {
        match self {
            Direction::LeftToRight => "ltr",
            Direction::RightToLeft => "rtl",
        }
    }

    /// The direction of a text: that of its first letter which has one.
    fn of(text: &str) -> Option<Direction> {
        let classes = CodePointMapData::<BidiClass>::new();
        text.chars().find_map(|letter| match classes.get(letter) {
            BidiClass::LeftToRight => Some(Direction::LeftToRight),
            BidiClass::RightToLeft | BidiClass::ArabicLetter => Some(Direction::RightToLeft),
            _ => None,
        })
    }
}

/// What an element's own `dir` says.
enum Said {
    Plainly(Direction),
    ByContents,
}

fn said(element: ElementRef<'_>) -> Option<Said> {
    if element.name.ns != ns!(html) {
        return None;
    }
    let dir = element.attr(&local_name!("dir")).unwrap_or_default();
    let is = |word| dir.eq_ignore_ascii_case(word);
    if is("ltr") {
        Some(Said::Plainly(Direction::LeftToRight))
    } else if is("rtl") {
        Some(Said::Plainly(Direction::RightToLeft))
    } else if is("auto") || element.is_html(&LocalName::from("bdi")) {
        Some(Said::ByContents)
    } else {
        let kind = element.attr(&local_name!("type")).unwrap_or_default();
        let is_phone = element.is_html(&local_name!("input")) && kind.eq_ignore_ascii_case("tel");
        is_phone.then_some(Said::Plainly(Direction::LeftToRight))
    }
}

impl ElementRef<'_> {
    /// The direction that an element's own `dir`, and what it does by itself, give it; none where it takes
    /// that of what is around it.
    pub fn own_direction(self) -> Option<Direction> {
        match said(self)? {
            Said::Plainly(direction) => Some(direction),
            // `auto` and nothing to go by comes to what text is by itself.
            Said::ByContents => Some(self.contents_direction().unwrap_or(Direction::LeftToRight)),
        }
    }

    /// The directionality of an element.
    pub fn directionality(self) -> Direction {
        self.and_ancestors().find_map(|one| one.own_direction()).unwrap_or(Direction::LeftToRight)
    }

    /// The direction of what stands in an element.
    fn contents_direction(self) -> Option<Direction> {
        let is_field = self.is_html(&local_name!("input"));
        if is_field {
            return Direction::of(self.attr(&local_name!("value")).unwrap_or_default());
        }
        if self.is_html(&local_name!("textarea")) {
            return Direction::of(&self.document.text_of(self.id));
        }
        self.direction_below(self.id)
    }

    fn direction_below(self, top: NodeId) -> Option<Direction> {
        let mut next = self.document.node(top).first_child;
        while let Some(at) = next {
            let node = self.document.node(at);
            match &node.data {
                NodeData::Text(text) => {
                    if let Some(direction) = Direction::of(text) {
                        return Some(direction);
                    }
                }
                NodeData::Element(_) => {
                    let is_apart = self.document.element(at).is_some_and(|inner| {
                        let name = &*inner.data().name.local;
                        matches!(name, "bdi" | "script" | "style" | "textarea") || said(inner).is_some()
                    });
                    if is_apart {
                        next = self.document.after(at, top);
                        continue;
                    }
                }
                _ => {}
            }
            next = node.first_child.or_else(|| self.document.after(at, top));
        }
        None
    }
}
