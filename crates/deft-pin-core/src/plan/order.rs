//! Orders that keep what comes first first, and else stay as the board has them.

use crate::board::Spanned;
use crate::source::Span;

/// A circle: each place in it needs the next one, where its span says so.
pub(super) type Circle = Vec<(usize, Span)>;

/// Puts `count` things in order, each behind all that it needs, and otherwise as they are listed.
/// A circle is told, and opened at the need that closes it.
pub(super) fn ordered<'n>(
    count: usize,
    needs: impl Fn(usize) -> &'n [Spanned<usize>],
) -> (Vec<usize>, Vec<Circle>) {
    let mut work =
        Work { done: vec![false; count], path: Vec::new(), order: Vec::new(), circles: Vec::new() };
    for place in 0..count {
        work.visit(place, &needs);
    }
    (work.order, work.circles)
}

struct Work {
    done: Vec<bool>,
    path: Vec<(usize, Span)>,
    order: Vec<usize>,
    circles: Vec<Circle>,
}

impl Work {
    fn visit<'n>(&mut self, place: usize, needs: &impl Fn(usize) -> &'n [Spanned<usize>]) {
        if self.done[place] {
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
        self.done[place] = true;
        self.order.push(place);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn solved(needs: &[&[usize]]) -> (Vec<usize>, Vec<Vec<usize>>) {
        let needs: Vec<Vec<Spanned<usize>>> = needs
            .iter()
            .map(|row| row.iter().map(|&value| Spanned { value, span: Span::default() }).collect())
            .collect();
        let (order, circles) = ordered(needs.len(), |place| &needs[place]);
        (
            order,
            circles.into_iter().map(|circle| circle.into_iter().map(|(place, _)| place).collect()).collect(),
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
