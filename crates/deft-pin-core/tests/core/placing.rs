//! Whatever a page looks like: what is put in ends up where it is meant to in the tree that
//! html5ever builds of the new page, and every other byte stays as it was.

use deft_pin_core::board::Board;
use deft_pin_core::code::PageId;
use deft_pin_core::emit::{Embedding, Emitter, OutputFiles};
use deft_pin_core::markup::{Document, ElementRef, Origin, Slot, parse};
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Site;
use deft_pin_core::source::MemoryFiles;
use encoding_rs::Encoding;
use proptest::prelude::*;

const PINS: [&str; 4] = [
    "[pin.h]\nscript = 'a.js'\nslot = 'head-start'\n", "[pin.s]\nstyle = 'a.css'\n",
    "[pin.b]\nscript = 'a.js'\nslot = 'body-start'\n", "[pin.f]\nscript = 'a.js'\n",
];

/// A page customised by some of the pins; `None` where it was refused.
fn customised(page: &[u8], pins: &[usize], embedding: Embedding) -> Option<Vec<u8>> {
    let mut files = MemoryFiles::from([("a.css", "p{content:'é</style>'}"), ("a.js", "a('é</script><!--')")]);
    files.insert("site/deep/er/page.html", page);
    let pins: String = pins.iter().map(|pin| PINS[*pin]).collect();
    let board = Board::parse(&format!("[site]\nroot = 'site'\n{pins}")).unwrap();
    let site = Site::list(&files, &board.root).unwrap();
    let plan = Plan::new(&board, &files);
    let output = OutputFiles::new(&plan, "_pins");
    let context = SiteContext::new(&plan, &site, &files);
    let analysis = context.page(PageId::FIRST, page);
    let emitter = Emitter { plan: &plan, files: &output, embedding };
    // What is said of a page without writing it is what comes of writing it.
    let (looked_at, written) = (emitter.page(&analysis), emitter.page(&analysis));
    let bytes = written.bytes().map(<[u8]>::to_vec);
    assert_eq!(looked_at.refused().is_empty(), bytes.is_some(), "{}", page.escape_ascii());
    bytes
}

fn placed<'d>(document: &'d Document, pin: &str) -> Vec<ElementRef<'d>> {
    let name = deft_pin_core::markup::LocalName::from("data-deft-pin");
    document.elements().filter(|e| e.data().attr(&name) == Some(pin)).collect()
}

/// Holds a customised page against what must be so.
fn hold(page: &[u8], embedding: Embedding) {
    let (decoded, before) = parse(page);
    let shown = page.escape_ascii().to_string();
    for (pin, slot) in [Slot::HeadStart, Slot::Head, Slot::BodyStart, Slot::Foot].into_iter().enumerate() {
        let Some(out) = customised(page, &[pin], embedding) else {
            assert!(before.body().is_none() && slot >= Slot::BodyStart, "refused {slot}: {shown}");
            continue;
        };
        // One insertion, and every byte before and behind it as it was.
        let at = decoded.origin(before.slots().gap(slot).unwrap().at) as usize;
        assert!(out.starts_with(&page[..at]) && out.ends_with(&page[at..]), "{slot}: {shown}");
        assert!(out.len() > page.len());
    }
    let Some(out) = customised(page, &[0, 1, 2, 3], embedding) else { return };
    let (_, after) = parse(&out);
    let shown = format!("{shown} -> {}", out.escape_ascii());
    let all: Vec<_> = ["h", "s", "b", "f"].iter().flat_map(|pin| placed(&after, pin)).collect();
    assert_eq!(all.len(), 4, "{shown}");
    let (head, body) = (after.head().unwrap(), after.body().unwrap());
    assert_eq!(all[0].parent(), Some(head), "{shown}");
    assert_eq!(all[1].parent(), Some(head), "{shown}");
    assert!(all[2].is_within(body) && all[3].is_within(body), "{shown}");
    let elements: Vec<_> = after.elements().collect();
    let place = |element: ElementRef<'_>| elements.iter().position(|e| *e == element).unwrap();
    assert_eq!(place(all[0]), place(head) + 1, "the start of the head: {shown}");
    assert_eq!(place(all[2]), place(body) + 1, "the start of the body: {shown}");
    // A script that the file ends in, or plain text, has no place behind it.
    let runs_on = |e: &ElementRef<'_>| {
        let endless = matches!(&*e.name.local, "script" | "plaintext") && e.end_tag.is_none();
        endless || matches!(e.origin, Origin::Implied(_))
    };
    // Ids count in the order of parsing: what a misplaced table pushes before itself is not behind.
    let mut behind = elements.iter().filter(|e| e.id > all[3].id);
    assert!(behind.all(|e| !e.is_within(body) || runs_on(e)), "the end of the body: {shown}");
    let head_elements = elements.iter().rfind(|e| e.is_within(head)).unwrap();
    assert_eq!(*head_elements, all[1], "the end of the head: {shown}");
    // The page's own tree is what it was: the same elements in the same order.
    let own = |document: &Document| -> Vec<String> {
        let own = document.elements().filter(|e| {
            e.attrs.iter().all(|a| &*a.name.local != "data-deft-pin")
                && !matches!(&*e.name.local, "script" | "plaintext")
        });
        own.map(|e| {
            format!("{}{:?}", e.name.local, e.attrs.iter().map(|a| a.value.to_string()).collect::<Vec<_>>())
        })
        .collect()
    };
    // Plain text takes up the rest of the page with whatever formatting is open around it.
    if !decoded.text().contains("<plaintext") {
        assert_eq!(own(&after), own(&before), "{shown}");
    }
}

proptest! {
    #![proptest_config(crate::odd_pages::config(700))]

    #[test]
    fn odd_pages_take_what_is_put_in(page in crate::odd_pages::page(), embedding in prop::sample::select(vec![Embedding::Linked, Embedding::Inline])) {
        hold(page.as_bytes(), embedding);
    }

    #[test]
    fn pages_in_any_encoding_take_what_is_put_in(
        page in crate::odd_pages::page(),
        label in prop::sample::select(vec!["utf-16le", "utf-16be", "windows-1252", "shift_jis", "utf-8"]),
        bom in any::<bool>(),
    ) {
        let encoding = Encoding::for_label(label.as_bytes()).unwrap();
        let bytes: Vec<u8> = match label {
            "utf-16le" => [0xff, 0xfe].into_iter().chain(page.encode_utf16().flat_map(u16::to_le_bytes)).collect(),
            "utf-16be" => [0xfe, 0xff].into_iter().chain(page.encode_utf16().flat_map(u16::to_be_bytes)).collect(),
            "utf-8" if bom => [b"\xef\xbb\xbf", page.as_bytes()].concat(),
            _ => [format!("<!doctype html><meta charset={label}>").as_bytes(), &*encoding.encode(&page).0].concat(),
        };
        hold(&bytes, Embedding::Inline);
    }

    #[test]
    fn any_bytes_take_what_is_put_in(bytes in proptest::collection::vec(any::<u8>(), 0..200)) {
        hold(&bytes, Embedding::Linked);
    }
}

#[test]
fn pages_with_traps_at_the_places_that_count() {
    for page in [
        "",
        "text",
        "<p>one",
        "<title>t</title>",
        "<!doctype html>\r\n<html>\r\n<head>\r\n</head>\r\n<body>\r\n</body>\r\n</html>\r\n",
        "<head></head><title>late</title><link rel=x><p>",
        "<body></body><p>more</p></html> <!-- </body> -->\n",
        "<body><script>'</body>'</script></body>",
        "<body></body></html></body></html>",
        "<body>x</body> y </body>",
        "<body><!-- never closed </body>",
        "<body><script>never closed</body>",
        "<body><textarea></body>",
        "<head><title>never closed",
        "<body><svg><g></body>",
        "<body><svg><foreignObject><div></body>",
        "<body><math><mi></body>",
        "<template><p>",
        "<head><template></head><body>",
        "<body><p>cut off <a href='x",
        "<body><p></p><",
        "<plaintext></body>",
        "<!doctype html",
        "<body><select><option></body>",
        "<body><table><tr><td>x</body>",
        "<body><noscript></body>",
        "<frameset><frame></frameset>",
        "<base href='https://else.example/'><p>x",
        "<body><b><i><p>x</body>",
        "<html><body><p>x</html>\n\n",
        "<!-- a --><!-- b --><html><!-- c --><head><!-- d --></head><!-- e --><body>",
    ] {
        hold(page.as_bytes(), Embedding::Linked);
        hold(page.as_bytes(), Embedding::Inline);
    }
}
