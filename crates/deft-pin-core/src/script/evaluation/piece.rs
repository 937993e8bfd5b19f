//! Pieces of texts that are put together.

use std::sync::Arc;

/// What stands for a part that is not known.
pub(super) const OPEN: char = '\u{e000}';
/// As many texts one of which it is are told apart.
const MOST_SHAPES: usize = 6;

/// A part of an address that all pages of the site share, whatever it comes to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum SitePart {
    Host,
    Hostname,
    Origin,
    /// The query and the fragment of the page's own address.
    Rest,
}

impl SitePart {
    /// The part that a member of an address or of a link has.
    pub(super) fn of(key: &str) -> Option<Self> {
        Some(match key {
            "host" => SitePart::Host,
            "hostname" => SitePart::Hostname,
            "origin" => SitePart::Origin,
            _ => return None,
        })
    }
}

/// A piece of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Piece {
    Known(Arc<str>),
    /// One of these.
    OneOf(Arc<[Arc<str>]>),
    /// What is seen of a text of the page (HTML, "the `innerText` getter"): a sheet may hide some of it, and write it in
    /// capitals. Its letters, in small ones.
    Seen(Arc<str>),
    /// A part of the site's own address.
    Site(SitePart),
    /// A number, a date, a text of the page: no markup stands in it.
    Hole,
}

/// Whether a text is another one where it is read as markup.
pub(super) fn may_be_markup(text: &str) -> bool {
    text.contains(['<', '&'])
}

impl Piece {
    pub(super) fn has_markup(&self) -> bool {
        match self {
            Piece::Known(text) => may_be_markup(text),
            Piece::OneOf(texts) => texts.iter().any(|text| may_be_markup(text)),
            Piece::Seen(letters) => may_be_markup(letters),
            Piece::Site(_) | Piece::Hole => false,
        }
    }

    /// Whether it is not empty, whatever it is.
    pub(super) fn is_something(&self) -> bool {
        match self {
            Piece::Known(text) => !text.is_empty(),
            Piece::OneOf(texts) => texts.iter().all(|text| !text.is_empty()),
            Piece::Site(part) => *part != SitePart::Rest,
            Piece::Seen(_) | Piece::Hole => false,
        }
    }
}

/// The letters of a text as they are told apart where it is seen: in small ones, without blanks.
pub(super) fn letters_of(text: &str) -> String {
    text.chars().filter(|c| !c.is_whitespace()).flat_map(char::to_lowercase).collect()
}

/// Whether such letters may be seen as a text, or as a text in which that is: all of its own are among them, in their order.
pub(super) fn may_be_seen_as(letters: &str, text: &str) -> bool {
    let mut rest = letters.chars();
    let is_plain = text.chars().chain(letters.chars()).all(|c| c.to_uppercase().count() == 1);
    !is_plain || letters_of(text).chars().all(|wanted| rest.any(|own| own == wanted))
}

/// A text with a sign for each hole.
pub(super) fn shape_of(pieces: &[Piece]) -> String {
    let mut shape = String::new();
    for piece in pieces {
        match piece {
            Piece::Known(text) => shape.push_str(text),
            Piece::OneOf(_) | Piece::Seen(_) | Piece::Site(_) | Piece::Hole => shape.push(OPEN),
        }
    }
    shape
}

/// The texts that it may be, each with a sign for each hole; few of them.
pub(super) fn shapes_of(pieces: &[Piece]) -> Vec<String> {
    let mut shapes = vec![String::new()];
    for piece in pieces {
        match piece {
            Piece::OneOf(texts) if shapes.len() * texts.len() <= MOST_SHAPES => {
                let longer =
                    |shape: &String| texts.iter().map(|text| format!("{shape}{text}")).collect::<Vec<_>>();
                shapes = shapes.iter().flat_map(longer).collect();
            }
            Piece::Known(text) => shapes.iter_mut().for_each(|shape| shape.push_str(text)),
            _ => shapes.iter_mut().for_each(|shape| shape.push(OPEN)),
        }
    }
    shapes
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_seen_of_a_text_has_no_other_letters() {
        for (own, text, expected) in [
            ("Adult", "Adult", true),
            ("Adult", "ADULT", true),
            ("Adult", " ad ult", true),
            ("Adult fare", "Adult", true),
            ("Adult", "Adults", false),
            ("Adult", "tluda", false),
            ("Adult", "", true),
            ("straße", "STRASSE", true),
        ] {
            assert_eq!(may_be_seen_as(&letters_of(own), text), expected, "{own}: {text}");
        }
    }
}
