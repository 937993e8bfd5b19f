//! What a page loads: style sheets and scripts, in it or linked, and what sheets import.

use html5ever::{LocalName, local_name, ns};
use percent_encoding::percent_decode_str;
use url::Url;

use super::address::{encode_path, host};
use super::pages::Page;
use crate::markup::{Document, ElementRef, NodeId};
use crate::source::FilePath;

/// What is loaded.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LoadKind {
    /// A style sheet.
    Style,
    /// A script.
    Script,
}

/// Where it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum LoadTarget {
    /// The text of an element of the page.
    Inline(NodeId),
    /// A file of the site, as seen from its root.
    Local(FilePath),
    /// Another host, or an address that carries its own data.
    Remote(String),
    /// An address that leads out of the site's folder, or is none; it is not read.
    Refused(String),
}

/// One thing that a page loads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Load {
    /// A style sheet or a script.
    pub kind: LoadKind,
    /// Where it is.
    pub target: LoadTarget,
    /// The element that loads it.
    pub element: NodeId,
}

/// What a page loads, in the order of the document. Sheets that these import are not followed:
/// [`style_imports`] tells them for each sheet.
pub fn loads(document: &Document, page: &Page) -> Vec<Load> {
    let Some(base) = base_url(document, page) else { return Vec::new() };
    document.elements().filter_map(|element| load_of(element, &base)).collect()
}

/// The URL that a page's relative addresses start from: that of its first `<base href>`, else
/// its own (HTML 2.4.2).
fn base_url(document: &Document, page: &Page) -> Option<Url> {
    let own = file_url(&page.file)?;
    let based =
        base_element(document).and_then(|base| own.join(base.attr(&local_name!("href"))?.trim()).ok());
    Some(based.unwrap_or(own))
}

/// The way from a page up to the top of its site, as a browser goes it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Base {
    /// Execution many folders up from the page itself.
    pub own_up: usize,
    /// Execution many folders up from its `<base>`; `None` where that is on another host.
    pub up: Option<usize>,
    /// The `<base>`, where there is one.
    pub element: Option<NodeId>,
}

impl Base {
    /// The way up from one page.
    pub fn of(document: &Document, page: &Page) -> Self {
        let folders = |url: &Url| url.path().matches('/').count().saturating_sub(1);
        let own_up = page.file.as_str().matches('/').count();
        if base_element(document).is_none() {
            return Base { own_up, up: Some(own_up), element: None };
        }
        let base = base_url(document, page).filter(|base| base.host_str() == Some("site.invalid"));
        Base { own_up, up: base.as_ref().map(folders), element: base_element(document).map(|base| base.id) }
    }
}

/// The URL of a file of the site, on the host that stands for the site's own.
fn file_url(file: &FilePath) -> Option<Url> {
    host().join(&encode_path(file.as_str())).ok()
}

/// The first `<base>` with an address.
fn base_element(document: &Document) -> Option<ElementRef<'_>> {
    document.base()
}

fn load_of(element: ElementRef<'_>, base: &Url) -> Option<Load> {
    if element.name.ns == ns!(svg) && element.name.local == local_name!("script") {
        // An address counts for the first of the two that is there (SVG 2, 16.1.3).
        let href = element.attrs.iter().find(|own| own.name.ns == ns!() && &*own.name.local == "href");
        let old = || element.attrs.iter().find(|own| own.name.ns == ns!(xlink) && &*own.name.local == "href");
        let target = match href.or_else(old) {
            Some(href) => resolve(base, &href.value),
            None => LoadTarget::Inline(element.id),
        };
        return Some(Load { kind: LoadKind::Script, target, element: element.id });
    }
    if element.name.ns != ns!(html) {
        return None;
    }
    let (kind, target) = match element.name.local {
        local_name!("style") => (LoadKind::Style, LoadTarget::Inline(element.id)),
        local_name!("link") => {
            let rel = element.attr(&local_name!("rel"))?;
            if !rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("stylesheet")) {
                return None;
            }
            (LoadKind::Style, resolve(base, element.attr(&local_name!("href"))?))
        }
        local_name!("script") => match element.attr(&LocalName::from("src")) {
            Some(src) => (LoadKind::Script, resolve(base, src)),
            None => (LoadKind::Script, LoadTarget::Inline(element.id)),
        },
        _ => return None,
    };
    Some(Load { kind, target, element: element.id })
}

/// What an address in a sheet means.
pub fn address_in(sheet: &FilePath, address: &str) -> LoadTarget {
    match file_url(sheet) {
        Some(base) => resolve(&base, address),
        None => LoadTarget::Refused(address.to_owned()),
    }
}

/// The file, as seen from the site's root, or the other place that an address means.
fn resolve(base: &Url, address: &str) -> LoadTarget {
    let address = address.trim();
    let Ok(url) = base.join(address) else { return LoadTarget::Refused(address.to_owned()) };
    let local = url.host_str() == Some("site.invalid");
    if !local {
        return match url.scheme() {
            "file" => LoadTarget::Refused(address.to_owned()),
            _ => LoadTarget::Remote(url.to_string()),
        };
    }
    if climbs_out(base, address) {
        return LoadTarget::Refused(address.to_owned());
    }
    let path = percent_decode_str(url.path()).decode_utf8_lossy().into_owned();
    match FilePath::parse(path.trim_start_matches('/')) {
        Ok(path) => LoadTarget::Local(path),
        Err(_) => LoadTarget::Refused(address.to_owned()),
    }
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::parse;

    #[test]
    fn addresses_resolve_against_the_page_and_its_base() {
        let html = "<!doctype html><link rel='alternate stylesheet' href=a.css><link rel=icon href=i.png>\
            <script src=../js/a%20b.js?v=1></script><script>x()</script><script src=//cdn.example/x.js></script>\
            <style>p{}</style><script src=../../../etc/passwd></script><link rel=stylesheet href=/css/s.css>\
            <link rel=stylesheet href='data:text/css,p{}'>";
        let page = Page::new(FilePath::parse("piers/ellery.html").unwrap());
        let found = |html: &str| {
            let (_, document) = parse(html.as_bytes());
            let targets = loads(&document, &page).into_iter().map(|load| match load.target {
                LoadTarget::Inline(_) => "inline".to_owned(),
                LoadTarget::Local(path) => path.to_string(),
                LoadTarget::Remote(url) => format!("remote {}", &url[..10]),
                LoadTarget::Refused(address) => format!("refused {address}"),
            });
            targets.collect::<Vec<_>>()
        };
        let expected = [
            "piers/a.css", "js/a b.js", "inline", "remote http://cdn", "inline",
            "refused ../../../etc/passwd", "css/s.css", "remote data:text/",
        ];
        assert_eq!(found(html), expected);
        assert_eq!(found("<base href=/old/><script src=x.js></script>"), ["old/x.js"]);
        assert_eq!(
            found("<base href=http://else.example/><script src=x.js></script>"),
            ["remote http://els"]
        );
        let sheet = FilePath::parse("css/a.css").unwrap();
        assert_eq!(address_in(&sheet, "../c.css"), LoadTarget::Local(FilePath::parse("c.css").unwrap()));
    }
}
