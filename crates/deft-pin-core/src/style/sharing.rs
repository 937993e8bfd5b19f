//! What selectors ask for, as far as it decides which elements may share an answer.

use cssparser::ToCss as _;
use html5ever::LocalName;
use rustc_hash::{FxHashMap, FxHashSet};
use selectors::attr::{AttrSelectorOperator, CaseSensitivity, ParsedAttrSelectorOperation};
use selectors::parser::{Combinator, Component, RelativeSelector};
use selectors::visitor::{SelectorListKind, SelectorVisitor};

use super::declaration::sets_flow;
use super::rule::CascadeRule;
use crate::markup::{AttrValue, Name, Names, PseudoClass, Selector, SelectorIndex};

/// What has to be known of a sheet's selectors for elements that are alike to share one answer.
#[derive(Debug, Default)]
pub(super) struct SharingFacts {
    /// The classes and IDs that selectors ask for.
    pub(super) classes: FxHashSet<LocalName>,
    pub(super) ids: FxHashSet<LocalName>,
    /// The attributes that they ask for, with what they ask of the value of each.
    pub(super) attributes: FxHashMap<LocalName, Vec<ValueTest>>,
    /// The selectors that ask for more than names, attributes and ancestors: the place of the rule
    /// and that of the selector in it.
    pub(super) particular: SelectorIndex<(u32, u32)>,
    /// Whether some of these decide how text runs, which elements below them ask.
    pub(super) turns_text: bool,
}

/// What a selector asks of the value of an attribute.
#[derive(Clone, PartialEq)]
pub(super) struct ValueTest {
    operator: AttrSelectorOperator,
    value: AttrValue,
}

impl std::fmt::Debug for ValueTest {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.operator.to_css(f)?;
        write!(f, "{:?}", self.value.as_ref())
    }
}

impl ValueTest {
    /// What it says of a value: whether it matches letter by letter, and whether in any case. Which
    /// of both counts depends on the selector and the attribute.
    pub(super) fn holds(&self, value: &str) -> u32 {
        let by = |case| u32::from(self.operator.eval_str(value, self.value.as_ref(), case));
        by(CaseSensitivity::CaseSensitive) + 2 * by(CaseSensitivity::AsciiCaseInsensitive)
    }
}

impl SharingFacts {
    pub(super) fn of(rules: &[CascadeRule]) -> Self {
        let mut facts = SharingFacts::default();
        for (number, rule) in rules.iter().enumerate() {
            for (place, selector) in rule.selectors.iter().enumerate() {
                let mut asked = Asked { facts: &mut facts, is_particular: !rule.scopes.is_empty() };
                selector.selector.visit(&mut asked);
                if asked.is_particular {
                    facts.particular.add(&selector.selector, (number as u32, place as u32));
                    facts.turns_text |= rule.declarations.iter().any(|own| sets_flow(&own.property));
                }
            }
        }
        facts
    }
}

/// Whether a selector asks for something that only a running page settles.
pub(super) fn has_states(selector: &Selector) -> bool {
    !open_states(selector).is_empty()
}

/// The pseudo-classes of a selector that only a running page settles, each once, with their colons.
pub fn open_states(selector: &Selector) -> Vec<String> {
    struct States(Vec<String>);
    impl SelectorVisitor for States {
        type Impl = Names;

        fn visit_simple_selector(&mut self, component: &Component<Names>) -> bool {
            if let Component::NonTSPseudoClass(PseudoClass::RunTime { written }) = component {
                let written = format!(":{written}");
                if !self.0.contains(&written) {
                    self.0.push(written);
                }
            }
            true
        }

        fn visit_relative_selector_list(&mut self, list: &[RelativeSelector<Names>]) -> bool {
            list.iter().all(|relative| relative.selector.visit(self))
        }
    }
    let mut states = States(Vec::new());
    selector.visit(&mut states);
    states.0
}

/// Goes through a selector for what it asks for.
struct Asked<'f> {
    facts: &'f mut SharingFacts,
    is_particular: bool,
}

impl Asked<'_> {
    fn attribute(&mut self, names: [&Name; 2], test: Option<(AttrSelectorOperator, &AttrValue)>) {
        for Name(name) in names {
            let tests = self.facts.attributes.entry(name.clone()).or_default();
            let test = test.map(|(operator, value)| ValueTest { operator, value: value.clone() });
            tests.extend(test.filter(|test| !tests.contains(test)));
        }
    }
}

impl SelectorVisitor for Asked<'_> {
    type Impl = Names;

    fn visit_simple_selector(&mut self, component: &Component<Names>) -> bool {
        match component {
            Component::ID(Name(id)) => {
                self.facts.ids.extend([id.clone(), id.to_ascii_lowercase()]);
            }
            Component::Class(Name(class)) => {
                self.facts.classes.extend([class.clone(), class.to_ascii_lowercase()]);
            }
            Component::AttributeInNoNamespaceExists { local_name, local_name_lower } => {
                self.attribute([local_name, local_name_lower], None);
            }
            Component::AttributeInNoNamespace { local_name, operator, value, .. } => {
                self.attribute([local_name, local_name], Some((*operator, value)));
            }
            Component::AttributeOther(other) => {
                let test = match &other.operation {
                    ParsedAttrSelectorOperation::Exists => None,
                    ParsedAttrSelectorOperation::WithValue { operator, value, .. } => {
                        Some((*operator, value))
                    }
                };
                self.attribute([&other.local_name, &other.local_name_lower], test);
            }
            Component::NonTSPseudoClass(PseudoClass::Link | PseudoClass::RunTime { .. }) => {}
            Component::LocalName(_)
            | Component::ExplicitUniversalType
            | Component::ExplicitAnyNamespace
            | Component::ExplicitNoNamespace
            | Component::DefaultNamespace(_)
            | Component::Namespace(..)
            | Component::Negation(_)
            | Component::Is(_)
            | Component::Where(_)
            | Component::Root
            | Component::PseudoElement(_)
            | Component::Combinator(_) => {}
            _ => self.is_particular = true,
        }
        true
    }

    fn visit_relative_selector_list(&mut self, _: &[RelativeSelector<Names>]) -> bool {
        self.is_particular = true;
        true
    }

    fn visit_selector_list(&mut self, kind: SelectorListKind, list: &[Selector]) -> bool {
        self.is_particular |= kind.in_nth_of() || kind.in_has();
        list.iter().all(|selector| selector.visit(self))
    }

    fn visit_complex_selector(&mut self, combinator: Option<Combinator>) -> bool {
        self.is_particular |= !matches!(
            combinator,
            None | Some(Combinator::Child | Combinator::Descendant | Combinator::PseudoElement)
        );
        true
    }
}
