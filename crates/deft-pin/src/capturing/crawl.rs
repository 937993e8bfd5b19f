//! Follows the links of a server's pages.

use std::collections::{HashSet, VecDeque};

use anyhow::{Result, bail};
use deft_pin_core::markup::{local_name, parse};
use deft_pin_core::script::{ScriptKind, facts};
use deft_pin_core::site::{Link, LinkTo, links, links_of_script, links_of_sheet};
use indicatif::ProgressBar;
use url::Url;

use super::captured::{Captured, Left, LeftWhy};
use super::names::path_of;
use super::site_folder::{Row, SiteFolder, without_fragment};
use super::sitemap::named_pages;
use crate::fetching::{FetchProblem, Fetched, Fetcher, in_turn, page_bytes, text_of};

/// How far links are followed.
#[derive(Clone, Debug)]
pub struct Limits {
    /// How many pages are taken.
    pub pages: usize,
    /// How many links away from the first page.
    pub depth: usize,
    /// The path that pages begin with.
    pub below: String,
}

impl Limits {
    /// Whether a page is within the part of the site that is wanted.
    pub(super) fn is_below(&self, url: &Url) -> bool {
        url.path().starts_with(&self.below) || url.path() == self.below.trim_end_matches('/')
    }
}

/// How many addresses are asked for before their links are looked at.
const BATCH: usize = 32;

/// Captures the site of a server.
pub struct Crawl<'c> {
    /// Asks the server.
    pub fetcher: &'c Fetcher,
    /// The folder that the site goes into.
    pub folder: &'c mut SiteFolder,
    /// How far links are followed.
    pub limits: Limits,
}

/// An address that is to be asked for.
struct Wanted {
    url: Url,
    to: LinkTo,
    depth: usize,
    from: Option<String>,
}

impl Crawl<'_> {
    /// Goes over the site.
    ///
    /// # Errors
    /// The first page cannot be had, or nothing can be written.
    pub fn go(&mut self, bar: &ProgressBar) -> Result<Captured> {
        let mut captured = Captured::default();
        let (mut seen, mut counted) = (HashSet::new(), HashSet::new());
        let first = Wanted { url: self.fetcher.start.clone(), to: LinkTo::Page, depth: 0, from: None };
        seen.insert(without_fragment(&first.url));
        let mut queue = VecDeque::from([first]);
        let named = named_pages(self.fetcher);
        let mut is_first = true;
        while !queue.is_empty() {
            let batch = self.batch(&mut queue, if is_first { 1 } else { BATCH }, &mut captured);
            let fetcher = self.fetcher;
            let folder = &*self.folder;
            let answers = in_turn(&batch, |wanted| match folder.row(&wanted.url) {
                Some(_) => None,
                None => Some(fetcher.fetch(&wanted.url)),
            });
            for (wanted, answer) in batch.iter().zip(answers) {
                bar.inc(1);
                let row = match answer {
                    None => self.folder.row(&wanted.url).cloned().inspect(|_| captured.kept += 1),
                    Some(answer) => self.taken(wanted, answer, &mut captured)?,
                };
                let Some(row) = row else { continue };
                // Two addresses may be one file: `/fares/` and `/fares/index.html`.
                if counted.insert(row.file.clone()) {
                    captured.pages += usize::from(row.page);
                    captured.files += usize::from(!row.page);
                }
                for link in self.links_of(&row, wanted)? {
                    self.follow(wanted, &row, &link, &mut seen, &mut queue, &mut captured);
                }
            }
            if std::mem::take(&mut is_first) {
                if captured.pages + captured.files == 0 {
                    let why = captured.left.first().map_or("nothing is there", |own| own.message.as_str());
                    bail!("`{}` cannot be captured: {why}", self.fetcher.start);
                }
                for url in &named {
                    if self.limits.is_below(url) && seen.insert(without_fragment(url)) {
                        queue.push_back(Wanted { url: url.clone(), to: LinkTo::Page, depth: 1, from: None });
                    }
                }
            }
            bar.set_length((bar.position() + queue.len() as u64).max(1));
        }
        captured.left.sort();
        Ok(captured)
    }

    /// The next addresses to ask for, so many at most, and no more pages than there may be.
    fn batch(&self, queue: &mut VecDeque<Wanted>, most: usize, captured: &mut Captured) -> Vec<Wanted> {
        let (mut batch, mut pages) = (Vec::new(), captured.pages);
        while let Some(wanted) = if batch.len() < most { queue.pop_front() } else { None } {
            let is_page = wanted.to == LinkTo::Page;
            if is_page && captured.pages >= self.limits.pages {
                captured.beyond += 1;
                continue;
            }
            // Some of those on the way may turn out to be none.
            if is_page && pages >= self.limits.pages {
                queue.push_front(wanted);
                break;
            }
            pages += usize::from(is_page);
            batch.push(wanted);
        }
        batch
    }

    /// Takes an answer into the folder, or notes why not.
    fn taken(
        &mut self,
        wanted: &Wanted,
        answer: Result<Fetched, FetchProblem>,
        captured: &mut Captured,
    ) -> Result<Option<Row>> {
        let left = |why: LeftWhy, message: String| Left {
            why,
            url: wanted.url.to_string(),
            from: wanted.from.clone(),
            message,
        };
        let answer = match answer {
            Ok(answer) => answer,
            Err(FetchProblem::Robots) => {
                captured.left.push(left(LeftWhy::Robots, FetchProblem::Robots.to_string()));
                return Ok(None);
            }
            Err(FetchProblem::Elsewhere(next)) if wanted.to == LinkTo::Page && wanted.from.is_some() => {
                let is_login = says_login(&next);
                let message = format!("it leads to another server: `{next}`");
                captured.left.push(left(if is_login { LeftWhy::Login } else { LeftWhy::Problem }, message));
                return Ok(None);
            }
            Err(problem) => {
                captured.left.push(left(LeftWhy::Problem, problem.to_string()));
                return Ok(None);
            }
        };
        match answer.status {
            200 | 203 => {}
            401 | 403 | 407 => {
                let message = format!("it wants a login: the server answers {}", answer.status);
                captured.left.push(left(LeftWhy::Login, message));
                return Ok(None);
            }
            404 | 410 => {
                if wanted.to != LinkTo::Perhaps {
                    captured
                        .left
                        .push(left(LeftWhy::Missing, format!("the server answers {}", answer.status)));
                }
                return Ok(None);
            }
            status => {
                captured.left.push(left(LeftWhy::Problem, format!("the server answers {status}")));
                return Ok(None);
            }
        }
        if without_fragment(&answer.url) != without_fragment(&wanted.url) {
            captured.redirects.push((wanted.url.to_string(), answer.url.to_string()));
            if wanted.to == LinkTo::Page && says_login(answer.url.path()) && !says_login(wanted.url.path()) {
                let message = format!("it wants a login: it leads to `{}`", answer.url.path());
                captured.left.push(left(LeftWhy::Login, message));
                return Ok(None);
            }
            if self.folder.row(&answer.url).is_some()
                || !self.limits.is_below(&answer.url) && wanted.to == LinkTo::Page
            {
                return Ok(None);
            }
        }
        let row = self.folder.take(&answer.url, &answer)?;
        if is_renamed(&answer.url, &row) {
            captured.renamed.push((answer.url.to_string(), row.file.clone()));
        }
        Ok(Some(row))
    }

    /// Where a file leads.
    fn links_of(&self, row: &Row, wanted: &Wanted) -> Result<Vec<Link>> {
        let is_script = matches!(wanted.to, LinkTo::Script | LinkTo::Module);
        if !(row.page || row.kind == "text/css" || wanted.to == LinkTo::Sheet || is_script) {
            return Ok(Vec::new());
        }
        let bytes = self.folder.read(row)?;
        let mut found = links_in(row, wanted.to, &bytes);
        if is_script && !row.page {
            let page = wanted.from.as_deref().and_then(|from| Url::parse(from).ok());
            let guessed = links_of_script(&text_of(&bytes, row.charset.as_deref()));
            found.extend(guessed.into_iter().filter_map(|link| {
                let url = page.as_ref()?.join(&link.address).ok()?;
                Some(Link { address: url.to_string(), to: link.to })
            }));
        }
        Ok(found)
    }

    fn follow(
        &self,
        wanted: &Wanted,
        row: &Row,
        link: &Link,
        seen: &mut HashSet<String>,
        queue: &mut VecDeque<Wanted>,
        captured: &mut Captured,
    ) {
        let Some(url) = target(row, link) else { return };
        if !self.fetcher.is_of_server(&url) {
            if let (true, Some(host)) =
                (link.to != LinkTo::Page && link.to != LinkTo::Perhaps, url.host_str())
            {
                *captured.elsewhere.entry(host.to_owned()).or_default() += 1;
            }
            return;
        }
        let is_page = link.to == LinkTo::Page;
        let depth = wanted.depth + usize::from(is_page);
        if is_page && !self.limits.is_below(&url) || !seen.insert(without_fragment(&url)) {
            return;
        }
        if is_page && depth > self.limits.depth {
            captured.beyond += 1;
            return;
        }
        queue.push_back(Wanted { url, to: link.to, depth, from: Some(row.url.clone()) });
    }
}

/// The address that a link leads to, without its fragment; none where it is none that a server has.
pub(super) fn target(row: &Row, link: &Link) -> Option<Url> {
    let base = Url::parse(&row.url).ok()?;
    let mut url = base.join(link.address.trim()).ok()?;
    url.set_fragment(None);
    matches!(url.scheme(), "http" | "https").then_some(url)
}

/// Where a file of the site leads, with addresses seen from the file itself.
pub(super) fn links_in(row: &Row, to: LinkTo, bytes: &[u8]) -> Vec<Link> {
    let text = || text_of(bytes, row.charset.as_deref());
    if row.page {
        let (_, document) = parse(&page_bytes(bytes, row.charset.as_deref()));
        let mut found = links(&document);
        let base = document.base().and_then(|base| base.attr(&local_name!("href")).map(str::to_owned));
        if let (Some(base), Ok(own)) = (base, Url::parse(&row.url))
            && let Ok(base) = own.join(base.trim())
        {
            for link in &mut found {
                if let Ok(url) = base.join(link.address.trim()) {
                    link.address = url.to_string();
                }
            }
        }
        return found;
    }
    match to {
        LinkTo::Module => {
            let imports =
                facts(&text(), ScriptKind::Module, &[]).imports.into_iter().map(|own| own.specifier);
            // A bare name is a matter of the page's import map.
            let own = imports.filter(|own| own.starts_with(['.', '/']) || own.contains("://"));
            own.map(|address| Link { address, to: LinkTo::Module }).collect()
        }
        _ if row.kind == "text/css" || to == LinkTo::Sheet => links_of_sheet(&text()),
        _ => Vec::new(),
    }
}

/// Whether a path is one where people log in.
fn says_login(path: &str) -> bool {
    let path = path.to_ascii_lowercase();
    ["login", "log-in", "signin", "sign-in", "sign_in", "/auth", "sso"].iter().any(|word| path.contains(word))
}

/// Whether the file of a page is called otherwise than its address says.
pub(super) fn is_renamed(url: &Url, row: &Row) -> bool {
    let path = path_of(url).join("/");
    let own = row.file.as_str();
    row.page && !(own == path || own.strip_suffix("index.html") == Some(&path))
        || url.query().is_some() && row.page
}
