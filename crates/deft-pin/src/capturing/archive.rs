//! Archives of what servers sent.

use std::collections::BTreeMap;
use std::fs::File;
use std::io::{BufRead, BufReader, Read as _};
use std::path::{Path, PathBuf};

use anyhow::{Context as _, Result, bail};
use deft_pin_core::site::LinkTo;
use flate2::bufread::MultiGzDecoder;
use indicatif::ProgressBar;
use url::Url;

use super::archived::Archived;
use super::captured::{Captured, Left, LeftWhy};
use super::crawl::{Limits, is_renamed, links_in, target};
use super::site_folder::SiteFolder;
use super::{har, warc};
use crate::fetching::Fetched;

/// An archive: a file of one of two open formats.
pub struct Archive {
    path: PathBuf,
    format: ArchiveFormat,
    /// The server of most pages in it.
    pub origin: String,
    /// For each other server how many answers of it there are.
    pub others: BTreeMap<String, usize>,
    /// How many answers there are.
    pub answers: usize,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum ArchiveFormat {
    Har,
    Warc,
}

impl Archive {
    /// Opens an archive, and looks through it for the server whose site it is.
    ///
    /// # Errors
    /// It cannot be read, is none, or holds no page.
    pub fn open(path: &Path) -> Result<Self> {
        let failed = || format!("`{}` cannot be read", path.display());
        let mut start = Vec::new();
        // What is broken in it is told where it is read.
        let _ = unpacked(path).with_context(failed)?.take(512).read_to_end(&mut start);
        let text = String::from_utf8_lossy(&start);
        let format = match text.trim_start_matches('\u{feff}').trim_start() {
            text if text.starts_with('{') => ArchiveFormat::Har,
            text if text.starts_with("WARC/") => ArchiveFormat::Warc,
            _ => bail!("`{}` is neither a HAR nor a WARC file", path.display()),
        };
        let mut archive = Archive {
            path: path.to_owned(),
            format,
            origin: String::new(),
            others: BTreeMap::new(),
            answers: 0,
        };
        let mut pages: BTreeMap<String, (usize, usize)> = BTreeMap::new();
        let mut all: BTreeMap<String, usize> = BTreeMap::new();
        let mut answers = 0;
        archive.each(&mut |own| {
            answers += 1;
            let Archived::Answer(answer) = own else { return Ok(()) };
            let origin = answer.url.origin().ascii_serialization();
            // Notes of the archive itself are of no server.
            if !answer.url.has_host() {
                return Ok(());
            }
            *all.entry(origin.clone()).or_default() += 1;
            if answer.status == 200 && answer.is_page() {
                let number = pages.len();
                pages.entry(origin).or_insert((0, number)).0 += 1;
            }
            Ok(())
        })?;
        archive.answers = answers;
        // The most pages; of two with as many the one that came first.
        let best = pages.into_iter().max_by_key(|(_, (count, number))| (*count, usize::MAX - number));
        let Some((origin, _)) = best else {
            bail!("there is no page in `{}`: no answer with the status 200 is HTML", path.display());
        };
        all.remove(&origin);
        archive.others = all;
        archive.origin = origin;
        Ok(archive)
    }

    fn each(&self, take: &mut dyn FnMut(Archived) -> Result<()>) -> Result<()> {
        let mut file =
            unpacked(&self.path).with_context(|| format!("`{}` cannot be read", self.path.display()))?;
        if file.fill_buf().is_ok_and(|start| start.starts_with(b"\xef\xbb\xbf")) {
            file.consume(3);
        }
        let done = match self.format {
            ArchiveFormat::Har => har::each(file, take),
            ArchiveFormat::Warc => warc::each(file, take),
        };
        done.with_context(|| format!("in `{}`", self.path.display()))
    }
}

/// A file as it is, or unpacked where it is gzipped; a WARC file is so record by record.
fn unpacked(path: &Path) -> std::io::Result<Box<dyn BufRead>> {
    let mut file = BufReader::with_capacity(1 << 20, File::open(path)?);
    Ok(match file.fill_buf()?.starts_with(&[0x1f, 0x8b]) {
        true => Box::new(BufReader::with_capacity(1 << 20, MultiGzDecoder::new(file))),
        false => Box::new(file),
    })
}

/// Takes the site of an archive into a folder.
///
/// # Errors
/// The archive cannot be read, or the folder cannot be written.
pub fn of_archive(
    archive: &Archive,
    folder: &mut SiteFolder,
    limits: &Limits,
    bar: &ProgressBar,
) -> Result<Captured> {
    let mut captured = Captured { elsewhere: archive.others.clone(), ..Captured::default() };
    let left =
        |why: LeftWhy, url: &Url, message: String| Left { why, url: url.to_string(), from: None, message };
    archive.each(&mut |own| {
        bar.inc(1);
        let answer = match own {
            Archived::Answer(answer) => answer,
            Archived::WithoutBody(url, status) => {
                if url.origin().ascii_serialization() == archive.origin && status == 200 {
                    let message = "its body is not in the archive".to_owned();
                    captured.left.push(left(LeftWhy::Problem, &url, message));
                }
                return Ok(());
            }
            Archived::Again(url, before) => {
                let Some(row) = folder.row(&before).cloned() else { return Ok(()) };
                if folder.row(&url).is_some() || url.origin().ascii_serialization() != archive.origin {
                    return Ok(());
                }
                let kind = match &row.charset {
                    Some(charset) => format!("{}; charset={charset}", row.kind),
                    None => row.kind.clone(),
                };
                let mut headers = http::HeaderMap::new();
                if let Ok(kind) = kind.parse() {
                    headers.insert(http::header::CONTENT_TYPE, kind);
                }
                Fetched { url, status: 200, headers, body: folder.read(&row)? }
            }
        };
        if answer.url.origin().ascii_serialization() != archive.origin {
            return Ok(());
        }
        match answer.status {
            200 | 203 => {}
            401 | 403 | 407 => {
                let message = format!("it wanted a login: the server answered {}", answer.status);
                captured.left.push(left(LeftWhy::Login, &answer.url, message));
                return Ok(());
            }
            301..=308 => {
                if let Some(Ok(next)) = answer.leads_to() {
                    captured.redirects.push((answer.url.to_string(), next.to_string()));
                }
                return Ok(());
            }
            404 | 410 => {
                let message = format!("the server answered {}", answer.status);
                captured.left.push(left(LeftWhy::Missing, &answer.url, message));
                return Ok(());
            }
            _ => return Ok(()),
        }
        let is_known = folder.row(&answer.url).is_some();
        if answer.is_page() && !is_known && (captured.pages >= limits.pages || !limits.is_below(&answer.url))
        {
            captured.beyond += usize::from(limits.is_below(&answer.url));
            return Ok(());
        }
        let row = folder.take(&answer.url, &answer)?;
        if !is_known {
            captured.pages += usize::from(row.page);
            captured.files += usize::from(!row.page);
            if is_renamed(&answer.url, &row) {
                captured.renamed.push((answer.url.to_string(), row.file.clone()));
            }
        }
        Ok(())
    })?;
    // Browsers note a file again when they take it from a cache, without its body.
    captured.left.retain(|own| Url::parse(&own.url).is_ok_and(|url| folder.row(&url).is_none()));
    captured.left.extend(not_in(archive, folder)?);
    captured.left.sort();
    captured.left.dedup();
    captured.redirects.sort();
    captured.redirects.dedup();
    Ok(captured)
}

/// What pages load and the archive has not.
fn not_in(archive: &Archive, folder: &SiteFolder) -> Result<Vec<Left>> {
    let mut left = BTreeMap::new();
    for row in folder.rows() {
        if !(row.page || row.kind == "text/css") {
            continue;
        }
        for link in links_in(row, LinkTo::Sheet, &folder.read(row)?) {
            let Some(url) = target(row, &link) else { continue };
            let is_loaded = !matches!(link.to, LinkTo::Page | LinkTo::Perhaps);
            let is_own = url.origin().ascii_serialization() == archive.origin;
            if is_loaded && is_own && folder.row(&url).is_none() {
                let own = Left {
                    why: LeftWhy::Missing,
                    url: url.to_string(),
                    from: Some(row.url.clone()),
                    message: "it is not in the archive".to_owned(),
                };
                left.entry(url.to_string()).or_insert(own);
            }
        }
    }
    Ok(left.into_values().collect())
}
