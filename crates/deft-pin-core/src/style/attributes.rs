//! The declarations that an element's own attributes stand for.

use std::borrow::Cow;
use std::cmp::Reverse;
use std::sync::Arc;

use html5ever::local_name;
use html5ever::tree_builder::QuirksMode;

use super::applied::{Applied, AppliedDeclaration, DeclarationSource, Origin, Strength};
use super::declaration::style_attribute;
use super::engines::Engine;
use super::presentational_hints::presentational_hints;
use super::truth::Truth;
use crate::markup::ElementRef;

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
        let quirks = element.document().quirks() == QuirksMode::Quirks;
        for (number, declaration) in declarations.into_iter().enumerate() {
            if declaration.is_dropped(&text, quirks, engine) {
                continue;
            }
            let origin = if is_style { Origin::of(declaration.important) } else { Origin::Attribute };
            found.push(Applied::from(AppliedDeclaration {
                source: DeclarationSource::Attribute(Arc::clone(&text)),
                matched: Truth::Yes,
                depends_on: Vec::new(),
                strength: Strength {
                    origin,
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
