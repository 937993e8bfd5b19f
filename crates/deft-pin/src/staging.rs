//! Staging: a build is written beside its place and moved there whole, so that whatever happens, the
//! place holds an earlier build or this one.
//!
//! Beside the place `out` stand, while a build runs, its work folder `.out.XXXXXX.deft-pin` and a
//! file of the same name and `.lock`, which the build holds locked. Who finds one that nobody holds
//! knows that its build was stopped. Where the file system cannot exchange two folders at once, the
//! earlier build steps aside as `.out.XXXXXX.deft-pin.before`; a build that was stopped right then is
//! put back by the next one.
//!
//! It is long by its tests: what a build that is stopped leaves behind is played through here.

use std::ffi::OsString;
use std::fs::{self, File, TryLockError};
use std::io::{self, ErrorKind};
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use serde::{Deserialize, Serialize};
use tracing::info;

/// The file that marks a folder as a build, in its folder of assets.
const MARK: &str = "build.json";
/// Who makes such folders.
const MADE_BY: &str = "deft-pin";

/// What a build writes beside its assets: the mark by which a later build knows the folder.
#[derive(Serialize, Deserialize)]
struct Mark {
    #[serde(rename = "made by")]
    made_by: String,
    version: u32,
    /// The sizes of the assets, in bytes.
    files: std::collections::BTreeMap<String, usize>,
}

/// A folder that is being written.
#[derive(Debug)]
pub struct Staging {
    place: PathBuf,
    work: PathBuf,
    /// Held as long as the build runs.
    lock: (PathBuf, File),
}

impl Staging {
    /// Makes ready to write a folder. `site` is what it must neither be in nor hold.
    ///
    /// # Errors
    /// The place is taken by something that is no earlier build, or cannot be written.
    pub fn prepare(place: &Path, site: &Path) -> Result<Self> {
        let shown = place.display();
        let place = real_place(place)?;
        let (Some(parent), Some(name)) = (place.parent(), place.file_name()) else {
            bail!("`{shown}` is no name for a new folder");
        };
        if place.starts_with(site) {
            bail!(
                "the output `{shown}` would be inside the site `{}`; name a folder outside of it",
                site.display()
            );
        }
        if site.starts_with(&place) {
            bail!(
                "the site `{}` is inside the output `{shown}`; name a folder that does not hold it",
                site.display()
            );
        }
        recover(parent, name, &place);
        check_place(&place, &shown.to_string())?;
        fs::create_dir_all(parent)
            .with_context(|| format!("the folder `{}` cannot be made", parent.display()))?;
        let (work, lock) =
            claim(parent, name).with_context(|| format!("nothing can be written beside `{shown}`"))?;
        Ok(Staging { place, work, lock })
    }

    /// Where to write.
    pub fn work(&self) -> &Path {
        &self.work
    }

    /// Writes the assets of the build into a folder of it, with the mark by which a later build
    /// knows it.
    ///
    /// # Errors
    /// They cannot be written.
    pub fn write_assets(
        &self,
        folder: &str,
        files: &std::collections::BTreeMap<String, Vec<u8>>,
    ) -> Result<()> {
        self.write_mark(folder, files)?;
        self.write_files(folder, files)
    }

    /// Writes the mark by which a later build knows the folder into a folder of it.
    ///
    /// # Errors
    /// It cannot be written.
    pub fn write_mark(
        &self,
        folder: &str,
        files: &std::collections::BTreeMap<String, Vec<u8>>,
    ) -> Result<()> {
        let folder = self.work.join(folder);
        let sizes = files.iter().map(|(name, bytes)| (name.clone(), bytes.len())).collect();
        let mark = Mark { made_by: MADE_BY.to_owned(), version: 1, files: sizes };
        let mark = format!("{}\n", serde_json::to_string_pretty(&mark)?);
        fs::create_dir_all(&folder).context("the copy cannot be written")?;
        fs::write(folder.join(MARK), mark).context("the copy cannot be written")
    }

    /// Writes files into a folder of it.
    ///
    /// # Errors
    /// They cannot be written.
    pub fn write_files(
        &self,
        folder: &str,
        files: &std::collections::BTreeMap<String, Vec<u8>>,
    ) -> Result<()> {
        let folder = self.work.join(folder);
        fs::create_dir_all(&folder).context("the copy cannot be written")?;
        for (name, bytes) in files {
            let written = fs::write(folder.join(name), bytes);
            written.with_context(|| format!("`{name}` cannot be written"))?;
        }
        Ok(())
    }

    /// Moves what has been written to its place. What was there before is gone after that, if it
    /// was an earlier build.
    ///
    /// # Errors
    /// It cannot be moved, or something else has come to stand in its place: then that is still
    /// there.
    pub fn land(self) -> Result<()> {
        self.land_by(exchange)
    }

    /// The same, with what exchanges two folders at once.
    fn land_by(self, exchange: impl Fn(&Path, &Path) -> io::Result<()>) -> Result<()> {
        let shown = self.place.display().to_string();
        // Somebody may have put something there meanwhile.
        check_place(&self.place, &shown)?;
        let moved = match exchange(&self.work, &self.place) {
            Ok(()) => {
                // What was there is in the work folder now, and may be another than was looked at.
                if check_place(&self.work, &shown).is_err() {
                    let back = exchange(&self.work, &self.place);
                    back.with_context(|| format!("`{shown}` has been replaced while this was built"))?;
                    bail!(
                        "something else has come to stand at `{shown}` while this was built; it stays there"
                    );
                }
                Ok(())
            }
            Err(error) if error.kind() == ErrorKind::NotFound => move_new(&self.work, &self.place),
            Err(_) if fs::symlink_metadata(&self.place).is_err() => move_new(&self.work, &self.place),
            // A file system that cannot exchange: the earlier build steps aside first.
            Err(_) => {
                let aside = with_suffix(&self.work, ".before");
                fs::rename(&self.place, &aside).and_then(|()| {
                    move_new(&self.work, &self.place)
                        .inspect_err(|_| drop(fs::rename(&aside, &self.place)))?;
                    drop(fs::remove_dir_all(&aside));
                    Ok(())
                })
            }
        };
        moved.with_context(|| format!("the copy cannot be moved to `{shown}`"))
    }
}

impl Drop for Staging {
    fn drop(&mut self) {
        // After an exchange the earlier build is where this one was written.
        drop(fs::remove_dir_all(&self.work));
        drop(fs::remove_file(&self.lock.0));
    }
}

/// A place by its real name. What of it is not there yet is taken as it is written.
fn real_place(place: &Path) -> Result<PathBuf> {
    let mut missing: Vec<OsString> = Vec::new();
    let mut there = std::path::absolute(place)
        .with_context(|| format!("`{}` is no name for a new folder", place.display()))?;
    loop {
        match fs::canonicalize(&there) {
            Ok(real) => {
                let parts = missing.iter().rev();
                return Ok(parts.fold(real, |path, part| path.join(part)));
            }
            // A link that leads nowhere is there all the same.
            Err(_) if fs::symlink_metadata(&there).is_ok() => {
                bail!(
                    "the output `{}` is there already, and is no folder; name another one",
                    place.display()
                );
            }
            Err(error) => {
                let name = there.file_name().map(ToOwned::to_owned);
                let parent = there.parent().map(Path::to_owned);
                let (Some(name), Some(parent)) = (name, parent) else {
                    return Err(error).with_context(|| format!("`{}` cannot be read", place.display()));
                };
                missing.push(name);
                there = parent;
            }
        }
    }
}

/// A work folder of its own, with the lock that says that its build runs.
fn claim(parent: &Path, name: &std::ffi::OsStr) -> io::Result<(PathBuf, (PathBuf, File))> {
    let mut prefix = OsString::from(".");
    prefix.push(name);
    prefix.push(".");
    // The lock comes first, and is held before its folder is there.
    let lock = tempfile::Builder::new().prefix(&prefix).suffix(".deft-pin.lock").tempfile_in(parent)?;
    let (file, path) = lock.keep().map_err(|error| error.error)?;
    let _ = file.try_lock();
    let work = path.with_extension("");
    match fs::create_dir(&work) {
        Ok(()) => Ok((work, (path, file))),
        Err(error) => {
            drop(fs::remove_file(&path));
            Err(error)
        }
    }
}

fn with_suffix(path: &Path, suffix: &str) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(suffix);
    PathBuf::from(name)
}

#[cfg(target_os = "linux")]
fn exchange(work: &Path, place: &Path) -> io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    renameat_with(CWD, work, CWD, place, RenameFlags::EXCHANGE).map_err(Into::into)
}

#[cfg(not(target_os = "linux"))]
fn exchange(_: &Path, _: &Path) -> io::Result<()> {
    Err(ErrorKind::Unsupported.into())
}

/// Moves a folder to where nothing is, or an empty folder.
#[cfg(target_os = "linux")]
fn move_new(from: &Path, to: &Path) -> io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    use rustix::io::Errno;
    match renameat_with(CWD, from, CWD, to, RenameFlags::NOREPLACE) {
        Err(Errno::INVAL | Errno::NOSYS | Errno::NOTSUP) => fs::rename(from, to),
        done => done.map_err(Into::into),
    }
}

#[cfg(not(target_os = "linux"))]
fn move_new(from: &Path, to: &Path) -> io::Result<()> {
    fs::rename(from, to)
}

/// Whether a folder is known to be a build: one of its folders has the mark.
fn is_build(folder: &Path) -> bool {
    let Ok(entries) = fs::read_dir(folder) else { return false };
    let is_marked = |folder: &Path| {
        let mark = folder.join(MARK);
        // Only a plain file is opened.
        let is_file = fs::symlink_metadata(&mark).is_ok_and(|about| about.is_file());
        let text = is_file.then(|| fs::read_to_string(&mark).ok()).flatten();
        let mark = text.and_then(|text| serde_json::from_str::<Mark>(&text).ok());
        mark.is_some_and(|mark| mark.made_by == MADE_BY)
    };
    entries.flatten().any(|entry| is_marked(&entry.path()))
}

fn is_empty(folder: &Path) -> bool {
    fs::read_dir(folder).is_ok_and(|mut entries| entries.next().is_none())
}

/// Only an earlier build, or nothing, may be replaced.
fn check_place(place: &Path, shown: &str) -> Result<()> {
    let Ok(there) = fs::symlink_metadata(place) else { return Ok(()) };
    if !there.is_dir() {
        bail!("the output `{shown}` is there already, and is no folder; name another one");
    }
    fs::read_dir(place).with_context(|| format!("the output `{shown}` cannot be read"))?;
    if !is_empty(place) && !is_build(place) {
        bail!(
            "the output `{shown}` is there already, and no build of Deft Pin's: nothing in it is touched; name another folder"
        );
    }
    Ok(())
}

/// Clears away what builds that were stopped have left beside a place; where the earlier build had
/// stepped aside, it is put back.
fn recover(parent: &Path, name: &std::ffi::OsStr, place: &Path) {
    let Ok(entries) = fs::read_dir(parent) else { return };
    let mut prefix = OsString::from(".");
    prefix.push(name);
    prefix.push(".");
    for entry in entries.flatten() {
        let file = entry.file_name();
        let bytes = file.as_encoded_bytes();
        let is_lock = bytes.starts_with(prefix.as_encoded_bytes()) && bytes.ends_with(b".deft-pin.lock");
        let is_file = entry.file_type().is_ok_and(|kind| kind.is_file());
        if !is_lock || !is_file {
            continue;
        }
        let lock = entry.path();
        let held = File::open(&lock).map(|file| (file.try_lock(), file));
        // A run that is still going on keeps its folder, and so does one that cannot be asked.
        let Ok((Ok(()), _file)) = held.map(|(locked, file)| (locked.map_err(ignored), file)) else {
            continue;
        };
        let work = lock.with_extension("");
        let aside = with_suffix(&work, ".before");
        if aside.is_dir() {
            if fs::symlink_metadata(place).is_err() && is_build(&aside) {
                info!("put back the earlier build {}", place.display());
                drop(fs::rename(&aside, place));
            } else if is_build(&aside) {
                drop(fs::remove_dir_all(&aside));
            }
        }
        info!("cleared away the unfinished build {}", work.display());
        drop(fs::remove_dir_all(&work));
        drop(fs::remove_file(&lock));
    }
}

fn ignored(_: TryLockError) {}

#[cfg(test)]
mod tests {
    use super::*;

    fn build(work: &Path, text: &str) {
        fs::create_dir_all(work.join("_pins")).unwrap();
        let mark = Mark { made_by: MADE_BY.to_owned(), version: 1, files: Default::default() };
        fs::write(work.join("_pins").join(MARK), serde_json::to_string(&mark).unwrap()).unwrap();
        fs::write(work.join("index.html"), text).unwrap();
    }

    fn names(folder: &Path) -> Vec<String> {
        let entries = fs::read_dir(folder).unwrap().flatten();
        let mut names: Vec<String> = entries.map(|entry| entry.file_name().into_string().unwrap()).collect();
        names.sort();
        names
    }

    fn cannot(_: &Path, _: &Path) -> io::Result<()> {
        Err(ErrorKind::InvalidInput.into())
    }

    #[test]
    fn a_build_lands_whole_with_and_without_an_exchange() {
        type Exchange = fn(&Path, &Path) -> io::Result<()>;
        for exchange in [exchange as Exchange, cannot as Exchange] {
            let folder = tempfile::tempdir().unwrap();
            let (place, site) = (folder.path().join("a/out"), folder.path().join("site"));
            for text in ["first", "second"] {
                let staging = Staging::prepare(&place, &site).unwrap();
                build(staging.work(), text);
                staging.land_by(exchange).unwrap();
                assert_eq!(fs::read_to_string(place.join("index.html")).unwrap(), text);
                assert_eq!(names(&folder.path().join("a")), ["out"]);
            }
        }
    }

    #[test]
    fn what_comes_to_stand_there_meanwhile_stays() {
        let folder = tempfile::tempdir().unwrap();
        let (place, site) = (folder.path().join("out"), folder.path().join("site"));
        let staging = Staging::prepare(&place, &site).unwrap();
        build(staging.work(), "mine");
        fs::create_dir(&place).unwrap();
        fs::write(place.join("letter.txt"), "theirs").unwrap();
        assert!(staging.land().is_err());
        assert_eq!(
            (names(folder.path()), names(&place)),
            (vec!["out".to_owned()], vec!["letter.txt".to_owned()])
        );
        // It is exchanged in the very last moment.
        let staging = Staging::prepare(&folder.path().join("new"), &site).unwrap();
        build(staging.work(), "mine");
        let new = folder.path().join("new");
        build(&new, "old");
        let swapped = |work: &Path, place: &Path| {
            if place.join("_pins").exists() && work.join("_pins").exists() {
                fs::remove_dir_all(place)?;
                fs::create_dir(place)?;
                fs::write(place.join("letter.txt"), "theirs")?;
            }
            exchange(work, place)
        };
        assert!(staging.land_by(swapped).is_err());
        assert_eq!(names(&new), ["letter.txt"]);
    }

    #[test]
    fn what_a_stopped_build_left_is_cleared_away_and_the_earlier_one_put_back() {
        let folder = tempfile::tempdir().unwrap();
        let (place, site) = (folder.path().join("out"), folder.path().join("site"));
        let stopped = Staging::prepare(&place, &site).unwrap();
        build(stopped.work(), "half");
        build(&with_suffix(stopped.work(), ".before"), "earlier");
        // As long as it runs, nobody touches it.
        let other = Staging::prepare(&place, &site).unwrap();
        assert_eq!(names(folder.path()).len(), 5, "{:?}", names(folder.path()));
        drop(other);
        // It was killed: its lock is free, and nothing was cleared away.
        let (lock, work) = (stopped.lock.0.clone(), stopped.work.clone());
        let kept = fs::read(&lock).unwrap();
        let before = folder.path().join("kept");
        fs::rename(&work, &before).unwrap();
        drop(stopped);
        fs::rename(&before, &work).unwrap();
        fs::write(&lock, kept).unwrap();
        let next = Staging::prepare(&place, &site).unwrap();
        assert_eq!(fs::read_to_string(place.join("index.html")).unwrap(), "earlier");
        drop(next);
        assert_eq!(names(folder.path()), ["out"]);
    }

    #[test]
    fn a_refused_place_has_no_folders_made_for_it() {
        let folder = tempfile::tempdir().unwrap();
        let site = folder.path().join("site");
        fs::create_dir(&site).unwrap();
        let site = fs::canonicalize(site).unwrap();
        assert!(Staging::prepare(&site.join("a/b/out"), &site).is_err());
        assert_eq!(names(&site), Vec::<String>::new());
        fs::write(folder.path().join("file"), "").unwrap();
        assert!(Staging::prepare(&folder.path().join("file"), &site).is_err());
        assert!(Staging::prepare(folder.path(), &site).is_err());
        assert_eq!(names(folder.path()), ["file", "site"]);
    }
}
