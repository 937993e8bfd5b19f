//! What a page loads and runs, in which order, and how its elements are found again.

use crate::made::Made;
use deft_pin_core::code::{CodeKind, Origin, PageId};
use deft_pin_core::find::{PageIndex, PageNames, lasting_selectors, weaknesses};
use deft_pin_core::markup::{Assume, Matcher, names_in, parse, parse_selectors};
use deft_pin_core::page::PageAnalysis;

const FILES: &str = "
--- deft-pin.toml
[pin.p]
pages = ['/p.html']
style = 'p.css'
--- p.css
h2 { top: 0 }
--- site/a.js
var A = 1
--- site/b.js
var B = 1
--- site/m.js
import './n.js'; window.M = 1
--- site/n.js
window.N = 1
--- site/s.css
@import 't.css'; h2 { left: 0 }
--- site/t.css
h2 { right: 0 }
--- site/deep/c.js
var C = 1
";

/// Looks at one page of a site.
fn on_page<T>(made: &Made, act: impl FnOnce(&PageAnalysis<'_>) -> T) -> T {
    made.checked(|bench| {
        let bytes = bench.bytes(PageId::FIRST);
        act(&bench.context.page(PageId::FIRST, &bytes))
    })
}

#[test]
fn the_steps_of_a_page_are_those_that_a_browser_takes() {
    // The page, and its steps: how each runs and what it is, with `?` for what cannot be read.
    #[rustfmt::skip]
    let table = [
        ("<script src=a.js></script>", "classic a.js"),
        ("<script src=/a.js></script>", "classic a.js"),
        ("<script src=./deep/../a.js?v=2#x></script>", "classic a.js"),
        ("<script src=no.js></script>", "classic no.js?"),
        ("<script src=https://cdn.example/x.js></script>", "classic https://cdn.example/x.js?"),
        ("<script src=//cdn.example/x.js></script>", "classic http://cdn.example/x.js?"),
        ("<script>var a</script>", "classic -"),
        ("<script src=a.js defer></script>", "defer a.js"),
        ("<script defer>var a</script>", "classic -"),
        ("<script src=a.js async></script>", "async a.js"),
        ("<script src=a.js async defer></script>", "async a.js"),
        ("<script async>var a</script>", "classic -"),
        ("<script type=module src=m.js></script>", "module m.js"),
        ("<script type=module async src=m.js></script>", "async-module m.js"),
        ("<script type=module>import './m.js'</script>", "module -"),
        ("<script type=MODULE src=m.js></script>", "module m.js"),
        ("<script nomodule src=a.js></script>", "never a.js"),
        ("<script type=text/javascript src=a.js></script>", "classic a.js"),
        ("<script type='TEXT/JavaScript' src=a.js></script>", "classic a.js"),
        ("<script type='' src=a.js></script>", "classic a.js"),
        ("<script language=javascript src=a.js></script>", "classic a.js"),
        ("<script language=vbscript src=a.js></script>", "never a.js"),
        ("<script type=text/babel src=a.js></script>", "never a.js"),
        ("<link rel=stylesheet href=s.css>", "link s.css"),
        ("<link rel='StyleSheet' href=s.css>", "link s.css"),
        ("<link rel='preload stylesheet' href=s.css>", "link s.css"),
        ("<link rel=preload as=style href=s.css>", ""),
        ("<link rel=icon href=s.css>", ""),
        ("<link rel=stylesheet>", ""),
        ("<style>h2{}</style>", "style -"),
        ("<style type=text/plain>h2{}</style>", ""),
        ("<noscript><link rel=stylesheet href=s.css></noscript>", ""),
        ("<template><script src=a.js></script></template>", ""),
        ("<base href=deep/><script src=c.js></script>", "classic deep/c.js"),
        ("<script src=deep/c.js></script><base href=deep/>", "classic deep/c.js"),
        ("<svg><script href=a.js></script></svg>", "classic a.js"),
        ("<svg><style>h2{}</style></svg>", "style -"),
        ("<script src=a.js></script><link rel=stylesheet href=s.css><script src=b.js></script>", "classic a.js, link s.css, classic b.js"),
        ("<body><script>var a</script><script src=b.js defer></script></body>", "classic -, defer b.js"),
        ("<p onclick='a()'>x</p>", ""),
        ("<iframe src=a.html></iframe>", ""),
        ("<textarea><script src=a.js></script></textarea>", ""),
        ("<!-- <script src=a.js></script> -->", ""),
    ];
    let mut wrong = Vec::new();
    for (page, expected) in table {
        let made = Made::of(FILES).with("site/0.html", format!("<!doctype html>{page}").as_bytes());
        let found = on_page(&made, |page| {
            let steps = page.steps().iter().map(|step| {
                let unread = if step.is_unread() { "?" } else { "" };
                format!("{} {}{unread}", step.timing.execution.name(), step.address().unwrap_or("-"))
            });
            steps.collect::<Vec<_>>().join(", ")
        });
        if found != expected {
            wrong.push(format!("{page}: {found}, not {expected}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_is_certain_to_come_before_what() {
    // The scripts by the names they define, and the pairs that are certain.
    #[rustfmt::skip]
    let table = [
        ("<script src=a.js></script><script src=b.js></script>", "A<B"),
        ("<script src=a.js defer></script><script src=b.js></script>", "B<A"),
        ("<script src=a.js defer></script><script src=b.js defer></script>", "A<B"),
        ("<script src=a.js async></script><script src=b.js></script>", ""),
        ("<script src=a.js></script><script src=b.js async></script>", "A<B"),
        ("<script src=a.js defer></script><script src=b.js async></script>", ""),
        ("<script type=module src=m.js></script><script src=b.js></script>", "B<M"),
        ("<script type=module src=m.js></script><script src=b.js defer></script>", "M<B"),
        ("<script src=b.js defer></script><script type=module src=m.js></script>", "B<M"),
        ("<script type=module async src=m.js></script><script src=b.js></script>", ""),
        ("<script nomodule src=a.js></script><script src=b.js></script>", ""),
    ];
    for (page, expected) in table {
        let made = Made::of(FILES).with("site/0.html", format!("<!doctype html>{page}").as_bytes());
        let found = on_page(&made, |page| {
            let name = |step: usize| page.steps()[step].facts().unwrap().defines[0].name.clone();
            let runs =
                |step: &usize| page.steps()[*step].facts().is_some_and(|facts| !facts.defines.is_empty());
            let steps: Vec<usize> = (0..page.steps().len()).filter(runs).collect();
            let pairs = steps.iter().flat_map(|a| steps.iter().map(move |b| (*a, *b)));
            let certain = pairs.filter(|(a, b)| page.timeline().is_before(*a, *b));
            certain.map(|(a, b)| format!("{}<{}", name(a), name(b))).collect::<Vec<_>>().join(" ")
        });
        assert_eq!(found, expected, "{page}");
    }
}

#[test]
fn sheets_count_in_the_order_in_which_they_stand_with_their_imports_before_them() {
    let table = [
        ("<link rel=stylesheet href=s.css>", "t.css s.css | p"),
        ("<style>h2{}</style><link rel=stylesheet href=t.css>", "p.html t.css | p"),
        ("<link rel='alternate stylesheet' title=x href=t.css>", "| p"),
        ("<link rel=stylesheet disabled href=t.css>", "| p"),
        ("<link rel=stylesheet media=print href=t.css>", "t.css | p"),
        ("<body><style>h2{}</style></body>", "| p p.html"),
    ];
    for (page, expected) in table {
        let made = Made::of(FILES).with("site/p.html", format!("<!doctype html><head>{page}").as_bytes());
        let found = on_page(&made, |page| {
            let sheets = page.sheets();
            let mut order: Vec<String> = Vec::new();
            fn add(sheets: &deft_pin_core::site::PageSheets, number: usize, order: &mut Vec<String>) {
                sheets.sheets[number].imported.iter().flatten().for_each(|inner| add(sheets, *inner, order));
                let is_own = sheets.places[number].origin == Origin::Site;
                order.push(if is_own { sheets.places[number].file.to_string() } else { "| p".to_owned() });
            }
            for number in (0..sheets.sheets.len()).filter(|number| !sheets.sheets[*number].is_imported) {
                add(sheets, number, &mut order);
            }
            order.join(" ")
        });
        assert_eq!(found, expected, "{page}");
    }
}

#[test]
fn a_plan_puts_its_code_where_the_page_has_a_place_for_it() {
    let board = "
--- deft-pin.toml
[pin.first]
script = 'a.js'
slot = 'head-start'
[pin.look]
style = 'a.css'
[pin.top]
script = 'a.js'
slot = 'body-start'
[pin.end]
script = 'a.js'
--- a.js
document.title
--- a.css
h2 { top: 0 }
";
    let table = [
        ("<!doctype html><head><title>x</title></head><body><h2>x</h2></body>", 4),
        ("<h2>x", 4),
        ("", 4),
        ("<!doctype html><head></head><frameset></frameset>", 2),
    ];
    for (page, count) in table {
        let made = Made::of(board).with("site/0.html", page.as_bytes());
        on_page(&made, |analysis| {
            let placements = analysis.placements();
            let kinds: Vec<CodeKind> = placements.iter().map(|placement| placement.code.kind).collect();
            assert_eq!(
                kinds,
                [CodeKind::Script, CodeKind::Style, CodeKind::Script, CodeKind::Script],
                "{page}"
            );
            let there = placements.iter().filter(|own| analysis.gap(own.at).is_some()).count();
            assert_eq!(there, count, "{page}");
            let own = analysis.steps().iter().filter(|step| step.origin != Origin::Site).count();
            assert_eq!(own, count, "{page}");
        });
    }
}

const PAGE: &str = "<!doctype html><body class='page-type-fares'><header id=site-header class=head></header>\
    <main id=yui_3_17_2_1_1699 data-section-id=5f3a><section id=fares class='section css-1a2b3c'><h2>Fares</h2>\
    <a href=/fares/night class=button>Night</a><a href=/fares/day class=button>Day</a>\
    <ul><li>a<li>b<li data-key=c>c</ul></section><section class='section css-9z8y7x'><h2>Piers</h2></section></main>";

#[test]
fn an_element_is_found_again_by_what_is_likely_to_last() {
    let (_, document) = parse(PAGE.as_bytes());
    let index = PageIndex::new(&document);
    for element in document.elements() {
        for lasting in lasting_selectors(&index, element, 3) {
            let list = parse_selectors(&lasting.selector).unwrap();
            let found = index.matched(&list, 2);
            assert_eq!(found, [element.id], "{} finds something else", lasting.selector);
            let is_weak = list.slice().iter().any(|selector| !weaknesses(selector).is_empty());
            assert!(!(lasting.is_strong() && is_weak), "{} is strong and brittle", lasting.selector);
        }
    }
    let best = |selector: &str| {
        let list = parse_selectors(selector).unwrap();
        let element =
            document.elements().find(|e| Matcher::new().matches_any(&list, *e, Assume::Must)).unwrap();
        lasting_selectors(&index, element, 1).remove(0).selector
    };
    assert_eq!(best("header"), "#site-header");
    assert_eq!(best("section"), "#fares");
    assert_eq!(best("a:nth-of-type(2)"), "a[href=\"/fares/day\"]");
    assert!(!best("main").contains("yui"), "{}", best("main"));
}

#[test]
fn a_selector_that_leans_on_something_brittle_says_on_what() {
    #[rustfmt::skip]
    let table = [
        ("#fares", 0), (".button", 0), ("main > section h2", 0), ("a[href='/fares/day']", 0), ("h2:hover", 0),
        ("#yui_3_17_2_1_1699 h2", 1), (".css-1a2b3c", 1), ("li:nth-child(3)", 1), ("li:nth-of-type(2) a", 1),
        ("li:first-child", 0), ("li:last-child", 0), 
        ("[id^=yui_]", 0), ("#yui_3_17_2_1_1699 li:nth-child(2)", 2), ("*", 0),
    ];
    for (selector, count) in table {
        let list = parse_selectors(selector).unwrap();
        assert_eq!(weaknesses(&list.slice()[0]).len(), count, "{selector}");
    }
}

#[test]
fn names_are_there_as_the_mode_of_the_page_has_it() {
    // The same page with a doctype, and without: then case does not count for classes and IDs.
    let body = "<p id=Fares class='Wide x'></p><svg><linearGradient></linearGradient></svg>";
    let (_, strict) = parse(format!("<!doctype html>{body}").as_bytes());
    let (_, quirks) = parse(body.as_bytes());
    let table = [
        ("#Fares", true, true),
        ("#fares", false, true),
        (".Wide", true, true),
        (".wide", false, true),
        ("p", true, true),
        ("P", true, true),
        (".none", false, false),
        ("table", false, false),
    ];
    for (selector, in_strict, in_quirks) in table {
        let list = parse_selectors(selector).unwrap();
        let name = names_in(&list.slice()[0]).remove(0);
        for (document, expected) in [(&strict, in_strict), (&quirks, in_quirks)] {
            assert_eq!(PageNames::of(document).has(&name), expected, "{selector}");
            let is_matched = document.elements().any(|e| Matcher::new().matches_any(&list, e, Assume::Must));
            assert_eq!(is_matched, expected, "{selector} is matched otherwise");
        }
    }
    let near = |selector: &str| {
        PageNames::of(&strict).near(&names_in(&parse_selectors(selector).unwrap().slice()[0]).remove(0))
    };
    for (selector, expected) in [
        ("#fares", "#Fares"),
        (".wide", ".Wide"),
        ("#Fare", "#Fares"),
        ("#Wide", ".Wide"),
        (".tide", ".Wide"),
    ] {
        assert_eq!(near(selector).as_deref(), Some(expected), "{selector}");
    }
    assert_eq!(near("#nothing-like-it"), None);
}
