//! Orders that keep what comes first first, and else stay as the board has them.

use crate::board::Spanned;
use crate::code::{Id, Table};
use crate::source::Span;

/// A circle: each place in it needs the next one, where its span says so.
pub(super) type Circle<I> = Vec<(I, Span)>;

/// Puts `count` things in order, each behind all that it needs, and otherwise as they are listed.
/// A circle is told, and opened at the need that closes it.
pub(super) fn ordered<'n, I: Id + 'n>(
    count: usize,
    needs: impl Fn(I) -> &'n [Spanned<I>],
) -> (Vec<I>, Vec<Circle<I>>) {
    let mut work =
        Work { done: vec![false; count], path: Vec::new(), order: Vec::new(), circles: Vec::new() };
    for place in (0..count).map(I::new) {
        work.visit(place, &needs);
    }
    (work.order, work.circles)
}

/// An order of everything that there is of a kind.
#[derive(Debug)]
pub(super) struct Order<I: Id> {
    all: Vec<I>,
    ranks: Table<I, usize>,
}

impl<I: Id> Order<I> {
    /// The order in which these are listed: everything, each once.
    pub(super) fn new(all: Vec<I>) -> Self {
        let mut ranks: Table<I, usize> = all.iter().map(|_| 0).collect();
        all.iter().enumerate().for_each(|(rank, id)| ranks[*id] = rank);
        Order { all, ranks }
    }

    /// All of them.
    pub(super) fn iter(&self) -> impl Iterator<Item = I> {
        self.all.iter().copied()
    }

    /// Some of them, put in this order.
    pub(super) fn of(&self, some: &[I]) -> Vec<I> {
        let mut some = some.to_vec();
        some.sort_unstable_by_key(|id| self.ranks[*id]);
        some
    }
}

struct Work<I> {
    done: Vec<bool>,
    path: Vec<(I, Span)>,
    order: Vec<I>,
    circles: Vec<Circle<I>>,
}

impl<I: Id> Work<I> {
    fn visit<'n>(&mut self, place: I, needs: &impl Fn(I) -> &'n [Spanned<I>])
    where
        I: 'n,
    {
        if self.done[place.index()] {
            return;
        }
        for need in needs(place) {
            self.path.push((place, need.span));
            match self.path.iter().position(|(on_path, _)| *on_path == need.value) {
                Some(start) => self.circles.push(self.path[start..].to_vec()),
                None => self.visit(need.value, needs),
            }
            self.path.pop();
        }
        self.done[place.index()] = true;
        self.order.push(place);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::code::PinId;

    fn solved(needs: &[&[usize]]) -> (Vec<usize>, Vec<Vec<usize>>) {
        let need = |value: &usize| Spanned { value: PinId::new(*value), span: Span::default() };
        let needs: Vec<Vec<Spanned<PinId>>> =
            needs.iter().map(|row| row.iter().map(need).collect()).collect();
        let (order, circles) = ordered(needs.len(), |pin: PinId| &needs[pin.index()]);
        let circles = circles.into_iter();
        (
            order.into_iter().map(PinId::index).collect(),
            circles.map(|circle| circle.into_iter().map(|(pin, _)| pin.index()).collect()).collect(),
        )
    }

    #[test]
    fn what_is_needed_comes_first_and_the_rest_stays() {
        assert_eq!(solved(&[&[], &[], &[]]), (vec![0, 1, 2], vec![]));
        assert_eq!(solved(&[&[2], &[], &[1]]), (vec![1, 2, 0], vec![]));
        assert_eq!(solved(&[&[3, 1], &[3], &[], &[]]), (vec![3, 1, 0, 2], vec![]));
    }

    #[test]
    fn a_circle_is_named_whole() {
        let (order, circles) = solved(&[&[], &[2], &[3], &[1], &[4]]);
        assert_eq!(order.len(), 5);
        assert_eq!(circles, [vec![1, 2, 3], vec![4]]);
    }
}
