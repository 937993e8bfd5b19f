//! Declarations that are said to do nothing: in Chromium, nothing moves and nothing is drawn otherwise
//! without them.

use std::sync::Arc;

use deft_pin_core::markup::parse;
use deft_pin_core::style::{Cascade, PageSheet, StyleRules, Viewport, no_effect};
use serde_json::{Value, json};

use crate::dice::{Dice, cases};
use crate::driver::Browser;

const TAGS: &[&str] =
    &["div", "p", "b", "span", "li", "img", "input", "button", "td", "tr", "table", "ul", "h2", "q", "hr"];

const SITE: &[&str] = &[
    "", "", "", "display: block", "display: inline-block", "display: flex", "display: inline-flex",
    "display: grid", "display: inline", "position: relative", "position: absolute", "float: left",
    "overflow: hidden", "border: 3px solid", "border-style: dotted", "columns: 2",
    "background: url(data:,x)", "background: red", "animation: turn 3s", "height: 80px; width: 90px",
    "display: contents", "display: table", "display: list-item", "position: sticky; top: 2px",
    "display: table-cell", "white-space: nowrap; width: 20px", "display: -webkit-box",
    "display: inline-table",
];

const OWN: &[&str] = &[
    "justify-content: center", "align-items: end", "gap: 30px", "row-gap: 9px", "flex-direction: column",
    "flex-wrap: wrap", "grid-template-columns: 50px 50px", "grid-auto-flow: column", "order: -1",
    "align-self: center", "flex: 1", "flex-grow: 2", "grid-column: 2", "grid-row: 3", "float: right",
    "clear: both", "vertical-align: top", "vertical-align: 9px", "width: 130px", "height: 55px",
    "min-width: 210px", "max-height: 4px", "aspect-ratio: 5", "overflow: hidden", "overflow-x: scroll",
    "transform: translate(9px, 4px)", "rotate: 9deg", "scale: 2", "margin: 17px", "margin-top: 21px",
    "margin-left: 31px", "padding: 12px", "table-layout: fixed", "top: 7px", "inset: 3px", "left: 11px",
    "z-index: 4", "position: sticky", "clip: rect(0 0 0 0)", "object-fit: cover", "border-color: red",
    "border-width: 6px", "border-left-color: red", "background-size: 3px", "background-repeat: no-repeat",
    "background-position: 4px 4px", "animation-delay: -1s", "animation-name: turn", "animation: turn",
    "columns: 3", "text-overflow: ellipsis", "resize: both", "content: 'x'", "place-content: end",
    "place-self: end",
];

const BODY: &str = "@keyframes turn { to { transform: translate(9px) } }";

#[test]
fn what_is_said_to_do_nothing_does_nothing() {
    let mut dice = Dice::seeded(61);
    let mut pages = Vec::new();
    let mut said = 0;
    for _ in 0..cases(3000) {
        let (outer, tag) =
            (dice.pick(&["div", "p", "ul", "section", "tr", "table", "span"]), dice.pick(TAGS));
        let html = format!(
            "<!doctype html><body><{outer} class=around>one <i>two</i><{tag} class=x>three <i>four</i> five six</{tag}> seven</{outer}>"
        );
        let (around, site, own) = (dice.pick(SITE), dice.pick(SITE), dice.pick(OWN));
        let part = if dice.once_in(5) { "::before" } else { "" };
        let content = if dice.once_in(2) && !part.is_empty() { "content: 'yes'; " } else { "" };
        let rest = format!("{BODY} .around {{ {around} }} .x{part} {{ {content}{site} }}");
        let with = format!("{rest} .x{part} {{ {own} }}");
        let (_, document) = parse(html.as_bytes());
        let sheets = [PageSheet::alone(Arc::new(StyleRules::new(with.clone())))];
        let mut cascade = Cascade::new(&document, &sheets, Viewport::default(), Vec::new());
        let Some(element) =
            document.elements().find(|element| element.data().classes().any(|class| class == "x"))
        else {
            continue;
        };
        let part = part.strip_prefix("::");
        let own_outcomes: Vec<_> = cascade
            .outcomes(element, part)
            .into_iter()
            .filter(|outcome| {
                let sheet = &sheets[0].rules;
                let overrules = outcome.property == *"position" && !outcome.losers.is_empty();
                !overrules
                    && outcome
                        .winner
                        .rule()
                        .is_some_and(|rule| std::ptr::eq(rule, sheet.rules.last().unwrap()))
            })
            .collect();
        let longhand = |outcome: &deft_pin_core::style::Outcome<'_>| {
            let is_whole = outcome.winner.declaration.property == outcome.property;
            (outcome.property.name().to_owned(), outcome.winner.value(&sheets).to_owned(), is_whole)
        };
        let longhands: Vec<_> = own_outcomes.iter().map(longhand).collect();
        let is_idle = |(name, value, is_whole): &(String, String, bool)| {
            no_effect(&mut cascade, element, part, name, (value, *is_whole)).is_some()
        };
        if !longhands.is_empty() && longhands.iter().all(is_idle) {
            said += 1;
            pages.push(json!([html, rest, with]));
        }
    }
    println!("{said} said to do nothing");
    assert!(said > 300, "{said}");
    let browser = Browser::open();
    browser.go("data:text/html,<!doctype html><iframe id=f style='width: 900px; height: 700px'></iframe>");
    let script = "const frame = document.getElementById('f'); return arguments[0].filter(([html, rest, own]) => { \
        const look = sheet => { const page = frame.contentDocument; page.open(); page.write(html); page.close(); \
          page.head.appendChild(page.createElement('style')).textContent = sheet; \
          const texts = page.createRange(), walk = page.createTreeWalker(page.body, 4), boxes = []; \
          while (walk.nextNode()) { texts.selectNodeContents(walk.currentNode); boxes.push(...texts.getClientRects()) } \
          boxes.push(...[...page.body.querySelectorAll('*')].filter(e => frame.contentWindow.getComputedStyle(e).display !== 'inline').map(e => e.getBoundingClientRect())); \
          return boxes.flatMap(b => [b.x, b.y, b.width, b.height]) }; \
        const [before, after] = [look(rest), look(own)]; \
        return before.length !== after.length || before.some((side, at) => Math.abs(side - after[at]) > 0.1) })";
    let wrong: Vec<Value> = pages
        .chunks(500)
        .flat_map(|pages| browser.run(script, vec![json!(pages)]).as_array().cloned().unwrap_or_default())
        .collect();
    assert!(wrong.is_empty(), "{wrong:#?}");
}
