//! Findings about declarations that win and do nothing: their property is not for what they are for.

use std::collections::{BTreeMap, BTreeSet};

use serde::Serialize;

use super::code::{Code, Severity};
use super::declarations::PinDeclaration;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PageId;
use crate::style::{CascadeRule, NoEffect, StyleRules};

pub(super) struct NoEffects;

/// What a declaration that wins on a page comes to there.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct Effect {
    declaration: PinDeclaration,
    /// Why it does nothing, and a short name for the first element on which it does not; none where it does
    /// something.
    idle: Option<(NoEffect, String)>,
}

impl Family for NoEffects {
    type Fact = Effect;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<Effect>) {
        // A sheet that could not be looked into may give any element another box.
        if !page.page.sheets().unread.is_empty() {
            return;
        }
        let results = page.declarations().results.iter();
        let told = results.filter(|(_, result)| result.wins > 0 && result.is_asked);
        facts.extend(told.map(|(declaration, result)| Effect {
            declaration: *declaration,
            idle: result.idle.clone().filter(|_| !result.acts),
        }));
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<Effect>, findings: &mut Vec<Finding>) {
        let mut told_parts = BTreeSet::new();
        let around = rules_around(input);
        // On one page it does something: that is what it is for.
        let acting = facts.iter().filter(|(fact, _)| fact.idle.is_none());
        let acting: BTreeSet<PinDeclaration> = acting.map(|(fact, _)| fact.declaration).collect();
        for shared in facts.shared(|fact| fact.declaration) {
            let declaration = shared.first.declaration;
            let Some((why, element)) = &shared.first.idle else { continue };
            if acting.contains(&declaration) {
                continue;
            }
            let around = around.get(&declaration);
            // A pseudo-element that is not there is told once, with its rule.
            let is_part = matches!(why, NoEffect::NoContent | NoEffect::NoPseudo);
            if let Some((rules, rule)) = around
                && (is_for_all(rules, rule)
                    || is_part && !told_parts.insert((declaration.pin, rules.source(rule.prelude).1)))
            {
                continue;
            }
            findings.extend(told(input, declaration, (*why, element), shared.pages));
        }
    }
}

/// The rules of pins' sheets, by the declarations in them as they were written.
fn rules_around<'i>(input: &CheckInput<'i>) -> BTreeMap<PinDeclaration, (&'i StyleRules, &'i CascadeRule)> {
    let mut around = BTreeMap::new();
    for (pin, _) in input.styles() {
        let Some(rules) = input.context.sheets.of_pin(pin) else { continue };
        for rule in &rules.rules {
            for own in &rule.declarations {
                let declaration = PinDeclaration { pin, span: rules.source(own.span).1 };
                around.entry(declaration).or_insert((&**rules, rule));
            }
        }
    }
    around
}

/// Whether a rule is for every element: it is for those that have a use for it.
fn is_for_all(rules: &StyleRules, rule: &CascadeRule) -> bool {
    rule.selectors.iter().any(|selector| {
        let written = rules.written(selector.span);
        let subject = written.rsplit([' ', '>', '+', '~']).next().unwrap_or_default();
        subject.starts_with('*') || subject.starts_with("::")
    })
}

fn told(
    input: &CheckInput<'_>,
    declaration: PinDeclaration,
    (why, element): (NoEffect, &str),
    pages: Vec<PageId>,
) -> Option<Finding> {
    let text = input.sheet_text(declaration.pin, declaration.span);
    let property = text.split(':').next().unwrap_or_default().trim();
    let (because, help) = words(why, property, element);
    let message = match why {
        NoEffect::NoContent | NoEffect::NoPseudo => because,
        _ => format!("`{text}` wins and does nothing: {because}"),
    };
    let finding =
        Finding::new(Code::NoEffect, input.in_sheet(declaration.pin, declaration.span)?, message).help(help);
    // It may be for a browser or a page to come; what is not there at all is more certain.
    let severity = if why == NoEffect::NoContent { Severity::Error } else { Severity::Warning };
    Some(finding.severity(severity).pin(input.pin_name(declaration.pin)).pages(input.paths(pages)))
}

/// Why a property does nothing on an element, and what to write.
fn words(why: NoEffect, property: &str, element: &str) -> (String, String) {
    let (because, help): (String, &str) = match why {
        NoEffect::NoContainer => (
            format!("`{property}` is for flex containers and grids, and `{element}` is neither"),
            "add `display: flex` or `display: grid`, or put it on the element that has it",
        ),
        NoEffect::NoFlex => (
            format!("`{property}` is for flex containers, and `{element}` is none"),
            "add `display: flex`, or put it on the element that has it",
        ),
        NoEffect::NoGrid => (
            format!("`{property}` is for grids, and `{element}` is none"),
            "add `display: grid`, or put it on the element that has it",
        ),
        NoEffect::NoItem => (
            format!(
                "`{property}` is for what stands in a flex container or a grid, and the parent of `{element}` is neither"
            ),
            "give the parent `display: flex` or `display: grid`",
        ),
        NoEffect::NoFlexItem => (
            format!(
                "`{property}` is for what stands in a flex container, and the parent of `{element}` is none"
            ),
            "give the parent `display: flex`",
        ),
        NoEffect::NoGridItem => (
            format!("`{property}` is for what stands in a grid, and the parent of `{element}` is none"),
            "give the parent `display: grid`",
        ),
        NoEffect::IsItem => (
            format!(
                "the parent of `{element}` is a flex container or a grid, which places what stands in it by itself"
            ),
            "in a flex container `margin-inline-start: auto` moves to the end; `order` and `align-self` do the rest",
        ),
        NoEffect::IsAbsolute => (
            format!("`{element}` is positioned absolutely, and such a box does not float"),
            "take one of the two out",
        ),
        NoEffect::BeyondWhole => (
            format!("`{property}` goes from 0 to 1, and from 0 to 100%: what is more is cut to that"),
            "for half of it write `.5` or `50%`",
        ),
        NoEffect::IsInline => (
            format!(
                "`{element}` is a box in a line of text (`display: inline`), which has no use for `{property}`"
            ),
            "add `display: inline-block` or `display: block`",
        ),
        NoEffect::IsBlock => (
            format!(
                "`{property}` is for boxes in a line of text and for cells of tables, and `{element}` is a block"
            ),
            "in a flex container `align-items: center` does that; in a block of a fixed height, `align-content: center`",
        ),
        NoEffect::IsTablePart => (
            format!("`{element}` is a part of a table, which has no use for `{property}`"),
            "put padding on the cells, or `border-spacing` on the table",
        ),
        NoEffect::NoTable => {
            (format!("`{property}` is for tables, and `{element}` is none"), "put it on the table")
        }
        NoEffect::IsStatic => (
            format!(
                "`{property}` is for elements that are positioned, and `{element}` is not (`position: static`)"
            ),
            "add `position: relative`",
        ),
        NoEffect::NoEdge => (
            format!(
                "no edge of `{element}` says where it sticks: `top`, `right`, `bottom` and `left` are `auto`"
            ),
            "add `top: 0`, or another edge",
        ),
        NoEffect::IsCut => (
            format!(
                "something around `{element}` cuts off what flows over it (`overflow: hidden`), so it would stick to that, and that does not scroll"
            ),
            "give what is around it `overflow: clip`, or none",
        ),
        NoEffect::NotReplaced => (
            format!("`{property}` is for images, films and the like, and `{element}` is none"),
            "put it on the image; for a background there are `background-size` and `background-position`",
        ),
        NoEffect::NoBorderStyle => (
            format!("`{element}` has no border: nothing gives it a `border-style`"),
            "write it with a style, such as `border: 1px solid`",
        ),
        NoEffect::NoBackgroundImage => (
            format!("`{element}` has no background image"),
            "put it on the element that has one, or add `background-image`",
        ),
        NoEffect::NoMaskImage => (format!("`{element}` has no mask image"), "add `mask-image`"),
        NoEffect::NoAnimation => (
            format!("`{element}` has no animation: nothing gives it an `animation-name`"),
            "add `animation-name`",
        ),
        NoEffect::NoDuration => {
            ("the animation takes no time: it has no duration".to_owned(), "add one, with its unit: `2s`")
        }
        NoEffect::ShowsOverflow => (
            format!(
                "what flows over `{element}` is shown (`overflow: visible`), and `{property}` is for boxes that cut it off or scroll"
            ),
            "add `overflow: hidden`",
        ),
        NoEffect::ContentOfElement => (
            format!("text in `content` is for `::before` and `::after`, and `{element}` is an element"),
            "put it into a rule for `::before` or `::after`",
        ),
        NoEffect::NoContent => (
            format!(
                "nothing gives `{element}` a `content`, so it is not there, and no rule for it does anything"
            ),
            "add `content: \"\"` to the rule",
        ),
        NoEffect::NoPseudo => (
            format!("a browser makes no `{element}`, so no rule for it does anything"),
            "put it on the element around it",
        ),
    };
    (because, help.to_owned())
}
