//! A sheet's tree to the rules that the cascade takes: nesting resolved, and each rule with the layer,
//! the scopes and the conditions that it stands in.

use super::at_rule::AtRuleKind;
use super::at_rule_faults::fault;
use super::condition::{Condition, ConditionTest};
use super::declaration::{Declarations, StyleDeclaration};
use super::layers::layer_names;
use super::list::members;
use super::media::MediaList;
use super::nesting::OuterRule;
use super::rule::{
    CascadeRule, CascadeSelector, Definition, Import, LayerName, LayerPath, Mention, ScopeRange,
};
use super::sharing::has_states;
use super::sheet::{AtRule, Block, Item, Rule, Sheet, StyleRule};
use super::supports::{rest_of, supports};
use crate::markup::{AskedAncestors, Name, Namespaces, Selector, SelectorPlace, parse_scoped_selectors};
use crate::source::Span;

/// What a sheet comes to.
#[derive(Default)]
pub(super) struct CompiledSheet {
    /// Its style rules, in the order in which they appear.
    pub(super) rules: Vec<CascadeRule>,
    /// What matters for the order of layers, in order.
    pub(super) mentions: Vec<Mention>,
    /// The sheets that it imports.
    pub(super) imports: Vec<Import>,
    /// What it defines by name.
    pub(super) definitions: Vec<Definition>,
    /// Custom properties that it registers, and whether they are inherited.
    pub(super) registered: Vec<(String, bool)>,
    /// The selectors of the rules that are too many to be looked into.
    pub(super) too_many: Vec<Span>,
}

/// How many selectors a sheet may have. Each run of declarations has all of its rule's.
pub(crate) const MOST_SELECTORS: usize = 250_000;

/// Compiles a sheet. Any text gives rules.
pub(super) fn compile(text: &str) -> CompiledSheet {
    compile_with(text, |namespaces| namespaces)
}

/// Compiles a sheet with the rules too whose selectors other engines than Chromium know.
pub(super) fn compile_for_all_engines(text: &str) -> CompiledSheet {
    compile_with(text, Namespaces::for_all_engines)
}

fn compile_with(text: &str, reading: fn(Namespaces) -> Namespaces) -> CompiledSheet {
    let sheet = Sheet::parse(text);
    let mut compiler = Compiler {
        text,
        out: CompiledSheet::default(),
        anonymous: 0,
        body: false,
        namespaces: reading(sheet.namespaces(text)),
        spare: MOST_SELECTORS,
        declarations: Declarations::of(text),
    };
    let around = Around::default();
    for rule in &sheet.rules {
        compiler.rule(rule, &around);
    }
    compiler.out
}

/// What a rule stands in.
#[derive(Clone, Default)]
struct Around {
    layer: LayerPath,
    scopes: Vec<ScopeRange>,
    conditions: Vec<Condition>,
    parent: Option<Parent>,
}

/// The style rule that others are nested in.
#[derive(Clone)]
struct Parent {
    outer: OuterRule,
    /// Its own selectors, for declarations that stand in conditions nested in it.
    prelude: Span,
    selectors: Vec<(Selector, Span)>,
}

/// Goes through a sheet, rule by rule.
struct Compiler<'t> {
    text: &'t str,
    out: CompiledSheet,
    anonymous: u32,
    /// Whether a rule has been seen that no `@import` may follow (css-cascade-5, 2).
    body: bool,
    namespaces: Namespaces,
    /// How many more selectors there may be.
    spare: usize,
    declarations: Declarations<'t>,
}

impl<'t> Compiler<'t> {
    fn slice(&self, span: Span) -> &'t str {
        &self.text[span.range()]
    }

    fn rule(&mut self, rule: &Rule, around: &Around) {
        match rule {
            Rule::Style(rule) => {
                self.body = true;
                self.style_rule(rule, around);
            }
            Rule::At(at) => self.at_rule(at, around),
        }
    }

    fn style_rule(&mut self, rule: &StyleRule, around: &Around) {
        let written = self.slice(rule.prelude);
        let outer = around.parent.as_ref().map(|parent| &parent.outer);
        let place = if around.scopes.is_empty() { SelectorPlace::Sheet } else { SelectorPlace::Scope };
        let parsed = OuterRule::read_rule(outer, place, written, &self.namespaces);
        // An invalid selector takes all of the rule with it (Selectors 4, 3.9), what is nested
        // in it included.
        let Ok(found) = parsed else { return };
        let Some((list, outer)) = found.filter(|(list, _)| list.len() <= self.spare) else {
            return self.out.too_many.push(rule.prelude);
        };
        let spans = members(written).into_iter().map(|span| span.shifted(rule.prelude.start as usize));
        let selectors: Vec<(Selector, Span)> = list.slice().iter().cloned().zip(spans).collect();
        let parent = Parent { outer, prelude: rule.prelude, selectors };
        let inside = Around { parent: Some(parent), ..around.clone() };
        self.block(&rule.block, &inside);
    }

    /// The contents of a style rule, or of a condition in one: runs of declarations and rules.
    fn block(&mut self, block: &Block, around: &Around) {
        let mut run = Vec::new();
        for item in &block.items {
            match item {
                Item::Declaration(declaration) => run.push(self.declarations.read(declaration)),
                Item::Rule(rule) => {
                    self.flush(&mut run, around);
                    self.rule(rule, around);
                }
            }
        }
        self.flush(&mut run, around);
    }

    fn flush(&mut self, run: &mut Vec<StyleDeclaration>, around: &Around) {
        let parent = around.parent.as_ref().filter(|parent| {
            self.spare = self.spare.saturating_sub(parent.selectors.len());
            !run.is_empty() && self.spare > 0
        });
        let Some(parent) = parent else {
            run.clear();
            return;
        };
        let selectors = parent.selectors.iter().map(|(selector, span)| CascadeSelector {
            pseudo: pseudo_name(selector),
            ancestors: AskedAncestors::of(selector),
            is_open: has_states(selector) || selector.is_part(),
            selector: selector.clone(),
            span: *span,
        });
        self.out.rules.push(CascadeRule {
            prelude: parent.prelude,
            selectors: selectors.collect(),
            layer: around.layer.clone(),
            scopes: around.scopes.clone(),
            conditions: around.conditions.clone(),
            declarations: std::mem::take(run),
        });
    }

    fn at_rule(&mut self, at: &AtRule, around: &Around) {
        let prelude = self.slice(at.prelude).to_owned();
        let condition = |test| Condition { test, text: format!("@{} {prelude}", at.name).trim().to_owned() };
        let mut inside = around.clone();
        match (at.kind(), &at.block) {
            (AtRuleKind::Charset, None) => return,
            (AtRuleKind::Import, None) if around.parent.is_none() && !self.body => return self.import(at),
            (AtRuleKind::Layer, None) => return self.name_layers(&prelude, around),
            (AtRuleKind::Namespace, None) => {
                self.body = true;
                return;
            }
            (AtRuleKind::Layer, Some(_)) => {
                let names = layer_names(&prelude);
                match names.as_slice() {
                    [one] => inside.layer.extend(one.iter().cloned()),
                    _ if prelude.is_empty() => {
                        let name = self.anonymous();
                        inside.layer.push(name);
                    }
                    _ => return,
                }
                self.out.mentions.push(Mention::Layer(inside.layer.clone(), inside.conditions.clone()));
            }
            (AtRuleKind::Media, Some(_)) => {
                inside.conditions.push(condition(ConditionTest::Media(MediaList::parse(&prelude))))
            }
            (AtRuleKind::Supports, Some(_)) => {
                inside.conditions.push(condition(ConditionTest::Supports(supports(&prelude))))
            }
            (AtRuleKind::Container | AtRuleKind::StartingStyle, Some(_)) => {
                inside.conditions.push(condition(ConditionTest::RunTime))
            }
            (AtRuleKind::Scope, Some(_)) => match scope(&prelude, around, &self.namespaces) {
                Some(range) => {
                    inside.scopes.push(range);
                    inside.parent = None;
                }
                None => return,
            },
            (_, Some(_)) => return self.define(at, &prelude),
            (_, None) => return,
        }
        if !(at.kind() == AtRuleKind::Layer && at.block.is_none()) {
            self.body = true;
        }
        let Some(block) = &at.block else { return };
        match (&inside.parent, at.kind()) {
            (Some(_), _) => self.block(block, &inside),
            (None, AtRuleKind::Scope) => {
                // Bare declarations in a scope are for its root, with no specificity.
                if let Ok(list) = parse_scoped_selectors(":where(:scope)") {
                    let span = at.prelude;
                    let selectors = list.slice().iter().cloned().map(|selector| (selector, span)).collect();
                    let bare = Parent { outer: OuterRule::new(&list), prelude: span, selectors };
                    for item in &block.items {
                        match item {
                            Item::Declaration(declaration) => {
                                let mut run = vec![self.declarations.read(declaration)];
                                self.flush(
                                    &mut run,
                                    &Around { parent: Some(bare.clone()), ..inside.clone() },
                                );
                            }
                            Item::Rule(rule) => self.rule(rule, &inside),
                        }
                    }
                }
            }
            (None, _) => {
                for item in &block.items {
                    if let Item::Rule(rule) = item {
                        self.rule(rule, &inside);
                    }
                }
            }
        }
    }

    fn anonymous(&mut self) -> LayerName {
        self.anonymous += 1;
        LayerName::Anonymous(self.anonymous)
    }

    fn name_layers(&mut self, prelude: &str, around: &Around) {
        for names in layer_names(prelude) {
            let mut path = around.layer.clone();
            path.extend(names);
            self.out.mentions.push(Mention::Layer(path, around.conditions.clone()));
        }
    }

    fn define(&mut self, at: &AtRule, prelude: &str) {
        self.body = true;
        if fault(self.text, at, false).is_some() {
            return;
        }
        let name = match at.kind() {
            AtRuleKind::FontFace => {
                let family = at.block.iter().flat_map(|block| &block.items).find_map(|item| match item {
                    Item::Declaration(own) if own.name.eq_ignore_ascii_case("font-family") => Some(own.value),
                    _ => None,
                });
                let Some(family) = family else { return };
                unquoted(self.slice(family))
            }
            _ => unquoted(prelude),
        };
        if at.kind() == AtRuleKind::Property
            && let Some(inherits) = self.inherits(at)
        {
            self.out.registered.push((name.clone(), inherits));
        }
        self.out.definitions.push(Definition {
            kind: at.kind(),
            at_rule: at.name.clone(),
            name,
            span: at.span,
        });
    }

    /// What `inherits` of a registration says; a browser ignores one that lacks it or `syntax`.
    fn inherits(&self, at: &AtRule) -> Option<bool> {
        let value = |wanted: &str| {
            at.block.iter().flat_map(|block| &block.items).rev().find_map(|item| match item {
                Item::Declaration(own) if own.name.eq_ignore_ascii_case(wanted) => {
                    Some(self.slice(own.value).trim())
                }
                _ => None,
            })
        };
        value("syntax")?;
        match value("inherits")?.to_ascii_lowercase().as_str() {
            "true" => Some(true),
            "false" => Some(false),
            _ => None,
        }
    }

    fn import(&mut self, at: &AtRule) {
        let mut input = cssparser::Parser::new(self.slice(at.prelude));
        let Ok(url) = input.expect_url_or_string().map(|url| url.to_string()) else { return };
        let mut layer = None;
        let mut sublayers = Vec::new();
        let mut conditions = Vec::new();
        if input.try_parse(|input| input.expect_ident_matching("layer")).is_ok() {
            layer = Some(self.anonymous());
        } else if let Ok(text) = input.try_parse(|input| {
            input.expect_function_matching("layer")?;
            input.parse_nested_block(|input| Ok::<_, cssparser::ParseError<()>>(rest_of(input)))
        }) {
            let mut names = layer_names(&text).into_iter().next().unwrap_or_default().into_iter();
            layer = names.next();
            sublayers = names.collect();
        }
        if let Ok(text) = input.try_parse(|input| {
            input.expect_function_matching("supports")?;
            input.parse_nested_block(|input| Ok::<_, cssparser::ParseError<()>>(rest_of(input)))
        }) {
            let inner = if text.trim_start().starts_with('(') { text } else { format!("({})", text.trim()) };
            let test = ConditionTest::Supports(supports(&inner));
            conditions.push(Condition { test, text: format!("@supports {inner}") });
        }
        let media = rest_of(&mut input);
        if !media.trim().is_empty() {
            conditions.push(Condition::media(&media));
        }
        if let Some(first) = &layer {
            let path = std::iter::once(first).chain(&sublayers).cloned().collect();
            self.out.mentions.push(Mention::Layer(path, conditions.clone()));
        }
        self.out.mentions.push(Mention::Import(self.out.imports.len()));
        self.out.imports.push(Import { url, span: at.span, layer, sublayers, conditions });
    }
}

fn unquoted(text: &str) -> String {
    let mut input = cssparser::Parser::new(text);
    let word = input.try_parse(|input| input.expect_string().map(|word| word.to_string()));
    word.unwrap_or_else(|_| text.split_ascii_whitespace().collect::<Vec<_>>().join(" "))
}

/// The pseudo-element of a selector, by the name that all its spellings share.
fn pseudo_name(selector: &Selector) -> Option<String> {
    let pseudo = selector.pseudo_element().map(|pseudo| pseudo.0.as_str());
    let parts = selector.parts().map(|parts| {
        let names: Vec<&str> = parts.iter().map(|Name(name)| &**name).collect();
        format!("part({})", names.join(" "))
    });
    match (parts, pseudo) {
        (Some(parts), Some(pseudo)) => Some(format!("{parts}::{pseudo}")),
        (parts, pseudo) => parts.or_else(|| pseudo.map(str::to_owned)),
    }
}

/// `(root) to (limit)`. Inside of a style rule or another scope both are relative to that.
fn scope(prelude: &str, around: &Around, namespaces: &Namespaces) -> Option<ScopeRange> {
    let mut input = cssparser::Parser::new(prelude);
    let list = |input: &mut cssparser::Parser<'_>| -> Option<String> {
        let block = input.try_parse(|input| {
            input.expect_parenthesis_block()?;
            input.parse_nested_block(|input| Ok::<_, cssparser::ParseError<()>>(rest_of(input)))
        });
        block.ok()
    };
    let roots = match list(&mut input) {
        Some(text) => Some(match &around.parent {
            Some(parent) => parent.outer.read(&text, namespaces).ok()?,
            None if around.scopes.is_empty() => SelectorPlace::Sheet.read(&text, namespaces).ok()?,
            None => SelectorPlace::Scope.read(&text, namespaces).ok()?,
        }),
        None => None,
    };
    let mut limits = None;
    if input.try_parse(|input| input.expect_ident_matching("to")).is_ok() {
        limits = Some(SelectorPlace::Scope.read(&list(&mut input)?, namespaces).ok()?);
    }
    input.expect_exhausted().ok()?;
    Some(ScopeRange { roots, limits })
}

/// Where the roots of a `@scope` stand in its prelude, without their brackets; none where it names none.
pub fn scope_roots(prelude: &str) -> Option<Span> {
    let mut input = cssparser::Parser::new(prelude);
    input.skip_whitespace();
    input.expect_parenthesis_block().ok()?;
    let start = input.position().byte_index();
    let inner = input.parse_nested_block(|input| Ok::<_, cssparser::ParseError<()>>(rest_of(input).len()));
    Some(Span::new(start, start + inner.ok()?))
}
