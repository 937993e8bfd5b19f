//! The text of selectors, read: which pseudo-classes and pseudo-elements there are, and what is
//! wrong with a selector that is none.

use std::borrow::Cow;

use cssparser::{Parser as CssParser, ParserState, Token};
use html5ever::Namespace;
use selectors::attr::ParsedCaseSensitivity;
use selectors::parser::{Component, ParseRelative, Parser};

use super::namespaces::{self, Namespaces};
use super::pseudo_names::{
    FUNCTIONAL_PSEUDO_ELEMENTS, OTHER_PSEUDO_CLASSES, OTHER_STATES, PREFIXED_STATES, PSEUDO_ELEMENTS,
    RUN_TIME_STATES, SCROLLBAR_STATES, WEBKIT_PSEUDO_ELEMENTS, WITHOUT_STATES,
};
use super::selector::{Name, Names, PseudoClass, PseudoElement, Selector, SelectorList};
use super::selector_flaws::{SelectorError, begins_with_digit, joined_to_parent};
use crate::source::nearest;

/// Parses selectors as a style rule of a page may have them.
struct SelectorParser<'n> {
    namespaces: &'n Namespaces,
    /// Whether it is asked what is supported: what a sheet passes over counts there.
    is_strict: bool,
}

type Problem = cssparser::ParseError<SelectorError>;

fn unknown(mark: &str, name: &str, known: &[&[&'static str]]) -> Problem {
    let kind = if mark == ":" { "pseudo-class" } else { "pseudo-element" };
    let near = nearest(name, known.iter().flat_map(|names| names.iter().copied()));
    let hint = near.map(|near| format!("; did you mean `{mark}{near}`?")).unwrap_or_default();
    wrong(format!("there is no {kind} `{mark}{name}`{hint}"))
}

/// Whether a name has a vendor's prefix, or is a state that authors name.
fn is_prefixed(name: &str) -> bool {
    name.starts_with('-')
}

/// Something that no browser takes.
fn wrong(message: String) -> Problem {
    cssparser::ParseError::custom(SelectorError::new(message))
}

/// A pseudo-class or a pseudo-element of other engines.
fn other_engines(what: &str) -> Problem {
    cssparser::ParseError::custom(SelectorError::other_engines(what))
}

impl<'i> Parser<'i> for SelectorParser<'_> {
    type Impl = Names;
    type Error = SelectorError;

    fn default_namespace(&self) -> Option<Namespace> {
        self.namespaces.default_namespace()
    }

    fn namespace_for_prefix(&self, prefix: &Name) -> Option<Namespace> {
        self.namespaces.of_prefix(prefix)
    }

    fn allow_forgiving_selectors(&self) -> bool {
        !self.is_strict
    }

    fn parse_slotted(&self) -> bool {
        true
    }

    fn parse_part(&self) -> bool {
        true
    }

    fn parse_nth_child_of(&self) -> bool {
        true
    }

    fn parse_is_and_where(&self) -> bool {
        true
    }

    fn parse_has(&self) -> bool {
        true
    }

    fn parse_parent_selector(&self) -> bool {
        true
    }

    fn is_is_alias(&self, name: &str) -> bool {
        name.eq_ignore_ascii_case("-webkit-any")
    }

    fn parse_host(&self) -> bool {
        true
    }

    fn parse_non_ts_pseudo_class(&self, name: &str) -> Result<PseudoClass, Problem> {
        let name = name.to_ascii_lowercase();
        Ok(match name.as_str() {
            "link" | "any-link" | "-webkit-any-link" => PseudoClass::Link,
            "enabled" => PseudoClass::Enabled,
            "disabled" => PseudoClass::Disabled,
            "required" => PseudoClass::Required,
            "optional" => PseudoClass::Optional,
            known
                if [RUN_TIME_STATES, SCROLLBAR_STATES, PREFIXED_STATES]
                    .iter()
                    .any(|all| all.contains(&known)) =>
            {
                PseudoClass::RunTime { written: name }
            }
            element if element.starts_with("-webkit-scrollbar") => {
                let message =
                    format!("`:{name}` is no pseudo-class: a pseudo-element has two colons, `::{name}`");
                return Err(wrong(message));
            }
            other if OTHER_STATES.contains(&other) || is_prefixed(other) => {
                if self.namespaces.of_all_engines {
                    return Ok(PseudoClass::RunTime { written: name });
                }
                return Err(other_engines(&format!(":{name}")));
            }
            _ => return Err(unknown(":", &name, &[RUN_TIME_STATES, OTHER_PSEUDO_CLASSES])),
        })
    }

    fn parse_non_ts_functional_pseudo_class(
        &self,
        name: &str,
        input: &mut CssParser<'i>,
        _after_part: bool,
    ) -> Result<PseudoClass, Problem> {
        let name = name.to_ascii_lowercase();
        if name == "lang" {
            // Chromium takes one language, as a word.
            if self.namespaces.of_all_engines {
                let range =
                    |input: &mut CssParser<'i>| Ok(input.expect_ident_or_string()?.to_ascii_lowercase());
                return Ok(PseudoClass::Lang(input.parse_comma_separated(range)?));
            }
            let range = input.try_parse(|input| input.expect_ident().map(|word| word.to_ascii_lowercase()));
            let Ok(range) = range else { return Err(other_engines(":lang(\"…\")")) };
            if input.try_parse(|input| input.expect_comma()).is_ok() {
                return Err(other_engines(":lang() of several languages"));
            }
            let ranges = vec![range];
            return Ok(PseudoClass::Lang(ranges));
        }
        let known = ["dir", "state", "active-view-transition-type", "host-context"];
        let others = ["current", "heading", "nth-col", "nth-last-col"];
        if others.contains(&name.as_str()) || is_prefixed(&name) {
            if self.namespaces.of_all_engines {
                let arguments = arguments(input).unwrap_or_default();
                return Ok(PseudoClass::RunTime { written: format!("{name}({arguments})") });
            }
            return Err(other_engines(&format!(":{name}()")));
        }
        if !known.contains(&name.as_str()) {
            return Err(unknown(":", &name, &[OTHER_PSEUDO_CLASSES]));
        }
        let arguments = arguments(input).ok_or_else(|| unknown(":", &name, &[OTHER_PSEUDO_CLASSES]))?;
        if arguments.trim().is_empty() {
            return Err(wrong(format!("`:{name}()` lacks its argument")));
        }
        if matches!(name.as_str(), "dir" | "state") && !is_word(&arguments) {
            return Err(wrong(format!(
                "`:{name}({arguments})` has another argument than it takes: a word alone"
            )));
        }
        Ok(match name.as_str() {
            "dir" => PseudoClass::Dir(arguments.trim().to_ascii_lowercase()),
            "host-context" if is_compound(&arguments, self.namespaces) => PseudoClass::HostContext(arguments),
            "host-context" => {
                return Err(wrong(format!(
                    "`:host-context({arguments})` has another argument than it takes: one selector without \
                     blanks"
                )));
            }
            _ => PseudoClass::RunTime { written: format!("{name}({arguments})") },
        })
    }

    fn parse_pseudo_element(&self, name: &str) -> Result<PseudoElement, Problem> {
        let name = name.to_ascii_lowercase();
        // Of its own engine's names Chromium takes any, and supports some.
        let is_own = |name: &str| !self.is_strict || WEBKIT_PSEUDO_ELEMENTS.contains(&name);
        if PSEUDO_ELEMENTS.contains(&name.as_str()) || name.strip_prefix("-webkit-").is_some_and(is_own) {
            return Ok(PseudoElement(name));
        }
        if is_prefixed(&name) || name == "cue-region" {
            if self.namespaces.of_all_engines {
                return Ok(PseudoElement(name));
            }
            return Err(other_engines(&format!("::{name}")));
        }
        Err(unknown("::", &name, &[PSEUDO_ELEMENTS]))
    }

    fn parse_functional_pseudo_element(
        &self,
        name: &str,
        arguments: &mut CssParser<'i>,
    ) -> Result<PseudoElement, Problem> {
        let name = name.to_ascii_lowercase();
        if is_prefixed(&name) || name == "cue-region" {
            return Err(other_engines(&format!("::{name}()")));
        }
        if !FUNCTIONAL_PSEUDO_ELEMENTS.contains(&name.as_str()) {
            return Err(unknown("::", &name, &[FUNCTIONAL_PSEUDO_ELEMENTS]));
        }
        let arguments =
            self::arguments(arguments).ok_or_else(|| unknown("::", &name, &[FUNCTIONAL_PSEUDO_ELEMENTS]))?;
        let is_right = match name.as_str() {
            "picker" => arguments.trim() == "select",
            "highlight" => !arguments.trim().is_empty() && !arguments.trim().contains([' ', '\t', '\n', ',']),
            "scroll-button" => [
                "*", "left", "right", "up", "down", "block-start", "block-end", "inline-start", "inline-end",
                "next", "prev",
            ]
            .contains(&arguments.trim()),
            name if name.starts_with("view-transition-") => {
                let parts = arguments.trim().split('.').filter(|part| !part.is_empty());
                parts.clone().count() > 0 && parts.clone().all(|part| part == "*" || is_word(part))
            }
            _ => !arguments.trim().is_empty(),
        };
        if !is_right {
            let message = format!("`::{name}({arguments})` has another argument than it takes");
            return Err(wrong(message));
        }
        Ok(PseudoElement(format!("{name}({arguments})")))
    }
}

/// Whether a text is one selector of one element.
fn is_compound(text: &str, namespaces: &Namespaces) -> bool {
    let list = parse(text, ParseRelative::No, namespaces);
    list.is_ok_and(|list| {
        list.len() == 1 && !list.slice()[0].iter_raw_match_order().any(Component::is_combinator)
    })
}

/// Whether a text is one word as CSS has them.
fn is_word(text: &str) -> bool {
    let mut input = CssParser::new(text);
    input.expect_ident().is_ok() && input.is_exhausted()
}

/// The text of a function's arguments; none where it holds what no pseudo-class or pseudo-element
/// takes: braces, semicolons, and what is left open and would take up what follows.
fn arguments(input: &mut CssParser<'_>) -> Option<String> {
    let start: ParserState = input.state();
    while let Ok(token) = input.next() {
        let ends = matches!(
            token,
            Token::Semicolon
                | Token::CurlyBracketBlock
                | Token::CloseCurlyBracket
                | Token::CloseSquareBracket
                | Token::BadString(_)
                | Token::BadUrl(_)
        );
        if ends {
            return None;
        }
        let nested =
            matches!(token, Token::Function(_) | Token::ParenthesisBlock | Token::SquareBracketBlock);
        let inside = |input: &mut CssParser<'_>| {
            arguments(input).map(|_| ()).ok_or_else(cssparser::ParseError::<()>::unexpected_token)
        };
        if nested && input.parse_nested_block(inside).is_err() {
            return None;
        }
    }
    Some(input.slice_from(start.position()).to_owned())
}

/// Parses a list of complex selectors, as it stands before the brace of a style rule. One that
/// is not valid makes the whole list invalid (Selectors 4, 3.9).
pub fn parse_selectors(text: &str) -> Result<SelectorList, SelectorError> {
    parse(text, ParseRelative::No, namespaces::NONE)
}

/// Parses the selectors of a rule that is nested in another style rule: one that does not name
/// `&` is relative to it (css-nesting-1, 3.1).
pub fn parse_nested_selectors(text: &str) -> Result<SelectorList, SelectorError> {
    parse(text, ParseRelative::ForNesting, namespaces::NONE)
}

/// Parses the selectors of a rule in `@scope`: one that starts with a combinator is relative to
/// the scope's root (css-cascade-6, 2.5).
pub fn parse_scoped_selectors(text: &str) -> Result<SelectorList, SelectorError> {
    parse(text, ParseRelative::ForScope, namespaces::NONE)
}

/// Whether a browser supports a selector, as `@supports selector()` asks: one alone, with nothing in it that a sheet
/// would only pass over (css-conditional-4, "selector()").
pub(crate) fn is_supported_selector(text: &str) -> bool {
    let list = parse_by_grammar(text, ParseRelative::No, namespaces::NONE, true);
    list.is_ok_and(|list| list.len() == 1 && hold_against_chromium(&list.slice()[0]).is_ok())
}

/// What selectors stand in, which says what `&` and `:scope` mean there, and what they may begin with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SelectorPlace {
    /// A sheet, or a condition in one.
    Sheet,
    /// Another style rule.
    Rule,
    /// `@scope`, whose root `:scope` means.
    Scope,
}

impl SelectorPlace {
    /// Parses a list of selectors that stands there, in a sheet that declares some namespaces.
    pub fn read(self, text: &str, namespaces: &Namespaces) -> Result<SelectorList, SelectorError> {
        let relative = match self {
            SelectorPlace::Sheet => ParseRelative::No,
            SelectorPlace::Rule => ParseRelative::ForNesting,
            SelectorPlace::Scope => ParseRelative::ForScope,
        };
        parse(text, relative, namespaces)
    }
}

/// Whether Chromium takes what the standards' grammar has room for: an attribute test of other engines,
/// pseudo-elements with pseudo-classes that they do not take.
fn hold_against_chromium(selector: &Selector) -> Result<(), SelectorError> {
    let mut components = selector.iter();
    // A pseudo-element stands in a sequence of its own, with what it is asked behind it.
    loop {
        let element = components.clone().find_map(|component| match component {
            Component::PseudoElement(PseudoElement(name)) => Some(name.as_str()),
            _ => None,
        });
        for component in &mut components {
            match component {
                Component::NonTSPseudoClass(class) => takes_state(element, class)?,
                Component::Negation(_) if element.is_some_and(|name| WITHOUT_STATES.contains(&name)) => {
                    return Err(SelectorError::new(
                        "`:not()` stands behind a pseudo-element that takes none",
                    ));
                }
                Component::AttributeInNoNamespace { case_sensitivity, .. }
                    if *case_sensitivity == ParsedCaseSensitivity::ExplicitCaseSensitive =>
                {
                    return Err(SelectorError::other_engines("s"));
                }
                _ => {}
            }
        }
        if components.next_sequence().is_none() {
            return Ok(());
        }
    }
}

fn takes_state(element: Option<&str>, class: &PseudoClass) -> Result<(), SelectorError> {
    let written = match class {
        PseudoClass::RunTime { written } => written.as_str(),
        PseudoClass::Enabled => "enabled",
        PseudoClass::Disabled => "disabled",
        _ => return Ok(()),
    };
    let is_taken = match element {
        None => true,
        Some("selection") => written == "window-inactive",
        Some("search-text") => written == "current",
        Some(element) if element.starts_with("view-transition") => false,
        Some(element) => {
            let name = element.split('(').next().unwrap_or_default();
            !WITHOUT_STATES.contains(&name) && name != "highlight"
        }
    };
    let element = element.unwrap_or_default();
    is_taken.then_some(()).ok_or_else(|| {
        SelectorError::new(format!(
            "`::{element}` takes no `:{written}` behind it: put that before the pseudo-element"
        ))
    })
}

fn parse(
    text: &str,
    relative: ParseRelative,
    namespaces: &Namespaces,
) -> Result<SelectorList, SelectorError> {
    let list = parse_by_grammar(text, relative, namespaces, false)
        .map_err(|error| begins_with_digit(text).or_else(|| joined_to_parent(text)).unwrap_or(error))?;
    let is_taken = |selector| match hold_against_chromium(selector) {
        Err(error) if error.is_other_engines && namespaces.of_all_engines => Ok(()),
        held => held,
    };
    list.slice().iter().try_for_each(is_taken)?;
    Ok(list)
}

/// Selectors with each `:host-context()` in a `:host()` of its own: the host of a shadow tree has no features
/// but through that (css-scoping-1, 3.2.1), and it says the same there.
fn within_host(text: &str) -> Cow<'_, str> {
    const CONTEXT: &str = ":host-context(";
    if !text.contains(':') {
        return Cow::Borrowed(text);
    }
    let mut out = String::new();
    let mut rest = text;
    while let Some(at) = rest.find(CONTEXT) {
        let mut depth = 0;
        let end = rest[at..].find(|letter: char| {
            depth += i32::from(letter == '(') - i32::from(letter == ')');
            letter == ')' && depth == 0
        });
        let Some(end) = end.map(|by| at + by + 1) else { break };
        out.push_str(&format!("{}:host({})", &rest[..at], &rest[at..end]));
        rest = &rest[end..];
    }
    if out.is_empty() { Cow::Borrowed(text) } else { Cow::Owned(out + rest) }
}

fn parse_by_grammar(
    text: &str,
    relative: ParseRelative,
    namespaces: &Namespaces,
    is_strict: bool,
) -> Result<SelectorList, SelectorError> {
    let text = within_host(text);
    let mut input = CssParser::new(&text);
    input
        .parse_entirely(|input| {
            SelectorList::parse(&SelectorParser { namespaces, is_strict }, input, relative)
        })
        .map_err(|error| match error.kind {
            cssparser::ParseErrorKind::Custom(error) => error,
            cssparser::ParseErrorKind::Basic(cssparser::BasicParseErrorKind::EndOfInput) => {
                SelectorError::new("it stops in the middle")
            }
            cssparser::ParseErrorKind::Basic(cssparser::BasicParseErrorKind::TooManyNestedBlocks) => {
                SelectorError::new("brackets are nested too deeply")
            }
            cssparser::ParseErrorKind::Basic(_) => {
                SelectorError::new("a character stands where none of its kind may")
            }
        })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_no_selector_is_refused() {
        for text in ["", "a >", "..x", "a:hovr", "a::befor", "#1x", "a[", "a, , b", "x|y", "a:is(b", "p}"] {
            // A bracket that the end of the text closes is closed (CSS Syntax 3, 9).
            let expected = text == "a:is(b";
            assert_eq!(parse_selectors(text).is_ok(), expected, "{text:?}");
        }
        for text in
            ["a::-webkit-scrollbar", "::selection", "a:-webkit-any(b, c)", "p:is(:nope, a)", "*|a", "& > a"]
        {
            assert!(parse_selectors(text).is_ok(), "{text:?}");
        }
    }
}
