//! What the document and the window have (HTML, "The Document object", "The Window object").

use super::lookups::local;
use super::machine::WINDOW;
use std::sync::Arc;

use super::machine::{Machine, Run, Turn};
use super::piece::SitePart;
use super::platform::{self};
use super::value::{Absence, Certainty, Doubt, Kind, Value};
use crate::markup::NodeId;
use crate::source::Span;

impl Machine<'_> {
    /// The first `title` of the page at present.
    pub(super) fn title_element(&self) -> Option<NodeId> {
        let mut elements = self.present_document()?.elements();
        elements.find(|own| own.is_html(&html5ever::local_name!("title"))).map(|own| own.id)
    }

    /// `document.title` (HTML, "document.title"): the text of the first `title`, its blanks made one each.
    fn title(&mut self) -> Option<Value> {
        if !self.is_present() || self.presence.vague.texts || self.others_change_texts() {
            return None;
        }
        if self.once("#title", |this| this.world.acts_with("title")) {
            return None;
        }
        let title = self.title_element()?;
        let text = self.present_document()?.text_of(title);
        Some(Value::text(&text.split_ascii_whitespace().collect::<Vec<_>>().join(" ")))
    }

    /// Whether no script and no attribute gives an element the focus (HTML, "document.activeElement").
    fn nothing_has_focus(&mut self) -> bool {
        self.once("#focus", |this| {
            const GIVING: &[&str] = &["focus", "select", "showModal", "click", "showPopover"];
            let is_given = |word: &str| this.text.contains(word) || this.world.acts_with(word);
            let mut elements = this.world.document().elements();
            !GIVING.iter().any(|word| is_given(word))
                && this.world.knows_all()
                && elements.all(|element| element.data().attr(&local("autofocus")).is_none())
        })
    }

    /// The element of a collection that has a name (DOM, "namedItem").
    pub(super) fn named_item(&mut self, of: &str, items: &[Value], key: &str) -> Option<Value> {
        let is_it = |item: &&Value| match self.kind(item) {
            Some(Kind::Element(node)) => self.element_now(*node).is_some_and(|element| {
                let data = element.data();
                data.id() == Some(key) || data.attr(&local("name")) == Some(key)
            }),
            _ => false,
        };
        let found: Vec<Value> = items.iter().filter(is_it).cloned().collect();
        // Of the controls of a form those that share a name come together (HTML, "RadioNodeList").
        if of == "HTMLFormControlsCollection" && found.len() > 1 {
            return Some(self.list("RadioNodeList", found, None));
        }
        found.into_iter().next()
    }

    pub(super) fn document_member(&mut self, key: &str, span: Span) -> Run<Option<Value>> {
        let document = self.world.document();
        let until = self.world.parsed_until().filter(|_| !self.is_later);
        Ok(Some(match key {
            // Nothing is around it, nor beside it.
            "parentNode" | "parentElement" | "nextSibling" | "previousSibling" | "ownerDocument"
            | "nodeValue" | "textContent" => {
                Value::Null(Some(self.absent(Absence::Place { name: key.to_owned() })))
            }
            "body" => match document.body() {
                Some(body) if until.is_some_and(|until| body.data().start() >= until) => {
                    self.nothing("body".to_owned(), span, true)
                }
                Some(body) => {
                    let node = body.id;
                    self.page_element(node)
                }
                None => Value::OPEN,
            },
            "documentElement" | "scrollingElement" => match document.root() {
                Some(root) => {
                    let node = root.id;
                    self.page_element(node)
                }
                None => Value::OPEN,
            },
            "head" => match document.head() {
                Some(head) => {
                    let node = head.id;
                    self.page_element(node)
                }
                None => Value::OPEN,
            },
            "defaultView" => Value::Object(WINDOW),
            "location" => self.location(),
            "readyState" if self.is_later => match self.turn {
                Some(Turn::Parsed) => Value::text("interactive"),
                Some(Turn::Loaded) => Value::text("complete"),
                _ => Value::A_TEXT,
            },
            "readyState" => match until {
                Some(_) => Value::text("loading"),
                None => Value::text("interactive"),
            },
            // What is called back runs in no script (HTML, "document.currentScript").
            "currentScript" if self.turn.is_some() => {
                Value::Null(Some(self.absent(Absence::Place { name: "document.currentScript".to_owned() })))
            }
            "currentScript" if !self.is_later => self.made(Kind::Instance("HTMLScriptElement")),
            "currentScript" => Value::OPEN,
            "cookie" => self.cookies(),
            "referrer" => self.blank_part(),
            "URL" | "documentURI" => self.here().of_page(),
            "title" => self.title().unwrap_or(Value::Some("String", Doubt::Open)),
            "activeElement" if !self.is_later && self.turn.is_none() && self.nothing_has_focus() => {
                match self.world.document().body().map(|body| body.id) {
                    Some(body) => self.page_element(body),
                    None => Value::OPEN,
                }
            }
            "activeElement" => Value::OPEN,
            "forms" | "images" | "links" | "scripts" | "anchors" => {
                let selector = match key {
                    "forms" => "form",
                    "images" => "img",
                    "links" => "a[href], area[href]",
                    "scripts" => "script",
                    _ => "a[name]",
                };
                let Ok(selectors) = crate::markup::parse_selectors(selector) else { return Ok(None) };
                let span = Span { start: 0, end: 0 };
                self.find(None, selector, &selectors, Some("HTMLCollection"), span)?
            }
            // What it has by itself comes before its elements.
            _ if platform::member("HTMLDocument", key).is_some() => match key.starts_with("on") {
                true => Value::OPEN,
                false => return Ok(None),
            },
            _ => {
                const NAMED: &[&str] = &["embed", "form", "iframe", "img", "object"];
                // Some elements are members of the document by their names (HTML, "named properties").
                let named = document.elements().find(|element| {
                    let data = element.data();
                    NAMED.contains(&&*data.name.local)
                        && (data.attr(&local("name")) == Some(key)
                            || (data.id() == Some(key) && &*data.name.local == "object"))
                });
                match named.map(|named| named.id) {
                    Some(node) => self.page_element(node),
                    None if self.may_have_named(NAMED) => Value::OPEN,
                    None => return Ok(None),
                }
            }
        }))
    }

    /// Where the page is.
    pub(super) fn location(&mut self) -> Value {
        if let Some(known) = self.globals.get("#location") {
            return known.clone();
        }
        let region = std::mem::replace(&mut self.region, 0);
        let id = self.make(Kind::Instance("Location"));
        self.region = region;
        let path = self.world.path().map_or(Value::A_TEXT, Value::text);
        let members = &mut self.object_mut(id).members;
        members.insert(Arc::from("pathname"), path);
        for key in ["host", "hostname", "origin"] {
            members.extend(SitePart::of(key).map(|part| (Arc::from(key), part.value())));
        }
        self.globals.insert(Arc::from("#location"), Value::Object(id));
        Value::Object(id)
    }

    pub(super) fn set_window_member(&mut self, key: &Arc<str>, value: Value, span: Span) {
        if key.starts_with("on") {
            self.touched.attributes.insert(Arc::from(format!("window {key}")));
        }
        self.check_handler("Window", key, &value, span);
        self.check_handler_name("Window", key, &value, span);
        match &**key {
            handler
                if let Some(event) = handler.strip_prefix("on")
                    && platform::global(handler).is_some() =>
            {
                let (turn, certainty) = match event {
                    "load" => (Turn::Loaded, Certainty::Certain),
                    _ => (Turn::Visitor, Certainty::SomeVisit),
                };
                let window = Value::Object(WINDOW);
                // It is given a text, where that happened, and what was thrown (HTML, "OnErrorEventHandlerNonNull").
                let given = match event {
                    "error" => vec![Value::OPEN; 5],
                    _ => vec![self.event(&window, event)],
                };
                self.later_on(value, window, given, turn, certainty, span);
            }
            "location" | "name" | "status" => {}
            _ => {
                self.records_global(key, span);
                self.set_global(Arc::clone(key), value);
            }
        }
    }
}
