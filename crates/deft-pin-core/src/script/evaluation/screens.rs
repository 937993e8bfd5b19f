//! The screen that a page is shown on: its width, its height, and what media queries come to there (CSSOM View, "Window").
//! Visitors have all sizes of it. Where a script asks, it is evaluated once for a desk's screen and once for a telephone's.

use std::sync::Arc;

use super::machine::Machine;
use super::value::{Kind, ObjectId, Value};
use crate::style::{MediaList, Truth, Viewport};

/// Where the query of a `MediaQueryList` is kept.
const QUERIES: &str = "#media";

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
    fn size(self) -> (f64, f64) {
        match self {
            Screen::Wide => (1280.0, 720.0),
            Screen::Narrow => (390.0, 740.0),
        }
    }

    fn viewport(self) -> Viewport {
        let (width, height) = self.size();
        let scheme = if self == Screen::Wide { "light" } else { "dark" };
        Viewport { width: Some(width), height: Some(height), medium: None, scheme: Some(scheme.to_owned()) }
    }
}

impl Machine<'_> {
    /// The screen of this evaluation; none where it is any.
    fn asked_screen(&mut self) -> Option<Screen> {
        self.asks_for_screen = true;
        self.screen
    }

    /// The width or the height that is seen, by the name of a member of the window.
    pub(super) fn screen_size(&mut self, name: &str) -> Value {
        match self.asked_screen().map(Screen::size) {
            Some((width, _)) if name.to_ascii_lowercase().contains("width") => Value::Number(width),
            Some((_, height)) => Value::Number(height),
            None => Value::A_NUMBER,
        }
    }

    /// `matchMedia`.
    pub(super) fn media_list(&mut self, query: &Value) -> Value {
        let made = self.make(Kind::Instance("MediaQueryList"));
        if let Value::Text(query) = query {
            self.object_mut(made).members.insert(Arc::from(QUERIES), Value::Text(Arc::clone(query)));
        }
        Value::Object(made)
    }

    /// Whether the queries of a `MediaQueryList` hold.
    pub(super) fn media_matches(&mut self, list: ObjectId) -> Value {
        let Some(Value::Text(query)) = self.object(list).members.get(QUERIES).cloned() else {
            return Value::A_BOOLEAN;
        };
        match self.asked_screen().map(|screen| MediaList::parse(&query).holds(&screen.viewport())) {
            Some(Truth::Yes) => Value::Boolean(true),
            Some(Truth::No) => Value::Boolean(false),
            Some(Truth::AtRunTime) | None => Value::A_BOOLEAN,
        }
    }
}
