//! What selectors are made of: our elements' names, pseudo-classes and pseudo-elements, in the
//! form in which Servo's `selectors` works with them.

use std::fmt;

use cssparser::{ToCss, serialize_identifier, serialize_string};
use html5ever::{LocalName, Namespace};
use precomputed_hash::PrecomputedHash;
use selectors::OpaqueElement;
use selectors::parser::{NonTSPseudoClass, SelectorImpl};

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
    /// `:dir()`, with the word that it asks for.
    Dir(String),
    /// `:host-context()`, which matches nothing outside of a shadow tree; with its argument.
    HostContext(String),
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
            PseudoClass::Dir(word) => write!(dest, ":dir({word})"),
            PseudoClass::HostContext(argument) => write!(dest, ":host-context({argument})"),
            PseudoClass::RunTime { written } => write!(dest, ":{written}"),
        }
    }
}

impl NonTSPseudoClass for PseudoClass {
    fn is_active_or_hover(&self) -> bool {
        matches!(self, PseudoClass::RunTime { written } if written == "active" || written == "hover")
    }

    /// What may stand behind a pseudo-element: which one takes which is looked at once all is read.
    fn is_user_action_state(&self) -> bool {
        matches!(self, PseudoClass::RunTime { .. } | PseudoClass::Enabled | PseudoClass::Disabled)
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

    fn parses_as_element_backed(&self) -> bool {
        matches!(self.0.as_str(), "column" | "details-content")
    }

    fn is_in_pseudo_element_tree(&self) -> bool {
        self.0.starts_with("view-transition-")
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

/// What a selector is matched under.
#[derive(Clone, Copy, Debug, Default)]
pub struct Circumstances<'a> {
    /// What is assumed of what only a running page settles.
    pub assume: Assume,
    /// States that are given, by the names of their pseudo-classes, and the element that is in
    /// them.
    pub given: Option<(&'a [String], OpaqueElement)>,
    /// Whether what must match is what does before anybody touches the page.
    pub is_untouched: bool,
}

impl SelectorImpl for Names {
    type ExtraMatchingData<'a> = Circumstances<'a>;
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
