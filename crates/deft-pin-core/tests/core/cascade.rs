//! The cascade, step by step: which of a page's declarations wins a property of an element, by what,
//! and which elements may share one answer.

use std::collections::HashMap;
use std::sync::Arc;

use crate::odd_pages::{config, page};
use deft_pin_core::markup::{Assume, Document, ElementRef, Matcher, parse, parse_selectors};
use deft_pin_core::style::{
    Cascade, Fence, Likeness, Outcome, PageSheet, PropertyId, Sheet, Strength, StyleRules, Truth, Viewport,
    apply, fence,
};
use proptest::prelude::*;

const PAGE: &str = "<!doctype html><html lang=en><head></head><body class=fares><main id=m class='wide open' dir=ltr>\
    <h2 class=title title='Pier fares'>Fares</h2><p class=note>a</p><p class='note last' style='color: red; margin: 1px'>b</p>\
    <table bgcolor=teal><tr><td id=cell width=90>1</table><div class=card><div class=card><i>x</i></div></div></main></body></html>";

fn sheets(texts: &[&str]) -> Vec<PageSheet> {
    texts.iter().map(|text| PageSheet::alone(Arc::new(StyleRules::new((*text).to_owned())))).collect()
}

fn find<'d>(document: &'d Document, selector: &str) -> ElementRef<'d> {
    let list = parse_selectors(selector).unwrap();
    document.elements().find(|e| Matcher::new().matches_any(&list, *e, Assume::Must)).unwrap()
}

fn drawn(outcome: &Outcome<'_>, sheets: &[PageSheet]) -> String {
    let value = outcome.winner.value(sheets);
    let may = if outcome.winner.matched == Truth::AtRunTime { "perhaps " } else { "" };
    let others = match outcome.may_win.first() {
        Some(other) => format!(", else {}", other.value(sheets)),
        None => String::new(),
    };
    format!("{may}{value} by {}{others}", outcome.by.name())
}

/// What wins a property of the first element that a selector matches.
fn winner(texts: &[&str], element: &str, property: &str, viewport: Viewport) -> String {
    let (_, document) = parse(PAGE.as_bytes());
    let sheets = sheets(texts);
    let (element, pseudo) = match element.split_once("::") {
        Some((element, pseudo)) => (element, Some(pseudo)),
        None => (element, None),
    };
    let mut cascade = Cascade::new(&document, &sheets, viewport, Vec::new());
    let outcomes = cascade.outcomes(find(&document, element), pseudo);
    let wanted = PropertyId::of(property);
    let found = outcomes.iter().find(|outcome| outcome.property == wanted);
    found.map_or("nothing".to_owned(), |outcome| drawn(outcome, &sheets))
}

#[test]
fn each_step_of_the_cascade_decides_where_it_is_due() {
    // The sheets, the element, the property, and what wins by what.
    #[rustfmt::skip]
    let table: &[(&[&str], &str, &str, &str)] = &[
        (&["h2{color:navy}"], "h2", "color", "navy by alone"),
        (&["h2{color:navy}"], "main", "color", "nothing"),
        // Order: later rules, later sheets, later declarations.
        (&["h2{color:navy} h2{color:teal}"], "h2", "color", "teal by order"),
        (&["h2{color:navy}", "h2{color:teal}"], "h2", "color", "teal by order"),
        (&["h2{color:navy;color:teal}"], "h2", "color", "teal by order"),
        // Specificity.
        (&[".title{color:navy}", "h2{color:teal}"], "h2", "color", "navy by specificity"),
        (&["#m h2{color:navy}", ".title.title.title{color:teal}"], "h2", "color", "navy by specificity"),
        (&[":where(#m) h2{color:navy}", ".title{color:teal}"], "h2", "color", "teal by specificity"),
        (&[":is(#m, .none) h2{color:navy}", ".title{color:teal}"], "h2", "color", "navy by specificity"),
        (&["h2:not(#x){color:navy}", ".title{color:teal}"], "h2", "color", "navy by specificity"),
        (&["h2, #m .title{color:navy}", ".title{color:teal}"], "h2", "color", "navy by specificity"),
        (&["h2:has(+ .note){color:navy}", "h2{color:teal}"], "h2", "color", "navy by specificity"),
        (&["h2:nth-child(1 of .title){color:navy}", ".title:first-child{color:teal}"], "h2", "color", "navy by specificity"),
        (&["[title]{color:navy}", "h2{color:teal}"], "h2", "color", "navy by specificity"),
        (&["[title^=Pier]{color:navy}", "[title='pier fares' i]{color:teal}"], "h2", "color", "teal by order"),
        (&["[title^=pier]{color:navy}", "h2{color:teal}"], "h2", "color", "teal by alone"),
        // Importance and the style attribute.
        (&["h2{color:navy !important}", "#m .title{color:teal}"], "h2", "color", "navy by importance"),
        (&["p.last{color:navy}"], ".last", "color", "red by inline"),
        (&["p{color:navy ! important}"], ".last", "color", "navy by importance"),
        (&["#m p{margin-left:2px}"], ".last", "margin-left", "1px by inline"),
        // Attributes of presentation are weaker than any rule.
        (&[""], "table", "background-color", "teal by alone"),
        (&[":where(*){background-color:navy}"], "table", "background-color", "navy by origin"),
        (&["td{color:navy}"], "#cell", "width", "90px by alone"),
        // Layers: unlayered beats layered, later beats earlier, the other way round when important.
        (&["@layer a{#m h2{color:navy}} h2{color:teal}"], "h2", "color", "teal by layer"),
        (&["@layer a{h2{color:navy}} @layer b{h2{color:teal}}"], "h2", "color", "teal by layer"),
        (&["@layer b,a; @layer a{h2{color:navy}} @layer b{h2{color:teal}}"], "h2", "color", "navy by layer"),
        (&["@layer a{h2{color:navy !important}} h2{color:teal !important}"], "h2", "color", "navy by layer"),
        (&["@layer a{h2{color:navy !important}} @layer b{h2{color:teal !important}}"], "h2", "color", "navy by layer"),
        (&["@layer a{h2{color:navy} @layer b{#m h2{color:teal}}}"], "h2", "color", "navy by layer"),
        (&["@layer a.b{h2{color:navy}} @layer a{h2{color:teal}}"], "h2", "color", "teal by layer"),
        (&["@layer{h2{color:navy}} @layer{h2{color:teal}}"], "h2", "color", "teal by layer"),
        (&["@layer a{h2{color:navy}}", "@layer a{h2{color:teal}}"], "h2", "color", "teal by order"),
        // Scopes: the nearer root, after specificity.
        (&["@scope (.card){i{color:navy}} @scope (#m){i{color:teal}}"], "i", "color", "navy by scope"),
        (&["@scope (.card){i{color:navy}} @scope (#m){:scope i{color:teal}}"], "i", "color", "teal by specificity"),
        (&["@scope (#m) to (.card){i{color:navy}}"], "i", "color", "nothing"),
        (&["@scope (#m) to (.card){p{color:navy}}"], ".note", "color", "navy by alone"),
        (&["@scope (.card){:scope{color:navy}}"], ".card", "color", "navy by alone"),
        (&["@scope (.card){color:navy}", "div{margin:0}"], ".card", "color", "navy by alone"),
        // Nesting.
        (&["main{& > h2{color:navy}}", "main h2{color:teal}"], "h2", "color", "teal by order"),
        (&["#m, .x{h2{color:navy}}", ".fares .title{color:teal}"], "h2", "color", "navy by specificity"),
        (&["main{color:navy; h2{color:teal} color:red}"], "main", "color", "red by order"),
        (&["h2{@media screen{color:navy}}"], "h2", "color", "navy by alone"),
        (&[".title{.wide &{color:navy}}"], "h2", "color", "navy by alone"),
        // Shorthands come to longhands; what a browser drops takes no part.
        (&["h2{margin:1px 2px}", "h2{margin-left:3px}"], "h2", "margin-left", "3px by order"),
        (&["h2{margin-left:3px}", "h2{margin:1px 2px}"], "h2", "margin-left", "1px 2px by order"),
        (&["h2{color:navy; color:blurple}"], "h2", "color", "navy by alone"),
        (&["h2{color:navy} h2{color:var(--x)}"], "h2", "color", "var(--x) by order"),
        (&["h2{all:unset} h2{color:navy}"], "h2", "color", "navy by order"),
        (&["h2{--gap:1px} .title{--gap:2px}"], "h2", "--gap", "2px by specificity"),
        (&["h2{--gap:1px} .title{--GAP:2px}"], "h2", "--gap", "1px by alone"),
        (&["h2{margin-inline-start:4px} h2{margin-left:3px}"], "h2", "margin-left", "3px by order"),
        // States and conditions that only a running page settles.
        (&["h2{color:teal} h2:hover{color:navy}"], "h2", "color", "teal by alone, else navy"),
        (&["h2:hover{color:navy}"], "h2", "color", "perhaps navy by alone"),
        (&["h2{color:teal} @media (min-width:40em){h2{color:navy}}"], "h2", "color", "teal by alone, else navy"),
        (&["h2{color:teal} @container (width > 9em){h2{color:navy}}"], "h2", "color", "teal by alone, else navy"),
        (&["h2{color:teal} @supports (display:grid){h2{color:navy}}"], "h2", "color", "navy by order"),
        (&["h2{color:teal} @supports (display:grit){h2{color:navy}}"], "h2", "color", "teal by alone"),
        (&["h2{color:teal} @supports not (display:grit){h2{color:navy}}"], "h2", "color", "navy by order"),
        (&["h2{color:teal} @supports selector(:has(a)){h2{color:navy}}"], "h2", "color", "navy by order"),
        (&["h2{color:teal} @media not all{h2{color:navy}}"], "h2", "color", "teal by alone"),
        // Pseudo-elements have answers of their own.
        (&["h2::before{color:navy} h2{color:teal}"], "h2::before", "color", "navy by alone"),
        (&["h2:before{color:navy} h2::BEFORE{color:teal}"], "h2::before", "color", "teal by order"),
        (&["h2::before{color:navy} h2{color:teal}"], "h2", "color", "teal by alone"),
        // One bad selector takes its whole rule, unless the list forgives.
        (&["h2, ::nope(x){color:navy}"], "h2", "color", "nothing"),
        (&[":is(h2, ::nope(x)){color:navy}"], "h2", "color", "navy by alone"),
    ];
    let mut wrong = Vec::new();
    for (texts, element, property, expected) in table {
        let found = winner(texts, element, property, Viewport::default());
        if found != *expected {
            wrong.push(format!("{texts:?} {element} {property}: {found}, not {expected}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_is_said_of_the_viewport_settles_conditions() {
    let sheet = "h2{color:teal} @media (width >= 600px){h2{color:navy}} @media print{h2{color:black}} \
        @media (prefers-color-scheme:dark){h2{color:white}} @media (600px > width) and (orientation:portrait){h2{color:olive}}";
    let viewport = |width, height| Viewport {
        width: Some(width),
        height: Some(height),
        scheme: Some("light".to_owned()),
        ..Viewport::default()
    };
    let dark = Viewport { scheme: Some("dark".to_owned()), ..viewport(800.0, 600.0) };
    let print = Viewport { medium: Some("print".to_owned()), ..viewport(800.0, 600.0) };
    for (viewport, expected) in [
        (viewport(800.0, 600.0), "navy by order"),
        (viewport(600.0, 500.0), "navy by order"),
        (viewport(400.0, 700.0), "olive by order"),
        (viewport(400.0, 300.0), "teal by alone"),
        (dark, "white by order"),
        (print, "black by order"),
    ] {
        assert_eq!(winner(&[sheet], "h2", "color", viewport.clone()), expected, "{viewport:?}");
    }
}

#[test]
fn inherited_properties_come_from_the_nearest_ancestor_that_sets_them() {
    let (_, document) = parse(PAGE.as_bytes());
    let sheets = sheets(&[
        "@property --far { syntax: '*'; inherits: false } @property --near { syntax: '*'; inherits: true } \
        body { color: teal; margin: 1px; --far: 1; --near: 2; --plain: 3 } .wide { color: navy }",
    ]);
    let mut cascade = Cascade::new(&document, &sheets, Viewport::default(), Vec::new());
    let element = find(&document, "i");
    let mut from = |property: &str| {
        let (at, outcome) = cascade.inherited_from(element, &PropertyId::of(property))?;
        Some(format!("{} {}", at.data().name.local, outcome.winner.value(&sheets)))
    };
    let table = [
        ("color", "main navy"),
        ("margin-top", ""),
        ("--far", ""),
        ("--near", "body 2"),
        ("--plain", "body 3"),
    ];
    for (property, expected) in table {
        assert_eq!(from(property).unwrap_or_default(), expected, "{property}");
    }
}

#[test]
fn a_sheet_tells_its_rules_with_what_they_stand_in() {
    // The sheet, and for each rule its layer, scopes, conditions, selectors and declarations.
    #[rustfmt::skip]
    let table = [
        ("a{b:c}", "0 0 0 1 1"),
        ("a,b{c:d;e:f}", "0 0 0 2 2"),
        ("@media print{@layer x{a{b:c}}}", "1 0 1 1 1"),
        ("@layer x.y{a{b:c}}", "2 0 0 1 1"),
        ("@layer x{@layer{a{b:c}}}", "2 0 0 1 1"),
        ("@scope (a) to (b){c{d:e}}", "0 1 0 1 1"),
        ("@scope (a){@scope (b){c{d:e}}}", "0 2 0 1 1"),
        ("@supports (color:red){@container (width>1px){a{b:c}}}", "0 0 2 1 1"),
        ("a{b:c; d{e:f} g:h}", "0 0 0 1 1 | 0 0 0 1 1 | 0 0 0 1 1"),
        ("a{@media print{b:c}}", "0 0 1 1 1"),
        ("@starting-style{a{b:c}}", "0 0 1 1 1"),
        ("a{} b{c:d}", "0 0 0 1 1"),
        ("@keyframes k{from{a:b}} @font-face{font-family:F} c{d:e}", "0 0 0 1 1"),
        ("@layer x, y; a..b{c:d}", ""),
        ("@media print{a{b:c}", "0 0 1 1 1"),
    ];
    for (text, expected) in table {
        let rules = StyleRules::new(text.to_owned());
        let drawn: Vec<String> = rules
            .rules
            .iter()
            .map(|rule| {
                let counts = [
                    rule.layer.len(),
                    rule.scopes.len(),
                    rule.conditions.len(),
                    rule.selectors.len(),
                    rule.declarations.len(),
                ];
                counts.map(|count| count.to_string()).join(" ")
            })
            .collect();
        assert_eq!(drawn.join(" | "), expected, "{text}");
    }
    let rules = StyleRules::new(
        "@import url(a.css) layer(x.y) supports(display:grid) print; @import 'b.css'; @font-face{font-family:'Quay';src:url(q)} \
        @keyframes sail{} a{} @import 'late.css'; @counter-style pier{symbols:x} @property --p{syntax:'*';inherits:true}"
            .to_owned(),
    );
    let imports: Vec<_> = rules
        .imports
        .iter()
        .map(|own| (own.url.as_str(), own.sublayers.len(), own.conditions.len()))
        .collect();
    assert_eq!(imports, [("a.css", 1, 2), ("b.css", 0, 0)]);
    let defined: Vec<_> =
        rules.definitions.iter().map(|own| format!("@{} {}", own.at_rule, own.name)).collect();
    assert_eq!(defined, ["@font-face Quay", "@keyframes sail", "@counter-style pier", "@property --p"]);
}

const SELECTORS: &[&str] = &[
    "p", ".c", "#a", "#b", "div p", "div > p", "p + p", ".x p", "body.x", "[href]", "[class~=d]", "a:hover",
    "*", "li:first-child", "p:not(.c)", "p::before", "td", ":is(p, li) b", "table td", "html[lang] p",
    "p:has(b)", "h1 ~ p", "[src=x]", ":where(.c) i", "p:empty", "b:nth-child(2)", "div:focus-within", "i, b",
];

const DECLARATIONS: &[&str] = &[
    "color: red", "color: navy !important", "margin: 1px", "margin-left: 2px", "display: none", "--p: 1",
    "padding: 0 1px", "width: 10", "font: 1px serif", "margin-inline: 3px",
];

/// A sheet as people write them, of rules that stand in nothing or in something common.
fn good_sheet() -> impl Strategy<Value = String> {
    let selectors = proptest::collection::vec(prop::sample::select(SELECTORS), 1..3);
    let declarations = proptest::collection::vec(prop::sample::select(DECLARATIONS), 1..4);
    let around =
        prop::sample::select(&["", "", "", "@media screen", "@layer x", "@supports (color: red)"][..]);
    let rule = (selectors, declarations, around).prop_map(|(selectors, declarations, around)| {
        let rule = format!("{} {{ {} }}", selectors.join(", "), declarations.join("; "));
        if around.is_empty() { rule } else { format!("{around} {{ {rule} }}") }
    });
    proptest::collection::vec(rule, 1..8).prop_map(|rules| rules.join("\n"))
}

proptest! {
    #![proptest_config(config(400))]

    #[test]
    fn elements_that_are_alike_have_the_same_answer(page in page(), one in good_sheet(), other in good_sheet()) {
        let (_, document) = parse(page.as_bytes());
        let sheets = sheets(&[&one, &other]);
        let mut cascade = Cascade::new(&document, &sheets, Viewport::default(), Vec::new());
        let mut known: HashMap<Likeness, String> = HashMap::new();
        for element in document.elements() {
            let Some(likeness) = cascade.likeness(element) else { continue };
            let mut answer = String::new();
            for pseudo in [None, Some("before")] {
                let outcomes = cascade.outcomes(element, pseudo);
                answer.extend(outcomes.iter().map(|own| format!("{:?} {}\n", own.property, drawn(own, &sheets))));
            }
            let first = known.entry(likeness).or_insert_with(|| answer.clone());
            prop_assert_eq!(&*first, &answer, "{} in {}", element.data().name.local, page);
        }
    }

    #[test]
    fn a_fence_keeps_rules_in_its_target_and_what_they_do_there(
        page in page(),
        text in good_sheet(),
        within in prop::sample::select(&["#a", ".c", "div", "body > *", "#a, #b", "p:not(.c)"][..]),
    ) {
        let (_, document) = parse(page.as_bytes());
        let fenced = match fence(&text, &Sheet::parse(&text), &Fence::around(within, "p", Strength::Keep, &[])) {
            Ok(fenced) if fenced.left_out.is_empty() => apply(&text, fenced.edits),
            refused => return Err(TestCaseError::fail(format!("{text} is refused: {refused:?}"))),
        };
        let (plain, confined) = (sheets(&[&text]), sheets(&[&fenced]));
        let target = parse_selectors(&format!(":is({within}, :is({within}) *)")).unwrap();
        let mut of_plain = Cascade::new(&document, &plain, Viewport::default(), Vec::new());
        let mut of_confined = Cascade::new(&document, &confined, Viewport::default(), Vec::new());
        for element in document.elements() {
            let is_inside = Matcher::new().matches_any(&target, element, Assume::Must);
            for pseudo in [None, Some("before")] {
                let values = |applied: Vec<deft_pin_core::style::Applied<'_>>, sheets: &[PageSheet]| -> Vec<String> {
                    applied.iter().filter(|own| own.sheet().is_some()).map(|own| own.value(sheets).to_owned()).collect()
                };
                let before = values(of_plain.applied(element, pseudo), &plain);
                let after = values(of_confined.applied(element, pseudo), &confined);
                let expected = if is_inside { before } else { Vec::new() };
                prop_assert_eq!(after, expected, "{} by {} in {}", element.data().name.local, fenced, page);
            }
        }
    }
}
