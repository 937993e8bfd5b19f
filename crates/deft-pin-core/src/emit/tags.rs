//! The elements that are put into pages, and the addresses in them.

use percent_encoding::{NON_ALPHANUMERIC, utf8_percent_encode};

use super::assets::Part;
use crate::plan::{Content, PartKind, Placement};
use crate::script;
use crate::style;

/// A name as one segment of a URL's path.
pub(super) fn encode_segment(name: &str) -> String {
    const KEPT: &percent_encoding::AsciiSet =
        &NON_ALPHANUMERIC.remove(b'-').remove(b'_').remove(b'.').remove(b'~');
    utf8_percent_encode(name, KEPT).to_string()
}

fn escaped(value: &str) -> String {
    value.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;")
}

/// The element that links a placement. `prefix` leads to the folder of assets; `charset` says
/// that the page is in another encoding than the file.
pub(super) fn linked(
    placement: &Placement<'_>,
    part: Option<&Part>,
    owner: &str,
    prefix: &str,
    charset: bool,
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
