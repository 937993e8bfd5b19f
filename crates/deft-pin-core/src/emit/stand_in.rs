//! A stand-in for the host: a page as it is served once the boxes are filled, what does not survive taken out, names
//! rewritten.

use html5ever::local_name;

use super::by_hand::ByHand;
use super::paste_up::PasteUp;
use super::piece::{Piece, PiecePart};
use super::tags::escaped;
use crate::board::{BoxReach, BoxTakes, Host, literal};
use crate::code::PageId;
use crate::markup::{
    Assume, Gap, InsertionPoint, MarkupPiece, Matcher, markup_pieces, parse_selectors, tag_attributes,
};
use crate::page::PageAnalysis;
use crate::source::Span;
use crate::style::{AtRuleKind, Edit, Item, Rule, Sheet, apply};

/// What is written into a page at one place.
struct Filling {
    at: u32,
    gap: Gap,
    text: String,
}

/// The bytes of a page as the host of the board serves it with a paste-up in its boxes. `page` is the page as it
/// stands without the board's pins: its bytes, its tree and its slots.
pub fn as_served(page: &PageAnalysis<'_>, host: &Host, paste_up: &PasteUp) -> Vec<u8> {
    let parsed = page.parsed();
    let mut fillings: Vec<Filling> = Vec::new();
    let mut inserted = Vec::new();
    for piece in &paste_up.pieces {
        if piece.of.reach == BoxReach::Page && !piece.pages.contains(&page.id) {
            continue;
        }
        let text = shown(piece, host, page.id);
        if text.is_empty() {
            continue;
        }
        if host.inserts {
            inserted.push((piece.of.place.name(), text));
            continue;
        }
        let at = piece.of.place.slot().map_or(InsertionPoint::Block, InsertionPoint::Slot);
        let Some(gap) = page.gap(at) else { continue };
        let text = match host.is_framed {
            true => framed(&text, host),
            false => text,
        };
        match fillings.iter_mut().find(|own| own.at == gap.at) {
            Some(filling) => filling.text.push_str(&text),
            None => fillings.push(Filling { at: gap.at, gap: gap.clone(), text }),
        }
    }
    if !inserted.is_empty()
        && let Some(gap) = page.gap(InsertionPoint::Slot(crate::markup::Slot::HeadStart))
    {
        fillings.push(Filling { at: gap.at, gap: gap.clone(), text: loader(&inserted) });
    }
    let mut edits: Vec<Edit> = marks(page, host, &paste_up.by_hand);
    let mut has_body = false;
    fillings.sort_by_key(|filling| filling.at);
    edits.extend(fillings.into_iter().map(|filling| {
        let body = match filling.gap.opens_body && !std::mem::replace(&mut has_body, true) {
            true => "<body>",
            false => "",
        };
        Edit {
            span: Span::at(filling.at as usize),
            text: format!("{}{body}{}", filling.gap.closers.0, filling.text),
        }
    }));
    let text = apply(page.text(), edits);
    match parsed.decoded.encode(&text) {
        Some(bytes) => bytes.into_owned(),
        // What the page's encoding has no character for, the host writes in its own way.
        None => text.into_bytes(),
    }
}

/// The text of a piece as it comes out of the host on a page.
fn shown(piece: &Piece, host: &Host, page: PageId) -> String {
    let is_shown =
        |own: &&PiecePart| own.shown_on.as_ref().is_none_or(|pages| pages.binary_search(&page).is_ok());
    let text: String = piece.parts.iter().filter(is_shown).map(|own| own.shown.as_str()).collect();
    if text.is_empty() {
        return text;
    }
    let text = surviving(&text, piece.of.takes, host);
    match piece.of.takes {
        BoxTakes::Html => text,
        BoxTakes::Css => format!("<style data-deft-pin>{text}</style>"),
        BoxTakes::Js => format!("<script data-deft-pin>{text}</script>"),
    }
}

/// What of a text for a box survives on a host, by all that the board says of it.
pub fn surviving(text: &str, takes: BoxTakes, host: &Host) -> String {
    match takes {
        BoxTakes::Html => stripped(text, host),
        BoxTakes::Css => without_at_rules(text, host),
        BoxTakes::Js => text.to_owned(),
    }
}

/// A text of HTML as a host leaves it: without tags and attributes that do not survive.
fn stripped(text: &str, host: &Host) -> String {
    let strips = &host.strips;
    if strips.is_empty() && host.class_names.rewritten("A b") == "A b" {
        return text.to_owned();
    }
    let mut edits = Vec::new();
    let mut gone: Option<String> = None;
    for (span, piece) in markup_pieces(text) {
        match piece {
            MarkupPiece::StartTag { name, .. } => {
                if strips.has_tag(&name) {
                    edits.push(Edit { span, text: String::new() });
                    gone = matches!(name.as_str(), "script" | "style" | "iframe").then_some(name);
                    continue;
                }
                let tag = &text[span.range()];
                for own in tag_attributes(tag).1 {
                    let attribute = &tag[own.name.range()];
                    let end =
                        own.value.map_or(own.name.end, |value| value.end + u32::from(own.quote.is_some()));
                    let whole = Span { start: span.start + own.name.start, end: span.start + end };
                    if strips.has_attribute(attribute) {
                        edits.push(Edit { span: whole, text: String::new() });
                    } else if let Some(value) = own.value.filter(|_| attribute.eq_ignore_ascii_case("class"))
                    {
                        let value = Span { start: span.start + value.start, end: span.start + value.end };
                        let text = host.class_names.rewritten(&text[value.range()]);
                        edits.push(Edit { span: value, text });
                    }
                }
            }
            MarkupPiece::EndTag { name } => {
                if strips.has_tag(&name) {
                    edits.push(Edit { span, text: String::new() });
                }
                gone = None;
            }
            MarkupPiece::Text { raw } => {
                if gone.is_some() {
                    edits.push(Edit { span, text: String::new() });
                } else if raw.as_deref() == Some("style") {
                    edits.push(Edit { span, text: without_at_rules(&text[span.range()], host) });
                }
            }
            MarkupPiece::Comment => {}
        }
    }
    apply(text, edits)
}

/// A sheet as a host leaves it.
fn without_at_rules(text: &str, host: &Host) -> String {
    let sheet = Sheet::parse(text);
    let mut edits = Vec::new();
    let mut waiting: Vec<&Rule> = sheet.rules.iter().collect();
    while let Some(rule) = waiting.pop() {
        let items = match rule {
            Rule::At(at) if host.strips.has_at_rule(&at.name) => {
                edits.push(Edit { span: at.span, text: String::new() });
                continue;
            }
            Rule::At(at) if at.kind() == AtRuleKind::Keyframes => continue,
            Rule::At(at) => at.block.as_ref().map(|block| &block.items),
            Rule::Style(style) => Some(&style.block.items),
        };
        waiting.extend(items.into_iter().flatten().filter_map(|item| match item {
            Item::Rule(rule) => Some(rule),
            Item::Declaration(_) => None,
        }));
    }
    apply(text, edits)
}

/// A block in a frame of its own.
fn framed(text: &str, host: &Host) -> String {
    format!(
        "<iframe data-deft-pin sandbox=\"{}\" srcdoc=\"{}\"></iframe>",
        escaped(&host.frame.join(" ")),
        escaped(text)
    )
}

/// What puts pieces in at run time: it waits for the page to go on, and then appends one after the other. Scripts among
/// them are made anew, since those that `innerHTML` makes do not run.
fn loader(pieces: &[(&str, String)]) -> String {
    let rows: Vec<String> =
        pieces.iter().map(|(place, text)| format!("[{}, {}]", literal(place), literal(text))).collect();
    format!(
        "<script data-deft-pin=\"waits\">(function (own, pieces) {{ setTimeout(function () {{ own.setAttribute(\"data-deft-pin\", \"\"); pieces.forEach(function (piece) {{ \
         var box = document.createElement(\"template\"); box.innerHTML = piece[1]; \
         var to = piece[0] === \"head\" || piece[0] === \"head-start\" || !document.body ? document.head : document.body; \
         Array.prototype.slice.call(box.content.childNodes).forEach(function (node) {{ \
         if (node.nodeName === \"SCRIPT\") {{ var made = document.createElement(\"script\"); \
         Array.prototype.forEach.call(node.attributes, function (own) {{ made.setAttribute(own.name, own.value); }}); made.text = node.text; node = made; }} \
         if (node.nodeType === 1) {{ to.appendChild(node); }} }}); }}); }}, 0); }})(document.currentScript, [{}]);</script>",
        rows.join(", ")
    )
}

/// Marks that were given by hand, as the editor of the host writes them.
fn marks(page: &PageAnalysis<'_>, host: &Host, by_hand: &[ByHand]) -> Vec<Edit> {
    let document = page.document();
    let mut matcher = Matcher::new();
    let mut edits = Vec::new();
    let mut given: Vec<(crate::markup::NodeId, String)> = Vec::new();
    for mark in by_hand.iter().filter(|mark| mark.page == page.id) {
        let Ok(list) = parse_selectors(&mark.selector) else { continue };
        for element in document.elements() {
            if !matcher.matches_any(&list, element, Assume::May) {
                continue;
            }
            let Some(tag) = document.start_tag(element) else { continue };
            let written = &page.text()[tag.range()];
            let (name_end, attributes) = tag_attributes(written);
            let at = |place: u32| Span::at((tag.start + place) as usize);
            if let Some(id) = mark.id.as_ref().filter(|_| element.id().is_none()) {
                let text = format!(" id=\"{}\"", escaped(id));
                edits.push(Edit { span: at(name_end as u32), text });
            }
            let Some(class) = &mark.class else { continue };
            let class = host.class_names.rewritten(class);
            // Nobody gives the same class twice.
            let given_now = (element.id, class.clone());
            if element.classes().any(|own| own == class) || given.contains(&given_now) {
                continue;
            }
            given.push(given_now);
            let own = attributes.iter().find(|own| written[own.name.range()].eq_ignore_ascii_case("class"));
            match own.and_then(|own| own.value.map(|value| (value, own.quote.is_some()))) {
                Some((value, false)) => {
                    let span = Span { start: tag.start + value.start, end: tag.start + value.end };
                    let own = &page.text()[span.range()];
                    edits.push(Edit { span, text: format!("\"{own} {}\"", escaped(&class)) });
                }
                Some((value, true)) => {
                    let blank =
                        if element.attr(&local_name!("class")).is_none_or(str::is_empty) { "" } else { " " };
                    edits.push(Edit { span: at(value.end), text: format!("{blank}{}", escaped(&class)) });
                }
                None => edits.push(Edit {
                    span: at(name_end as u32),
                    text: format!(" class=\"{}\"", escaped(&class)),
                }),
            }
        }
    }
    edits
}
