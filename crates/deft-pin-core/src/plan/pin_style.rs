//! A pin's sheet: its rules, confined where the pin has a target on the page.

use super::file_text::FileText;
use crate::board::Pin;
use crate::markup::{Selector, SelectorError, parse_selectors};
use crate::script::ScriptFile;
use crate::source::Span;
use crate::style::{
    AtRuleKind, Edit, Fence, Loss, MOST_SELECTORS, NotConfined, Rule, Sheet, UrlUse, defined_names, fence,
    losses, members, urls,
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
    /// Selector lists that are not valid, and why.
    pub bad_selectors: Vec<(Span, SelectorError)>,
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
        let mut fenced = fenced.iter().peekable();
        let mut first = 0;
        let mut spare = MOST_SELECTORS;
        for rule in top_rules(&sheet) {
            let written = style.file.text.slice(rule);
            let list = match parse_selectors(written) {
                Ok(list) => list,
                Err(error) => {
                    style.bad_selectors.push((rule, error));
                    continue;
                }
            };
            if spare < list.len() {
                break;
            }
            spare -= list.len();
            let confined = fenced
                .next_if(|fenced| fenced.prelude == rule)
                .and_then(|fenced| parse_selectors(&fenced.selectors).ok());
            let confined = confined.unwrap_or_else(|| list.clone());
            let spans = members(written).into_iter().map(|span| span.shifted(rule.start as usize));
            let pairs = list.slice().iter().zip(confined.slice()).zip(spans);
            let selectors: Vec<_> = pairs
                .map(|((written, fenced), span)| FencedSelector {
                    span,
                    written: written.clone(),
                    fenced: fenced.clone(),
                })
                .collect();
            let next = first + selectors.len() as u32;
            style.rules.push(RuleSelectors { prelude: rule, selectors, first });
            first = next;
        }
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

/// The selector lists of the style rules that are not nested in others; those of keyframes are
/// no selectors.
fn top_rules(sheet: &Sheet) -> Vec<Span> {
    let mut found = Vec::new();
    let mut waiting: Vec<&Rule> = sheet.rules.iter().rev().collect();
    while let Some(rule) = waiting.pop() {
        match rule {
            Rule::Style(style) => found.push(style.prelude),
            Rule::At(at) if at.kind().is_keyframes() || at.kind() == AtRuleKind::Page => {}
            Rule::At(at) => {
                let items = at.block.iter().flat_map(|block| &block.items).rev();
                waiting.extend(items.filter_map(|item| match item {
                    crate::style::Item::Rule(rule) => Some(rule),
                    crate::style::Item::Declaration(_) => None,
                }));
            }
        }
    }
    found
}
