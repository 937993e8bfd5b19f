//! The shelf: the sheets and scripts of a site, each read and understood once for all the pages that
//! load it.

use std::borrow::Borrow;
use std::collections::HashMap;
use std::hash::Hash;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use encoding_rs::{Encoding, UTF_8};

use super::pages::Site;
use crate::script::{Frame, ScriptFile};
use crate::source::{FilePath, Files, SourceText, decode_script, decode_sheet, read_code};
use crate::style::StyleRules;

/// How many different texts that stand in pages are kept: templates have them alike on every page.
const INLINE_TEXTS: usize = 512;

/// A sheet of the site, and the encoding that it was read in.
#[derive(Clone, Debug)]
pub struct ShelfSheet {
    /// Its rules.
    pub rules: Arc<StyleRules>,
    /// The encoding, which sheets that it imports take over.
    pub encoding: &'static Encoding,
}

/// The sheets and scripts of a site, parsed when somebody first asks for them.
pub struct Shelf<'a> {
    files: &'a dyn Files,
    site: &'a Site,
    sheets: Kept<(FilePath, &'static Encoding), Option<ShelfSheet>>,
    scripts: Kept<(FilePath, &'static Encoding), Option<Arc<ScriptFile>>>,
    inline_sheets: Kept<Box<str>, Arc<StyleRules>>,
    inline_scripts: Kept<Box<str>, Arc<ScriptFile>>,
    event_handlers: Kept<Box<str>, Arc<ScriptFile>>,
    listing: OnceLock<Vec<FilePath>>,
}

impl<'a> Shelf<'a> {
    /// An empty shelf.
    pub fn new(site: &'a Site, files: &'a dyn Files) -> Self {
        Shelf {
            files,
            site,
            sheets: Kept::all(),
            scripts: Kept::all(),
            inline_sheets: Kept::most(INLINE_TEXTS),
            inline_scripts: Kept::most(INLINE_TEXTS),
            event_handlers: Kept::most(INLINE_TEXTS),
            listing: OnceLock::new(),
        }
    }

    /// Every file beside the board, by name, listed at the first question.
    pub fn beside(&self) -> &[FilePath] {
        self.listing.get_or_init(|| {
            let mut all = self.files.list(&FilePath::root()).unwrap_or_default();
            all.sort();
            all
        })
    }

    /// The site.
    pub fn site(&self) -> &'a Site {
        self.site
    }

    /// A sheet; none where it cannot be read. `environment` is the encoding of what loads it, which
    /// counts where the sheet says none itself.
    pub fn sheet(&self, file: &FilePath, environment: &'static Encoding) -> Option<ShelfSheet> {
        self.sheets.get((file.clone(), environment), |(file, _)| {
            let bytes = read_code(self.files, &self.site.path_of(file)).ok()?;
            let (text, encoding) = decode_sheet(&bytes, environment);
            Some(ShelfSheet { rules: Arc::new(StyleRules::new(text)), encoding })
        })
    }

    /// A classic script; none where it cannot be read. `environment` is the encoding of the page.
    pub fn script(&self, file: &FilePath, environment: &'static Encoding) -> Option<Arc<ScriptFile>> {
        self.scripts.get((file.clone(), environment), |(file, _)| {
            let bytes = read_code(self.files, &self.site.path_of(file)).ok()?;
            Some(Arc::new(ScriptFile::new(decode_script(&bytes, environment))))
        })
    }

    /// A module; none where it cannot be read. Modules are in UTF-8 whatever the page is in.
    pub fn module(&self, file: &FilePath) -> Option<Arc<ScriptFile>> {
        self.script(file, UTF_8)
    }

    /// A sheet that stands in a page.
    pub fn inline_sheet(&self, text: &str) -> Arc<StyleRules> {
        self.inline_sheets.get(text.into(), |text| Arc::new(StyleRules::new(text.to_string())))
    }

    /// A script that stands in a page.
    pub fn inline_script(&self, text: &str) -> Arc<ScriptFile> {
        self.inline_scripts.get(text.into(), |text| Arc::new(ScriptFile::new(text.to_string())))
    }

    /// The code of an event handler content attribute.
    pub fn event_handler(&self, text: &str) -> Arc<ScriptFile> {
        self.event_handlers.get(text.into(), |text| {
            Arc::new(ScriptFile::confined(SourceText::new(text.to_string()), Frame::default()))
        })
    }
}

/// Values that are made once and kept, up to some number of them.
struct Kept<K, V> {
    most: usize,
    rows: Mutex<HashMap<K, Arc<OnceLock<V>>>>,
}

impl<K: Eq + Hash + Clone + Borrow<K>, V: Clone> Kept<K, V> {
    fn all() -> Self {
        Kept::most(usize::MAX)
    }

    fn most(most: usize) -> Self {
        Kept { most, rows: Mutex::new(HashMap::new()) }
    }

    /// The value of a key. Two threads that ask for the same one wait for one to make it; nobody
    /// else waits.
    fn get(&self, key: K, make: impl FnOnce(&K) -> V) -> V {
        let row = {
            let mut rows = self.rows.lock().unwrap_or_else(PoisonError::into_inner);
            match rows.get(&key) {
                Some(row) => Some(Arc::clone(row)),
                None if rows.len() < self.most => Some(Arc::clone(rows.entry(key.clone()).or_default())),
                None => None,
            }
        };
        match row {
            Some(row) => row.get_or_init(|| make(&key)).clone(),
            None => make(&key),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::MemoryFiles;
    use encoding_rs::WINDOWS_1252;

    #[test]
    fn what_is_on_the_shelf_is_read_once_for_each_encoding() {
        let mut files = MemoryFiles::from([("site/index.html", "")]);
        files.insert("site/a.css", b".caf\xe9 { top: 0 }".to_vec());
        files.insert("site/b.css", b"@charset \"utf-8\"; .caf\xc3\xa9 { top: 0 }".to_vec());
        files.insert("site/a.js", b"var caf\xe9 = 1".to_vec());
        let site = Site::list(&files, &FilePath::parse("site").unwrap()).unwrap();
        let shelf = Shelf::new(&site, &files);
        let file = |name: &str| FilePath::parse(name).unwrap();
        let sheet = |name, encoding| shelf.sheet(&file(name), encoding).unwrap();
        assert!(sheet("a.css", WINDOWS_1252).rules.text.as_str().starts_with(".café"));
        assert!(sheet("a.css", UTF_8).rules.text.as_str().starts_with(".caf\u{fffd}"));
        assert!(sheet("b.css", WINDOWS_1252).rules.text.as_str().contains(".café"));
        assert_eq!(sheet("b.css", WINDOWS_1252).encoding, UTF_8);
        assert!(Arc::ptr_eq(&sheet("a.css", UTF_8).rules, &sheet("a.css", UTF_8).rules));
        assert!(shelf.script(&file("a.js"), WINDOWS_1252).unwrap().has_word("café"));
        assert!(!shelf.module(&file("a.js")).unwrap().has_word("café"));
        assert!(
            shelf.script(&file("no.js"), UTF_8).is_none() && shelf.sheet(&file("no.css"), UTF_8).is_none()
        );
        assert!(Arc::ptr_eq(&shelf.inline_script("go()"), &shelf.inline_script("go()")));
        for number in 0..INLINE_TEXTS + 2 {
            shelf.inline_sheet(&format!("p {{ order: {number} }}"));
        }
        let late = format!("p {{ order: {} }}", INLINE_TEXTS + 1);
        assert!(!Arc::ptr_eq(&shelf.inline_sheet(&late), &shelf.inline_sheet(&late)));
    }
}
