//! Which rules of a page's sheets match an element, and by which of their selectors.

use std::cmp::Reverse;

use super::likeness::{Likeness, Likenesses};
use super::media::Viewport;
use super::on_page::PageSheet;
use super::rule::{CascadeRule, CascadeSelector, ScopeRange};
use super::rules::StyleRules;
use super::truth::Truth;
use crate::markup::{AncestorFilter, Assume, Document, ElementRef, Matcher, State};

/// A rule that matches an element or one of its pseudo-elements, or may.
pub(super) struct MatchedRule<'p> {
    /// The sheet's place in the page's list.
    pub(super) sheet: usize,
    /// The sheet's place in the order of appearance.
    pub(super) place: u32,
    /// The rule's place in the sheet.
    pub(super) number: u32,
    pub(super) rule: &'p CascadeRule,
    /// Of the selectors that match the most specific.
    pub(super) selector: &'p CascadeSelector,
    /// How many steps its scope's root is away.
    pub(super) proximity: u32,
    /// Whether it certainly matches, and its conditions certainly hold.
    pub(super) truth: Truth,
}

/// Matches the rules of a page's sheets with its elements.
pub(super) struct RuleMatcher<'p> {
    document: &'p Document,
    sheets: &'p [PageSheet],
    viewport: Viewport,
    /// The states that the element that is asked for is in.
    states: Vec<String>,
    /// Whether the page is asked as it stands before anybody touches it.
    pub(super) is_untouched: bool,
    /// What has been matched where states that are not known may hold, and where they do not.
    may: Matcher,
    must: Matcher,
    /// The ancestors of the element that was last asked for.
    ancestors: AncestorFilter,
    /// Which elements are alike; none where nobody asked yet.
    likenesses: Option<Likenesses<'p>>,
    /// What particular selectors say of the element that is asked for: a list that is used again.
    particular: Vec<u32>,
}

impl<'p> RuleMatcher<'p> {
    pub(super) fn new(
        document: &'p Document,
        sheets: &'p [PageSheet],
        viewport: Viewport,
        states: Vec<String>,
    ) -> Self {
        RuleMatcher {
            document,
            sheets,
            viewport,
            states,
            is_untouched: false,
            may: Matcher::new(),
            must: Matcher::new(),
            ancestors: AncestorFilter::default(),
            likenesses: None,
            particular: Vec::new(),
        }
    }

    /// The rules that match an element or one of its pseudo-elements, or may, in the order in which
    /// they appear. `order` is that of the sheets.
    pub(super) fn matched_rules(
        &mut self,
        order: &[usize],
        element: ElementRef<'p>,
        pseudo: Option<&str>,
    ) -> Vec<MatchedRule<'p>> {
        let mut found = Vec::new();
        for (place, &number) in order.iter().enumerate() {
            self.of_sheet(number, place as u32, element, pseudo, &mut found);
        }
        found
    }

    fn of_sheet(
        &mut self,
        number: usize,
        place: u32,
        element: ElementRef<'p>,
        pseudo: Option<&str>,
        found: &mut Vec<MatchedRule<'p>>,
    ) {
        let sheet = &self.sheets[number];
        let whole = sheet.conditions.iter().map(|c| c.holds(&self.viewport)).fold(Truth::Yes, Truth::and);
        if whole == Truth::No {
            return;
        }
        let places = self.candidates(&sheet.rules, element);
        for of_rule in places.chunk_by(|a, b| a.0 == b.0) {
            let rule_number = of_rule[0].0;
            let rule = &sheet.rules.rules[rule_number as usize];
            let own = rule.conditions.iter().map(|c| c.holds(&self.viewport)).fold(whole, Truth::and);
            if own == Truth::No {
                continue;
            }
            // Of the selectors that match, the most specific counts (Selectors 4, "calculating a
            // selector's specificity"); of those that only may match, the most specific one counts
            // on its own.
            let mut best: [Option<(&CascadeSelector, u32)>; 2] = [None, None];
            let selectors = of_rule.iter().map(|(_, selector)| &rule.selectors[*selector as usize]);
            for selector in selectors.filter(|selector| selector.pseudo.as_deref() == pseudo) {
                let Some((truth, proximity)) = self.matches(selector, &rule.scopes, sheet, element) else {
                    continue;
                };
                let slot = &mut best[usize::from(truth == Truth::Yes)];
                let key = |(selector, proximity): (&CascadeSelector, u32)| {
                    (selector.specificity(), Reverse(proximity))
                };
                if slot.is_none_or(|known| key((selector, proximity)) > key(known)) {
                    *slot = Some((selector, proximity));
                }
            }
            let [may, sure] = best;
            let may = may.filter(|(selector, _)| {
                sure.is_none_or(|(known, _)| selector.specificity() > known.specificity())
            });
            for (best, truth) in [(sure, Truth::Yes), (may, Truth::AtRunTime)] {
                found.extend(best.map(|(selector, proximity)| MatchedRule {
                    sheet: number,
                    place,
                    number: rule_number,
                    rule,
                    selector,
                    proximity,
                    truth: truth.and(own),
                }));
            }
        }
    }

    /// What an element has in common with those that all rules treat alike: for them everything that
    /// can be asked here has the same answer. None where elements cannot share answers: states are
    /// given, or a rule turns the text of some elements by their position.
    pub(super) fn likeness(&mut self, element: ElementRef<'p>) -> Option<Likeness> {
        if !self.states.is_empty() || self.document.has_shadows() {
            return None;
        }
        let mut likenesses = match self.likenesses.take() {
            Some(likenesses) => likenesses,
            None => Likenesses::new(self.sheets, self.document.quirks())?,
        };
        let mut particular = std::mem::take(&mut self.particular);
        let mut places = Vec::new();
        particular.clear();
        for (number, sheet) in self.sheets.iter().enumerate() {
            let facts = sheet.rules.sharing();
            if facts.particular.is_empty() {
                continue;
            }
            facts.particular.each_candidate(element.data(), |place| places.push(place));
            for (rule_number, place) in places.drain(..) {
                let rule = &sheet.rules.rules[rule_number as usize];
                let selector = &rule.selectors[place as usize];
                if let Some((truth, steps)) = self.matches(selector, &rule.scopes, sheet, element) {
                    particular.extend([number as u32, rule_number, place, truth as u32, steps]);
                }
            }
        }
        let likeness = likenesses.of(element, &mut particular);
        (self.likenesses, self.particular) = (Some(likenesses), particular);
        Some(likeness)
    }

    /// Whether an element has a name by which some rule of a sheet may match it: a question that costs
    /// next to nothing.
    pub(super) fn has_candidates(&self, sheet: usize, element: ElementRef<'p>) -> bool {
        let mut found = false;
        self.sheets[sheet].rules.index.each_candidate(element.data(), |_| found = true);
        found
    }

    /// What the rules of a sheet may match of an element: itself (`None`) and its pseudo-elements.
    pub(super) fn touched(&mut self, sheet: usize, element: ElementRef<'p>) -> Vec<Option<&'p str>> {
        let sheet = &self.sheets[sheet];
        let mut found = Vec::new();
        for (rule, selector) in self.candidates(&sheet.rules, element) {
            let rule = &sheet.rules.rules[rule as usize];
            let selector = &rule.selectors[selector as usize];
            let pseudo = selector.pseudo.as_deref();
            if !found.contains(&pseudo) && self.matches(selector, &rule.scopes, sheet, element).is_some() {
                found.push(pseudo);
            }
        }
        found
    }

    /// The selectors of a sheet that may match an element, by what it has.
    pub(super) fn candidates(&self, rules: &StyleRules, element: ElementRef<'p>) -> Vec<(u32, u32)> {
        let mut found = Vec::new();
        rules.index.each_candidate(element.data(), |place| found.push(place));
        found.sort_unstable();
        found.dedup();
        found
    }

    /// Whether a selector matches, and by how many steps its scope's root is away.
    pub(super) fn matches(
        &mut self,
        selector: &CascadeSelector,
        scopes: &[ScopeRange],
        sheet: &PageSheet,
        element: ElementRef<'p>,
    ) -> Option<(Truth, u32)> {
        let shadow = sheet.shadow.and_then(|host| self.document.element(host));
        if self.document.has_shadows() && !reaches(selector, shadow, element) {
            return None;
        }
        self.ancestors.enter(element);
        if scopes.is_empty() {
            return self.truth(selector, element, None, shadow).map(|truth| (truth, u32::MAX));
        }
        let owner = sheet.owner.and_then(|id| self.document.element(id)).and_then(|owner| owner.parent());
        // Scopes inside of each other: each root lies within the range of the one before.
        let mut roots: Vec<Option<ElementRef<'p>>> = vec![None];
        for range in scopes {
            let mut inner = Vec::new();
            for outer in &roots {
                inner.extend(self.scope_roots(range, *outer, owner, element).into_iter().map(Some));
            }
            roots = inner;
        }
        let mut best: Option<(Truth, u32)> = None;
        for root in roots.into_iter().flatten() {
            let Some(truth) = self.truth(selector, element, Some(root), shadow) else { continue };
            let ancestors = std::iter::successors(Some(element), |at| at.parent());
            let steps = ancestors.take_while(|at| *at != root).count() as u32;
            if best.is_none_or(|(known, near)| (truth, Reverse(steps)) > (known, Reverse(near))) {
                best = Some((truth, steps));
            }
        }
        best
    }

    /// The roots of a scope whose range the element is in, nearest first.
    fn scope_roots(
        &mut self,
        range: &ScopeRange,
        outer: Option<ElementRef<'p>>,
        owner: Option<ElementRef<'p>>,
        element: ElementRef<'p>,
    ) -> Vec<ElementRef<'p>> {
        let chain: Vec<_> = std::iter::successors(Some(element), |at| at.parent()).collect();
        let mut roots = Vec::new();
        for (place, &root) in chain.iter().enumerate() {
            if outer.is_some_and(|outer| !root.is_within(outer)) {
                break;
            }
            let is_root = match &range.roots {
                Some(list) => list
                    .slice()
                    .iter()
                    .any(|one| Matcher::new().matches_in(one, root, Assume::Must, State::default(), outer)),
                None => owner.or_else(|| self.document.root()) == Some(root),
            };
            // From the root, itself included, down to the element nothing ends the scope.
            let is_ended = || {
                chain[..=place].iter().any(|at| {
                    range.limits.iter().flat_map(|list| list.slice()).any(|one| {
                        Matcher::new().matches_in(one, *at, Assume::Must, State::default(), Some(root))
                    })
                })
            };
            if is_root && !is_ended() {
                roots.push(root);
            }
        }
        roots
    }

    fn truth(
        &mut self,
        selector: &CascadeSelector,
        element: ElementRef<'p>,
        scope: Option<ElementRef<'p>>,
        shadow: Option<ElementRef<'p>>,
    ) -> Option<Truth> {
        let (names, is_untouched) = (&self.states, self.is_untouched);
        let state = State { names, on: Some(element), is_untouched, shadow };
        // What matchers remember holds for one scope and one state.
        let is_plain = scope.is_none() && self.states.is_empty() && shadow.is_none();
        let mut fresh = (!is_plain).then(|| (Matcher::new(), Matcher::new()));
        let (may, must) = match &mut fresh {
            Some((may, must)) => (may, must),
            None => (&mut self.may, &mut self.must),
        };
        let around = Some((&selector.ancestors, &self.ancestors)).filter(|_| !self.document.has_shadows());
        if !may.matches_below(&selector.selector, element, Assume::May, state, scope, around) {
            return None;
        }
        let sure =
            !selector.is_open || must.matches_in(&selector.selector, element, Assume::Must, state, scope);
        Some(if sure { Truth::Yes } else { Truth::AtRunTime })
    }
}

/// Whether a sheet, of the shadow tree of an element or of the page itself, has to do with an element at all
/// (css-scoping-1, 3.2): with those of its own tree, with the host, and with what is shown in its slots. Parts are asked of
/// their host.
fn reaches(selector: &CascadeSelector, sheet: Option<ElementRef<'_>>, element: ElementRef<'_>) -> bool {
    let own = element.shadow_host();
    selector.selector.is_slotted() || own == sheet || sheet == Some(element)
}
