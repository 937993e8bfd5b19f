//! The rules of a style sheet, cut as css-syntax-3 cuts them (section 5), each with its place.
//!
//! Nothing is judged here: a rule whose selector is wrong and a declaration whose property does
//! not exist are in the tree like any other.

use cssparser::{
    AtRuleParser, CowRcStr, DeclarationParser, ParseError, Parser, ParserState, QualifiedRuleParser,
    RuleBodyItemParser, RuleBodyParser, StyleSheetParser, Token,
};

use super::at_rule::AtRuleKind;
use crate::markup::Namespaces;
use crate::source::Span;

/// A style sheet.
#[derive(Debug, Default)]
pub struct Sheet {
    /// The rules, in order.
    pub rules: Vec<Rule>,
    /// What was skipped, since it is neither a rule nor a declaration.
    pub skipped: Vec<Skipped>,
}

/// A rule of either kind.
#[derive(Debug)]
pub enum Rule {
    /// A selector and a block.
    Style(StyleRule),
    /// An at-rule.
    At(AtRule),
}

/// A qualified rule: what stands before the brace, and the block.
#[derive(Debug)]
pub struct StyleRule {
    /// The selector list, without blanks around it.
    pub prelude: Span,
    /// What is in the braces.
    pub block: Block,
}

/// An at-rule.
#[derive(Debug)]
pub struct AtRule {
    /// The name in lower case, without the `@`.
    pub name: String,
    /// All of it, from the `@` on.
    pub span: Span,
    /// What stands between the name and the block or the semicolon, without blanks around it.
    pub prelude: Span,
    /// The block, where it has one.
    pub block: Option<Block>,
}

/// What is between two braces.
#[derive(Debug, Default)]
pub struct Block {
    /// The text between the braces.
    pub span: Span,
    /// Declarations and rules, in order.
    pub items: Vec<Item>,
}

/// One thing in a block.
#[derive(Debug)]
pub enum Item {
    /// A declaration.
    Declaration(Declaration),
    /// A nested rule.
    Rule(Rule),
}

/// A property, or descriptor, and its value.
#[derive(Debug)]
pub struct Declaration {
    /// The name as it was written.
    pub name: String,
    /// From the name to the end of the value.
    pub span: Span,
    /// The value, without blanks around it.
    pub value: Span,
    /// Whether it ends in `!important`.
    pub important: bool,
}

impl AtRule {
    /// Its kind.
    pub fn kind(&self) -> AtRuleKind {
        AtRuleKind::of(&self.name)
    }

    /// Whether a namespace may still be declared behind it (css-namespaces-3, "syntax").
    pub(super) fn stands_in_front(&self) -> bool {
        match self.kind() {
            AtRuleKind::Charset | AtRuleKind::Import | AtRuleKind::Namespace => true,
            AtRuleKind::Layer => self.block.is_none(),
            _ => false,
        }
    }
}

impl Declaration {
    /// Where the name stands.
    pub fn name_span(&self) -> Span {
        Span { start: self.span.start, end: self.span.start + crate::source::offset(self.name.len()) }
    }

    /// Whether it sets a custom property (css-variables-1).
    pub fn is_custom(&self) -> bool {
        self.name.starts_with("--")
    }
}

/// A piece of text that was skipped.
#[derive(Debug, PartialEq, Eq)]
pub struct Skipped {
    /// The piece.
    pub span: Span,
    /// Whether it stood inside a block, where a declaration was due.
    pub in_block: bool,
}

impl Sheet {
    /// Cuts a text into rules. Any text gives a sheet.
    pub fn parse(text: &str) -> Self {
        let mut cutter = Cutter { text, skipped: Vec::new() };
        let mut input = Parser::new(text);
        let mut rules = Vec::new();
        for result in StyleSheetParser::new(&mut input, &mut cutter).collect::<Vec<_>>() {
            match result {
                Ok(Item::Rule(rule)) => rules.push(rule),
                Ok(Item::Declaration(_)) => {}
                Err((_, slice, _)) => cutter.skip(slice, false),
            }
        }
        cutter.skipped.sort_by_key(|skipped| skipped.span);
        Sheet { rules, skipped: cutter.skipped }
    }

    /// The namespaces that it declares, in front of everything that is no import (css-namespaces-3, "syntax").
    pub fn namespaces(&self, text: &str) -> Namespaces {
        let mut declared = Namespaces::default();
        for rule in &self.rules {
            match rule {
                Rule::At(at) if at.kind() == AtRuleKind::Namespace && at.block.is_none() => {
                    declared.declare(&text[at.prelude.range()]);
                }
                Rule::At(at) if matches!(at.kind(), AtRuleKind::Charset | AtRuleKind::Import) => {}
                Rule::At(at) if at.kind() == AtRuleKind::Layer && at.block.is_none() => {}
                _ => break,
            }
        }
        declared
    }

    /// Every style rule, also inside others, with the at-rules around it from the outside in.
    pub fn style_rules(&self) -> Vec<(&StyleRule, Vec<&AtRule>)> {
        let mut found = Vec::new();
        for rule in &self.rules {
            collect(rule, &mut Vec::new(), &mut found);
        }
        found
    }
}

fn collect<'s>(
    rule: &'s Rule,
    around: &mut Vec<&'s AtRule>,
    found: &mut Vec<(&'s StyleRule, Vec<&'s AtRule>)>,
) {
    let items = match rule {
        Rule::Style(style) => {
            found.push((style, around.clone()));
            &style.block.items
        }
        Rule::At(at) => {
            around.push(at);
            at.block.as_ref().map_or(&[][..], |block| &block.items)
        }
    };
    for item in items {
        if let Item::Rule(rule) = item {
            collect(rule, around, found);
        }
    }
    if matches!(rule, Rule::At(_)) {
        around.pop();
    }
}

struct Cutter<'t> {
    text: &'t str,
    skipped: Vec<Skipped>,
}

/// What cssparser's traits want as an error; which one it was does not matter to a cutter.
type Unfit = ParseError<()>;

impl Cutter<'_> {
    /// The place of a slice of the text.
    fn place(&self, slice: &str) -> Span {
        let start = (slice.as_ptr() as usize).saturating_sub(self.text.as_ptr() as usize);
        Span::new(start, start + slice.len())
    }

    fn trimmed(&self, span: Span) -> Span {
        self.place(self.text[span.range()].trim_matches(|c: char| c.is_ascii_whitespace()))
    }

    fn skip(&mut self, slice: &str, in_block: bool) {
        let span = self.trimmed(self.place(slice.trim_end_matches([';', ' ', '\n', '\r', '\t'])));
        if span.start < span.end {
            self.skipped.push(Skipped { span, in_block });
        }
    }

    fn block<'i>(&mut self, input: &mut Parser<'i>) -> Block {
        let start = input.position().byte_index();
        let results: Vec<_> = RuleBodyParser::new(input, self).collect();
        let mut items = Vec::with_capacity(results.len());
        for result in results {
            match result {
                Ok(item) => items.push(item),
                Err((_, slice, _)) => self.skip(slice, true),
            }
        }
        Block { span: Span::new(start, input.position().byte_index()), items }
    }
}

fn exhaust(input: &mut Parser<'_>) -> Span {
    let start = input.position().byte_index();
    while input.next_including_whitespace_and_comments().is_ok() {}
    Span::new(start, input.position().byte_index())
}

impl<'i> AtRuleParser<'i> for Cutter<'_> {
    type Prelude = (String, Span);
    type AtRule = Item;
    type Error = ();

    fn parse_prelude(&mut self, name: CowRcStr<'i>, input: &mut Parser<'i>) -> Result<Self::Prelude, Unfit> {
        let prelude = exhaust(input);
        Ok((name.to_ascii_lowercase(), self.trimmed(prelude)))
    }

    fn rule_without_block(
        &mut self,
        (name, prelude): Self::Prelude,
        start: &ParserState,
    ) -> Result<Item, ()> {
        let start = start.position().byte_index();
        let mut end = prelude.end as usize;
        let rest = &self.text[end..];
        let blanks = rest.len() - rest.trim_ascii_start().len();
        if rest[blanks..].starts_with(';') {
            end += blanks + 1;
        }
        Ok(Item::Rule(Rule::At(AtRule { name, span: Span::new(start, end), prelude, block: None })))
    }

    fn parse_block(
        &mut self,
        (name, prelude): Self::Prelude,
        start: &ParserState,
        input: &mut Parser<'i>,
    ) -> Result<Item, Unfit> {
        let block = self.block(input);
        let end = (block.span.end as usize + 1).min(self.text.len());
        let span = Span::new(start.position().byte_index(), end);
        Ok(Item::Rule(Rule::At(AtRule { name, span, prelude, block: Some(block) })))
    }
}

impl<'i> QualifiedRuleParser<'i> for Cutter<'_> {
    type Prelude = Span;
    type QualifiedRule = Item;
    type Error = ();

    fn parse_prelude(&mut self, input: &mut Parser<'i>) -> Result<Span, Unfit> {
        let prelude = exhaust(input);
        Ok(self.trimmed(prelude))
    }

    fn parse_block(&mut self, prelude: Span, _: &ParserState, input: &mut Parser<'i>) -> Result<Item, Unfit> {
        Ok(Item::Rule(Rule::Style(StyleRule { prelude, block: self.block(input) })))
    }
}

impl<'i> DeclarationParser<'i> for Cutter<'_> {
    type Declaration = Item;
    type Error = ();

    fn parse_value(
        &mut self,
        name: CowRcStr<'i>,
        input: &mut Parser<'i>,
        start: &ParserState,
    ) -> Result<Item, Unfit> {
        let value_start = input.position().byte_index();
        // The last two tokens that are not blank: `!` and `important`.
        let mut last = [false, false];
        loop {
            match input.next_including_whitespace_and_comments() {
                Ok(Token::WhiteSpace(_) | Token::Comment(_)) => {}
                // Not a declaration but a nested rule, `a:hover { … }` (css-syntax-3, 5.5.6).
                Ok(Token::CurlyBracketBlock) if !name.starts_with("--") => {
                    return Err(ParseError::unexpected_token());
                }
                Ok(Token::Delim('!')) => last = [true, false],
                Ok(Token::Ident(ident)) => last = [false, last[0] && ident.eq_ignore_ascii_case("important")],
                Ok(_) => last = [false, false],
                Err(_) => break,
            }
        }
        let value = Span::new(value_start, input.position().byte_index());
        Ok(Item::Declaration(Declaration {
            name: name.to_string(),
            span: Span { start: Span::at(start.position().byte_index()).start, end: self.trimmed(value).end },
            value: self.trimmed(value),
            important: last[1],
        }))
    }
}

impl<'i> RuleBodyItemParser<'i, Item, ()> for Cutter<'_> {
    fn parse_declarations(&self) -> bool {
        true
    }

    fn parse_qualified(&self) -> bool {
        true
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A sheet in a line: `prelude{name:value;…}`, what was skipped in `<…>` at the end.
    fn draw(text: &str) -> String {
        let sheet = Sheet::parse(text);
        let mut out = String::new();
        sheet.rules.iter().for_each(|rule| draw_rule(text, rule, &mut out));
        for skipped in &sheet.skipped {
            out += &format!(" <{}>", &text[skipped.span.range()]);
        }
        out
    }

    fn draw_rule(text: &str, rule: &Rule, out: &mut String) {
        let block = match rule {
            Rule::Style(style) => {
                *out += &text[style.prelude.range()];
                Some(&style.block)
            }
            Rule::At(at) => {
                *out += &format!("@{} {}", at.name, &text[at.prelude.range()]);
                at.block.as_ref()
            }
        };
        let Some(block) = block else {
            *out += ";";
            return;
        };
        *out += "{";
        for item in &block.items {
            match item {
                Item::Rule(rule) => draw_rule(text, rule, out),
                Item::Declaration(d) => {
                    let important = if d.important { "!" } else { "" };
                    *out += &format!("{}:{}{important};", d.name, &text[d.value.range()]);
                    assert_eq!(&text[d.name_span().range()], d.name);
                }
            }
        }
        *out += "}";
    }

    #[test]
    fn sheets_are_cut_as_the_standard_cuts_them() {
        let table = [
            ("a { color: red; margin:0 !important }", "a{color:red;margin:0 !important!;}"),
            ("a { color: red }\n}\n.b { margin: 0 }", "a{color:red;}}\n.b{margin:0;}"),
            (".a { color red; margin: 0 }", ".a{margin:0;} <color red>"),
            (".a { color: red\n margin: 0 }", ".a{color:red\n margin: 0;}"),
            (".a { b:hover { c: d } &.e { f: g } h: i }", ".a{b:hover{c:d;}&.e{f:g;}h:i;}"),
            (".a { --x: { b: c }; d: e }", ".a{--x:{ b: c };d:e;}"),
            ("@media (min-width:1px){a{b:c}}@import 'x';", "@media (min-width:1px){a{b:c;}}@import 'x';"),
            ("@layer a, b;", "@layer a, b;"),
            (".a { color: red;", ".a{color:red;}"),
            (".a", " <.a>"),
            ("<!-- a{b:c} -->", "a{b:c;}"),
            ("@keyframes k { from { a: b } 50% { a: c } }", "@keyframes k{from{a:b;}50%{a:c;}}"),
        ];
        for (text, expected) in table {
            assert_eq!(draw(text), expected, "{text}");
        }
    }
}
