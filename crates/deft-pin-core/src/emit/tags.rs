//! The elements that are put into pages, and the addresses in them.

use html5ever::local_name;

use super::assets::Part;
use crate::markup::{ElementRef, LocalName};
use crate::plan::{Content, PartKind, Placement};
use crate::script;
use crate::site::encode_segment;
use crate::style;

fn escaped(value: &str) -> String {
    value.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;")
}

/// The element that links a placement. `prefix` leads to the folder of assets; `charset` says
/// that the page is in another encoding than the file; `remote_integrity` is what a file of
/// another host is held against.
pub(super) fn linked(
    placement: &Placement<'_>,
    part: Option<&Part>,
    owner: &str,
    prefix: &str,
    charset: bool,
    remote_integrity: Option<&str>,
) -> String {
    let url = match (placement.content, part) {
        (Content::Remote(url), _) => url.to_owned(),
        (Content::Local, part) => {
            format!("{prefix}{}", part.map(|part| encode_segment(&part.name)).unwrap_or_default())
        }
    };
    let url = escaped(&url);
    let mut more = String::new();
    if let Some(integrity) = part.and_then(|part| part.integrity.as_deref()) {
        more.push_str(&format!(" integrity=\"{integrity}\""));
    }
    if let Some(integrity) = remote_integrity {
        // Without the attribute a file of another host cannot be looked at (SRI 3.5).
        more.push_str(&format!(" integrity=\"{}\" crossorigin=\"anonymous\"", escaped(integrity)));
    }
    if charset && part.is_some_and(|part| !part.ascii) {
        more.push_str(" charset=\"utf-8\"");
    }
    match placement.part.kind {
        PartKind::Style => {
            format!("<link rel=\"stylesheet\" href=\"{url}\"{more} data-deft-pin=\"{owner}\">")
        }
        PartKind::Script => format!("<script src=\"{url}\"{more} data-deft-pin=\"{owner}\"></script>"),
    }
}

/// The element that holds a placement's text in the page itself. `None` where the text cannot
/// stand there without changing what it means.
pub(super) fn inlined(placement: &Placement<'_>, part: &Part, owner: &str, prefix: &str) -> Option<String> {
    let text = part.text_from(prefix);
    // A page's parser turns a NUL into another character.
    if text.contains('\0') {
        return None;
    }
    match placement.part.kind {
        PartKind::Style => {
            Some(format!("<style data-deft-pin=\"{owner}\">{}</style>", style::inline_safe(&text)?))
        }
        PartKind::Script => {
            Some(format!("<script data-deft-pin=\"{owner}\">{}</script>", script::inline_safe(&text)?))
        }
    }
}

/// Whether an element is one that was put in: all of those carry the mark.
pub(super) fn is_placed(element: ElementRef<'_>) -> bool {
    matches!(element.name.local, local_name!("link") | local_name!("style") | local_name!("script"))
        && element.attr(&LocalName::from("data-deft-pin")).is_some()
}
