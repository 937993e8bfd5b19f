//! Pieces of texts that are put together.

use std::sync::Arc;

/// What stands for a part that is not known.
pub(super) const OPEN: char = '\u{e000}';
/// As many texts one of which it is are told apart.
const MOST_SHAPES: usize = 6;

/// A piece of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Piece {
    Known(Arc<str>),
    /// One of these.
    OneOf(Arc<[Arc<str>]>),
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
            Piece::Hole => false,
        }
    }

    /// Whether it is not empty, whatever it is.
    pub(super) fn is_something(&self) -> bool {
        match self {
            Piece::Known(text) => !text.is_empty(),
            Piece::OneOf(texts) => texts.iter().all(|text| !text.is_empty()),
            Piece::Hole => false,
        }
    }
}

/// A text with a sign for each hole.
pub(super) fn shape_of(pieces: &[Piece]) -> String {
    let mut shape = String::new();
    for piece in pieces {
        match piece {
            Piece::Known(text) => shape.push_str(text),
            Piece::OneOf(_) | Piece::Hole => shape.push(OPEN),
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
