//! A pin's sheet: its rules, confined where the pin has a target on the page.

use std::iter::Peekable;

use super::file_text::FileText;
use crate::board::Pin;
use crate::markup::{Namespaces, Selector, SelectorError, SelectorPlace, asks_for_scope};
use crate::script::ScriptFile;
use crate::source::Span;
use crate::style::{
    AtRuleKind, Block, Edit, Fence, Fenced, Item, Loss, MOST_SELECTORS, NotConfined, OuterRule, Rule, Sheet,
    StyleRule, UrlUse, defined_names, fence, losses, members, urls,
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
    in_scope: bool,
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
                    AtRuleKind::Scope => &Around { outer: None, in_scope: true },
                    kind if kind.is_group() => around,
                    _ => return,
                };
                at.block.iter().for_each(|block| self.block(block, inside));
            }
        }
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
        let place = match (&around.outer, around.in_scope) {
            (Some(_), _) => SelectorPlace::Rule,
            // One that begins with no combinator is as it would be outside, cut down to the scope.
            (None, true) if SelectorPlace::Sheet.read(written, &self.style.namespaces).is_err() => {
                SelectorPlace::Scope
            }
            (None, _) => SelectorPlace::Sheet,
        };
        let outer = around.outer.as_ref().map(|(outer, _)| outer);
        let (list, outer) = match OuterRule::read_rule(outer, place, written, &self.style.namespaces) {
            Ok(Some(found)) if found.0.len() <= self.spare => found,
            Ok(_) => return self.spare = 0,
            Err(error) => return self.style.bad_selectors.push(BadSelector { span: prelude, place, error }),
        };
        self.spare -= list.len();
        let confined = self.fenced.next_if(|fenced| fenced.prelude == prelude).and_then(|fenced| {
            match &around.outer {
                Some((outer, _)) => outer.read(&fenced.selectors, &self.style.namespaces),
                None => place.read(&fenced.selectors, &self.style.namespaces),
            }
            .ok()
        });
        let confined = confined.unwrap_or_else(|| list.clone());
        let spans = members(written).into_iter().map(|span| span.shifted(prelude.start as usize));
        let pairs = list.slice().iter().zip(confined.slice()).zip(spans);
        let selectors: Vec<_> = pairs
            .map(|((written, fenced), span)| FencedSelector {
                span,
                written: written.clone(),
                fenced: fenced.clone(),
            })
            .collect();
        // What `:scope` and `&` mean in `@scope` no page is asked.
        let asks_for_root = |selector: &Selector| asks_for_scope(selector) || selector.has_parent_selector();
        let is_judged = !around.in_scope || !list.slice().iter().any(asks_for_root);
        let number = is_judged.then_some(self.style.rules.len());
        if is_judged {
            let inside = around.outer.as_ref().and_then(|(_, number)| *number);
            let next = self.first + crate::source::offset(selectors.len());
            let first = std::mem::replace(&mut self.first, next);
            self.style.rules.push(RuleSelectors { prelude, selectors, first, inside });
        }
        self.block(&rule.block, &Around { outer: Some((outer, number)), in_scope: around.in_scope });
    }
}
