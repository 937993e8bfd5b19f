//! Everything that was ever published, by its text.

use std::collections::HashMap;

use super::code_text::squeezed;
use super::part_kind::PartKind;
use super::published::{PartLook, PublishedPart};

/// The number of a release.
pub type ReleaseNumber = u32;

/// Every text that was ever published, with the last release that had it.
#[derive(Debug, Default)]
pub struct Archive {
    codes: HashMap<String, Vec<Known>>,
    files: HashMap<String, Vec<Known>>,
    /// Code as it was written, before it was kept to its target: somebody may have pasted that by hand.
    sources: HashMap<String, (String, PartKind)>,
    /// The texts of trees of markup.
    trees: HashMap<String, Vec<Known>>,
}

/// Whose a text was, and when it was published last.
#[derive(Clone, Debug)]
struct Known {
    name: Option<String>,
    kind: PartKind,
    first: ReleaseNumber,
    last: ReleaseNumber,
}

impl Archive {
    /// Adds a part of a release.
    pub fn add(&mut self, release: ReleaseNumber, part: &PublishedPart) {
        let known = |list: &mut Vec<Known>| match list
            .iter_mut()
            .find(|own| own.name == part.name && own.kind == part.kind)
        {
            Some(own) => {
                own.first = own.first.min(release);
                own.last = own.last.max(release);
            }
            None => {
                list.push(Known { name: part.name.clone(), kind: part.kind, first: release, last: release })
            }
        };
        match &part.look {
            PartLook::Element(own) => match own.file_name() {
                Some(file) => known(self.files.entry(file.to_owned()).or_default()),
                None => known(self.codes.entry(own.squeezed.clone()).or_default()),
            },
            PartLook::Code { squeezed, .. } => known(self.codes.entry(squeezed.clone()).or_default()),
            PartLook::Nodes { trees, .. } => {
                trees.iter().for_each(|tree| known(self.trees.entry(tree.clone()).or_default()));
            }
            PartLook::Names { .. } => {}
        }
    }

    /// Adds the code of a pin as it was written.
    pub fn add_source(&mut self, pin: &str, kind: PartKind, text: &str) {
        self.sources.entry(squeezed(text)).or_insert_with(|| (pin.to_owned(), kind));
    }

    /// The first release that had a part; none for one that has no text.
    pub fn first_release_of(&self, part: &PublishedPart) -> Option<ReleaseNumber> {
        let list = match &part.look {
            PartLook::Element(own) => match own.file_name() {
                Some(file) => self.files.get(file),
                None => self.codes.get(&own.squeezed),
            },
            PartLook::Code { squeezed, .. } => self.codes.get(squeezed),
            PartLook::Nodes { trees, .. } => self.trees.get(trees.first()?),
            PartLook::Names { .. } => None,
        };
        let own = list?.iter().filter(|own| own.name == part.name && own.kind == part.kind);
        own.map(|own| own.first).min()
    }

    /// The last release in which a pin or a library had a code, by its text without blanks.
    pub fn release_of_code(&self, name: Option<&str>, squeezed: &str) -> Option<ReleaseNumber> {
        last_of(self.codes.get(squeezed)?, name)
    }

    /// The last release in which it had a file of this name.
    pub fn release_of_file(&self, name: Option<&str>, file: &str) -> Option<ReleaseNumber> {
        last_of(self.files.get(file)?, name)
    }

    /// The last release in which it had this markup.
    pub fn release_of_tree(&self, name: Option<&str>, tree: &str) -> Option<ReleaseNumber> {
        last_of(self.trees.get(tree)?, name)
    }

    /// The codes that it ever had, with the release that had each last, the newest first.
    pub(super) fn codes_of(&self, name: Option<&str>, kind: PartKind) -> Vec<(ReleaseNumber, &str)> {
        let own = |list: &[Known]| {
            let own = list.iter().filter(|own| own.name.as_deref() == name && own.kind == kind);
            own.map(|own| own.last).max()
        };
        let mut rows: Vec<(ReleaseNumber, &str)> =
            self.codes.iter().filter_map(|(code, list)| Some((own(list)?, code.as_str()))).collect();
        rows.sort_unstable_by(|one, other| other.cmp(one));
        rows
    }

    /// The pin that has a code as it was written.
    pub fn source_of(&self, squeezed: &str) -> Option<(&str, PartKind)> {
        self.sources.get(squeezed).map(|(pin, kind)| (pin.as_str(), *kind))
    }

    /// Every tree of markup that a pin ever had, with the release that had it last.
    pub(super) fn trees_of<'a>(
        &'a self,
        name: Option<&'a str>,
    ) -> impl Iterator<Item = (&'a str, ReleaseNumber)> {
        self.trees.iter().filter_map(move |(tree, list)| Some((tree.as_str(), last_of(list, name)?)))
    }
}

fn last_of(list: &[Known], name: Option<&str>) -> Option<ReleaseNumber> {
    list.iter().filter(|own| own.name.as_deref() == name).map(|own| own.last).max()
}
