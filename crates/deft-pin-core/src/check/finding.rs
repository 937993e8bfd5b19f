//! A finding: one thing that a check has to say.

use serde::Serialize;

use super::code::{Code, Severity};
use crate::site::PagePath;
use crate::source::{FilePath, Position, SourceText, Span};

/// A place in a file beside the board.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Place {
    /// The file, as seen from the board.
    pub file: FilePath,
    /// The bytes of its text.
    pub span: Span,
    /// Where the span starts.
    pub start: Position,
    /// Where it ends.
    pub end: Position,
    /// Where parts of it stand that were put in from elsewhere.
    #[serde(skip)]
    pub parts: Vec<Place>,
}

impl Place {
    /// A span of a text that is in a file.
    pub fn new(file: &FilePath, text: &SourceText, span: Span) -> Self {
        let file = text.file(span.start).unwrap_or(file).clone();
        let (start, end) = text.positions(span);
        let inner = text
            .parts_in(span)
            .into_iter()
            .filter(|part| text.file(part.start).is_some_and(|own| *own != file));
        let parts = inner.map(|part| Place::new(&file, text, part)).collect();
        Place { file, span: text.own_span(span), start, end, parts }
    }
}

/// Another place that a finding is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Related {
    /// What is there.
    pub message: String,
    /// Where.
    pub place: Place,
}

/// One thing to say: what is wrong, where, what follows from it, and what to do.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// What kind of thing.
    pub code: Code,
    /// How much it weighs.
    pub severity: Severity,
    /// What is wrong, and what follows from it on the page.
    pub message: String,
    /// What to do.
    pub help: Option<String>,
    /// The pin that it is about.
    pub pin: Option<String>,
    /// Where.
    pub place: Place,
    /// The pages that it concerns.
    pub pages: Vec<PagePath>,
    /// Other places.
    pub related: Vec<Related>,
}

impl Finding {
    /// A finding that weighs what its code does.
    pub(super) fn new(code: Code, place: Place, message: impl Into<String>) -> Self {
        let mut parts: Vec<&Place> = Vec::new();
        for part in &place.parts {
            // A value that stands in it twice is shown once.
            if !parts.contains(&part) {
                parts.push(part);
            }
        }
        Finding {
            code,
            severity: code.severity(),
            message: shortened(message.into()),
            help: None,
            pin: None,
            pages: Vec::new(),
            related: parts.into_iter().map(of_elsewhere).collect(),
            place,
        }
    }

    pub(super) fn severity(mut self, severity: Severity) -> Self {
        self.severity = severity;
        self
    }

    pub(super) fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(shortened(help.into()));
        self
    }

    pub(super) fn pin(mut self, pin: &str) -> Self {
        self.pin = Some(pin.to_owned());
        self
    }

    pub(super) fn pages(mut self, pages: Vec<PagePath>) -> Self {
        self.pages = pages;
        self
    }

    pub(super) fn related(mut self, message: impl Into<String>, place: Place) -> Self {
        self.related.push(Related { message: shortened(message.into()), place });
        self
    }
}

/// A part of a place that stands in another file.
fn of_elsewhere(part: &Place) -> Related {
    Related { message: "this value is put in there".to_owned(), place: part.clone() }
}

/// The most bytes that a sentence keeps: a name in it may be as long as a file.
const LONGEST: usize = 1200;

/// A sentence with its middle left out where it is too long: how it begins and ends says the most.
fn shortened(text: String) -> String {
    if text.len() <= LONGEST {
        return text;
    }
    let (head, tail) =
        (text.floor_char_boundary(LONGEST / 2), text.ceil_char_boundary(text.len() - LONGEST / 2));
    format!("{} … {}", &text[..head], &text[tail..])
}

/// `1 page`, `2 pages`.
pub(super) fn counted(count: usize, one: &str, many: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { many })
}

/// "`/fares/`", "`/` and 3 other pages"; none of no page.
pub(super) fn named(pages: &[PagePath]) -> Option<String> {
    match pages {
        [] => None,
        [only] => Some(format!("`{only}`")),
        [first, rest @ ..] => {
            Some(format!("`{first}` and {}", counted(rest.len(), "other page", "other pages")))
        }
    }
}

/// "on all 4 pages", "on 2 of 4 pages", "on `/fares/`".
pub(super) fn share(some: &[PagePath], all: usize) -> String {
    match (some.len(), all) {
        (1, 1) => format!("on `{}`, its only page", some[0]),
        (1, all) => format!("on `{}`, one of its {all} pages", some[0]),
        (some, all) if some == all => format!("on all of its {all} pages"),
        (some, all) => format!("on {some} of its {all} pages"),
    }
}
