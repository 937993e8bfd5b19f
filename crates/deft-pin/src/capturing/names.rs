//! The file of a site that an address is: as a server of plain files would have it.

use deft_pin_core::source::FilePath;
use percent_encoding::percent_decode_str;
use url::Url;

use crate::releases::hash_of;

/// The longest name of a file or folder, in bytes: file systems take 255.
const LONGEST: usize = 180;
/// The longest query that stays readable in a name.
const LONGEST_QUERY: usize = 80;

/// What is at an address.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct AddressedFile<'k> {
    /// Whether it is a page.
    pub(super) is_page: bool,
    /// Its type, without parameters.
    pub(super) kind: &'k str,
}

/// The path of an address, each part decoded and made such that it can be a name; with the folder's page named.
pub(super) fn path_of(url: &Url) -> Vec<String> {
    let segments = url.path_segments().into_iter().flatten();
    let mut parts: Vec<String> =
        segments.map(|own| safe(&percent_decode_str(own).decode_utf8_lossy())).collect();
    let is_folder = parts.last().is_none_or(String::is_empty);
    parts.retain(|part| !part.is_empty());
    if is_folder {
        parts.push(String::new());
    }
    parts
}

/// A part of a path as a name: what would lead elsewhere, or what no file can be called, is written otherwise.
fn safe(part: &str) -> String {
    let clean: String = part
        .chars()
        .map(|c| if c.is_control() || matches!(c, '/' | '\\' | ':' | '\u{feff}') { '-' } else { c })
        .collect();
    let clean = match clean.trim_end_matches(['.', ' ']) {
        "" if !clean.is_empty() => "-".to_owned(),
        _ if clean.starts_with(".deft-pin") => format!("-{}", &clean[1..]),
        _ => clean,
    };
    shortened(clean)
}

fn shortened(name: String) -> String {
    if name.len() <= LONGEST {
        return name;
    }
    let mut end = LONGEST - 40;
    while !name.is_char_boundary(end) {
        end -= 1;
    }
    let hash = &hash_of(name.as_bytes())[..12];
    let ending = name.rsplit_once('.').map(|(_, ending)| ending).filter(|own| own.len() <= 8);
    match ending {
        Some(ending) => format!("{}-{hash}.{ending}", &name[..end]),
        None => format!("{}-{hash}", &name[..end]),
    }
}

/// The file of an address, as seen from the site's folder. The query is a part of its name where `with_query` says so.
pub(super) fn file_for(url: &Url, of: AddressedFile<'_>, with_query: bool) -> Option<FilePath> {
    let mut parts = path_of(url);
    let name = parts.pop()?;
    let ending = match of.is_page {
        true => "html",
        false => ending_of(of.kind),
    };
    let (stem, ending) = match name.rsplit_once('.') {
        _ if name.is_empty() => ("index".to_owned(), ending.to_owned()),
        // A page is one that is called so.
        Some((stem, own)) if of.is_page && matches!(own.to_ascii_lowercase().as_str(), "html" | "htm") => {
            (stem.to_owned(), own.to_owned())
        }
        _ if of.is_page => (name, ending.to_owned()),
        Some((stem, own)) if !stem.is_empty() => (stem.to_owned(), own.to_owned()),
        _ => (name, String::new()),
    };
    let query = url.query().filter(|_| with_query).map(query_name).unwrap_or_default();
    let dot = if ending.is_empty() { "" } else { "." };
    parts.push(shortened(format!("{stem}{query}{dot}{ending}")));
    FilePath::parse(&parts.join("/")).ok()
}

/// A query as a part of a name.
fn query_name(query: &str) -> String {
    let decoded = percent_decode_str(query).decode_utf8_lossy();
    let is_kept = |c: char| c.is_alphanumeric() || matches!(c, '=' | '&' | '_' | '-' | '.' | ',' | '+');
    let text: String = decoded.chars().map(|c| if is_kept(c) { c } else { '-' }).collect();
    let is_exact = decoded.chars().all(is_kept) && text.len() <= LONGEST_QUERY;
    match is_exact {
        true => format!("@{text}"),
        false => {
            let start: String = text.chars().take(24).collect();
            format!("@{start}-{}", &hash_of(query.as_bytes())[..10])
        }
    }
}

fn ending_of(kind: &str) -> &'static str {
    match kind {
        "text/css" => "css",
        "text/javascript" | "application/javascript" => "js",
        "application/json" => "json",
        _ => {
            mime_guess::get_mime_extensions_str(kind).and_then(|list| list.first()).copied().unwrap_or("bin")
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_files() {
        let table = [
            ("/", true, "index.html"),
            ("/fares/", true, "fares/index.html"),
            ("/fares", true, "fares.html"),
            ("/fares.html", true, "fares.html"),
            ("/fares.php?day=2", true, "fares.php@day=2.html"),
            ("/a/?page=2&b=%2F..%2F", true, "a/index@page=2&b=-..--…html"),
            ("/theme.css?v=3", false, "theme@v=3.css"),
            ("/theme", false, "theme"),
            ("/styles/", false, "styles/index.css"),
            ("/a%2Fb/c%5C..%5Cd.png", false, "a-b/c-..-d.png"),
            ("/%2e%2e/%2e%2e/etc/passwd", false, "etc/passwd"),
            ("/..%2f..%2fetc/passwd", false, "..-..-etc/passwd"),
            ("/a/.../b", false, "a/-/b"),
            ("/.deft-pin-capture", false, "-deft-pin-capture"),
            ("/caf%C3%A9%20bar.jpg", false, "café bar.jpg"),
            ("/x%00y%0Az.js", false, "x-y-z.js"),
            ("/C:/x.js", false, "C-/x.js"),
            ("//a///b.css", false, "a/b.css"),
        ];
        for (address, is_page, expected) in table {
            let url = Url::parse("http://ferries.example")
                .unwrap()
                .join(&format!("http://ferries.example{address}"));
            let of = AddressedFile { is_page, kind: if is_page { "text/html" } else { "text/css" } };
            let file = file_for(&url.unwrap(), of, true).unwrap();
            match expected.split_once('…') {
                None => assert_eq!(file.as_str(), expected, "{address}"),
                Some((start, end)) => {
                    assert!(file.as_str().starts_with(start) && file.as_str().ends_with(end), "{file}");
                }
            }
        }
        let long = format!("http://ferries.example/{}.css?{}", "a".repeat(400), "é".repeat(400));
        let of = AddressedFile { is_page: false, kind: "text/css" };
        let file = file_for(&Url::parse(&long).unwrap(), of, true).unwrap();
        assert!(file.as_str().len() <= LONGEST && file.as_str().ends_with(".css"), "{file}");
    }
}
