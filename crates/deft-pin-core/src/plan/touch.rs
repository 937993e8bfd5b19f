//! What a pin touches, as selectors that a browser finds it by while a page is shown.

use cssparser::ToCss as _;

use super::plan::Plan;
use crate::code::PinId;
use crate::markup::{NamedPart, Selector, is_beside_elements};

impl Plan<'_> {
    /// Selectors that match, in a browser, what a pin touches on a page that it is on: the elements of its rules, those
    /// that its markup brings and its marks name. Its target, where it has nothing but a script.
    pub fn touched(&self, pin: PinId) -> Vec<String> {
        let (own, planned) = (&self.board.pins[pin], &self.pins[pin]);
        let mut selectors: Vec<String> = planned
            .style
            .iter()
            .flat_map(|style| style.styling_selectors())
            .map(|selector| element_selector(&selector.fenced))
            .collect();
        let names = planned.markup.iter().flat_map(|markup| &markup.names);
        selectors.extend(names.filter_map(name_selector));
        for mark in &own.marks {
            let id = mark.id.iter().map(|id| NamedPart::Id(id.value.as_str().into()));
            let classes = mark.classes.iter().map(|class| NamedPart::Class(class.value.as_str().into()));
            selectors.extend(id.chain(classes).filter_map(|name| name_selector(&name)));
        }
        if selectors.is_empty() {
            selectors.extend(own.within.iter().map(|within| within.text.clone()));
        }
        let mut seen = std::collections::HashSet::new();
        selectors.retain(|selector| seen.insert(selector.clone()));
        selectors
    }

    /// Whether a pin that is off would be for a page, as far as its path tells, if it were on.
    pub fn would_be_for(&self, pin: PinId, path: &crate::site::PagePath) -> bool {
        self.board.pins[pin].is_for_url(&path.url())
    }
}

/// The selector of an ID or a class.
fn name_selector(name: &NamedPart) -> Option<String> {
    let (mark, name) = match name {
        NamedPart::Id(name) => ('#', name),
        NamedPart::Class(name) => ('.', name),
        NamedPart::Tag(_) => return None,
    };
    let mut selector = String::from(mark);
    // Writing to a string does not fail.
    let _ = cssparser::serialize_identifier(name, &mut selector);
    Some(selector)
}

/// The selector of the element that a selector is about: without a pseudo-element at its end.
fn element_selector(selector: &Selector) -> String {
    let text = selector.to_css_string();
    if !is_beside_elements(selector) {
        return text;
    }
    match text.split_once("::") {
        Some((element, _)) if element.is_empty() || element.ends_with([' ', '>', '+', '~']) => {
            format!("{element}*")
        }
        Some((element, _)) => element.to_owned(),
        None => text,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::board::Board;
    use crate::code::Id as _;
    use crate::source::MemoryFiles;

    #[test]
    fn what_a_pin_touches_is_found_by_selectors() {
        let rows: [(&str, &str, &[&str]); 5] = [
            (
                "within = '#status'\nstyle = 'a.css'",
                "p::before, h2 { color: teal } ::marker { color: red }",
                &["p:is(#status, #status *)", "h2:is(#status, #status *)", ":is(#status, #status *)"],
            ),
            ("within = '#status'\nscript = 'a.js'", "", &["#status"]),
            ("script = 'a.js'", "", &[]),
            ("style = 'a.css'", "main > ::before { content: '' }", &["main > *"]),
            (
                "markup = [{ text = '<p id=a class=\"b c\"><em>x</em></p>', place = 'append', at = 'main' }]\nmark = [{ at = 'h1', class = 'd' }]",
                "",
                &["#a", ".b", ".c", ".d"],
            ),
        ];
        for (pin, css, expected) in rows {
            let board = format!("[site]\nroot = 'site'\n[pin.a]\n{pin}");
            let board = Board::parse(&board).unwrap_or_else(|mistakes| panic!("{mistakes:?}"));
            let files = MemoryFiles::from([("a.css", css), ("a.js", "")]);
            let plan = Plan::new(&board, &files);
            let mut touched = plan.touched(PinId::new(0));
            let mut expected: Vec<&str> = expected.to_vec();
            touched.sort_unstable();
            expected.sort_unstable();
            assert_eq!(touched, expected, "{pin}");
        }
    }
}
