//! Markup read by itself (HTML, "parsing HTML fragments").

use html5ever::local_name;

use super::document::{Document, NodeId};
use super::parse::parse;

/// What stands before the markup then.
pub(crate) const BEFORE_FRAGMENT: &str = "<!doctype html><template>";

/// Markup read by itself: the tree, and the fragment in it that holds what is in the markup. In a template everything
/// may stand that may stand anywhere.
pub(crate) fn parse_fragment(html: &str) -> Option<(Document, NodeId)> {
    let (_, document) = parse(format!("{BEFORE_FRAGMENT}{html}</template>").as_bytes());
    let template = document.elements().find(|element| element.is_html(&local_name!("template")))?;
    let contents = template.data().contents?;
    Some((document, contents))
}
