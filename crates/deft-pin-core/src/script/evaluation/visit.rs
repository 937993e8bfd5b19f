//! What an evaluation supposes of the visit.

use crate::style::Viewport;

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
