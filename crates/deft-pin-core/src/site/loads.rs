//! What a page loads: style sheets and scripts, in it or linked.

use encoding_rs::Encoding;
use html5ever::{LocalName, local_name, ns};
use url::Url;

use super::pages::Page;
use crate::code::{CodeKind, Location, depth_of, file_url, is_on_site, resolve};
use crate::markup::{Document, ElementRef, NodeId};

/// One thing that a page loads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Load {
    /// A style sheet or a script.
    pub kind: CodeKind,
    /// Where it is.
    pub location: Location,
    /// The element that loads it.
    pub element: NodeId,
}

impl Load {
    /// What it is called in an answer: its address, or `inline`.
    pub fn name(&self) -> &str {
        match &self.location {
            Location::Inline => "inline",
            Location::Linked(address) => address.as_str(),
            Location::Refused(address) => address,
        }
    }
}

/// What a page loads, in the order of the document. What sheets import is not followed here.
pub fn loads(document: &Document, page: &Page) -> Vec<Load> {
    let (Some(own), Some(base)) = (file_url(&page.file), base_url(document, page)) else {
        return Vec::new();
    };
    // What stands before the base is on its way before the parser comes to it.
    let based_from = document.base().map_or(0, |base| base.data().start());
    let of_element = |element: ElementRef<'_>| {
        load_of(element, if element.data().start() < based_from { &own } else { &base })
    };
    let mut found: Vec<Load> = document.elements().filter_map(of_element).collect();
    if document.has_shadows() {
        let inside = document.shadow_hosts().flat_map(ElementRef::shadow_elements);
        found.extend(inside.filter_map(of_element));
        found.sort_by_key(|load| document.element(load.element).map(|element| element.data().start()));
    }
    found
}

/// The encoding that the element of a linked file says the file is in.
pub(super) fn charset_of(element: ElementRef<'_>) -> Option<&'static Encoding> {
    Encoding::for_label(element.data().attr(&local_name!("charset"))?.as_bytes())
}

/// The URL that a page's relative addresses start from: that of its first `<base href>`, else
/// its own (HTML, "document base URL").
pub fn base_url(document: &Document, page: &Page) -> Option<Url> {
    let own = file_url(&page.file)?;
    let based = document.base().and_then(|base| own.join(base.attr(&local_name!("href"))?.trim()).ok());
    Some(based.unwrap_or(own))
}

/// The way from a page up to the top of its site, as a browser goes it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Base {
    /// How many folders up from the page itself.
    pub own_up: u32,
    /// How many folders up from its `<base>`; `None` where that is on another host.
    pub up: Option<u32>,
    /// The `<base>`, where there is one.
    pub element: Option<NodeId>,
}

impl Base {
    /// The way up from one page.
    pub fn of(document: &Document, page: &Page) -> Self {
        let own_up = file_url(&page.file).as_ref().map_or(0, depth_of);
        let Some(element) = document.base() else { return Base { own_up, up: Some(own_up), element: None } };
        let base = base_url(document, page).filter(is_on_site);
        Base { own_up, up: base.as_ref().map(depth_of), element: Some(element.id) }
    }
}

/// The handler of a link that makes a sheet of it, or gives it another medium, once it is loaded: a way to
/// load a sheet without holding the page up.
pub(super) fn switched_on_load(element: ElementRef<'_>) -> Option<&str> {
    let handler = element.data().attr(&LocalName::from("onload"))?;
    ["this.media", "this.rel"].iter().any(|switch| handler.contains(switch)).then_some(handler)
}

fn load_of(element: ElementRef<'_>, base: &Url) -> Option<Load> {
    let load = |kind, location| Some(Load { kind, location, element: element.id });
    let name = &element.data().name;
    if name.ns == ns!(svg) && name.local == local_name!("script") {
        // An address counts for the first of the two that is there (SVG 2, "the 'script' element").
        let attrs = &element.data().attrs;
        let href = attrs.iter().find(|own| own.name.ns == ns!() && &*own.name.local == "href");
        let old = || attrs.iter().find(|own| own.name.ns == ns!(xlink) && &*own.name.local == "href");
        return match href.or_else(old) {
            Some(href) => load(CodeKind::Script, resolve(base, &href.value)),
            None => load(CodeKind::Script, Location::Inline),
        };
    }
    if name.ns == ns!(svg) && name.local == local_name!("style") {
        return load(CodeKind::Style, Location::Inline);
    }
    if name.ns != ns!(html) {
        return None;
    }
    match name.local {
        local_name!("style") => load(CodeKind::Style, Location::Inline),
        local_name!("link") => {
            let rel = element.attr(&local_name!("rel"))?;
            let has = |kind: &str| rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case(kind));
            // One that is only fetched at first becomes a sheet by its own handler.
            let becomes_sheet = || {
                let kind = element.attr(&LocalName::from("as")).unwrap_or_default();
                has("preload") && kind.eq_ignore_ascii_case("style") && switched_on_load(element).is_some()
            };
            let is_sheet = has("stylesheet") || becomes_sheet();
            let href = element.attr(&local_name!("href")).filter(|_| is_sheet)?;
            load(CodeKind::Style, resolve(base, href))
        }
        local_name!("script") => match element.attr(&LocalName::from("src")) {
            Some(src) => load(CodeKind::Script, resolve(base, src)),
            None => load(CodeKind::Script, Location::Inline),
        },
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::code::Address;
    use crate::markup::parse;
    use crate::source::FilePath;

    #[test]
    fn addresses_resolve_against_the_page_and_its_base() {
        let html = "<!doctype html><link rel='alternate stylesheet' href=a.css><link rel=icon href=i.png>\
            <script src=../js/a%20b.js?v=1></script><script>x()</script><script src=//cdn.example/x.js></script>\
            <style>p{}</style><script src=../../../etc/passwd></script><link rel=stylesheet href=/css/s.css>\
            <link rel=stylesheet href='data:text/css,p{}'>";
        let page = Page::new(FilePath::parse("piers/ellery.html").unwrap());
        let found = |html: &str| {
            let (_, document) = parse(html.as_bytes());
            let targets = loads(&document, &page).into_iter().map(|load| match load.location {
                Location::Inline => "inline".to_owned(),
                Location::Linked(Address::Local(path)) => path.to_string(),
                Location::Linked(Address::Remote(url)) => format!("remote {}", &url[..10]),
                Location::Refused(address) => format!("refused {address}"),
            });
            targets.collect::<Vec<_>>()
        };
        let expected = [
            "piers/a.css", "js/a b.js", "inline", "remote http://cdn", "inline",
            "refused ../../../etc/passwd", "css/s.css", "remote data:text/",
        ];
        assert_eq!(found(html), expected);
        assert_eq!(found("<base href=/old/><script src=x.js></script>"), ["old/x.js"]);
        assert_eq!(found("<script src=x.js></script><base href=/old/>"), ["piers/x.js"]);
        assert_eq!(
            found("<base href=http://else.example/><script src=x.js></script>"),
            ["remote http://els"]
        );
    }

    #[test]
    fn the_way_up_is_that_of_the_base() {
        let page = Page::new(FilePath::parse("piers/ellery/index.html").unwrap());
        for (html, up) in [
            ("<p>", Some(2)),
            ("<base href=/>", Some(0)),
            ("<base href=../a/b/c/>", Some(4)),
            ("<base href=https://else.example/>", None),
            ("<base target=_top>", Some(2)),
        ] {
            let base = Base::of(&parse(html.as_bytes()).1, &page);
            assert_eq!((base.own_up, base.up), (2, up), "{html}");
        }
    }
}
