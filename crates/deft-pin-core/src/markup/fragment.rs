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

/// Markup read as what is in an element of a name (HTML, "fragment case"): the tree, and the node in it that holds what is
/// in the markup.
pub(crate) fn parse_within(name: &str, html: &str) -> Option<(Document, NodeId)> {
    let before = match name {
        "template" | "colgroup" | "caption" => return parse_fragment(html),
        "table" => "<table>",
        "tbody" | "thead" | "tfoot" => "<table><tbody>",
        "tr" => "<table><tbody><tr>",
        "select" => "<select>",
        "svg" => "<svg>",
        "math" => "<math>",
        _ => "",
    };
    let (_, document) = parse(format!("<!doctype html><body>{before}{html}").as_bytes());
    let top = match before.rsplit('<').next().map(|tag| tag.trim_end_matches('>')) {
        Some(tag) if !tag.is_empty() => {
            let name = html5ever::LocalName::from(tag);
            document.elements().find(|element| element.data().name.local == name)?
        }
        _ => document.body()?,
    };
    let top = top.id;
    Some((document, top))
}
