//! Flat sheets: rules that stand in other rules written out, with the same matches and the same winners
//! (css-nesting-1, "nesting other style rules").

use cssparser::{ParseError, Parser, Token};

use super::at_rule::AtRuleKind;
use super::list::members;
use super::sheet::{AtRule, Block, Item, Rule, Sheet, StyleRule};
use crate::markup::parse_nested_selectors;
use crate::source::Span;

/// A sheet without rules in rules. What has none is given back as it is; none where it would be beyond measure long.
pub fn flat(text: &str) -> Option<String> {
    let sheet = Sheet::parse(text);
    if !sheet.rules.iter().any(is_nested) {
        return Some(text.to_owned());
    }
    let mut work = Flattening { text, out: String::with_capacity(text.len() * 2), open: Vec::new() };
    let mut done = 0;
    for rule in sheet.rules.iter().filter(|rule| is_nested(rule)) {
        let span = span_of(rule, text);
        work.out.push_str(text.get(done..span.start as usize)?);
        work.rule(rule, None)?;
        done = span.end as usize;
    }
    work.out.push_str(text.get(done..)?);
    Some(work.out)
}

/// The most bytes that one rule's selectors may come to.
const LONGEST_SELECTORS: usize = 64 << 10;
/// The most bytes that a sheet may come to.
const LONGEST_SHEET: usize = 16 << 20;

fn span_of(rule: &Rule, text: &str) -> Span {
    match rule {
        Rule::Style(style) => {
            let end = style.block.span.end;
            let brace = u32::from(text[end as usize..].starts_with('}'));
            Span { start: style.prelude.start, end: end + brace }
        }
        Rule::At(at) => at.span,
    }
}

/// Whether a rule holds one in another.
fn is_nested(rule: &Rule) -> bool {
    let has_rules = |items: &[Item]| items.iter().any(|item| matches!(item, Item::Rule(_)));
    match rule {
        Rule::Style(style) => has_rules(&style.block.items),
        Rule::At(at) if at.kind().is_keyframes() => false,
        Rule::At(at) => at.block.iter().flat_map(|block| &block.items).any(|item| match item {
            Item::Rule(rule) => is_nested(rule),
            Item::Declaration(_) => false,
        }),
    }
}

struct Flattening<'t> {
    text: &'t str,
    out: String,
    /// The at-rules that are open, as they were written.
    open: Vec<&'t str>,
}

impl<'t> Flattening<'t> {
    /// Writes a rule; `outer` is the selector list of the style rule that it stands in.
    fn rule(&mut self, rule: &'t Rule, outer: Option<&str>) -> Option<()> {
        match rule {
            Rule::Style(style) => self.style(style, outer),
            Rule::At(at) => self.at_rule(at, outer),
        }
    }

    fn style(&mut self, style: &'t StyleRule, outer: Option<&str>) -> Option<()> {
        let written = self.text[style.prelude.range()].trim();
        // A rule that a browser does not know goes with all that stands in it; in `:is()` some of it would count.
        if parse_nested_selectors(written).is_err() {
            return Some(());
        }
        let selectors = match outer {
            Some(outer) => written_out(written, outer),
            None => written.to_owned(),
        };
        if selectors.len() > LONGEST_SELECTORS || self.out.len() > LONGEST_SHEET {
            return None;
        }
        self.items(&style.block, &selectors)
    }

    /// Writes what stands in a style rule of these selectors: its declarations in runs, and the rules between them.
    fn items(&mut self, block: &'t Block, selectors: &str) -> Option<()> {
        let mut run: Vec<&str> = Vec::new();
        for item in &block.items {
            match item {
                Item::Declaration(own) => run.push(self.text[own.span.range()].trim()),
                Item::Rule(rule) => {
                    self.declarations(&mut run, selectors);
                    self.rule(rule, Some(selectors))?;
                }
            }
        }
        self.declarations(&mut run, selectors);
        Some(())
    }

    fn declarations(&mut self, run: &mut Vec<&str>, selectors: &str) {
        if !run.is_empty() {
            let rule = format!("{selectors} {{ {}; }}", run.join("; "));
            self.within_open(&rule);
            run.clear();
        }
    }

    fn within_open(&mut self, rule: &str) {
        let open: String = self.open.iter().map(|head| format!("{head} {{ ")).collect();
        self.out.push_str(&format!("{open}{rule}{}\n", " }".repeat(self.open.len())));
    }

    fn at_rule(&mut self, at: &'t AtRule, outer: Option<&str>) -> Option<()> {
        let is_scope = at.kind() == AtRuleKind::Scope;
        let Some(block) = at.block.as_ref().filter(|_| is_scope || at.kind().is_group()) else {
            let whole = &self.text[at.span.range()];
            self.within_open(whole);
            return Some(());
        };
        let head = self.text[at.span.start as usize..block.span.start as usize].trim();
        self.open.push(head.strip_suffix('{').unwrap_or(head).trim());
        match outer {
            // In a style rule, what it holds is the rule's.
            Some(selectors) if !is_scope => self.items(block, selectors)?,
            _ if is_scope => self.items_of_scope(block)?,
            _ => {
                for item in &block.items {
                    if let Item::Rule(rule) = item {
                        self.rule(rule, None)?;
                    }
                }
            }
        }
        self.open.pop();
        Some(())
    }

    /// What stands in a scope: rules are on their own there, and declarations are those of its root (css-cascade-6, "scoped declarations").
    fn items_of_scope(&mut self, block: &'t Block) -> Option<()> {
        let mut run: Vec<&str> = Vec::new();
        for item in &block.items {
            match item {
                Item::Declaration(own) => run.push(self.text[own.span.range()].trim()),
                Item::Rule(rule) => {
                    self.declarations(&mut run, ":where(:scope)");
                    self.rule(rule, None)?;
                }
            }
        }
        self.declarations(&mut run, ":where(:scope)");
        Some(())
    }
}

/// Selectors of a rule that stands in another, without it: `&` becomes the outer list, and what has none is below it.
fn written_out(selectors: &str, outer: &str) -> String {
    let around = format!(":is({outer})");
    let each = members(selectors).into_iter().map(|span| {
        let own = selectors[span.range()].trim();
        let places = nesting_selectors(own);
        let mut text = String::new();
        if places.is_empty() || own.starts_with(['>', '+', '~']) {
            text.push_str(&around);
            text.push(' ');
        }
        let mut done = 0;
        for at in places {
            text.push_str(&own[done..at]);
            text.push_str(&around);
            done = at + 1;
        }
        text.push_str(&own[done..]);
        text
    });
    each.collect::<Vec<_>>().join(", ")
}

/// Where `&` stands in a selector.
fn nesting_selectors(text: &str) -> Vec<usize> {
    let mut places = Vec::new();
    collect(&mut Parser::new(text), &mut places);
    places
}

fn collect(input: &mut Parser<'_>, places: &mut Vec<usize>) {
    loop {
        let at = input.position().byte_index();
        match input.next_including_whitespace_and_comments().cloned() {
            Ok(Token::Delim('&')) => places.push(at),
            Ok(Token::Function(_) | Token::ParenthesisBlock | Token::SquareBracketBlock) => {
                let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
                    collect(input, places);
                    Ok(())
                });
            }
            Ok(_) => {}
            Err(_) => return,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rules_in_rules_are_written_out() {
        let table = [
            ("a { color: red }", "a { color: red }"),
            ("a { color: red; & b { top: 0 } }", "a { color: red; }\n:is(a) b { top: 0; }\n"),
            ("a, .b { c { top: 0 } left: 0 }", ":is(a, .b) c { top: 0; }\na, .b { left: 0; }\n"),
            (
                "a { > b { top: 0 } .c & { top: 1px } &.d { top: 2px } }",
                ":is(a) > b { top: 0; }\n.c :is(a) { top: 1px; }\n:is(a).d { top: 2px; }\n",
            ),
            (
                "a { :not(&) { top: 0 } + & { left: 0 } }",
                ":not(:is(a)) { top: 0; }\n:is(a) + :is(a) { left: 0; }\n",
            ),
            (
                "a { @media print { top: 0; b { left: 0 } } }",
                "@media print { a { top: 0; } }\n@media print { :is(a) b { left: 0; } }\n",
            ),
            (
                "@media print { a { b { top: 0 } } p { top: 0 } }",
                "@media print { :is(a) b { top: 0; } }\n@media print { p { top: 0; } }\n",
            ),
            ("a { b { c { top: 0 !important } } }", ":is(:is(a) b) c { top: 0 !important; }\n"),
            (
                "x { top: 0 } a { &:hover { left: 0 } } /* end */",
                "x { top: 0 } :is(a):hover { left: 0; }\n /* end */",
            ),
            ("a { [x='&'] { top: 0 } }", ":is(a) [x='&'] { top: 0; }\n"),
            ("a { .b, & > i { top: 0 } }", ":is(a) .b, :is(a) > i { top: 0; }\n"),
            ("a, b:foo(1) { i { top: 0 } } p { top: 0 }", " p { top: 0 }"),
            ("@layer x { a { b { top: 0 } } }", "@layer x { :is(a) b { top: 0; } }\n"),
            (
                "@keyframes x { from { top: 0 } } a { b { top: 0 } }",
                "@keyframes x { from { top: 0 } } :is(a) b { top: 0; }\n",
            ),
        ];
        for (text, expected) in table {
            assert_eq!(flat(text).as_deref(), Some(expected), "{text}");
        }
        let deep = format!("a {{ {}x {{ top: 0 }}{} }}", "&& && { ".repeat(40), "}".repeat(40));
        assert_eq!(flat(&deep), None);
    }
}
