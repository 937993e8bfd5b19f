//! What is wrong with a piece of markup by itself, before it stands in any page.

use std::collections::{HashMap, HashSet};

use crate::markup::{LocalName, MarkupPiece, is_void, markup_pieces, tag_attributes};
use crate::source::Span;

/// Something that a browser reads otherwise than it looks.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct MarkupFlaw {
    pub(super) span: Span,
    pub(super) message: String,
    pub(super) help: String,
}

/// What is wrong with a piece of markup, in the order of its text.
pub(super) fn markup_flaws(html: &str) -> Vec<MarkupFlaw> {
    let mut flaws = Vec::new();
    let mut flaw = |span, message: String, help: String| flaws.push(MarkupFlaw { span, message, help });
    let mut open: Vec<(String, Span)> = Vec::new();
    // How many of each name are open, and how many that hold other elements than a page's.
    let mut counts: HashMap<String, usize> = HashMap::new();
    let mut foreign = 0;
    let mut end = 0;
    for (span, piece) in markup_pieces(html) {
        end = span.end as usize;
        match piece {
            MarkupPiece::StartTag { name, is_self_closing } => {
                twice(html, span, &mut flaw);
                let is_foreign = foreign > 0;
                if name == "script" && !is_foreign {
                    let message = "a script does not belong into markup: nothing confines it, and put in later it does not run";
                    flaw(span, message.to_owned(), "put it into the pin's `script`".to_owned());
                }
                if is_void(&LocalName::from(name.as_str())) && !is_foreign
                    || is_self_closing && (is_foreign || name == "svg" || name == "math")
                {
                    continue;
                }
                if is_self_closing {
                    let message = format!("the slash does not end a `<{name}>`: a browser leaves it open");
                    flaw(span, message, format!("write `<{name}></{name}>`"));
                    continue;
                }
                *counts.entry(name.clone()).or_default() += 1;
                foreign += usize::from(is_foreign_root(&name));
                open.push((name, span));
            }
            MarkupPiece::EndTag { name } => {
                let is_open = counts.get(&name).is_some_and(|count| *count > 0);
                let found = is_open.then(|| open.iter().rposition(|(own, _)| *own == name)).flatten();
                let Some(at) = found else {
                    // These two make an element by themselves.
                    let makes = if matches!(name.as_str(), "br" | "p") {
                        format!("a browser makes a `<{name}>` of it")
                    } else {
                        "a browser drops it".to_owned()
                    };
                    flaw(
                        span,
                        format!("`</{name}>` ends nothing that is open here: {makes}"),
                        "take it away, or write the start tag".to_owned(),
                    );
                    continue;
                };
                let ended: Vec<(String, Span)> = open.drain(at..).collect();
                for (own, _) in &ended {
                    counts.entry(own.clone()).and_modify(|count| *count -= 1);
                    foreign -= usize::from(is_foreign_root(own));
                }
                for (inner, start) in ended.into_iter().skip(1).filter(|(inner, _)| !may_stay_open(inner)) {
                    let message =
                        format!("this `<{inner}>` is still open where `</{name}>` ends what it stands in");
                    flaw(start, message, format!("write `</{inner}>` before `</{name}>`"));
                }
            }
            MarkupPiece::Text { .. } | MarkupPiece::Comment => {}
        }
    }
    for (name, start) in open.into_iter().filter(|(name, _)| !may_stay_open(name)) {
        let message = format!("this `<{name}>` is never ended: what follows on the page would stand in it");
        flaw(start, message, format!("write `</{name}>` at its end"));
    }
    // A tag or a comment that the text ends in is dropped, with all of it.
    if let Some(at) = html.get(end..).and_then(|rest| rest.find('<')) {
        let span = Span::new(end + at, html.len());
        flaw(
            span,
            "the text ends in the middle of a tag, which a browser drops".to_owned(),
            "write its `>`".to_owned(),
        );
    }
    if let Some(at) = html.rfind("<!--").filter(|at| !html[*at..].contains("-->")) {
        let span = Span::new(at, at + 4);
        flaw(
            span,
            "this comment is never ended: it takes up what follows on the page".to_owned(),
            "write `-->` at its end".to_owned(),
        );
    }
    flaws.sort_by_key(|flaw| flaw.span);
    flaws
}

fn twice(html: &str, span: Span, flaw: &mut impl FnMut(Span, String, String)) {
    let tag = &html[span.range()];
    let mut seen = HashSet::new();
    for own in tag_attributes(tag).1 {
        let name = tag[own.name.range()].to_ascii_lowercase();
        if !seen.insert(name.clone()) {
            let place = own.name.shifted(span.start as usize);
            let message = format!("the tag has `{name}` twice: a browser drops this one");
            flaw(place, message, format!("write one `{name}` with all of it"));
        }
    }
}

/// Elements whose contents are drawings or formulas.
fn is_foreign_root(name: &str) -> bool {
    matches!(name, "svg" | "math")
}

/// Elements whose end tag may be left out (HTML, "optional tags").
fn may_stay_open(name: &str) -> bool {
    const OPTIONAL: [&str; 19] = [
        "html", "head", "body", "li", "dt", "dd", "p", "rt", "rp", "optgroup", "option", "colgroup",
        "caption", "thead", "tbody", "tfoot", "tr", "td", "th",
    ];
    OPTIONAL.contains(&name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_browser_reads_otherwise_is_known() {
        for (html, expected) in [
            ("<p>a <b>b</b></p>", ""),
            ("<ul><li>a<li>b</ul>", ""),
            ("<p>a<p>b", ""),
            ("<br><img src=x>", ""),
            ("<svg><path d=''/></svg>", ""),
            ("<table><tr><td>a</table>", ""),
            ("a &lt; b", ""),
            ("a < b", ""),
            ("1 <", ""),
            ("<div><b>a</div>", "<b>` is still open"),
            ("<div>a", "<div>` is never ended"),
            ("a</div>", "`</div>` ends nothing"),
            ("<div/>a", "slash does not end"),
            ("<p class=a CLASS=b>", "twice"),
            ("<script>go()</script>", "script does not belong"),
            ("<b>a<i>b</b>c</i>", "<i>` is still open"),
            ("<p>a<!-- b", "comment is never ended"),
            ("<a href='x", "middle of a tag"),
            ("<style>a > b {}</style>", ""),
            ("<textarea><b></textarea>", ""),
        ] {
            let found = markup_flaws(html);
            match expected {
                "" => assert_eq!(found, [], "{html}"),
                part => assert!(
                    found.first().is_some_and(|flaw| flaw.message.contains(part)),
                    "{html}: {found:?}"
                ),
            }
        }
    }
}
