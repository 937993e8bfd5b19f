//! The folder that a site is captured into. What has been done stands in a journal in it, a line for each file, so that a
//! run that was stopped goes on where it was.

use std::collections::HashMap;
use std::io::{BufRead as _, BufReader, ErrorKind, Write as _};
use std::path::Path;

use anyhow::{Context as _, Result, bail};
use cap_std::ambient_authority;
use cap_std::fs::{Dir, OpenOptions};
use deft_pin_core::source::FilePath;
use serde::{Deserialize, Serialize};
use url::Url;

use super::names::{AddressedFile, file_for};
use crate::disk::shown;
use crate::fetching::Fetched;
use crate::releases::hash_of;

/// The journal. Files that begin with a dot are no part of a site.
const JOURNAL: &str = ".deft-pin-capture";
/// Who writes it.
const MADE_BY: &str = "deft-pin";

/// The folder that a site is captured into.
pub struct SiteFolder {
    dir: Dir,
    journal: cap_std::fs::File,
    rows: HashMap<String, Row>,
    /// For each file the SHA-256 of its bytes.
    files: HashMap<FilePath, String>,
    /// Whether an earlier run has begun it.
    pub is_continued: bool,
}

#[derive(Serialize, Deserialize)]
struct Head {
    #[serde(rename = "made by")]
    made_by: String,
    version: u32,
    /// The server.
    origin: String,
}

/// A line of the journal.
#[derive(Serialize, Deserialize)]
#[serde(untagged)]
enum Line {
    Row(Row),
    End { whole: bool },
}

/// What was at an address.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Row {
    /// The address, without a fragment.
    pub url: String,
    /// The file that it is now.
    pub file: String,
    /// Its type.
    pub kind: String,
    /// The encoding that the server named.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    pub charset: Option<String>,
    /// Whether it is a page.
    pub page: bool,
    /// The SHA-256 of its bytes.
    sha256: String,
}

impl SiteFolder {
    /// Opens a folder for the site of a server. One that is there has to be empty, or begun by an earlier run.
    ///
    /// # Errors
    /// It is of somebody else, of another server, whole already, or cannot be written.
    pub fn open(into: &Path, origin: &str, again: bool) -> Result<Self> {
        let failed = || format!("`{}` cannot be written", into.display());
        std::fs::create_dir_all(into).with_context(failed)?;
        let dir = Dir::open_ambient_dir(into, ambient_authority()).with_context(failed)?;
        let kept = match dir.open(JOURNAL) {
            Ok(file) => Some(read_journal(file, origin, into, again)?),
            Err(error) if error.kind() == ErrorKind::NotFound => None,
            Err(error) => return Err(error).with_context(failed),
        };
        if kept.is_none() && dir.entries().with_context(failed)?.next().is_some() {
            bail!("the folder {} is not empty, and no capture has begun it: name another one", shown(into));
        }
        let is_continued = kept.as_ref().is_some_and(|kept| !kept.is_empty()) && !again;
        let mut folder = SiteFolder {
            journal: dir
                .open_with(JOURNAL, OpenOptions::new().append(true).create(true))
                .with_context(failed)?,
            dir,
            rows: HashMap::new(),
            files: HashMap::new(),
            is_continued,
        };
        let rows = kept.unwrap_or_default();
        if again {
            // What an earlier run brought goes: what is there no more is not to stay.
            for row in &rows {
                let _ = folder.dir.remove_file(&row.file);
            }
        }
        let rows: Vec<Row> = if again { Vec::new() } else { rows };
        // The journal is written anew, so that a line which was cut off is gone.
        let head = Head { made_by: MADE_BY.to_owned(), version: 1, origin: origin.to_owned() };
        let mut text = format!("{}\n", serde_json::to_string(&head)?);
        for row in rows {
            // What somebody has taken away since is fetched again.
            if folder.dir.is_file(&row.file) {
                text.push_str(&format!("{}\n", serde_json::to_string(&row)?));
                folder.know(row);
            }
        }
        folder.put(JOURNAL, text.as_bytes()).with_context(failed)?;
        folder.journal =
            folder.dir.open_with(JOURNAL, OpenOptions::new().append(true)).with_context(failed)?;
        Ok(folder)
    }

    fn know(&mut self, row: Row) {
        if let Ok(file) = FilePath::parse(&row.file) {
            self.files.insert(file, row.sha256.clone());
        }
        self.rows.insert(row.url.clone(), row);
    }

    /// What an address is, where that is there already.
    pub fn row(&self, url: &Url) -> Option<&Row> {
        self.rows.get(&without_fragment(url))
    }

    /// Every address that is there.
    pub fn rows(&self) -> impl Iterator<Item = &Row> {
        self.rows.values()
    }

    /// The bytes of a file.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn read(&self, row: &Row) -> Result<Vec<u8>> {
        self.dir.read(&row.file).with_context(|| format!("`{}` cannot be read", row.file))
    }

    /// Takes what was at an address into the folder.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn take(&mut self, url: &Url, answer: &Fetched) -> Result<Row> {
        let is_page = is_page(answer);
        let kind = answer.kind();
        let sha256 = hash_of(&answer.body);
        let of = AddressedFile { is_page, kind: &kind };
        let file = self.file_of(url, of, &sha256).context("its address makes no name of a file")?;
        let is_there = self.files.get(&file).is_some_and(|own| *own == sha256);
        if !is_there {
            self.put(file.as_str(), &answer.body).with_context(|| format!("`{file}` cannot be written"))?;
        }
        let row = Row {
            url: without_fragment(url),
            file: file.as_str().to_owned(),
            kind,
            charset: answer.charset().map(str::to_owned),
            page: is_page,
            sha256,
        };
        self.journal
            .write_all(format!("{}\n", serde_json::to_string(&row)?).as_bytes())
            .context("the journal cannot be written")?;
        self.know(row.clone());
        Ok(row)
    }

    /// The file of an address: by its path alone where that is free or holds the same bytes, with its query otherwise.
    fn file_of(&self, url: &Url, of: AddressedFile<'_>, sha256: &str) -> Option<FilePath> {
        // The same address again: the newer bytes take its place.
        if let Some(row) = self.rows.get(&without_fragment(url)).filter(|row| row.page == of.is_page) {
            return FilePath::parse(&row.file).ok();
        }
        let fits = |file: &FilePath| self.files.get(file).is_none_or(|own| own == sha256);
        let plain = self.beside_files(file_for(url, of, false)?);
        // Of pages each address is one of its own.
        if fits(&plain) && !(of.is_page && url.query().is_some()) {
            return Some(plain);
        }
        let named = self.beside_files(file_for(url, of, true)?);
        if fits(&named) {
            return Some(named);
        }
        let (stem, ending) = named.as_str().rsplit_once('.').unwrap_or((named.as_str(), "bin"));
        FilePath::parse(&format!("{stem}@{}.{ending}", &sha256[..8])).ok()
    }

    /// A file whose folders are no files, and which is no folder itself: `/a` and `/a/b` may both be there.
    fn beside_files(&self, file: FilePath) -> FilePath {
        let parts: Vec<&str> = file.as_str().split('/').collect();
        let mut path = String::new();
        for (number, part) in parts.iter().enumerate() {
            let slash = if path.is_empty() { "" } else { "/" };
            let next = format!("{path}{slash}{part}");
            let is_last = number + 1 == parts.len();
            let is_in_the_way = match is_last {
                true => self.dir.is_dir(&next),
                false => self.dir.is_file(&next),
            };
            path = if is_in_the_way { format!("{next}@") } else { next };
        }
        FilePath::parse(&path).unwrap_or(file)
    }

    /// Writes a file: it is there whole, or as it was.
    fn put(&self, file: &str, bytes: &[u8]) -> std::io::Result<()> {
        let (folder, name) = file.rsplit_once('/').map_or(("", file), |(folder, name)| (folder, name));
        if !folder.is_empty() {
            self.dir.create_dir_all(folder)?;
        }
        let slash = if folder.is_empty() { "" } else { "/" };
        let hash = &hash_of(name.as_bytes())[..12];
        let beside = format!("{folder}{slash}.deft-pin-{hash}");
        self.dir.write(&beside, bytes)?;
        self.dir.rename(&beside, &self.dir, file)
    }

    /// Notes that all is there.
    ///
    /// # Errors
    /// The journal cannot be written.
    pub fn end(mut self) -> Result<()> {
        self.journal
            .write_all(format!("{}\n", serde_json::to_string(&Line::End { whole: true })?).as_bytes())
            .context("the journal cannot be written")
    }
}

/// An address as it is known by.
pub(super) fn without_fragment(url: &Url) -> String {
    let mut url = url.clone();
    url.set_fragment(None);
    url.to_string()
}

fn is_page(answer: &Fetched) -> bool {
    if !answer.kind().is_empty() {
        return answer.is_page();
    }
    let start = String::from_utf8_lossy(&answer.body[..answer.body.len().min(512)]).to_ascii_lowercase();
    let start = start.trim_start_matches(|c: char| c.is_whitespace() || c == '\u{feff}');
    start.starts_with("<!doctype html") || start.starts_with("<html")
}

fn read_journal(file: cap_std::fs::File, origin: &str, into: &Path, again: bool) -> Result<Vec<Row>> {
    let mut lines = BufReader::new(file).lines();
    let head = lines.next().and_then(Result::ok).unwrap_or_default();
    let head: Option<Head> = serde_json::from_str(&head).ok();
    let Some(head) = head.filter(|head| head.made_by == MADE_BY) else {
        bail!("the folder {} was begun by something else: name another one", shown(into));
    };
    if head.origin != origin {
        bail!(
            "the folder {} holds the site of {}, not of {origin}: name another one",
            shown(into),
            head.origin
        );
    }
    let mut rows = Vec::new();
    // A line that was cut off when a run was stopped is the last one.
    for line in lines.map_while(Result::ok) {
        match serde_json::from_str::<Line>(&line) {
            Ok(Line::Row(row)) if FilePath::parse(&row.file).is_ok() => rows.push(row),
            Ok(Line::End { .. }) if !again => bail!(
                "the site in `{0}` is captured whole: look at it with `deft-pin survey --site {0}`, or capture it anew with --again",
                into.display()
            ),
            _ => {}
        }
    }
    Ok(rows)
}
