//! What is found on sites of several pages: each cause once, with its pages, and the same whatever
//! the order in which pages are looked at.

use crate::made::Made;
use deft_pin_core::check::PageFacts;
use deft_pin_core::code::PageId;

/// Sites with what is found on each, `=> ` before every finding.
const CASES: &[&str] = &[
    // The same cause is of two kinds on two pages: each page is told its own.
    "
--- deft-pin.toml
[pin.p]
script = 'p.js'
--- p.js
Chart.draw()
--- site/a.html
<!doctype html><body>
--- site/b.html
<!doctype html><head><script defer src=chart.js></script></head><body>
--- site/c.html
<!doctype html><head><script src=chart.js></script></head><body>
--- site/d.html
<!doctype html><body>
--- site/chart.js
var Chart = { draw() {} }
=> late-library p.js:1 /b.html
=> missing-library p.js:1 /a.html /d.html
",
    // One lookup is early on a page, lost on another, and right on the third.
    "
--- deft-pin.toml
[pin.p]
script = 'p.js'
slot = 'body-start'
--- p.js
document.getElementById('pier').focus()
--- site/a.html
<!doctype html><body><p id=pier></p>
--- site/b.html
<!doctype html><body><p id=quay></p>
--- site/c.html
<!doctype html><body id=pier>
=> early-lookup p.js:1 /a.html
=> lost-lookup p.js:1 /b.html
",
    // What beats a declaration differs from page to page.
    "
--- deft-pin.toml
[pin.p]
style = 'p.css'
--- p.css
h2 { color: teal }
--- site/a.html
<!doctype html><style>#m h2 { color: red }</style><main id=m><h2>a</h2></main>
--- site/b.html
<!doctype html><style>h2 { color: red !important }</style><h2>b</h2>
=> beaten p.css:1 /a.html /b.html
",
    // A declaration that wins on one page is not beaten everywhere.
    "
--- deft-pin.toml
[pin.p]
style = 'p.css'
--- p.css
h2 { color: teal }
--- site/a.html
<!doctype html><style>.t { color: red }</style><h2 class=t>a</h2>
--- site/b.html
<!doctype html><h2>b</h2>
=> partly-beaten p.css:1 /a.html
",
    // Frames have no body to put anything into.
    "
--- deft-pin.toml
[pin.p]
script = 'p.js'
[pin.s]
style = 's.css'
--- p.js
document.title
--- s.css
html { color: teal }
--- site/frames.html
<!doctype html><head></head><frameset><frame src=a.html></frameset>
--- site/a.html
<!doctype html><p>a</p>
=> no-slot deft-pin.toml:3 /frames.html
",
    // Only what the slot is meant for needs it.
    "
--- deft-pin.toml
[pin.s]
style = 's.css'
--- s.css
html { color: teal }
--- site/frames.html
<!doctype html><head></head><frameset><frame src=a.html></frameset>
",
    // Rules that stand on every page: what tells a page apart.
    "
--- deft-pin.toml
[host]
kind = 'site-slots'
site = []
styles = 'site'
scripts = 'site'
[pin.p]
style = 'p.css'
pages = ['/a.html', '/b.html']
--- p.css
h2 { color: teal }
--- site/a.html
<!doctype html><body class=fares><h2>a</h2>
--- site/b.html
<!doctype html><body><h2>b</h2>
--- site/c.html
<!doctype html><body class=journal><h2>c</h2>
=> page-apart deft-pin.toml:10 /b.html
",
    // A class on exactly the pages that are meant tells them apart together.
    "
--- deft-pin.toml
[host]
kind = 'site-slots'
site = []
styles = 'site'
scripts = 'site'
[pin.p]
style = 'p.css'
pages = ['/a.html', '/b.html']
--- p.css
h2 { color: teal }
--- site/a.html
<!doctype html><body class=fares><h2>a</h2>
--- site/b.html
<!doctype html><body class=fares><h2>b</h2>
--- site/c.html
<!doctype html><body class=journal><h2>c</h2>
",
    // What no box of the host can hold.
    "
--- deft-pin.toml
[host]
kind = 'page-slots'
strips = ['script']
[pin.p]
style = 'p.css'
script = 'p.js'
pages = ['/a.html']
[[pin.p.markup]]
text = '<p>x</p>'
at = 'h2'
place = 'after'
--- p.css
h2 { color: teal }
--- p.js
document.title = 'x'
--- site/a.html
<!doctype html><h2>a</h2>
=> out-of-reach deft-pin.toml:8
=> out-of-reach deft-pin.toml:10
",
    "
--- deft-pin.toml
[host]
kind = 'framed-blocks'
block = '#b'
[pin.in]
style = 'p.css'
pages = ['/a.html']
[[pin.in.markup]]
text = '<h2 class=n>x</h2>'
at = '#b'
place = 'append'
[pin.out]
style = 'q.css'
--- p.css
.n { color: teal }
--- q.css
h1 { color: teal }
--- site/a.html
<!doctype html><h1>a</h1><div id=b></div>
=> out-of-reach deft-pin.toml:13
",
    // What does not survive, with the line in the pin.
    "
--- deft-pin.toml
[host]
kind = 'framed-blocks'
block = '#b'
strips = ['section', 'style*', '[style]', 'on*', '@media']
class-names = 'lower-dashed'
[pin.in]
style = 'p.css'
pages = ['/a.html']
[[pin.in.markup]]
file = 'p.html'
at = '#b'
place = 'append'
--- p.css
h2 { color: teal }
@media print { h2 { color: navy } }
--- p.html
<section>
<h2 style='top: 0' class='Big Notice'
 onclick='void 0'>x</h2></section>
--- site/a.html
<!doctype html><h1>a</h1><div id=b></div>
=> rewritten p.html:2
=> stripped p.css:2
=> stripped p.html:1
=> stripped p.html:2
=> stripped p.html:3
",
    // Where a script puts markup in, nothing of it is looked through.
    "
--- deft-pin.toml
[host]
kind = 'site-slots'
strips = ['section', 'on*', '[style]']
[pin.p]
pages = ['/a.html']
[[pin.p.markup]]
text = '<section style=top:0 onclick=1>x</section>'
at = 'h2'
place = 'after'
--- site/a.html
<!doctype html><h2>a</h2>
",
    // A class that is given by hand, in the way of the editor.
    "
--- deft-pin.toml
[host]
kind = 'page-slots'
marks = 'by-hand'
class-names = 'lower-dashed'
reserved = ['desk-*']
[pin.p]
style = 'p.css'
[[pin.p.mark]]
at = 'h2'
class = 'Big'
[[pin.p.mark]]
at = 'h1'
class = 'desk-head'
--- p.css
.Big { color: teal }
--- site/a.html
<!doctype html><h2>a</h2><h1>b</h1>
=> reserved-name deft-pin.toml:15
=> rewritten deft-pin.toml:12
",
    // A script of the site that would come after the pin in its slot, and comes before it in the box.
    "
--- deft-pin.toml
[host]
kind = 'site-slots'
[pin.p]
script = 'p.js'
share = ['tides']
slot = 'body-start'
--- p.js
function tides() { return 1 }
--- site/a.html
<!doctype html><body><h2>a</h2><script>document.title = tides()</script></body>
=> late-box deft-pin.toml:8 /a.html
",
    // The same where nothing comes too late.
    "
--- deft-pin.toml
[host]
kind = 'site-slots'
[pin.p]
script = 'p.js'
share = ['tides']
slot = 'head'
--- p.js
function tides() { return 1 }
--- site/a.html
<!doctype html><body><h2>a</h2><script>document.title = tides()</script></body>
",
    // Markup that a script of the site looks up while the page is read.
    "
--- deft-pin.toml
[host]
kind = 'page-slots'
[pin.p]
[[pin.p.markup]]
text = '<p id=given>x</p>'
at = 'h2'
place = 'after'
--- site/a.html
<!doctype html><body><h2>a</h2><script>document.getElementById('given').hidden = true</script></body>
=> late-box deft-pin.toml:6 /a.html
",
    // An event that may be past.
    "
--- deft-pin.toml
[host]
kind = 'inserted'
[pin.p]
script = 'p.js'
[pin.q]
script = 'q.js'
--- p.js
document.addEventListener('DOMContentLoaded', function () { document.title = 'x' })
--- q.js
function go() { document.title = 'x' }
if (document.readyState === 'loading') { document.addEventListener('DOMContentLoaded', go) } else { go() }
--- site/a.html
<!doctype html><body><h2>a</h2>
=> late-box deft-pin.toml:6 /a.html
",
    // Two pins that share a file share what is wrong with it.
    "
--- deft-pin.toml
[pin.p]
style = 'p.css'
pages = ['/a.html']
[pin.q]
style = 'p.css'
pages = ['/b.html']
--- p.css
h2 { colr: teal }
--- site/a.html
<!doctype html><h2>a</h2>
--- site/b.html
<!doctype html><h2>b</h2>
=> dropped-declaration p.css:1
",
    // A pin that is off says nothing, and a page without pins neither.
    "
--- deft-pin.toml
[pin.p]
style = 'p.css'
pages = ['/a.html']
[pin.q]
script = 'q.js'
off = true
--- p.css
h2 { color: teal }
--- q.js
let let = ;
--- site/a.html
<!doctype html><h2>a</h2>
--- site/b.html
<!doctype html><script>nothing.at.all()</script>
",
    // A name that a script of one page adds: the rule is no mistake on the others.
    "
--- deft-pin.toml
[pin.p]
style = 'p.css'
--- p.css
.is-open { color: teal }
h2 { color: teal }
--- site/a.html
<!doctype html><h2>a</h2><script>document.body.classList.add('is-open')</script>
--- site/b.html
<!doctype html><h2>b</h2>
=> at-run-time p.css:1 /a.html /b.html
",
    // A library that the page has already, in the same and in another major version.
    "
--- deft-pin.toml
[library.tide]
script = 'tide-2.1.js'
[pin.p]
script = 'p.js'
needs = ['tide']
--- tide-2.1.js
var Tide = { go() {} }
--- p.js
Tide.go()
--- site/a.html
<!doctype html><script src=tide-2.0.js></script><body>
--- site/b.html
<!doctype html><script src=tide-1.0.js></script><body>
--- site/c.html
<!doctype html><body>
--- site/tide-2.0.js
var Tide = { go() {} }
--- site/tide-1.0.js
var Tide = { go() {} }
=> twice deft-pin.toml:3 /a.html
=> twice deft-pin.toml:3 /b.html
",
    // A policy of one page stops there alone.
    "
--- deft-pin.toml
[pin.p]
script = 'p.js'
--- p.js
document.title
--- site/a.html
<!doctype html><meta http-equiv=Content-Security-Policy content=\"script-src 'none'\"><body>
--- site/b.html
<!doctype html><meta http-equiv=Content-Security-Policy content=\"script-src 'self'\"><body>
=> blocked-by-policy deft-pin.toml:3 /a.html
",
    // Two pins that fight, on the page alone that both are on.
    "
--- deft-pin.toml
[pin.p]
style = 'p.css'
[pin.q]
style = 'q.css'
pages = ['/b.html']
--- p.css
#m h2 { color: teal }
--- q.css
h2 { color: navy }
--- site/a.html
<!doctype html><main id=m><h2>a</h2></main>
--- site/b.html
<!doctype html><main id=m><h2>b</h2></main>
=> pin-clash q.css:1 /b.html
",
    // A name that the page asks for stays in a pin's script.
    "
--- deft-pin.toml
[pin.p]
script = 'p.js'
--- p.js
function showPier() {}
--- site/a.html
<!doctype html><body><button onclick='showPier()'>a</button>
--- site/b.html
<!doctype html><body><button onclick='hidePier()'>b</button>
=> not-shared p.js:1 /a.html
",
];

fn parts(case: &str) -> (&str, Vec<&str>) {
    let site = case.split("=> ").next().unwrap();
    (site, case.split("=> ").skip(1).map(str::trim).collect())
}

#[test]
fn each_cause_is_told_once_with_its_pages() {
    let mut wrong = Vec::new();
    for case in CASES {
        let (site, mut expected) = parts(case);
        let mut found = Made::of(site).drawn();
        found.sort();
        expected.sort_unstable();
        if found != expected {
            wrong.push(format!("{site}{found:#?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn facts_depend_on_their_page_alone() {
    for case in CASES {
        let made = Made::of(parts(case).0);
        let in_order: Vec<Option<PageFacts>> =
            made.checked(|bench| bench.context.site().pages.ids().map(|page| bench.facts(page)).collect());
        // Each page on its own, as if it were the first that is looked at.
        let pages: Vec<PageId> = made.checked(|bench| bench.context.site().pages.ids().collect());
        for (page, expected) in pages.iter().zip(&in_order) {
            assert_eq!(made.checked(|bench| bench.facts(*page)), *expected, "alone: {case}");
        }
        // From the last to the first.
        let reversed =
            made.checked(|bench| pages.iter().rev().map(|page| bench.facts(*page)).collect::<Vec<_>>());
        assert!(reversed.iter().rev().eq(&in_order), "reversed: {case}");
        // All at once.
        for threads in [2, 8] {
            let found = made.checked(|bench| {
                std::thread::scope(|scope| {
                    let asked: Vec<_> = (0..threads)
                        .map(|first| {
                            let own = pages.iter().skip(first).step_by(threads);
                            scope.spawn(move || {
                                own.map(|page| (*page, bench.facts(*page))).collect::<Vec<_>>()
                            })
                        })
                        .collect();
                    let mut found: Vec<_> =
                        asked.into_iter().flat_map(|thread| thread.join().unwrap()).collect();
                    found.sort_by_key(|(page, _)| *page);
                    found.into_iter().map(|(_, facts)| facts).collect::<Vec<_>>()
                })
            });
            assert_eq!(found, in_order, "{threads} threads: {case}");
        }
    }
}

#[test]
fn facts_are_plain_data() {
    let made = Made::of(parts(CASES[0]).0);
    let facts = made.checked(|bench| bench.facts(PageId::FIRST)).unwrap();
    assert_eq!(facts, facts.clone());
    let json = format!("{facts:?}");
    assert!(json.contains("script_faults") && json.contains("Chart"), "{json}");
}

const ENCODED: &str = "
--- deft-pin.toml
[pin.p]
style = 'p.css'
--- p.css
h2 { top: 0 }
";

#[test]
fn a_sheet_takes_the_encoding_that_a_browser_takes() {
    // The page's head, the sheet's bytes, and what the sheet says then (css-syntax-3, "determine the
    // fallback encoding").
    let table: [(&[u8], &[u8], &str); 9] = [
        (
            b"<meta charset=utf-8><link rel=stylesheet href=s.css>", b"h2::before{content:'\xc3\xa9'}",
            "\u{e9}",
        ),
        (b"<meta charset=utf-8><link rel=stylesheet href=s.css>", b"h2::before{content:'\xe9'}", "\u{fffd}"),
        (
            b"<meta charset=windows-1252><link rel=stylesheet href=s.css>",
            b"h2::before{content:'\xe9'}",
            "\u{e9}",
        ),
        (
            b"<meta charset=utf-8><link rel=stylesheet href=s.css charset=latin1>",
            b"h2::before{content:'\xe9'}",
            "\u{e9}",
        ),
        (
            b"<meta charset=utf-8><link rel=stylesheet href=s.css>",
            b"@charset \"windows-1251\";h2::before{content:'\xe9'}", "\u{439}",
        ),
        (
            b"<meta charset=utf-8><link rel=stylesheet href=s.css>",
            b"@charset 'windows-1251';h2::before{content:'\xe9'}", "\u{fffd}",
        ),
        (
            b"<meta charset=windows-1251><link rel=stylesheet href=s.css>",
            b"\xef\xbb\xbfh2::before{content:'\xc3\xa9'}",
            "\u{e9}",
        ),
        (
            b"<meta charset=shift_jis><link rel=stylesheet href=s.css>", b"h2::before{content:'\x82\xa0'}",
            "\u{3042}",
        ),
        (
            b"<meta charset=utf-8><link rel=stylesheet href=s.css>",
            b"@charset \"utf-16le\";h2::before{content:'\xc3\xa9'}", "\u{e9}",
        ),
    ];
    for (head, sheet, expected) in table {
        let page = [b"<!doctype html>", head, b"<h2>a</h2>"].concat();
        let made = Made::of(ENCODED).with("site/index.html", &page).with("site/s.css", sheet);
        made.checked(|bench| {
            let bytes = bench.bytes(PageId::FIRST);
            let page = bench.context.page(PageId::FIRST, &bytes);
            let text = page.sheets().sheets[0].rules.text.as_str();
            assert!(text.contains(&format!("content:'{expected}'")), "{}: {text}", sheet.escape_ascii());
        });
    }
}

#[test]
fn one_sheet_in_two_pages_of_two_encodings_is_read_in_each() {
    let made = Made::of(ENCODED)
        .with(
            "site/a.html",
            b"<!doctype html><meta charset=windows-1252><link rel=stylesheet href=s.css><h2>a</h2>",
        )
        .with(
            "site/b.html",
            b"<!doctype html><meta charset=windows-1251><link rel=stylesheet href=s.css><h2>b</h2>",
        )
        .with("site/s.css", b"h2::before{content:'\xe9'}");
    let texts = made.checked(|bench| {
        let pages: Vec<PageId> = bench.context.site().pages.ids().collect();
        let text = |page: PageId| {
            let bytes = bench.bytes(page);
            bench.context.page(page, &bytes).sheets().sheets[0].rules.text.as_str().to_owned()
        };
        pages.into_iter().map(text).collect::<Vec<_>>()
    });
    assert_eq!(texts, ["h2::before{content:'\u{e9}'}", "h2::before{content:'\u{439}'}"]);
}

#[test]
fn files_of_the_board_have_to_be_in_utf_8() {
    let board = "
--- deft-pin.toml
[library.tide]
script = 'tide.js'
[pin.p]
style = 'p.css'
script = 'p.js'
needs = ['tide']
--- site/index.html
<!doctype html><h2>a</h2>
";
    let good =
        [("p.css", &b"h2 { top: 0 }"[..]), ("p.js", b"Tide.go()"), ("tide.js", b"var Tide = { go() {} }")];
    let bad = [
        ("p.css", &b"h2::before { content: '\xe9' }"[..]),
        ("p.js", b"a('\xff')"),
        ("tide.js", b"\xfe\xff\0a"),
    ];
    for (number, (path, bytes)) in bad.into_iter().enumerate() {
        let made =
            good.iter().fold(Made::of(board), |made, (path, bytes)| made.with(path, bytes)).with(path, bytes);
        let found = made.findings();
        let told = found.iter().find(|finding| finding.code.name() == "bad-encoding");
        let told = told.unwrap_or_else(|| panic!("{path}: {found:#?}"));
        assert!(
            told.message.contains(path) && told.help.as_deref() == Some("save the file as UTF-8"),
            "{told:?}"
        );
        let line = [6, 7, 4][number];
        assert_eq!((told.place.file.as_str(), told.place.start.line), ("deft-pin.toml", line), "{path}");
    }
}
