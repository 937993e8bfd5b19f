//! Selectors against the tree: Servo's `selectors` matches, this file tells it what our elements
//! are.
//!
//! A page at rest does not settle everything. Where a selector depends on what happens at run
//! time (a pointer over an element, a box that is ticked), it can be asked both ways: whether it
//! *may* match, and whether it *must*.
//!
//! It is long since the trait of `selectors` has a method for each thing that a selector asks.

use html5ever::{LocalName, Namespace, local_name, ns};
use selectors::OpaqueElement;
use selectors::attr::{AttrSelectorOperation, CaseSensitivity, NamespaceConstraint};
use selectors::bloom::BloomFilter;
use selectors::context::{
    MatchingContext, MatchingForInvalidation, MatchingMode, NeedsSelectorFlags, QuirksMode, SelectorCaches,
};
use selectors::matching::{ElementSelectorFlags, matches_selector};

use super::ancestor_filter::{AncestorFilter, AskedAncestors};
use super::at_rest::at_rest;
use super::document::{ElementRef, NodeData};
use super::reading::parse_selectors;
use super::selector::{
    Assume, AttrValue, Circumstances, Name, Names, PseudoClass, PseudoElement, Selector, SelectorList,
};
use super::shadow::asked_parts;

/// Matches selectors against the elements of one document, with the caches that make it quick.
pub struct Matcher {
    caches: [SelectorCaches; 2],
}

/// States that are given rather than left open: `hover`, `focus`.
#[derive(Clone, Copy, Debug, Default)]
pub struct State<'a> {
    /// The names of their pseudo-classes.
    pub names: &'a [String],
    /// The element that is in them.
    pub on: Option<ElementRef<'a>>,
    /// Whether the page is asked as it stands before anybody touches it: there what must match is what does
    /// then.
    pub is_untouched: bool,
    /// The element whose shadow tree has the sheet that asks.
    pub shadow: Option<ElementRef<'a>>,
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
        self.matches_in(selector, element, assume, State::default(), None)
    }

    /// The same, with states given and with an element that `:scope` stands for. The caches of a
    /// matcher hold for one state alone.
    pub fn matches_in(
        &mut self,
        selector: &Selector,
        element: ElementRef<'_>,
        assume: Assume,
        state: State<'_>,
        scope: Option<ElementRef<'_>>,
    ) -> bool {
        self.matches_below(selector, element, assume, state, scope, None)
    }

    /// The same, with the ancestors of the element in a filter, which most selectors fail that do not
    /// match. In quirks mode names match in any case, and the filter says nothing.
    pub fn matches_below(
        &mut self,
        selector: &Selector,
        element: ElementRef<'_>,
        assume: Assume,
        state: State<'_>,
        scope: Option<ElementRef<'_>>,
        ancestors: Option<(&AskedAncestors, &AncestorFilter)>,
    ) -> bool {
        // A part is asked of the element whose shadow tree has it, as a pseudo-element is of its own.
        let parts = asked_parts(selector);
        if parts.as_ref().is_some_and(|parts| !parts.may_be_in(element, assume)) {
            return false;
        }
        let mode = if parts.is_none() && selector.has_pseudo_element() {
            MatchingMode::ForStatelessPseudoElement
        } else {
            MatchingMode::Normal
        };
        let quirks = match element.document().quirks() {
            html5ever::tree_builder::QuirksMode::Quirks => QuirksMode::Quirks,
            html5ever::tree_builder::QuirksMode::LimitedQuirks => QuirksMode::LimitedQuirks,
            html5ever::tree_builder::QuirksMode::NoQuirks => QuirksMode::NoQuirks,
        };
        let ancestors = ancestors.filter(|_| quirks != QuirksMode::Quirks);
        let mut context = MatchingContext::new(
            mode,
            ancestors.map(|(_, filter)| &*filter.filter),
            &mut self.caches[assume as usize],
            quirks,
            NeedsSelectorFlags::No,
            MatchingForInvalidation::No,
        );
        let given = state.on.map(|on| (state.names, selectors::Element::opaque(&on)));
        context.extra_data = Circumstances { assume, given, is_untouched: state.is_untouched };
        context.current_host = state.shadow.map(|host| selectors::Element::opaque(&host));
        context.featureless = state.shadow == Some(element);
        context.scope_element = scope.map(|scope| selectors::Element::opaque(&scope));
        let offset = parts.map_or(0, |parts| parts.host_from);
        matches_selector(selector, offset, ancestors.map(|(asked, _)| &asked.0), element, &mut context)
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

    /// Whether the element is a hyperlink (HTML, "links created by a and area elements").
    pub fn is_a_link(self) -> bool {
        (self.is_html(&local_name!("a")) || self.is_html(&local_name!("area")))
            && self.attr(&local_name!("href")).is_some()
    }

    /// Whether the element, or one that it is shown in, matches a selector of one element.
    fn is_below(self, selector: &str) -> bool {
        let Ok(list) = parse_selectors(selector) else { return false };
        let mut around = std::iter::successors(Some(self), |at| at.flat_parent());
        around.any(|at| Matcher::new().matches_any(&list, at, Assume::Must))
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

    /// Whether the element is another, or is in a state because that is (HTML, "pseudo-classes": what holds
    /// a hovered, pressed or focused element is so itself).
    fn is_or_holds(self, state: &str, on: OpaqueElement) -> bool {
        let spreads = matches!(state, "hover" | "active" | "focus-within" | "target-within");
        let is_it = |element: &ElementRef<'_>| selectors::Element::opaque(element) == on;
        if !spreads {
            return is_it(&self);
        }
        let document = self.document;
        is_it(&self) || document.descendants(self.id).filter_map(|id| document.element(id)).any(|e| is_it(&e))
    }

    /// "Actually disabled" (HTML): by itself, by its group of options, or by a fieldset
    /// whose first legend it is not in.
    pub(super) fn is_disabled(self) -> bool {
        let disabled = |element: ElementRef<'_>| element.attr(&local_name!("disabled")).is_some();
        if !self.is_form_control() {
            return false;
        }
        if disabled(self) {
            return true;
        }
        if self.is_html(&local_name!("option")) {
            // Chromium counts a list that is disabled, too.
            let mut around = std::iter::successors(self.parent(), |parent| parent.parent());
            let is_group = |parent: ElementRef<'_>| {
                parent.is_html(&local_name!("optgroup")) || parent.is_html(&local_name!("select"))
            };
            return around.by_ref().take(2).any(|parent| is_group(parent) && disabled(parent));
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

    /// Whether `required` may mean something there (HTML, "the required attribute").
    fn is_requirable(self) -> bool {
        const NEVER: &[&str] = &["hidden", "range", "color", "submit", "image", "reset", "button"];
        let kind = self.attr(&local_name!("type")).unwrap_or_default();
        let is_button =
            self.is_html(&local_name!("input")) && NEVER.iter().any(|never| kind.eq_ignore_ascii_case(never));
        self.is_optional_kind() && !is_button
    }

    fn is_optional_kind(self) -> bool {
        ["input", "select", "textarea"].iter().any(|name| self.is_html(&LocalName::from(*name)))
    }

    /// The language of an element: its own `lang`, or that of the nearest ancestor that has one, or else
    /// what a `<meta http-equiv=content-language>` says (HTML, "the lang and xml:lang attributes").
    fn language(self) -> &'a str {
        std::iter::successors(Some(self), |element| element.parent())
            .find_map(|element| element.data().attr(&local_name!("lang")))
            .or_else(|| self.document.pragma("content-language"))
            .unwrap_or_default()
    }
}

/// Whether two names are the same. Interned ones are the same or not by where they are.
fn same_name(a: &LocalName, b: &LocalName, case: CaseSensitivity) -> bool {
    match case {
        CaseSensitivity::CaseSensitive => a == b,
        CaseSensitivity::AsciiCaseInsensitive => a.eq_ignore_ascii_case(b),
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
        self.parent().is_none() && self.shadow_host().is_some()
    }

    fn containing_shadow_host(&self) -> Option<Self> {
        self.shadow_host()
    }

    fn assigned_slot(&self) -> Option<Self> {
        self.slot()
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
            PseudoClass::Optional => {
                self.is_optional_kind()
                    && !(self.is_requirable() && self.attr(&local_name!("required")).is_some())
            }
            PseudoClass::Lang(ranges) => {
                let language = self.language();
                ranges.iter().any(|range| language_matches(range, language))
            }
            PseudoClass::Dir(word) => word == self.directionality().word(),
            PseudoClass::HostContext(argument) => {
                context.shadow_host() == Some(selectors::Element::opaque(self)) && self.is_below(argument)
            }
            PseudoClass::RunTime { written } => {
                let Circumstances { assume, given, is_untouched } = context.extra_data;
                let is_given = given.is_some_and(|(names, on)| {
                    names.iter().any(|name| name == written) && self.is_or_holds(written, on)
                });
                let untouched = (is_untouched && assume == Assume::Must).then(|| at_rest(*self, written));
                let assumed = (assume == Assume::May) != context.in_negation();
                is_given || untouched.flatten().unwrap_or(assumed)
            }
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
        self.data().id.as_ref().is_some_and(|own| same_name(own, &id.0, case))
    }

    fn has_class(&self, name: &Name, case: CaseSensitivity) -> bool {
        self.data().classes.iter().any(|class| same_name(class, &name.0, case))
    }

    fn has_custom_state(&self, _: &Name) -> bool {
        false
    }

    fn imported_part(&self, name: &Name) -> Option<Name> {
        self.exported_part(&name.0).map(Name::from)
    }

    fn is_part(&self, name: &Name) -> bool {
        self.has_part(&name.0)
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
    use super::super::{parse, parse_selectors};
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
}
