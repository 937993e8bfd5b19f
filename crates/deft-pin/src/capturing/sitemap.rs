//! Site maps: the pages that a server names itself (sitemaps.org, protocol 0.9).

use url::Url;

use crate::fetching::{Fetcher, decoded_body};

/// How many maps are read: one may name others.
const MOST_MAPS: usize = 50;
/// How many pages are taken from them.
const MOST_PAGES: usize = 50_000;

/// The pages that a server's site maps name.
pub(super) fn named_pages(fetcher: &Fetcher) -> Vec<Url> {
    let mut maps: Vec<Url> =
        fetcher.robots().sitemaps().iter().filter_map(|own| Url::parse(own).ok()).collect();
    if maps.is_empty() {
        maps.extend(fetcher.start.join("/sitemap.xml"));
    }
    let (mut pages, mut number) = (Vec::new(), 0);
    while let Some(map) = maps.get(number).cloned().filter(|_| number < MOST_MAPS && pages.len() < MOST_PAGES)
    {
        number += 1;
        if !fetcher.is_of_server(&map) {
            continue;
        }
        let Ok(answer) = fetcher.fetch(&map) else { continue };
        if answer.status != 200 {
            continue;
        }
        let is_packed = answer.body.starts_with(&[0x1f, 0x8b]);
        let body = match is_packed {
            true => decoded_body("gzip", std::io::Cursor::new(answer.body)).unwrap_or_default(),
            false => answer.body,
        };
        for own in read(&String::from_utf8_lossy(&body)) {
            match own {
                Named::Page(url) => pages.push(url),
                Named::Map(url) if !maps.contains(&url) => maps.push(url),
                Named::Map(_) => {}
            }
        }
    }
    pages.truncate(MOST_PAGES);
    pages.retain(|url| fetcher.is_of_server(url));
    pages
}

#[derive(Debug, PartialEq, Eq)]
enum Named {
    Page(Url),
    Map(Url),
}

/// What a map names; a list of addresses, a line each, is one too.
fn read(text: &str) -> Vec<Named> {
    let text = text.trim_start_matches('\u{feff}').trim_start();
    if !text.starts_with('<') {
        return text.lines().filter_map(|line| Url::parse(line.trim()).ok()).map(Named::Page).collect();
    }
    let Ok(document) = roxmltree::Document::parse(text) else { return Vec::new() };
    let own =
        document.descendants().filter(|node| node.has_tag_name("loc") || node.tag_name().name() == "loc");
    own.filter_map(|node| {
        let url = Url::parse(node.text()?.trim()).ok()?;
        match node.parent_element()?.tag_name().name() {
            "url" => Some(Named::Page(url)),
            "sitemap" => Some(Named::Map(url)),
            _ => None,
        }
    })
    .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn maps_name_pages_and_maps() {
        let url = |own: &str| Url::parse(own).unwrap();
        let xml = "<?xml version='1.0'?><urlset xmlns='http://www.sitemaps.org/schemas/sitemap/0.9'>
            <url><loc> http://f.example/a?b=1&amp;c=2 </loc></url><url><loc>no address</loc></url></urlset>";
        assert_eq!(read(xml), [Named::Page(url("http://f.example/a?b=1&c=2"))]);
        let xml = "\u{feff}<sitemapindex><sitemap><loc>http://f.example/2.xml</loc></sitemap></sitemapindex>";
        assert_eq!(read(xml), [Named::Map(url("http://f.example/2.xml"))]);
        assert_eq!(read("http://f.example/a\nhttp://f.example/b\n").len(), 2);
        assert_eq!(read("<urlset><url><loc>http://f.example/a</loc>"), []);
        // Entities that grow are not expanded.
        assert_eq!(
            read(
                "<!DOCTYPE x [<!ENTITY a 'aaaa'>]><urlset><url><loc>http://f.example/&a;</loc></url></urlset>"
            ),
            []
        );
    }
}
