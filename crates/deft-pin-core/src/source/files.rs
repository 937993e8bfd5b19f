//! Where files come from: one small trait, so that a folder, a capture and a test's strings are
//! the same to everything above.

use std::borrow::Borrow;
use std::collections::BTreeMap;
use std::fmt;

use serde::{Serialize, Serializer};

/// A path below some folder: parts joined by `/`, none of them empty, `.` or `..`. It cannot
/// name anything outside that folder.
#[derive(Clone, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FilePath(String);

/// Why a text is not a [`FilePath`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PathError {
    /// The path starts at the root of the file system or names a drive: `/etc/motd`, `C:\pins`.
    #[error("an absolute path")]
    Absolute,
    /// The path climbs out of the folder: `../pins/a.css`.
    #[error("a path that leads out of the folder")]
    Outside,
    /// The path names no file: an empty text, or `.`.
    #[error("a path that names nothing")]
    Empty,
}

impl FilePath {
    /// The folder itself.
    pub fn root() -> Self {
        FilePath::default()
    }

    /// Reads a path as a person writes it: relative, with `/` between the parts; `.` and `..`
    /// are worked out, as long as they stay inside.
    pub fn parse(path: &str) -> Result<Self, PathError> {
        FilePath::root().join(path)
    }

    /// The path that `path` names as seen from this folder.
    pub fn join(&self, path: &str) -> Result<Self, PathError> {
        let drive = path.as_bytes().get(1) == Some(&b':') && path.as_bytes()[0].is_ascii_alphabetic();
        if path.starts_with(['/', '\\']) || drive {
            return Err(PathError::Absolute);
        }
        let mut parts: Vec<&str> = self.0.split('/').filter(|part| !part.is_empty()).collect();
        for part in path.split('/') {
            match part {
                "" | "." => {}
                ".." => {
                    parts.pop().ok_or(PathError::Outside)?;
                }
                part if part.contains('\0') => return Err(PathError::Empty),
                part => parts.push(part),
            }
        }
        if parts.is_empty() {
            return Err(PathError::Empty);
        }
        Ok(FilePath(parts.join("/")))
    }

    /// The path as text, with `/` between the parts; empty for the folder itself.
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// The folder that the file is in.
    pub fn folder(&self) -> FilePath {
        FilePath(self.0.rsplit_once('/').map_or(String::new(), |(folder, _)| folder.to_owned()))
    }

    /// The last part of the path.
    pub fn name(&self) -> &str {
        self.0.rsplit('/').next().unwrap_or_default()
    }

    /// What stands after the name's last dot; nothing where there is none.
    pub fn extension(&self) -> &str {
        self.name().rsplit_once('.').map_or("", |(_, extension)| extension)
    }

    /// This path as seen from a folder above it; `None` when that folder is not above it.
    pub fn below(&self, folder: &FilePath) -> Option<FilePath> {
        if folder.0.is_empty() {
            return Some(self.clone());
        }
        let rest = self.0.strip_prefix(&folder.0)?.strip_prefix('/')?;
        Some(FilePath(rest.to_owned()))
    }
}

impl fmt::Display for FilePath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(if self.0.is_empty() { "." } else { &self.0 })
    }
}

impl Serialize for FilePath {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.0)
    }
}

impl Borrow<str> for FilePath {
    fn borrow(&self) -> &str {
        &self.0
    }
}

/// Why a file could not be read.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FileError {
    /// There is no file of that name.
    #[error("there is no such file")]
    Missing,
    /// The name leads, through a link, to something outside the folder.
    #[error("it is a link that leads out of the folder")]
    Outside,
    /// It is larger than [`LARGEST_FILE`], or [`LARGEST_CODE`] for code.
    #[error("it is larger than {} MB, the most that is read", .0 >> 20)]
    TooLarge(u64),
    /// It is there, and cannot be read: it is a folder, or it is not ours to read.
    #[error("it cannot be read: {0}")]
    Unreadable(String),
}

/// The most bytes that a file may have to be read. Files that are only copied may be larger.
pub const LARGEST_FILE: u64 = 64 << 20;
/// The most bytes that a sheet or a script may have to be looked into.
pub const LARGEST_CODE: u64 = 16 << 20;

/// Reads a sheet or a script.
///
/// # Errors
/// It is not there, cannot be read, or is too large to be looked into.
pub fn read_code(files: &dyn Files, path: &FilePath) -> Result<Vec<u8>, FileError> {
    let bytes = files.read(path)?;
    if bytes.len() as u64 > LARGEST_CODE {
        return Err(FileError::TooLarge(LARGEST_CODE));
    }
    Ok(bytes)
}

/// Files below one folder.
pub trait Files: Sync {
    /// The bytes of one file.
    fn read(&self, path: &FilePath) -> Result<Vec<u8>, FileError>;

    /// Every file below a folder, sorted by name. Used to find pages and to suggest names.
    fn list(&self, folder: &FilePath) -> Result<Vec<FilePath>, FileError>;
}

/// Those of some files, sorted by name, that are in a folder itself.
pub fn files_in<'f>(
    sorted: &'f [FilePath],
    folder: &FilePath,
) -> impl Iterator<Item = &'f FilePath> + Clone + use<'f> {
    let prefix = if folder.as_str().is_empty() { String::new() } else { format!("{}/", folder.as_str()) };
    let first = sorted.partition_point(|file| file.as_str() < prefix.as_str());
    let below = sorted[first..].iter().map_while(move |file| {
        let rest = file.as_str().strip_prefix(prefix.as_str())?;
        Some((file, !rest.contains('/')))
    });
    below.filter_map(|(file, is_in)| is_in.then_some(file))
}

/// Files that are texts in memory.
#[derive(Clone, Debug, Default)]
pub struct MemoryFiles(BTreeMap<FilePath, Vec<u8>>);

impl MemoryFiles {
    /// Adds a file, or takes another text for it. A path that is none is left out.
    pub fn insert(&mut self, path: &str, bytes: impl Into<Vec<u8>>) {
        if let Ok(path) = FilePath::parse(path) {
            self.0.insert(path, bytes.into());
        }
    }
}

impl<const N: usize> From<[(&str, &str); N]> for MemoryFiles {
    fn from(files: [(&str, &str); N]) -> Self {
        let mut memory = MemoryFiles::default();
        for (path, text) in files {
            memory.insert(path, text);
        }
        memory
    }
}

impl Files for MemoryFiles {
    fn read(&self, path: &FilePath) -> Result<Vec<u8>, FileError> {
        self.0.get(path).cloned().ok_or(FileError::Missing)
    }

    fn list(&self, folder: &FilePath) -> Result<Vec<FilePath>, FileError> {
        Ok(self.0.keys().filter(|path| path.below(folder).is_some()).cloned().collect())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_path_never_leaves_its_folder() {
        let table: [(&str, Result<&str, PathError>); 9] = [
            ("pins/a.css", Ok("pins/a.css")),
            ("./pins//a.css", Ok("pins/a.css")),
            ("pins/../a.css", Ok("a.css")),
            ("../a.css", Err(PathError::Outside)),
            ("pins/../../a.css", Err(PathError::Outside)),
            ("/etc/motd", Err(PathError::Absolute)),
            ("C:/pins/a.css", Err(PathError::Absolute)),
            ("", Err(PathError::Empty)),
            (".", Err(PathError::Empty)),
        ];
        for (path, expected) in table {
            let found = FilePath::parse(path);
            assert_eq!(found.as_ref().map(FilePath::as_str).map_err(|e| *e), expected, "{path:?}");
        }
    }

    #[test]
    fn below_takes_whole_parts_only() {
        let site = FilePath::parse("site").unwrap();
        let page = FilePath::parse("site/fares.html").unwrap();
        assert_eq!(page.below(&site).unwrap().as_str(), "fares.html");
        assert_eq!(FilePath::parse("site-old/fares.html").unwrap().below(&site), None);
    }
}
