//! The scripts of a site, each read and understood once for all the pages that load it, and which
//! of them may bring in a name at run time.

use std::collections::{HashMap, HashSet};
use std::hash::{DefaultHasher, Hash as _, Hasher as _};
use std::sync::{Arc, Mutex, OnceLock};

use super::loads::{Load, LoadKind, LoadTarget};
use super::pages::{Page, Site};
use crate::markup::Document;
use crate::script::{Frame, ScriptFacts, ScriptKind, facts};
use crate::source::{FilePath, Files, SourceText};

/// A script with what is known of it.
#[derive(Debug, Default)]
pub struct ScriptFile {
    /// Its text.
    pub text: SourceText,
    /// For a pin's script, how it is confined.
    pub frame: Option<Frame>,
    words: OnceLock<HashSet<Box<str>>>,
    likeness: OnceLock<u64>,
    classic: OnceLock<ScriptFacts>,
    module: OnceLock<ScriptFacts>,
}

impl ScriptFile {
    /// A script of that text.
    pub fn new(text: String) -> Self {
        ScriptFile { text: SourceText::new(text), ..ScriptFile::default() }
    }

    /// A script of that text, which runs in a frame.
    pub fn confined(text: String, frame: Frame) -> Self {
        ScriptFile { text: SourceText::new(text), frame: Some(frame), ..ScriptFile::default() }
    }

    /// Its facts, worked out at the first question.
    pub fn facts(&self, kind: ScriptKind) -> &ScriptFacts {
        let (kind, share) = match &self.frame {
            Some(frame) => (ScriptKind::Confined, &frame.share[..]),
            None => (kind, &[][..]),
        };
        let cell = match kind {
            ScriptKind::Classic | ScriptKind::Confined => &self.classic,
            ScriptKind::Module => &self.module,
        };
        cell.get_or_init(|| facts(self.text.as_str(), kind, share))
    }

    /// Whether it is the same text but for blanks.
    pub fn is_like(&self, other: &ScriptFile) -> bool {
        self.likeness() == other.likeness()
    }

    fn likeness(&self) -> u64 {
        *self.likeness.get_or_init(|| {
            let mut hasher = DefaultHasher::new();
            self.text.as_str().split_whitespace().for_each(|word| word.hash(&mut hasher));
            hasher.finish()
        })
    }

    /// Execution often a word stands in it.
    pub fn count_of(&self, word: &str) -> usize {
        count(self.text.as_str(), word)
    }

    /// Whether a word stands in it anywhere: more than it really adds, and so never a *no* where a
    /// browser might say *yes*.
    pub fn has_word(&self, word: &str) -> bool {
        self.words.get_or_init(|| words(self.text.as_str()).map(Box::from).collect()).contains(word)
    }
}

/// Execution often a word stands in a text.
fn count(text: &str, word: &str) -> usize {
    words(text).filter(|own| *own == word).count()
}

/// A script that may bring in a name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Bringer {
    /// The script's file; for an inline one the page's.
    pub file: FilePath,
    /// The line on which it adds the name; none where the name only stands in it somewhere.
    pub line: Option<u32>,
}

impl std::fmt::Display for Bringer {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self.line {
            Some(line) => write!(f, "{}:{line}", self.file),
            None => write!(f, "{}", self.file),
        }
    }
}

/// Whether a script may bring in a name, and on which line it does, if that is known.
pub fn brings(script: &ScriptFile, name: &str) -> Option<Option<u32>> {
    if !script.has_word(name) {
        return None;
    }
    let adds = &script.facts(ScriptKind::Classic).adds;
    let added = adds.iter().find(|added| added.name == name);
    Some(added.map(|added| script.text.position(added.span.start).line))
}

type Cell = Arc<OnceLock<Option<Arc<ScriptFile>>>>;

/// The script files of a site.
#[derive(Default)]
pub struct ScriptFiles {
    files: Mutex<HashMap<FilePath, Cell>>,
    inline: Mutex<HashMap<String, Arc<ScriptFile>>>,
    handlers: Mutex<HashMap<String, Arc<ScriptFile>>>,
}

/// Execution many scripts that stand in pages are kept: templates have them alike on every page.
const KEPT: usize = 512;

impl ScriptFiles {
    /// A script file; none where it cannot be read.
    pub fn get(&self, file: &FilePath, files: &dyn Files, site: &Site) -> Option<Arc<ScriptFile>> {
        let cell = {
            let mut all = self.files.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
            Arc::clone(all.entry(file.clone()).or_default())
        };
        cell.get_or_init(|| {
            let bytes = files.read(&site.path_of(file)).ok()?;
            let text = String::from_utf8_lossy(&bytes);
            let text = text.strip_prefix('\u{feff}').unwrap_or(&text).to_owned();
            Some(Arc::new(ScriptFile::new(text)))
        })
        .clone()
    }

    /// A script that stands in a page.
    pub fn inline(&self, text: String) -> Arc<ScriptFile> {
        kept(&self.inline, text, ScriptFile::new)
    }

    /// The code of an attribute for an event.
    pub fn handler(&self, text: &str) -> Arc<ScriptFile> {
        kept(&self.handlers, text.to_owned(), |text| ScriptFile::confined(text, Frame::default()))
    }

    /// The script of a page that may bring in a name.
    pub fn bringer(
        &self,
        name: &str,
        (files, site): (&dyn Files, &Site),
        (page, document): (&Page, &Document),
        loads: &[Load],
    ) -> Option<Bringer> {
        loads.iter().filter(|load| load.kind == LoadKind::Script).find_map(|load| match &load.target {
            LoadTarget::Inline(id) => {
                let text = document.text_of(*id);
                let found = words(&text).any(|own| own == name);
                found.then(|| Bringer { file: page.file.clone(), line: None })
            }
            LoadTarget::Local(file) => {
                let line = brings(&*self.get(file, files, site)?, name)?;
                Some(Bringer { file: file.clone(), line })
            }
            LoadTarget::Remote(_) | LoadTarget::Refused(_) => None,
        })
    }
}

/// A script that is known already, or a new one, which is kept where there is room.
fn kept(
    all: &Mutex<HashMap<String, Arc<ScriptFile>>>,
    text: String,
    make: impl FnOnce(String) -> ScriptFile,
) -> Arc<ScriptFile> {
    let mut all = all.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
    if let Some(known) = all.get(&text) {
        return Arc::clone(known);
    }
    let script = Arc::new(make(text.clone()));
    if all.len() < KEPT {
        all.insert(text, Arc::clone(&script));
    }
    script
}

/// Runs of the characters that class names and IDs are made of.
pub(crate) fn words(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| c.is_ascii() && !c.is_ascii_alphanumeric() && c != '-' && c != '_')
        .filter(|word| !word.is_empty())
}
