//! A page's text to its tree: html5gum cuts it into tokens and says where each stands,
//! html5ever's tree builder makes the tree of them.
//!
//! It is long since it is the one adapter between two crates: every kind of token has its arm, and all
//! of them share where the parser stands.

use std::collections::HashMap;
use std::convert::Infallible;

use html5ever::interface::TreeSink;
use html5ever::tendril::StrTendril;
use html5ever::tokenizer::states::RawKind;
use html5ever::tokenizer::{Doctype, Tag, TagKind, Token as TreeToken, TokenSink, TokenSinkResult};
use html5ever::tree_builder::{TreeBuilder, TreeBuilderOpts};
use html5ever::{Attribute, LocalName, QualName, local_name, ns};
use html5gum::emitters::callback::{Callback, CallbackEmitter, CallbackEvent};
use html5gum::{Emitter, ForwardingEmitter, Span as TokenSpan, State, Tokenizer};

use super::document::{Document, NodeId, Origin};
use super::sink::{ArenaSink, BuilderHandles, Open, Token};
use super::slots::{Closers, Gap, Slots, can_be_closed, holds_raw_text, is_trap};
use crate::source::{Decoded, Span, offset};

/// Parses a page. Any text gives a tree: the one that a browser builds with scripting on.
///
/// Spans in the tree count bytes of the decoded text; [`Decoded::origin_span`] leads from there
/// to the bytes of the file.
pub fn parse<'a>(bytes: &'a [u8]) -> (Decoded<'a>, Document) {
    let decoded = Decoded::html(bytes);
    let (document, label) = parse_text(decoded.text());
    if let Some(label) = label
        && let Some(again) = decoded.html_as(bytes, &label)
    {
        let (document, _) = parse_text(again.text());
        return (again, document);
    }
    (decoded, document)
}

/// Parses a decoded text; also gives the label of the first `<meta>` that names an encoding.
fn parse_text(text: &str) -> (Document, Option<StrTendril>) {
    let mut emitter = TreeEmitter(CallbackEmitter::new(Adapter::new(text)));
    // The tokenizer takes its emitter by value, so it is lent a reference that forwards.
    let Ok(()) = Tokenizer::new_with_emitter(text, Lent(&mut emitter)).finish();
    let adapter = std::mem::replace(emitter.0.callback_mut(), Adapter::new(""));
    adapter.into_document()
}

/// How deep elements may be inside each other, as in Chromium; what is deeper is put beside.
const DEEPEST: usize = 512;
/// Nodes that a page may have besides one for each byte of its text.
const SPARE_NODES: usize = 1000;

/// Elements that hold nothing and have no end tag (HTML, "void elements").
pub fn is_void(name: &LocalName) -> bool {
    matches!(
        *name,
        local_name!("area")
            | local_name!("base")
            | local_name!("br")
            | local_name!("col")
            | local_name!("embed")
            | local_name!("hr")
            | local_name!("img")
            | local_name!("input")
            | local_name!("link")
            | local_name!("meta")
            | local_name!("source")
            | local_name!("track")
            | local_name!("wbr")
    )
}

/// Between the tokenizer's events and the tree builder's tokens.
struct Adapter<'a> {
    text: &'a str,
    builder: TreeBuilder<NodeId, ArenaSink>,
    /// The start tag that is being read, and where it begins.
    tag: Option<(Tag, u32)>,
    next_state: Option<State>,
    /// Start tags that were dropped and not ended yet.
    dropped: HashMap<LocalName, usize>,
    /// The first `<meta>` that names an encoding: the label, and where the tag ends.
    encoding: Option<(StrTendril, u32)>,
    /// The end of the last whole token.
    token_end: u32,
    /// The end of the last whole token that is not text.
    markup_end: u32,
    /// The start of a comment that the file ends in.
    unclosed: Option<u32>,
    /// Whether the file ends in its document type.
    open_doctype: bool,
    /// Before `</head>`.
    head_gap: Option<Gap>,
    /// Before the `</body>` or `</html>` after which nothing more goes into the body.
    foot: Option<Gap>,
    foot_after_tag: bool,
    eof: Gap,
}

impl<'a> Adapter<'a> {
    fn new(text: &'a str) -> Self {
        Adapter {
            text,
            builder: TreeBuilder::new(ArenaSink::new(), TreeBuilderOpts::default()),
            tag: None,
            next_state: None,
            dropped: HashMap::new(),
            encoding: None,
            token_end: 0,
            markup_end: 0,
            unclosed: None,
            open_doctype: false,
            head_gap: None,
            foot: None,
            foot_after_tag: false,
            eof: Gap::default(),
        }
    }

    fn sink(&self) -> &ArenaSink {
        &self.builder.sink
    }

    fn give(&mut self, token: TreeToken) {
        let meta_end = self.sink().meta_end();
        match self.builder.process_token(token, 1) {
            TokenSinkResult::Continue => {}
            // Scripts do not run here, so there is nothing to wait for.
            TokenSinkResult::Script(_) => self.next_state = Some(State::Data),
            TokenSinkResult::Plaintext => self.next_state = Some(State::PlainText),
            TokenSinkResult::RawData(RawKind::Rcdata) => self.next_state = Some(State::RcData),
            TokenSinkResult::RawData(RawKind::Rawtext) => self.next_state = Some(State::RawText),
            TokenSinkResult::RawData(RawKind::ScriptData | RawKind::ScriptDataEscaped(_)) => {
                self.next_state = Some(State::ScriptData);
            }
            // The tree builder asks a `<link charset>` too; a browser asks `<meta>` alone.
            TokenSinkResult::EncodingIndicator(label) => {
                if let Some(end) = meta_end {
                    self.encoding.get_or_insert((label, end));
                }
            }
        }
    }

    /// Whether a start tag is dropped: past the depth that browsers build too, and past the size
    /// that a text of this length can come to by itself (formatting elements that are opened
    /// again and again multiply).
    fn drops_start_tag(&mut self, name: &LocalName) -> bool {
        let too_many = self.sink().size() > self.text.len() + SPARE_NODES;
        let qualified = QualName::new(None, ns!(html), name.clone());
        let too_deep = self.sink().depth() >= DEEPEST && !holds_raw_text(&qualified) && !is_void(name);
        if too_many || too_deep {
            *self.dropped.entry(name.clone()).or_default() += 1;
        }
        too_many || too_deep
    }

    /// Whether an end tag belongs to a start tag that was dropped.
    fn drops_end_tag(&mut self, name: &LocalName) -> bool {
        match self.dropped.get_mut(name) {
            Some(count) if *count > 0 => {
                *count -= 1;
                true
            }
            _ => false,
        }
    }

    fn give_start_tag(&mut self, tag: Tag, span: Span) {
        if self.drops_start_tag(&tag.name) {
            return;
        }
        // These give their attributes to what is there already; within SVG they are elements.
        let only_attributes = matches!(tag.name, local_name!("html") | local_name!("body"));
        if !only_attributes || self.builder.adjusted_current_node_present_but_not_in_html_namespace() {
            self.foot = None;
        }
        self.sink().begin(Token::Start(tag.name.clone(), span));
        self.give(TreeToken::TagToken(tag));
        self.sink().finish_token();
    }

    fn give_end_tag(&mut self, name: LocalName, span: Span) {
        if self.drops_end_tag(&name) {
            return;
        }
        let ends_page = matches!(name, local_name!("body") | local_name!("html"));
        if name == local_name!("head") && self.head_gap.is_none() && self.sink().body_token.get().is_none() {
            // In a template that is still open, the end tag of a head is ignored.
            self.head_gap = Some(self.gap_before(span.start)).filter(|gap| gap.closers.0.is_empty());
        }
        if !ends_page {
            self.foot = None;
        } else if self.foot.is_none() {
            self.foot = Some(self.gap_before(span.start));
        }
        let ends_head = name == local_name!("head");
        self.sink().begin(Token::End(name.clone(), span));
        self.give(TreeToken::TagToken(Tag {
            kind: TagKind::EndTag,
            name,
            self_closing: false,
            attrs: Vec::new(),
            had_duplicate_attributes: false,
        }));
        self.sink().finish_token();
        if ends_head && self.head_gap.is_some() {
            self.sink().head_ended.set(true);
        }
    }

    fn give_text(&mut self, value: &[u8], span: Span) {
        let blank = |b: &u8| matches!(b, b'\t' | b'\n' | 0x0c | b'\r' | b' ');
        if !value.iter().all(blank) {
            self.foot = None;
        }
        let raw = self.text.as_bytes().get(span.range()).unwrap_or_default();
        let blanks = raw.iter().take_while(|b| blank(b)).count();
        self.sink().begin(Token::Other(span.start + offset(blanks)));
        // Only the data state leaves NULs in the text (HTML, "data state").
        for (at, part) in value.split(|&b| b == 0).enumerate() {
            if at > 0 {
                self.give(TreeToken::NullCharacterToken);
            }
            if !part.is_empty() {
                self.give(TreeToken::CharacterTokens(tendril(part)));
            }
        }
    }

    fn give_comment(&mut self, value: &[u8], span: Span) {
        let raw = self.text.get(span.range()).unwrap_or_default();
        if span.end as usize >= self.text.len() && !ends_comment(raw) {
            self.unclosed = Some(span.start);
        }
        self.sink().begin(Token::Other(span.start));
        self.give(TreeToken::CommentToken(tendril(value)));
    }

    /// The open elements from the outside in, and behind them whatever else the builder holds.
    fn held(&self) -> Vec<Open> {
        let held = BuilderHandles::default();
        self.builder.trace_handles(&held);
        self.sink().describe(&held.into_ids())
    }

    fn gap_before(&self, at: u32) -> Gap {
        Gap { at, closers: self.closers(&self.held()), opens_body: false }
    }

    /// The end tags that lead out of the outermost element in which a script would not run as
    /// the page's own: the contents of a template, SVG and MathML, where a `<script>` is another
    /// element, and elements that hold nothing but text. Nothing where there is none.
    fn closers(&self, held: &[Open]) -> Closers {
        let Some(trap) = held.iter().position(|open| is_trap(&open.name)) else { return Closers::default() };
        let mut inner: Vec<&Open> = vec![&held[trap]];
        // What is held for another reason than being open is not inside, or is there twice.
        for open in &held[trap + 1..] {
            if self.sink().is_inside(open.id, held[trap].id) && inner.iter().all(|other| other.id != open.id)
            {
                inner.push(open);
            }
        }
        // A name that cannot be written in every encoding is left to the end tags around it.
        let names = inner.iter().rev().map(|open| &*open.name.local);
        let plain = names.filter(|name| name.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'-'));
        Closers(plain.map(|name| format!("</{name}>")).collect())
    }

    fn give_eof(&mut self) {
        // The text of a CDATA section ends before the brackets that end the section.
        while self.text.get(self.token_end as usize..).is_some_and(|rest| rest.starts_with("]]>")) {
            self.token_end += 3;
        }
        let held = self.held();
        let raw_text = held.iter().position(|open| holds_raw_text(&open.name));
        let (at, open) = match (raw_text, self.unclosed) {
            // A script that the file ends in never runs, and would if it were closed; plain text
            // cannot be closed. Only before their tags is there a place.
            (Some(place), _) if !can_be_closed(&held[place].name) => (held[place].start, &held[..place]),
            // Other elements of text are closed by the end of the file as by a tag.
            (Some(place), _) => (self.token_end, &held[..=place]),
            (None, Some(comment)) => (comment, &held[..]),
            // A tag that the file breaks off in is dropped; code goes before it.
            (None, None) => (self.token_end, &held[..]),
        };
        // With a tag behind it, this text would be the start of a comment.
        let cut_off = raw_text.is_none() && self.text[..at as usize].ends_with("</");
        let at = if cut_off { at - 2 } else { at };
        let mut closers = self.closers(open);
        if self.open_doctype {
            closers.0.insert(0, '>');
        }
        let text = self.text.get(self.markup_end as usize..).unwrap_or_default();
        let in_cdata = text.rfind("<![CDATA[").is_some_and(|start| !text[start..].contains("]]>"));
        if in_cdata && self.builder.adjusted_current_node_present_but_not_in_html_namespace() {
            closers.0.insert_str(0, "]]>");
        }
        self.eof = Gap { at, closers, opens_body: false };
        self.sink().begin(Token::Other(at));
        self.give(TreeToken::EOFToken);
        self.foot_after_tag = self.foot.is_some();
        self.builder.end();
    }

    fn into_document(self) -> (Document, Option<StrTendril>) {
        let head = self.sink().head_token.get();
        let body = self.sink().body_token.get();
        let late_head = self.sink().late_head.get();
        let plain_foot = self.foot_after_tag && matches!(body, Some(Origin::Tag(_)));
        let foot = self.foot.unwrap_or_else(|| self.eof.clone());
        let implied_body = match body {
            Some(Origin::Implied(at)) => Some(at),
            _ => None,
        };
        // What nothing but the end of the file made stands where the file's last gap is.
        let gap = |at: u32| match at >= self.eof.at {
            true => self.eof.clone(),
            false => Gap { at, closers: Closers::default(), opens_body: false },
        };
        let (head_start, before_body, body_start) = match (head, body) {
            (head, Some(Origin::Tag(body))) => {
                (head, gap(body.start), Gap { at: body.end, ..Gap::default() })
            }
            (head, Some(Origin::Implied(body))) => (head, gap(body), Gap { opens_body: true, ..gap(body) }),
            (head, None) => (head, self.eof.clone(), self.eof.clone()),
        };
        let head_start = match head_start {
            Some(Origin::Tag(span)) => Gap { at: span.end, ..Gap::default() },
            Some(Origin::Implied(at)) => gap(at),
            None => self.eof.clone(),
        };
        let head_end = match self.head_gap {
            Some(gap) if !late_head => gap,
            _ => before_body,
        };
        // A `</body>` that came before there was any body was not its end.
        let foot = if foot.at < body_start.at { self.eof.clone() } else { foot };
        let foot = Gap { opens_body: implied_body.is_some_and(|at| foot.at <= at), ..foot };
        let closed = [&head_end, &foot].iter().all(|gap| gap.closers.0.is_empty());
        let plain = plain_foot && closed && matches!(head, Some(Origin::Tag(_)));
        let (label, meta_end) = self.encoding.unzip();
        let mut slots = Slots {
            gaps: [Some(head_start), Some(head_end), None, None],
            plain,
            meta_end,
            head_tag: matches!(head, Some(Origin::Tag(_))),
            body_tag: matches!(body, Some(Origin::Tag(_))),
        };
        let document = self.builder.sink.finish().into_document(Slots::default());
        if document.body().is_some() {
            slots.gaps[2] = Some(body_start);
            slots.gaps[3] = Some(foot);
        }
        (Document { slots, ..document }, label)
    }
}

fn ends_comment(raw: &str) -> bool {
    if raw.starts_with("<!--") { raw.ends_with("-->") || raw.ends_with("--!>") } else { raw.ends_with('>') }
}

fn tendril(bytes: &[u8]) -> StrTendril {
    // The tokenizer is given valid UTF-8 and cuts it at ASCII characters only.
    match std::str::from_utf8(bytes) {
        Ok(text) => StrTendril::from_slice(text),
        Err(_) => StrTendril::from_slice(&String::from_utf8_lossy(bytes)),
    }
}

fn local_name(bytes: &[u8]) -> LocalName {
    match std::str::from_utf8(bytes) {
        Ok(name) => LocalName::from(name),
        Err(_) => LocalName::from(&*String::from_utf8_lossy(bytes)),
    }
}

impl Callback<Infallible, usize> for Adapter<'_> {
    fn handle_event(&mut self, event: CallbackEvent<'_>, span: TokenSpan<usize>) -> Option<Infallible> {
        let span = Span::new(span.start, span.end);
        match event {
            CallbackEvent::OpenStartTag { name } => {
                let tag = Tag {
                    kind: TagKind::StartTag,
                    name: local_name(name),
                    self_closing: false,
                    attrs: Vec::new(),
                    had_duplicate_attributes: false,
                };
                self.tag = Some((tag, span.start));
                return None;
            }
            // Attributes of end tags come without a start tag, and mean nothing.
            CallbackEvent::AttributeName { name } => {
                if let Some((tag, _)) = &mut self.tag {
                    tag.attrs.push(Attribute {
                        name: QualName::new(None, ns!(), local_name(name)),
                        value: StrTendril::new(),
                    });
                }
                return None;
            }
            CallbackEvent::AttributeValue { value } => {
                if let Some(attribute) = self.tag.as_mut().and_then(|(tag, _)| tag.attrs.last_mut()) {
                    attribute.value = tendril(value);
                }
                return None;
            }
            CallbackEvent::CloseStartTag { self_closing } => {
                if let Some((mut tag, start)) = self.tag.take() {
                    tag.self_closing = self_closing;
                    tag.had_duplicate_attributes = drop_duplicates(&mut tag.attrs);
                    self.give_start_tag(tag, Span { start, end: span.end });
                }
            }
            CallbackEvent::EndTag { name } => self.give_end_tag(local_name(name), span),
            CallbackEvent::String { value } => {
                self.give_text(value, span);
                self.token_end = span.end;
                return None;
            }
            CallbackEvent::Comment { value } => self.give_comment(value, span),
            CallbackEvent::Doctype { name, public_identifier, system_identifier, force_quirks } => {
                let raw = self.text.get(span.range()).unwrap_or_default();
                self.open_doctype = span.end as usize >= self.text.len() && !raw.ends_with('>');
                self.sink().begin(Token::Other(span.start));
                self.give(TreeToken::DoctypeToken(Doctype {
                    name: Some(name).filter(|name| !name.is_empty()).map(tendril),
                    public_id: public_identifier.map(tendril),
                    system_id: system_identifier.map(tendril),
                    force_quirks,
                }));
            }
            CallbackEvent::Error(_) => return None,
        }
        self.token_end = span.end;
        self.markup_end = span.end;
        None
    }
}

/// Keeps the first of several attributes of one name (HTML, "attribute name state"); says whether there were any.
fn drop_duplicates(attrs: &mut Vec<Attribute>) -> bool {
    let before = attrs.len();
    if before > 16 {
        let mut seen = std::collections::HashSet::new();
        attrs.retain(|attribute| seen.insert(attribute.name.local.clone()));
    } else {
        let mut at = 1;
        while at < attrs.len() {
            if attrs[..at].iter().any(|earlier| earlier.name.local == attrs[at].name.local) {
                attrs.remove(at);
            } else {
                at += 1;
            }
        }
    }
    attrs.len() < before
}

/// The emitter that lets the tree builder choose the tokenizer's next state.
struct TreeEmitter<'a>(CallbackEmitter<Adapter<'a>, Infallible, usize>);

/// A tree emitter that is lent to the tokenizer, so that the tree can be taken out afterwards.
struct Lent<'l, 'a>(&'l mut TreeEmitter<'a>);

impl ForwardingEmitter for Lent<'_, '_> {
    type Token = Infallible;

    fn inner(&mut self) -> &mut impl Emitter<Token = Infallible> {
        &mut self.0.0
    }

    fn should_emit_errors(&mut self) -> bool {
        false
    }

    fn emit_eof(&mut self) {
        let inner = &mut self.0.0;
        inner.emit_eof();
        inner.callback_mut().give_eof();
    }

    fn emit_current_tag(&mut self) -> Option<State> {
        let inner = &mut self.0.0;
        let _own_choice = inner.emit_current_tag();
        let state = inner.callback_mut().next_state.take();
        if state.is_some() {
            inner.init_string();
        }
        state
    }

    fn adjusted_current_node_present_but_not_in_html_namespace(&mut self) -> bool {
        let adapter = self.0.0.callback_mut();
        adapter.builder.adjusted_current_node_present_but_not_in_html_namespace()
    }
}
