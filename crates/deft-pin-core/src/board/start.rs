//! When a pin begins, and how often.

use std::fmt;
use std::ops::Range;

use super::value::seconds;

/// When a pin begins: `after 3s`, `seen #fares`. Selectors in it are texts until the board has read them.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Start<S> {
    /// Where its script stands.
    Now,
    /// Once the page is parsed.
    Ready,
    /// Once the page and what it loads is there.
    Loaded,
    /// So many milliseconds after the page is parsed.
    After(u32),
    /// Once so much of the way down is behind the visitor.
    Scrolled(Scroll),
    /// Once an element is in view.
    Seen(S),
    /// Once an element is clicked.
    Click(S),
    /// Once the pointer goes out at the window's top edge.
    Leaving,
    /// Once the clock of a media element stands at so many milliseconds, or later.
    Playing(S, u32),
    /// Once there is such an element.
    Appears(S),
}

/// How far down a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Scroll {
    /// Hundredths of the way.
    Percent(u32),
    /// Pixels of CSS.
    Pixels(u32),
}

/// How often a pin begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, serde::Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Once {
    /// Once each time that the page is opened.
    Page,
    /// Once as long as the tab is open.
    Session,
    /// Once for each visitor.
    Visitor,
}

impl Once {
    /// All of them.
    pub const ALL: [Once; 3] = [Once::Page, Once::Session, Once::Visitor];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            Once::Page => "page",
            Once::Session => "session",
            Once::Visitor => "visitor",
        }
    }
}

/// The words that starts begin with, each with an example.
pub(super) const STARTS: [(&str, &str); 10] = [
    ("now", "now"),
    ("ready", "ready"),
    ("loaded", "loaded"),
    ("after", "after 3s"),
    ("scrolled", "scrolled 40%"),
    ("seen", "seen #fares"),
    ("click", "click #menu"),
    ("leaving", "leaving"),
    ("playing", "playing video at 10:22"),
    ("appears", "appears .dialog"),
];

/// Why a start cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum StartMistake {
    /// Its first word is none that starts begin with.
    Unknown(String),
    /// What follows the word is not what belongs there.
    Rest {
        /// The word, and an example of how it is used.
        word: &'static str,
        example: &'static str,
    },
}

impl<S> Start<S> {
    /// The selector that it waits with.
    pub fn selector(&self) -> Option<&S> {
        match self {
            Start::Seen(selector)
            | Start::Click(selector)
            | Start::Playing(selector, _)
            | Start::Appears(selector) => Some(selector),
            _ => None,
        }
    }

    /// The same with another kind of selector.
    pub(super) fn map<T>(self, read: impl FnOnce(S) -> Option<T>) -> Option<Start<T>> {
        Some(match self {
            Start::Now => Start::Now,
            Start::Ready => Start::Ready,
            Start::Loaded => Start::Loaded,
            Start::After(milliseconds) => Start::After(milliseconds),
            Start::Scrolled(scroll) => Start::Scrolled(scroll),
            Start::Leaving => Start::Leaving,
            Start::Seen(selector) => Start::Seen(read(selector)?),
            Start::Click(selector) => Start::Click(read(selector)?),
            Start::Playing(selector, at) => Start::Playing(read(selector)?, at),
            Start::Appears(selector) => Start::Appears(read(selector)?),
        })
    }

    /// The same with its selector as a text.
    pub fn map_texts(self) -> Start<String>
    where
        S: fmt::Display,
    {
        // Nothing is refused here.
        self.map(|selector| Some(selector.to_string())).unwrap_or(Start::Now)
    }

    /// Whether it is later than where its script stands.
    pub fn is_later(&self) -> bool {
        !matches!(self, Start::Now)
    }
}

impl Start<String> {
    /// Where in a text the selector of a start stands.
    pub(super) fn selector_in(text: &str) -> Option<Range<usize>> {
        let inner = text.trim_start();
        let (word, rest) = inner.split_once(char::is_whitespace)?;
        let from = text.len() - rest.len();
        match word {
            "seen" | "click" | "appears" => Some(from..text.len()),
            "playing" => Some(from..from + rest.rfind(" at ")?),
            _ => None,
        }
    }

    /// Reads a start.
    pub(super) fn parse(text: &str) -> Result<Self, StartMistake> {
        let text = text.trim();
        let (first, rest) = text.split_once(char::is_whitespace).unwrap_or((text, ""));
        let rest = rest.trim();
        let Some((word, example)) = STARTS.into_iter().find(|(word, _)| *word == first) else {
            return Err(StartMistake::Unknown(first.to_owned()));
        };
        let wrong = || StartMistake::Rest { word, example };
        let selector = || (!rest.is_empty()).then(|| rest.to_owned()).ok_or_else(wrong);
        Ok(match word {
            "now" | "ready" | "loaded" | "leaving" if !rest.is_empty() => return Err(wrong()),
            "now" => Start::Now,
            "ready" => Start::Ready,
            "loaded" => Start::Loaded,
            "leaving" => Start::Leaving,
            "after" => Start::After(milliseconds(rest).ok_or_else(wrong)?),
            "scrolled" => Start::Scrolled(scroll(rest).ok_or_else(wrong)?),
            "seen" => Start::Seen(selector()?),
            "click" => Start::Click(selector()?),
            "appears" => Start::Appears(selector()?),
            _ => {
                let (selector, at) = rest.rsplit_once(" at ").ok_or_else(wrong)?;
                let at = milliseconds(at.trim()).ok_or_else(wrong)?;
                if selector.trim().is_empty() {
                    return Err(wrong());
                }
                Start::Playing(selector.trim().to_owned(), at)
            }
        })
    }
}

fn milliseconds(text: &str) -> Option<u32> {
    let milliseconds = seconds(text)? * 1000.0;
    (0.0..2_147_483_648.0).contains(&milliseconds).then_some(milliseconds.round() as u32)
}

fn scroll(text: &str) -> Option<Scroll> {
    let number = |text: &str| text.trim().parse::<f64>().ok().filter(|number| (0.0..1e7).contains(number));
    if let Some(percent) = text.strip_suffix('%') {
        return number(percent)
            .filter(|percent| *percent <= 100.0)
            .map(|percent| Scroll::Percent((percent * 100.0) as u32));
    }
    number(text.strip_suffix("px")?).map(|pixels| Scroll::Pixels(pixels as u32))
}

impl<S: fmt::Display> fmt::Display for Start<S> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let seconds = |milliseconds: &u32| f64::from(*milliseconds) / 1000.0;
        match self {
            Start::Now => f.write_str("now"),
            Start::Ready => f.write_str("ready"),
            Start::Loaded => f.write_str("loaded"),
            Start::After(at) => write!(f, "after {}s", seconds(at)),
            Start::Scrolled(Scroll::Percent(percent)) => {
                write!(f, "scrolled {}%", f64::from(*percent) / 100.0)
            }
            Start::Scrolled(Scroll::Pixels(pixels)) => write!(f, "scrolled {pixels}px"),
            Start::Seen(selector) => write!(f, "seen {selector}"),
            Start::Click(selector) => write!(f, "click {selector}"),
            Start::Leaving => f.write_str("leaving"),
            Start::Playing(selector, at) => write!(f, "playing {selector} at {}s", seconds(at)),
            Start::Appears(selector) => write!(f, "appears {selector}"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn starts_are_read_with_what_belongs_to_them() {
        for (text, said) in [
            ("now", "now"),
            (" ready ", "ready"),
            ("after 3s", "after 3s"),
            ("after  400ms", "after 0.4s"),
            ("after 1:30", "after 90s"),
            ("scrolled 40%", "scrolled 40%"),
            ("scrolled 600px", "scrolled 600px"),
            ("seen #a > b", "seen #a > b"),
            ("playing .at at 10:22", "playing .at at 622s"),
            ("leaving", "leaving"),
            ("appears [x=' at ']", "appears [x=' at ']"),
        ] {
            assert_eq!(Start::parse(text).map(|start| start.to_string()).as_deref(), Ok(said), "{text}");
        }
        for text in [
            "after", "after soon", "after -1s", "scrolled", "scrolled 140%", "scrolled 3", "seen",
            "playing video", "playing at 3s", "leaving now",
        ] {
            assert!(matches!(Start::parse(text), Err(StartMistake::Rest { .. })), "{text}");
        }
        assert_eq!(Start::parse("clicked #a"), Err(StartMistake::Unknown("clicked".to_owned())));
    }
}
