//! Texts that are put together, of which some pieces are not known: `` `<b>${days}</b> days` ``. Markup in one can be read
//! all the same, where no markup stands in what is not known.

use std::collections::BTreeSet;
use std::sync::Arc;

use super::machine::Machine;
use super::piece::{OPEN, Piece, shape_of};
use super::value::{Doubt, Kind, Value};
use crate::markup::{Document, LocalName, NodeData, NodeId};

/// Texts of more pieces are not followed.
const MOST: usize = 200;
/// Longer texts are not followed.
const LONGEST: usize = 20_000;

/// Which values of the elements that a text with holes is read as are not known.
#[derive(Debug, Default)]
pub(super) struct Holes {
    /// What names begin with of which the rest is not known.
    pub(super) beginnings: BTreeSet<Arc<str>>,
    /// Attributes whose values are not known.
    pub(super) attributes: BTreeSet<Arc<str>>,
    pub(super) in_texts: bool,
}

impl Machine<'_> {
    /// A text that is put together of values.
    pub(super) fn put_together(&self, values: &[Value]) -> Value {
        let mut together = Together::default();
        let (mut doubt, mut length, mut is_followed) = (None, 0, true);
        for value in values {
            match (self.as_text(value), value) {
                (Ok(text), _) => together.add(Piece::Known(text)),
                (Err(own), Value::Pieced(inner, _)) => {
                    inner.iter().for_each(|piece| together.add(piece.clone()));
                    doubt = doubt.max(Some(own));
                }
                (Err(own), Value::Some("String", Doubt::Site(part))) => {
                    together.add(Piece::Site(*part));
                    doubt = doubt.max(Some(own));
                }
                (Err(own), value) => {
                    let is_date = matches!(self.kind(value), Some(Kind::Date(_)));
                    let own = if is_date { Doubt::Now } else { own };
                    let is_bare = match value {
                        _ if is_date => true,
                        value => value.has_no_markup(),
                    };
                    let own = if is_bare { own.without_markup() } else { own };
                    is_followed &= is_bare;
                    together.add(Piece::Hole);
                    doubt = doubt.max(Some(own));
                }
            }
        }
        let pieces = together.pieces();
        for piece in &pieces {
            length += match piece {
                Piece::Known(text) => text.len(),
                Piece::OneOf(texts) => texts.iter().map(|text| text.len()).sum(),
                Piece::Seen(letters) => letters.len(),
                Piece::Site(_) | Piece::Hole => 1,
            };
        }
        let Some(doubt) = doubt else {
            return match pieces.as_slice() {
                [Piece::Known(text)] => self.bounded(text),
                _ => Value::text(""),
            };
        };
        self.charge(length / 64);
        let has_markup = pieces.iter().any(Piece::has_markup);
        let doubt = if has_markup || !is_followed { doubt.with_markup() } else { doubt };
        if !is_followed || pieces.len() > MOST || length > LONGEST {
            return Value::Some("String", doubt);
        }
        Value::Pieced(Arc::from(pieces), doubt)
    }

    /// Whether no markup stands in any item of an array.
    pub(super) fn is_without_markup(&self, array: &Value) -> bool {
        match self.kind(array) {
            Some(Kind::Array(items)) => items.iter().all(Value::has_no_markup),
            _ => false,
        }
    }

    /// A text that is read as markup, with a sign for each hole; none where that cannot be read.
    pub(super) fn readable(&self, markup: &Value) -> Option<Arc<str>> {
        let pieces: Arc<[Piece]> = match markup {
            Value::Text(text) => return Some(Arc::clone(text)),
            Value::Number(_) | Value::Boolean(_) => return self.as_text(markup).ok(),
            Value::Pieced(pieces, _) => Arc::clone(pieces),
            Value::Some("String", doubt) if !doubt.has_no_markup() => return None,
            Value::Some(..) => Arc::from([Piece::Hole]),
            _ => return None,
        };
        if pieces.iter().any(|piece| matches!(piece, Piece::OneOf(_)) && piece.has_markup()) {
            return None;
        }
        let text = shape_of(&pieces);
        // What a reference or a tag stands for is not known, and what is in a template is not looked through.
        const BEFORE: &[&str] = &["&", "&#", "<", "</"];
        let is_read =
            !BEFORE.iter().any(|sign| text.contains(&format!("{sign}{OPEN}"))) && !text.contains("<template");
        is_read.then(|| Arc::from(text))
    }
}

/// Pieces, and what is known behind the last of them.
#[derive(Default)]
struct Together {
    pieces: Vec<Piece>,
    known: String,
}

impl Together {
    fn add(&mut self, piece: Piece) {
        match piece {
            Piece::Known(text) => self.known.push_str(&text),
            piece => {
                self.ends_known();
                self.pieces.push(piece);
            }
        }
    }

    fn ends_known(&mut self) {
        if !self.known.is_empty() {
            self.pieces.push(Piece::Known(Arc::from(std::mem::take(&mut self.known))));
        }
    }

    fn pieces(mut self) -> Vec<Piece> {
        self.ends_known();
        self.pieces
    }
}

/// Takes the signs for holes out of a tree, and says where they were; none where they were in names of elements or
/// attributes.
pub(super) fn take_holes(document: &mut Document, top: NodeId) -> Option<Holes> {
    let mut holes = Holes::default();
    let all: Vec<NodeId> = document.descendants(top).collect();
    for id in all {
        let element = match &document.node(id).data {
            NodeData::Text(text) | NodeData::Comment(text) => {
                holes.in_texts |= text.contains(OPEN);
                continue;
            }
            NodeData::Element(element) => element,
            _ => continue,
        };
        if element.name.local.contains(OPEN) || element.attrs.iter().any(|own| own.name.local.contains(OPEN))
        {
            return None;
        }
        let filled = element.attrs.iter().filter(|own| own.value.contains(OPEN));
        let filled: Vec<(LocalName, String)> =
            filled.map(|own| (own.name.local.clone(), own.value.to_string())).collect();
        for (name, value) in filled {
            let (others, known): (Vec<&str>, Vec<&str>) =
                value.split_ascii_whitespace().partition(|word| word.contains(OPEN));
            if matches!(&*name, "id" | "class") {
                let beginning = |word: &&str| Arc::from(word.split(OPEN).next().unwrap_or_default());
                holes.beginnings.extend(others.iter().map(beginning));
            }
            holes.attributes.insert(Arc::from(&*name));
            document.set_attribute(id, &name, &known.join(" "));
        }
    }
    Some(holes)
}
