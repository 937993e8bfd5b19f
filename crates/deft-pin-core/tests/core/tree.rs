//! The tree that the adapter builds is the one that html5ever builds alone, and the places that
//! its elements know are those of their tags.

use crate::drawing::{draw_alone, draw_ours};
use deft_pin_core::markup::{ElementRef, Origin, parse};
use proptest::prelude::*;

/// Holds the tree and the places of one page against what must be so.
fn hold(bytes: &[u8]) {
    let (decoded, document) = parse(bytes);
    let text = decoded.text();
    assert_eq!(draw_ours(&document), draw_alone(text), "{text:?}");
    for element in document.elements() {
        let Origin::Tag(span) = element.origin else { continue };
        let tag = &text[span.range()];
        let name = element.name.local.to_ascii_lowercase();
        let written = tag[1..].to_ascii_lowercase().replace('\0', "\u{fffd}");
        assert!(tag.starts_with('<') && tag.ends_with('>'), "{tag:?} for {name} in {text:?}");
        assert!(
            written.starts_with(&*name) || (&*name == "img" && written.starts_with("image")),
            "{tag:?} for {name} in {text:?}"
        );
        if let Some(end) = element.end_tag {
            assert!(end.start >= span.end, "{text:?}");
            assert!(
                text[end.range()].to_ascii_lowercase().starts_with(&format!("</{}", &written[..1])),
                "{text:?}"
            );
        }
    }
}

proptest! {
    #![proptest_config(crate::odd_pages::config(1500))]

    #[test]
    fn the_tree_is_that_of_html5ever_alone(page in crate::odd_pages::page()) {
        hold(page.as_bytes());
    }

    #[test]
    fn any_bytes_make_a_tree(bytes in proptest::collection::vec(any::<u8>(), 0..300)) {
        hold(&bytes);
    }
}

#[test]
fn pages_that_people_write_wrong() {
    for page in [
        "",
        "<",
        "</",
        "<!",
        "<p",
        "<p a",
        "<p a=",
        "<p a='",
        "<!--",
        "<!-->",
        "<!--->x",
        "text",
        "&amp;&nosuch;&#0;&#x80;",
        "<p a=1 A=2 a=3>",
        "</p a=1>",
        "<br/></br></p>",
        "\u{feff}<p>",
        "a\0b<p\0>c\0</p\0>",
        "<script>\0</script>",
        "<b><p>x</b>y</p><b>",
        "<a href=1>x<a href=2>y</a>",
        "<table><tr><td><div></table></div>x",
        "<table>x<tr>y<td>z",
        "<table><b><tr><td>c</table>d",
        "<svg><foreignobject><p>x</svg>y<image><image/>",
        "<svg><p>out<![CDATA[x]]>",
        "<math><mi><p>a</mi><![CDATA[<b>]]>",
        "<select><option>a<option>b</select>",
        "<frameset><frame></frameset>x",
        "<p>x<frameset>",
        "<template><tr><td>x</template>y",
        "<head></head><title>t</title>x",
        "<textarea>\n</p></textarea>",
        "<pre>\n\nx</pre>",
        "<pre>\r\nx\ry</pre>",
        "<title>a</b></title>",
        "<script><!--<script></script>--></script>x",
        "<script><!--</script>",
        "<noscript><p>x</noscript>",
        "<plaintext></plaintext>",
        "<body a=1><body b=2></body><p>x</html><body c=3>",
        "<html a=1><head b=1><html c=2>",
        "<!doctype html SYSTEM 'x'><p><table>",
        "<ruby>a<rt>b<rp>c</ruby>",
        "<dl><dt>a<dd>b</dl>",
        "<h1>a<h2>b</h1>",
        "<button><button>",
        "<form><form></form></form>",
        "<nobr>a<nobr>b",
        "<font size=1><table><font color=2>",
        "<li>a<li>b</ul></li>",
        "<object><p></object></p>",
        "<div>a<template shadowrootmode=open><p>x<div><template shadowrootmode=open>y</template></div></template>b</div>",
        "<div><template shadowrootmode=x></template></div><template><p><template shadowrootmode=open>",
        "<div><template shadowrootmode=closed></template><template shadowrootmode=open>x</template></div>",
        "<p\x0cid=a\x0c>b",
        "<p id=&lt;&ampx=&amp;>",
    ] {
        hold(page.as_bytes());
    }
}

#[test]
fn end_tags_belong_to_the_elements_they_close() {
    let html = "<!doctype html><main><ul><li id=a>one<li id=b>two</li></ul><p id=c>x<p id=d>y</p>\
        <div id=e><table><tr><td id=f></div>z</td></table></div><b id=g>q</b><svg id=h><g id=i></g></svg></main>";
    let (_, document) = parse(html.as_bytes());
    let ended = |wanted: &str| {
        let found: ElementRef<'_> = document.elements().find(|e| e.data().id() == Some(wanted)).unwrap();
        found.data().end_tag.map(|span| (span.start as usize, &html[span.range()]))
    };
    let at = |text: &str, nth: usize| html.match_indices(text).nth(nth).unwrap();
    assert_eq!(ended("a"), None);
    assert_eq!(ended("b"), Some(at("</li>", 0)));
    assert_eq!(ended("c"), None);
    assert_eq!(ended("d"), Some(at("</p>", 0)));
    assert_eq!(ended("e"), Some(at("</div>", 1)));
    assert_eq!(ended("f"), Some(at("</td>", 0)));
    assert_eq!(ended("g"), Some(at("</b>", 0)));
    assert_eq!(ended("h"), Some(at("</svg>", 0)));
    assert_eq!(ended("i"), Some(at("</g>", 0)));
}

#[test]
fn a_late_meta_changes_the_encoding_and_places_stay_true() {
    let filler = "<!-- filler -->".repeat(100);
    let mut bytes = format!("<!doctype html>{filler}<meta charset=windows-1251><p id=x>").into_bytes();
    bytes.extend(b"\xcf\xf0\xe8\xf1\xf2\xe0\xed\xfc</p>");
    let (decoded, document) = parse(&bytes);
    let paragraph = document.elements().find(|e| e.data().id() == Some("x")).unwrap();
    assert_eq!(document.text_of(paragraph.id), "Пристань");
    let end = decoded.origin_span(paragraph.end_tag.unwrap());
    assert_eq!(&bytes[end.range()], b"</p>");
}

#[test]
fn pages_made_to_exhaust_a_parser_get_an_answer() {
    let clones = format!(
        "<p>{}</p>{}",
        (0..3000).map(|n| format!("<b id=b{n}>")).collect::<String>(),
        "<p>x</p>".repeat(3000)
    );
    for page in [
        "<div>".repeat(100_000),
        "<b><p>".repeat(50_000),
        "<table><tr><td>".repeat(30_000),
        "<svg>".repeat(100_000),
        clones,
    ] {
        let (_, document) = parse(page.as_bytes());
        assert!(document.elements().count() <= page.len() + 2000);
        assert!(document.elements().all(|e| std::iter::successors(Some(e), |e| e.parent()).count() < 3000));
    }
}
