//! What is wrong with a piece of markup by itself, before it stands in any page.
//!
//! The tags as they are written, each in the one around it, are held against the tree that a browser makes of them.

use std::collections::{HashMap, HashSet};

use html5ever::LocalName;

use super::misread::{Written, is_of_table, may_stay_open, misread, rows_help};
use super::parse::is_void;
use super::tags::{MarkupPiece, markup_pieces, tag_attributes};
use crate::source::Span;

/// Something that a browser reads otherwise than it looks.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct MarkupFlaw {
    /// Where it stands in the markup.
    pub span: Span,
    /// What a browser makes of it.
    pub message: String,
    /// What to write.
    pub help: String,
}

struct Flaws<'h> {
    html: &'h str,
    found: Vec<MarkupFlaw>,
    elements: Vec<Written>,
    /// Those that are open, by their numbers.
    open: Vec<usize>,
    /// How many of each name are open.
    counts: HashMap<String, usize>,
    /// How many are open that hold a drawing or a formula.
    foreign: usize,
    /// End tags that end nothing as they are written, and whether they come too late for something.
    stray: Vec<(Span, String, bool)>,
    /// Texts, with the element that they are written in.
    texts: Vec<(Span, Option<usize>)>,
}

/// What is wrong with a piece of markup, in the order of its text.
pub fn markup_flaws(html: &str) -> Vec<MarkupFlaw> {
    let mut flaws = Flaws {
        html,
        found: Vec::new(),
        elements: Vec::new(),
        open: Vec::new(),
        counts: HashMap::new(),
        foreign: 0,
        stray: Vec::new(),
        texts: Vec::new(),
    };
    let mut end = 0;
    for (span, piece) in markup_pieces(html) {
        end = span.end as usize;
        match piece {
            MarkupPiece::StartTag { name, is_self_closing } => flaws.start_tag(span, name, is_self_closing),
            MarkupPiece::EndTag { name } => flaws.end_tag(span, name),
            MarkupPiece::Comment => flaws.comment(span),
            MarkupPiece::Text { raw: Some(_) } => {}
            MarkupPiece::Text { raw: None } => {
                flaws.no_tags(span);
                flaws.texts.push((span, flaws.open.last().copied()));
            }
        }
    }
    flaws.doctype();
    flaws.never_ended(end);
    flaws.stray_ends();
    flaws.misplaced_texts();
    for (span, message, help) in misread(html, &flaws.elements) {
        flaws.tell(span, message, help);
    }
    let mut found = flaws.found;
    found.sort_by_key(|flaw| flaw.span);
    found
}

impl Flaws<'_> {
    fn tell(&mut self, span: Span, message: impl Into<String>, help: impl Into<String>) {
        self.found.push(MarkupFlaw { span, message: message.into(), help: help.into() });
    }

    fn start_tag(&mut self, span: Span, name: String, is_self_closing: bool) {
        self.attributes(span);
        let is_foreign = self.foreign > 0;
        if name == "script" && !is_foreign {
            let message =
                "a script does not belong into markup: nothing confines it, and put in later it does not run";
            self.tell(span, message, "put it into the pin's `script`");
        }
        let parent = self.open.last().copied();
        let number = self.elements.len();
        self.elements.push(Written { name: name.clone(), tag: span, parent, end: None, is_cut: false });
        let is_empty = is_void(&LocalName::from(name.as_str())) || name == "image";
        if is_empty && !is_foreign || is_self_closing && (is_foreign || is_foreign_root(&name)) {
            return;
        }
        if is_self_closing {
            let message = format!("the slash does not end a `<{name}>`: a browser leaves it open");
            self.tell(span, message, format!("write `<{name}></{name}>`"));
            return;
        }
        *self.counts.entry(name.clone()).or_default() += 1;
        self.foreign += usize::from(is_foreign_root(&name));
        self.open.push(number);
    }

    fn attributes(&mut self, span: Span) {
        let tag = &self.html[span.range()];
        let mut seen = HashSet::new();
        for own in tag_attributes(tag).1 {
            let name = tag[own.name.range()].to_ascii_lowercase();
            let place = own.name.shifted(span.start as usize);
            if name.contains(['"', '\'', '<', '“', '”']) {
                let message = format!(
                    "`{name}` is read as the name of an attribute: there is a quote too many, or one is missing"
                );
                self.tell(place, message, "a value stands between two quotes of one kind; within them write `&quot;` or the other kind");
            } else if !seen.insert(name.clone()) {
                let message = format!("the tag has `{name}` twice: a browser drops this one");
                self.tell(place, message, format!("write one `{name}` with all of it"));
            }
            let value = own.value.map_or("", |value| &tag[value.range()]);
            if is_boolean(&name)
                && matches!(value.to_ascii_lowercase().as_str(), "false" | "no" | "0" | "off")
            {
                let message = format!("`{name}` says yes wherever it stands, whatever its value is");
                self.tell(place, message, format!("take `{name}` away"));
            }
            if own.quote.is_none() && value.starts_with(['“', '”', '„', '‘', '’', '«']) {
                let message = format!(
                    "`{value}` has typographic quotes, which are no quotes here: a browser takes them into the value"
                );
                self.tell(place, message, format!("write `{name}=\"…\"`"));
            }
        }
    }

    fn end_tag(&mut self, span: Span, name: String) {
        let is_open = self.counts.get(&name).is_some_and(|count| *count > 0);
        let found = is_open.then(|| self.open.iter().rposition(|own| self.elements[*own].name == name));
        let Some(at) = found.flatten() else {
            let mut near = self.elements.iter_mut().rev().take(NEAR);
            let cut = near.find(|own| own.is_cut && own.name == name);
            let is_cut = cut.map(|own| own.end = Some(span)).is_some();
            self.stray.push((span, name, is_cut));
            return;
        };
        let ended: Vec<usize> = self.open.drain(at..).collect();
        for (turn, number) in ended.into_iter().enumerate() {
            let own = self.elements[number].name.clone();
            self.counts.entry(own.clone()).and_modify(|count| *count -= 1);
            self.foreign -= usize::from(is_foreign_root(&own));
            if turn == 0 {
                self.elements[number].end = Some(span);
                continue;
            }
            self.elements[number].is_cut = true;
            if !may_stay_open(&own) {
                let message =
                    format!("this `<{own}>` is still open where `</{name}>` ends what it stands in");
                let help = format!("write `</{own}>` before `</{name}>`");
                self.tell(self.elements[number].tag, message, help);
            }
        }
    }

    fn doctype(&mut self) {
        const DOCTYPE: &str = "<!doctype";
        let blanks = self.html.len() - self.html.trim_start().len();
        let begins = self.html[blanks..].get(..DOCTYPE.len());
        if begins.is_some_and(|begins| begins.eq_ignore_ascii_case(DOCTYPE)) {
            let message = "the page has its own doctype: a browser drops this one";
            self.tell(Span::new(blanks, blanks + DOCTYPE.len()), message, "take it away");
        }
    }

    fn comment(&mut self, span: Span) {
        let text = &self.html[span.range()];
        if text.starts_with("<!--") {
            return;
        }
        let (message, help) = if text.starts_with("<?") || text.starts_with("<%") {
            (
                "this is code for a server, and no server runs it: a browser drops it",
                "write what it is to give",
            )
        } else if text.starts_with("</") {
            ("this is no end tag: a browser drops it", "write its name right behind `</`")
        } else {
            (
                "a browser takes this for a comment, and drops it",
                "a comment begins with `<!--` and ends with `-->`",
            )
        };
        self.tell(span, message, help);
    }

    /// What looks like a tag in a text, and is none.
    fn no_tags(&mut self, span: Span) {
        let text = &self.html[span.range()];
        for (at, _) in text.match_indices('<') {
            let rest = &text[at + 1..];
            let Some(inner) = rest.find('>').map(|end| &rest[..end]) else { continue };
            let place = Span::new(at, at + inner.len() + 2).shifted(span.start as usize);
            let written = inner.trim_start_matches([' ', '\t', '\\']);
            let name = written.strip_prefix('/').unwrap_or(written);
            let length = name.len() - name.trim_start_matches(|c: char| c.is_ascii_alphanumeric()).len();
            let is_name = name.starts_with(|c: char| c.is_ascii_alphabetic())
                && (name.len() == length || name[length..].starts_with([' ', '/']));
            if inner.starts_with('%') {
                let message = "this is code for a server, and no server runs it: a browser shows it as it is";
                self.tell(place, message, "write what it is to give");
            } else if written.len() < inner.len() && is_name {
                let message = format!("`<{inner}>` is no tag: a browser shows it as it is");
                self.tell(place, message, format!("write `<{written}>`"));
            }
        }
    }

    fn never_ended(&mut self, end: usize) {
        let open = std::mem::take(&mut self.open);
        for number in open {
            let Written { name, tag, .. } = &self.elements[number];
            if !may_stay_open(name) {
                let message =
                    format!("this `<{name}>` is never ended: what follows on the page would stand in it");
                let help = format!("write `</{name}>` at its end");
                self.tell(*tag, message, help);
            }
        }
        // A tag or a comment that the text ends in is dropped, with all of it.
        let html = self.html;
        if let Some(at) = html.get(end..).and_then(|rest| rest.find('<')) {
            let message = "the text ends in the middle of a tag, which a browser drops";
            self.tell(Span::new(end + at, html.len()), message, "write its `>`");
        }
        if let Some(at) = html.rfind("<!--").filter(|at| !html[*at..].contains("-->")) {
            let message = "this comment is never ended: it takes up what follows on the page";
            self.tell(Span::new(at, at + 4), message, "write `-->` at its end");
        }
    }

    fn stray_ends(&mut self) {
        for (span, name, is_cut) in std::mem::take(&mut self.stray) {
            // What has to have an end tag was told where it was cut.
            if is_cut && !may_stay_open(&name) {
                continue;
            }
            // These two make an element by themselves.
            let (message, help) = if is_cut {
                (
                    format!(
                        "this `</{name}>` ends a `<{name}>` that was begun in an element which is over by now"
                    ),
                    "end the inner element before the outer one",
                )
            } else if matches!(name.as_str(), "br" | "p") {
                (
                    format!("`</{name}>` ends nothing that is open here: a browser makes a `<{name}>` of it"),
                    STRAY,
                )
            } else {
                (format!("`</{name}>` ends nothing that is open here: a browser drops it"), STRAY)
            };
            self.tell(span, message, help);
        }
    }

    fn misplaced_texts(&mut self) {
        for (span, around) in std::mem::take(&mut self.texts) {
            let Some(around) = around.map(|at| self.elements[at].name.as_str()) else { continue };
            if is_of_table(around) && !self.html[span.range()].trim().is_empty() {
                let message =
                    format!("text cannot stand in a `<{around}>`: a browser moves it out, before the table");
                let help = rows_help(around);
                self.tell(span, message, help);
            }
        }
    }
}

/// How many elements back an end tag is looked after that comes too late for one.
const NEAR: usize = 200;

const STRAY: &str = "take it away, or write the start tag";

/// Elements whose contents are drawings or formulas.
fn is_foreign_root(name: &str) -> bool {
    matches!(name, "svg" | "math")
}

/// Attributes that say yes by being there (HTML, "boolean attributes"), and those of a keyword that says yes for any
/// other value.
fn is_boolean(name: &str) -> bool {
    matches!(
        name,
        "allowfullscreen"
            | "async"
            | "autofocus"
            | "autoplay"
            | "checked"
            | "controls"
            | "default"
            | "defer"
            | "disabled"
            | "formnovalidate"
            | "hidden"
            | "inert"
            | "ismap"
            | "loop"
            | "multiple"
            | "muted"
            | "nomodule"
            | "novalidate"
            | "open"
            | "playsinline"
            | "readonly"
            | "required"
            | "reversed"
            | "selected"
    )
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
            ("<b>a<p>b</b>c</p>", "begun in an element which is over"),
            ("<p>a<div>b</div></p>", "`<div>` cannot stand in a `<p>`: a browser ends the `<p>`"),
            ("<p>a<ul><li>b</ul></p>", "`<ul>` cannot stand in a `<p>`"),
            ("<p>a<ul><li>b</ul>", ""),
            ("<p>a<table><tr><td>b</table></p>", "`<table>` cannot stand in a `<p>`"),
            ("<p><b>a<div>b</div></b></p>", "`<div>` cannot stand in a `<p>`"),
            ("<a href=/a>a <a href=/b>b</a></a>", "`<a>` cannot stand in a `<a>`"),
            ("<a href=/a><span><a href=/b>b</a></span></a>", "`<a>` cannot stand in a `<"),
            ("<button>a <button>b</button></button>", "`<button>` cannot stand in a `<button>`"),
            ("<button><a href=/x>a</a></button>", ""),
            ("<h2>a<h3>b</h3></h2>", "`<h3>` cannot stand in a `<h2>`"),
            ("<form><form></form></form>", "drops this `<form>`"),
            (
                "<table><div>a</div><tr><td>b</table>",
                "`<div>` cannot stand in a `<table>`: a browser moves it",
            ),
            ("<table><tr><p>a</p><td>b</td></tr></table>", "`<p>` cannot stand in a `<tr>`"),
            ("<table>a<tr><td>b</table>", "text cannot stand in a `<table>`"),
            ("<table><td>a</td></table>", ""),
            ("<table> <tr> <td>a</td> </tr> </table>", ""),
            ("<table><caption>a</caption><col><thead><tr><th>a<tbody><tr><td>b</table>", ""),
            ("<table><tr><td><table><tr><td>a</table><p>b</table>", ""),
            ("<tr><td>a</td></tr>", ""),
            ("<ul><div>a</div></ul>", ""),
            ("<ul><li><p>a<ul><li>b</ul></li></ul>", ""),
            ("<ul><li><p>a<ul><li>b</ul></p></li></ul>", "`<ul>` cannot stand in a `<p>`"),
            ("<dl><dt>a<dd>b<p>c<dd>d</dl>", ""),
            ("<select><option>a<option>b</select>", ""),
            ("<svg><g><path d=''/></g><foreignObject><div>a</div></foreignObject></svg>", ""),
            ("<svg><div>a</div></svg>", "`<div>` cannot stand in a `<svg>`"),
            ("<template><tr><td>a</td></tr></template>", ""),
            ("<details><summary>a</summary><p>b</p></details>", ""),
            ("<p>a <span>b <em>c</em></span></p>", ""),
            ("<image src=a.png>", ""),
            ("<body><p>a</p></body>", "drops this `<body>`"),
            ("<!doctype html><p>a</p>", "doctype"),
            ("<div class=“box”>a</div>", "typographic quotes"),
            ("<div style='a' \"bold\">a</div>", "quote too many"),
            ("<p onclick=\"go(\"a\")\">a</p>", "quote too many"),
            ("<div id=\"x\"class=\"y\"></div>", ""),
            ("< div>a", "is no tag"),
            ("<div>a<\\/div></div>", "is no tag"),
            ("<p>5 < 6 and 7 > 3</p>", ""),
            ("<?php echo 1 ?>", "for a server"),
            ("<% x %>", "for a server"),
            ("<div>a</ div></div>", "no end tag"),
            ("<p title=a<b>x</p>", ""),
            ("<p hidden=false>x</p>", "says yes"),
            ("<input disabled=\"false\">", "says yes"),
            ("<p hidden=until-found>x</p>", ""),
            ("<p aria-hidden=false draggable=false>x</p>", ""),
            ("<em><strong>a</em></strong>", "<strong>` is still open"),
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
