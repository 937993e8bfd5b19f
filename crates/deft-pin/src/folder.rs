//! A folder on disk as a place that files come from. Nothing outside of it is ever read.

use std::fs;
use std::path::{Path, PathBuf};

use deft_pin_core::source::{FileError, FilePath, Files};
use ignore::WalkBuilder;

/// A folder, by its real path.
#[derive(Debug)]
pub struct Folder {
    root: PathBuf,
}

/// What a walk through a folder found.
#[derive(Debug, Default)]
pub struct Listing {
    /// The files, sorted by path.
    pub files: Vec<FilePath>,
    /// What was left out, and why.
    pub left_out: Vec<(PathBuf, &'static str)>,
}

impl Folder {
    /// Opens a folder.
    ///
    /// # Errors
    /// It is not there, or is no folder.
    pub fn open(path: &Path) -> std::io::Result<Self> {
        let root = fs::canonicalize(if path.as_os_str().is_empty() { Path::new(".") } else { path })?;
        if !root.is_dir() {
            return Err(std::io::Error::new(std::io::ErrorKind::NotADirectory, "it is no folder"));
        }
        Ok(Folder { root })
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
        for entry in
            WalkBuilder::new(self.disk_path(part)).standard_filters(false).follow_links(false).build()
        {
            let entry = entry.map_err(|error| FileError::Unreadable(error.to_string()))?;
            let kind = entry.file_type();
            let is_link = kind.is_some_and(|kind| kind.is_symlink());
            if !is_link && !kind.is_some_and(|kind| kind.is_file()) {
                let special = entry.depth() > 0 && !kind.is_some_and(|kind| kind.is_dir());
                if special {
                    listing.left_out.push((entry.into_path(), "it is neither a file nor a folder"));
                }
                continue;
            }
            if is_link {
                match fs::canonicalize(entry.path()) {
                    Ok(target) if !target.starts_with(&self.root) => {
                        listing
                            .left_out
                            .push((entry.into_path(), "it is a link that leads out of the board's folder"));
                        continue;
                    }
                    Ok(target) if target.is_file() => {}
                    Ok(_) => {
                        listing.left_out.push((entry.into_path(), "it is a link to a folder"));
                        continue;
                    }
                    Err(_) => {
                        listing.left_out.push((entry.into_path(), "it is a link that leads nowhere"));
                        continue;
                    }
                }
            }
            let below = entry.path().strip_prefix(&self.root).ok().and_then(Path::to_str);
            match below
                .map(|path| path.replace(std::path::MAIN_SEPARATOR, "/"))
                .and_then(|path| FilePath::parse(&path).ok())
            {
                Some(path) => listing.files.push(path),
                None => listing.left_out.push((entry.into_path(), "its name is not in UTF-8")),
            }
        }
        listing.files.sort();
        Ok(listing)
    }
}

impl Files for Folder {
    fn read(&self, path: &FilePath) -> Result<Vec<u8>, FileError> {
        let unreadable = |error: std::io::Error| match error.kind() {
            std::io::ErrorKind::NotFound => FileError::Missing,
            _ => FileError::Unreadable(error.to_string()),
        };
        let real = fs::canonicalize(self.disk_path(path)).map_err(unreadable)?;
        if !real.starts_with(&self.root) {
            return Err(FileError::Outside);
        }
        let size = fs::metadata(&real).map_err(unreadable)?;
        if size.is_dir() {
            return Err(FileError::Unreadable("it is a folder".to_owned()));
        }
        if size.len() >= u64::from(u32::MAX) {
            return Err(FileError::Unreadable("it is larger than 4 GiB".to_owned()));
        }
        fs::read(&real).map_err(unreadable)
    }

    fn list(&self, folder: &FilePath) -> Result<Vec<FilePath>, FileError> {
        Ok(self.walk(folder)?.files)
    }
}
