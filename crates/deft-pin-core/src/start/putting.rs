//! Scripts that put markup into a page and give names to its elements, where bytes of the page cannot be changed.

use std::collections::BTreeSet;
use std::fmt::Write as _;

use crate::board::literal;
use crate::markup::MarkupPlace;

/// Markup that a script puts in.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct LateMarkup {
    /// The HTML.
    pub html: String,
    /// Where it stands, as seen from an element.
    pub place: MarkupPlace,
    /// The elements: a selector. None for those of the target.
    pub at: Option<String>,
    /// The target: a selector.
    pub within: Option<String>,
}

/// What a script gives to elements.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct LateMark {
    /// The elements: a selector. None for those of the target.
    pub at: Option<String>,
    /// The target: a selector.
    pub within: Option<String>,
    /// An ID; elements that have another one keep it.
    pub id: Option<String>,
    /// Classes.
    pub classes: Vec<String>,
    /// Other attributes with their values.
    pub attributes: Vec<(String, String)>,
}

/// What pins hold for a page beside style and script, as one script: marks first, then markup, of which none sees the
/// markup of others.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ContentScript {
    /// What is done before anything is put in.
    first: String,
    pins: Vec<ContentOfPin>,
}

/// What one pin holds.
#[derive(Clone, Debug, PartialEq, Eq)]
struct ContentOfPin {
    /// An expression that says whether it is for the page; none where it is.
    test: Option<String>,
    marks: Vec<LateMark>,
    markup: Vec<LateMarkup>,
}

impl ContentScript {
    /// One that does something before anything is put in.
    pub fn behind(first: String) -> Self {
        ContentScript { first, pins: Vec::new() }
    }

    /// Adds what a pin holds; `test` is an expression that says whether the pin is for the page.
    pub fn add(&mut self, test: Option<String>, marks: Vec<LateMark>, markup: Vec<LateMarkup>) {
        if !(marks.is_empty() && markup.is_empty()) {
            self.pins.push(ContentOfPin { test, marks, markup });
        }
    }

    /// Whether there is nothing to do.
    pub fn is_empty(&self) -> bool {
        self.pins.is_empty() && self.first.is_empty()
    }

    /// The script. Where it may stand before all of the page is parsed, it waits for that.
    pub fn script(&self, may_be_early: bool) -> String {
        let mut body = self.first.clone();
        for (number, pin) in self.pins.iter().enumerate() {
            // Writing to a string does not fail.
            let _ = match &pin.test {
                Some(test) => writeln!(body, "var on{number} = {test};"),
                None => Ok(()),
            };
        }
        let twice = self.given_twice();
        if !twice.is_empty() {
            body.push_str(GIVE_ONCE);
        }
        for (number, pin) in self.pins.iter().enumerate() {
            let marks: String = pin.marks.iter().map(|mark| mark.script(&twice)).collect();
            let _ = match (&pin.test, marks.is_empty()) {
                (_, true) => Ok(()),
                (Some(_), _) => writeln!(body, "if (on{number}) {{ {marks}}}"),
                (None, _) => writeln!(body, "{marks}"),
            };
        }
        let numbered = self.pins.iter().enumerate();
        let pieces = numbered.flat_map(|(number, pin)| {
            let on = pin.test.is_some().then_some(number);
            pin.markup.iter().map(move |piece| (piece, on))
        });
        body.push_str(&put_in(pieces));
        match may_be_early {
            true => format!(
                "(function (run) {{ document.readyState === \"loading\" ? window.addEventListener(\"DOMContentLoaded\", run, true) : run(); }})(function () {{\n{body}\n}});\n"
            ),
            false => format!("(function () {{\n{body}\n}})();\n"),
        }
    }
}

impl ContentScript {
    /// The attributes that several marks give: of those for one element the first counts, as it does in a tag.
    fn given_twice(&self) -> BTreeSet<&str> {
        let mut seen = BTreeSet::new();
        let given = self.pins.iter().flat_map(|pin| &pin.marks).flat_map(|mark| &mark.attributes);
        given.map(|(name, _)| name.as_str()).filter(|name| !seen.insert(*name)).collect()
    }
}

/// Gives an attribute to an element, unless another mark has given it.
const GIVE_ONCE: &str = "var given = new Map(); function giveOnce(element, name, value) { var names = given.get(element) || []; given.set(element, names); if (names.indexOf(name) < 0) { names.push(name); element.setAttribute(name, value); } }\n";

impl LateMark {
    /// Whether it gives nothing.
    pub fn is_empty(&self) -> bool {
        self.id.is_none() && self.classes.is_empty() && self.attributes.is_empty()
    }

    fn script(&self, twice: &BTreeSet<&str>) -> String {
        let mut acts = String::new();
        if let Some(id) = &self.id {
            let id = literal(id);
            let _ = write!(acts, "if (element.id && element.id !== {id}) {{ return; }} element.id = {id}; ");
        }
        if !self.classes.is_empty() {
            let classes: Vec<String> = self.classes.iter().map(|class| literal(class)).collect();
            let _ = write!(acts, "element.classList.add({}); ", classes.join(", "));
        }
        for (name, value) in &self.attributes {
            let _ = match twice.contains(name.as_str()) {
                true => write!(acts, "giveOnce(element, {}, {}); ", literal(name), literal(value)),
                false => write!(acts, "element.setAttribute({}, {}); ", literal(name), literal(value)),
            };
        }
        let elements = match (&self.at, &self.within) {
            // A mark may make the target: without one it is looked for on all of the page.
            (Some(at), Some(within)) => format!(
                "Array.prototype.filter.call(document.querySelectorAll({}), function (element) {{ return !document.querySelector({within}) || element.closest({within}); }})",
                literal(at),
                within = literal(within)
            ),
            (Some(elements), None) | (None, Some(elements)) => {
                format!("document.querySelectorAll({})", literal(elements))
            }
            (None, None) => return String::new(),
        };
        format!("{elements}.forEach(function (element) {{ {acts}}}); ")
    }
}

/// What puts pieces of markup into the page, each with the number of the test that it depends on. All elements are
/// found before anything is put in, and what stands at one place keeps the order of the board.
pub(super) fn put_in<'l>(pieces: impl IntoIterator<Item = (&'l LateMarkup, Option<usize>)>) -> String {
    let pieces: Vec<_> = pieces.into_iter().collect();
    let mut text = String::new();
    for (number, (piece, on)) in pieces.iter().enumerate() {
        let elements = match (&piece.at, &piece.within) {
            (Some(at), Some(within)) => format!(
                "Array.prototype.filter.call(document.querySelectorAll({}), function (element) {{ return element.closest({}); }})",
                literal(at),
                literal(within)
            ),
            (Some(elements), None) | (None, Some(elements)) => {
                format!("document.querySelectorAll({})", literal(elements))
            }
            (None, None) => "[]".to_owned(),
        };
        // Writing to a string does not fail.
        let _ = match on {
            Some(on) => write!(text, "var at{number} = on{on} ? {elements} : []; "),
            None => write!(text, "var at{number} = {elements}; "),
        };
    }
    // What is put right behind an element, or first into it, goes before what was put there. An element that is
    // replaced is gone after that.
    let turn = |piece: &LateMarkup| match piece.place {
        MarkupPlace::After | MarkupPlace::Prepend => 1,
        MarkupPlace::Replace => 2,
        _ => 0,
    };
    let numbered = || pieces.iter().map(|(piece, _)| *piece).enumerate();
    let of_turn = |wanted: u8| numbered().filter(move |(_, piece)| turn(piece) == wanted);
    let last_first = of_turn(1).collect::<Vec<_>>().into_iter().rev();
    for (number, piece) in of_turn(0).chain(last_first).chain(of_turn(2)) {
        let place = match piece.place {
            MarkupPlace::Replace => "element.replaceWith(made);".to_owned(),
            MarkupPlace::Wrap => {
                "var inner = made.firstElementChild; while (inner && inner.childElementCount === 1) { inner = inner.firstElementChild; } \
                 element.before(made); if (inner) { inner.append(element); }"
                    .to_owned()
            }
            place => format!("element.{}(made);", place.name()),
        };
        let _ = write!(
            text,
            "at{number}.forEach(function (element) {{ var box = document.createElement(\"template\"); box.innerHTML = {}; var made = box.content; {place} }}); ",
            literal(&piece.html)
        );
    }
    text
}
