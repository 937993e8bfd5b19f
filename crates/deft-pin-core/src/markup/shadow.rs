//! Shadow trees that a page declares (HTML, "the template element", `shadowrootmode`): which templates become one,
//! and how the tree reads with them.

use html5ever::{LocalName, local_name, ns};
use selectors::parser::{Combinator, Component};

use super::document::{Document, Element, ElementRef, Node, NodeData, NodeId};
use super::links;
use super::selector::{Assume, Name, Names, Selector};

/// The elements, besides custom ones, that can have a shadow tree (DOM, "attach a shadow root").
const HOSTS: &[&str] = &[
    "article", "aside", "blockquote", "body", "div", "footer", "h1", "h2", "h3", "h4", "h5", "h6", "header",
    "main", "nav", "p", "section", "span",
];

/// Whether a template declares a shadow tree.
pub(super) fn declares_shadow(element: &Element) -> bool {
    let mode = element.attr(&LocalName::from("shadowrootmode")).unwrap_or_default();
    element.contents.is_some() && ["open", "closed"].iter().any(|known| mode.eq_ignore_ascii_case(known))
}

/// Makes shadow trees of the contents of templates, given in the order of the page; the elements that have one.
/// Such a template is no part of the page.
pub(super) fn attach_shadows(nodes: &mut [Node], templates: &[NodeId]) -> Vec<NodeId> {
    let mut hosts = Vec::new();
    for &template in templates {
        let Some(contents) = nodes[template.index()].data.contents() else { continue };
        let Some(parent) = nodes[template.index()].parent.filter(|_| is_in_page(nodes, template)) else {
            continue;
        };
        let Some(host) = nodes[parent.index()].data.element_mut() else { continue };
        if !can_have_shadow(host) || host.shadow.is_some() {
            continue;
        }
        host.shadow = Some(contents);
        links::detach(nodes, template);
        nodes[contents.index()].parent = Some(parent);
        hosts.push(parent);
    }
    hosts
}

/// Whether a node is in the page or in one of its shadow trees, and not in the contents of a template.
fn is_in_page(nodes: &[Node], id: NodeId) -> bool {
    let mut at = id;
    while let Some(parent) = nodes[at.index()].parent {
        let is_contents = matches!(nodes[parent.index()].data, NodeData::Fragment)
            && nodes[parent.index()].parent.is_none_or(|host| match &nodes[host.index()].data {
                NodeData::Element(host) => host.shadow != Some(parent),
                _ => true,
            });
        if is_contents {
            return false;
        }
        at = parent;
    }
    at == NodeId::DOCUMENT
}

impl Document {
    /// The elements that have a shadow tree, in the order of the page.
    pub fn shadow_hosts(&self) -> impl Iterator<Item = ElementRef<'_>> {
        self.hosts.iter().filter_map(|id| self.element(*id))
    }

    /// Whether some element has a shadow tree.
    pub fn has_shadows(&self) -> bool {
        !self.hosts.is_empty()
    }
}

impl<'a> ElementRef<'a> {
    /// The elements of its shadow tree, in tree order, without those of trees further in.
    pub fn shadow_elements(self) -> impl Iterator<Item = ElementRef<'a>> {
        let document = self.document;
        let below = self.data().shadow.into_iter().flat_map(|root| document.descendants(root));
        below.filter_map(|id| document.element(id))
    }

    /// The element that has the shadow tree which this one is in.
    pub fn shadow_host(self) -> Option<ElementRef<'a>> {
        if !self.document.has_shadows() {
            return None;
        }
        let top = self.and_ancestors().last()?;
        let root = self.document.node(top.id).parent?;
        let host = self.document.parent_element(root)?;
        (host.data().shadow == Some(root)).then_some(host)
    }

    /// The slot that the element is shown in (DOM, "find a slot").
    pub fn slot(self) -> Option<ElementRef<'a>> {
        let host = self.parent().filter(|parent| parent.data().shadow.is_some())?;
        let wanted = self.attr(&local_name!("slot")).unwrap_or_default();
        let is_it = |slot: &ElementRef<'_>| {
            slot.is_html(&local_name!("slot"))
                && slot.attr(&local_name!("name")).unwrap_or_default() == wanted
        };
        host.shadow_elements().find(is_it)
    }

    /// The element that this one is shown in (css-scoping-1, 3.1, "flattening"): its parent, the slot that it is
    /// shown in, or the host of the shadow tree that it is at the top of.
    pub fn flat_parent(self) -> Option<ElementRef<'a>> {
        if !self.document.has_shadows() {
            return self.parent();
        }
        match self.parent() {
            Some(parent) if parent.data().shadow.is_some() => self.slot(),
            Some(parent) => Some(parent),
            None => self.shadow_host(),
        }
    }

    /// Whether the element is one of the parts that its shadow tree names for those outside (css-shadow-parts-1, 4.1).
    pub(super) fn has_part(self, name: &str) -> bool {
        let parts = self.attr(&LocalName::from("part")).unwrap_or_default();
        parts.split_ascii_whitespace().any(|part| part == name)
    }

    /// The part inside of its shadow tree that an element hands on under a name (css-shadow-parts-1, 4.2).
    pub(super) fn exported_part(self, name: &str) -> Option<&'a str> {
        let exports = self.data().attr(&LocalName::from("exportparts"))?;
        exports.split(',').find_map(|one| {
            let (inner, outer) = one.split_once(':').unwrap_or((one, one));
            (outer.trim() == name).then(|| inner.trim())
        })
    }
}

/// What a selector asks of parts: `host::part(a b)`.
pub(super) struct AskedParts<'s> {
    names: &'s [Name],
    /// Where the selector of the host begins in the order of matching.
    pub(super) host_from: usize,
}

/// What a selector asks of parts, if it does.
pub(super) fn asked_parts(selector: &Selector) -> Option<AskedParts<'_>> {
    if !selector.is_part() {
        return None;
    }
    let is_end = |component: &Component<Names>| matches!(component, Component::Combinator(Combinator::Part));
    let end = selector.iter_raw_match_order().position(is_end)?;
    Some(AskedParts { names: selector.parts()?, host_from: end + 1 })
}

impl AskedParts<'_> {
    /// Whether an element has the parts, or may have: a shadow tree that the page declares says so, that of a custom
    /// element is a script's.
    pub(super) fn may_be_in(&self, host: ElementRef<'_>, assume: Assume) -> bool {
        let has_all = |element: ElementRef<'_>| self.names.iter().all(|Name(name)| element.has_part(name));
        let hands_on = |element: ElementRef<'_>| {
            self.names.iter().all(|Name(name)| element.exported_part(name).is_some())
        };
        match host.data().shadow {
            Some(_) if host.shadow_elements().any(has_all) => true,
            Some(_) if assume == Assume::May && host.shadow_elements().any(hands_on) => true,
            shadow => {
                assume == Assume::May
                    && (host.name.local.contains('-') || shadow.is_none() && can_have_shadow(host.data()))
            }
        }
    }
}

/// Whether an element can have a shadow tree.
fn can_have_shadow(element: &Element) -> bool {
    element.name.ns == ns!(html)
        && (element.name.local.contains('-') || HOSTS.contains(&&*element.name.local))
}
