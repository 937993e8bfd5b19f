//! The cascade (css-cascade-5, 6; css-cascade-6 for scope proximity): which of a page's
//! declarations apply to an element, which of them wins each property, and by what.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::rc::Rc;
use std::sync::Arc;

use html5ever::local_name;
use html5ever::tree_builder::QuirksMode;
use rustc_hash::{FxHashMap, FxHashSet};

use super::applied::{Applied, Origin, Outcome, Strength, is_logical, settle};
use super::layers::{Layers, UNLAYERED};
use super::likeness::{Likeness, Likenesses};
use super::media::Viewport;
use super::on_page::PageSheet;
use super::presentational_hints::presentational_hints;
use super::properties::{Flow, is_inherited, longhands};
use super::rules::{
    CascadeRule, CascadeSelector, Condition, Mention, ScopeRange, StyleDeclaration, StyleRules,
};
use super::truth::Truth;
use crate::markup::{
    AncestorFilter, Assume, Document, ElementRef, Matcher, NamedPart, NodeId, State, names_in,
};

/// The styles of a page, ready to be asked.
pub struct Cascade<'p> {
    document: &'p Document,
    sheets: &'p [PageSheet],
    /// In the order of appearance: imported sheets before the one that imports them.
    order: Vec<usize>,
    layers: Layers,
    /// For each sheet and each of its rules, the layer.
    rule_layers: Vec<Vec<usize>>,
    viewport: Viewport,
    states: Vec<String>,
    open: Matcher,
    given: Matcher,
    /// The declarations of attributes, of those elements that were asked for.
    attributes: FxHashMap<NodeId, Rc<Vec<Applied<'p>>>>,
    /// Custom properties that are registered as not inherited (css-properties-values-api-1, 2.3).
    not_inherited: FxHashSet<String>,
    /// The ancestors of the element that was last asked for.
    ancestors: AncestorFilter,
    /// Which elements are alike; none where each is asked for itself, or nobody asked yet.
    likenesses: Option<Likenesses<'p>>,
}

impl<'p> Cascade<'p> {
    /// Makes a page's sheets ready. `states` are those that the element that is asked for is in.
    pub fn new(
        document: &'p Document,
        sheets: &'p [PageSheet],
        viewport: Viewport,
        states: Vec<String>,
    ) -> Self {
        let mut cascade = Cascade {
            document,
            sheets,
            order: Vec::new(),
            layers: Layers::default(),
            rule_layers: sheets.iter().map(|_| Vec::new()).collect(),
            viewport,
            states,
            open: Matcher::new(),
            given: Matcher::new(),
            attributes: FxHashMap::default(),
            not_inherited: FxHashSet::default(),
            ancestors: AncestorFilter::default(),
            likenesses: None,
        };
        for (number, _) in sheets.iter().enumerate().filter(|(_, sheet)| !sheet.is_imported) {
            cascade.appear(number, 0);
        }
        for (number, sheet) in sheets.iter().enumerate() {
            let base = cascade.base_layer(number);
            let layers = &mut cascade.layers;
            let of_rule = |rule: &CascadeRule| layers.enter(base, number as u32 + 1, &rule.layer);
            cascade.rule_layers[number] = sheet.rules.rules.iter().map(of_rule).collect();
        }
        cascade.layers.settle();
        // Of several registrations of a name the last one counts.
        for &number in &cascade.order {
            for (name, inherits) in &sheets[number].rules.registered {
                if *inherits {
                    cascade.not_inherited.remove(name);
                } else {
                    cascade.not_inherited.insert(name.clone());
                }
            }
        }
        cascade
    }

    fn base_layer(&mut self, sheet: usize) -> usize {
        let path = &self.sheets[sheet].layer;
        path.iter().fold(UNLAYERED, |at, (importer, names)| self.layers.enter(at, *importer, names))
    }

    /// Notes the order of a sheet, of what it imports, and of their layers.
    fn appear(&mut self, number: usize, depth: usize) {
        const DEEPEST: usize = 64;
        let sheet = &self.sheets[number];
        if !self.may_hold(&sheet.conditions) {
            return;
        }
        let base = self.base_layer(number);
        for mention in &sheet.rules.mentions {
            match mention {
                Mention::Layer(path, conditions) if self.may_hold(conditions) => {
                    self.layers.enter(base, number as u32 + 1, path);
                }
                Mention::Layer(..) => {}
                Mention::Import(place) => {
                    if let Some(imported) = sheet.imported.get(*place).copied().flatten()
                        && depth < DEEPEST
                    {
                        self.appear(imported, depth + 1);
                    }
                }
            }
        }
        self.order.push(number);
    }

    fn may_hold(&self, conditions: &[Condition]) -> bool {
        conditions.iter().all(|condition| condition.holds(&self.viewport) != Truth::No)
    }

    /// The page's sheets.
    pub fn sheets(&self) -> &'p [PageSheet] {
        self.sheets
    }

    /// What an element has in common with those that all rules treat alike: for them everything that
    /// can be asked here has the same answer. None where elements cannot share answers: states are
    /// given, or a rule turns the text of some elements by their position.
    pub fn likeness(&mut self, element: ElementRef<'p>) -> Option<Likeness> {
        if !self.states.is_empty() {
            return None;
        }
        let mut likenesses = match self.likenesses.take() {
            Some(likenesses) => likenesses,
            None => Likenesses::new(self.sheets, self.document.quirks())?,
        };
        let mut particular = Vec::new();
        for (number, sheet) in self.sheets.iter().enumerate() {
            let facts = sheet.rules.sharing();
            if facts.particular.is_empty() {
                continue;
            }
            let mut places = Vec::new();
            facts.particular.each_candidate(element.data(), |place| places.push(place));
            for (rule_number, place) in places {
                let rule = &sheet.rules.rules[rule_number as usize];
                let selector = &rule.selectors[place as usize];
                if let Some((truth, steps)) = self.matches(selector, &rule.scopes, sheet.owner, element) {
                    particular.extend([number as u32, rule_number, place, truth as u32, steps]);
                }
            }
        }
        let likeness = likenesses.of(element, &particular);
        self.likenesses = Some(likenesses);
        Some(likeness)
    }

    /// Whether an element has a name by which some rule of a sheet may match it: a question that costs
    /// next to nothing.
    pub fn has_candidates(&self, sheet: usize, element: ElementRef<'p>) -> bool {
        let mut found = false;
        self.sheets[sheet].rules.index.each_candidate(element.data(), |_| found = true);
        found
    }

    /// What the rules of a sheet may match of an element: itself (`None`) and its pseudo-elements.
    pub fn touched(&mut self, sheet: usize, element: ElementRef<'p>) -> Vec<Option<&'p str>> {
        let sheet = &self.sheets[sheet];
        let mut found = Vec::new();
        for (rule, selector) in self.candidates(&sheet.rules, element) {
            let rule = &sheet.rules.rules[rule as usize];
            let selector = &rule.selectors[selector as usize];
            let pseudo = selector.pseudo.as_deref();
            if !found.contains(&pseudo)
                && self.matches(selector, &rule.scopes, sheet.owner, element).is_some()
            {
                found.push(pseudo);
            }
        }
        found
    }

    /// The rules of the first sheet that match an element or one of its pseudo-elements.
    pub fn matching(&mut self, element: ElementRef<'p>) -> Vec<(usize, Truth)> {
        let sheet = &self.sheets[0];
        let mut found: Vec<(usize, Truth)> = Vec::new();
        for (number, place) in self.candidates(&sheet.rules, element) {
            let rule = &sheet.rules.rules[number as usize];
            let own = rule.conditions.iter().map(|c| c.holds(&self.viewport)).fold(Truth::Yes, Truth::and);
            let selector = &rule.selectors[place as usize];
            let Some((truth, _)) = self.matches(selector, &rule.scopes, sheet.owner, element) else {
                continue;
            };
            match (truth.and(own), found.iter_mut().find(|(known, _)| *known == number as usize)) {
                (Truth::No, _) => {}
                (truth, Some((_, known))) => *known = (*known).max(truth),
                (truth, None) => found.push((number as usize, truth)),
            }
        }
        found.sort_unstable();
        found
    }

    /// Every declaration that applies to an element or to one of its pseudo-elements, or may.
    pub fn applied(&mut self, element: ElementRef<'p>, pseudo: Option<&str>) -> Vec<Applied<'p>> {
        let mut found = Vec::new();
        let order = std::mem::take(&mut self.order);
        for (place, &number) in order.iter().enumerate() {
            self.of_sheet(number, place as u32, element, pseudo, &mut found);
        }
        self.order = order;
        if pseudo.is_none() {
            let own = self.attributes.entry(element.id).or_insert_with(|| Rc::new(attributes(element)));
            found.extend(own.iter().cloned());
        }
        found
    }

    fn of_sheet(
        &mut self,
        number: usize,
        place: u32,
        element: ElementRef<'p>,
        pseudo: Option<&str>,
        found: &mut Vec<Applied<'p>>,
    ) {
        let sheet = &self.sheets[number];
        let whole = sheet.conditions.iter().map(|c| c.holds(&self.viewport)).fold(Truth::Yes, Truth::and);
        if whole == Truth::No {
            return;
        }
        let places = self.candidates(&sheet.rules, element);
        let mut at = 0;
        while at < places.len() {
            let rule_number = places[at].0;
            let end = at + places[at..].iter().take_while(|(rule, _)| *rule == rule_number).count();
            let rule = &sheet.rules.rules[rule_number as usize];
            let selectors = places[at..end].iter().map(|(_, selector)| &rule.selectors[*selector as usize]);
            at = end;
            let own = rule.conditions.iter().map(|c| c.holds(&self.viewport)).fold(whole, Truth::and);
            if own == Truth::No {
                continue;
            }
            // Of the selectors that match, the most specific counts (Selectors 4, 15); of those
            // that only may match, the most specific one counts on its own.
            let mut best: [Option<(&CascadeSelector, u32)>; 2] = [None, None];
            for selector in selectors.filter(|selector| is_for(selector, pseudo)) {
                let Some((truth, proximity)) = self.matches(selector, &rule.scopes, sheet.owner, element)
                else {
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
            let both = [(sure, Truth::Yes), (may, Truth::AtRunTime)];
            for (selector, proximity, truth) in
                both.into_iter().filter_map(|(s, truth)| s.map(|(s, p)| (s, p, truth)))
            {
                let conditions = sheet.conditions.iter().chain(&rule.conditions);
                let depends_on: Vec<&Condition> =
                    conditions.filter(|c| c.holds(&self.viewport) == Truth::AtRunTime).collect();
                let rank = i64::from(self.layers.rank(self.rule_layers[number][rule_number as usize]));
                for (declaration_number, declaration) in rule.declarations.iter().enumerate() {
                    let quirks = self.document.quirks() == QuirksMode::Quirks;
                    if declaration.is_dropped(&sheet.rules.text, quirks) {
                        continue;
                    }
                    found.push(Applied {
                        sheet: Some(number),
                        rule: Some(rule),
                        selector: Some(selector),
                        declaration: Cow::Borrowed(declaration),
                        attribute: None,
                        matched: truth.and(own),
                        depends_on: depends_on.clone(),
                        longhand: String::new(),
                        strength: Strength {
                            origin: Origin::of(declaration.important),
                            inline: false,
                            // Layers count the other way round for what is important (6.1).
                            layer: if declaration.important { -rank } else { rank },
                            specificity: selector.specificity(),
                            proximity: Reverse(proximity),
                            order: (place, rule_number, declaration_number as u32),
                        },
                    });
                }
            }
        }
    }

    /// The selectors of a sheet that may match an element, by what it has.
    fn candidates(&mut self, rules: &StyleRules, element: ElementRef<'p>) -> Vec<(u32, u32)> {
        let mut found = Vec::new();
        rules.index.each_candidate(element.data(), |place| found.push(place));
        found.sort_unstable();
        found.dedup();
        found
    }

    /// Whether a selector matches, and by how many steps its scope's root is away.
    fn matches(
        &mut self,
        selector: &CascadeSelector,
        scopes: &[ScopeRange],
        owner: Option<NodeId>,
        element: ElementRef<'p>,
    ) -> Option<(Truth, u32)> {
        self.ancestors.enter(element);
        if scopes.is_empty() {
            return self.truth(selector, element, None).map(|truth| (truth, u32::MAX));
        }
        let owner = owner.and_then(|id| self.document.element(id)).and_then(|owner| owner.parent());
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
            let Some(truth) = self.truth(selector, element, Some(root)) else { continue };
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
    ) -> Option<Truth> {
        let state = State { names: &self.states, on: Some(element) };
        // What matchers remember holds for one scope and one state.
        let is_plain = scope.is_none() && self.states.is_empty();
        let mut fresh = (!is_plain).then(|| (Matcher::new(), Matcher::new()));
        let (open, given) = match &mut fresh {
            Some((open, given)) => (open, given),
            None => (&mut self.open, &mut self.given),
        };
        let around = Some((&selector.ancestors, &self.ancestors));
        if !open.matches_below(&selector.selector, element, Assume::May, state, scope, around) {
            return None;
        }
        let sure = given.matches_in(&selector.selector, element, Assume::Must, state, scope);
        Some(if sure { Truth::Yes } else { Truth::AtRunTime })
    }

    /// What the declarations on an element come to, by longhand.
    pub fn outcomes(&mut self, element: ElementRef<'p>, pseudo: Option<&str>) -> Vec<Outcome<'p>> {
        let (applied, flow) = self.applied_in_flow(element, pseudo);
        settle(&applied, flow, None, self.sheets)
    }

    /// The same, for the longhands alone that some of the sheets set.
    pub fn outcomes_of(
        &mut self,
        element: ElementRef<'p>,
        pseudo: Option<&str>,
        sheets: &dyn Fn(usize) -> bool,
    ) -> Vec<Outcome<'p>> {
        let (applied, flow) = self.applied_in_flow(element, pseudo);
        let own = applied.iter().filter(|one| one.sheet.is_some_and(sheets));
        let wanted = own.flat_map(|one| longhands(&one.declaration.property));
        let wanted: FxHashSet<String> =
            wanted.map(|longhand| flow.physical(&longhand).into_owned()).collect();
        settle(&applied, flow, Some(&wanted), self.sheets)
    }

    /// The value, in lower case, of the strongest declaration of a longhand that certainly applies.
    pub fn certain_value(&mut self, element: ElementRef<'p>, longhand: &str) -> Option<String> {
        let applied = self.applied(element, None);
        let own =
            applied.iter().filter(|one| one.matched == Truth::Yes && one.declaration.property == longhand);
        own.max_by_key(|one| one.strength).map(|one| one.value(self.sheets).trim().to_ascii_lowercase())
    }

    /// Whether some rule that does not match an element now, and may be for it once it has one
    /// more name or state, sets a property to something that `is_other`.
    pub fn may_come_to(
        &mut self,
        element: ElementRef<'p>,
        property: &str,
        is_other: &dyn Fn(&str) -> bool,
    ) -> bool {
        let data = element.data();
        let is_its = |name: &NamedPart| name.is_of(data);
        self.sheets.iter().any(|sheet| {
            let sets = |own: &StyleDeclaration| {
                own.property == property && is_other(sheet.rules.text.slice(own.value))
            };
            let rules = sheet.rules.rules.iter().filter(|rule| rule.declarations.iter().any(sets));
            let all = rules.flat_map(|rule| rule.selectors.iter().map(move |selector| (rule, selector)));
            let mut near = all.filter(|(_, selector)| names_in(&selector.selector).iter().any(is_its));
            near.any(|(rule, selector)| {
                let matched = self.matches(selector, &rule.scopes, sheet.owner, element);
                !rule.conditions.is_empty() || matched.is_none_or(|(truth, _)| truth != Truth::Yes)
            })
        })
    }

    /// The declarations on an element, with the flow that their logical properties are mapped by.
    fn applied_in_flow(&mut self, element: ElementRef<'p>, pseudo: Option<&str>) -> (Vec<Applied<'p>>, Flow) {
        let applied = self.applied(element, pseudo);
        let flow = match applied.iter().any(|applied| is_logical(&applied.declaration.property)) {
            true => self.flow(element),
            false => Flow::default(),
        };
        (applied, flow)
    }

    /// How text runs in an element: what `writing-mode` and `direction` come to on it or on the
    /// nearest ancestor that has any.
    fn flow(&mut self, element: ElementRef<'p>) -> Flow {
        let mut found = [None, None];
        for at in std::iter::successors(Some(element), |at| at.parent()) {
            let applied = self.applied(at, None);
            for (value, property) in found.iter_mut().zip(["writing-mode", "direction"]) {
                let own = applied
                    .iter()
                    .filter(|one| one.matched == Truth::Yes && one.declaration.property == property);
                let strongest =
                    own.max_by_key(|one| one.strength).map(|one| one.value(self.sheets).to_ascii_lowercase());
                let attribute = || {
                    at.data()
                        .attr(&local_name!("dir"))
                        .filter(|_| property == "direction")
                        .map(str::to_ascii_lowercase)
                };
                *value = value.take().or(strongest).or_else(attribute);
            }
            if found.iter().all(Option::is_some) {
                break;
            }
        }
        let [mode, direction] = found;
        Flow::of(mode.as_deref().unwrap_or("horizontal-tb"), direction.as_deref().unwrap_or("ltr"))
    }

    /// Where an element takes an inherited property from: the nearest ancestor on which something
    /// sets it, with what does.
    pub fn inherited_from(
        &mut self,
        element: ElementRef<'p>,
        property: &str,
    ) -> Option<(ElementRef<'p>, Outcome<'p>)> {
        if !is_inherited(property) || self.not_inherited.contains(property) {
            return None;
        }
        let ancestors: Vec<_> = std::iter::successors(element.parent(), |at| at.parent()).collect();
        ancestors.into_iter().find_map(|at| {
            let outcomes = self.outcomes(at, None);
            outcomes.into_iter().find(|outcome| outcome.property == property).map(|outcome| (at, outcome))
        })
    }
}

fn is_for(selector: &CascadeSelector, pseudo: Option<&str>) -> bool {
    selector.pseudo.as_deref() == pseudo
}

/// The declarations of an element's attributes: what those of presentation come to, and the style
/// attribute.
fn attributes<'p>(element: ElementRef<'p>) -> Vec<Applied<'p>> {
    let hints = presentational_hints(element);
    let style = element.data().attr(&local_name!("style"));
    let hints = (!hints.is_empty()).then_some((hints.as_str(), false));
    let mut found = Vec::new();
    for (text, is_style) in hints.into_iter().chain(style.map(|text| (text, true))) {
        let (text, declarations) = StyleRules::of_attribute(text);
        let text = Arc::new(text);
        let quirks = element.document().quirks() == QuirksMode::Quirks;
        for (number, declaration) in declarations.into_iter().enumerate() {
            if declaration.is_dropped(&text, quirks) {
                continue;
            }
            let origin = if is_style { Origin::of(declaration.important) } else { Origin::Attribute };
            found.push(Applied {
                sheet: None,
                rule: None,
                selector: None,
                attribute: Some(Arc::clone(&text)),
                matched: Truth::Yes,
                depends_on: Vec::new(),
                longhand: String::new(),
                strength: Strength {
                    origin,
                    inline: is_style,
                    layer: 0,
                    specificity: [0; 3],
                    proximity: Reverse(u32::MAX),
                    order: (u32::MAX, 0, number as u32),
                },
                declaration: Cow::Owned(declaration),
            });
        }
    }
    found
}
