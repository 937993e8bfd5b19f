//! Markup and marks: what is put into a page stands where it is meant to, and every other byte stays as it was.

use deft_pin_core::board::Board;
use deft_pin_core::code::PageId;
use deft_pin_core::emit::{Embedding, Emitter, OutputFiles};
use deft_pin_core::markup::{Document, NodeId, Slot, parse};
use deft_pin_core::page::{ContentOutcome, SiteContext};
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Site;
use deft_pin_core::source::MemoryFiles;
use encoding_rs::Encoding;
use proptest::prelude::*;

/// A page with the content of a pin, and what came of it.
fn with_content(page: &[u8], keys: &str) -> (Vec<u8>, Vec<ContentOutcome>) {
    let mut files = MemoryFiles::from([("a.css", "p{}")]);
    files.insert("site/page.html", page);
    let board = Board::parse(&format!("[site]\nroot = 'site'\n[pin.p]\n{keys}\n")).unwrap();
    let site = Site::list(&files, &board.root).unwrap();
    let plan = Plan::new(&board, &files);
    let output = OutputFiles::new(&plan, "_pins");
    let context = SiteContext::new(&plan, &site, &files);
    let analysis = context.page(PageId::FIRST, page);
    // However it was made, its tree is the one that the parser makes of its bytes.
    let (_, read) = parse(&analysis.parsed().bytes);
    assert_eq!(drawn(analysis.document()), drawn(&read), "{keys}: {}", page.escape_ascii());
    let emitter = Emitter { plan: &plan, files: &output, embedding: Embedding::Linked };
    let bytes = emitter.page(&analysis).bytes().unwrap_or(page).to_vec();
    (bytes, analysis.content().to_vec())
}

/// A tree: each element with its place, its attributes and what it stands in, and the gaps of the slots.
fn drawn(document: &Document) -> String {
    let all: Vec<_> = document.elements().collect();
    let mut out = String::new();
    for element in &all {
        let parent = element.parent().and_then(|parent| all.iter().position(|other| *other == parent));
        let mut attributes: Vec<String> =
            element.attrs.iter().map(|own| format!("{}={}", own.name.local, own.value)).collect();
        attributes.sort();
        out += &format!(
            "{} {:?} {:?} {parent:?} {attributes:?} {:?}\n",
            element.name.local,
            element.origin,
            element.end_tag,
            element.id()
        );
    }
    for slot in Slot::ALL {
        out += &format!("{slot} {:?}\n", document.slots().gap(slot));
    }
    out + &document.text_of(NodeId::DOCUMENT)
}

fn text_of(page: &str, keys: &str) -> String {
    String::from_utf8(with_content(page.as_bytes(), keys).0).unwrap()
}

#[test]
fn markup_and_marks_are_written_where_they_belong() {
    let page = "<!doctype html><body><main id=m class=a><h2>One</h2><ul><li>x<li>y</ul><br></main><p>z";
    let markup = |text: &str, place: &str, at: &str| {
        format!("markup = [{{ text = '{text}', place = '{place}', at = '{at}' }}]")
    };
    for (keys, from, to) in [
        (markup("<i>n</i>", "before", "h2"), "<h2>", "<i>n</i><h2>"),
        (markup("<i>n</i>", "prepend", "h2"), "<h2>", "<h2><i>n</i>"),
        (markup("<i>n</i>", "append", "h2"), "</h2>", "<i>n</i></h2>"),
        (markup("<i>n</i>", "after", "h2"), "</h2>", "</h2><i>n</i>"),
        (markup("<i>n</i>", "replace", "h2"), "<h2>One</h2>", "<i>n</i>"),
        (markup("<div><b></b></div>", "wrap", "h2"), "<h2>One</h2>", "<div><b><h2>One</h2></b></div>"),
        (markup("<li>n", "append", "ul"), "<li>y</ul>", "<li>y</li><li>n</ul>"),
        (markup("<li>n</li>", "after", "li:first-child"), "<li>x<li>y", "<li>x</li><li>n</li><li>y"),
        (markup("<i>n</i>", "after", "br"), "<br>", "<br><i>n</i>"),
        (markup("<i>n</i>", "append", "body"), "<p>z", "<p>z</p><i>n</i>"),
        ("mark = [{ at = 'h2', id = 't' }]".to_owned(), "<h2>", "<h2 id=\"t\">"),
        ("mark = [{ at = 'main', class = 'b' }]".to_owned(), "class=a", "class=\"a b\""),
        ("mark = [{ at = 'main', class = 'a' }]".to_owned(), "", ""),
        ("mark = [{ at = 'h2', class = 'b' }, { at = 'h2', class = 'c b' }]".to_owned(), "<h2>", "<h2 class=\"b c\">"),
        ("mark = [{ at = 'main', class = 'b' }, { at = 'main', class = 'c d' }]".to_owned(), "class=a", "class=\"a b c d\""),
        ("mark = [{ at = 'h2', attributes = { title = '1' } }, { at = 'h2', id = 't', attributes = { title = '2' } }]".to_owned(), "<h2>", "<h2 title=\"1\" id=\"t\">"),
        ("mark = [{ at = 'main', attributes = { class-x = '1' } }, { at = 'main', class = 'b' }]".to_owned(), "<main id=m class=a", "<main class-x=\"1\" id=m class=\"a b\""),
        ("mark = [{ at = 'br', attributes = { data-x = '\"1\"', hidden = true } }]".to_owned(), "<br>", "<br data-x=\"&quot;1&quot;\" hidden>"),
        ("mark = [{ at = 'main', attributes = { title = 'T' } }]".to_owned(), "<main", "<main title=\"T\""),
        ("within = '#t'\nmark = [{ at = 'h2', id = 't' }]\nmarkup = [{ text = '<i>n</i>', place = 'append' }]".to_owned(), "<h2>One", "<h2 id=\"t\">One<i>n</i>"),
        ("within = 'ul'\nmarkup = [{ text = '<i>n</i>', place = 'append', at = 'h2' }]".to_owned(), "", ""),
        ("having = '.nope'\nmark = [{ at = 'h2', id = 't' }]".to_owned(), "", ""),
        ("start = 'after 1s'\nmarkup = [{ text = '<i>n</i>', place = 'append', at = 'h2' }]\nslot = 'foot'".to_owned(), "<p>z", "<p>z<script"),
    ] {
        let meant = if to.ends_with("<script") { page.to_owned() } else { page.replacen(from, to, 1) };
        let is = text_of(page, &keys);
        let is = is.split("<script").next().unwrap_or_default();
        assert_eq!(is, meant, "{keys}");
    }
}

#[test]
fn what_stands_at_one_place_keeps_the_order_of_the_board() {
    let row = |text: &str, place: &str, at: &str| {
        format!("{{ text = '<{text}></{text}>', place = '{place}', at = '{at}' }}")
    };
    let all = [
        row("i", "after", "h2"),
        row("b", "after", "h2"),
        row("u", "append", "main"),
        row("s", "before", "h2"),
        row("q", "before", "h2"),
        row("em", "prepend", "main"),
        row("code", "append", "h2"),
        row("var", "prepend", "h2"),
    ];
    let keys = format!("markup = [{}]", all.join(", "));
    let is = text_of("<!doctype html><body><main><h2></h2></main></body>", &keys);
    let names: Vec<&str> = is
        .split('<')
        .filter(|tag| !tag.starts_with('/'))
        .filter_map(|tag| tag.split_once('>').map(|(name, _)| name))
        .collect();
    assert_eq!(names[2..], ["main", "em", "s", "q", "h2", "var", "code", "i", "b", "u"], "{is}");
}

#[test]
fn pages_in_other_encodings_keep_their_bytes() {
    let text = "<!doctype html><meta charset=ENCODING><body><p id=a>\u{65e5}\u{672c} caf\u{e9}</p><p id=b>x</p></body>";
    for name in ["utf-8", "windows-1252", "iso-2022-jp", "shift_jis", "gb18030", "euc-kr"] {
        let encoding = Encoding::for_label(name.as_bytes()).unwrap();
        let (bytes, ..) = encoding.encode(text);
        let page = bytes.to_vec();
        let page = String::from_utf8_lossy(&page).contains("ENCODING").then(|| {
            let at = page.windows(8).position(|part| part == b"ENCODING").unwrap();
            [&page[..at], name.as_bytes(), &page[at + 8..]].concat()
        });
        let page = page.unwrap();
        for (at, place) in [("#a", "append"), ("#b", "before"), ("#b", "prepend"), ("#a", "after")] {
            let keys = format!(
                "markup = [{{ text = '<i>\u{20ac} \u{3042} \u{1f600}</i>', place = '{place}', at = '{at}' }}]"
            );
            let (out, outcomes) = with_content(&page, &keys);
            assert_eq!(outcomes[0].trouble, None, "{name} {place}");
            let kept = out.iter().zip(&page).take_while(|(a, b)| a == b).count();
            let end = out.iter().rev().zip(page.iter().rev()).take_while(|(a, b)| a == b).count();
            assert!(kept + end >= page.len(), "{name} {place}: {}", out.escape_ascii());
            let (decoded, document) = parse(&out);
            let made = document.elements().find(|element| &*element.data().name.local == "i").unwrap();
            assert_eq!(
                document.text_of(made.id),
                "\u{20ac} \u{3042} \u{1f600}",
                "{name} {place}: {}",
                decoded.text()
            );
            assert_eq!(decoded.encoding(), encoding);
        }
    }
}

proptest! {
    #![proptest_config(crate::odd_pages::config(1500))]

    /// Whatever the page, what is put in is put in as it is written, or not at all.
    #[test]
    fn odd_pages_take_markup_or_leave_it(page in crate::odd_pages::page(), is_framed in any::<bool>(), place in 0..6usize, at in 0..7usize, html in 0..5usize) {
        // Pages that are less odd on the whole take the short way.
        let page = if is_framed { format!("<!doctype html><html><head></head><body><div>{page}</div><p>x</p></body></html>") } else { page };
        let at = ["p", "body", "div, b", ":first-child", "table, td, li", "script, svg, select", "ul, h1, a"][at];
        let place = ["before", "prepend", "append", "after", "replace", "wrap"][place];
        let html = ["<ins>x</ins>", "<div><ins></ins></div>", "x", "<tr><td>x</table>", "<li><ins>x</ins></li>"][html];
        let (out, outcomes) = with_content(page.as_bytes(), &format!("markup = [{{ text = '{html}', place = '{place}', at = '{at}' }}]"));
        let is_put = outcomes.iter().any(|own| own.trouble.is_none() && own.elements > 0);
        prop_assert_eq!(is_put, out != page.as_bytes(), "{:?} {} {}", page, place, at);
        if is_put && place != "replace" {
            // Without what was put in, the page is the old one.
            let mut rest = page.bytes().peekable();
            for byte in &out {
                if rest.peek() == Some(byte) {
                    rest.next();
                }
            }
            prop_assert!(rest.next().is_none(), "{:?} -> {}", page, out.escape_ascii());
        }
        prop_assert!(!(is_put && html.starts_with("<tr>") && at != "table, td, li"), "{:?} -> {}", page, out.escape_ascii());
        if is_put && html.contains("ins") {
            let count = |bytes: &[u8]| parse(bytes).1.elements().filter(|element| &*element.data().name.local == "ins").count();
            prop_assert_eq!(count(&out), outcomes[0].elements, "{:?} -> {}", page, out.escape_ascii());
        }
    }
}
