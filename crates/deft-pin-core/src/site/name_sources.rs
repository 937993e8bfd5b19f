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
    /// A script of this file, where it names something so.
    pub fn of_script(script: &ScriptFile, file: &FilePath, name: &str, naming: Naming) -> Option<Self> {
        if !naming.holds(script, name) {
            return None;
        }
        let adds = &script.facts(ScriptKind::Classic).adds;
        let line = adds.iter().find(|added| added.name == name);
        let line = line.map(|added| script.text.position(added.span.start).line);
        Some(NameSource { file: file.clone(), line })
    }
}

/// What a script has to do with a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Naming {
    /// It names it somewhere: to look it up, to give it, or both.
    Anyhow,
    /// It may give it to something.
    Bringing,
}

impl Naming {
    fn holds(self, script: &ScriptFile, name: &str) -> bool {
        match self {
            Naming::Anyhow => script.has_word(name),
            Naming::Bringing => script.may_bring(name),
        }
    }
}

/// The first script of a page's own that names something so.
pub fn name_source(
    page: &ParsedPage<'_>,
    loads: &[Load],
    shelf: &Shelf<'_>,
    name: &str,
    naming: Naming,
) -> Option<NameSource> {
    loads.iter().filter(|load| load.kind == CodeKind::Script).find_map(|load| match &load.location {
        Location::Inline => {
            let script = shelf.inline_script(&page.document.text_of(load.element));
            naming.holds(&script, name).then(|| NameSource { file: page.page.file.clone(), line: None })
        }
        location => {
            let file = location.local()?;
            NameSource::of_script(&*shelf.script(file, page.encoding())?, file, name, naming)
        }
    })
}
