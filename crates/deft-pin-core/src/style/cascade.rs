//! The cascade (css-cascade-5, 6; css-cascade-6 for scope proximity): which of a page's
//! declarations apply to an element, which of them wins each property, and by what.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::rc::Rc;

use html5ever::tree_builder::QuirksMode;
use rustc_hash::{FxHashMap, FxHashSet};

use super::applied::{
    Applied, AppliedDeclaration, DeclarationSource, Origin, Outcome, Strength, settle, tree_order,
};
use super::attributes::attribute_declarations;
use super::condition::Condition;
use super::declaration::StyleDeclaration;
use super::engines::{Engine, selector_takers};
use super::layers::{Layers, UNLAYERED};
use super::likeness::Likeness;
use super::media::Viewport;
use super::on_page::PageSheet;
use super::properties::{Flow, is_inherited};
use super::property_id::PropertyId;
use super::rule::{CascadeRule, CascadeSelector, LayerName, Mention};
use super::rule_matching::{MatchedRule, RuleMatcher};
use super::truth::Truth;
use crate::markup::{Document, ElementRef, NamedPart, NodeId, names_in};

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
    /// The engine that answers.
    engine: Engine,
    matcher: RuleMatcher<'p>,
    /// The declarations of attributes, of those elements that were asked for.
    attributes: FxHashMap<NodeId, Rc<Vec<Applied<'p>>>>,
    /// Custom properties that are registered as not inherited (css-properties-values-api-1, 2.3).
    not_inherited: FxHashSet<String>,
    /// What `display` comes to on those elements that were asked for: each leans on its parent's.
    pub(super) displays: FxHashMap<NodeId, Option<String>>,
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
            matcher: RuleMatcher::new(document, sheets, viewport.clone(), states),
            viewport,
            engine: Engine::Chromium,
            attributes: FxHashMap::default(),
            not_inherited: FxHashSet::default(),
            displays: FxHashMap::default(),
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

    /// Answers for another engine than Chromium: by what is published of the declarations and selectors that
    /// it takes. What Chromium does not know is in sheets that were read for all engines.
    pub fn for_engine(self, engine: Engine) -> Self {
        Cascade { engine, ..self }
    }

    /// Answers for the page as it stands before anybody touches it: what depends on a pointer, a key or the
    /// focus does not certainly match, and its opposite does.
    pub fn untouched(mut self) -> Self {
        self.matcher.is_untouched = true;
        self
    }

    /// Whether the engine that answers drops a rule for one of its selectors.
    fn drops_rule(&self, matched: &MatchedRule<'p>) -> bool {
        let text = &self.sheets[matched.sheet].rules;
        let is_unknown =
            |selector: &CascadeSelector| !selector_takers(text.written(selector.span)).has(self.engine);
        self.engine != Engine::Chromium && matched.rule.selectors.iter().any(is_unknown)
    }

    fn base_layer(&mut self, sheet: usize) -> usize {
        let path = &self.sheets[sheet].layer;
        // The layers of a shadow tree are its own.
        let tree = self.sheets[sheet].shadow.map(|host| LayerName::Named(format!("shadow tree of {host:?}")));
        let outermost = self.layers.enter(UNLAYERED, 0, tree.as_slice());
        path.iter().fold(outermost, |at, (importer, names)| self.layers.enter(at, *importer, names))
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
        self.matcher.likeness(element)
    }

    /// Whether an element has a name by which some rule of a sheet may match it: a question that costs
    /// next to nothing.
    pub fn has_candidates(&self, sheet: usize, element: ElementRef<'p>) -> bool {
        self.matcher.has_candidates(sheet, element)
    }

    /// What the rules of a sheet may match of an element: itself (`None`) and its pseudo-elements.
    pub fn touched(&mut self, sheet: usize, element: ElementRef<'p>) -> Vec<Option<&'p str>> {
        self.matcher.touched(sheet, element)
    }

    /// The rules of the first sheet that match an element or one of its pseudo-elements.
    pub fn matching(&mut self, element: ElementRef<'p>) -> Vec<(usize, Truth)> {
        let sheet = &self.sheets[0];
        let mut found: Vec<(usize, Truth)> = Vec::new();
        for (number, place) in self.matcher.candidates(&sheet.rules, element) {
            let rule = &sheet.rules.rules[number as usize];
            let own = rule.conditions.iter().map(|c| c.holds(&self.viewport)).fold(Truth::Yes, Truth::and);
            let selector = &rule.selectors[place as usize];
            let Some((truth, _)) = self.matcher.matches(selector, &rule.scopes, sheet, element) else {
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
        let matched = self.matcher.matched_rules(&self.order, element, pseudo);
        let mut found = Vec::new();
        matched.iter().for_each(|rule| self.declarations_of(rule, &|_| true, &mut found));
        self.of_attributes(element, pseudo, &mut found);
        found
    }

    /// The declarations of a rule that matches, those that set what is wanted.
    fn declarations_of(
        &self,
        matched: &MatchedRule<'p>,
        is_wanted: &dyn Fn(&StyleDeclaration) -> bool,
        found: &mut Vec<Applied<'p>>,
    ) {
        let sheet = &self.sheets[matched.sheet];
        let quirks = self.document.quirks() == QuirksMode::Quirks;
        let rank = i64::from(self.layers.rank(self.rule_layers[matched.sheet][matched.number as usize]));
        if self.drops_rule(matched) {
            return;
        }
        let wanted = matched.rule.declarations.iter().enumerate().filter(|(_, own)| is_wanted(own));
        for (number, declaration) in wanted {
            if declaration.is_dropped(&sheet.rules.text, quirks, self.engine) {
                continue;
            }
            // What is important counts the other way round, as with layers (6.1, "context").
            let tree = tree_order(sheet.shadow);
            let strength = Strength {
                origin: Origin::of(declaration.important),
                context: if declaration.important { tree } else { -tree },
                inline: false,
                // Layers count the other way round for what is important (6.1).
                layer: if declaration.important { -rank } else { rank },
                specificity: matched.selector.specificity(),
                proximity: Reverse(matched.proximity),
                order: (matched.place, matched.number, number as u32),
            };
            found.push(Applied::from(AppliedDeclaration {
                source: DeclarationSource::Rule {
                    sheet: matched.sheet,
                    rule: matched.rule,
                    selector: matched.selector,
                },
                declaration: Cow::Borrowed(declaration),
                matched: matched.truth,
                depends_on: self.open_conditions(matched),
                strength,
            }));
        }
    }

    /// The conditions that a rule that matches still depends on.
    fn open_conditions(&self, matched: &MatchedRule<'p>) -> Vec<&'p Condition> {
        if matched.truth == Truth::Yes {
            return Vec::new();
        }
        let conditions = self.sheets[matched.sheet].conditions.iter().chain(&matched.rule.conditions);
        conditions.filter(|condition| condition.holds(&self.viewport) == Truth::AtRunTime).collect()
    }

    /// The declarations of an element's attributes.
    fn of_attributes(&mut self, element: ElementRef<'p>, pseudo: Option<&str>, found: &mut Vec<Applied<'p>>) {
        if pseudo.is_none() {
            let engine = self.engine;
            let own = self
                .attributes
                .entry(element.id)
                .or_insert_with(|| Rc::new(attribute_declarations(element, engine)));
            found.extend(own.iter().cloned());
        }
    }

    /// What the declarations on an element come to, by longhand.
    pub fn outcomes(&mut self, element: ElementRef<'p>, pseudo: Option<&str>) -> Vec<Outcome<'p>> {
        let applied = self.applied(element, pseudo);
        let is_turned = applied.iter().any(|one| one.declaration.property.is_logical());
        let flow = if is_turned { self.flow(element) } else { Flow::default() };
        settle(&applied, flow, None, self.sheets)
    }

    /// The same, for the longhands alone that some of the sheets set.
    pub fn outcomes_of(
        &mut self,
        element: ElementRef<'p>,
        pseudo: Option<&str>,
        sheets: &dyn Fn(usize) -> bool,
    ) -> Vec<Outcome<'p>> {
        let matched = self.matcher.matched_rules(&self.order, element, pseudo);
        let mut of_attributes = Vec::new();
        self.of_attributes(element, pseudo, &mut of_attributes);
        let of_rules = matched.iter().flat_map(|rule| &rule.rule.declarations);
        let is_turned = of_rules.into_iter().any(|own| own.property.is_logical())
            || of_attributes.iter().any(|one| one.declaration.property.is_logical());
        let flow = if is_turned { self.flow(element) } else { Flow::default() };
        let own = matched.iter().filter(|rule| sheets(rule.sheet)).flat_map(|rule| &rule.rule.declarations);
        let longhands = own.flat_map(|own| own.property.longhands());
        let wanted: FxHashSet<PropertyId> = longhands.map(|longhand| longhand.physical(flow)).collect();
        let sets_any = |own: &StyleDeclaration| {
            own.property.longhands().iter().any(|longhand| wanted.contains(&longhand.physical(flow)))
        };
        let mut applied = Vec::new();
        matched.iter().for_each(|rule| self.declarations_of(rule, &sets_any, &mut applied));
        applied.extend(of_attributes);
        settle(&applied, flow, Some(&wanted), self.sheets)
    }

    /// The value, in lower case, of the strongest declaration of a longhand that certainly applies.
    pub fn certain_value(&mut self, element: ElementRef<'p>, longhand: &str) -> Option<String> {
        self.certain_values(element, &[longhand]).pop().flatten()
    }

    /// The same of several longhands.
    pub fn certain_values(&mut self, element: ElementRef<'p>, longhands: &[&str]) -> Vec<Option<String>> {
        let applied = self.applied(element, None);
        let strongest = |longhand: &&str| {
            let own = applied
                .iter()
                .filter(|one| one.matched == Truth::Yes && one.declaration.property == **longhand);
            own.max_by_key(|one| one.strength).map(|one| one.value(self.sheets).trim().to_ascii_lowercase())
        };
        longhands.iter().map(strongest).collect()
    }

    /// Whether some rule that does not match an element now, and may be for it once it has one
    /// more name or state, sets a property to something that `is_other`.
    pub fn may_come_to(
        &mut self,
        element: ElementRef<'p>,
        property: &PropertyId,
        is_other: &dyn Fn(&str) -> bool,
    ) -> bool {
        let sets = |own: &StyleDeclaration| own.property == *property;
        self.may_be_set(element, property, &|_| true, &sets, is_other)
    }

    /// The same of any value, of the element itself or of a pseudo-element, where a shorthand that sets the
    /// property counts too.
    pub(super) fn may_be_set_otherwise(
        &mut self,
        element: ElementRef<'p>,
        part: Option<&str>,
        longhand: &PropertyId,
    ) -> bool {
        let sets = |own: &StyleDeclaration| own.property.longhands().contains(longhand);
        let is_for = |selector: &CascadeSelector| selector.pseudo.as_deref() == part;
        self.may_be_set(element, longhand, &is_for, &sets, &|_| true)
    }

    fn may_be_set(
        &mut self,
        element: ElementRef<'p>,
        longhand: &PropertyId,
        is_for: &dyn Fn(&CascadeSelector) -> bool,
        sets: &dyn Fn(&StyleDeclaration) -> bool,
        is_other: &dyn Fn(&str) -> bool,
    ) -> bool {
        let data = element.data();
        let is_its = |name: &NamedPart| name.is_of(data);
        self.sheets.iter().any(|sheet| {
            let sets = |own: &StyleDeclaration| sets(own) && is_other(sheet.rules.text.slice(own.value));
            let rules = sheet.rules.setters(longhand).filter(|rule| rule.declarations.iter().any(sets));
            let all = rules.flat_map(|rule| rule.selectors.iter().map(move |selector| (rule, selector)));
            let all = all.filter(|(_, selector)| is_for(selector));
            let mut near = all.filter(|(_, selector)| names_in(&selector.selector).iter().any(is_its));
            near.any(|(rule, selector)| {
                let matched = self.matcher.matches(selector, &rule.scopes, sheet, element);
                !rule.conditions.is_empty() || matched.is_none_or(|(truth, _)| truth != Truth::Yes)
            })
        })
    }

    /// How text runs in an element: what `writing-mode` and `direction` come to on it or on the
    /// nearest ancestor that has any.
    fn flow(&mut self, element: ElementRef<'p>) -> Flow {
        let mut found = [None, None];
        for at in std::iter::successors(Some(element), |at| at.flat_parent()) {
            let mut applied = Vec::new();
            if self.sheets.iter().any(|sheet| sheet.rules.sets_flow) {
                applied = self.applied(at, None);
            } else {
                self.of_attributes(at, None, &mut applied);
            }
            for (value, property) in found.iter_mut().zip(["writing-mode", "direction"]) {
                let own = applied
                    .iter()
                    .filter(|one| one.matched == Truth::Yes && one.declaration.property == *property);
                let strongest =
                    own.max_by_key(|one| one.strength).map(|one| one.value(self.sheets).to_ascii_lowercase());
                let attribute = || {
                    let own = at.own_direction().filter(|_| property == "direction");
                    own.map(|direction| direction.word().to_owned())
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
        property: &PropertyId,
    ) -> Option<(ElementRef<'p>, Outcome<'p>)> {
        if !is_inherited(property.name()) || self.not_inherited.contains(property.name()) {
            return None;
        }
        let ancestors: Vec<_> = std::iter::successors(element.flat_parent(), |at| at.flat_parent()).collect();
        ancestors.into_iter().find_map(|at| {
            let outcomes = self.outcomes(at, None);
            outcomes.into_iter().find(|outcome| outcome.property == *property).map(|outcome| (at, outcome))
        })
    }
}
