//! Sheets that were made for a whole page, in a part of one: `:root`, `html` and `body` mean that part too.

use cssparser::{ParseError, Parser, Token};

use super::at_rule::AtRuleKind;
use super::edit::Edit;
use super::fence::closed;
use super::list::members;
use super::sheet::{Item, Rule, Sheet, StyleRule};
use crate::source::{SourceText, Span};

/// The edits after which `:root`, `html` and `body` in the selectors of a sheet mean what `within` matches as well.
/// Each selector is as specific as before: `:is(body, :where(W))` counts as `body` (Selectors 4, 17).
pub fn as_page(text: &str, within: &str) -> Vec<Edit> {
    let within = closed(within.trim_start());
    let mut places = Vec::new();
    let sheet = Sheet::parse(text);
    sheet.rules.iter().for_each(|rule| of_rule(text, rule, &mut places));
    let inherited = inherited_by_the_body(text, &sheet).map(|span| Edit { span, text: String::new() });
    let around = |place: Span| {
        [Edit::insert(place.start, ":is("), Edit::insert(place.end, format!(", :where({within}))"))]
    };
    let mut edits: Vec<Edit> = places.into_iter().flat_map(around).chain(inherited).collect();
    edits.sort_by_key(|edit| edit.span);
    edits
}

/// What `body` takes over from `html`: one element has that already.
fn inherited_by_the_body<'s>(text: &'s str, sheet: &'s Sheet) -> impl Iterator<Item = Span> {
    let is_body = |rule: &&StyleRule| text[rule.prelude.range()].trim().eq_ignore_ascii_case("body");
    let rules = sheet.style_rules().into_iter().map(|(rule, _)| rule).filter(is_body);
    rules.flat_map(|rule| &rule.block.items).filter_map(|item| match item {
        Item::Declaration(own) if text[own.value.range()].eq_ignore_ascii_case("inherit") => Some(own.span),
        _ => None,
    })
}

/// A font size for the root element, in a sheet that gives lengths by it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct RootSize {
    /// The declaration.
    pub span: Span,
    /// How many lengths of the sheet are in `rem` (css-values-4, 6.1.1).
    pub lengths: usize,
}

/// The first font size that a sheet gives to the root element, where that sizes its lengths.
pub fn root_size(source: &SourceText) -> Option<RootSize> {
    let text = source.as_str();
    let is_root = |prelude: Span| {
        let list = source.written(prelude);
        members(list).iter().any(|member| {
            let own = list[member.range()].trim();
            let bare = own.strip_prefix(":where(").and_then(|own| own.strip_suffix(')')).unwrap_or(own);
            [":root", "html"].iter().any(|root| bare.trim().eq_ignore_ascii_case(root))
        })
    };
    let sheet = Sheet::parse(text);
    let found =
        sheet.style_rules().into_iter().filter(|(rule, _)| is_root(rule.prelude)).find_map(|(rule, _)| {
            let sizes = |item: &&Item| match item {
                Item::Declaration(own) => {
                    let value = text[own.value.range()].to_ascii_lowercase();
                    let is_usual = ["100%", "16px", "1rem", "1em", "medium", "inherit", "initial", "unset"];
                    own.name.eq_ignore_ascii_case("font-size") && !is_usual.contains(&value.as_str())
                }
                Item::Rule(_) => false,
            };
            match rule.block.items.iter().find(sizes) {
                Some(Item::Declaration(own)) => Some(own.span),
                _ => None,
            }
        });
    let span = found?;
    let lengths = root_lengths(text);
    (lengths > 0).then_some(RootSize { span, lengths })
}

/// How many lengths of a sheet are in `rem`.
fn root_lengths(text: &str) -> usize {
    let bytes = text.as_bytes();
    let is_part = |at: usize| bytes.get(at).is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'-');
    let is_length = |at: &usize| *at > 0 && bytes[*at - 1].is_ascii_digit() && !is_part(*at + 3);
    memchr::memmem::find_iter(bytes, b"rem").filter(is_length).count()
}

fn of_rule(text: &str, rule: &Rule, places: &mut Vec<Span>) {
    let (prelude, block) = match rule {
        Rule::Style(style) => (Some(style.prelude), Some(&style.block)),
        Rule::At(at) if at.kind() == AtRuleKind::Scope => (Some(at.prelude), at.block.as_ref()),
        Rule::At(at) if at.kind().is_group() => (None, at.block.as_ref()),
        Rule::At(_) => return,
    };
    if let Some(prelude) = prelude {
        collect(&mut Parser::new(&text[prelude.range()]), prelude.start as usize, places);
    }
    for item in block.iter().flat_map(|block| &block.items) {
        if let Item::Rule(rule) = item {
            of_rule(text, rule, places);
        }
    }
}

/// The functions in whose brackets selectors stand.
const OF_SELECTORS: &[&str] =
    &["is", "where", "not", "has", "-webkit-any", "nth-child", "nth-last-child", "host-context"];

/// Where a selector means the page by `:root`, `html` or `body`.
fn collect(input: &mut Parser<'_>, base: usize, places: &mut Vec<Span>) {
    // Where a type may stand: not behind a dot, a colon or the bar of a namespace.
    let mut may_be_type = true;
    // A colon right before; of two, which make a pseudo-element, none.
    let mut colon: Option<usize> = None;
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        let end = input.position().byte_index();
        let one_colon = colon.take();
        match token {
            Token::Comment(_) => {}
            Token::Colon => {
                colon = one_colon.is_none().then_some(start);
                may_be_type = false;
            }
            Token::Ident(name) => {
                let is_root = one_colon.is_some() && name.eq_ignore_ascii_case("root");
                let is_type =
                    may_be_type && ["html", "body"].iter().any(|own| name.eq_ignore_ascii_case(own));
                let mut is_prefix = || input.try_parse(|input| input.expect_delim('|')).is_ok();
                may_be_type = false;
                if is_type && is_prefix() {
                    continue;
                }
                if is_root || is_type {
                    places.push(Span::new(base + one_colon.unwrap_or(start), base + end));
                }
            }
            Token::Function(name) if OF_SELECTORS.iter().any(|own| name.eq_ignore_ascii_case(own)) => {
                nested(input, base, places);
                may_be_type = false;
            }
            Token::ParenthesisBlock => {
                nested(input, base, places);
                may_be_type = true;
            }
            Token::Function(_) | Token::Hash(_) | Token::IDHash(_) | Token::SquareBracketBlock => {
                may_be_type = false;
            }
            Token::Delim('.' | '|' | '&') => may_be_type = false,
            _ => may_be_type = true,
        }
    }
}

fn nested(input: &mut Parser<'_>, base: usize, places: &mut Vec<Span>) {
    let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
        collect(input, base, places);
        Ok(())
    });
}

#[cfg(test)]
mod tests {
    use super::super::edit::apply;
    use super::*;

    #[test]
    fn the_target_stands_for_the_page_in_selectors() {
        let (root, html, body) = (":is(:root, :where(#m))", ":is(html, :where(#m))", ":is(body, :where(#m))");
        let table = [
            (":root { --a: 1 }", format!("{root} {{ --a: 1 }}")),
            ("html,BODY { top: 0 }", format!("{html},{} {{ top: 0 }}", body.replace("body", "BODY"))),
            (
                "body.dark .x, p:not(:root):is(html > body *) { top: 0 }",
                format!("{body}.dark .x, p:not({root}):is({html} > {body} *) {{ top: 0 }}"),
            ),
            (
                ":root[lang=\"html\"]:lang(body) { top: 0 }",
                format!("{root}[lang=\"html\"]:lang(body) {{ top: 0 }}"),
            ),
            (
                "@media print { body { top: 0; html & { left: 0 } } }",
                format!("@media print {{ {body} {{ top: 0; {html} & {{ left: 0 }} }} }}"),
            ),
            (
                "@scope (body) to (.html) { :root p { top: 0 } }",
                format!("@scope ({body}) to (.html) {{ {root} p {{ top: 0 }} }}"),
            ),
            ("body { line-height: inherit; top: 0 }", format!("{body} {{ ; top: 0 }}")),
            (":nth-child(2 of body) { top: 0 }", format!(":nth-child(2 of {body}) {{ top: 0 }}")),
        ];
        for (text, expected) in table {
            assert_eq!(apply(text, as_page(text, "#m")), expected);
        }
        for same in [
            ".html, #body, [body], svg|body, *|html, html|a, ::root, p::part(body), html-x { top: 0 }",
            "@keyframes body { from { top: 0 } } @font-face { font-family: html }",
            "p { html: body; --root: :root }",
        ] {
            assert_eq!(as_page(same, "#m"), [], "{same}");
        }
    }
}
