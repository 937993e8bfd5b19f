//! The elements that are put into pages, and the addresses in them.

use html5ever::local_name;

use super::output_files::EmittedCode;
use crate::board::ScriptLoad;
use crate::code::{CodeKind, encode_segment};
use crate::markup::{ElementRef, LocalName};
use crate::script;
use crate::style;

pub(super) fn escaped(value: &str) -> String {
    value.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;")
}

/// What an element links.
pub(super) enum Link<'l> {
    /// A file of the output.
    File {
        /// The file.
        code: &'l EmittedCode,
        /// The way to the folder that it is in, with a slash at its end.
        prefix: &'l str,
        /// Whether the page is in another encoding than the file.
        says_charset: bool,
    },
    /// A file of another host.
    Remote {
        /// Its URL.
        url: &'l str,
        /// What a browser holds it against.
        integrity: Option<&'l str>,
        /// For a script, how it is loaded.
        load: ScriptLoad,
    },
}

/// The element that links a piece of code.
pub(super) fn linked(kind: CodeKind, owner: &str, link: &Link<'_>) -> String {
    let (url, more) = match link {
        Link::File { code, prefix, says_charset } => {
            let mut more = String::new();
            if let Some(integrity) = &code.integrity {
                more.push_str(&format!(" integrity=\"{integrity}\""));
            }
            if *says_charset && !code.ascii {
                more.push_str(" charset=\"utf-8\"");
            }
            (format!("{prefix}{}", encode_segment(&code.name)), more)
        }
        Link::Remote { url, integrity, load } => {
            // Without `crossorigin` a file of another host cannot be looked at (SRI, "cross-origin
            // data leakage").
            let more = integrity
                .map(|integrity| format!(" integrity=\"{}\" crossorigin=\"anonymous\"", escaped(integrity)));
            let load = if kind == CodeKind::Script { load.attribute() } else { "" };
            ((*url).to_owned(), more.unwrap_or_default() + load)
        }
    };
    let url = escaped(&url);
    match kind {
        CodeKind::Style => {
            format!("<link rel=\"stylesheet\" href=\"{url}\"{more} data-deft-pin=\"{owner}\">")
        }
        CodeKind::Script => format!("<script src=\"{url}\"{more} data-deft-pin=\"{owner}\"></script>"),
    }
}

/// The element that holds a text in the page itself. `None` where the text cannot stand there
/// without changing what it means.
pub(super) fn inlined(kind: CodeKind, owner: &str, code: &EmittedCode, prefix: &str) -> Option<String> {
    let text = code.text_from(prefix);
    // A page's parser turns a NUL into another character.
    if text.contains('\0') {
        return None;
    }
    match kind {
        CodeKind::Style => {
            Some(format!("<style data-deft-pin=\"{owner}\">{}</style>", style::inline_safe(&text)?))
        }
        CodeKind::Script => {
            Some(format!("<script data-deft-pin=\"{owner}\">{}</script>", script::inline_safe(&text)?))
        }
    }
}

/// The text that a page's parser finds in such an element; none for one that links a file.
pub fn text_in(element: &str) -> Option<String> {
    let (tag, rest) = element.split_once('>')?;
    if tag.contains(" src=") || tag.starts_with("<link") {
        return None;
    }
    let (text, _) = rest.rsplit_once("</")?;
    Some(text.replace("\r\n", "\n").replace('\r', "\n"))
}

/// Whether an element is one that was put in: all of those carry the mark.
pub(super) fn is_placed(element: ElementRef<'_>) -> bool {
    matches!(element.name.local, local_name!("link") | local_name!("style") | local_name!("script"))
        && element.attr(&LocalName::from("data-deft-pin")).is_some()
}
