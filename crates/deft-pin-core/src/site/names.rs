//! The words in a site's scripts, for one question: may a script bring in this name at run time?
//!
//! Any word that stands in a script counts, in code, strings and markup alike. That is more than
//! scripts really add, and so never a *no* where a browser might say *yes*.

use std::collections::{HashMap, HashSet};
use std::sync::{Arc, Mutex, OnceLock};

use super::loads::{Load, LoadKind, LoadTarget};
use super::pages::{Page, Site};
use crate::markup::Document;
use crate::source::{FilePath, Files};

type Words = HashSet<Box<str>>;

/// The words of each script file, read once for all the pages that load it.
#[derive(Default)]
pub struct ScriptNames(Mutex<HashMap<FilePath, Arc<OnceLock<Words>>>>);

impl ScriptNames {
    /// The script of a page that has a word in it: its file, or the page's own for an inline one.
    pub fn script_with(
        &self,
        word: &str,
        (files, site): (&dyn Files, &Site),
        (page, document): (&Page, &Document),
        loads: &[Load],
    ) -> Option<FilePath> {
        loads.iter().filter(|load| load.kind == LoadKind::Script).find_map(|load| match &load.target {
            LoadTarget::Inline(id) => {
                let text = document.text_of(*id);
                let found = words(&text).any(|own| own == word);
                found.then(|| page.file.clone())
            }
            LoadTarget::Local(file) => self.of(file, files, site).get()?.contains(word).then(|| file.clone()),
            LoadTarget::Remote(_) | LoadTarget::Refused(_) => None,
        })
    }

    fn of(&self, file: &FilePath, files: &dyn Files, site: &Site) -> Arc<OnceLock<Words>> {
        let cell = {
            let mut all = self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
            Arc::clone(all.entry(file.clone()).or_default())
        };
        cell.get_or_init(|| {
            let bytes = files.read(&site.path_of(file)).unwrap_or_default();
            words(&String::from_utf8_lossy(&bytes)).map(Box::from).collect()
        });
        cell
    }
}

/// Runs of the characters that class names and IDs are made of.
pub(crate) fn words(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| c.is_ascii() && !c.is_ascii_alphanumeric() && c != '-' && c != '_')
        .filter(|word| !word.is_empty())
}
