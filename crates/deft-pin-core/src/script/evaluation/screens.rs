//! The screen that a page is shown on: its width, its height, and what media queries come to there (CSSOM View, "Window").
//! Visitors have all sizes of it. Where a script asks, it is evaluated once for a desk's screen and once for a telephone's.

use std::sync::Arc;

use super::machine::Machine;
use super::value::{Kind, ObjectId, Value};
use super::visit::Screen;
use crate::style::{MediaList, Truth};

/// Where the query of a `MediaQueryList` is kept.
const QUERIES: &str = "#media";

impl Machine<'_> {
    /// The screen of this evaluation; none where it is any.
    fn asked_screen(&mut self) -> Option<Screen> {
        self.asks.screen = true;
        self.visit.screen
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
