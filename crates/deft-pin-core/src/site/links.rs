//! Where a page and its files lead: other pages, and what they load.

use html5ever::{LocalName, local_name};

use crate::markup::{Document, ElementRef};
use crate::style;

/// An address in a page or a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Link {
    /// The address, as it is written.
    pub address: String,
    /// What it leads to.
    pub to: LinkTo,
}

/// What an address leads to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LinkTo {
    /// Most likely a page.
    Page,
    /// A style sheet.
    Sheet,
    /// A script.
    Script,
    /// A script that is a module.
    Module,
    /// A picture, a font or another file.
    File,
    /// What a script may load later, by its attribute: it need not be there.
    Perhaps,
}

/// Every address in a page, in order.
pub fn links(document: &Document) -> Vec<Link> {
    let mut found = Vec::new();
    document.elements().for_each(|element| of_element(document, element, &mut found));
    found.retain(|link| is_address(&link.address));
    found
}

/// Every address in a sheet.
pub fn links_of_sheet(text: &str) -> Vec<Link> {
    let own = style::urls(text).into_iter();
    let links =
        own.map(|own| Link { to: if own.import { LinkTo::Sheet } else { LinkTo::File }, address: own.url });
    links.filter(|link| is_address(&link.address)).collect()
}

/// What in a script looks like the address of a file that it may load: a string that ends as such files are called. As
/// browsers have it, it is seen from the page, not from the script's own file.
pub fn links_of_script(text: &str) -> Vec<Link> {
    let mut found = Vec::new();
    let mut rest = text;
    while let Some(at) = rest.find(['"', '\'', '`']) {
        let quote = rest.as_bytes()[at];
        let inner = &rest[at + 1..];
        // Strings of this kind have no escapes in them, and are short.
        let end = inner.bytes().take(LONGEST_STRING).position(|own| own == quote || own == b'\n');
        let string = end.map(|end| &inner.as_bytes()[..end]).and_then(|own| std::str::from_utf8(own).ok());
        match string.filter(|own| is_file_name(own)) {
            Some(own) => {
                found.push(Link { address: own.to_owned(), to: LinkTo::Perhaps });
                rest = &inner[own.len() + 1..];
            }
            None => rest = inner,
        }
    }
    found
}

/// The longest string in a script that is taken for an address, in bytes.
const LONGEST_STRING: usize = 300;

/// How the names of files end that pages load.
const ENDINGS: [&str; 22] = [
    "css", "js", "mjs", "json", "png", "jpg", "jpeg", "gif", "webp", "avif", "svg", "ico", "woff", "woff2",
    "ttf", "otf", "mp3", "mp4", "webm", "ogg", "vtt", "wasm",
];

fn is_file_name(text: &str) -> bool {
    let path = text.split(['?', '#']).next().unwrap_or_default();
    let is_kept =
        |c: char| c.is_alphanumeric() || matches!(c, '/' | '.' | '-' | '_' | '~' | '%' | '@' | '+' | ':');
    let Some((stem, ending)) = path.rsplit_once('.') else { return false };
    !stem.is_empty() && !stem.ends_with('/') && path.chars().all(is_kept) && ENDINGS.contains(&ending)
}

/// Whether an address leads anywhere but to the page itself.
fn is_address(address: &str) -> bool {
    let address = address.trim();
    let scheme = address.split_once(':').map(|(scheme, _)| scheme.to_ascii_lowercase());
    let is_other = matches!(
        scheme.as_deref(),
        Some("mailto" | "tel" | "javascript" | "data" | "blob" | "about" | "sms")
    );
    !(address.is_empty() || address.starts_with('#') || is_other)
}

fn of_element(document: &Document, element: ElementRef<'_>, found: &mut Vec<Link>) {
    let name = &*element.data().name.local;
    let mut add = |address: Option<&str>, to: LinkTo| {
        found.extend(address.map(|address| Link { address: address.to_owned(), to }));
    };
    let attribute = |name: &str| element.data().attr(&LocalName::from(name));
    match name {
        "a" | "area" => add(attribute("href"), LinkTo::Page),
        "iframe" | "frame" => add(attribute("src"), LinkTo::Page),
        "script" => {
            let is_module = attribute("type").is_some_and(|own| own.trim().eq_ignore_ascii_case("module"));
            add(attribute("src"), if is_module { LinkTo::Module } else { LinkTo::Script });
            if attribute("src").is_none() {
                found.extend(links_of_script(&document.text_of(element.id)));
            }
        }
        "link" => {
            if let Some(to) = of_link(attribute("rel"), attribute("as")) {
                add(attribute("href"), to);
            }
        }
        "img" | "source" | "audio" | "video" | "track" | "embed" | "input" => {
            add(attribute("src"), LinkTo::File);
            add(attribute("poster"), LinkTo::File);
        }
        "object" => add(attribute("data"), LinkTo::File),
        "body" | "table" | "td" | "th" => add(attribute("background"), LinkTo::File),
        "image" | "use" | "feImage" => {
            let attributes = element.data().attrs.iter();
            let own = attributes.filter(|own| &*own.name.local == "href");
            own.for_each(|own| add(Some(&own.value), LinkTo::File));
        }
        "meta" if attribute("http-equiv").is_some_and(|own| own.eq_ignore_ascii_case("refresh")) => {
            add(attribute("content").and_then(refreshed), LinkTo::Page);
        }
        "style" => found.extend(links_of_sheet(&document.text_of(element.id))),
        _ => {}
    }
    let mut add = |address: &str, to: LinkTo| found.push(Link { address: address.to_owned(), to });
    for own in &element.data().attrs {
        match &*own.name.local {
            "srcset" | "imagesrcset" => sources(&own.value).for_each(|address| add(address, LinkTo::File)),
            "data-srcset" => sources(&own.value).for_each(|address| add(address, LinkTo::Perhaps)),
            "data-src" | "data-background" | "data-bg" | "data-poster" => add(&own.value, LinkTo::Perhaps),
            _ => {}
        }
    }
    if let Some(style) = element.data().attr(&local_name!("style")) {
        found.extend(links_of_sheet(style));
    }
}

/// What the `rel` of a `<link>` leads to; none for services, feeds and the like, which a page does not load.
fn of_link(rel: Option<&str>, kind: Option<&str>) -> Option<LinkTo> {
    let rel = rel.unwrap_or_default().to_ascii_lowercase();
    let has = |word: &str| rel.split_ascii_whitespace().any(|own| own == word);
    Some(match kind.unwrap_or_default() {
        _ if has("stylesheet") => LinkTo::Sheet,
        _ if has("modulepreload") => LinkTo::Module,
        "style" if has("preload") => LinkTo::Sheet,
        "script" if has("preload") => LinkTo::Script,
        _ if has("icon")
            || has("preload")
            || has("apple-touch-icon")
            || has("manifest")
            || has("mask-icon") =>
        {
            LinkTo::File
        }
        _ if has("next") || has("prev") || has("canonical") || has("start") || has("contents") => {
            LinkTo::Page
        }
        _ => return None,
    })
}

/// The addresses in a `srcset` (HTML, "parse a srcset attribute"): each runs to a blank, and a comma at its end parts.
fn sources(value: &str) -> impl Iterator<Item = &str> {
    let mut rest = value;
    std::iter::from_fn(move || {
        rest = rest.trim_start_matches(|c: char| c.is_ascii_whitespace() || c == ',');
        let end = rest.find(|c: char| c.is_ascii_whitespace()).unwrap_or(rest.len());
        let (address, behind) = rest.split_at(end);
        let own = address.trim_end_matches(',');
        rest = match own.len() < address.len() {
            true => behind,
            // Widths and densities, in parentheses perhaps.
            false => behind.find(',').map_or("", |at| &behind[at + 1..]),
        };
        (!own.is_empty()).then_some(own)
    })
}

/// The address in the `content` of a refresh: `5; url=/fares/`.
fn refreshed(content: &str) -> Option<&str> {
    let (_, rest) = content.split_once([';', ','])?;
    let rest = rest.trim();
    let is_named = rest.get(..3).is_some_and(|own| own.eq_ignore_ascii_case("url"));
    let rest = if is_named { rest[3..].trim_start().strip_prefix('=')?.trim() } else { rest };
    Some(rest.trim_matches(['"', '\'']))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::markup::parse;

    #[test]
    fn every_address_of_a_page_is_found() {
        let table = [
            ("<a href=/fares/>", "Page /fares/"),
            ("<a href=#top><a href=mailto:x@y><a>", ""),
            ("<script src=a.js></script><script type=module src=b.js></script>", "Script a.js, Module b.js"),
            (
                "<link rel='stylesheet' href=a.css><link rel=icon href=i.png><link rel=pingback href=/x>",
                "Sheet a.css, File i.png",
            ),
            (
                "<link rel=preload as=font href=f.woff2><link rel=modulepreload href=m.js>",
                "File f.woff2, Module m.js",
            ),
            (
                "<img src=a.png srcset='b.png 1x, c.png 2x,d.png'>",
                "File a.png, File b.png, File c.png, File d.png",
            ),
            ("<img data-src=l.png><video poster=p.png src=v.mp4>", "Perhaps l.png, File v.mp4, File p.png"),
            (
                "<p style='background: url(b.png)'><style>@import 'c.css'; a { b: url(d.svg) }</style>",
                "File b.png, Sheet c.css, File d.svg",
            ),
            ("<svg><use href='i.svg#a'/><image xlink:href=j.png /></svg>", "File i.svg#a, File j.png"),
            ("<meta http-equiv=refresh content='0; URL=\"/new/\"'>", "Page /new/"),
            ("<img src='data:image/png;base64,x'><iframe src=/map></iframe>", "Page /map"),
            ("<img srcset='data:,a 1x, b,c.png 2x'>", "File b,c.png"),
            (
                "<script>it's(\"style/a.css\"); go('/d/b.json?c', `no ${x}.png`, 'two words.js', '.js', \"x\ny.js\", 'e.html')</script>",
                "Perhaps style/a.css, Perhaps /d/b.json?c",
            ),
        ];
        for (html, expected) in table {
            let (_, document) = parse(html.as_bytes());
            let told: Vec<String> =
                links(&document).iter().map(|own| format!("{:?} {}", own.to, own.address)).collect();
            assert_eq!(told.join(", "), expected, "{html}");
        }
    }
}
