//! A board and its files: which pages pins are for, what they need, in which order their code stands,
//! and what a host makes of it.

use crate::made::Made;
use deft_pin_core::board::Board;
use deft_pin_core::code::{CodeKind, PageId};
use deft_pin_core::plan::{ExistingCopies, Layout, Plan};
use deft_pin_core::site::Page;
use deft_pin_core::source::{FilePath, MemoryFiles};

#[test]
fn pins_are_for_the_pages_that_their_patterns_say() {
    // `pages` and `skip`, the page's file, and whether the pin is for it (URL Pattern, "pathname").
    #[rustfmt::skip]
    let table = [
        ("", "index.html", true),
        ("", "deep/er/page.html", true),
        ("pages = ['/']", "index.html", true),
        ("pages = ['/']", "fares/index.html", false),
        ("pages = ['/fares/']", "fares/index.html", true),
        ("pages = ['/fares/']", "fares.html", false),
        ("pages = ['/fares.html']", "fares.html", true),
        ("pages = ['/fares/*']", "fares/index.html", true),
        ("pages = ['/fares/*']", "fares/group.html", true),
        ("pages = ['/fares/*']", "fares/a/b/c.html", true),
        ("pages = ['/fares*']", "fares.html", true),
        ("pages = ['/*']", "index.html", true),
        ("pages = ['*']", "a/b.html", true),
        ("pages = ['/piers/:pier/']", "piers/ellery/index.html", true),
        ("pages = ['/piers/:pier/']", "piers/index.html", false),
        ("pages = ['/piers/:pier/']", "piers/a/b/index.html", false),
        ("pages = ['/piers/:pier{.html}?']", "piers/ellery.html", true),
        ("pages = ['/journal/:year(\\\\d+)/*']", "journal/2026/a.html", true),
        ("pages = ['/journal/:year(\\\\d+)/*']", "journal/about/a.html", false),
        ("pages = ['/{fares,piers}/']", "fares/index.html", false),
        ("pages = ['/fares/', '/piers/']", "piers/index.html", true),
        ("pages = ['/Fares/']", "fares/index.html", false),
        ("pages = ['/caf%C3%A9/']", "caf\u{e9}/index.html", true),
        ("pages = ['/caf\u{e9}/']", "caf\u{e9}/index.html", true),
        ("pages = ['/a%20b.html']", "a b.html", true),
        ("skip = ['/fares/*']", "fares/index.html", false),
        ("skip = ['/fares/*']", "index.html", true),
        ("pages = ['/fares/*']\nskip = ['/fares/group.html']", "fares/group.html", false),
        ("pages = ['/fares/*']\nskip = ['/fares/group.html']", "fares/index.html", true),
        ("off = true", "index.html", false),
    ];
    let mut wrong = Vec::new();
    for (keys, file, expected) in table {
        let keys = keys.replace("\\\\", "\\");
        let board = Board::parse(&format!("[site]\nroot = 'site'\n[pin.p]\nstyle = 'p.css'\n{keys}\n"));
        let board = board.unwrap_or_else(|mistakes| panic!("{keys}: {mistakes:?}"));
        let files = MemoryFiles::from([("p.css", "")]);
        let plan = Plan::new(&board, &files);
        let page = Page::new(FilePath::parse(file).unwrap());
        if plan.pins_for(&page.path).len() != usize::from(expected) {
            wrong.push(format!("{keys} and {file}: not {expected}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

const FILES: [(&str, &str); 6] = [
    ("p.css", "p { top: 0 }"),
    ("p.js", "Chart.draw()"),
    ("q.js", "document.title"),
    ("chart.js", "var Chart = { draw() { return Base.x } }"),
    ("base.js", "var Base = { x: 1 }"),
    ("base.css", ""),
];

/// What stands on a page that all pins are on, as `slot name kind`.
fn placed(board: &str) -> String {
    let board =
        Board::parse(&format!("[site]\nroot = 'site'\n{board}")).unwrap_or_else(|e| panic!("{board}: {e:?}"));
    let files = MemoryFiles::from(FILES);
    let plan = Plan::new(&board, &files);
    let pins: Vec<_> = board.active_pins().map(|(id, _)| id).collect();
    let placements = plan.placements(&pins, &ExistingCopies::default(), &Layout::default());
    let draw = placements.iter().map(|own| {
        let kind = if own.code.kind == CodeKind::Style { "css" } else { "js" };
        format!("{}:{}.{kind}", own.at.slot(), plan.name_of(own.code.owner))
    });
    draw.collect::<Vec<_>>().join(" ")
}

#[test]
fn code_stands_in_the_order_of_needs_breadth_and_the_board() {
    let libraries = "[library.chart]\nscript = 'chart.js'\nneeds = ['base']\n[library.base]\nscript = 'base.js'\nstyle = 'base.css'\n";
    #[rustfmt::skip]
    let table = [
        ("[pin.a]\nstyle = 'p.css'\n[pin.b]\nstyle = 'p.css'", "head:a.css head:b.css"),
        ("[pin.a]\nstyle = 'p.css'\nwithin = '#m'\n[pin.b]\nstyle = 'p.css'", "head:b.css head:a.css"),
        ("[pin.a]\nstyle = 'p.css'\npages = ['/']\n[pin.b]\nstyle = 'p.css'", "head:b.css head:a.css"),
        ("[pin.a]\nstyle = 'p.css'\nwithin = '#m'\n[pin.b]\nstyle = 'p.css'\nhaving = '#m'", "head:b.css head:a.css"),
        ("[pin.a]\nscript = 'q.js'\n[pin.b]\nscript = 'q.js'", "foot:a.js foot:b.js"),
        ("[pin.a]\nscript = 'q.js'\nafter = ['b']\n[pin.b]\nscript = 'q.js'", "foot:b.js foot:a.js"),
        ("[pin.a]\nscript = 'q.js'\n[pin.b]\nscript = 'q.js'\nslot = 'head'", "head:b.js foot:a.js"),
        ("[pin.a]\nscript = 'q.js'\nslot = 'head-start'\n[pin.b]\nstyle = 'p.css'\nscript = 'q.js'\nslot = 'body-start'", "head-start:a.js head:b.css body-start:b.js"),
        ("[pin.a]\nscript = 'p.js'\nneeds = ['chart']", "head:base.css foot:base.js foot:chart.js foot:a.js"),
        ("[pin.a]\nscript = 'p.js'\nneeds = ['chart']\n[pin.b]\nscript = 'q.js'\nneeds = ['base']\nslot = 'head'", "head:base.css head:base.js head:b.js foot:chart.js foot:a.js"),
        // A need that the board forgot.
        ("[pin.a]\nscript = 'p.js'", "head:base.css foot:base.js foot:chart.js foot:a.js"),
        ("[pin.a]\nscript = 'q.js'", "foot:a.js"),
        ("[pin.a]\nneeds = ['base']", "head:base.css foot:base.js"),
    ];
    let mut wrong = Vec::new();
    for (board, expected) in table {
        let found = placed(&format!("{libraries}{board}\n"));
        if found != expected {
            wrong.push(format!("{board}\n    {found}, not {expected}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_page_that_has_a_library_gets_it_only_where_it_comes_too_late() {
    let board = "
--- deft-pin.toml
[library.tide]
script = 'vendor/tide-2.1.0.js'
[pin.p]
script = 'p.js'
needs = ['tide']
--- vendor/tide-2.1.0.js
var Tide = { go() {} }
--- p.js
Tide.go()
--- site/tide-2.1.0.js
var Tide = { go() {} }
--- site/tide-1.9.js
var Tide = { go() {} }
--- site/other.js
var Tide = { go() {} }
";
    #[rustfmt::skip]
    let table = [
        ("", 2),
        ("<script src=tide-2.1.0.js></script>", 1),
        ("<script src=tide-2.1.0.js?v=3></script>", 1),
        ("<script src=https://cdn.example/tide@2.4/tide.min.js></script>", 1),
        ("<script src=tide-1.9.js></script>", 2),
        ("<script src=tide-2.1.0.js defer></script>", 2),
        ("<script src=tide-2.1.0.js async></script>", 2),
        ("<script type=module src=tide-2.1.0.js></script>", 2),
        ("<script src=other.js></script>", 1),
        ("<script>var Tide = { go() {} }</script>", 1),
        ("<script>window.Tide = window.Tide || {}</script>", 1),
        ("<script>document.title</script>", 2),
    ];
    let mut wrong = Vec::new();
    for (head, expected) in table {
        let page = format!("<!doctype html><head>{head}</head><body></body>");
        let made = Made::of(board).with("site/index.html", page.as_bytes());
        let found = made.checked(|bench| {
            let bytes = bench.bytes(PageId::FIRST);
            bench.context.page(PageId::FIRST, &bytes).placements().len()
        });
        if found != expected {
            wrong.push(format!("{head}: {found} pieces, not {expected}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn mistakes_in_a_board_are_told_where_they_stand_with_what_was_meant() {
    // The lines after the site, what is marked, and words of the message or the help.
    #[rustfmt::skip]
    let table = [
        ("[pin.p]\nstyel = 'p.css'\nscript = 'p.js'", "styel", "did you mean `style`?"),
        ("[pin.p]\nstyle = 3", "3", "a text in quotes"),
        ("[pin.p]\nstyle = 'p.css'\nslot = 'heads'", "'heads'", "did you mean `head`?"),
        ("[pin.p]\nstyle = 'p.css'\npages = '/'", "'/'", "list"),
        ("[pin.p]\nstyle = 'p.css'\npages = ['fares']", "'fares'", "start with `/`"),
        ("[pin.p]\nstyle = 'p.css'\nwithin = '#a >'", "'#a >'", "no selector"),
        ("[pin.p]\nstyle = 'p.css'\nneeds = ['tide']", "'tide'", "no library `tide`"),
        ("[pin.p]\nstyle = 'p.css'\nafter = ['q']", "'q'", "no pin `q`"),
        ("[pin.p]\nstyle = '../p.css'", "'../p.css'", "leads out of the folder"),
        ("[pin.p]\nstyle = '/p.css'", "'/p.css'", "absolute path"),
        ("[pin.p]\nstyle = 'p.css'\noff = 'yes'", "'yes'", "`off`"),
        ("[pin.p]\nstyle = 'p.css'\nstrength = 'hold'", "'hold'", "there is no strength `hold`"),
        ("[pin.p]\nstyle = 'p.css'\nexpect = { page = 1 }", "page", "did you mean `pages`?"),
        ("[pin.p]", "p", "puts nothing into pages"),
        ("[library.l]", "l", "l"),
        ("[host]\nkind = 'file'\n[pin.p]\nstyle = 'p.css'", "'file'", "did you mean `files`?"),
        ("[pin.'a b']\nstyle = 'p.css'", "'a b'", "letters, digits"),
    ];
    let mut wrong = Vec::new();
    for (lines, marked, words) in table {
        let text = format!("[site]\nroot = 'site'\n{lines}\n");
        let mistakes = match Board::parse(&text) {
            Ok(_) => Vec::new(),
            Err(mistakes) => mistakes,
        };
        let told = mistakes.iter().map(|own| {
            (&text[own.span.range()], format!("{} {}", own.message, own.help.as_deref().unwrap_or_default()))
        });
        let told: Vec<_> = told.collect();
        if !matches!(told.as_slice(), [(place, message)] if *place == marked && message.contains(words)) {
            wrong.push(format!("{lines}: {told:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
