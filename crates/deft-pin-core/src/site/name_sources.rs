//! Which scripts of a page may bring in a name at run time.

use std::fmt;

use serde::Serialize;

use super::loads::Load;
use super::parsed::ParsedPage;
use super::shelf::Shelf;
use crate::code::{CodeKind, Location};
use crate::script::{ScriptFile, ScriptKind};
use crate::source::FilePath;

/// A script that may bring in a name.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct NameSource {
    /// The script's file; for a script in a page, the page's.
    pub file: FilePath,
    /// The line on which it adds the name; none where the name only stands in it somewhere.
    pub line: Option<u32>,
}

impl fmt::Display for NameSource {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.line {
            Some(line) => write!(f, "{}:{line}", self.file),
            None => write!(f, "{}", self.file),
        }
    }
}

impl NameSource {
    /// A script of this file, where it may bring in a name.
    pub fn of_script(script: &ScriptFile, file: &FilePath, name: &str) -> Option<Self> {
        if !script.has_word(name) {
            return None;
        }
        let adds = &script.facts(ScriptKind::Classic).adds;
        let line = adds.iter().find(|added| added.name == name);
        let line = line.map(|added| script.text.position(added.span.start).line);
        Some(NameSource { file: file.clone(), line })
    }
}

/// The first script of a page's own that may bring in a name.
pub fn name_source(
    page: &ParsedPage<'_>,
    loads: &[Load],
    shelf: &Shelf<'_>,
    name: &str,
) -> Option<NameSource> {
    loads.iter().filter(|load| load.kind == CodeKind::Script).find_map(|load| match &load.location {
        Location::Inline => {
            let script = shelf.inline_script(&page.document.text_of(load.element));
            script.has_word(name).then(|| NameSource { file: page.page.file.clone(), line: None })
        }
        location => {
            let file = location.local()?;
            NameSource::of_script(&*shelf.script(file, page.encoding())?, file, name)
        }
    })
}
