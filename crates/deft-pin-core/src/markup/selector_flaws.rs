//! What is wrong with a selector that is none.

use selectors::parser::SelectorParseErrorKind;

/// Why a selector is not one.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{message}")]
pub struct SelectorError {
    message: String,
    /// Whether it is one in another engine than Chromium, and was written for that.
    pub is_other_engines: bool,
}

impl SelectorError {
    pub(super) fn new(message: impl Into<String>) -> Self {
        SelectorError { message: message.into(), is_other_engines: false }
    }

    pub(super) fn other_engines(what: &str) -> Self {
        SelectorError { message: format!("only other browsers know `{what}`"), is_other_engines: true }
    }
}

impl From<SelectorParseErrorKind> for SelectorError {
    fn from(kind: SelectorParseErrorKind) -> Self {
        use SelectorParseErrorKind as Kind;
        SelectorError::new(match kind {
            Kind::EmptySelector => "a selector is missing",
            Kind::DanglingCombinator => "it ends in a combinator with nothing after it",
            Kind::UnsupportedPseudoClassOrElement => "there is no such pseudo-class or pseudo-element",
            Kind::PseudoElementExpectedColon | Kind::PseudoElementExpectedIdent | Kind::NoIdentForPseudo => {
                "a colon has no name of a pseudo-class after it"
            }
            Kind::ClassNeedsIdent => "a dot has no name of a class after it",
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
            Kind::UnexpectedIdent | Kind::ExplicitNamespaceUnexpectedToken => "a name stands where none may",
        })
    }
}

/// A class or an ID that begins with a digit, which a name cannot as it is (css-syntax-3, "check if three
/// code points would start an ident sequence").
pub(super) fn begins_with_digit(text: &str) -> Option<SelectorError> {
    let is_mark = |at: &usize| {
        matches!(text.as_bytes()[*at], b'.' | b'#')
            && text.as_bytes().get(at + 1).is_some_and(u8::is_ascii_digit)
    };
    let at = (0..text.len()).find(is_mark)?;
    let name: String =
        text[at + 1..].chars().take_while(|c| c.is_alphanumeric() || matches!(c, '-' | '_')).collect();
    let (mark, digit) = (&text[at..=at], &name[..1]);
    Some(SelectorError::new(format!(
        "no name begins with a digit as it is: `{mark}{name}` is written `{mark}\\3{digit} {}`",
        &name[1..]
    )))
}

/// `&` with the rest of a name behind it, which preprocessors join (css-nesting-1, "nesting selector").
pub(super) fn joined_to_parent(text: &str) -> Option<SelectorError> {
    let (at, _) = text.match_indices('&').find(|(at, _)| {
        text[at + 1..].starts_with(|c: char| c.is_alphanumeric() || matches!(c, '-' | '_'))
    })?;
    let name: String =
        text[at + 1..].chars().take_while(|c| c.is_alphanumeric() || matches!(c, '-' | '_')).collect();
    Some(SelectorError::new(format!(
        "`&{name}` joins no names in CSS, as it does in a preprocessor: write the whole name"
    )))
}
