//! Identities: what stands in a list is known by a number that fits that list alone.

use std::fmt;
use std::marker::PhantomData;
use std::ops::{Index, IndexMut};

use serde::Serialize;

use crate::source::offset;

/// The identity of a row of a [`Table`].
pub trait Id: Copy + Eq + Ord {
    /// The identity of the row at a place, counted from 0.
    fn new(index: usize) -> Self;

    /// The place of the row, counted from 0.
    fn index(self) -> usize;
}

macro_rules! id {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
        pub struct $name(u32);

        impl $name {
            /// The first of all.
            pub const FIRST: $name = $name(0);
        }

        impl Id for $name {
            fn new(index: usize) -> Self {
                $name(offset(index))
            }

            fn index(self) -> usize {
                self.0 as usize
            }
        }
    };
}

id! {
    /// A pin of a board.
    PinId
}
id! {
    /// A library of a board.
    LibraryId
}
id! {
    /// A page of a site.
    PageId
}

/// A list whose rows are known by identities of their own kind.
#[derive(Clone, PartialEq, Eq)]
pub struct Table<I, T> {
    rows: Vec<T>,
    id: PhantomData<I>,
}

impl<I: Id, T> Table<I, T> {
    /// A table of some rows, in order.
    pub fn new(rows: Vec<T>) -> Self {
        Table { rows, id: PhantomData }
    }

    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there is no row.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// The row of an identity; none for an identity of another table.
    pub fn get(&self, id: I) -> Option<&T> {
        self.rows.get(id.index())
    }

    /// The rows, in order.
    pub fn iter(&self) -> std::slice::Iter<'_, T> {
        self.rows.iter()
    }

    /// The identities, in order.
    pub fn ids(&self) -> impl DoubleEndedIterator<Item = I> + Clone + use<I, T> {
        (0..self.rows.len()).map(I::new)
    }

    /// The rows with their identities, in order.
    pub fn entries(&self) -> impl DoubleEndedIterator<Item = (I, &T)> + Clone {
        self.rows.iter().enumerate().map(|(index, row)| (I::new(index), row))
    }

    /// The first row that fits.
    pub fn find(&self, fits: impl Fn(&T) -> bool) -> Option<I> {
        self.rows.iter().position(fits).map(I::new)
    }

    /// A table of what each row comes to.
    pub fn map<U>(&self, of_row: impl FnMut((I, &T)) -> U) -> Table<I, U> {
        Table::new(self.entries().map(of_row).collect())
    }
}

impl<I, T> Default for Table<I, T> {
    fn default() -> Self {
        Table { rows: Vec::new(), id: PhantomData }
    }
}

impl<I: Id, T: fmt::Debug> fmt::Debug for Table<I, T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.rows.fmt(f)
    }
}

impl<I: Id, T> FromIterator<T> for Table<I, T> {
    fn from_iter<R: IntoIterator<Item = T>>(rows: R) -> Self {
        Table::new(rows.into_iter().collect())
    }
}

impl<'t, I, T> IntoIterator for &'t Table<I, T> {
    type Item = &'t T;
    type IntoIter = std::slice::Iter<'t, T>;

    fn into_iter(self) -> Self::IntoIter {
        self.rows.iter()
    }
}

impl<I: Id, T> Index<I> for Table<I, T> {
    type Output = T;

    fn index(&self, id: I) -> &T {
        &self.rows[id.index()]
    }
}

impl<I: Id, T> IndexMut<I> for Table<I, T> {
    fn index_mut(&mut self, id: I) -> &mut T {
        &mut self.rows[id.index()]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_are_known_by_their_identities() {
        let pins: Table<PinId, &str> = ["storm-notice", "night", "gallery"].into_iter().collect();
        let night = pins.find(|name| *name == "night").unwrap();
        assert_eq!((night, pins[night], night.index()), (PinId::new(1), "night", 1));
        assert_eq!(pins.ids().rev().map(|id| pins[id]).collect::<String>(), "gallerynightstorm-notice");
        assert_eq!(pins.map(|(id, name)| id.index() + name.len()).iter().sum::<usize>(), 27);
        assert_eq!(pins.get(PinId::new(3)), None);
        assert_eq!(serde_json::to_string(&night).unwrap(), "1");
    }
}
