//! Goes over the pages of a server.

use std::collections::{BTreeMap, BTreeSet};

use deft_pin_core::live::{
    AssetText, Held, HeldPage, PartKind, PartState, PublishedPart, ServedPage, file_name, held,
};
use indicatif::ProgressBar;
use url::Url;

use super::assets::{Assets, answered};
use super::probed::{Probed, ProbedAsset, ProbedPage};
use super::publication::{Publication, PublishedAsset};
use super::sources::Looking;
use crate::fetching::{FetchProblem, Fetched, Fetcher, as_utf8, in_turn, page_bytes};
use crate::output;

/// How many files one page may link that are looked into.
const MOST_ASSETS: usize = 200;

/// How a server is probed.
pub struct Probe<'p> {
    /// Asks the server.
    pub fetcher: &'p Fetcher,
    /// What was published.
    pub publication: &'p Publication,
    /// How pages are looked at.
    pub looking: &'p Looking,
    /// Whether blocks stand in frames on the host.
    pub is_framed: bool,
    /// The address of the folder for uploads, where the host has one.
    pub uploads: Option<String>,
}

impl Probe<'_> {
    /// Goes over pages, by their paths.
    pub fn go(&self, pages: &[String], bar: &ProgressBar) -> Probed {
        let assets = Assets::new(self.fetcher, self.publication);
        let mut rows = in_turn(pages, |page| {
            let row = self.page(page, &assets);
            bar.inc(1);
            row
        });
        stripped(&mut rows);
        let files = self.files(&rows, &assets);
        for part in rows.iter_mut().flat_map(|page| &mut page.parts) {
            let name = part.address.as_deref().and_then(file_name);
            let file = name.and_then(|name| files.get(name)).filter(|file| file.state != PartState::Live);
            // A part is live when its file is.
            if let Some(file) = file.filter(|_| part.state == PartState::Live) {
                part.state = file.state;
                part.release = file.release;
                part.message = format!("its file `{}`: {}", file.place, file.message);
            }
        }
        Probed {
            url: self.fetcher.start.to_string(),
            release: self.publication.release.release,
            not_asked: self.publication.pages.keys().filter(|page| !pages.contains(page)).count(),
            pages: rows,
            assets: files.into_values().collect(),
        }
    }

    fn address(&self, page: &str) -> Option<Url> {
        let mut base = self.fetcher.start.clone();
        base.set_query(None);
        base.set_fragment(None);
        if !base.path().ends_with('/') {
            base.set_path(&format!("{}/", base.path()));
        }
        // A path is text: what would be a query or the like in an address is written otherwise.
        let path = page.trim_start_matches('/').replace('%', "%25").replace('?', "%3F").replace('#', "%23");
        base.join(&format!("./{path}")).ok()
    }

    fn page(&self, page: &str, assets: &Assets<'_>) -> ProbedPage {
        let url = self.address(page);
        let mut row = ProbedPage {
            page: page.to_owned(),
            address: url.as_ref().map(Url::to_string).unwrap_or_default(),
            status: None,
            message: None,
            is_read: false,
            parts: Vec::new(),
        };
        let Some(url) = url else {
            row.message = Some("its path makes no address".to_owned());
            return row;
        };
        let answer = match self.fetch(&url) {
            Ok(answer) => answer,
            Err(FetchProblem::Elsewhere(next)) => {
                row.message = Some(format!(
                    "it leads to another server, `{next}`: is the address the one of the site?"
                ));
                return row;
            }
            Err(problem) => {
                row.message = Some(problem.to_string());
                return row;
            }
        };
        row.status = Some(answer.status);
        if let Some(message) = not_the_page(page, &url, &answer) {
            row.message = Some(message);
            return row;
        }
        row.is_read = true;
        row.parts = match self.looked_at(page, &answer, assets) {
            Ok(parts) => parts,
            Err(message) => {
                row.is_read = false;
                row.message = Some(message);
                return row;
            }
        };
        let is_old = |part: &Held| matches!(part.state, PartState::Stale | PartState::Missing);
        if row.parts.iter().any(is_old) && !self.looking.has_run() {
            row.message = self.past_caches(page, &url, &answer, &row.parts, assets);
        }
        row
    }

    /// Asks for a page; where there is none of that name, as servers without `.html` in their addresses have it.
    fn fetch(&self, url: &Url) -> Result<Fetched, FetchProblem> {
        let answer = self.fetcher.fetch(url)?;
        let short = url.path().strip_suffix(".html").or_else(|| url.path().strip_suffix(".htm"));
        match short {
            Some(short) if matches!(answer.status, 404 | 410) => {
                let mut other = url.clone();
                other.set_path(short);
                match self.fetcher.fetch(&other) {
                    Ok(other) if other.status == 200 => Ok(other),
                    _ => Ok(answer),
                }
            }
            _ => Ok(answer),
        }
    }

    /// Holds a page against what was published for it.
    fn looked_at(&self, page: &str, answer: &Fetched, assets: &Assets<'_>) -> Result<Vec<Held>, String> {
        let Some(text) = self.looking.in_window(answer.url.as_str()) else {
            return Ok(self.held_against(page, answer, &page_bytes(&answer.body, answer.charset()), assets));
        };
        let text =
            text.map_err(|error| format!("the browser does not show it: {}", output::reasons(&error)))?;
        Ok(self.held_against(page, answer, &as_utf8(&text), assets))
    }

    fn held_against(&self, page: &str, answer: &Fetched, bytes: &[u8], assets: &Assets<'_>) -> Vec<Held> {
        let mut served = ServedPage::read(bytes);
        let base = served.base.as_deref().and_then(|base| answer.url.join(base).ok());
        let base = base.unwrap_or_else(|| answer.url.clone());
        if self.is_framed {
            for frame in std::mem::take(&mut served.frames) {
                let inner = base.join(&frame).ok().filter(|url| self.fetcher.is_of_server(url));
                let Some(Ok(inner)) = inner.map(|url| self.fetcher.fetch(&url)) else { continue };
                if inner.status == 200 && inner.is_page() {
                    served.add_frame(&page_bytes(&inner.body, inner.charset()));
                }
            }
        }
        let mut linked = BTreeMap::new();
        for (number, there) in served.elements.iter_mut().enumerate() {
            let Some(url) = there.own.address.as_deref().and_then(|own| base.join(own.trim()).ok()) else {
                continue;
            };
            // Files of pins are held against what they were; they stand for themselves.
            let is_published =
                there.own.file_name().is_some_and(|name| self.publication.assets.contains_key(name));
            if number < MOST_ASSETS && !is_published && self.fetcher.is_of_server(&url) {
                linked.insert(url.to_string(), assets.get(&url, Some(there.kind)));
            }
            there.own.address = Some(url.to_string());
        }
        let files: Vec<&AssetText> = linked.values().filter_map(|own| own.text.as_ref()).collect();
        let all = &self.publication.parts;
        let own: &[usize] = self.publication.pages.get(page).map_or(&[], Vec::as_slice);
        let parts: Vec<&PublishedPart> = own.iter().map(|number| &all[*number]).collect();
        let others = self.publication.everywhere.iter().filter(|number| !own.contains(number));
        let others: Vec<&PublishedPart> = others.map(|number| &all[*number]).collect();
        held(&HeldPage {
            page: &served,
            assets: &files,
            parts: &parts,
            others: &others,
            archive: &self.publication.archive,
            release: self.publication.release.release,
            has_run: self.looking.has_run(),
        })
    }

    /// Whether it is a cache alone that has not seen the release yet.
    fn past_caches(
        &self,
        page: &str,
        url: &Url,
        first: &Fetched,
        before: &[Held],
        assets: &Assets<'_>,
    ) -> Option<String> {
        let answer = self.fetcher.fetch_past_caches(url).ok()?;
        if answer.status != 200 || answer.body == first.body {
            return first.cache();
        }
        let count = |parts: &[Held]| parts.iter().filter(|part| part.state != PartState::Live).count();
        let after = self.looked_at(page, &answer, assets).ok()?;
        (count(&after) < count(before)).then(|| {
            let kept = first.kept_for();
            let kept = if kept.is_empty() { String::new() } else { format!(" (`Cache-Control: {kept}`)") };
            format!("a cache holds an old copy{kept}: past it, it is live")
        })
    }

    /// The files that go along, each where pages link it, or else where it was put.
    fn files(&self, pages: &[ProbedPage], assets: &Assets<'_>) -> BTreeMap<String, ProbedAsset> {
        let mut linked: BTreeMap<&str, BTreeSet<&str>> = BTreeMap::new();
        for part in pages.iter().flat_map(|page| &page.parts) {
            let Some(address) = part.address.as_deref() else { continue };
            if let Some(name) = file_name(address) {
                linked.entry(name).or_default().insert(address);
            }
        }
        let all: Vec<(&String, &PublishedAsset)> = self.publication.assets.iter().collect();
        let rows = in_turn(&all, |(name, own)| {
            let address = linked.get(name.as_str()).and_then(|list| list.first().copied());
            let url = match address {
                Some(address) => Url::parse(address).ok(),
                None if own.is_upload => {
                    self.fetcher.start.join(self.uploads.as_deref()?).ok().and_then(|mut folder| {
                        folder.set_path(&format!("{}/", folder.path().trim_end_matches('/')));
                        folder.join(name).ok()
                    })
                }
                None => self.address(&own.place),
            }?;
            Some(((*name).clone(), assets.probed(own, &url)))
        });
        rows.into_iter().flatten().collect()
    }
}

/// Where no element of one kind has come through, of several pieces, and others have, the host takes that kind out:
/// nobody has forgotten to paste them.
fn stripped(pages: &mut [ProbedPage]) {
    let is_script = |part: &Held| matches!(part.kind, PartKind::Script | PartKind::Guard);
    for (tag, of_scripts) in [("script", true), ("style", false)] {
        let all = || pages.iter().flat_map(|page| &page.parts).filter(|part| part.piece.is_some());
        let is_there = |part: &Held| !matches!(part.state, PartState::Missing | PartState::Altered);
        let own = || all().filter(|part| is_script(part) == of_scripts && part.kind != PartKind::Markup);
        let pieces: BTreeSet<&str> = own().filter_map(|part| part.piece.as_deref()).collect();
        let others_are = all().any(|part| is_script(part) != of_scripts && is_there(part));
        if pieces.len() < 2 || own().any(is_there) || !others_are {
            continue;
        }
        let parts = pages.iter_mut().flat_map(|page| &mut page.parts);
        for part in parts.filter(|part| part.piece.is_some() && part.state == PartState::Missing) {
            if is_script(part) == of_scripts && part.kind != PartKind::Markup {
                part.state = PartState::Altered;
                part.message = format!(
                    "no `<{tag}>` of any piece is there, and other parts are: the host takes that tag out. Say so under `[host]`, `strips = [\"{tag}\"]`, and `check` and `paste` know"
                );
            }
        }
    }
}

/// Why an answer is not the page that was asked for; none where it is.
fn not_the_page(page: &str, asked: &Url, answer: &Fetched) -> Option<String> {
    if matches!(answer.status, 404 | 410) {
        return Some("the page is gone: take it off the board, or bring it back".to_owned());
    }
    if matches!(answer.status, 401 | 403) {
        return Some(format!("{}: it wants a login", answered(answer.status)));
    }
    if answer.status != 200 {
        return Some(answered(answer.status));
    }
    if plain_path(asked) != plain_path(&answer.url) {
        return Some(format!("`{page}` leads to `{}`: the page is gone", answer.url.path()));
    }
    if !answer.is_page() && !answer.kind().is_empty() {
        return Some(format!("it is no page: it comes as `{}`", answer.kind()));
    }
    None
}

/// The path of an address without what servers write in several ways.
fn plain_path(url: &Url) -> String {
    let path = url.path().trim_end_matches('/');
    let path = path.strip_suffix("/index.html").or_else(|| path.strip_suffix("/index.htm")).unwrap_or(path);
    let path = path.strip_suffix(".html").or_else(|| path.strip_suffix(".htm")).unwrap_or(path);
    path.to_owned()
}
