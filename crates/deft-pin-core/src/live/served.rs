//! A page as it is served: the code in it, and what else it holds.

use std::cell::OnceCell;

use html5ever::local_name;

use super::code_text::{squeezed, without_blanks};
use super::part_kind::PartKind;
use super::published::PublishedElement;
use super::tree_text::{tag_text, tree_text};
use crate::markup::{Document, ElementRef, LocalName, NodeData, parse};
use crate::source::{SourceText, Span};

/// A page as it is served, with what its frames hold.
pub struct ServedPage {
    /// The elements with code, in order.
    pub elements: Vec<ServedElement>,
    /// The addresses of frames in it.
    pub frames: Vec<String>,
    /// Where its addresses are seen from, if it says so.
    pub base: Option<String>,
    documents: Vec<Document>,
    words: OnceCell<String>,
}

/// An element with code.
#[derive(Clone, Debug)]
pub struct ServedElement {
    /// It.
    pub own: PublishedElement,
    /// A sheet or a script.
    pub kind: PartKind,
    /// The mark that it carries.
    pub mark: Mark,
    /// The line of the page, from 1.
    pub line: u32,
    /// As it is written in the page.
    pub html: String,
}

/// The mark of what was put in by this tool.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Mark {
    /// There is none.
    None,
    /// It helps others.
    Helper,
    /// It is a pin's or a library's.
    Of(String),
}

/// The text of a file that pages link.
#[derive(Clone, Debug)]
pub struct AssetText {
    /// Its address.
    pub address: String,
    /// A sheet or a script.
    pub kind: PartKind,
    /// The text without blanks.
    pub squeezed: String,
}

impl AssetText {
    /// The text of a file.
    pub fn new(address: String, kind: PartKind, text: &str) -> Self {
        AssetText { address, kind, squeezed: squeezed(text) }
    }
}

impl ServedPage {
    /// Reads a page.
    pub fn read(bytes: &[u8]) -> Self {
        let mut page = ServedPage {
            elements: Vec::new(),
            frames: Vec::new(),
            base: None,
            documents: Vec::new(),
            words: OnceCell::new(),
        };
        page.add(bytes, 0);
        page
    }

    /// Adds what a frame in the page holds.
    pub fn add_frame(&mut self, bytes: &[u8]) {
        self.add(bytes, 1);
    }

    fn add(&mut self, bytes: &[u8], depth: usize) {
        let (decoded, document) = parse(bytes);
        let text = SourceText::new(decoded.text().to_owned());
        if depth == 0 {
            self.base = document.base().and_then(|base| base.attr(&local_name!("href")).map(str::to_owned));
        }
        let mut inner = Vec::new();
        for element in document.elements() {
            if element.is_html(&local_name!("iframe")) {
                match element.attr(&local_name!("srcdoc")) {
                    Some(text) => inner.push(text.to_owned()),
                    None => self.frames.extend(element.attr(&local_name!("src")).map(str::to_owned)),
                }
            }
            let Some((own, kind)) = PublishedElement::of(&document, element) else { continue };
            let mark = Mark::of(element);
            let line = text.position(element.start()).line;
            let html = match mark {
                Mark::None => String::new(),
                _ => {
                    let tag_end = document.start_tag(element).map_or(element.start(), |tag| tag.end);
                    let end = element.end_tag.map_or(tag_end, |tag| tag.end);
                    text.slice(Span { start: element.start(), end }).to_owned()
                }
            };
            self.elements.push(ServedElement { own, kind, mark, line, html });
        }
        self.documents.push(document);
        if depth < 3 {
            inner.into_iter().for_each(|text| self.add(text.as_bytes(), depth + 1));
        }
    }

    /// The elements with code that carry a pin's or a library's mark, each written anew: what they are known by.
    pub fn marked(&self) -> Vec<(String, PartKind, String)> {
        let own = |there: &ServedElement| match &there.mark {
            Mark::Of(name) => Some((name.clone(), there.kind, there.html.clone())),
            _ => None,
        };
        self.elements.iter().filter_map(own).collect()
    }

    /// How many times elements are there, by their text ([`super::nodes_of`]).
    pub fn count_of(&self, tree: &str) -> usize {
        let (tag, is_alone) = (tree.lines().next().unwrap_or_default(), !tree.contains('\n'));
        let name = tag.trim_start_matches('<').split([' ', '>']).next().unwrap_or_default();
        let same = |(document, element): &(&Document, ElementRef<'_>)| {
            tag_text(*element) == tag && (is_alone || tree_text(document, *element) == tree)
        };
        self.all().filter(|(_, element)| &*element.name.local == name).filter(same).count()
    }

    /// Whether an element has an ID.
    pub fn has_id(&self, id: &str) -> bool {
        self.all().any(|(_, own)| own.id() == Some(id))
    }

    /// Whether an element has a class.
    pub fn has_class(&self, class: &str) -> bool {
        let list = LocalName::from("class");
        self.all().any(|(_, own)| {
            own.attr(&list).is_some_and(|list| list.split_ascii_whitespace().any(|own| own == class))
        })
    }

    /// Every element, those in frames too.
    pub(super) fn all(&self) -> impl Iterator<Item = (&Document, ElementRef<'_>)> {
        self.documents.iter().flat_map(|document| document.elements().map(move |own| (document, own)))
    }

    /// Whether a text can be read in the page.
    pub(super) fn shows(&self, text: &str) -> bool {
        self.words().contains(&without_blanks(text))
    }

    /// What can be read in the page, without blanks.
    fn words(&self) -> &str {
        self.words.get_or_init(|| {
            let mut words = String::new();
            for document in &self.documents {
                let Some(root) = document.root() else { continue };
                for id in document.descendants(root.id) {
                    let NodeData::Text(text) = &document.node(id).data else { continue };
                    let is_code = document.parent_element(id).is_some_and(|own| {
                        own.is_html(&local_name!("style")) || own.is_html(&local_name!("script"))
                    });
                    if !is_code {
                        words.push_str(&without_blanks(text));
                    }
                }
            }
            words
        })
    }
}

impl Mark {
    fn of(element: ElementRef<'_>) -> Self {
        match element.attr(&LocalName::from("data-deft-pin")) {
            None => Mark::None,
            Some("" | "waits") => Mark::Helper,
            Some(name) => Mark::Of(name.to_owned()),
        }
    }
}
