//! A sheet made ready for the cascade: every style rule with its selectors as they match, nesting
//! resolved, and with the layer, the scopes and the conditions that it stands in. Made once for a
//! file, whatever the number of pages that load it.

use std::sync::OnceLock;

use rustc_hash::FxHashMap;

use super::edit::{Edit, apply};
use super::likeness::{SharingFacts, has_states};
use super::list::members;
use super::media::{MediaList, Viewport};
use super::properties::is_property;
use super::property_id::PropertyId;
use super::sheet::{AtRule, Block, Declaration, Item, Rule, Sheet, StyleRule};
use super::truth::Truth;
use super::values::{Validity, supported, validity};
use crate::markup::{
    AskedAncestors, NamedPart, Selector, SelectorIndex, SelectorList, names_in, parse_nested_selectors,
    parse_scoped_selectors, parse_selectors,
};
use crate::source::{FilePath, Position, SourceText, Span};

/// A sheet ready for the cascade.
#[derive(Debug, Default)]
pub struct StyleRules {
    /// The sheet's text, for what is shown of it.
    pub text: SourceText,
    /// The text as it was before it was edited, and the edits.
    written: Option<(SourceText, Vec<Edit>)>,
    /// Its style rules, in the order in which they appear.
    pub rules: Vec<CascadeRule>,
    /// What matters for the order of layers, in order.
    pub(super) mentions: Vec<Mention>,
    /// The sheets that it imports.
    pub imports: Vec<Import>,
    /// `@font-face` and `@keyframes` and other at-rules that define something by name.
    pub definitions: Vec<Definition>,
    /// Custom properties that it registers, and whether they are inherited.
    pub(super) registered: Vec<(String, bool)>,
    /// Where its selectors are found by what an element needs to match them: the place of the rule
    /// and that of the selector in it.
    pub(super) index: SelectorIndex<(u32, u32)>,
    names: OnceLock<FxHashMap<NamedPart, Span>>,
    sharing: OnceLock<SharingFacts>,
    /// Whether some rule sets `writing-mode` or `direction`.
    pub(super) sets_flow: bool,
}

/// One style rule, or a run of declarations that stands behind rules nested in it: such a run is a
/// rule of its own (css-nesting-1, 4.2).
#[derive(Debug)]
pub struct CascadeRule {
    /// The selector list as it was written.
    pub prelude: Span,
    /// The selectors.
    pub selectors: Vec<CascadeSelector>,
    /// The layer that it is in, within this sheet.
    pub layer: LayerPath,
    /// The scopes around it, outermost first.
    pub scopes: Vec<ScopeRange>,
    /// The conditions that it stands under, outermost first.
    pub conditions: Vec<Condition>,
    /// Its declarations, in order.
    pub declarations: Vec<StyleDeclaration>,
}

/// A complex selector of a rule.
#[derive(Debug)]
pub struct CascadeSelector {
    /// The selector, ready to be matched.
    pub selector: Selector,
    /// Where it was written.
    pub span: Span,
    /// The pseudo-element that it is for, by its name without the colons.
    pub pseudo: Option<String>,
    /// What it asks of ancestors.
    pub(super) ancestors: AskedAncestors,
    /// Whether it asks for something that only a running page settles.
    pub(super) is_open: bool,
}

impl CascadeSelector {
    /// Its specificity (Selectors 4, 15): IDs; classes, attributes and pseudo-classes; elements
    /// and pseudo-elements.
    pub fn specificity(&self) -> [u32; 3] {
        let packed = self.selector.specificity();
        [packed >> 20, (packed >> 10) & 0x3ff, packed & 0x3ff]
    }
}

/// A declaration of a style rule.
#[derive(Clone, Debug)]
pub struct StyleDeclaration {
    /// The property.
    pub property: PropertyId,
    /// All of it.
    pub span: Span,
    /// The value, without `!important`.
    pub value: Span,
    /// Whether it is important.
    pub important: bool,
    /// Whether a browser takes it.
    pub validity: Validity,
}

impl StyleDeclaration {
    /// Whether it takes no part on a page, given the text that it stands in.
    pub fn is_dropped(&self, text: &SourceText, quirks: bool) -> bool {
        let in_quirks = || validity(self.property.name(), text.slice(self.value), true);
        self.validity == Validity::Dropped && !(quirks && in_quirks() != Validity::Dropped)
    }
}

/// The names of a layer and those around it, outermost first. Anonymous layers have numbers.
pub type LayerPath = Vec<LayerName>;

/// The name of a layer.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum LayerName {
    /// A name.
    Named(String),
    /// No name: every such layer is one of its own.
    Anonymous(u32),
}

/// What matters for the order of layers.
#[derive(Debug)]
pub(super) enum Mention {
    /// A layer is named or opened, under some conditions: where they do not hold, it is not
    /// (css-cascade-5, 6.4.3).
    Layer(LayerPath, Vec<Condition>),
    /// A sheet is imported, by its place in the list.
    Import(usize),
}

/// An imported sheet (css-cascade-5, 2).
#[derive(Debug)]
pub struct Import {
    /// Its address as written.
    pub url: String,
    /// Where the rule stands.
    pub span: Span,
    /// The layer that it goes into.
    pub layer: Option<LayerName>,
    /// More names, where the layer's name has dots.
    pub sublayers: Vec<LayerName>,
    /// The conditions that it is imported under.
    pub conditions: Vec<Condition>,
}

/// A range of elements that rules are confined to (css-cascade-6, 2.5).
#[derive(Clone, Debug)]
pub struct ScopeRange {
    /// What its roots match; `None` for the parent of the element that holds the sheet.
    pub roots: Option<SelectorList>,
    /// What ends it.
    pub limits: Option<SelectorList>,
}

/// A condition that rules stand under.
#[derive(Clone, Debug)]
pub struct Condition {
    /// What it asks.
    pub test: ConditionTest,
    /// Its text, as `@media (min-width: 40em)`.
    pub text: String,
}

/// What a condition asks.
#[derive(Clone, Debug)]
pub enum ConditionTest {
    /// Media queries.
    Media(MediaList),
    /// What a browser supports, as far as that can be told.
    Supports(Truth),
    /// A container's size or style, or a transition's start: settled by layout alone.
    RunTime,
}

impl Condition {
    /// A condition of a `media` attribute.
    pub fn media(text: &str) -> Self {
        let test = ConditionTest::Media(MediaList::parse(text));
        Condition { test, text: format!("@media {}", text.trim()) }
    }

    /// Whether it holds.
    pub fn holds(&self, viewport: &Viewport) -> Truth {
        match &self.test {
            ConditionTest::Media(list) => list.holds(viewport),
            ConditionTest::Supports(truth) => *truth,
            ConditionTest::RunTime => Truth::AtRunTime,
        }
    }
}

/// An at-rule that defines something by name.
#[derive(Debug)]
pub struct Definition {
    /// The at-rule's name, in lower case: `font-face`, `keyframes`.
    pub kind: String,
    /// The name that it defines.
    pub name: String,
    /// Where all of it stands.
    pub span: Span,
}

impl StyleRules {
    /// Makes a sheet ready.
    pub fn new(text: String) -> Self {
        let sheet = Sheet::parse(&text);
        // Each run of declarations has all of its rule's selectors: more of them than this is
        // nobody's sheet, and rules behind them are left out.
        let spare = (1 << 18) + 16 * text.len();
        let mut compiler =
            Compiler { text: &text, out: StyleRules::default(), anonymous: 0, body: false, spare };
        let around = Around::default();
        for rule in &sheet.rules {
            compiler.rule(rule, &around);
        }
        let mut out = compiler.out;
        out.text = SourceText::new(text);
        let declarations = out.rules.iter().flat_map(|rule| &rule.declarations);
        out.sets_flow = declarations.into_iter().any(|own| sets_flow(&own.property));
        for (number, rule) in out.rules.iter().enumerate() {
            for (place, selector) in rule.selectors.iter().enumerate() {
                out.index.add(&selector.selector, (number as u32, place as u32));
            }
        }
        out
    }

    /// Makes a sheet ready as it stands after some edits. Places in it are those in the text as
    /// it was written.
    pub fn edited(written: &SourceText, mut edits: Vec<Edit>) -> Self {
        edits.sort_by_key(|edit| edit.span);
        let mut rules = StyleRules::new(apply(written.as_str(), edits.clone()));
        rules.written = Some((written.clone(), edits));
        rules
    }

    /// The names in its selectors, with the first selector that has each.
    pub fn names(&self) -> &FxHashMap<NamedPart, Span> {
        self.names.get_or_init(|| {
            let mut names = FxHashMap::default();
            for selector in self.rules.iter().flat_map(|rule| &rule.selectors) {
                for name in names_in(&selector.selector) {
                    names.entry(name).or_insert(selector.span);
                }
            }
            names
        })
    }

    /// What has to be known of its selectors for elements that are alike to share one answer.
    pub(super) fn sharing(&self) -> &SharingFacts {
        self.sharing.get_or_init(|| SharingFacts::of(&self.rules))
    }

    /// The line and column of a place, in the text as it was written.
    pub fn position(&self, at: u32) -> Position {
        match &self.written {
            None => self.text.position(at),
            Some((written, edits)) => written.position(before(edits, at)),
        }
    }

    /// The file that a place is from, where the sheet is made of several.
    pub fn file(&self, at: u32) -> Option<&FilePath> {
        let (written, edits) = self.written.as_ref()?;
        written.file(before(edits, at))
    }

    /// A span as one of the file that it is from.
    pub fn own_span(&self, span: Span) -> Span {
        match &self.written {
            None => span,
            Some((written, _)) => written.own_span(self.source(span).1),
        }
    }

    /// The text of a span, as it was written.
    pub fn written(&self, span: Span) -> &str {
        match &self.written {
            None => self.text.slice(span),
            Some((written, edits)) => {
                written.slice(Span { start: before(edits, span.start), end: before(edits, span.end) })
            }
        }
    }

    /// The whole text, as it was written, and a span in it.
    pub fn source(&self, span: Span) -> (&str, Span) {
        match &self.written {
            None => (self.text.as_str(), span),
            Some((written, edits)) => {
                (written.as_str(), Span { start: before(edits, span.start), end: before(edits, span.end) })
            }
        }
    }

    /// The declarations of a style attribute.
    pub fn of_attribute(text: &str) -> (SourceText, Vec<StyleDeclaration>) {
        let wrapped = format!("*{{{text}\n}}");
        let sheet = Sheet::parse(&wrapped);
        let declarations = match sheet.rules.first() {
            Some(Rule::Style(rule)) => declarations(&wrapped, &rule.block),
            _ => Vec::new(),
        };
        (SourceText::new(wrapped), declarations)
    }
}

/// Whether a property decides how text runs.
pub(super) fn sets_flow(property: &PropertyId) -> bool {
    matches!(property.name(), "writing-mode" | "direction" | "all")
}

/// Where a place of an edited text was before the edits.
fn before(edits: &[Edit], at: u32) -> u32 {
    let mut shift = 0i64;
    for edit in edits {
        let start = i64::from(edit.span.start) + shift;
        let end = start + edit.text.len() as i64;
        if i64::from(at) < start {
            break;
        }
        if i64::from(at) < end {
            return edit.span.start;
        }
        shift += edit.text.len() as i64 - i64::from(edit.span.end - edit.span.start);
    }
    (i64::from(at) - shift).max(0) as u32
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
    /// What `&` stands for: its selectors without those of pseudo-elements.
    list: SelectorList,
    /// Its own selectors, for declarations that stand in conditions nested in it.
    prelude: Span,
    selectors: Vec<(Selector, Span)>,
}

struct Compiler<'t> {
    text: &'t str,
    out: StyleRules,
    anonymous: u32,
    /// Whether a rule has been seen that no `@import` may follow (css-cascade-5, 2).
    body: bool,
    /// How many more selectors there may be.
    spare: usize,
}

fn declarations(text: &str, block: &Block) -> Vec<StyleDeclaration> {
    let own = block.items.iter().filter_map(|item| match item {
        Item::Declaration(declaration) => Some(declaration),
        Item::Rule(_) => None,
    });
    own.map(|declaration| style_declaration(text, declaration)).collect()
}

/// A declaration as the cascade has it.
pub(super) fn style_declaration(text: &str, declaration: &Declaration) -> StyleDeclaration {
    let property = PropertyId::of(&declaration.name);
    let mut value = declaration.value;
    if declaration.important {
        let whole = &text[value.range()];
        let end = whole.rfind('!').unwrap_or(whole.len());
        value.end = value.start + whole[..end].trim_end().len() as u32;
    }
    let judged = validity(property.name(), &text[value.range()], false);
    StyleDeclaration {
        property,
        span: declaration.span,
        value,
        important: declaration.important,
        validity: judged,
    }
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
        let parsed = match (&around.parent, around.scopes.is_empty()) {
            (Some(parent), _) => {
                parse_nested_selectors(written).map(|list| list.replace_parent_selector(&parent.list))
            }
            (None, false) => parse_scoped_selectors(written),
            (None, true) => parse_selectors(written),
        };
        // An invalid selector takes all of the rule with it (Selectors 4, 3.9), what is nested
        // in it included.
        let Ok(list) = parsed else { return };
        let spans = members(written).into_iter().map(|span| span.shifted(rule.prelude.start as usize));
        let selectors: Vec<(Selector, Span)> = list.slice().iter().cloned().zip(spans).collect();
        let elements: Vec<_> =
            list.slice().iter().filter(|selector| !selector.has_pseudo_element()).cloned().collect();
        let parent =
            Parent { list: SelectorList::from_iter(elements.into_iter()), prelude: rule.prelude, selectors };
        let inside = Around { parent: Some(parent), ..around.clone() };
        self.block(&rule.block, &inside);
    }

    /// The contents of a style rule, or of a condition in one: runs of declarations and rules.
    fn block(&mut self, block: &Block, around: &Around) {
        let mut run = Vec::new();
        for item in &block.items {
            match item {
                Item::Declaration(declaration) => run.push(style_declaration(self.text, declaration)),
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
            is_open: has_states(selector),
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
        match (at.name.as_str(), &at.block) {
            ("charset", None) => return,
            ("import", None) if around.parent.is_none() && !self.body => return self.import(at),
            ("layer", None) => return self.name_layers(&prelude, around),
            ("namespace", None) => {
                self.body = true;
                return;
            }
            ("layer", Some(_)) => {
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
            ("media", Some(_)) => {
                inside.conditions.push(condition(ConditionTest::Media(MediaList::parse(&prelude))))
            }
            ("supports", Some(_)) => {
                inside.conditions.push(condition(ConditionTest::Supports(supports(&prelude))))
            }
            ("container" | "starting-style", Some(_)) => {
                inside.conditions.push(condition(ConditionTest::RunTime))
            }
            ("scope", Some(_)) => match scope(&prelude, around) {
                Some(range) => {
                    inside.scopes.push(range);
                    inside.parent = None;
                }
                None => return,
            },
            (_, Some(_)) => return self.define(at, &prelude),
            (_, None) => return,
        }
        if !(at.name == "layer" && at.block.is_none()) {
            self.body = true;
        }
        let Some(block) = &at.block else { return };
        match (&inside.parent, at.name.as_str()) {
            (Some(_), _) => self.block(block, &inside),
            (None, "scope") => {
                // Bare declarations in a scope are for its root, with no specificity.
                if let Ok(list) = parse_scoped_selectors(":where(:scope)") {
                    let span = at.prelude;
                    let selectors = list.slice().iter().cloned().map(|selector| (selector, span)).collect();
                    let bare = Parent { list, prelude: span, selectors };
                    for item in &block.items {
                        match item {
                            Item::Declaration(declaration) => {
                                let mut run = vec![style_declaration(self.text, declaration)];
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
        let name = match at.name.as_str() {
            "font-face" => {
                let family = at.block.iter().flat_map(|block| &block.items).find_map(|item| match item {
                    Item::Declaration(own) if own.name.eq_ignore_ascii_case("font-family") => Some(own.value),
                    _ => None,
                });
                let Some(family) = family else { return };
                unquoted(self.slice(family))
            }
            _ => unquoted(prelude),
        };
        if at.name == "property"
            && let Some(inherits) = self.inherits(at)
        {
            self.out.registered.push((name.clone(), inherits));
        }
        self.out.definitions.push(Definition { kind: at.name.clone(), name, span: at.span });
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

fn rest_of(input: &mut cssparser::Parser<'_>) -> String {
    let start = input.position();
    while input.next().is_ok() {}
    input.slice_from(start).to_owned()
}

fn unquoted(text: &str) -> String {
    let mut input = cssparser::Parser::new(text);
    let word = input.try_parse(|input| input.expect_string().map(|word| word.to_string()));
    word.unwrap_or_else(|_| text.split_ascii_whitespace().collect::<Vec<_>>().join(" "))
}

/// The pseudo-element of a selector, by the name that all its spellings share.
fn pseudo_name(selector: &Selector) -> Option<String> {
    selector.pseudo_element().map(|pseudo| pseudo.0.clone())
}

/// `a.b, c`: the names of layers.
fn layer_names(text: &str) -> Vec<Vec<LayerName>> {
    let lists = text.split(',').map(|path| {
        path.trim().split('.').map(|name| LayerName::Named(name.trim().to_owned())).collect::<Vec<_>>()
    });
    let is_named =
        |name: &LayerName| matches!(name, LayerName::Named(name) if !name.is_empty() && !name.contains(' '));
    lists.filter(|path| path.iter().all(is_named)).collect()
}

/// `(root) to (limit)`. Inside of a style rule or another scope both are relative to that.
fn scope(prelude: &str, around: &Around) -> Option<ScopeRange> {
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
            Some(parent) => parse_nested_selectors(&text).ok()?.replace_parent_selector(&parent.list),
            None if around.scopes.is_empty() => parse_selectors(&text).ok()?,
            None => parse_scoped_selectors(&text).ok()?,
        }),
        None => None,
    };
    let mut limits = None;
    if input.try_parse(|input| input.expect_ident_matching("to")).is_ok() {
        limits = Some(parse_scoped_selectors(&list(&mut input)?).ok()?);
    }
    input.expect_exhausted().ok()?;
    Some(ScopeRange { roots, limits })
}

/// What `@supports` asks (css-conditional-3, 6), as far as the tables of properties and selectors
/// tell.
fn supports(text: &str) -> Truth {
    let mut input = cssparser::Parser::new(text);
    supports_condition(&mut input).unwrap_or(Truth::No)
}

type Bad = cssparser::ParseError<()>;

fn supports_condition(input: &mut cssparser::Parser<'_>) -> Result<Truth, Bad> {
    if input.try_parse(|input| input.expect_ident_matching("not")).is_ok() {
        let inner = supports_in_parens(input)?;
        input.expect_exhausted()?;
        return Ok(!inner);
    }
    let mut truth = supports_in_parens(input)?;
    while !input.is_exhausted() {
        let word = input.expect_ident()?.to_ascii_lowercase();
        let next = supports_in_parens(input)?;
        truth = match word.as_str() {
            "and" => truth.and(next),
            "or" => truth.or(next),
            _ => return Err(Bad::unexpected_token()),
        };
    }
    Ok(truth)
}

fn supports_in_parens(input: &mut cssparser::Parser<'_>) -> Result<Truth, Bad> {
    match input.next()?.clone() {
        cssparser::Token::ParenthesisBlock => input.parse_nested_block(|input| {
            if let Ok(truth) = input.try_parse(|input| {
                let truth = supports_condition(input)?;
                input.expect_exhausted()?;
                Ok::<_, Bad>(truth)
            }) {
                return Ok(truth);
            }
            let declaration = input.try_parse(|input| {
                let name = input.expect_ident()?.to_string();
                input.expect_colon()?;
                Ok::<_, Bad>(name)
            });
            let value = rest_of(input);
            Ok(match declaration {
                Ok(name) if name.starts_with("--") => Truth::Yes,
                Ok(name) if name.starts_with('-') && super::properties::property(&name).is_none() => {
                    Truth::No
                }
                Ok(name) if !is_property(&name) || value.trim().is_empty() => Truth::No,
                Ok(name) => supported(&name, &value),
                Err(_) => Truth::No,
            })
        }),
        cssparser::Token::Function(name) => {
            let inner = input.parse_nested_block(|input| Ok::<_, Bad>(rest_of(input)))?;
            Ok(match name.to_ascii_lowercase().as_str() {
                "selector" => Truth::from(parse_selectors(&inner).is_ok()),
                _ => Truth::AtRunTime,
            })
        }
        _ => Err(Bad::unexpected_token()),
    }
}
