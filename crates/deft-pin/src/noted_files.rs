//! Files, with a note of which were asked for.

use std::collections::BTreeSet;
use std::sync::{Mutex, PoisonError};

use deft_pin_core::source::{FileError, FilePath, Files};

/// Files, with a note of which were asked for.
pub struct NotedFiles<'f> {
    files: &'f dyn Files,
    read: Mutex<BTreeSet<FilePath>>,
}

impl<'f> NotedFiles<'f> {
    /// Notes what is asked of these files.
    pub fn new(files: &'f dyn Files) -> Self {
        NotedFiles { files, read: Mutex::default() }
    }

    /// What was asked for.
    pub fn into_read(self) -> BTreeSet<FilePath> {
        self.read.into_inner().unwrap_or_else(PoisonError::into_inner)
    }

    /// What was asked for until now.
    pub fn read_so_far(&self) -> BTreeSet<FilePath> {
        self.read.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }
}

impl Files for NotedFiles<'_> {
    fn read(&self, path: &FilePath) -> Result<Vec<u8>, FileError> {
        self.read.lock().unwrap_or_else(PoisonError::into_inner).insert(path.clone());
        self.files.read(path)
    }

    fn list(&self, folder: &FilePath) -> Result<Vec<FilePath>, FileError> {
        self.files.list(folder)
    }
}
