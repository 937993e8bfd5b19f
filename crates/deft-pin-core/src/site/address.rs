//! Addresses: the host that stands for the site's own, and names as URLs have them.

use std::sync::LazyLock;

use percent_encoding::{AsciiSet, CONTROLS, NON_ALPHANUMERIC, utf8_percent_encode};
use url::Url;

/// The URL of the host that stands for the site's own, whatever that is: what resolves to it is
/// local.
pub(super) fn host() -> Url {
    static HOST: LazyLock<Url> = LazyLock::new(|| match Url::parse("http://site.invalid/") {
        Ok(url) => url,
        Err(_) => unreachable!("a URL written here"),
    });
    HOST.clone()
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
pub(super) fn encode_path(path: &str) -> String {
    utf8_percent_encode(path, PATH).to_string()
}

/// A name as one segment of a URL's path.
pub fn encode_segment(name: &str) -> String {
    const KEPT: &AsciiSet = &NON_ALPHANUMERIC.remove(b'-').remove(b'_').remove(b'.').remove(b'~');
    utf8_percent_encode(name, KEPT).to_string()
}
