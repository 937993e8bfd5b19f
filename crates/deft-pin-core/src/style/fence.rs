//! The fence: rewriting that confines a sheet to a target, so that each rule matches exactly
//! what it matched before, cut down to the target and what is inside it.
//!
//! Each complex selector's subject compound gets `:is(W, W *)` in front of its pseudo-elements.
//! Ancestors outside the target, `:has()` and combinators go on working, since nothing else of
//! the selector changes; each rule gets the target's specificity exactly once, so of two rules
//! of the sheet the same one wins before and after. `:scope` stands for the target itself.

use cssparser::{Parser, Token};

use super::edit::Edit;
use super::list::members;
use super::sheet::{AtRule, Item, Rule, Sheet, StyleRule};
use crate::markup::parse_selectors;
use crate::source::Span;

/// A target that sheets are confined to: a selector list, taken as a whole.
#[derive(Clone, Debug)]
pub struct Fence {
    /// `:is(W, W *)`
    inside: String,
    /// `:scope` in other words: the target, with a pseudo-class's specificity.
    target: String,
}

impl Fence {
    /// The fence around what a selector list matches.
    pub fn around(within: &str) -> Self {
        let within = within.trim();
        let inside = if members(within).len() > 1 {
            format!(":is({within}, :is({within}) *)")
        } else {
            format!(":is({within}, {within} *)")
        };
        // Every element is an nth child (Selectors 4, 14.3), so this adds specificity alone.
        Fence { inside, target: format!(":where({within}):nth-child(n)") }
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
/// # Errors
/// Everything in the sheet that would reach past the target.
pub fn fence(text: &str, sheet: &Sheet, fence: &Fence) -> Result<(Vec<Edit>, Vec<Fenced>), Vec<NotConfined>> {
    let mut work = Work { text, fence, edits: Vec::new(), fenced: Vec::new(), refused: Vec::new() };
    for rule in &sheet.rules {
        work.rule(rule);
    }
    if work.refused.is_empty() { Ok((work.edits, work.fenced)) } else { Err(work.refused) }
}

struct Work<'a> {
    text: &'a str,
    fence: &'a Fence,
    edits: Vec<Edit>,
    fenced: Vec<Fenced>,
    refused: Vec<NotConfined>,
}

impl Work<'_> {
    fn rule(&mut self, rule: &Rule) {
        match rule {
            Rule::Style(style) => self.style_rule(style),
            Rule::At(at) => self.at_rule(at),
        }
    }

    fn at_rule(&mut self, at: &AtRule) {
        let conditional = matches!(at.name.as_str(), "media" | "supports" | "container" | "starting-style");
        let nameless_layer = at.name == "layer" && at.prelude.start == at.prelude.end;
        match &at.block {
            Some(block) if conditional || nameless_layer => {
                for item in &block.items {
                    if let Item::Rule(rule) = item {
                        self.rule(rule);
                    }
                }
            }
            _ => {
                let end = at.block.as_ref().map_or(at.span.end, |block| block.span.start);
                self.refused.push(NotConfined {
                    span: Span { end, ..at.span },
                    what: format!("`@{}`", at.name),
                    why: reason(&at.name),
                });
            }
        }
    }

    fn style_rule(&mut self, style: &StyleRule) {
        for item in &style.block.items {
            if let Item::Rule(nested) = item {
                let (span, what) = match nested {
                    Rule::Style(rule) => (rule.prelude, "a nested rule".to_owned()),
                    Rule::At(at) => (at.prelude, format!("a nested `@{}`", at.name)),
                };
                let why = "nesting gives a selector another meaning once the rule around it is confined";
                self.refused.push(NotConfined { span, what, why });
            }
        }
        let prelude = &self.text[style.prelude.range()];
        let Ok(list) = parse_selectors(prelude) else { return };
        if list.slice().iter().any(|selector| selector.has_parent_selector()) {
            let why = "outside of a nested rule, `&` means the whole document";
            self.refused.push(NotConfined { span: style.prelude, what: "`&`".to_owned(), why });
            return;
        }
        let edits = self.fence.prelude_edits(prelude);
        let selectors = super::edit::apply(prelude, edits.clone());
        if parse_selectors(&selectors).is_err() {
            let why = "with the target's selector in it, it is no valid selector any more";
            self.refused.push(NotConfined { span: style.prelude, what: format!("`{prelude}`"), why });
            return;
        }
        let base = style.prelude.start as usize;
        self.edits.extend(edits.into_iter().map(|edit| Edit { span: edit.span.shifted(base), ..edit }));
        self.fenced.push(Fenced { prelude: style.prelude, selectors });
    }
}

fn reason(at_rule: &str) -> &'static str {
    match at_rule {
        "keyframes" | "-webkit-keyframes" => "keyframes are known by their name to the whole page",
        "font-face" | "font-palette-values" | "font-feature-values" => {
            "fonts are known by their name to the whole page"
        }
        "counter-style" => "counter styles are known by their name to the whole page",
        "property" => "a registered property is registered for the whole page",
        "layer" => "layers are known by their name to the whole page, and their order is set for all of it",
        "import" => "an imported sheet is a sheet of its own",
        "scope" => "the scope's own selectors reach through the whole page",
        "page" => "it says how the whole page is printed",
        "view-transition" => "it concerns the whole page",
        _ => "what it does is not cut down by a selector",
    }
}

impl Fence {
    /// The edits that fence a selector list, placed within its text.
    fn prelude_edits(&self, prelude: &str) -> Vec<Edit> {
        let mut edits = Vec::new();
        self.scope_edits(&mut Parser::new(prelude), &mut edits);
        let mut input = Parser::new(prelude);
        let mut subject = Subject::default();
        loop {
            let start = input.position().byte_index();
            let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { break };
            let end = input.position().byte_index();
            match token {
                Token::Comma => {
                    edits.push(Edit::insert(subject.at(), &*self.inside));
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
        edits.push(Edit::insert(subject.at(), &*self.inside));
        edits
    }

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
        match fence(text, &sheet, &Fence::around(within)) {
            Ok((edits, _)) => Ok(super::super::edit::apply(text, edits)),
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
    }

    #[test]
    fn what_would_leak_is_refused_with_its_place() {
        for (text, what) in [
            ("@keyframes k{from{a:b}}", "`@keyframes`"),
            ("@font-face{font-family:x}", "`@font-face`"),
            ("@layer a{p{b:c}}", "`@layer`"),
            ("@import 'x';", "`@import`"),
            ("p{&:hover{a:b}}", "a nested rule"),
            ("p{@media print{a:b}}", "a nested `@media`"),
            ("& p{}", "`&`"),
            ("@scope (a){p{}}", "`@scope`"),
        ] {
            assert_eq!(fenced(text, "#s"), Err(vec![what.to_owned()]), "{text}");
        }
    }
}
