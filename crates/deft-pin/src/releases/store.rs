//! The folder that releases are kept in.

use std::collections::BTreeMap;
use std::fs::{self, File};
use std::io::{ErrorKind, Write as _};
use std::path::{Path, PathBuf};

use anyhow::{Context as _, Result, bail};
use deft_pin_core::source::{FileError, FilePath, Files};
use sha2::{Digest as _, Sha256};

use super::release::{MADE_BY, Release, StoredFile};
use crate::folder::Folder;

/// What a board is called by custom.
const CUSTOMARY: &str = "deft-pin.toml";
/// The folder's name, beside the board.
const FOLDER: &str = "releases";
/// The file of a release in its folder.
const RELEASE: &str = "release.json";
/// The folder of bytes, by their hash.
const BYTES: &str = "bytes";

/// The releases of a board.
pub struct Store {
    root: PathBuf,
}

/// Held while a release is made: there is one at a time.
pub struct Turn {
    _lock: File,
}

impl Store {
    /// The releases beside a board, if there are any yet. Those of a board by custom are in `releases`, those of another
    /// one, `boxes.toml`, in `boxes.releases`.
    pub fn beside(folder: &Path, board: &FilePath) -> Self {
        let name = match board.name() {
            CUSTOMARY => FOLDER.to_owned(),
            name => format!("{}.{FOLDER}", name.strip_suffix(".toml").unwrap_or(name)),
        };
        Store { root: folder.join(name) }
    }

    /// Where bytes are, as seen from the board.
    pub fn place_of(&self, hash: &str) -> String {
        let name = self.root.file_name().unwrap_or_default().to_string_lossy();
        format!("{name}/{BYTES}/{hash}")
    }

    /// Takes the turn to make a release.
    ///
    /// # Errors
    /// Somebody else is making one, or nothing can be written there.
    pub fn take_turn(&self) -> Result<Turn> {
        let failed = || format!("nothing can be written to `{}`", self.root.display());
        fs::create_dir_all(self.root.join(BYTES)).with_context(failed)?;
        let lock = File::create(self.root.join(".lock")).with_context(failed)?;
        if lock.try_lock().is_err() {
            bail!("a release is being made right now, by another run; nothing was done");
        }
        self.clear_unfinished();
        Ok(Turn { _lock: lock })
    }

    /// What runs that were stopped have left.
    fn clear_unfinished(&self) {
        let Ok(entries) = fs::read_dir(&self.root) else { return };
        for entry in entries.flatten() {
            if entry.file_name().to_string_lossy().starts_with(".unfinished-") {
                drop(fs::remove_dir_all(entry.path()));
            }
        }
    }

    /// The releases, the first one first.
    ///
    /// # Errors
    /// One of them cannot be read.
    pub fn all(&self) -> Result<Vec<Release>> {
        self.numbers()?.into_iter().map(|number| self.read(number)).collect()
    }

    /// The last release, if there is any.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn last(&self) -> Result<Option<Release>> {
        self.numbers()?.pop().map(|number| self.read(number)).transpose()
    }

    /// The numbers of the releases, in order.
    ///
    /// # Errors
    /// The folder cannot be read.
    pub fn numbers(&self) -> Result<Vec<u32>> {
        let entries = match fs::read_dir(&self.root) {
            Ok(entries) => entries,
            Err(error) if error.kind() == ErrorKind::NotFound => return Ok(Vec::new()),
            Err(error) => {
                return Err(error).with_context(|| format!("`{}` cannot be read", self.root.display()));
            }
        };
        let mut numbers: Vec<u32> = entries
            .flatten()
            .filter_map(|entry| entry.file_name().to_str()?.parse::<u32>().ok())
            .filter(|number| self.root.join(number.to_string()).join(RELEASE).is_file())
            .collect();
        numbers.sort_unstable();
        Ok(numbers)
    }

    fn read(&self, number: u32) -> Result<Release> {
        let file = self.root.join(number.to_string()).join(RELEASE);
        let text =
            fs::read_to_string(&file).with_context(|| format!("`{}` cannot be read", file.display()))?;
        let release: Release = serde_json::from_str(&text)
            .with_context(|| format!("`{}` is no release as it should be", file.display()))?;
        if release.made_by != MADE_BY || release.release != number {
            bail!("`{}` is no release of this number", file.display());
        }
        Ok(release)
    }

    /// A release by its number.
    ///
    /// # Errors
    /// There is none of that number; those that there are, are named.
    pub fn get(&self, number: u32) -> Result<Release> {
        let numbers = self.numbers()?;
        match numbers.last() {
            _ if numbers.contains(&number) => self.read(number),
            None => bail!("nothing has been published yet: `deft-pin publish` makes the first release"),
            Some(1) => bail!("there is no release {number}; there is release 1 alone"),
            Some(last) => bail!("there is no release {number}; there are 1 to {last}"),
        }
    }

    /// Keeps bytes, and gives their hash. What is kept already is not written again.
    ///
    /// # Errors
    /// They cannot be written.
    pub fn keep(&self, bytes: &[u8]) -> Result<String> {
        let hash = hash_of(bytes);
        let file = self.root.join(BYTES).join(&hash);
        if fs::metadata(&file).is_ok_and(|about| about.len() == bytes.len() as u64) {
            return Ok(hash);
        }
        let failed = || format!("`{}` cannot be written", file.display());
        let mut beside =
            tempfile::Builder::new().prefix(".").tempfile_in(self.root.join(BYTES)).with_context(failed)?;
        beside.write_all(bytes).with_context(failed)?;
        beside.as_file().sync_data().with_context(failed)?;
        beside.persist(&file).map_err(|error| error.error).with_context(failed)?;
        Ok(hash)
    }

    /// Bytes that are kept.
    ///
    /// # Errors
    /// They are not there, or are others than they were.
    pub fn bytes(&self, hash: &str) -> Result<Vec<u8>> {
        let file = self.root.join(BYTES).join(hash);
        let bytes = fs::read(&file).with_context(|| format!("`{}` cannot be read", file.display()))?;
        if hash_of(&bytes) != hash {
            bail!("`{}` is not what was kept there: somebody has changed it", file.display());
        }
        Ok(bytes)
    }

    /// Writes a release: it is there whole, or not at all.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn write(&self, release: &Release) -> Result<()> {
        let place = self.root.join(release.release.to_string());
        let work = self.root.join(format!(".unfinished-{}", release.release));
        let failed = || format!("the release {} cannot be written", release.release);
        drop(fs::remove_dir_all(&work));
        fs::create_dir_all(&work).with_context(failed)?;
        let mut file = File::create(work.join(RELEASE)).with_context(failed)?;
        file.write_all(format!("{}\n", serde_json::to_string_pretty(release)?).as_bytes())
            .with_context(failed)?;
        file.sync_data().with_context(failed)?;
        fs::rename(&work, &place).with_context(failed)
    }
}

/// The SHA-256 of bytes, in hexadecimal digits.
pub fn hash_of(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|byte| format!("{byte:02x}")).collect()
}

/// The files of a board as they were at a release, with everything else as it is now.
pub struct ReleaseFiles<'r> {
    store: &'r Store,
    folder: &'r Folder,
    kept: BTreeMap<&'r str, &'r StoredFile>,
    /// The folder of the site, which is as it is now.
    site: FilePath,
}

impl<'r> ReleaseFiles<'r> {
    /// The files of a release.
    pub fn new(store: &'r Store, folder: &'r Folder, release: &'r Release, site: FilePath) -> Self {
        let kept = release.files.iter().map(|own| (own.file.as_str(), own)).collect();
        ReleaseFiles { store, folder, kept, site }
    }
}

impl Files for ReleaseFiles<'_> {
    fn read(&self, path: &FilePath) -> Result<Vec<u8>, FileError> {
        match self.kept.get(path.as_str()) {
            Some(own) => {
                self.store.bytes(&own.sha256).map_err(|error| FileError::Unreadable(error.to_string()))
            }
            None if path.below(&self.site).is_some() => self.folder.read(path),
            // What the release does not name was not there then.
            None => Err(FileError::Missing),
        }
    }

    fn list(&self, folder: &FilePath) -> Result<Vec<FilePath>, FileError> {
        self.folder.list(folder)
    }
}
