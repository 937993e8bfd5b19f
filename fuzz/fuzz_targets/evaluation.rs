//! Any script, run against a page as a pin's and as the page's own: it comes to an end, and says the same twice. What stands
//! before an empty comment is the page's alone, and the rest the pin's.

#![no_main]

use std::sync::LazyLock;

use deft_pin_core::board::Board;
use deft_pin_core::check::{FaultScope, timeline_faults};
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Site;
use deft_pin_core::source::{FilePath, MemoryFiles};
use libfuzzer_sys::fuzz_target;

const PAGE: &str = "<!doctype html><body><nav class=nav><ul><li><a class=link href=#fares>Fares</a></ul></nav><main id=fares>\
    <h2>Fares</h2><p class=lead>From</p><form><select id=pier><option>a<option>b</select><input name=email></form>\
    <table id=fare-table><tbody><tr><td>1<td>2</table><template id=row><tr><td class=cell></template>\
    <div id=status hidden></div><button id=more>More</button><p id=foot>Pier office</p></main>";

static BOARD: LazyLock<Board> =
    LazyLock::new(|| Board::parse("[site]\nroot = 'site'\n[pin.a]\nscript = 'a.js'\n").unwrap());

fuzz_target!(|script: &str| {
    let mut files = MemoryFiles::default();
    let (own, script) = script.split_once("/**/").unwrap_or((script, script));
    let page = format!("{PAGE}<script src=s.js></script>");
    files.insert("site/index.html", page.as_str());
    files.insert("site/s.js", own);
    files.insert("a.js", script);
    let site = Site::list(&files, &FilePath::parse("site").unwrap()).unwrap();
    let plan = Plan::new(&BOARD, &files);
    let faults = || {
        let context = SiteContext::new(&plan, &site, &files);
        let id = site.pages.ids().next().unwrap();
        let page = context.page(id, page.as_bytes());
        timeline_faults(&page, FaultScope::Page)
    };
    assert_eq!(faults(), faults());
});
