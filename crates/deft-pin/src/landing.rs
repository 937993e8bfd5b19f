//! Where a build lands: it is written beside its place and moved there whole, so that whatever
//! happens, the place holds an earlier build or this one.

use std::fs;
use std::io::ErrorKind;
use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};

/// The file that marks a folder as a build, in its folder of assets.
pub const MARK: &str = "build.json";

/// A folder that is being written.
#[derive(Debug)]
pub struct Landing {
    place: PathBuf,
    work: PathBuf,
    landed: bool,
}

impl Landing {
    /// Makes ready to write a folder. `site` is what it must neither be in nor hold.
    ///
    /// # Errors
    /// The place is taken by something that is no earlier build, or cannot be written.
    pub fn prepare(place: &Path, site: &Path) -> Result<Self> {
        let shown = place.display();
        // A place that is there already goes by its real name: `.` has one too.
        let there = fs::canonicalize(place).ok();
        let place = there.as_deref().unwrap_or(place);
        let Some(name) = place.file_name().map(|name| name.to_string_lossy().into_owned()) else {
            bail!("`{shown}` is no name for a new folder");
        };
        let parent = match place.parent() {
            Some(parent) if !parent.as_os_str().is_empty() => parent,
            _ => Path::new("."),
        };
        fs::create_dir_all(parent)
            .with_context(|| format!("the folder `{}` cannot be made", parent.display()))?;
        let parent = fs::canonicalize(parent)
            .with_context(|| format!("the folder `{}` cannot be read", parent.display()))?;
        let place = parent.join(&name);
        let real = there.unwrap_or_else(|| place.clone());
        if real.starts_with(site) {
            bail!(
                "the output `{shown}` would be inside the site `{}`; name a folder outside of it",
                site.display()
            );
        }
        if site.starts_with(&real) {
            bail!(
                "the site `{}` is inside the output `{shown}`; name a folder that does not hold it",
                site.display()
            );
        }
        check_place(&place, &shown.to_string())?;
        sweep(&parent, &name);
        let work = parent.join(format!(".{name}.{}.deft-pin", std::process::id()));
        fs::create_dir(&work).with_context(|| format!("nothing can be written beside `{shown}`"))?;
        Ok(Landing { place, work, landed: false })
    }

    /// Where to write.
    pub fn work(&self) -> &Path {
        &self.work
    }

    /// Moves what has been written to its place. What was there before is gone after that.
    ///
    /// # Errors
    /// It cannot be moved; then what was there before is still there.
    pub fn land(mut self) -> Result<()> {
        let moved = match exchange(&self.work, &self.place) {
            Ok(()) => Ok(()),
            Err(error) if error.kind() == ErrorKind::NotFound => fs::rename(&self.work, &self.place),
            // A file system that cannot exchange: the old one steps aside first.
            Err(_) => {
                let aside = self.work.with_extension("before");
                fs::rename(&self.place, &aside)
                    .and_then(|()| {
                        fs::rename(&self.work, &self.place)
                            .inspect_err(|_| drop(fs::rename(&aside, &self.place)))
                    })
                    .and_then(|()| fs::rename(&aside, &self.work))
            }
        };
        moved.with_context(|| format!("the copy cannot be moved to `{}`", self.place.display()))?;
        self.landed = true;
        // After an exchange the earlier build is where this one was written.
        drop(fs::remove_dir_all(&self.work));
        Ok(())
    }
}

impl Drop for Landing {
    fn drop(&mut self) {
        if !self.landed {
            drop(fs::remove_dir_all(&self.work));
        }
    }
}

#[cfg(target_os = "linux")]
fn exchange(work: &Path, place: &Path) -> std::io::Result<()> {
    use rustix::fs::{CWD, RenameFlags, renameat_with};
    renameat_with(CWD, work, CWD, place, RenameFlags::EXCHANGE).map_err(Into::into)
}

#[cfg(not(target_os = "linux"))]
fn exchange(_: &Path, place: &Path) -> std::io::Result<()> {
    let kind = if place.exists() { ErrorKind::Unsupported } else { ErrorKind::NotFound };
    Err(kind.into())
}

/// Only an earlier build, or nothing, may be replaced.
fn check_place(place: &Path, shown: &str) -> Result<()> {
    let Ok(there) = fs::symlink_metadata(place) else { return Ok(()) };
    if !there.is_dir() {
        bail!("the output `{shown}` is there already, and is no folder; name another one");
    }
    let mut entries =
        fs::read_dir(place).with_context(|| format!("the output `{shown}` cannot be read"))?.flatten();
    let mut empty = true;
    let marked = entries.any(|entry| {
        empty = false;
        fs::read(entry.path().join(MARK))
            .is_ok_and(|bytes| bytes.starts_with(b"{\n  \"made by\": \"deft-pin\""))
    });
    if !marked && !empty {
        bail!(
            "the output `{shown}` is there already, and no build of Deft Pin's: nothing in it is touched; name another folder"
        );
    }
    Ok(())
}

/// Removes what runs that were killed have left beside a place.
fn sweep(parent: &Path, name: &str) {
    let Ok(entries) = fs::read_dir(parent) else { return };
    for entry in entries.flatten() {
        let file = entry.file_name();
        let pid =
            file.to_str().and_then(|file| file.strip_prefix(&format!(".{name}."))?.strip_suffix(".deft-pin"));
        // A run that is still going on keeps its folder.
        if pid.is_some_and(|pid| pid.parse::<u32>().is_ok() && !Path::new("/proc").join(pid).exists()) {
            drop(fs::remove_dir_all(entry.path()));
        }
    }
}
