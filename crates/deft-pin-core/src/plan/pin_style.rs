//! A pin's sheet: its rules, confined where the pin has a target on the page.

use std::iter::Peekable;

use super::file_text::FileText;
use crate::board::Pin;
use crate::markup::{Namespaces, Selector, SelectorError, SelectorList, SelectorPlace, asks_for_scope};
use crate::script::ScriptFile;
use crate::source::Span;
use crate::style::{
    AtRule, AtRuleKind, Block, Edit, Fence, Fenced, Item, Loss, MOST_SELECTORS, NotConfined, OuterRule, Rule,
    Sheet, StyleRule, UrlUse, defined_names, fence, losses, members, scope_roots, urls, with_subjects,
};

/// A pin's sheet, read and confined.
#[derive(Debug)]
pub struct PinStyle {
    /// The file.
    pub file: FileText,
    /// What a browser drops of it.
    pub losses: Vec<Loss>,
    /// Its style rules with valid selectors.
    pub rules: Vec<RuleSelectors>,
    /// Selector lists that are not valid.
    pub bad_selectors: Vec<BadSelector>,
    /// The namespaces that its selectors are read with.
    pub namespaces: Namespaces,
    /// What would reach past the target, so that the sheet cannot be placed.
    pub not_confined: Vec<NotConfined>,
    /// What would too, and is left out of it.
    pub left_out: Vec<NotConfined>,
    /// Sheets that it imports.
    pub imports: Vec<UrlUse>,
    /// The edits that confine it.
    pub edits: Vec<Edit>,
    /// Its `@scope`s that name no root, and are for what is around the sheet.
    pub rootless_scopes: Vec<Span>,
}

/// The selectors of a style rule, to be matched against pages.
#[derive(Debug)]
pub struct RuleSelectors {
    /// The rule's selector list, in the file.
    pub prelude: Span,
    /// Its complex selectors.
    pub selectors: Vec<FencedSelector>,
    /// The number of the first of them, counted over the whole sheet.
    pub first: u32,
    /// The place among the rules of the one that it is nested in.
    pub inside: Option<usize>,
}

/// A selector list that is not valid.
#[derive(Debug)]
pub struct BadSelector {
    /// Where it stands in the file.
    pub span: Span,
    /// What it stands in.
    pub place: SelectorPlace,
    /// What is wrong with it.
    pub error: SelectorError,
}

/// A complex selector, as it was written and as it is confined to the target.
#[derive(Debug)]
pub struct FencedSelector {
    /// Where it stands in the file.
    pub span: Span,
    /// The selector as it was written.
    pub written: Selector,
    /// The selector as it stands in the page.
    pub fenced: Selector,
    /// Whether it is for the root of a `@scope` and styles nothing itself.
    pub is_scope_root: bool,
}

impl PinStyle {
    /// Reads a pin's sheet and confines it to what `within` matches.
    ///
    /// What its script names of the sheet's names keeps its name, or else the script would not find it.
    pub(super) fn new(file: FileText, pin: &Pin, script: Option<&ScriptFile>) -> Self {
        let text = file.text.as_str();
        let sheet = Sheet::parse(text);
        let stays =
            |url: &UrlUse| pin.within.is_none() && is_remote(&url.url) && is_in_front(&sheet, url.span);
        let imports = urls(text).into_iter().filter(|url| url.import && !stays(url)).collect();
        let mut share = pin.share.clone();
        if let Some(script) = script.filter(|_| pin.within.is_some()) {
            share.extend(defined_names(text, &sheet).into_iter().filter(|name| script.may_bring(name)));
        }
        let mut style = PinStyle {
            losses: losses(text, &sheet),
            rules: Vec::new(),
            bad_selectors: Vec::new(),
            namespaces: sheet.namespaces(text),
            not_confined: Vec::new(),
            left_out: Vec::new(),
            imports,
            edits: Vec::new(),
            rootless_scopes: Vec::new(),
            file,
        };
        let around = |within: &str| Fence::around(within, &pin.name, pin.strength, &share);
        let fenced = match &pin.within {
            Some(within) => match fence(style.file.text.as_str(), &sheet, &around(&within.text)) {
                Ok(sheet) => {
                    style.edits = sheet.edits;
                    style.left_out = sheet.left_out;
                    sheet.fenced
                }
                Err(refused) => {
                    style.not_confined = refused;
                    Vec::new()
                }
            },
            None => Vec::new(),
        };
        let mut walk =
            Walk { style: &mut style, fenced: fenced.iter().peekable(), spare: MOST_SELECTORS, first: 0 };
        sheet.rules.iter().for_each(|rule| walk.rule(rule, &Around::default()));
        style
    }
}

impl PinStyle {
    /// The complex selector of a number, counted over the whole sheet.
    pub fn selector(&self, number: u32) -> Option<&FencedSelector> {
        let after = self.rules.partition_point(|rule| rule.first <= number);
        let rule = self.rules[..after].last()?;
        rule.selectors.get((number - rule.first) as usize)
    }

    /// Its complex selectors, in order; places in them are counted over the whole sheet.
    pub fn selectors(&self) -> impl Iterator<Item = &FencedSelector> {
        self.rules.iter().flat_map(|rule| &rule.selectors)
    }

    /// Those of its style rules, without those of the roots of `@scope`s.
    pub fn styling_selectors(&self) -> impl Iterator<Item = &FencedSelector> {
        self.selectors().filter(|selector| !selector.is_scope_root)
    }

    /// Whether it can stand in a page: nothing of it would reach past the target.
    pub fn is_placeable(&self) -> bool {
        self.not_confined.is_empty() && self.imports.is_empty()
    }
}

fn is_remote(url: &str) -> bool {
    ["https://", "http://", "//"].iter().any(|start| url.starts_with(start))
}

/// Whether an import stands where a browser follows it: nothing but imports and the names of layers stand
/// before it (css-cascade-5, 2).
fn is_in_front(sheet: &Sheet, import: Span) -> bool {
    let before = sheet.rules.iter().take_while(|rule| match rule {
        Rule::At(at) => at.span.end <= import.start,
        Rule::Style(style) => style.prelude.end <= import.start,
    });
    before.into_iter().all(|rule| match rule {
        Rule::At(at) => match at.kind() {
            AtRuleKind::Import | AtRuleKind::Charset => true,
            AtRuleKind::Layer => at.block.is_none(),
            _ => false,
        },
        Rule::Style(_) => false,
    })
}

/// What a rule stands in.
#[derive(Clone, Default)]
struct Around {
    /// The style rule that it is nested in, and its place among the rules; none for one that is not looked into.
    outer: Option<(OuterRule, Option<usize>)>,
    scope: Option<ScopeAround>,
}

/// A `@scope` that rules stand in.
#[derive(Clone)]
struct ScopeAround {
    /// Its roots, and their text; none where it names none, or they are nested in others.
    roots: Option<(OuterRule, String)>,
    /// Its place among the rules.
    number: Option<usize>,
}

impl ScopeAround {
    /// Selectors of a rule in the scope as they are for the page: what `:scope` and `&` stand for is a root, and the
    /// rest is in one (css-cascade-6, 2.5). None where that cannot be said in one selector.
    fn read(&self, text: &str, namespaces: &Namespaces) -> Option<SelectorList> {
        let (roots, written) = self.roots.as_ref()?;
        let is_relative = text.contains('&') || text.contains(":scope");
        if is_relative || SelectorPlace::Sheet.read(text, namespaces).is_err() {
            return roots.read(&text.replace(":scope", "&"), namespaces).ok();
        }
        let inside = format!(":is({written}, :is({written}) *)");
        SelectorPlace::Sheet.read(&with_subjects(text, &inside), namespaces).ok()
    }
}

/// Goes over the style rules of a sheet; the selectors of keyframes and pages are none.
struct Walk<'w> {
    style: &'w mut PinStyle,
    fenced: Peekable<std::slice::Iter<'w, Fenced>>,
    /// How many more selectors there may be.
    spare: usize,
    first: u32,
}

impl Walk<'_> {
    fn rule(&mut self, rule: &Rule, around: &Around) {
        match rule {
            Rule::Style(style) => self.style_rule(style, around),
            Rule::At(at) => {
                let kind = at.kind();
                let inside = match kind {
                    AtRuleKind::Scope => &Around { outer: None, scope: Some(self.scope(at, around)) },
                    kind if kind.is_group() => around,
                    _ => return,
                };
                at.block.iter().for_each(|block| self.block(block, inside));
            }
        }
    }

    /// Notes the roots of a `@scope`, which match something or nothing as the selectors of a rule do.
    fn scope(&mut self, at: &AtRule, around: &Around) -> ScopeAround {
        let unknown =
            ScopeAround { roots: None, number: around.scope.as_ref().and_then(|scope| scope.number) };
        let head = Span { start: at.span.start, end: at.prelude.end };
        let prelude = self.style.file.text.slice(at.prelude);
        let Some(roots) = scope_roots(prelude) else {
            // What stands without its brackets is told as that.
            if prelude.trim().is_empty() || prelude.trim_start().starts_with("to") {
                self.style.rootless_scopes.push(head);
            }
            return unknown;
        };
        let roots = roots.shifted(at.prelude.start as usize);
        let text = self.style.file.text.slice(roots).to_owned();
        let place = SelectorPlace::Scope;
        if let Err(error) = place.read(&text, &self.style.namespaces) {
            self.style.bad_selectors.push(BadSelector { span: roots, place, error });
            return unknown;
        }
        let list = match (&around.outer, &around.scope) {
            (Some((outer, _)), _) => outer.read(&text, &self.style.namespaces).ok(),
            (None, Some(scope)) => scope.read(&text, &self.style.namespaces),
            (None, None) => SelectorPlace::Sheet.read(&text, &self.style.namespaces).ok(),
        };
        let Some(list) = list.filter(|list| list.len() <= self.spare) else { return unknown };
        self.spare -= list.len();
        let spans = members(&text).into_iter().map(|span| span.shifted(roots.start as usize));
        let selectors = list.slice().iter().zip(spans).map(|(selector, span)| FencedSelector {
            span,
            written: selector.clone(),
            fenced: selector.clone(),
            is_scope_root: true,
        });
        let inside = around.outer.as_ref().and_then(|(_, number)| *number).or(unknown.number);
        let number = self.note(head, selectors.collect(), inside);
        let is_plain = around.outer.is_none() && around.scope.is_none();
        ScopeAround { roots: is_plain.then(|| (OuterRule::new(&list), text)), number: Some(number) }
    }

    /// Adds the selectors of a rule; its place among the rules.
    fn note(&mut self, prelude: Span, selectors: Vec<FencedSelector>, inside: Option<usize>) -> usize {
        let next = self.first + crate::source::offset(selectors.len());
        let first = std::mem::replace(&mut self.first, next);
        self.style.rules.push(RuleSelectors { prelude, selectors, first, inside });
        self.style.rules.len() - 1
    }

    fn block(&mut self, block: &Block, around: &Around) {
        for item in &block.items {
            if let Item::Rule(rule) = item {
                self.rule(rule, around);
            }
        }
    }

    fn style_rule(&mut self, rule: &StyleRule, around: &Around) {
        let prelude = rule.prelude;
        let written = self.style.file.text.slice(prelude);
        let namespaces = &self.style.namespaces;
        let place = match (&around.outer, &around.scope) {
            (Some(_), _) => SelectorPlace::Rule,
            // One that begins with no combinator is as it would be outside, cut down to the scope.
            (None, Some(_)) if SelectorPlace::Sheet.read(written, namespaces).is_err() => {
                SelectorPlace::Scope
            }
            (None, _) => SelectorPlace::Sheet,
        };
        let outer = around.outer.as_ref().map(|(outer, _)| outer);
        let (list, outer) = match OuterRule::read_rule(outer, place, written, namespaces) {
            Ok(Some(found)) if found.0.len() <= self.spare => found,
            Ok(_) => return self.spare = 0,
            Err(error) => return self.style.bad_selectors.push(BadSelector { span: prelude, place, error }),
        };
        self.spare -= list.len();
        let confined = self.fenced.next_if(|fenced| fenced.prelude == prelude);
        let read = |text: &str| match (&around.outer, &around.scope) {
            (Some((outer, _)), _) => outer.read(text, namespaces).ok(),
            (None, Some(scope)) => scope.read(text, namespaces).or_else(|| place.read(text, namespaces).ok()),
            (None, None) => place.read(text, namespaces).ok(),
        };
        // What `:scope` and `&` mean in a `@scope` that is not looked into no page is asked.
        let asks_for_root = |selector: &Selector| asks_for_scope(selector) || selector.has_parent_selector();
        let in_scope = around.scope.as_ref().filter(|_| around.outer.is_none());
        let of_scope = in_scope.and_then(|scope| scope.read(written, namespaces));
        let is_judged =
            around.scope.is_none() || of_scope.is_some() || !list.slice().iter().any(asks_for_root);
        let list = of_scope.unwrap_or(list);
        let confined = confined.and_then(|fenced| read(&fenced.selectors)).unwrap_or_else(|| list.clone());
        let spans = members(written).into_iter().map(|span| span.shifted(prelude.start as usize));
        let pairs = list.slice().iter().zip(confined.slice()).zip(spans);
        let selectors: Vec<_> = pairs
            .map(|((written, fenced), span)| FencedSelector {
                span,
                written: written.clone(),
                fenced: fenced.clone(),
                is_scope_root: false,
            })
            .collect();
        let number = is_judged.then(|| {
            let of_scope = around.scope.as_ref().and_then(|scope| scope.number);
            let inside = around.outer.as_ref().map_or(of_scope, |(_, number)| *number);
            self.note(prelude, selectors, inside)
        });
        self.block(&rule.block, &Around { outer: Some((outer, number)), scope: around.scope.clone() });
    }
}
