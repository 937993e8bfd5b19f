//! The declarations that an element's own attributes stand for.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::sync::Arc;

use html5ever::tree_builder::QuirksMode;
use html5ever::{local_name, ns};

use super::applied::{
    Applied, AppliedDeclaration, DeclarationSource, Origin as CascadeOrigin, Strength, tree_order,
};
use super::declaration::{BEFORE_DECLARATIONS, style_attribute};
use super::engines::Engine;
use super::presentational_hints::presentational_hints;
use super::truth::Truth;
use crate::markup::{ElementRef, Origin, TagAttribute, tag_attributes};

/// The declarations of an element's attributes: what those of presentation come to, and the style
/// attribute.
pub(super) fn attribute_declarations<'p>(element: ElementRef<'p>, engine: Engine) -> Vec<Applied<'p>> {
    let hints = presentational_hints(element);
    let style = element.data().attr(&local_name!("style"));
    let hints = (!hints.is_empty()).then_some((hints.as_str(), false));
    let mut found = Vec::new();
    for (text, is_style) in hints.into_iter().chain(style.map(|text| (text, true))) {
        let (text, declarations) = style_attribute(text);
        let text = Arc::new(text);
        // Chromium reads those of SVG and MathML as in quirks mode.
        let quirks = element.document().quirks() == QuirksMode::Quirks || element.name.ns != ns!(html);
        let tree = tree_order(element.shadow_host().map(|host| host.id));
        for (number, declaration) in declarations.into_iter().enumerate() {
            if declaration.is_dropped(&text, quirks, engine) {
                continue;
            }
            let origin =
                if is_style { CascadeOrigin::of(declaration.important) } else { CascadeOrigin::Attribute };
            found.push(Applied::from(AppliedDeclaration {
                source: DeclarationSource::Attribute(Arc::clone(&text)),
                matched: Truth::Yes,
                depends_on: Vec::new(),
                strength: Strength {
                    origin,
                    context: if declaration.important { tree } else { -tree },
                    inline: is_style,
                    layer: 0,
                    specificity: [0; 3],
                    proximity: Reverse(u32::MAX),
                    order: (u32::MAX, 0, number as u32),
                },
                declaration: Cow::Owned(declaration),
            }));
        }
    }
    found
}

/// The byte of a page's text at which a declaration stands that comes from an attribute of an element: inside of the
/// style attribute; the element's own start for what other attributes come to.
pub fn written_at(applied: &Applied<'_>, element: ElementRef<'_>, page: &str) -> u32 {
    let start = element.data().start();
    let (DeclarationSource::Attribute(text), Origin::Tag(tag), false) =
        (&applied.source, element.data().origin, applied.is_hint())
    else {
        return start;
    };
    let span = applied.declaration.span;
    let written = page.get(tag.range()).unwrap_or_default();
    let is_style = |own: &TagAttribute| written[own.name.range()].eq_ignore_ascii_case("style");
    let value = tag_attributes(written).1.into_iter().find(is_style).and_then(|own| own.value);
    let Some(value) = value else { return start };
    let raw = &written[value.range()];
    // The text of the attribute stands in a rule of its own.
    let at = (span.start as usize).saturating_sub(BEFORE_DECLARATIONS.len());
    // Behind a character reference the place moves on.
    let found = match raw[..at.min(raw.len())].contains('&') {
        true => raw.get(at..).and_then(|rest| rest.find(text.slice(span))).map(|by| at + by),
        false => Some(at),
    };
    start + value.start + found.unwrap_or_default() as u32
}
