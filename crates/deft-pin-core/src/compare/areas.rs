//! Where two pictures of a page differ.

use serde::Serialize;

/// A picture: four bytes a pixel, row by row.
#[derive(Clone, Copy, Debug)]
pub struct Picture<'p> {
    /// How many pixels wide.
    pub width: u32,
    /// How many pixels high.
    pub height: u32,
    /// Red, green, blue and opacity of each pixel.
    pub pixels: &'p [u8],
}

/// A part of a picture that differs, in pixels.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct Area {
    /// How far from the left.
    pub x: u32,
    /// How far from the top.
    pub y: u32,
    /// How wide.
    pub width: u32,
    /// How high.
    pub height: u32,
}

/// How two pictures differ.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Difference {
    /// How many pixels differ; those that only one of them has are among them.
    pub pixels: u64,
    /// Where, from the top.
    pub areas: Vec<Area>,
}

/// Pixels that are this near to each other are of one area.
const CELL: u32 = 12;

/// The most areas that are told apart: more are one.
const MOST: usize = 60;

/// Holds two pictures against each other, from their top left corners.
pub fn difference(before: Picture<'_>, after: Picture<'_>) -> Difference {
    let (width, height) = (before.width.max(after.width), before.height.max(after.height));
    let (columns, rows) = (width.div_ceil(CELL) as usize, height.div_ceil(CELL) as usize);
    let mut cells: Vec<Option<Bounds>> = vec![None; columns * rows];
    let mut pixels = 0;
    for y in 0..height {
        let (old, new) = (row(before, y), row(after, y));
        if old == new && before.width == after.width {
            continue;
        }
        for x in 0..width {
            let at = 4 * x as usize;
            if old.and_then(|old| old.get(at..at + 4)) == new.and_then(|new| new.get(at..at + 4)) {
                continue;
            }
            pixels += 1;
            let cell = &mut cells[(y / CELL) as usize * columns + (x / CELL) as usize];
            let own = Bounds { left: x, top: y, right: x, bottom: y };
            *cell = Some(cell.map_or(own, |cell| cell.with(own)));
        }
    }
    Difference { pixels, areas: areas(&mut cells, columns) }
}

fn row<'p>(picture: Picture<'p>, y: u32) -> Option<&'p [u8]> {
    let length = 4 * picture.width as usize;
    (y < picture.height).then(|| picture.pixels.get(y as usize * length..(y as usize + 1) * length)).flatten()
}

#[derive(Clone, Copy)]
struct Bounds {
    left: u32,
    top: u32,
    right: u32,
    bottom: u32,
}

impl Bounds {
    fn with(self, other: Bounds) -> Bounds {
        Bounds {
            left: self.left.min(other.left),
            top: self.top.min(other.top),
            right: self.right.max(other.right),
            bottom: self.bottom.max(other.bottom),
        }
    }

    fn area(self) -> Area {
        Area {
            x: self.left,
            y: self.top,
            width: self.right - self.left + 1,
            height: self.bottom - self.top + 1,
        }
    }
}

/// Cells that touch each other are one area.
fn areas(cells: &mut [Option<Bounds>], columns: usize) -> Vec<Area> {
    let mut found: Vec<Bounds> = Vec::new();
    for start in 0..cells.len() {
        let Some(mut bounds) = cells[start].take() else { continue };
        let mut waiting = vec![start];
        while let Some(at) = waiting.pop() {
            let (x, y) = (at % columns, at / columns);
            for (dx, dy) in [(-1, -1), (0, -1), (1, -1), (-1, 0), (1, 0), (-1, 1), (0, 1), (1, 1)] {
                let (Some(x), Some(y)) = (x.checked_add_signed(dx), y.checked_add_signed(dy)) else {
                    continue;
                };
                if x >= columns {
                    continue;
                }
                if let Some(own) = cells.get_mut(y * columns + x).and_then(Option::take) {
                    bounds = bounds.with(own);
                    waiting.push(y * columns + x);
                }
            }
        }
        found.push(bounds);
    }
    if found.len() > MOST {
        found = found.into_iter().reduce(Bounds::with).into_iter().collect();
    }
    found.into_iter().map(Bounds::area).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn picture(width: u32, height: u32, dots: &[(u32, u32)]) -> Vec<u8> {
        let mut pixels = vec![255; 4 * (width * height) as usize];
        dots.iter().for_each(|(x, y)| pixels[4 * (y * width + x) as usize] = 0);
        pixels
    }

    fn areas_of(before: (u32, u32, &[(u32, u32)]), after: (u32, u32, &[(u32, u32)])) -> (u64, Vec<[u32; 4]>) {
        let (a, b) = (picture(before.0, before.1, before.2), picture(after.0, after.1, after.2));
        let made = difference(
            Picture { width: before.0, height: before.1, pixels: &a },
            Picture { width: after.0, height: after.1, pixels: &b },
        );
        (made.pixels, made.areas.iter().map(|own| [own.x, own.y, own.width, own.height]).collect())
    }

    #[test]
    fn areas_are_what_differs_together() {
        assert_eq!(areas_of((100, 100, &[]), (100, 100, &[])), (0, vec![]));
        assert_eq!(areas_of((100, 100, &[]), (100, 100, &[(5, 7)])), (1, vec![[5, 7, 1, 1]]));
        assert_eq!(areas_of((100, 100, &[(5, 7)]), (100, 100, &[(5, 7)])), (0, vec![]));
        assert_eq!(areas_of((100, 100, &[]), (100, 100, &[(5, 7), (20, 9)])), (2, vec![[5, 7, 16, 3]]));
        assert_eq!(
            areas_of((100, 100, &[]), (100, 100, &[(5, 7), (80, 90)])),
            (2, vec![[5, 7, 1, 1], [80, 90, 1, 1]])
        );
        // What only one of them has differs.
        assert_eq!(areas_of((30, 20, &[]), (30, 24, &[])), (120, vec![[0, 20, 30, 4]]));
        assert_eq!(areas_of((30, 10, &[]), (28, 10, &[])), (20, vec![[28, 0, 2, 10]]));
    }
}
