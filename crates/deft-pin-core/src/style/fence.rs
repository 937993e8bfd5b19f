//! The fence: rewriting that confines a sheet to a target, so that each rule matches exactly
//! what it matched before, cut down to the target and what is inside it.
//!
//! Each complex selector's subject compound gets `:is(W, W *)` in front of its pseudo-elements.
//! Ancestors outside the target, `:has()` and combinators go on working, since nothing else of
//! the selector changes; each rule gets the target's specificity exactly once, so of two rules
//! of the sheet the same one wins before and after. `:scope` stands for the target itself.
//!
//! It is long since one walk over a sheet gathers all its edits: rules, conditions, scopes and rules
//! that are parted share what may still be added. What it does is listed in its test.

use cssparser::{Parser, Token};
use serde::{Deserialize, Serialize};

use super::at_rule::AtRuleKind;
use super::edit::{Edit, apply};
use super::list::members;
use super::shared_names::renames;
use super::sheet::{AtRule, Item, Rule, Sheet, StyleRule};
use super::tokens::{flaws, is_closed_string};
use crate::markup::{Namespaces, SelectorPlace};
use crate::source::Span;

/// Whether the target's specificity is added to what is fenced.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Strength {
    /// It is: what the pin says wins more easily over what the site says.
    #[default]
    Raise,
    /// It is not: what the pin says is as strong as it is written.
    Keep,
}

impl Strength {
    /// Every strength.
    pub const ALL: [Strength; 2] = [Strength::Raise, Strength::Keep];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            Strength::Raise => "raise",
            Strength::Keep => "keep",
        }
    }
}

/// A target that sheets are confined to: a selector list, taken as a whole.
#[derive(Clone, Debug)]
pub struct Fence {
    /// `:is(W, W *)`
    inside: String,
    /// `:scope` in other words: the target, with a pseudo-class's specificity.
    target: String,
    /// What goes in front of the names that the page shares.
    name: String,
    /// Names that are shared on purpose.
    share: Vec<String>,
}

impl Fence {
    /// The fence around what a selector list matches, for a sheet of this name.
    pub fn around(within: &str, name: &str, strength: Strength, share: &[String]) -> Self {
        let within = &closed(within.trim_start());
        let function = match strength {
            Strength::Raise => "is",
            Strength::Keep => "where",
        };
        let inside = if members(within).len() > 1 {
            format!(":{function}({within}, :is({within}) *)")
        } else {
            format!(":{function}({within}, {within} *)")
        };
        // Every element is an nth child (Selectors 4, 14.3), so this adds specificity alone.
        let target = format!(":where({within}):nth-child(n)");
        Fence { inside, target, name: name.to_owned(), share: share.to_vec() }
    }
}

/// A selector list with everything closed that the end of the text closes for a browser, so that
/// more may follow it. The blank that ends an escape stays one.
pub(super) fn closed(text: &str) -> String {
    let mut closers = String::new();
    close(text, &mut Parser::new(text), &mut closers);
    let after_escape = if text.contains('\\') { " " } else { "" };
    let closed = format!("{text}{after_escape}{closers}");
    if after_escape.is_empty() { closed.trim_end().to_owned() } else { closed }
}

fn close(text: &str, input: &mut Parser<'_>, closers: &mut String) {
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        let raw = &text[start..input.position().byte_index()];
        let closer = match token {
            Token::Comment(_) if raw.len() < 4 || !raw.ends_with("*/") => "*/",
            Token::QuotedString(_) if !is_closed_string(raw) => &raw[..1],
            Token::UnquotedUrl(_) | Token::BadUrl(_) if !raw.ends_with(')') => {
                closers.push(')');
                continue;
            }
            Token::Function(_) | Token::ParenthesisBlock => ")",
            Token::SquareBracketBlock => "]",
            Token::CurlyBracketBlock => "}",
            _ => continue,
        };
        if closer.ends_with([')', ']', '}']) {
            let mut inside = text.len();
            let _: Result<(), cssparser::ParseError<()>> = input.parse_nested_block(|input| {
                close(text, input, closers);
                inside = input.position().byte_index();
                Ok(())
            });
            if text[inside..].starts_with(closer) {
                continue;
            }
        }
        closers.push_str(closer);
    }
}

/// A selector list as a fence leaves it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fenced {
    /// Where the rule's selector list stands in the sheet.
    pub prelude: Span,
    /// The list with the fence.
    pub selectors: String,
}

/// Something that the fence cannot confine.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NotConfined {
    /// Where it stands.
    pub span: Span,
    /// What it is, as a person calls it.
    pub what: String,
    /// Why it would reach past the target.
    pub why: &'static str,
}

/// Fences a sheet: the edits to its text, with the selector lists that they make. Rules whose
/// selectors are not valid match nothing anywhere, and stay as they are.
///
/// At-rules that no selector cuts down, such as `@page`, are left out of it.
///
/// # Errors
/// Everything in the sheet that would reach past the target and cannot be left out alone.
pub fn fence(text: &str, sheet: &Sheet, fence: &Fence) -> Result<FencedSheet, Vec<NotConfined>> {
    let whole = |why| NotConfined { span: Span::new(0, text.len()), what: "the sheet".to_owned(), why };
    let selectors = sheet.rules.iter().map(|rule| count_selectors(text, rule)).sum::<usize>();
    if selectors.saturating_mul(fence.inside.len()) > LONGEST {
        let why = "with the target's selector in each of its rules it would come to more than 32 MB; a class of its own for the target is shorter";
        return Err(vec![whole(why)]);
    }
    let spare = longest_fenced(text, &fence.inside) / 4;
    let mut work = Work {
        text,
        fence,
        edits: Vec::new(),
        fenced: Vec::new(),
        refused: Vec::new(),
        left_out: Vec::new(),
        spare,
        namespaces: sheet.namespaces(text),
    };
    for rule in &sheet.rules {
        work.rule(rule, SelectorPlace::Sheet);
    }
    if !work.refused.is_empty() {
        return Err(work.refused);
    }
    work.edits.extend(renames(text, sheet, &fence.name, &fence.share));
    // Nothing is changed in what goes as a whole.
    let mut gone: Vec<Span> = work.left_out.iter().map(|(span, _)| *span).collect();
    gone.sort_unstable();
    work.edits.retain(|edit| {
        let before = gone.partition_point(|span| span.start <= edit.span.start);
        gone[..before].last().is_none_or(|span| edit.span.end > span.end)
    });
    work.edits.extend(gone.into_iter().map(|span| Edit { span, text: String::new() }));
    let left_out = work.left_out.into_iter().map(|(_, what)| what).collect();
    // The target is in there twice, a level deeper: what a parser just reads without it may lie too
    // deep with it.
    if flaws(text).is_empty() && !flaws(&super::edit::apply(text, work.edits.clone())).is_empty() {
        let why = "with the target's selector in it, its brackets are nested too deeply to be read";
        return Err(vec![whole(why)]);
    }
    Ok(FencedSheet { edits: work.edits, fenced: work.fenced, left_out })
}

/// A sheet as a fence leaves it.
#[derive(Clone, Debug, Default)]
pub struct FencedSheet {
    /// The edits to its text.
    pub edits: Vec<Edit>,
    /// The selector lists that they make.
    pub fenced: Vec<Fenced>,
    /// What was left out of it.
    pub left_out: Vec<NotConfined>,
}

/// The most bytes that the target's selector may take in a sheet.
const LONGEST: usize = 32 << 20;

/// How many selectors a rule has, and those in it.
fn count_selectors(text: &str, rule: &Rule) -> usize {
    let (own, block) = match rule {
        Rule::Style(style) => (
            1 + memchr::memchr_iter(b',', text[style.prelude.range()].as_bytes()).count(),
            Some(&style.block),
        ),
        Rule::At(at) => (0, at.block.as_ref()),
    };
    let inner = block.into_iter().flat_map(|block| &block.items).map(|item| match item {
        Item::Rule(rule) => count_selectors(text, rule),
        Item::Declaration(_) => 0,
    });
    own + inner.sum::<usize>()
}

/// The most bytes that a sheet may have once it is fenced: rules that are parted repeat their
/// selectors, and one that goes back and forth between rules and declarations under a long list
/// would grow with the square of its length. Such a sheet is refused.
pub fn longest_fenced(text: &str, within: &str) -> usize {
    (1 << 20) + text.len().saturating_mul(64 + 8 * within.len())
}

struct Work<'a> {
    text: &'a str,
    fence: &'a Fence,
    edits: Vec<Edit>,
    fenced: Vec<Fenced>,
    refused: Vec<NotConfined>,
    left_out: Vec<(Span, NotConfined)>,
    /// How many more bytes may be written to part rules.
    spare: usize,
    namespaces: Namespaces,
}

/// What has to stand around an item of a style rule that others are nested in.
#[derive(Clone, Copy, PartialEq)]
enum Kept {
    /// The rule's selectors with the fence: for its own declarations.
    Fenced,
    /// The rule's selectors as they are, so that `&` keeps its meaning: for nested rules.
    Plain,
    /// Both in turn: a condition with declarations and rules in it.
    Both,
}

fn kept(item: &Item) -> Kept {
    match item {
        Item::Declaration(_) => Kept::Fenced,
        Item::Rule(Rule::Style(_)) => Kept::Plain,
        Item::Rule(Rule::At(at)) if at.kind() == AtRuleKind::Scope => Kept::Plain,
        Item::Rule(Rule::At(at)) => {
            let inner: Vec<Kept> = at.block.iter().flat_map(|block| &block.items).map(kept).collect();
            match (inner.contains(&Kept::Fenced), inner.contains(&Kept::Plain), inner.contains(&Kept::Both)) {
                (_, _, true) | (true, true, _) => Kept::Both,
                (_, true, false) => Kept::Plain,
                _ => Kept::Fenced,
            }
        }
    }
}

fn start_of(item: &Item) -> u32 {
    match item {
        Item::Declaration(own) => own.span.start,
        Item::Rule(Rule::Style(style)) => style.prelude.start,
        Item::Rule(Rule::At(at)) => at.span.start,
    }
}

/// The pieces that a style rule with rules in it is parted into.
struct Parting<'r> {
    fenced: String,
    plain: String,
    current: Option<Kept>,
    /// The headers of the conditions that are open.
    open: Vec<&'r str>,
}

impl<'a> Work<'a> {
    fn rule(&mut self, rule: &'a Rule, around: SelectorPlace) {
        match rule {
            Rule::Style(style) => self.style_rule(style, around),
            Rule::At(at) => self.at_rule(at, around),
        }
    }

    fn refuse(&mut self, span: Span, what: String, why: &'static str) {
        self.refused.push(NotConfined { span, what, why });
    }

    fn at_rule(&mut self, at: &'a AtRule, around: SelectorPlace) {
        let kind = at.kind();
        match &at.block {
            Some(block) if kind.is_group() => {
                for item in &block.items {
                    if let Item::Rule(rule) = item {
                        self.rule(rule, around);
                    }
                }
            }
            Some(_) if kind == AtRuleKind::Scope => self.scope(at, around),
            // Known by a name, which the sheet gets one of its own for; what holds for the sheet alone.
            _ if kind.defines_a_name() || kind == AtRuleKind::Namespace => {}
            _ => {
                let end = at.block.as_ref().map_or(at.span.end, |block| block.span.start);
                let head = Span { end, ..at.span };
                let (what, why) = (format!("`@{}`", at.name), reason(kind));
                if kind == AtRuleKind::Import {
                    self.refuse(head, what, why);
                } else {
                    self.left_out.push((at.span, NotConfined { span: head, what, why }));
                }
            }
        }
    }

    /// The rules of `@scope` are fenced like any other. Its own selectors may stand outside the
    /// target; bare declarations are for its root, which may too.
    fn scope(&mut self, at: &'a AtRule, around: SelectorPlace) {
        let prelude = &self.text[at.prelude.range()];
        if around != SelectorPlace::Scope {
            let mut edits = Vec::new();
            self.fence.scope_edits(&mut Parser::new(prelude), &mut edits);
            self.place(edits, at.prelude.start);
        }
        for item in at.block.iter().flat_map(|block| &block.items) {
            match item {
                Item::Rule(rule) => self.rule(rule, SelectorPlace::Scope),
                Item::Declaration(own) => {
                    let open = format!(":where(:scope){} {{ ", self.fence.inside);
                    self.edits.push(Edit::insert(own.span.start, open));
                    self.edits.push(Edit::insert(own.span.end, " }"));
                }
            }
        }
    }

    fn place(&mut self, edits: Vec<Edit>, base: u32) {
        self.edits
            .extend(edits.into_iter().map(|edit| Edit { span: edit.span.shifted(base as usize), ..edit }));
    }

    fn style_rule(&mut self, style: &'a StyleRule, around: SelectorPlace) {
        let prelude = &self.text[style.prelude.range()];
        // A rule whose selectors are not valid is dropped, with all that is nested in it.
        let Ok(list) = around.read(prelude, &self.namespaces) else { return };
        if around == SelectorPlace::Sheet
            && list.slice().iter().any(|selector| selector.has_parent_selector())
        {
            let why = "outside of a nested rule, `&` means the whole document";
            return self.refuse(style.prelude, "`&`".to_owned(), why);
        }
        let mut plain_edits = Vec::new();
        if around != SelectorPlace::Scope {
            self.fence.scope_edits(&mut Parser::new(prelude), &mut plain_edits);
        }
        let mut edits = subject_edits(prelude, &self.fence.inside);
        edits.extend(plain_edits.iter().cloned());
        let fenced = super::edit::apply(prelude, edits.clone());
        if around.read(&fenced, &self.namespaces).is_err() {
            let why = "with the target's selector in it, it is no valid selector any more";
            return self.refuse(style.prelude, format!("`{prelude}`"), why);
        }
        let is_whole = style.block.items.iter().all(|item| kept(item) == Kept::Fenced);
        if is_whole {
            self.place(edits, style.prelude.start);
            self.fenced.push(Fenced { prelude: style.prelude, selectors: fenced });
            return;
        }
        // `&` in what is nested has to mean what it meant: the rule's own declarations are fenced
        // apart from the nested rules, each at its place in the order.
        let plain = super::edit::apply(prelude, plain_edits.clone());
        let mut parting = Parting { fenced: fenced.clone(), plain, current: None, open: Vec::new() };
        let first = first_kept(&style.block.items);
        match first {
            Kept::Plain => self.place(plain_edits, style.prelude.start),
            _ => {
                self.place(edits, style.prelude.start);
                self.fenced.push(Fenced { prelude: style.prelude, selectors: fenced });
            }
        }
        parting.current = Some(first);
        self.part(&style.block.items, &mut parting);
    }

    /// Parts the items of a style rule, so that each stands in the selectors that it needs.
    fn part(&mut self, items: &'a [Item], parting: &mut Parting<'a>) {
        for item in items {
            match kept(item) {
                Kept::Both => {
                    let Item::Rule(Rule::At(at)) = item else { continue };
                    if at.kind() == AtRuleKind::Layer && at.prelude.start == at.prelude.end {
                        let why = "parted in two, a layer without a name would be two layers";
                        self.refuse(at.span, "declarations and rules in `@layer`".to_owned(), why);
                        continue;
                    }
                    let inner = at.block.as_ref().map_or(&[][..], |block| &block.items);
                    self.switch(first_kept(inner), start_of(item), parting);
                    let header = &self.text[at.span.start as usize..at.prelude.end as usize];
                    parting.open.push(header);
                    self.part(inner, parting);
                    parting.open.pop();
                }
                needed => {
                    self.switch(needed, start_of(item), parting);
                    if let (Kept::Plain, Item::Rule(rule)) = (needed, item) {
                        self.rule(rule, SelectorPlace::Rule);
                    }
                }
            }
        }
    }

    fn switch(&mut self, needed: Kept, at: u32, parting: &mut Parting<'a>) {
        if parting.current.replace(needed) == Some(needed) {
            return;
        }
        let selectors = if needed == Kept::Plain { &parting.plain } else { &parting.fenced };
        let mut text = "} ".repeat(parting.open.len() + 1);
        text.push_str(&format!("{selectors} {{ "));
        for header in &parting.open {
            text.push_str(&format!("{header} {{ "));
        }
        match self.spare.checked_sub(text.len()) {
            Some(spare) => self.spare = spare,
            None => {
                let why = "its long selector lists would have to stand in it many times over";
                let whole = Span::new(0, self.text.len());
                if self.spare > 0 {
                    self.refuse(whole, "the sheet".to_owned(), why);
                }
                self.spare = 0;
                return;
            }
        }
        self.edits.push(Edit::insert(at, text));
    }
}

/// What the first item of a rule or a condition needs around it.
fn first_kept(items: &[Item]) -> Kept {
    match items.first().map(|item| (kept(item), item)) {
        Some((Kept::Both, Item::Rule(Rule::At(at)))) => {
            first_kept(at.block.as_ref().map_or(&[][..], |block| &block.items))
        }
        Some((kept, _)) => kept,
        None => Kept::Fenced,
    }
}

fn reason(at_rule: AtRuleKind) -> &'static str {
    match at_rule {
        AtRuleKind::FontPaletteValues | AtRuleKind::FontFeatureValues => {
            "fonts are known by their name to the whole page"
        }
        AtRuleKind::Import => "an imported sheet is a sheet of its own",
        AtRuleKind::Page => "it says how the whole page is printed",
        AtRuleKind::ViewTransition => "it concerns the whole page",
        _ => "what it does is not cut down by a selector",
    }
}

/// A selector list whose subjects have a pseudo-class more, before their pseudo-elements.
pub fn with_subjects(list: &str, pseudo_class: &str) -> String {
    apply(list, subject_edits(list, pseudo_class))
}

/// The edits that put a pseudo-class behind the subjects of a selector list, before their pseudo-elements, placed
/// within its text.
fn subject_edits(prelude: &str, inside: &str) -> Vec<Edit> {
    let mut edits = Vec::new();
    let mut input = Parser::new(prelude);
    let mut subject = Subject::default();
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { break };
        let end = input.position().byte_index();
        match token {
            Token::Comma => {
                edits.push(Edit::insert(subject.at(), inside));
                subject = Subject::default();
            }
            Token::WhiteSpace(_) => subject.blank = true,
            Token::Comment(_) => {}
            Token::Delim('>' | '+' | '~') => subject.combinator(),
            Token::Delim('|') if prelude[start..].starts_with("||") => subject.combinator(),
            token => {
                if subject.blank {
                    subject.combinator();
                }
                // A function's end is only known once its block has been read.
                let end = if matches!(
                    token,
                    Token::Function(_) | Token::SquareBracketBlock | Token::ParenthesisBlock
                ) {
                    let _: Result<(), cssparser::ParseError<()>> = input.parse_nested_block(|input| {
                        while input.next().is_ok() {}
                        Ok(())
                    });
                    input.position().byte_index()
                } else {
                    end
                };
                subject.take(&token, start, end);
            }
        }
    }
    edits.push(Edit::insert(subject.at(), inside));
    edits
}

impl Fence {
    /// Puts the target for `:scope`, on every level.
    fn scope_edits(&self, input: &mut Parser<'_>, edits: &mut Vec<Edit>) {
        let mut colon = None;
        loop {
            let start = input.position().byte_index();
            let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
            match token {
                Token::Colon => colon = Some(start),
                Token::Ident(name) => {
                    if let Some(colon) = colon.take()
                        && name.eq_ignore_ascii_case("scope")
                    {
                        let span = Span::new(colon, input.position().byte_index());
                        edits.push(Edit { span, text: self.target.clone() });
                    }
                }
                Token::Function(_) => {
                    let _: Result<(), cssparser::ParseError<()>> = input.parse_nested_block(|input| {
                        self.scope_edits(input, edits);
                        Ok(())
                    });
                    colon = None;
                }
                _ => colon = None,
            }
        }
    }
}

/// The compound that is being read, which may turn out to be the subject.
#[derive(Default)]
struct Subject {
    /// After its last token.
    end: usize,
    /// Before its first pseudo-element.
    pseudo_element: Option<usize>,
    /// The colon right before, if the last token was one.
    colon: Option<usize>,
    /// Whether a blank came after the last token: a combinator, unless another one or the end follows.
    blank: bool,
}

impl Subject {
    fn at(&self) -> u32 {
        Span::at(self.pseudo_element.unwrap_or(self.end)).start
    }

    fn combinator(&mut self) {
        *self = Subject { end: self.end, ..Subject::default() };
    }

    fn take(&mut self, token: &Token<'_>, start: usize, end: usize) {
        match token {
            Token::Colon => {
                if let Some(first) = self.colon.replace(start) {
                    self.pseudo_element.get_or_insert(first);
                }
            }
            // Pseudo-elements of CSS 2 may be written with one colon (Selectors 4, 3.6.1).
            Token::Ident(name) if self.colon.is_some() => {
                let old = ["before", "after", "first-line", "first-letter"];
                if old.iter().any(|old| name.eq_ignore_ascii_case(old)) {
                    self.pseudo_element = self.pseudo_element.or(self.colon);
                }
                self.colon = None;
            }
            _ => self.colon = None,
        }
        self.end = end;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fenced(text: &str, within: &str) -> Result<String, Vec<String>> {
        let sheet = Sheet::parse(text);
        match fence(text, &sheet, &Fence::around(within, "p", Strength::Raise, &[])) {
            Ok(sheet) if sheet.left_out.is_empty() => Ok(super::super::edit::apply(text, sheet.edits)),
            Ok(sheet) => Err(sheet.left_out.into_iter().map(|left| left.what).collect()),
            Err(refused) => Err(refused.into_iter().map(|r| r.what).collect()),
        }
    }

    #[test]
    fn the_subject_of_each_selector_is_fenced_and_nothing_else_changes() {
        let table = [
            ("p{}", "p:is(#s, #s *){}"),
            ("a > b c , d+e{}", "a > b c:is(#s, #s *) , d+e:is(#s, #s *){}"),
            ("a:hover::before{}", "a:hover:is(#s, #s *)::before{}"),
            (
                "a:after, b::-webkit-thumb:hover{}",
                "a:is(#s, #s *):after, b:is(#s, #s *)::-webkit-thumb:hover{}",
            ),
            ("::selection{}", ":is(#s, #s *)::selection{}"),
            ("a :is(b > c, d)/* x */ {}", "a :is(b > c, d):is(#s, #s *)/* x */ {}"),
            ("body.dark a[title='a, b > c']{}", "body.dark a[title='a, b > c']:is(#s, #s *){}"),
            (":scope > h2{}", ":where(#s):nth-child(n) > h2:is(#s, #s *){}"),
            ("p:has(> a:not(:scope b)){}", "p:has(> a:not(:where(#s):nth-child(n) b)):is(#s, #s *){}"),
            ("@media print{ a{b:c} }/* d */", "@media print{ a:is(#s, #s *){b:c} }/* d */"),
            (".\\31 0\\,x{}", ".\\31 0\\,x:is(#s, #s *){}"),
            ("a..b{c:d} e{}", "a..b{c:d} e:is(#s, #s *){}"),
            ("*|p{}", "*|p:is(#s, #s *){}"),
        ];
        for (text, expected) in table {
            assert_eq!(fenced(text, "#s").as_deref(), Ok(expected), "{text}");
        }
        assert_eq!(fenced("p{}", ".a, .b").as_deref(), Ok("p:is(.a, .b, :is(.a, .b) *){}"));
        let open = [
            ("a /* c", "p:is(a /* c*/, a /* c*/ *){}"),
            ("a:not([b=\"c", "p:is(a:not([b=\"c\"]), a:not([b=\"c\"]) *){}"),
            ("#a\\31", "p:is(#a\\31 , #a\\31  *){}"),
        ];
        for (within, expected) in open {
            assert_eq!(fenced("p{}", within).as_deref(), Ok(expected), "{within}");
        }
    }

    #[test]
    fn what_would_leak_is_refused_with_its_place() {
        for (text, what) in [
            ("@font-feature-values x{}", "`@font-feature-values`"),
            ("@page{margin:0}", "`@page`"),
            ("@import 'x';", "`@import`"),
            ("& p{}", "`&`"),
            ("a{@layer{b:c;&.d{e:f}}}", "declarations and rules in `@layer`"),
        ] {
            assert_eq!(fenced(text, "#s"), Err(vec![what.to_owned()]), "{text}");
        }
    }

    #[test]
    fn a_target_that_is_just_not_too_deep_is_refused_where_it_would_be() {
        let mut refused = 0;
        for depth in 1..200 {
            let within = format!(":is({}a{})", "(".repeat(depth), ")".repeat(depth));
            match fenced("p{} q{}", &within) {
                Ok(text) => assert_eq!(Sheet::parse(&text).rules.len(), 2, "{depth}"),
                Err(_) => refused += 1,
            }
        }
        assert!(refused > 0 && refused < 199, "{refused}");
    }

    #[test]
    fn what_no_selector_cuts_down_is_left_out_alone() {
        let text =
            "a{}@page x{font-family:f}b{}@font-face{font-family:f}@unknown;@media print{@page{d:e}c{}}";
        let sheet =
            fence(text, &Sheet::parse(text), &Fence::around("#s", "p", Strength::Raise, &[])).unwrap();
        let fenced =
            "a:is(#s, #s *){}b:is(#s, #s *){}@font-face{font-family:\"p f\"}@media print{c:is(#s, #s *){}}";
        assert_eq!(super::super::edit::apply(text, sheet.edits), fenced);
        assert_eq!(sheet.left_out.len(), 3);
    }

    #[test]
    fn nested_rules_keep_what_they_are_nested_in() {
        let table = [
            ("a{&:hover{b:c}}", "a{&:hover:is(#s, #s *){b:c}}"),
            ("a{b:c;&.d{e:f}g:h}", "a:is(#s, #s *){b:c;} a { &.d:is(#s, #s *){e:f}} a:is(#s, #s *) { g:h}"),
            ("a{@media print{b:c}}", "a:is(#s, #s *){@media print{b:c}}"),
            ("a{> b{c:d} e{f:g}}", "a{> b:is(#s, #s *){c:d} e:is(#s, #s *){f:g}}"),
            (
                "a{@media print{b:c;&.d{e:f}}}",
                "a:is(#s, #s *){@media print{b:c;} } a { @media print { &.d:is(#s, #s *){e:f}}}",
            ),
            (
                ":scope{b:c;& d{e:f}}",
                ":where(#s):nth-child(n):is(#s, #s *){b:c;} :where(#s):nth-child(n) { & d:is(#s, #s *){e:f}}",
            ),
            (
                "@scope (a) to (b){:scope{c:d} > e{f:g} h:i}",
                "@scope (a) to (b){:scope:is(#s, #s *){c:d} > e:is(#s, #s *){f:g} :where(:scope):is(#s, #s *) { h:i }}",
            ),
            ("@layer x{a{b:c}}", "@layer p-x{a:is(#s, #s *){b:c}}"),
        ];
        for (text, expected) in table {
            assert_eq!(fenced(text, "#s").as_deref(), Ok(expected), "{text}");
        }
    }
}
