//! A folder on disk as a place that files come from. Nothing outside of it is ever read: files are
//! opened relative to the folder as it was opened first, whatever links are put there meanwhile.

use std::fs;
use std::io::{ErrorKind, Read as _};
use std::path::{Path, PathBuf};

use cap_std::ambient_authority;
use cap_std::fs::{Dir, File, OpenOptions};
use deft_pin_core::source::{FileError, FilePath, Files, LARGEST_FILE};
use ignore::WalkBuilder;

use crate::disk::or_here;

/// A folder, by its real path.
#[derive(Debug)]
pub struct Folder {
    root: PathBuf,
    dir: Dir,
}

/// What a walk through a folder found.
#[derive(Debug, Default)]
pub struct Listing {
    /// The files, sorted by path.
    pub files: Vec<FilePath>,
    /// What was left out, and why, sorted by path.
    pub left_out: Vec<(PathBuf, &'static str)>,
}

impl Folder {
    /// Opens a folder.
    ///
    /// # Errors
    /// It is not there, or is no folder.
    pub fn open(path: &Path) -> std::io::Result<Self> {
        let root = fs::canonicalize(or_here(path))?;
        let dir = Dir::open_ambient_dir(&root, ambient_authority())?;
        Ok(Folder { root, dir })
    }

    /// The folder's real path.
    pub fn root(&self) -> &Path {
        &self.root
    }

    /// Where a file of the folder is on disk.
    pub fn disk_path(&self, path: &FilePath) -> PathBuf {
        self.root.join(path.as_str())
    }

    /// Walks through a part of the folder. Links to files inside are files; links that lead
    /// outside, to folders or nowhere are left out, and told.
    ///
    /// # Errors
    /// A folder cannot be listed.
    pub fn walk(&self, part: &FilePath) -> Result<Listing, FileError> {
        let mut listing = Listing::default();
        let entries =
            WalkBuilder::new(self.disk_path(part)).standard_filters(false).follow_links(false).build();
        for entry in entries {
            let entry = entry.map_err(|error| FileError::Unreadable(error.to_string()))?;
            let kind = entry.file_type();
            let why_not = match kind {
                Some(kind) if kind.is_dir() => continue,
                Some(kind) if kind.is_symlink() => self.no_file_behind(entry.path()),
                Some(kind) if kind.is_file() => None,
                _ if entry.depth() == 0 => continue,
                _ => Some("it is neither a file nor a folder"),
            };
            match why_not.map_or_else(|| self.name_of(entry.path()), Err) {
                Ok(path) => listing.files.push(path),
                Err(why) => listing.left_out.push((entry.into_path(), why)),
            }
        }
        listing.files.sort();
        listing.left_out.sort();
        Ok(listing)
    }

    /// Why a link leads to no file of the folder.
    fn no_file_behind(&self, link: &Path) -> Option<&'static str> {
        match fs::canonicalize(link) {
            Ok(target) if !target.starts_with(&self.root) => {
                Some("it is a link that leads out of the board's folder")
            }
            Ok(target) if target.is_file() => None,
            Ok(target) if target.is_dir() => Some("it is a link to a folder"),
            Ok(_) => Some("it is a link to what is neither a file nor a folder"),
            Err(_) => Some("it is a link that leads nowhere"),
        }
    }

    /// The path of a file below the folder, where its name can stand in one.
    fn name_of(&self, path: &Path) -> Result<FilePath, &'static str> {
        let below = path.strip_prefix(&self.root).map_err(|_| "it is outside of the folder")?;
        let text = below.to_str().ok_or("its name is not in UTF-8")?;
        let text = text.replace(std::path::MAIN_SEPARATOR, "/");
        let is_drive =
            |part: &str| part.as_bytes().get(1) == Some(&b':') && part.as_bytes()[0].is_ascii_alphabetic();
        if text.contains('\\') {
            return Err("its name has a backslash, which addresses take for `/`");
        }
        if text.split('/').any(is_drive) {
            return Err("its name begins like a drive");
        }
        FilePath::parse(&text).map_err(|_| "its name is none that a path can have")
    }

    /// Opens a file. What is no plain file is not read from.
    ///
    /// # Errors
    /// It is not there, is no plain file, or cannot be read.
    pub fn open_file(&self, path: &FilePath) -> Result<fs::File, FileError> {
        let unreadable = |error: std::io::Error| match error.kind() {
            ErrorKind::NotFound => FileError::Missing,
            ErrorKind::NotADirectory => FileError::Missing,
            _ => FileError::Unreadable(error.to_string()),
        };
        let options = options();
        let opened = match self.dir.open_with(path.as_str(), &options) {
            // A link by a path from the root of the file system may lead to a file inside.
            Err(error) if error.kind() == ErrorKind::PermissionDenied => {
                let real = fs::canonicalize(self.disk_path(path)).map_err(unreadable)?;
                let inside = real.strip_prefix(&self.root).map_err(|_| FileError::Outside)?;
                self.dir.open_with(inside, &options)
            }
            opened => opened,
        };
        let file: File = opened.map_err(unreadable)?;
        let about = file.metadata().map_err(unreadable)?;
        if about.is_dir() {
            return Err(FileError::Unreadable("it is a folder".to_owned()));
        }
        if !about.is_file() {
            return Err(FileError::Unreadable("it is neither a file nor a folder".to_owned()));
        }
        Ok(file.into_std())
    }
}

/// For reading, without waiting for a writer where it is a pipe.
fn options() -> OpenOptions {
    let mut options = OpenOptions::new();
    options.read(true);
    #[cfg(unix)]
    {
        use cap_std::fs::OpenOptionsExt as _;
        let flags = rustix::fs::OFlags::NONBLOCK | rustix::fs::OFlags::NOCTTY;
        options.custom_flags(flags.bits() as i32);
    }
    options
}

impl Files for Folder {
    fn read(&self, path: &FilePath) -> Result<Vec<u8>, FileError> {
        let file = self.open_file(path)?;
        let unreadable = |error: std::io::Error| FileError::Unreadable(error.to_string());
        let size = file.metadata().map_err(unreadable)?.len();
        let mut bytes = Vec::new();
        if size <= LARGEST_FILE {
            bytes.reserve_exact(size as usize + 1);
            // It may grow while it is read.
            file.take(LARGEST_FILE + 1).read_to_end(&mut bytes).map_err(unreadable)?;
        }
        if size.max(bytes.len() as u64) > LARGEST_FILE {
            return Err(FileError::TooLarge(LARGEST_FILE));
        }
        Ok(bytes)
    }

    fn list(&self, folder: &FilePath) -> Result<Vec<FilePath>, FileError> {
        Ok(self.walk(folder)?.files)
    }
}

#[cfg(all(test, unix))]
mod tests {
    use super::*;
    use std::os::unix::fs::symlink;

    fn path(text: &str) -> FilePath {
        FilePath::parse(text).unwrap()
    }

    #[test]
    fn a_link_that_is_put_there_after_the_listing_is_not_followed() {
        let outside = tempfile::tempdir().unwrap();
        fs::write(outside.path().join("a.html"), "theirs").unwrap();
        let inside = tempfile::tempdir().unwrap();
        fs::create_dir_all(inside.path().join("site/d")).unwrap();
        fs::write(inside.path().join("site/d/a.html"), "mine").unwrap();
        fs::write(inside.path().join("site/b.html"), "mine").unwrap();
        let folder = Folder::open(inside.path()).unwrap();
        assert_eq!(folder.walk(&path("site")).unwrap().files, [path("site/b.html"), path("site/d/a.html")]);
        // A folder and a file become links that lead outside, by either way.
        fs::remove_dir_all(inside.path().join("site/d")).unwrap();
        symlink(outside.path(), inside.path().join("site/d")).unwrap();
        fs::remove_file(inside.path().join("site/b.html")).unwrap();
        let way = pathdiff(outside.path(), &inside.path().join("site"));
        symlink(way.join("a.html"), inside.path().join("site/b.html")).unwrap();
        for file in ["site/d/a.html", "site/b.html"] {
            assert_eq!(folder.read(&path(file)), Err(FileError::Outside), "{file}");
            assert!(folder.open_file(&path(file)).is_err());
        }
        // The folder itself is exchanged: what was opened first stays.
        fs::rename(inside.path().join("site"), inside.path().join("old")).unwrap();
        symlink(outside.path(), inside.path().join("site")).unwrap();
        assert_eq!(folder.read(&path("site/a.html")), Err(FileError::Outside));
    }

    /// The way from a folder to another by `..`.
    fn pathdiff(to: &Path, from: &Path) -> PathBuf {
        let up = from.components().skip(1).map(|_| "..");
        up.collect::<PathBuf>().join(to.strip_prefix("/").unwrap())
    }

    #[test]
    fn links_to_files_inside_are_files() {
        let inside = tempfile::tempdir().unwrap();
        let root = fs::canonicalize(inside.path()).unwrap();
        fs::create_dir_all(root.join("d")).unwrap();
        fs::write(root.join("d/a.html"), "mine").unwrap();
        symlink("d/a.html", root.join("near.html")).unwrap();
        symlink(root.join("d/a.html"), root.join("whole.html")).unwrap();
        symlink(root.join("d"), root.join("folder")).unwrap();
        symlink("none", root.join("nowhere.html")).unwrap();
        symlink("loop.html", root.join("loop.html")).unwrap();
        let folder = Folder::open(inside.path()).unwrap();
        let listing = folder.walk(&FilePath::root()).unwrap();
        assert_eq!(listing.files, [path("d/a.html"), path("near.html"), path("whole.html")]);
        assert_eq!(listing.left_out.len(), 3);
        for file in ["near.html", "whole.html"] {
            assert_eq!(folder.read(&path(file)).unwrap(), b"mine");
        }
        for file in ["nowhere.html", "loop.html", "d", "d/a.html/x", "none"] {
            assert!(folder.read(&path(file)).is_err(), "{file}");
        }
    }
}
