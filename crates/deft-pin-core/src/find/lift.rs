//! The look of an element as a class of one's own: the declarations that win on it, gathered from
//! all of a page's sheets.
//!
//! It is long since a look is gathered, shortened and written in one go, over the same few lists.

use std::collections::BTreeSet;

use cssparser::{ParseError, Parser, Token};
use rustc_hash::FxHashSet;
use selectors::parser::Component;

use crate::code::{Address, Location, resolve_in};
use crate::markup::{Assume, ElementRef, Matcher, PseudoClass, State};
use crate::site::PageSheets;
use crate::source::FilePath;
use crate::style::{
    Applied, AtRuleKind, Cascade, CascadeSelector, Edit, PropertyId, Truth, apply, declared_families,
    is_inherited, urls, variables,
};

/// What to lift, and how.
pub struct Lift<'a> {
    /// The name of the class.
    pub name: &'a str,
    /// Puts custom properties in by value instead of carrying them along.
    pub resolve: bool,
    /// Takes what the element inherits too.
    pub inherited: bool,
    /// The address of a file of the site, as the lifted rules are to name it.
    pub address: &'a dyn Fn(&FilePath) -> String,
}

/// Rules that make another element look the same.
#[derive(Debug, Default)]
pub struct Lifted {
    /// The rules.
    pub css: String,
    /// What could not be taken along, and why.
    pub left_out: Vec<String>,
    /// What to look at beside it.
    pub remarks: Vec<String>,
}

/// One declaration of the class: what it stands under, and its text.
struct Piece {
    conditions: Vec<String>,
    /// States of the element itself, as `:hover`.
    states: String,
    text: String,
}

/// The pseudo-elements that are lifted with an element.
const PSEUDO: [Option<&str>; 3] = [None, Some("before"), Some("after")];

struct Lifting<'l, 'p> {
    lift: &'l Lift<'l>,
    page: &'p PageSheets,
    cascade: &'l mut Cascade<'p>,
    element: ElementRef<'p>,
    left_out: BTreeSet<String>,
    remarks: BTreeSet<String>,
    /// The values that were taken, for what they name.
    taken: Vec<(String, String)>,
}

/// Lifts the look of an element.
pub fn lift<'p>(
    lift: &Lift<'_>,
    page: &'p PageSheets,
    cascade: &mut Cascade<'p>,
    element: ElementRef<'p>,
) -> Lifted {
    let mut lifting = Lifting {
        lift,
        page,
        cascade,
        element,
        left_out: BTreeSet::new(),
        remarks: BTreeSet::new(),
        taken: Vec::new(),
    };
    let mut css = String::new();
    let mut rules = String::new();
    for pseudo in PSEUDO {
        let mut pieces = Vec::new();
        if pseudo.is_none() && lift.inherited {
            lifting.inherited(&mut pieces);
        }
        lifting.own(pseudo, &mut pieces);
        // Without content there is no such box (css-pseudo-4, 4.1).
        let is_there = pseudo.is_none() || pieces.iter().any(|piece| piece.text.starts_with("content:"));
        if !is_there {
            continue;
        }
        if pseudo.is_none() && !lift.resolve {
            let carried = lifting.carried();
            pieces.splice(0..0, carried);
        }
        rules.push_str(&drawn(lift.name, pseudo, &pieces));
    }
    css.push_str(&lifting.definitions());
    css.push_str(&rules);
    lifting.look_inside();
    let listed = |texts: BTreeSet<String>| texts.into_iter().collect();
    Lifted { css, left_out: listed(lifting.left_out), remarks: listed(lifting.remarks) }
}

/// The pieces as rules, those that stand under the same conditions together.
fn drawn(name: &str, pseudo: Option<&str>, pieces: &[Piece]) -> String {
    let mut css = String::new();
    let part = pseudo.map(|name| format!("::{name}")).unwrap_or_default();
    let mut at = 0;
    while at < pieces.len() {
        let same =
            |piece: &&Piece| piece.conditions == pieces[at].conditions && piece.states == pieces[at].states;
        let run: Vec<&Piece> = pieces[at..].iter().take_while(same).collect();
        at += run.len();
        let mut indent = String::new();
        for condition in &run[0].conditions {
            css.push_str(&format!("{indent}{condition} {{\n"));
            indent.push_str("  ");
        }
        // A state must not make the rule more specific: the order alone decides among these.
        let states = match run[0].states.as_str() {
            "" => String::new(),
            states => format!(":where({states})"),
        };
        css.push_str(&format!("{indent}.{name}{states}{part} {{\n"));
        for piece in &run {
            css.push_str(&format!("{indent}  {};\n", piece.text));
        }
        css.push_str(&format!("{indent}}}\n"));
        for _ in &run[0].conditions {
            indent.truncate(indent.len() - 2);
            css.push_str(&format!("{indent}}}\n"));
        }
    }
    css
}

impl<'p> Lifting<'_, 'p> {
    /// The declarations on the element, or on a pseudo-element of it, that win somewhere.
    fn own(&mut self, pseudo: Option<&str>, pieces: &mut Vec<Piece>) {
        let mut applied = self.cascade.applied(self.element, pseudo);
        applied.sort_by(|a, b| a.by_strength(b));
        // What stronger declarations set for certain needs no weaker one.
        let mut set: FxHashSet<PropertyId> = FxHashSet::default();
        let mut kept = Vec::new();
        for one in applied.into_iter().rev() {
            let names = one.declaration.property.longhands();
            if names.iter().all(|name| set.contains(name)) {
                continue;
            }
            if one.matched == Truth::Yes {
                set.extend(names.iter().cloned());
            }
            kept.push(one);
        }
        for one in kept.iter().rev() {
            if let Some(piece) = self.piece(one) {
                pieces.push(piece);
            }
        }
    }

    fn piece(&mut self, one: &Applied<'p>) -> Option<Piece> {
        let property = &one.declaration.property;
        let is_custom = property.is_custom();
        if is_custom && self.lift.resolve {
            return None;
        }
        let states = match (one.matched, one.selector()) {
            (Truth::Yes, _) | (_, None) => String::new(),
            (_, Some(selector)) => match self.states(selector, one) {
                Some(states) => states,
                None => {
                    let text = self.written(selector, one);
                    self.left_out.insert(format!(
                        "`{property}` of `{text}`: it depends on the state of something else than the element"
                    ));
                    return None;
                }
            },
        };
        let conditions = one.depends_on.iter().map(|condition| condition.text.clone()).collect();
        let value = self.value(one);
        self.taken.push((property.to_string(), value.clone()));
        Some(Piece { conditions, states, text: format!("{property}: {value}") })
    }

    fn written(&self, selector: &CascadeSelector, one: &Applied<'_>) -> String {
        let rules = one.sheet().map(|sheet| &self.page.sheets[sheet].rules);
        rules.map(|rules| rules.written(selector.span).to_owned()).unwrap_or_default()
    }

    /// The states of the element itself that a selector asks for; `None` where it asks for those
    /// of others.
    fn states(&self, selector: &CascadeSelector, one: &Applied<'_>) -> Option<String> {
        let mut names = Vec::new();
        let mut components = selector.selector.iter();
        let mut part = |components: &mut selectors::parser::SelectorIter<'_, crate::markup::Names>| {
            for component in components {
                if let Component::NonTSPseudoClass(PseudoClass::RunTime { written }) = component {
                    names.push(written.clone());
                }
            }
        };
        part(&mut components);
        if selector.pseudo.is_some() && components.next_sequence().is_some() {
            part(&mut components);
        }
        let scoped = one.rule().is_some_and(|rule| !rule.scopes.is_empty());
        let state = State { names: &names, on: Some(self.element), ..State::default() };
        let settled =
            !scoped && Matcher::new().matches_in(&selector.selector, self.element, Assume::Must, state, None);
        settled.then(|| names.iter().map(|name| format!(":{name}")).collect())
    }

    /// The value, with addresses as they are to be named, and custom properties put in where that
    /// is asked for.
    fn value(&mut self, one: &Applied<'p>) -> String {
        let sheets = &self.page.sheets;
        let value = one.value(sheets).to_owned();
        let file = one.sheet().map(|sheet| self.page.places[sheet].file.clone());
        let value = match file {
            Some(file) => self.rebased(&value, &file),
            None => value,
        };
        if self.lift.resolve { self.resolved(&value, 0) } else { value }
    }

    fn rebased(&self, text: &str, file: &FilePath) -> String {
        let edits = urls(text).into_iter().filter_map(|used| {
            let Location::Linked(Address::Local(target)) = resolve_in(file, &used.url) else { return None };
            let tail = used.url.find(['?', '#']).map_or("", |at| &used.url[at..]);
            if used.url.starts_with('#') {
                return None;
            }
            let address = format!("\"{}{tail}\"", (self.lift.address)(&target));
            let text = if used.is_string { address } else { format!("url({address})") };
            Some(Edit { span: used.span, text })
        });
        apply(text, edits.collect())
    }

    /// What a custom property comes to on the element, for certain.
    fn custom(&mut self, name: &str) -> Option<String> {
        let property = PropertyId::of(name);
        let outcomes = self.cascade.outcomes(self.element, None);
        let own = outcomes.into_iter().find(|outcome| outcome.property == property);
        let outcome = match own {
            Some(own) => own,
            None => self.cascade.inherited_from(self.element, &property)?.1,
        };
        Some(self.value(&outcome.winner))
    }

    fn resolved(&mut self, value: &str, depth: usize) -> String {
        const DEEPEST: usize = 12;
        let Some(first) = variables(value).into_iter().next().filter(|_| depth < DEEPEST) else {
            return value.to_owned();
        };
        let put = self.custom(&first.name).or(first.fallback.clone());
        let Some(put) = put else {
            self.left_out.insert(format!("`{}`: nothing sets it", first.name));
            return value.to_owned();
        };
        let value = format!("{}{}{}", &value[..first.start], put.trim(), &value[first.end..]);
        self.resolved(&value, depth + 1)
    }

    /// The custom properties that the taken values use and the element does not set itself.
    fn carried(&mut self) -> Vec<Piece> {
        let mut carried = Vec::new();
        let mut seen: FxHashSet<String> = self.taken.iter().map(|(name, _)| name.clone()).collect();
        let mut waiting: Vec<String> = self.taken.iter().map(|(_, value)| value.clone()).collect();
        while let Some(value) = waiting.pop() {
            for used in variables(&value) {
                if !seen.insert(used.name.clone()) {
                    continue;
                }
                match self.cascade.inherited_from(self.element, &PropertyId::of(&used.name)) {
                    Some((_, outcome)) => {
                        for one in std::iter::once(&outcome.winner).chain(outcome.may_win.iter().rev()) {
                            let conditions: Vec<_> =
                                one.depends_on.iter().map(|condition| condition.text.clone()).collect();
                            if one.matched != Truth::Yes && conditions.is_empty() {
                                continue;
                            }
                            let value = self.value(one);
                            waiting.push(value.clone());
                            let text = format!("{}: {value}", used.name);
                            carried.push(Piece { conditions, states: String::new(), text });
                        }
                    }
                    None if used.fallback.is_none() && !self.has_initial_value(&used.name) => {
                        self.left_out.insert(format!("`{}`: no sheet of the page sets it", used.name));
                    }
                    None => {}
                }
            }
        }
        // Those without conditions first, so that the others can win over them.
        carried.sort_by_key(|piece| (!piece.conditions.is_empty(), piece.text.clone()));
        carried
    }

    /// Whether a custom property has a value where nothing sets it (css-properties-values-api-1).
    fn has_initial_value(&self, name: &str) -> bool {
        self.page.sheets.iter().any(|sheet| {
            let mut registered = sheet.rules.definitions.iter();
            registered.any(|own| {
                own.kind == AtRuleKind::Property
                    && own.name == name
                    && sheet.rules.text.slice(own.span).contains("initial-value")
            })
        })
    }

    /// Notes what stands inside of the element and has a look of its own: the class does not carry it.
    fn look_inside(&mut self) {
        let element = self.element;
        let inside = element.document().elements().filter(|one| *one != element && one.is_within(element));
        let styled: Vec<_> = inside
            .filter(|one| self.cascade.applied(*one, None).iter().any(|own| own.sheet().is_some()))
            .collect();
        if let Some(first) = styled.first() {
            let count = match styled.len() {
                1 => "1 element inside has a look of its own".to_owned(),
                many => format!("{many} elements inside have looks of their own"),
            };
            self.remarks.insert(format!(
                "{count}, `{}` first: lift what is needed of them too",
                super::label(*first)
            ));
        }
    }

    /// What the element takes from its ancestors, from the root down.
    fn inherited(&mut self, pieces: &mut Vec<Piece>) {
        let mut ancestors: Vec<_> =
            std::iter::successors(self.element.parent(), |ancestor| ancestor.parent()).collect();
        ancestors.reverse();
        for ancestor in ancestors {
            let mut applied = self.cascade.applied(ancestor, None);
            applied.sort_by(|a, b| a.by_strength(b));
            for one in applied {
                let property = &one.declaration.property;
                let is_state = one.matched != Truth::Yes && one.depends_on.is_empty();
                let whole = property.longhands().iter().all(|name| is_inherited(name.name()));
                if property.is_custom() || is_state || !whole {
                    continue;
                }
                let value = self.value(&one);
                if is_relative(&value) {
                    self.remarks.insert(format!(
                        "`{property}: {value}` is taken from an ancestor as it stands: it may be relative to that"
                    ));
                }
                self.taken.push((property.to_string(), value.clone()));
                let conditions = one.depends_on.iter().map(|condition| condition.text.clone()).collect();
                pieces.push(Piece {
                    conditions,
                    states: String::new(),
                    text: format!("{property}: {value}"),
                });
            }
        }
    }

    /// `@font-face`, `@keyframes` and the like that the taken values name.
    fn definitions(&self) -> String {
        let mut css = String::new();
        let names = |wanted: &[&str]| -> Vec<String> {
            let values = self.taken.iter().filter(|(property, _)| wanted.contains(&property.as_str()));
            values.flat_map(|(_, value)| value.split([',', ' ', '/'])).map(unquoted).collect()
        };
        let declared = self.taken.iter().filter_map(|(property, value)| declared_families(property, value));
        let families: Vec<String> = declared.flat_map(|(families, _)| families).collect();
        let animations =
            names(&["animation", "animation-name", "-webkit-animation", "-webkit-animation-name"]);
        let counters = names(&["list-style", "list-style-type", "content"]);
        let mut seen = FxHashSet::default();
        for (sheet, place) in self.page.sheets.iter().zip(&self.page.places) {
            for definition in &sheet.rules.definitions {
                let name = definition.name.as_str();
                let is_used = match definition.kind {
                    AtRuleKind::FontFace => families.iter().any(|family| family.eq_ignore_ascii_case(name)),
                    AtRuleKind::CounterStyle => counters.iter().any(|used| used == name),
                    AtRuleKind::Property => self.taken.iter().any(|(_, value)| value.contains(name)),
                    kind if kind.is_keyframes() => animations.iter().any(|used| used == name),
                    _ => false,
                };
                let text = sheet.rules.text.slice(definition.span);
                if is_used && seen.insert(text) {
                    css.push_str(&self.rebased(text, &place.file));
                    css.push('\n');
                }
            }
        }
        css
    }
}

/// Whether a length in the value is measured by what the element is or stands in.
fn is_relative(value: &str) -> bool {
    const UNITS: &[&str] = &["em", "ex", "ch", "cap", "ic", "lh"];
    fn any(input: &mut Parser<'_>) -> bool {
        while let Ok(token) = input.next().cloned() {
            let found = match token {
                Token::Percentage { .. } => true,
                Token::Dimension { unit, .. } => UNITS.contains(&unit.to_ascii_lowercase().as_str()),
                Token::Function(_) | Token::ParenthesisBlock => {
                    input.parse_nested_block(|input| Ok::<_, ParseError<()>>(any(input))) == Ok(true)
                }
                _ => false,
            };
            if found {
                return true;
            }
        }
        false
    }
    any(&mut Parser::new(value))
}

fn unquoted(text: &str) -> String {
    text.trim().trim_matches(['"', '\'']).to_owned()
}
