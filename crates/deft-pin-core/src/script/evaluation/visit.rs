//! What an evaluation supposes of the visit.

use crate::source::Day;
use crate::style::Viewport;

/// What an evaluation supposes; what is not said is any.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Visit {
    /// Whether it is a first one.
    pub(super) is_first: bool,
    /// The screen that the page is shown on.
    pub(super) screen: Option<Screen>,
    /// The time that it is, and what comes by chance.
    pub(super) chance: Option<Chance>,
}

/// What of a visit a script asks for, so that it is worth while to suppose it.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Asks {
    /// What a first one settles.
    pub(super) first: bool,
    pub(super) screen: bool,
    /// Something that is found by a number which the time gives, or chance.
    pub(super) chance: bool,
}

/// The time that it is, and what comes by chance: the ends of what there can be.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Chance {
    /// A Sunday at midnight, and the smallest number.
    Least,
    /// The end of a Saturday, and a number next to the largest.
    Most,
}

impl Chance {
    /// A time soon after a day, in milliseconds since 1970-01-01, wherever the visitor is.
    pub(super) fn time(self, today: Day) -> f64 {
        let to_sunday = 7 - today.weekday();
        match self {
            Chance::Least => today.after(to_sunday % 7).start(),
            Chance::Most => today.after(to_sunday).start() - 1.0,
        }
    }

    /// What `Math.random()` gives.
    pub(super) fn number(self) -> f64 {
        match self {
            Chance::Least => 0.0,
            Chance::Most => 0.999_999_999,
        }
    }
}

/// A screen that ordinary visitors have.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Screen {
    /// On a desk, with light colours.
    Wide,
    /// In a hand, with dark ones.
    Narrow,
}

impl Screen {
    /// Its width and height, in CSS pixels.
    pub(super) fn size(self) -> (f64, f64) {
        match self {
            Screen::Wide => (1280.0, 720.0),
            Screen::Narrow => (390.0, 740.0),
        }
    }

    pub(super) fn viewport(self) -> Viewport {
        let (width, height) = self.size();
        let scheme = if self == Screen::Wide { "light" } else { "dark" };
        Viewport { width: Some(width), height: Some(height), medium: None, scheme: Some(scheme.to_owned()) }
    }
}
