//! The whole way, from a board, pages, sheets and scripts as any bytes to findings and pages: no panic,
//! what comes out is bounded by what goes in, every byte outside of what is put in stays, and the same
//! comes out the second time.

#![no_main]

use deft_pin_core::board::Board;
use deft_pin_core::check::{Checker, Explanations, Finding, SiteFacts, Told};
use deft_pin_core::code::PageId;
use deft_pin_core::emit::{Embedding, Emitter, OutputFiles};
use deft_pin_core::markup::parse_selectors;
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Site;
use deft_pin_core::source::{FilePath, MemoryFiles};
use libfuzzer_sys::fuzz_target;

#[derive(arbitrary::Arbitrary, Debug)]
struct Input<'a> {
    /// What stands in the board behind the pins.
    board: &'a str,
    within: Option<&'a str>,
    page: &'a [u8],
    other: &'a [u8],
    sheet: &'a [u8],
    site_sheet: &'a [u8],
    script: &'a [u8],
    site_script: &'a [u8],
    is_inline: bool,
}

/// What comes of a site: its findings, and its pages where something was put into them.
fn outcome(board: &Board, files: &MemoryFiles, embedding: Embedding) -> (Vec<Finding>, Vec<Option<Vec<u8>>>) {
    let Ok(site) = Site::list(files, &board.root) else { return Default::default() };
    let plan = Plan::new(board, files);
    let output = OutputFiles::new(&plan, "_pins");
    let context = SiteContext::new(&plan, &site, files);
    let emitter = Emitter { plan: &plan, files: &output, embedding };
    let checker = Checker::new(&context);
    let read = |page: PageId| {
        deft_pin_core::source::Files::read(files, &site.path_of(&site.pages[page].file)).unwrap_or_default()
    };
    let mut facts = SiteFacts::default();
    let mut pages = Vec::new();
    for id in site.pages.ids() {
        let bytes = read(id);
        let page = context.page(id, &bytes);
        let emitted = emitter.page(&page);
        facts.add(checker.facts(&emitted));
        pages.push(emitted.bytes().map(<[u8]>::to_vec));
    }
    let board_file = FilePath::parse("deft-pin.toml").unwrap_or_default();
    let questions = checker.questions(&board_file, &facts);
    let mut explanations = Explanations::default();
    for (page, asked) in questions.pages() {
        let bytes = read(page);
        explanations.add(page, checker.answers(&context.page(page, &bytes), asked));
    }
    (checker.findings(&board_file, &facts, Told { explanations: &explanations, paste_up: None }), pages)
}

fuzz_target!(|input: Input<'_>| {
    let within = input.within.filter(|within| parse_selectors(within).is_ok());
    let within = within.map_or(String::new(), |within| format!("within = {}\n", serde_json::json!(within)));
    let text = format!(
        "[site]\nroot = 'site'\n[library.l]\nscript = 's.js'\n[pin.a]\nstyle = 'a.css'\nscript = 'a.js'\n{within}{}",
        input.board
    );
    let Ok(board) = Board::parse(&text) else { return };
    let mut files = MemoryFiles::default();
    let link = b"<link rel=stylesheet href=s.css><script src=s.js></script>";
    let pages = [input.page.to_vec(), [link, input.other].concat()];
    for (name, bytes) in [
        ("site/index.html", &pages[0][..]),
        ("site/other.html", &pages[1][..]),
        ("site/s.css", input.site_sheet),
        ("site/s.js", input.site_script),
        ("s.js", input.site_script),
        ("a.css", input.sheet),
        ("a.js", input.script),
    ] {
        files.insert(name, bytes);
    }
    let embedding = if input.is_inline { Embedding::Inline } else { Embedding::Linked };
    let first = outcome(&board, &files, embedding);
    assert_eq!(outcome(&board, &files, embedding), first);
    let (findings, written) = first;
    for finding in &findings {
        assert!(finding.place.start <= finding.place.end, "{finding:?}");
        assert!(finding.message.len() < 3000, "{finding:?}");
    }
    let size = text.len() + input.sheet.len() + input.script.len() + input.site_script.len();
    for (page, written) in pages.iter().zip(&written) {
        let Some(written) = written else { continue };
        // Every byte of the page is there still, in its order.
        let mut rest = written.iter();
        assert!(page.iter().all(|byte| rest.any(|written| written == byte)), "{page:?}");
        assert!(written.len() <= page.len() + 20_000 + 200 * size, "{} of {}", written.len(), page.len());
    }
});
