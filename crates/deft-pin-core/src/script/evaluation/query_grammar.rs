//! The grammar of jQuery's own selectors: which texts it refuses (jQuery, "Syntax error, unrecognized expression").
//!
//! A selector that the browser takes is handed to the browser. Any other is taken apart by jQuery itself.

use std::sync::LazyLock;

use regex::Regex;

/// Classes of elements that jQuery knows itself.
const PSEUDOS: &[&str] = &[
    "not", "has", "contains", "lang", "target", "root", "focus", "enabled", "disabled", "checked",
    "selected", "empty", "parent", "header", "input", "button", "text", "first", "last", "eq", "even", "odd",
    "lt", "gt", "nth", "radio", "checkbox", "file", "password", "image", "submit", "reset", "hidden",
    "visible", "animated",
];
/// Those that ask for a place among what is found.
const PLACES: &[&str] = &["even", "odd", "eq", "gt", "lt", "nth", "first", "last"];
/// So deep stand selectors in each other.
const DEEPEST: u32 = 8;

/// Why a selector is refused.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Refusal {
    /// It is no selector.
    Syntax,
    /// Nor one without what is in quotes from version 1.12 on: `a[href=#x]`.
    NewSyntax,
    /// It asks for a class of elements that there is none of. It only comes to that where each of these finds something.
    Pseudo { name: String, sought: Vec<String> },
}

/// The patterns that a selector is taken apart by.
struct Grammar {
    comma: Regex,
    combinator: Regex,
    tag: Regex,
    class: Regex,
    id: Regex,
    attribute: Regex,
    child: Regex,
    pseudo: Regex,
    has_pseudo: Regex,
}

impl Grammar {
    /// Older versions take a `#` in names as well.
    fn new(is_old: bool) -> Option<Self> {
        let blank = r"[\x20\t\r\n\x0c]";
        let sign = if is_old { "[0-9A-Za-z_#-]" } else { "[0-9A-Za-z_-]" };
        let name =
            |sign: &str| format!(r"(?:\\[0-9a-fA-F]{{1,6}}{blank}?|\\[^\r\n\x0c]|{sign}|[^\x00-\x7f])+");
        let (plain, value) = (name("[0-9A-Za-z_-]"), name(sign));
        let quoted = r#"'((?:\\.|[^\\'])*)'|"((?:\\.|[^\\"])*)""#;
        let attribute =
            format!(r"\[{blank}*({plain})(?:{blank}*([*^$|!~]?=){blank}*(?:{quoted}|({value}))|){blank}*\]");
        let pseudo = format!(r":({plain})(?:\((({quoted})|((?:\\.|[^\\()\[\]]|{attribute})*)|.*)\)|)");
        let place = format!(
            r"\({blank}*(even|odd|(?:(?:[+-]|)(?:[0-9]*)n|){blank}*(?:(?:[+-]|){blank}*(?:[0-9]+)|)){blank}*\)"
        );
        let child = format!(r"(?i)^:(only|first|last|nth|nth-last)-(?:child|of-type)(?:{place}|)");
        let made = |pattern: &str| Regex::new(pattern).ok();
        Some(Grammar {
            comma: made(&format!("^{blank}*,{blank}*"))?,
            combinator: made(&format!("^{blank}*([>+~]|{blank}){blank}*"))?,
            tag: made(&format!(r"^(?:{plain}|[*])"))?,
            class: made(&format!(r"^\.(?:{plain})"))?,
            id: made(&format!("^#(?:{plain})"))?,
            attribute: made(&format!("^{attribute}"))?,
            child: made(&child)?,
            pseudo: made(&format!("^{pseudo}"))?,
            has_pseudo: made(&pseudo)?,
        })
    }
}

/// A part of a selector.
#[derive(Debug)]
enum Token {
    Combinator,
    /// A name, a class or an ID, as it is written.
    Simple(String),
    Other,
    /// A class of elements, and what it is given.
    Pseudo(String, Option<String>),
}

/// The parts of a selector's alternatives, and how much of its end is not understood; none where it is refused before that.
fn tokens(grammar: &Grammar, text: &str) -> Option<(Vec<Vec<Token>>, usize)> {
    let mut groups: Vec<Vec<Token>> = Vec::new();
    let mut rest = text;
    let mut is_matched = false;
    while !rest.is_empty() {
        let comma = grammar.comma.find(rest);
        if !is_matched || comma.is_some() {
            if let Some(comma) = comma
                && comma.end() < rest.len()
            {
                rest = &rest[comma.end()..];
            }
            groups.push(Vec::new());
        }
        let group = groups.last_mut()?;
        is_matched = false;
        if let Some(found) = grammar.combinator.find(rest) {
            group.push(Token::Combinator);
            rest = &rest[found.end()..];
            is_matched = true;
        }
        for pattern in [&grammar.tag, &grammar.class] {
            if let Some(found) = pattern.find(rest) {
                group.push(Token::Simple(found.as_str().to_owned()));
                rest = &rest[found.end()..];
                is_matched = true;
            }
        }
        if let Some(found) = grammar.attribute.find(rest) {
            group.push(Token::Other);
            rest = &rest[found.end()..];
            is_matched = true;
        }
        if let Some(found) = grammar.child.captures(rest) {
            let is_nth = found[1].to_ascii_lowercase().starts_with("nth");
            if is_nth != found.get(2).is_some_and(|own| !own.as_str().is_empty()) {
                return None;
            }
            group.push(Token::Other);
            rest = &rest[found[0].len()..];
            is_matched = true;
        }
        if let Some((length, name, given)) = pseudo(grammar, rest) {
            group.push(Token::Pseudo(name, given));
            rest = &rest[length..];
            is_matched = true;
        }
        if let Some(found) = grammar.id.find(rest) {
            group.push(Token::Simple(found.as_str().to_owned()));
            rest = &rest[found.end()..];
            is_matched = true;
        }
        if !is_matched {
            break;
        }
    }
    Some((groups, rest.len()))
}

/// A class of elements at the beginning of a text: its length, its name, what it is given.
fn pseudo(grammar: &Grammar, text: &str) -> Option<(usize, String, Option<String>)> {
    let found = grammar.pseudo.captures(text)?;
    if grammar.child.is_match(&found[0]) {
        return None;
    }
    let name = found[1].to_owned();
    let mut length = found[0].len();
    let given = |at: usize| found.get(at).map(|own| own.as_str()).filter(|own| !own.is_empty());
    if let Some(quoted) = given(4).or(given(5)) {
        return Some((length, name, Some(quoted.to_owned())));
    }
    let mut own = given(2);
    if let (Some(unquoted), None, true) = (own, given(6), found.get(3).is_none())
        && grammar.has_pseudo.is_match(unquoted)
        && let Some((_, excess)) = tokens(grammar, unquoted).filter(|(_, excess)| *excess > 0)
        && let Some(end) = unquoted[unquoted.len() - excess..].find(')')
    {
        // It took in what comes behind its bracket.
        let end = unquoted.len() - excess + end;
        length -= unquoted.len() - end;
        own = Some(&unquoted[..end]);
    }
    Some((length, name, own.map(str::to_owned)))
}

/// Whether jQuery refuses a selector that the browser does not take.
pub(super) fn refusal(text: &str) -> Option<Refusal> {
    static GRAMMARS: LazyLock<Option<(Grammar, Grammar)>> =
        LazyLock::new(|| Grammar::new(false).zip(Grammar::new(true)));
    let (new, old) = GRAMMARS.as_ref()?;
    let text = text.trim_matches([' ', '\t', '\r', '\n', '\x0c']);
    let is_whole = |grammar| tokens(grammar, text).is_some_and(|(_, excess)| excess == 0);
    if text.is_empty() || text.len() > 1_000 {
        return None;
    }
    if !is_whole(old) {
        return Some(Refusal::Syntax);
    }
    if !is_whole(new) {
        return Some(Refusal::NewSyntax);
    }
    unknown_pseudo(new, text, 0)
}

fn unknown_pseudo(grammar: &Grammar, text: &str, depth: u32) -> Option<Refusal> {
    let (groups, excess) = tokens(grammar, text)?;
    if depth > DEEPEST {
        return None;
    }
    if excess > 0 {
        return Some(Refusal::Syntax);
    }
    let pseudos = || {
        groups.iter().flatten().filter_map(|token| match token {
            Token::Pseudo(name, given) => Some((name, given)),
            _ => None,
        })
    };
    let inner = pseudos().filter(|(name, _)| *name == "not").filter_map(|(_, given)| given.as_deref());
    let inner = inner.into_iter().find_map(|given| unknown_pseudo(grammar, given, depth + 1));
    let is_known = |name: &str| {
        PSEUDOS.contains(&name) || matches!(&*name.to_ascii_lowercase(), "first" | "last" | "eq" | "not")
    };
    let unknown = pseudos().map(|(name, _)| name).find(|name| !is_known(name));
    if unknown.is_none() && inner.is_none() {
        return None;
    }
    // Where it looks up one simple selector first, and nothing is found by that, it goes no further.
    let mut sought = Vec::new();
    let has_place = pseudos().any(|(name, _)| PLACES.contains(&&**name));
    if let ([group], 0) = (groups.as_slice(), depth) {
        let simple = |token: &Token| match token {
            Token::Simple(own) => Some(own.clone()),
            _ => None,
        };
        let last = group.iter().rev().take_while(|token| !matches!(token, Token::Combinator));
        sought.extend(last.filter(|_| !has_place).find_map(simple));
        sought.extend(group.first().and_then(simple).filter(|own| own.starts_with('#')));
    }
    match unknown {
        Some(name) => Some(Refusal::Pseudo { name: name.clone(), sought }),
        None => inner.map(|inner| match inner {
            Refusal::Pseudo { name, .. } => Refusal::Pseudo { name, sought },
            other => other,
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::{Refusal, refusal};

    /// As jQuery 3.7.1 does.
    #[test]
    fn a_selector_is_refused_as_jquery_refuses_it() {
        for text in [
            "/timetable/", ".price:", ",", ".a,", "#", ".", "..lead", "https://ferries.example/",
            ".price !important", "a[title='it's']", "main[", "[data-fare=1 2]", "li:nth-child", "a[", "{x}",
            "div:not(.a", "li:first-child(2)", "$x", "a;b",
        ] {
            assert_eq!(refusal(text), Some(Refusal::Syntax), "{text}");
        }
        assert_eq!(refusal("a[href=#x]"), Some(Refusal::NewSyntax));
        for text in [
            "div >", "> div", ".1a", "tr:even", "td:has(b)", "td:contains(Adult)", ":input", "input:text",
            "li:eq(1) a", "li:not(:first)", "td:contains('a, b')", "a[href!='#x']", "tr:gt(0):lt(2)",
            ".a:not(.b, .c):visible", "li:nth-child(2n+1):hidden", "#menu > li:last",
        ] {
            assert_eq!(refusal(text), None, "{text}");
        }
        let pseudo = |name: &str, sought: &[&str]| {
            let sought = sought.iter().map(|own| (*own).to_owned()).collect();
            Some(Refusal::Pseudo { name: name.to_owned(), sought })
        };
        assert_eq!(refusal("tr:nope"), pseudo("nope", &["tr"]));
        assert_eq!(refusal("#menu li:hovr"), pseudo("hovr", &["li", "#menu"]));
        assert_eq!(refusal("li:hover:first"), pseudo("hover", &[]));
        assert_eq!(refusal("a:vsible, b"), pseudo("vsible", &[]));
        assert_eq!(refusal("li:not(:frist)"), pseudo("frist", &["li"]));
    }
}
