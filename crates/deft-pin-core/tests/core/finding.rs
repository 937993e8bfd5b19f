//! Finding elements and selectors for them on a page, and a look that is lifted from it.

use crate::made::Made;
use deft_pin_core::find::{
    Lift, PageIndex, Query, ancestors, label, lasting_selectors, lift, outline, search, survey, weaknesses,
};
use deft_pin_core::markup::{ElementRef, parse, parse_selectors};
use deft_pin_core::site::ParsedPage;
use deft_pin_core::source::FilePath;
use deft_pin_core::style::{Cascade, Viewport};

fn first<'d>(index: &PageIndex<'d>, selector: &str) -> ElementRef<'d> {
    let found = index.matched(&parse_selectors(selector).unwrap(), 1);
    index.document().element(*found.first().unwrap_or_else(|| panic!("nothing matches {selector}"))).unwrap()
}

/// Tells all rows that are not as expected at once.
fn hold<const N: usize>(rows: &[[&str; N]], found: impl Fn(&[&str; N]) -> String) {
    let wrong: Vec<String> = rows
        .iter()
        .map(|row| (row, found(row)))
        .filter(|(row, found)| found != row[N - 1])
        .map(|(row, found)| format!("{:?}\n    {found:?}\n    not {:?}", &row[..N - 1], row[N - 1]))
        .collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn the_best_selector_for_an_element_is_the_one_that_lasts() {
    // The body, the element, and the best selector with what is said for it and against it.
    #[rustfmt::skip]
    let rows = [
        ["<p id=fares>", "p", "#fares: an ID that somebody wrote"],
        ["<p id=fares><p>", "p + p", "#fares + p: an ID that somebody wrote; breaks when something comes between it and what stands before it; its kind of element"],
        ["<main><p>", "p", "p: its kind of element"],
        ["<p><main><p>", "main p", "main p: a landmark of the page; its kind of element"],
        ["<p><p class=note>", ".note", ".note: a class with a meaning"],
        ["<p><p class='is-open note'>", ".note", ".note: a class with a meaning"],
        ["<p><p class='css-1x8b2kq'>", "p + p", "p + p: its kind of element; breaks when something comes between it and what stands before it"],
        ["<p id=a1b2c3d4e5><p class=note>", "p", "p:first-of-type: counts siblings: breaks when one comes before it"],
        ["<p><p id=9>", "p + p", "p + p: its kind of element; breaks when something comes between it and what stands before it"],
        ["<p><p id='a:b'>", "p + p", "#a\\:b: an ID that somebody wrote"],
        ["<div id=two><p>1</p></div><div id=two><p>2</p></div>", "#two + #two p", "body div:last-of-type p: its kind of element; counts siblings: breaks when one comes before it; the only one of its kind there"],
        ["<p><input name=pier><input name=day>", "[name=day]", "input[name=\"day\"]: what its `name` says"],
        ["<a href=/a>1</a><a href='/fares/'>2</a>", "a + a", "a[href=\"/fares/\"]: what its `href` says"],
        ["<button data-action=book>1</button><button>2</button>", "button", "[data-action=\"book\"]: what its `data-action` says"],
        ["<ul><li>1<li>2<li>3</ul>", "li:nth-child(2)", "ul li:nth-of-type(2): its kind of element; counts siblings: breaks when one comes before it"],
        ["<section><h2>1</h2></section><section><h2 id=fares>2</h2></section>", "section + section", "section:has(> #fares): something inside that has a name; an ID that somebody wrote"],
        ["<svg><linearGradient id=tide></svg>", "linearGradient", "#tide: an ID that somebody wrote"],
    ];
    hold(&rows, |[body, element, _]| {
        let (_, document) = parse(format!("<!doctype html><title>x</title><body>{body}").as_bytes());
        let index = PageIndex::new(&document);
        let element = first(&index, element);
        let best = &lasting_selectors(&index, element, 1)[0];
        assert!(index.is_unique(&best.selector, element.id), "{body}: {}", best.selector);
        let reasons: Vec<String> = best.reasons.iter().map(ToString::to_string).collect();
        format!("{}: {}", best.selector, reasons.join("; "))
    });
}

#[test]
fn what_speaks_against_a_selector_is_told() {
    #[rustfmt::skip]
    let rows = [
        ["#fares", ""],
        [".css-1x8b2kq", "`css-1x8b2kq` looks made by a machine, and may be made anew"],
        [".note.is-open", ""],
        ["#post-88c1f2d3 p", "`post-88c1f2d3` looks made by a machine, and may be made anew"],
        ["main > section:nth-child(2) h2", "counts siblings: breaks when one comes before it"],
        ["li:nth-child(odd)", ""],
        ["li:first-child", ""],
        ["li:nth-of-type(3)", "counts siblings: breaks when one comes before it"],
        ["body > div > div > div > p", "a chain of 4 children: breaks with any wrapper"],
        ["body > div > div > p", ""],
        [":is(.css-1x8b2kq, p)", "`css-1x8b2kq` looks made by a machine, and may be made anew"],
    ];
    hold(&rows, |[selector, _]| {
        let list = parse_selectors(selector).unwrap();
        let found: Vec<String> = weaknesses(&list.slice()[0]).iter().map(ToString::to_string).collect();
        found.join("; ")
    });
}

const TIMETABLE: &str = "<!doctype html><title>Timetable</title><body>
<nav id=menu><a href=/fares/>Fares</a></nav>
<main><section id=status class=live><h2>Sailing <b>today</b></h2><p>All on time</p></section>
<section id=notes><h2>Notes</h2><p>Dogs sail free</p><p hidden>Dogs sail free</p>
<input placeholder='Your pier'><img alt='Marram pier' src=a.png></section></main>";

#[test]
fn words_names_and_selectors_find_their_elements() {
    // What is looked for, and the elements that are found, with the way to them.
    #[rustfmt::skip]
    let rows = [
        ["status", "Selector section#status in body main section#status"],
        ["#status", "Selector section#status in body main section#status"],
        ["sailing  TODAY", "Text h2 in body main section#status h2"],
        ["All on", "Text p in body main section#status p"],
        ["dogs sail free", "Text p in body main section#notes p, Text p in body main section#notes p"],
        ["section > h2", "Selector h2 in body main section#status h2, Selector h2 in body main section#notes h2"],
        [".live h2", "Selector h2 in body main section#status h2"],
        ["live", "Selector section#status in body main section#status"],
        ["nav", "Selector nav#menu in body nav#menu"],
        ["Fares", "Text a in body nav#menu a"],
        ["#statu", "Near(\"#status\") section#status in body main section#status"],
        ["statos", "Near(\"#status\") section#status in body main section#status"],
        [".status", "Near(\"#status\") section#status in body main section#status"],
        ["Status", "Near(\"#status\") section#status in body main section#status"],
        ["section:first-of-type", "Selector section#status in body main section#status"],
        ["zzz", ""],
        ["", ""],
    ];
    hold(&rows, |[wanted, _]| {
        let (_, document) = parse(TIMETABLE.as_bytes());
        let hits = search(&document, &Query::guess(wanted), true);
        let drawn = hits.iter().map(|hit| {
            let element = document.element(hit.element).unwrap();
            format!("{:?} {} in {}", hit.kind, label(element), ancestors(element).join(" "))
        });
        drawn.collect::<Vec<_>>().join(", ")
    });
}

#[test]
fn a_survey_names_each_section_and_counts_what_is_in_it() {
    // The body, what counts as a section, and the sections: depth, selector, line, heading, elements.
    #[rustfmt::skip]
    let rows = [
        ["<main><h1>Fares</h1></main>", "", "0 main:1 Fares 1"],
        ["<p>x", "", ""],
        ["<p>x<p>y", "p", "0 p:first-of-type:1 - 0, 0 p + p:1 - 0"],
        ["<div id=fares>\n<h2>Fares</h2><div><p></div></div>", "", "0 #fares:1 Fares 3"],
        ["<div id=fares><p></div>", "", ""],
        ["<main>\n<section><h2>a</h2></section>\n<section><h2>b</h2></section></main>", "", "0 main:1 - 4, 1 main section:first-of-type:2 a 1, 1 main section:last-of-type:3 b 1"],
        ["<main><article><header><h2>Storm</h2></header><p></article></main>", "", "0 main:1 - 4, 1 article:1 Storm 3, 2 header:1 Storm 1"],
        ["<section aria-label='Sailing today'></section><div role=navigation></div>", "", "0 section[aria-label=\"Sailing today\"]:1 Sailing today 0, 0 div[role=\"navigation\"]:1 - 0"],
        ["<section><h2></h2><h3>Deep</h3></section>", "", "0 section:1 - 2"],
        ["<div role='none main'><p></div><div role=heading id=h>Fares</div>", "", ""],
    ];
    hold(&rows, |[body, section, _]| {
        let made = Made::of(&format!("--- site/a.html\n<!doctype html><title>a</title><body>{body}\n"));
        made.checked(|bench| {
            let page = bench.context.site().pages.ids().next().unwrap();
            let bytes = bench.bytes(page);
            let parsed: &ParsedPage<'_> = &ParsedPage::new(&bench.context.site().pages[page], &bytes);
            let list = (!section.is_empty()).then(|| parse_selectors(section).unwrap());
            let found = survey(parsed, list.as_ref(), true);
            let detail = found.detail.unwrap();
            assert_eq!((found.section_count, found.id_count), (detail.sections.len(), detail.ids.len()));
            let brief = survey(parsed, list.as_ref(), false);
            assert_eq!((brief.section_count, brief.id_count), (found.section_count, found.id_count));
            assert_eq!(outline(&parsed.document, list.as_ref()).sections.len(), found.section_count);
            let drawn = detail.sections.iter().map(|own| {
                let heading = own.section.heading.as_deref().unwrap_or("-");
                format!(
                    "{} {}:{} {heading} {}",
                    own.section.depth, own.selector, own.line, own.section.elements
                )
            });
            drawn.collect::<Vec<_>>().join(", ")
        })
    });
}

#[test]
fn a_lifted_look_is_what_wins_on_the_element() {
    // The sheet, the rest of the page, options, and the rules with what was left out behind `!`.
    #[rustfmt::skip]
    let rows = [
        ["p { color: red }", "<p>x", "", ".it { color: red; }"],
        ["p { color: red } p { color: teal }", "<p>x", "", ".it { color: teal; }"],
        ["p { color: red !important } p { color: teal; margin: 0 }", "<p>x", "", ".it { margin: 0; color: red; }"],
        ["p { margin: 0 } p { margin-left: 1px }", "<p>x", "", ".it { margin: 0; margin-left: 1px; }"],
        ["p { margin-left: 1px } p { margin: 0 }", "<p>x", "", ".it { margin: 0; }"],
        ["p { color: rd } b { color: teal }", "<p>x", "", ""],
        ["p:hover { color: red } p:hover:focus { color: teal }", "<p>x", "", ".it:where(:hover) { color: red; } .it:where(:hover:focus) { color: teal; }"],
        ["nav:hover p { color: red }", "<nav><p>x", "", " ! `color` of `nav:hover p`: it depends on the state of something else than the element"],
        ["@media (width > 600px) { p { color: red } } @media print { p { color: black } }", "<p>x", "", "@media (width > 600px) { .it { color: red; } }"],
        ["@supports (display: grid) { p { display: grid } } @supports (display: none-such) { p { display: block } }", "<p>x", "", ".it { display: grid; }"],
        ["@layer a, b; @layer b { p { color: red } } @layer a { p { color: teal } }", "<p>x", "", ".it { color: red; }"],
        ["p { background: url(a.png) } p { mask: url('#m') }", "<p>x", "", ".it { background: url(\"../css/a.png\"); mask: url('#m'); }"],
        ["p { background-image: image-set('a.png' 1x, url(b.png) 2x) }", "<p>x", "", ".it { background-image: image-set(\"../css/a.png\" 1x, url(\"../css/b.png\") 2x); }"],
        ["p::before { content: '>'; color: red } p::after { color: teal }", "<p>x", "", ".it::before { content: '>'; color: red; }"],
        [":root { --a: var(--b); --b: 1px } p { margin: var(--a) }", "<p>x", "", ".it { --a: var(--b); --b: 1px; margin: var(--a); }"],
        [":root { --a: var(--b); --b: 1px } p { margin: var(--a) }", "<p>x", "resolve", ".it { margin: 1px; }"],
        ["p { margin: var(--none) }", "<p>x", "", ".it { margin: var(--none); } ! `--none`: no sheet of the page sets it"],
        ["p { margin: var(--none, 2px) }", "<p>x", "", ".it { margin: var(--none, 2px); }"],
        ["p { margin: var(--none, 2px) }", "<p>x", "resolve", ".it { margin: 2px; }"],
        ["main { color: teal; margin: 1px; font-size: 2em } p { border: 0 }", "<main><p>x", "inherited", ".it { color: teal; font-size: 2em; border: 0; } ! `font-size: 2em` is taken from an ancestor as it stands: it may be relative to that"],
        ["main { color: teal }", "<main><p>x", "", ""],
        ["main { font-family: 'System Sans', Remora, serif; line-height: calc(1px + 2%) }", "<main><p>x", "inherited", ".it { font-family: 'System Sans', Remora, serif; line-height: calc(1px + 2%); } ! `line-height: calc(1px + 2%)` is taken from an ancestor as it stands: it may be relative to that"],
        ["@font-face { font-family: Sound; src: url(s.woff2) } p { font: 1em Sound Sans, 'Sound' }", "<p>x", "", "@font-face { font-family: Sound; src: url(\"../css/s.woff2\") } .it { font: 1em Sound Sans, 'Sound'; }"],
        ["@keyframes turn { to { rotate: 1turn } } @keyframes other { to { rotate: 0turn } } p { animation: turn 2s }", "<p>x", "", "@keyframes turn { to { rotate: 1turn } } .it { animation: turn 2s; }"],
        ["@font-face { font-family: 'Sound Sans'; src: url(s.woff2) } p { font: 700 1em/1.2 'Sound Sans', serif }", "<p>x", "", "@font-face { font-family: 'Sound Sans'; src: url(\"../css/s.woff2\") } .it { font: 700 1em/1.2 'Sound Sans', serif; }"],
        ["@property --deep { syntax: '<color>'; inherits: true; initial-value: teal } p { color: var(--deep) }", "<p>x", "", "@property --deep { syntax: '<color>'; inherits: true; initial-value: teal } .it { color: var(--deep); }"],
        ["p { color: red } p b { color: teal }", "<p>x <b>y</b> <b>z</b>", "", ".it { color: red; } ! 2 elements inside have looks of their own, `b` first: lift what is needed of them too"],
        ["p { & b { color: red } &.it { color: teal } margin: 0 }", "<p>x", "", ".it { margin: 0; }"],
    ];
    hold(&rows, |[css, body, options, _]| {
        let made = Made::of(&format!(
            "--- site/a.html\n<!doctype html><link rel=stylesheet href=css/a.css>{body}\n--- site/css/a.css\n{css}\n"
        ));
        made.checked(|bench| {
            let page = bench.context.site().pages.ids().next().unwrap();
            let bytes = bench.bytes(page);
            let page = bench.context.page(page, &bytes);
            let (sheets, document) = (page.sheets(), page.document());
            let mut cascade = Cascade::new(document, &sheets.sheets, Viewport::default(), Vec::new());
            let wanted = Lift {
                name: "it",
                resolve: options.contains("resolve"),
                inherited: options.contains("inherited"),
                address: &|file: &FilePath| format!("../{file}"),
            };
            let lifted = lift(&wanted, sheets, &mut cascade, first(&PageIndex::new(document), "p"));
            let rules = lifted.css.split_whitespace().collect::<Vec<_>>().join(" ");
            let told = lifted.left_out.iter().chain(&lifted.remarks);
            let left: Vec<String> = told.map(|what| format!(" ! {what}")).collect();
            rules + &left.concat()
        })
    });
}
