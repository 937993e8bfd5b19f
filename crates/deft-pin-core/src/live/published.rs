//! What was published for a page, part by part.

use std::collections::BTreeMap;

use html5ever::local_name;

use super::code_text::squeezed;
use super::part_kind::PartKind;
use super::tree_text::tree_text;
use crate::markup::{Document, ElementRef, LocalName, parse};

/// A part of what was published.
#[derive(Clone, Debug)]
pub struct PublishedPart {
    /// The pin or library that it is marked with; none for one that only helps others.
    pub name: Option<String>,
    /// The pins that it is for.
    pub pins: Vec<String>,
    /// What it is.
    pub kind: PartKind,
    /// How it looks.
    pub look: PartLook,
    /// The piece that it was pasted in; none where files were changed.
    pub piece: Option<String>,
}

/// How a part looks in a page.
#[derive(Clone, Debug)]
pub enum PartLook {
    /// A `<style>`, a `<script>` or a `<link>` of its own.
    Element(PublishedElement),
    /// Code for a box that takes code alone: it stands in a sheet or a script, perhaps among other code.
    Code {
        /// As it was pasted.
        text: String,
        /// Without blanks.
        squeezed: String,
    },
    /// Elements with all that is in them.
    Nodes {
        /// Each as text.
        trees: Vec<String>,
        /// As it was written.
        text: String,
        /// How many times they stand there.
        times: usize,
    },
    /// What is given to an element.
    Names {
        /// The ID.
        id: Option<String>,
        /// The classes.
        classes: Vec<String>,
    },
}

/// A `<style>`, a `<script>` or a `<link>`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PublishedElement {
    /// The name of its tag.
    pub tag: String,
    /// The attributes that count, by name.
    pub attributes: BTreeMap<String, String>,
    /// The address of the file that it links.
    pub address: Option<String>,
    /// The text in it.
    pub text: String,
    /// The same without blanks.
    pub squeezed: String,
    /// What the file that it links holds, without blanks, where that is known.
    pub linked: Option<String>,
}

impl PublishedElement {
    /// An element of a page; none for one that holds or links no code.
    pub(super) fn of(document: &Document, element: ElementRef<'_>) -> Option<(Self, PartKind)> {
        let kind = match element.name.local {
            local_name!("style") => PartKind::Style,
            local_name!("script") => PartKind::Script,
            local_name!("link") => {
                let rel = element.attr(&local_name!("rel"))?;
                let is_sheet =
                    rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("stylesheet"));
                is_sheet.then_some(PartKind::Style)?
            }
            _ => return None,
        };
        let address = element.attr(&local_name!("src")).or_else(|| element.attr(&local_name!("href")));
        let attributes = element.data().attrs.iter().filter_map(|own| counted(&own.name.local, &own.value));
        // A text in an address is a text.
        let (address, text) = match address {
            Some(address) if address.trim_start().starts_with("data:") => (None, address.to_owned()),
            address => (address, document.text_of(element.id)),
        };
        let own = PublishedElement {
            tag: element.name.local.to_string(),
            attributes: attributes.collect(),
            address: address.map(str::to_owned),
            squeezed: squeezed(&text),
            text,
            linked: None,
        };
        Some((own, kind))
    }

    /// The code that it is, here or in the file that it links, without blanks.
    pub(super) fn code(&self) -> &str {
        self.linked.as_deref().unwrap_or(&self.squeezed)
    }

    /// The name of the file that it links.
    pub fn file_name(&self) -> Option<&str> {
        file_name(self.address.as_deref()?)
    }
}

/// The last part of the path of an address.
pub fn file_name(address: &str) -> Option<&str> {
    let path = address.split(['?', '#']).next().unwrap_or_default();
    path.rsplit('/').next().filter(|name| !name.is_empty())
}

/// An attribute that changes what an element does. Addresses are compared by themselves.
fn counted(name: &LocalName, value: &str) -> Option<(String, String)> {
    let value = value.trim().to_ascii_lowercase();
    let is_default = match &**name {
        "src" | "href" | "nonce" | "class" | "id" | "title" | "charset" | "language" => true,
        "rel" => true,
        "type" => {
            matches!(value.as_str(), "" | "text/css" | "text/javascript" | "application/javascript")
        }
        "media" => matches!(value.as_str(), "" | "all"),
        "crossorigin" => matches!(value.as_str(), "" | "anonymous"),
        name => name.starts_with("data-"),
    };
    (!is_default).then(|| (name.to_string(), value))
}

/// The elements with code in a piece of HTML, each with the name that it is marked with.
pub fn elements_of(html: &str) -> Vec<(Option<String>, PartKind, PublishedElement)> {
    let (_, document) = parse(html.as_bytes());
    let of = |element: ElementRef<'_>| {
        let (own, kind) = PublishedElement::of(&document, element)?;
        let name = element.attr(&LocalName::from("data-deft-pin")).filter(|name| !name.is_empty());
        let kind = if name.is_none() && kind == PartKind::Script { PartKind::Guard } else { kind };
        Some((name.map(str::to_owned), kind, own))
    };
    document.elements().filter_map(of).collect()
}

/// The elements of a piece of markup as text, outermost ones alone.
pub fn nodes_of(html: &str) -> Vec<String> {
    let whole = format!("<!doctype html><body>{html}");
    let (_, document) = parse(whole.as_bytes());
    let Some(body) = document.body() else { return Vec::new() };
    let children = document.children(body.id).filter_map(|child| document.element(child));
    children.map(|element| tree_text(&document, element)).collect()
}
