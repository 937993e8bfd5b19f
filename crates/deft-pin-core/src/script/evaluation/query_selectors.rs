//! Selectors that jQuery has beside those of CSS: `li:first`, `tr:odd`, `a:contains("x")`, `:input`.

use std::sync::LazyLock;

use regex::Regex;

use super::machine::Machine;
use crate::markup::{Document, NodeId, Sought, parse_selectors};

/// What jQuery's own classes of elements stand for; nothing for those that a page alone cannot tell.
const KINDS: &[(&str, &str)] = &[
    (":input", ":is(input,select,textarea,button)"),
    (":header", ":is(h1,h2,h3,h4,h5,h6)"),
    (":button", ":is(button,input[type=button])"),
    (":submit", ":is(input[type=submit],button[type=submit],button:not([type]))"),
    (":reset", ":is(input[type=reset],button[type=reset])"),
    (":checkbox", ":is(input[type=checkbox])"),
    (":radio", ":is(input[type=radio])"),
    (":password", ":is(input[type=password])"),
    (":file", ":is(input[type=file])"),
    (":image", ":is(input[type=image])"),
    (":text", ":is(input[type=text],input:not([type]))"),
    (":parent", ":not(:empty)"),
];

/// What a part of a selector leaves of what was found so far.
#[derive(Clone, Debug, PartialEq)]
enum Filter {
    First,
    Last,
    At(i64),
    Below(i64),
    Above(i64),
    Even,
    Odd,
    Contains(String),
}

/// Where a name of a class of elements stands in a selector, outside of brackets and quotes.
fn places(text: &str) -> Vec<usize> {
    let (mut depth, mut quote, mut found) = (0_i32, None, Vec::new());
    let mut is_escaped = false;
    for (at, c) in text.char_indices() {
        match (c, quote) {
            _ if is_escaped => is_escaped = false,
            ('\\', _) => is_escaped = true,
            (c, Some(own)) if c == own => quote = None,
            (_, Some(_)) => {}
            ('"' | '\'', None) => quote = Some(c),
            ('[' | '(', None) => depth += 1,
            (']' | ')', None) => depth -= 1,
            (':', None) if depth == 0 => found.push(at),
            _ => {}
        }
    }
    found
}

/// The end of a name.
fn end_of_name(text: &str) -> usize {
    text.find(|c: char| !(c.is_ascii_alphanumeric() || c == '-' || c == '_')).unwrap_or(text.len())
}

/// What stands in the brackets at the beginning of a text, and how long they are.
fn argument(text: &str) -> Option<(&str, usize)> {
    let inner = text.strip_prefix('(')?;
    let end = inner.find(')')?;
    Some((inner[..end].trim().trim_matches(['"', '\'']), end + 2))
}

/// The first part of a selector that leaves some of what was found so far: where it begins, what it leaves, where it ends.
fn first_filter(text: &str) -> Option<(usize, Filter, usize)> {
    places(text).into_iter().find_map(|at| {
        let name_end = at + 1 + end_of_name(&text[at + 1..]);
        let (given, length) = argument(&text[name_end..]).unwrap_or(("", 0));
        let number = || given.parse::<i64>().ok();
        let filter = match &text[at + 1..name_end] {
            "first" => Filter::First,
            "last" => Filter::Last,
            "even" => Filter::Even,
            "odd" => Filter::Odd,
            "eq" => Filter::At(number()?),
            "lt" => Filter::Below(number()?),
            "gt" => Filter::Above(number()?),
            "contains" if length > 0 => Filter::Contains(given.to_owned()),
            _ => return None,
        };
        Some((at, filter, name_end + length))
    })
}

/// A selector with jQuery's own classes written in CSS; none where there are some that a page cannot tell.
fn as_css(text: &str) -> Option<String> {
    let mut out = String::with_capacity(text.len());
    let mut from = 0;
    for at in places(text) {
        let end = at + 1 + end_of_name(&text[at + 1..]);
        if matches!(&text[at..end], ":visible" | ":hidden" | ":animated" | ":selected") {
            return None;
        }
        if let Some((_, css)) = KINDS.iter().find(|(name, _)| *name == &text[at..end]) {
            out.push_str(&text[from..at]);
            out.push_str(css);
            from = end;
        }
    }
    out.push_str(&text[from..]);
    Some(BARE.as_ref().map_or_else(|| out.clone(), |bare| bare.replace_all(&out, "$1\"$2\"]").into_owned()))
}

/// What an attribute is held against, without quotes: jQuery takes numbers there as well.
static BARE: LazyLock<Option<Regex>> =
    LazyLock::new(|| Regex::new(r"(\[\s*[\w-]+\s*[*^$|~]?=\s*)(-?\d[\w-]*)\s*\]").ok());

/// The selectors of a list, at its commas.
fn parts(text: &str) -> Vec<&str> {
    let (mut depth, mut quote, mut from, mut found) = (0_i32, None, 0, Vec::new());
    for (at, c) in text.char_indices() {
        match (c, quote) {
            (c, Some(own)) if c == own => quote = None,
            (_, Some(_)) => {}
            ('"' | '\'', None) => quote = Some(c),
            ('[' | '(', None) => depth += 1,
            (']' | ')', None) => depth -= 1,
            (',', None) if depth == 0 => {
                found.push(text[from..at].trim());
                from = at + 1;
            }
            _ => {}
        }
    }
    found.push(text[from..].trim());
    found
}

impl Filter {
    fn leaves(&self, document: &Document, found: Vec<NodeId>) -> Vec<NodeId> {
        let count = found.len() as i64;
        let place = |own: i64| if own < 0 { count + own } else { own };
        let keeps = |at: i64, id: NodeId| match self {
            Filter::First => at == 0,
            Filter::Last => at + 1 == count,
            Filter::At(own) => at == place(*own),
            Filter::Below(own) => at < place(*own),
            Filter::Above(own) => at > place(*own),
            Filter::Even => at % 2 == 0,
            Filter::Odd => at % 2 == 1,
            Filter::Contains(text) => document.text_of(id).contains(text.as_str()),
        };
        let numbered = (0..).zip(found);
        numbered.filter(|(at, id)| keeps(*at, *id)).map(|(_, id)| id).collect()
    }
}

impl Machine<'_> {
    /// The elements that a selector finds which only jQuery knows, on the page at present or in an element; none where
    /// that cannot be told.
    pub(super) fn found_by_query(&mut self, within: Option<NodeId>, text: &str) -> Option<Vec<NodeId>> {
        if !self.is_present() || text.len() > 1_000 {
            return None;
        }
        let mut all: Vec<NodeId> = Vec::new();
        for part in parts(text) {
            let top = within.unwrap_or(NodeId::DOCUMENT);
            all.extend(self.found_in_turn(vec![top], &format!(" {part}"))?);
        }
        let document = self.present_document()?;
        let order: Vec<NodeId> = match all.len() {
            0 | 1 => all,
            _ => document.descendants(NodeId::DOCUMENT).filter(|id| all.contains(id)).collect(),
        };
        self.charge(order.len());
        Some(order)
    }

    /// What a selector leaves of some elements: `.filter(":odd")`, `.filter(":contains(x)")`.
    pub(super) fn left_by_query(&mut self, found: Vec<NodeId>, text: &str) -> Option<Vec<NodeId>> {
        if !self.is_present() || text.contains(',') {
            return None;
        }
        self.found_in_turn(found, text.trim())
    }

    /// Follows a selector from filter to filter. It begins with a blank where it looks in the elements, and is held
    /// against them else.
    fn found_in_turn(&mut self, from: Vec<NodeId>, text: &str) -> Option<Vec<NodeId>> {
        let (mut found, mut rest) = (from, text);
        for _ in 0..10 {
            let (step, filter, behind) = match first_filter(rest) {
                Some((at, filter, end)) => (&rest[..at], Some(filter), &rest[end..]),
                None => (rest, None, ""),
            };
            let is_bare = step.trim().is_empty();
            if !(is_bare && (filter.is_none() || !step.starts_with(' '))) {
                let step = if is_bare { " *" } else { step };
                found = self.found_by_step(&found, step)?;
            }
            if let Some(filter) = filter {
                if matches!(filter, Filter::Contains(_))
                    && (self.presence.vague.texts || self.world.acts_with("textContent"))
                {
                    return None;
                }
                found = filter.leaves(self.present_document()?, found);
            }
            rest = behind;
            if rest.trim().is_empty() {
                return Some(found);
            }
        }
        None
    }

    fn found_by_step(&mut self, from: &[NodeId], step: &str) -> Option<Vec<NodeId>> {
        let is_within = step.starts_with([' ', '>', '+', '~']);
        let bare = step.trim_start();
        let css = as_css(bare)?;
        // What combines comes first: it is held against the elements themselves then.
        let scoped = match is_within {
            true if from == [NodeId::DOCUMENT] => css,
            true => format!(":scope {css}"),
            false => css,
        };
        let selectors = parse_selectors(&scoped).ok()?;
        if self.presence.vague.hides(&scoped, &selectors) {
            return None;
        }
        let document = self.present_document()?;
        let mut sought = Sought::by(&selectors);
        let mut met = Vec::new();
        let mut looked = 0;
        for top in from {
            let around = match bare.starts_with(['+', '~']) {
                true => document.node(*top).parent().unwrap_or(NodeId::DOCUMENT),
                false => *top,
            };
            let own: Vec<NodeId> = match is_within {
                true => document.descendants(around).collect(),
                false => vec![*top],
            };
            looked += own.len();
            for id in own {
                let Some(element) = document.element(id) else { continue };
                let scope = document.element(*top);
                if sought.surely_finds(element, scope)? && !met.contains(&id) {
                    met.push(id);
                }
            }
        }
        self.charge(looked / 4);
        if from.len() > 1 && is_within {
            let document = self.present_document()?;
            met = document.descendants(NodeId::DOCUMENT).filter(|id| met.contains(id)).collect();
        }
        Some(met)
    }
}

#[cfg(test)]
mod tests {
    use super::{Filter, as_css, first_filter, parts};

    #[test]
    fn filters_are_found_and_classes_of_css_are_left_alone() {
        assert_eq!(first_filter("li:first-child a"), None);
        assert_eq!(first_filter("li:first a"), Some((2, Filter::First, 8)));
        assert_eq!(first_filter("tr:eq(-1)"), Some((2, Filter::At(-1), 9)));
        assert_eq!(first_filter("a[href=':first']"), None);
        assert_eq!(first_filter("a:contains('Pier')"), Some((1, Filter::Contains("Pier".to_owned()), 18)));
        assert_eq!(
            as_css("form :input:not([type=hidden])").unwrap(),
            "form :is(input,select,textarea,button):not([type=hidden])"
        );
        assert_eq!(as_css("p:hidden"), None);
        assert_eq!(parts("a:contains(','), b"), ["a:contains(',')", "b"]);
    }
}
