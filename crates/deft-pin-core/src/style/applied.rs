//! What applies to an element: declarations with their strength, and what they come to for each
//! longhand.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::collections::BTreeMap;
use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::condition::Condition;
use super::declaration::StyleDeclaration;
use super::on_page::PageSheet;
use super::properties::Flow;
use super::property_id::PropertyId;
use super::rule::{CascadeRule, CascadeSelector, LayerName};
use super::truth::Truth;
use crate::markup::NodeId;
use crate::source::SourceText;

/// A declaration that applies to an element, or may, as it is looked at for one longhand. It costs
/// little to copy.
#[derive(Clone, Debug)]
pub struct Applied<'p> {
    declared: Rc<AppliedDeclaration<'p>>,
    /// The longhand that it sets, by the name that it was declared under; none before it is looked
    /// at for one.
    pub longhand: Option<PropertyId>,
}

/// A declaration that applies to an element, or may.
#[derive(Debug)]
pub struct AppliedDeclaration<'p> {
    /// Where it comes from.
    pub source: DeclarationSource<'p>,
    /// The declaration.
    pub declaration: Cow<'p, StyleDeclaration>,
    /// Whether it certainly applies.
    pub matched: Truth,
    /// What it still depends on.
    pub depends_on: Vec<&'p Condition>,
    pub(super) strength: Strength,
}

/// Where a declaration that applies to an element comes from.
#[derive(Clone, Debug)]
pub enum DeclarationSource<'p> {
    /// A rule of a sheet.
    Rule {
        /// The sheet's place in the page's list.
        sheet: usize,
        /// The rule.
        rule: &'p CascadeRule,
        /// The selector that matched; of several the most specific.
        selector: &'p CascadeSelector,
    },
    /// An attribute of the element: its text, or what presentational hints come to.
    Attribute(Arc<SourceText>),
}

impl<'p> std::ops::Deref for Applied<'p> {
    type Target = AppliedDeclaration<'p>;

    fn deref(&self) -> &AppliedDeclaration<'p> {
        &self.declared
    }
}

impl<'p> From<AppliedDeclaration<'p>> for Applied<'p> {
    fn from(declared: AppliedDeclaration<'p>) -> Self {
        Applied { declared: Rc::new(declared), longhand: None }
    }
}

impl<'p> AppliedDeclaration<'p> {
    /// The place of its sheet in the page's list; none for an attribute.
    pub fn sheet(&self) -> Option<usize> {
        match self.source {
            DeclarationSource::Rule { sheet, .. } => Some(sheet),
            DeclarationSource::Attribute(_) => None,
        }
    }

    /// The rule that it stands in; none for an attribute.
    pub fn rule(&self) -> Option<&'p CascadeRule> {
        match self.source {
            DeclarationSource::Rule { rule, .. } => Some(rule),
            DeclarationSource::Attribute(_) => None,
        }
    }

    /// The selector that matched; none for an attribute.
    pub fn selector(&self) -> Option<&'p CascadeSelector> {
        match self.source {
            DeclarationSource::Rule { selector, .. } => Some(selector),
            DeclarationSource::Attribute(_) => None,
        }
    }
}

/// How strong a declaration is: the greater, the stronger. The steps of the cascade, in order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Strength {
    /// Important ones are; attributes of presentation are weaker than anything of a sheet.
    pub(super) origin: Origin,
    /// The tree that it stands in: of two normal declarations the one of the earlier tree wins.
    pub(super) context: i64,
    pub(super) inline: bool,
    pub(super) layer: i64,
    pub(super) specificity: [u32; 3],
    pub(super) proximity: Reverse<u32>,
    pub(super) order: (u32, u32, u32),
}

/// The place of a tree among those of a page, by the host of a shadow tree (css-scoping-1, 3.3.1: an earlier one
/// in tree order is stronger).
pub(super) fn tree_order(host: Option<NodeId>) -> i64 {
    host.map_or(0, |host| i64::from(host.number()))
}

/// The origins that a page itself has, weakest first (css-cascade-5, 6.1).
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Origin {
    /// An attribute of presentation.
    Attribute,
    /// A normal declaration.
    Normal,
    /// An important one.
    Important,
}

impl Origin {
    pub(super) fn of(important: bool) -> Self {
        if important { Origin::Important } else { Origin::Normal }
    }
}

/// The step of the cascade that separated two declarations.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum Step {
    /// There is no other declaration.
    Alone,
    /// One is important.
    Importance,
    /// One is an attribute of presentation, such as `bgcolor`.
    Origin,
    /// One is in the sheet of a shadow tree.
    Context,
    /// One is in the style attribute.
    Inline,
    /// The one's layer.
    Layer,
    /// How near the root of its scope is.
    Scope,
    /// Specificity.
    Specificity,
    /// The order in which they appear.
    Order,
}

impl Step {
    /// The name that answers use.
    pub fn name(self) -> &'static str {
        match self {
            Step::Alone => "alone",
            Step::Importance => "importance",
            Step::Origin => "origin",
            Step::Context => "context",
            Step::Inline => "inline",
            Step::Layer => "layer",
            Step::Scope => "scope",
            Step::Specificity => "specificity",
            Step::Order => "order",
        }
    }
}

impl Applied<'_> {
    /// Whether it is what attributes of presentation come to.
    pub fn is_hint(&self) -> bool {
        self.strength.origin == Origin::Attribute
    }

    /// The step by which one declaration beats another.
    pub fn beats_by(&self, other: &Applied<'_>) -> Step {
        let (a, b) = (self.strength, other.strength);
        if a.origin != b.origin {
            if a.origin == Origin::Important { Step::Importance } else { Step::Origin }
        } else if a.context != b.context {
            Step::Context
        } else if a.inline != b.inline {
            Step::Inline
        } else if a.layer != b.layer {
            Step::Layer
        } else if a.specificity != b.specificity {
            Step::Specificity
        } else if a.proximity != b.proximity {
            Step::Scope
        } else {
            Step::Order
        }
    }

    /// Whether it is the same declaration as another.
    pub fn is_same(&self, other: &Applied<'_>) -> bool {
        (self.sheet(), self.declaration.span) == (other.sheet(), other.declaration.span)
    }

    /// The specificity that it came with.
    pub fn specificity(&self) -> [u32; 3] {
        self.strength.specificity
    }

    /// Whether it would still beat another if it were not important.
    pub fn beats_unimportant(&self, other: &Applied<'_>) -> bool {
        let is_important = self.strength.origin == Origin::Important;
        let layer = if is_important { -self.strength.layer } else { self.strength.layer };
        Strength { origin: Origin::Normal, layer, ..self.strength } > other.strength
    }

    /// Whether it stands before another in the order of strength, weakest first.
    pub fn by_strength(&self, other: &Applied<'_>) -> std::cmp::Ordering {
        self.strength.cmp(&other.strength)
    }

    /// Its value, as it was written.
    pub fn value<'a>(&'a self, sheets: &'a [PageSheet]) -> &'a str {
        self.text(sheets).slice(self.declaration.value)
    }

    /// The text that it stands in.
    pub fn text<'a>(&'a self, sheets: &'a [PageSheet]) -> &'a SourceText {
        match &self.source {
            DeclarationSource::Rule { sheet, .. } => &sheets[*sheet].rules.text,
            DeclarationSource::Attribute(text) => text,
        }
    }
}

/// What the declarations on an element come to for one longhand.
#[derive(Clone, Debug)]
pub struct Outcome<'p> {
    /// The longhand, by its physical name.
    pub property: PropertyId,
    /// The winner: the strongest that certainly applies, else the strongest that may.
    pub winner: Applied<'p>,
    /// What separated the winner from the strongest that it beats.
    pub by: Step,
    /// Those that it beats, strongest first.
    pub losers: Vec<Applied<'p>>,
    /// Those that would beat it if what they depend on came about, strongest first.
    pub may_win: Vec<Applied<'p>>,
    /// Where the winner says `revert-layer`: which of the losers counts in its place; none where
    /// it comes to what browsers have by themselves.
    pub rolled_back_to: Option<usize>,
}

/// The winner of each longhand.
pub(super) fn settle<'p>(
    applied: &[Applied<'p>],
    flow: Flow,
    wanted: Option<&FxHashSet<PropertyId>>,
    sheets: &[PageSheet],
) -> Vec<Outcome<'p>> {
    let mut by_longhand: BTreeMap<PropertyId, Vec<Applied<'p>>> = BTreeMap::new();
    for one in applied {
        for longhand in one.declaration.property.longhands() {
            let physical = longhand.physical(flow);
            if wanted.is_none_or(|wanted| wanted.contains(&physical)) {
                let looked_at =
                    Applied { declared: Rc::clone(&one.declared), longhand: Some(longhand.clone()) };
                by_longhand.entry(physical).or_default().push(looked_at);
            }
        }
    }
    let outcome = |(property, mut all): (PropertyId, Vec<Applied<'p>>)| {
        all.sort_by_key(|one| Reverse(one.strength));
        let mut all = all.into_iter();
        let mut may_win: Vec<Applied<'p>> = Vec::new();
        let sure = all.by_ref().find_map(|one| match one.matched {
            Truth::Yes => Some(one),
            _ => {
                may_win.push(one);
                None
            }
        });
        let (winner, losers) = match sure {
            Some(sure) => (sure, all.collect::<Vec<_>>()),
            // Nothing is certain: the strongest that may apply stands for the rest.
            None => {
                let mut open = std::mem::take(&mut may_win).into_iter();
                (open.next()?, open.collect())
            }
        };
        let by = losers.first().map_or(Step::Alone, |loser| winner.beats_by(loser));
        let rolled_back_to = rolled_back_to(&winner, &losers, sheets);
        Some(Outcome { property, winner, by, losers, may_win, rolled_back_to })
    };
    by_longhand.into_iter().filter_map(outcome).collect()
}

/// What `revert-layer` rolls back to: the strongest of the layers below its own
/// (css-cascade-5, 7.3.5), in their normal order also where it is important.
fn rolled_back_to(winner: &Applied<'_>, losers: &[Applied<'_>], sheets: &[PageSheet]) -> Option<usize> {
    let reverts = |one: &Applied<'_>| one.value(sheets).trim().eq_ignore_ascii_case("revert-layer");
    let layer = |one: &Applied<'_>| {
        let Strength { context, inline, layer, .. } = one.strength;
        (!one.is_hint(), -context.abs(), inline, layer.abs())
    };
    if !reverts(winner) {
        return None;
    }
    let mut lowest = layer(winner);
    for (place, loser) in losers.iter().enumerate().filter(|(_, loser)| loser.matched == Truth::Yes) {
        if layer(loser) < lowest {
            if !reverts(loser) {
                return Some(place);
            }
            lowest = layer(loser);
        }
    }
    None
}

/// The layer names of a rule as people write them: `base.reset`; an anonymous one is `(anonymous)`.
pub fn layer_name(path: &[LayerName]) -> Option<String> {
    let names = path.iter().map(|name| match name {
        LayerName::Named(name) => name.as_str(),
        LayerName::Anonymous(_) => "(anonymous)",
    });
    let names: Vec<_> = names.collect();
    (!names.is_empty()).then(|| names.join("."))
}
