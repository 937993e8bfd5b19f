//! The text of selectors, read: which pseudo-classes and pseudo-elements there are, and what is
//! wrong with a selector that is none.

use cssparser::{Parser as CssParser, ParserState, Token};
use selectors::parser::{ParseRelative, Parser, SelectorParseErrorKind};

use super::selector::{Names, PseudoClass, PseudoElement, SelectorList};
use crate::source::nearest;

/// Parses selectors as a style rule of a page may have them.
struct SelectorParser;

/// Why a selector is not one.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{0}")]
pub struct SelectorError(String);

impl From<SelectorParseErrorKind> for SelectorError {
    fn from(kind: SelectorParseErrorKind) -> Self {
        use SelectorParseErrorKind as Kind;
        SelectorError(
            match kind {
                Kind::EmptySelector => "a selector is missing",
                Kind::DanglingCombinator => "it ends in a combinator with nothing after it",
                Kind::UnsupportedPseudoClassOrElement => "there is no such pseudo-class or pseudo-element",
                Kind::PseudoElementExpectedColon
                | Kind::PseudoElementExpectedIdent
                | Kind::NoIdentForPseudo => "a colon has no name of a pseudo-class after it",
                Kind::ClassNeedsIdent => {
                    "a dot has no class name after it that CSS can read: names do not start with a digit"
                }
                Kind::ExpectedNamespace => "it uses a namespace prefix that nothing declares",
                Kind::NoQualifiedNameInAttributeSelector
                | Kind::UnexpectedTokenInAttributeSelector
                | Kind::ExpectedBarInAttr
                | Kind::BadValueInAttr
                | Kind::InvalidQualNameInAttr => "what stands in the square brackets is no attribute test",
                Kind::InvalidState => "a pseudo-element or a combinator stands where none may",
                Kind::NonCompoundSelector => "a combinator stands where none may",
                Kind::NonPseudoElementAfterSlotted
                | Kind::InvalidPseudoElementAfterSlotted
                | Kind::InvalidPseudoElementInsideWhere => "a pseudo-element stands where none may",
                Kind::UnexpectedIdent | Kind::ExplicitNamespaceUnexpectedToken => {
                    "a name stands where none may"
                }
            }
            .to_owned(),
        )
    }
}

/// States of a running page, by the names of their pseudo-classes.
const RUN_TIME_STATES: &[&str] = &[
    "active", "active-view-transition", "autofill", "blank", "buffering", "checked", "current", "default",
    "defined", "focus", "focus-visible", "focus-within", "fullscreen", "future", "has-slotted", "hover",
    "in-range", "indeterminate", "interest-source", "interest-target", "invalid", "local-link", "modal",
    "muted", "open", "out-of-range", "past", "paused", "picture-in-picture", "placeholder-shown", "playing",
    "popover-open", "read-only", "read-write", "seeking", "stalled", "target", "target-current",
    "target-within", "user-invalid", "user-valid", "valid", "visited", "volume-locked", "xr-overlay",
];

/// Pseudo-elements of the standards, by name.
const PSEUDO_ELEMENTS: &[&str] = &[
    "after", "backdrop", "before", "checkmark", "column", "cue", "cue-region", "details-content",
    "file-selector-button", "first-letter", "first-line", "grammar-error", "marker", "picker-icon",
    "placeholder", "scroll-marker", "scroll-marker-group", "search-text", "selection", "spelling-error",
    "target-text", "view-transition",
];

/// Pseudo-elements that take an argument.
const FUNCTIONAL_PSEUDO_ELEMENTS: &[&str] = &[
    "cue", "cue-region", "highlight", "picker", "scroll-button", "view-transition-group",
    "view-transition-group-children", "view-transition-image-pair", "view-transition-new",
    "view-transition-old",
];

type Problem = cssparser::ParseError<SelectorError>;

/// Pseudo-classes that depend on the tree alone, and those that take an argument.
const OTHER_PSEUDO_CLASSES: &[&str] = &[
    "any-link", "dir", "disabled", "empty", "enabled", "first-child", "first-of-type", "has", "host", "is",
    "lang", "last-child", "last-of-type", "link", "not", "nth-child", "nth-last-child", "nth-last-of-type",
    "nth-of-type", "only-child", "only-of-type", "optional", "required", "root", "scope", "where",
];

fn unknown(mark: &str, name: &str, known: &[&[&'static str]]) -> Problem {
    let kind = if mark == ":" { "pseudo-class" } else { "pseudo-element" };
    let near = nearest(name, known.iter().flat_map(|names| names.iter().copied()));
    let hint = near.map(|near| format!("; did you mean `{mark}{near}`?")).unwrap_or_default();
    cssparser::ParseError::custom(SelectorError(format!("there is no {kind} `{mark}{name}`{hint}")))
}

/// Names with a vendor's prefix are taken as they come: which of them a browser knows is its own
/// affair, and no standard tells.
fn is_prefixed(name: &str) -> bool {
    name.starts_with('-')
}

impl<'i> Parser<'i> for SelectorParser {
    type Impl = Names;
    type Error = SelectorError;

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
        name.eq_ignore_ascii_case("-webkit-any") || name.eq_ignore_ascii_case("-moz-any")
    }

    fn parse_host(&self) -> bool {
        true
    }

    fn parse_non_ts_pseudo_class(&self, name: &str) -> Result<PseudoClass, Problem> {
        let name = name.to_ascii_lowercase();
        Ok(match name.as_str() {
            "link" | "any-link" => PseudoClass::Link,
            "enabled" => PseudoClass::Enabled,
            "disabled" => PseudoClass::Disabled,
            "required" => PseudoClass::Required,
            "optional" => PseudoClass::Optional,
            known if RUN_TIME_STATES.contains(&known) || is_prefixed(known) => {
                PseudoClass::RunTime { written: name }
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
            let ranges = input.parse_comma_separated(|input| {
                Ok::<_, Problem>(input.expect_ident_or_string()?.as_ref().to_ascii_lowercase())
            })?;
            return Ok(PseudoClass::Lang(ranges));
        }
        let known =
            ["dir", "state", "active-view-transition-type", "current", "heading", "nth-col", "nth-last-col"];
        if !known.contains(&name.as_str()) && !is_prefixed(&name) {
            return Err(unknown(":", &name, &[OTHER_PSEUDO_CLASSES]));
        }
        let arguments = arguments(input).ok_or_else(|| unknown(":", &name, &[OTHER_PSEUDO_CLASSES]))?;
        Ok(PseudoClass::RunTime { written: format!("{name}({arguments})") })
    }

    fn parse_pseudo_element(&self, name: &str) -> Result<PseudoElement, Problem> {
        let name = name.to_ascii_lowercase();
        if PSEUDO_ELEMENTS.contains(&name.as_str()) || is_prefixed(&name) {
            return Ok(PseudoElement(name));
        }
        Err(unknown("::", &name, &[PSEUDO_ELEMENTS]))
    }

    fn parse_functional_pseudo_element(
        &self,
        name: &str,
        arguments: &mut CssParser<'i>,
    ) -> Result<PseudoElement, Problem> {
        let name = name.to_ascii_lowercase();
        if !FUNCTIONAL_PSEUDO_ELEMENTS.contains(&name.as_str()) && !is_prefixed(&name) {
            return Err(unknown("::", &name, &[FUNCTIONAL_PSEUDO_ELEMENTS]));
        }
        let arguments =
            self::arguments(arguments).ok_or_else(|| unknown("::", &name, &[FUNCTIONAL_PSEUDO_ELEMENTS]))?;
        Ok(PseudoElement(format!("{name}({arguments})")))
    }
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
    parse(text, ParseRelative::No)
}

/// Parses the selectors of a rule that is nested in another style rule: one that does not name
/// `&` is relative to it (css-nesting-1, 3.1).
pub fn parse_nested_selectors(text: &str) -> Result<SelectorList, SelectorError> {
    parse(text, ParseRelative::ForNesting)
}

/// Parses the selectors of a rule in `@scope`: one that starts with a combinator is relative to
/// the scope's root (css-cascade-6, 2.5).
pub fn parse_scoped_selectors(text: &str) -> Result<SelectorList, SelectorError> {
    parse(text, ParseRelative::ForScope)
}

fn parse(text: &str, relative: ParseRelative) -> Result<SelectorList, SelectorError> {
    let mut input = CssParser::new(text);
    input.parse_entirely(|input| SelectorList::parse(&SelectorParser, input, relative)).map_err(|error| {
        match error.kind {
            cssparser::ParseErrorKind::Custom(error) => error,
            cssparser::ParseErrorKind::Basic(cssparser::BasicParseErrorKind::EndOfInput) => {
                SelectorError("it stops in the middle".to_owned())
            }
            cssparser::ParseErrorKind::Basic(cssparser::BasicParseErrorKind::TooManyNestedBlocks) => {
                SelectorError("brackets are nested too deeply".to_owned())
            }
            cssparser::ParseErrorKind::Basic(_) => {
                SelectorError("a character stands where none of its kind may".to_owned())
            }
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
