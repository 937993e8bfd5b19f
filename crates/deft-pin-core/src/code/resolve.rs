//! What addresses mean: those that pages and their sheets load from, and those of the files beside
//! a board. Addresses resolve as the URL standard has it, against a host that stands for the site's
//! own; what that leaves on this host is a file.

use std::sync::LazyLock;

use percent_encoding::{AsciiSet, CONTROLS, NON_ALPHANUMERIC, percent_decode_str, utf8_percent_encode};
use url::Url;

use super::location::{Address, Location};
use crate::source::{FilePath, offset};

/// The name of the host that stands for the site's own, whatever that is.
const HOST: &str = "site.invalid";

/// The URL of the host that stands for the site's own: what resolves to it is local.
pub fn site_host() -> Url {
    static URL: LazyLock<Url> = LazyLock::new(|| match Url::parse("http://site.invalid/") {
        Ok(url) => url,
        Err(_) => unreachable!("a URL written here"),
    });
    URL.clone()
}

/// Whether a URL is on the host that stands for the site's own.
pub fn is_on_site(url: &Url) -> bool {
    url.host_str() == Some(HOST)
}

/// The URL of a file of the site, on the host that stands for the site's own.
pub fn file_url(file: &FilePath) -> Option<Url> {
    site_host().join(&encode_path(file.as_str())).ok()
}

/// What a URL's path has to have encoded (URL standard, "path percent-encode set").
const PATH: &AsciiSet = &CONTROLS
    .add(b' ')
    .add(b'"')
    .add(b'#')
    .add(b'<')
    .add(b'>')
    .add(b'?')
    .add(b'^')
    .add(b'`')
    .add(b'{')
    .add(b'}')
    .add(b'%');

/// A path percent-encoded for a URL.
pub fn encode_path(path: &str) -> String {
    utf8_percent_encode(path, PATH).to_string()
}

/// A name as one segment of a URL's path.
pub fn encode_segment(name: &str) -> String {
    const KEPT: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'_').remove(b'.').remove(b'~');
    utf8_percent_encode(name, KEPT).to_string()
}

/// What an address of a page means, given the URL that its relative addresses start from. Files are
/// named as seen from the site's root.
pub fn resolve(base: &Url, address: &str) -> Location {
    let address = address.trim();
    let refused = || Location::Refused(address.to_owned());
    let Ok(url) = base.join(address) else { return refused() };
    if !is_on_site(&url) {
        return match url.scheme() {
            "file" => refused(),
            _ => Location::Linked(Address::Remote(url.to_string())),
        };
    }
    match file_of(&url) {
        Some(file) if !climbs_out(base, address) => Location::Linked(Address::Local(file)),
        _ => refused(),
    }
}

/// What an address in a sheet of the site means.
pub fn resolve_in(sheet: &FilePath, address: &str) -> Location {
    match file_url(sheet) {
        Some(base) => resolve(&base, address),
        None => Location::Refused(address.to_owned()),
    }
}

/// The file of the site that a URL on its host means.
pub fn file_of(url: &Url) -> Option<FilePath> {
    let path = percent_decode_str(url.path()).decode_utf8_lossy().into_owned();
    FilePath::parse(path.trim_start_matches('/')).ok()
}

/// Whether a relative address has more `..` than there are folders above the page. A URL parser
/// stops at the root without a word; a folder that is opened without a server does not.
fn climbs_out(base: &Url, address: &str) -> bool {
    if address.starts_with(['/', '\\']) || Url::parse(address).is_ok() {
        return false;
    }
    let mut depth = base.path().matches('/').count() as i64 - 1;
    let path = address.split(['?', '#']).next().unwrap_or_default();
    path.split(['/', '\\']).any(|part| {
        match part {
            ".." => depth -= 1,
            "" | "." => {}
            _ => depth += 1,
        }
        depth < 0
    })
}

/// What an address in a file beside the board means.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum BoardAddress {
    /// A file beside the board, as seen from there, and what follows the path in the address: query
    /// and fragment.
    Beside(FilePath, String),
    /// A path that leads out of the board's folder.
    Outside,
    /// Anything else: another host, a path from the root of the site, a fragment alone.
    Elsewhere,
}

/// What an address means that stands in a file beside the board. Only addresses that are relative
/// to that file mean files there: what the site's root is, the board's folder does not tell.
pub fn resolve_beside(file: &FilePath, address: &str) -> BoardAddress {
    let address = address.trim();
    let is_relative = !address.is_empty()
        && !address.starts_with(['/', '#', '?', '\\'])
        && matches!(Url::parse(address), Err(url::ParseError::RelativeUrlWithoutBase));
    if !is_relative {
        return BoardAddress::Elsewhere;
    }
    let (path, suffix) = address.split_at(address.find(['?', '#']).unwrap_or(address.len()));
    match file.folder().join(&percent_decode_str(path).decode_utf8_lossy()) {
        Ok(path) => BoardAddress::Beside(path, suffix.to_owned()),
        Err(_) => BoardAddress::Outside,
    }
}

/// How many folders a URL's path leads down from the root.
pub fn depth_of(url: &Url) -> u32 {
    offset(url.path().matches('/').count().saturating_sub(1))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_beside_the_board_stay_in_its_folder() {
        let from = FilePath::parse("pins/storm/notice.css").unwrap();
        let table = [
            ("waves.svg", "pins/storm/waves.svg", ""),
            (" ../i/a%20b.svg?x=1#y ", "pins/i/a b.svg", "?x=1#y"),
            ("../../../out.svg", "outside", ""),
            ("../..", "outside", ""),
            ("/css/site.css", "elsewhere", ""),
            ("#wave", "elsewhere", ""),
            ("", "elsewhere", ""),
            ("data:image/svg+xml,x", "elsewhere", ""),
            ("//cdn.example/x.svg", "elsewhere", ""),
        ];
        for (address, file, suffix) in table {
            let found = match resolve_beside(&from, address) {
                BoardAddress::Beside(file, suffix) => (file.to_string(), suffix),
                BoardAddress::Outside => ("outside".to_owned(), String::new()),
                BoardAddress::Elsewhere => ("elsewhere".to_owned(), String::new()),
            };
            assert_eq!((found.0.as_str(), found.1.as_str()), (file, suffix), "{address}");
        }
    }

    #[test]
    fn addresses_of_pages_are_files_of_the_site_or_are_not_read() {
        let base = file_url(&FilePath::parse("piers/ellery.html").unwrap()).unwrap();
        let table = [
            ("a.css", "piers/a.css"),
            ("../js/a%20b.js?v=1", "js/a b.js"),
            ("/css/s.css#x", "css/s.css"),
            ("//cdn.example/x.js", "remote http://cdn.example/x.js"),
            ("data:text/css,p{}", "remote data:text/css,p{}"),
            ("../../../etc/passwd", "refused ../../../etc/passwd"),
            ("file:///etc/passwd", "refused file:///etc/passwd"),
            ("http://[", "refused http://["),
            ("/", "refused /"),
        ];
        for (address, expected) in table {
            let found = match resolve(&base, address) {
                Location::Linked(Address::Local(file)) => file.to_string(),
                Location::Linked(Address::Remote(url)) => format!("remote {url}"),
                Location::Refused(address) => format!("refused {address}"),
                Location::Inline => "inline".to_owned(),
            };
            assert_eq!(found, expected, "{address}");
        }
        let sheet = FilePath::parse("css/a.css").unwrap();
        assert_eq!(resolve_in(&sheet, "../c.css").local().map(FilePath::as_str), Some("c.css"));
        assert_eq!(encode_path("piers/Port Ellery/#1"), "piers/Port%20Ellery/%231");
        assert_eq!(encode_segment("a b/c"), "a%20b%2Fc");
        assert_eq!((depth_of(&base), is_on_site(&base), file_of(&base).is_some()), (1, true, true));
    }
}
