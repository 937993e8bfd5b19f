//! Selectors against the tree: Servo's `selectors` matches, this file tells it what our
//! elements, names, pseudo-classes and pseudo-elements are.
//!
//! A page at rest does not settle everything. Where a selector depends on what happens at run
//! time (a pointer over an element, a box that is ticked), it can be asked both ways: whether it
//! *may* match, and whether it *must*.

use std::fmt;

use cssparser::{Parser as CssParser, ParserState, ToCss, serialize_identifier, serialize_string};
use html5ever::{LocalName, Namespace, local_name, ns};
use precomputed_hash::PrecomputedHash;
use selectors::OpaqueElement;
use selectors::attr::{AttrSelectorOperation, CaseSensitivity, NamespaceConstraint};
use selectors::bloom::BloomFilter;
use selectors::context::{
    MatchingContext, MatchingForInvalidation, MatchingMode, NeedsSelectorFlags, QuirksMode, SelectorCaches,
};
use selectors::matching::{ElementSelectorFlags, matches_selector};
use selectors::parser::{NonTSPseudoClass, ParseRelative, Parser, SelectorImpl, SelectorParseErrorKind};

use super::document::{ElementRef, NodeData};
use crate::source::nearest;

/// A complex selector, ready to be matched.
pub type Selector = selectors::parser::Selector<Names>;
/// A list of complex selectors.
pub type SelectorList = selectors::parser::SelectorList<Names>;

/// The kinds of names that selectors are made of.
#[derive(Clone, Debug)]
pub struct Names;

/// A name in a selector: of an element, an attribute, a class or an ID.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Name(pub LocalName);

impl From<&str> for Name {
    fn from(name: &str) -> Self {
        Name(LocalName::from(name))
    }
}

impl ToCss for Name {
    fn to_css<W: fmt::Write>(&self, dest: &mut W) -> fmt::Result {
        serialize_identifier(&self.0, dest)
    }
}

impl PrecomputedHash for Name {
    fn precomputed_hash(&self) -> u32 {
        self.0.precomputed_hash()
    }
}

/// The value that an attribute is compared with.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct AttrValue(String);

impl From<&str> for AttrValue {
    fn from(value: &str) -> Self {
        AttrValue(value.to_owned())
    }
}

impl AsRef<str> for AttrValue {
    fn as_ref(&self) -> &str {
        &self.0
    }
}

impl ToCss for AttrValue {
    fn to_css<W: fmt::Write>(&self, dest: &mut W) -> fmt::Result {
        serialize_string(&self.0, dest)
    }
}

/// A pseudo-class, as far as the page at rest tells.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum PseudoClass {
    /// `:link` and `:any-link`: a link, visited or not.
    Link,
    /// `:enabled`.
    Enabled,
    /// `:disabled`.
    Disabled,
    /// `:required`.
    Required,
    /// `:optional`.
    Optional,
    /// `:lang()`, with the language ranges.
    Lang(Vec<String>),
    /// A state that only a running page has: `:hover`, `:checked`, `:target`.
    RunTime {
        /// The pseudo-class as it was written, without the colon.
        written: String,
    },
}

impl ToCss for PseudoClass {
    fn to_css<W: fmt::Write>(&self, dest: &mut W) -> fmt::Result {
        match self {
            PseudoClass::Link => dest.write_str(":any-link"),
            PseudoClass::Enabled => dest.write_str(":enabled"),
            PseudoClass::Disabled => dest.write_str(":disabled"),
            PseudoClass::Required => dest.write_str(":required"),
            PseudoClass::Optional => dest.write_str(":optional"),
            PseudoClass::Lang(ranges) => write!(dest, ":lang({})", ranges.join(", ")),
            PseudoClass::RunTime { written } => write!(dest, ":{written}"),
        }
    }
}

impl NonTSPseudoClass for PseudoClass {
    fn is_active_or_hover(&self) -> bool {
        matches!(self, PseudoClass::RunTime { written } if written == "active" || written == "hover")
    }

    fn is_user_action_state(&self) -> bool {
        self.is_active_or_hover()
            || matches!(self, PseudoClass::RunTime { written } if written.starts_with("focus"))
    }
}

/// A pseudo-element, by its name without the colons.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PseudoElement(pub String);

impl ToCss for PseudoElement {
    fn to_css<W: fmt::Write>(&self, dest: &mut W) -> fmt::Result {
        write!(dest, "::{}", self.0)
    }
}

impl selectors::parser::PseudoElement for PseudoElement {
    fn accepts_state_pseudo_classes(&self) -> bool {
        true
    }

    fn valid_after_slotted(&self) -> bool {
        matches!(self.0.as_str(), "before" | "after" | "marker" | "placeholder")
    }

    fn is_before_or_after(&self) -> bool {
        matches!(self.0.as_str(), "before" | "after")
    }

    fn valid_after_before_or_after(&self) -> bool {
        self.0 == "marker"
    }
}

/// What is assumed of everything that only a running page settles.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Assume {
    /// That it turns out so that the selector matches.
    #[default]
    May,
    /// That it turns out so that the selector does not match.
    Must,
}

impl SelectorImpl for Names {
    type ExtraMatchingData<'a> = Assume;
    type AttrValue = AttrValue;
    type Identifier = Name;
    type LocalName = Name;
    type NamespaceUrl = Namespace;
    type NamespacePrefix = Name;
    type BorrowedNamespaceUrl = Namespace;
    type BorrowedLocalName = Name;
    type NonTSPseudoClass = PseudoClass;
    type PseudoElement = PseudoElement;
}

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
    "active",
    "active-view-transition",
    "autofill",
    "blank",
    "buffering",
    "checked",
    "current",
    "default",
    "defined",
    "focus",
    "focus-visible",
    "focus-within",
    "fullscreen",
    "future",
    "has-slotted",
    "hover",
    "in-range",
    "indeterminate",
    "interest-source",
    "interest-target",
    "invalid",
    "local-link",
    "modal",
    "muted",
    "open",
    "out-of-range",
    "past",
    "paused",
    "picture-in-picture",
    "placeholder-shown",
    "playing",
    "popover-open",
    "read-only",
    "read-write",
    "seeking",
    "stalled",
    "target",
    "target-current",
    "target-within",
    "user-invalid",
    "user-valid",
    "valid",
    "visited",
    "volume-locked",
    "xr-overlay",
];

/// Pseudo-elements of the standards, by name.
const PSEUDO_ELEMENTS: &[&str] = &[
    "after",
    "backdrop",
    "before",
    "checkmark",
    "column",
    "cue",
    "cue-region",
    "details-content",
    "file-selector-button",
    "first-letter",
    "first-line",
    "grammar-error",
    "marker",
    "picker-icon",
    "placeholder",
    "scroll-marker",
    "scroll-marker-group",
    "search-text",
    "selection",
    "spelling-error",
    "target-text",
    "view-transition",
];

/// Pseudo-elements that take an argument.
const FUNCTIONAL_PSEUDO_ELEMENTS: &[&str] = &[
    "cue",
    "cue-region",
    "highlight",
    "picker",
    "scroll-button",
    "view-transition-group",
    "view-transition-group-children",
    "view-transition-image-pair",
    "view-transition-new",
    "view-transition-old",
];

type Problem = cssparser::ParseError<SelectorError>;

/// Pseudo-classes that depend on the tree alone, and those that take an argument.
const OTHER_PSEUDO_CLASSES: &[&str] = &[
    "any-link",
    "dir",
    "disabled",
    "empty",
    "enabled",
    "first-child",
    "first-of-type",
    "has",
    "host",
    "is",
    "lang",
    "last-child",
    "last-of-type",
    "link",
    "not",
    "nth-child",
    "nth-last-child",
    "nth-last-of-type",
    "nth-of-type",
    "only-child",
    "only-of-type",
    "optional",
    "required",
    "root",
    "scope",
    "where",
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
        let start: ParserState = input.state();
        while input.next().is_ok() {}
        let arguments = input.slice_from(start.position());
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
        let start = arguments.state();
        while arguments.next().is_ok() {}
        let arguments = arguments.slice_from(start.position());
        Ok(PseudoElement(format!("{name}({arguments})")))
    }
}

/// Parses a list of complex selectors, as it stands before the brace of a style rule. One that
/// is not valid makes the whole list invalid (Selectors 4, 3.9).
pub fn parse_selectors(text: &str) -> Result<SelectorList, SelectorError> {
    let mut input = CssParser::new(text);
    input.parse_entirely(|input| SelectorList::parse(&SelectorParser, input, ParseRelative::No)).map_err(
        |error| match error.kind {
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
        },
    )
}

/// Matches selectors against the elements of one document, with the caches that make it quick.
pub struct Matcher {
    caches: [SelectorCaches; 2],
}

impl Default for Matcher {
    fn default() -> Self {
        Self::new()
    }
}

impl Matcher {
    /// A matcher for one document: its caches know elements by where they are in memory.
    pub fn new() -> Self {
        Matcher { caches: [SelectorCaches::default(), SelectorCaches::default()] }
    }

    /// Whether the element, or the one that a pseudo-element of the selector belongs to, matches.
    pub fn matches(&mut self, selector: &Selector, element: ElementRef<'_>, assume: Assume) -> bool {
        let mode = if selector.has_pseudo_element() {
            MatchingMode::ForStatelessPseudoElement
        } else {
            MatchingMode::Normal
        };
        let quirks = match element.document().quirks() {
            html5ever::tree_builder::QuirksMode::Quirks => QuirksMode::Quirks,
            html5ever::tree_builder::QuirksMode::LimitedQuirks => QuirksMode::LimitedQuirks,
            html5ever::tree_builder::QuirksMode::NoQuirks => QuirksMode::NoQuirks,
        };
        let mut context = MatchingContext::new(
            mode,
            None,
            &mut self.caches[assume as usize],
            quirks,
            NeedsSelectorFlags::No,
            MatchingForInvalidation::No,
        );
        context.extra_data = assume;
        matches_selector(selector, 0, None, element, &mut context)
    }

    /// Whether any selector of a list matches.
    pub fn matches_any(&mut self, list: &SelectorList, element: ElementRef<'_>, assume: Assume) -> bool {
        list.slice().iter().any(|selector| self.matches(selector, element, assume))
    }
}

impl<'a> ElementRef<'a> {
    fn sibling(self, step: impl Fn(&super::Node) -> Option<super::NodeId>) -> Option<Self> {
        let document = self.document;
        std::iter::successors(step(document.node(self.id)), |id| step(document.node(*id)))
            .find_map(|id| document.element(id))
    }

    fn is_a_link(self) -> bool {
        (self.is_html(&local_name!("a")) || self.is_html(&local_name!("area")))
            && self.attr(&local_name!("href")).is_some()
    }

    fn is_form_control(self) -> bool {
        self.name.ns == ns!(html)
            && matches!(
                self.name.local,
                local_name!("button")
                    | local_name!("input")
                    | local_name!("select")
                    | local_name!("textarea")
                    | local_name!("optgroup")
                    | local_name!("option")
                    | local_name!("fieldset")
            )
    }

    /// "Actually disabled" (HTML 4.15): by itself, by its group of options, or by a fieldset
    /// whose first legend it is not in.
    fn is_disabled(self) -> bool {
        let disabled = |element: ElementRef<'_>| element.attr(&local_name!("disabled")).is_some();
        if !self.is_form_control() {
            return false;
        }
        if disabled(self) {
            return true;
        }
        if self.is_html(&local_name!("option")) {
            return self
                .parent()
                .is_some_and(|parent| parent.is_html(&local_name!("optgroup")) && disabled(parent));
        }
        if self.is_html(&local_name!("optgroup")) {
            return false;
        }
        let mut inside = self;
        while let Some(parent) = inside.parent() {
            if parent.is_html(&local_name!("fieldset")) && disabled(parent) {
                let first_legend = parent
                    .document
                    .children(parent.id)
                    .filter_map(|id| parent.document.element(id))
                    .find(|child| child.is_html(&local_name!("legend")));
                if first_legend.is_none_or(|legend| legend != inside) {
                    return true;
                }
            }
            inside = parent;
        }
        false
    }

    fn is_requirable(self) -> bool {
        self.is_html(&local_name!("input"))
            || self.is_html(&local_name!("select"))
            || self.is_html(&local_name!("textarea"))
    }

    /// The language of an element: its own `lang`, or that of the nearest ancestor that has one.
    fn language(self) -> &'a str {
        std::iter::successors(Some(self), |element| element.parent())
            .find_map(|element| element.data().attr(&local_name!("lang")))
            .unwrap_or_default()
    }
}

/// Extended filtering of a language by a range (RFC 4647, 3.3.2).
fn language_matches(range: &str, language: &str) -> bool {
    let mut tags = language.split('-');
    let mut ranges = range.split('-');
    let first = ranges.next().unwrap_or_default();
    match tags.next() {
        Some(tag) if !tag.is_empty() && (first == "*" || first.eq_ignore_ascii_case(tag)) => {}
        _ => return false,
    }
    ranges.filter(|wanted| *wanted != "*").all(|wanted| {
        tags.by_ref()
            .take_while(|tag| tag.len() > 1 || tag.eq_ignore_ascii_case(wanted))
            .any(|tag| tag.eq_ignore_ascii_case(wanted))
    })
}

impl selectors::Element for ElementRef<'_> {
    type Impl = Names;

    fn opaque(&self) -> OpaqueElement {
        OpaqueElement::new(self.document.node(self.id))
    }

    fn parent_element(&self) -> Option<Self> {
        self.parent()
    }

    fn parent_node_is_shadow_root(&self) -> bool {
        false
    }

    fn containing_shadow_host(&self) -> Option<Self> {
        None
    }

    fn is_pseudo_element(&self) -> bool {
        false
    }

    fn prev_sibling_element(&self) -> Option<Self> {
        self.sibling(|node| node.previous)
    }

    fn next_sibling_element(&self) -> Option<Self> {
        self.sibling(|node| node.next)
    }

    fn first_element_child(&self) -> Option<Self> {
        self.document.children(self.id).find_map(|id| self.document.element(id))
    }

    fn is_html_element_in_html_document(&self) -> bool {
        self.name.ns == ns!(html)
    }

    fn has_local_name(&self, local_name: &Name) -> bool {
        self.name.local == local_name.0
    }

    fn has_namespace(&self, ns: &Namespace) -> bool {
        self.name.ns == *ns
    }

    fn is_same_type(&self, other: &Self) -> bool {
        self.name.local == other.name.local && self.name.ns == other.name.ns
    }

    fn attr_matches(
        &self,
        ns: &NamespaceConstraint<&Namespace>,
        local_name: &Name,
        operation: &AttrSelectorOperation<&AttrValue>,
    ) -> bool {
        self.attrs.iter().any(|attribute| {
            attribute.name.local == local_name.0
                && match ns {
                    NamespaceConstraint::Any => true,
                    NamespaceConstraint::Specific(ns) => attribute.name.ns == **ns,
                }
                && operation.eval_str(&attribute.value)
        })
    }

    fn match_non_ts_pseudo_class(
        &self,
        pseudo: &PseudoClass,
        context: &mut MatchingContext<'_, Names>,
    ) -> bool {
        match pseudo {
            PseudoClass::Link => self.is_a_link(),
            PseudoClass::Enabled => self.is_form_control() && !self.is_disabled(),
            PseudoClass::Disabled => self.is_disabled(),
            PseudoClass::Required => self.is_requirable() && self.attr(&local_name!("required")).is_some(),
            PseudoClass::Optional => self.is_requirable() && self.attr(&local_name!("required")).is_none(),
            PseudoClass::Lang(ranges) => {
                let language = self.language();
                ranges.iter().any(|range| language_matches(range, language))
            }
            PseudoClass::RunTime { .. } => (context.extra_data == Assume::May) != context.in_negation(),
        }
    }

    fn match_pseudo_element(&self, _: &PseudoElement, _: &mut MatchingContext<'_, Names>) -> bool {
        false
    }

    fn apply_selector_flags(&self, _: ElementSelectorFlags) {}

    fn is_link(&self) -> bool {
        self.is_a_link()
    }

    fn is_html_slot_element(&self) -> bool {
        self.is_html(&local_name!("slot"))
    }

    fn has_id(&self, id: &Name, case: CaseSensitivity) -> bool {
        self.id().is_some_and(|own| case.eq(own.as_bytes(), id.0.as_bytes()))
    }

    fn has_class(&self, name: &Name, case: CaseSensitivity) -> bool {
        self.classes().any(|class| case.eq(class.as_bytes(), name.0.as_bytes()))
    }

    fn has_custom_state(&self, _: &Name) -> bool {
        false
    }

    fn imported_part(&self, _: &Name) -> Option<Name> {
        None
    }

    fn is_part(&self, _: &Name) -> bool {
        false
    }

    /// No child but comments and text of no length (Selectors 4, 13.2; as browsers have it).
    fn is_empty(&self) -> bool {
        self.document.children(self.id).all(|id| match &self.document.node(id).data {
            NodeData::Element(_) => false,
            NodeData::Text(text) => text.is_empty(),
            _ => true,
        })
    }

    fn is_root(&self) -> bool {
        self.parent().is_none() && self.document.root() == Some(*self)
    }

    fn add_element_unique_hashes(&self, _: &mut BloomFilter) -> bool {
        false
    }
}

#[cfg(test)]
mod tests {
    use super::super::parse;
    use super::*;

    /// The IDs of the elements that a selector matches, under both assumptions.
    fn matched(html: &str, selector: &str) -> (String, String) {
        let (_, document) = parse(html.as_bytes());
        let list = parse_selectors(selector).unwrap();
        let mut matcher = Matcher::new();
        let mut ids = |assume| {
            let found = document.elements().filter(|e| matcher.matches_any(&list, *e, assume));
            found.filter_map(|e| e.data().id()).collect::<Vec<_>>().join(" ")
        };
        (ids(Assume::Must), ids(Assume::May))
    }

    #[test]
    fn selectors_match_as_in_a_browser_and_states_are_left_open() {
        let html = "<!doctype html><html lang=en-GB><body><main id=m class='A b'>\
            <p id=p1 class=x>one<p id=p2 class='x y' lang=fr>two</p><a id=a href=/>go</a>\
            <fieldset id=f disabled><legend id=l><input id=i1></legend><input id=i2 required></fieldset>\
            <template><p id=t class=x></template><svg id=s viewBox='0 0 1 1'><linearGradient id=g /></svg></main>";
        let table = [
            (".x", "p1 p2", "p1 p2"),
            (".X", "", ""),
            ("main > p:first-child", "p1", "p1"),
            ("p:has(+ .y)", "p1", "p1"),
            (":is(p, a):not(.y)", "p1 a", "p1 a"),
            ("a:hover", "", "a"),
            ("a:not(:hover)", "", "a"),
            ("a:not(:not(:hover))", "", "a"),
            ("a::before", "a", "a"),
            ("a:hover::before", "", "a"),
            ("a:link", "a", "a"),
            ("input:disabled", "i2", "i2"),
            ("input:required", "i2", "i2"),
            ("p:lang(en)", "p1", "p1"),
            ("[viewbox]", "", ""),
            ("[viewBox]", "s", "s"),
            ("linearGradient", "g", "g"),
            ("p:nth-child(2 of .x)", "p2", "p2"),
            ("main:has(template .x)", "", ""),
        ];
        for (selector, must, may) in table {
            let (found_must, found_may) = matched(html, selector);
            assert_eq!((found_must.as_str(), found_may.as_str()), (must, may), "{selector}");
        }
    }

    #[test]
    fn quirks_mode_folds_the_case_of_classes_and_ids() {
        assert_eq!(matched("<p id=p class=Storm>", ".storm").0, "p");
        assert_eq!(matched("<!doctype html><p id=p class=Storm>", ".storm").0, "");
    }

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
