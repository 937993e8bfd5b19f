//! A release, as it is written.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

/// Who wrote it: a folder of this name that is somebody else's is left alone.
pub const MADE_BY: &str = "deft-pin";

/// What was published at one time.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Release {
    /// Who wrote it.
    #[serde(rename = "made by")]
    pub made_by: String,
    /// The shape of this file.
    pub version: u32,
    /// Its number, from 1.
    pub release: u32,
    /// When, in UTC: `2027-01-05T09:30:00Z`.
    pub time: String,
    /// What somebody wrote beside it.
    pub note: Option<String>,
    /// The kind of the host.
    pub host: String,
    /// The release whose pins these are again.
    pub undoes: Option<u32>,
    /// The version of Deft Pin that made it.
    pub tool: String,
    /// The board.
    pub board: StoredFile,
    /// Every file that the board names, and those that these name.
    pub files: Vec<StoredFile>,
    /// The pins that are on, each with a hash of all that it is.
    pub pins: BTreeMap<String, String>,
    /// What changed since the release before.
    pub changes: PinChanges,
    /// The pages that pins are for, as they came out, where files can be changed.
    pub pages: Vec<StoredPage>,
    /// What goes into boxes, where there are boxes.
    pub pieces: Vec<StoredPiece>,
    /// Files to upload.
    pub uploads: Vec<StoredUpload>,
    /// Files that go along with the pages, where files can be changed: by their place in the site.
    #[serde(default)]
    pub assets: Vec<StoredUpload>,
    /// IDs and classes to give by hand.
    pub by_hand: serde_json::Value,
    /// What was found.
    pub findings: Vec<StoredFinding>,
}

/// A file, whose bytes are kept by their hash.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct StoredFile {
    /// Its path, as seen from the board.
    pub file: String,
    /// The SHA-256 of its bytes.
    pub sha256: String,
    /// How many there are.
    pub bytes: u64,
}

/// A page as it came out.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct StoredPage {
    /// Its path.
    pub page: String,
    /// The SHA-256 of its bytes.
    pub sha256: String,
    /// What pins put into it.
    #[serde(default)]
    pub parts: Vec<StoredPart>,
}

/// A piece for a box; its text is kept by its hash.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct StoredPiece {
    /// Its name.
    pub piece: String,
    /// Its file in the folder of a paste-up.
    pub file: String,
    /// The SHA-256 of its text.
    pub sha256: String,
    /// What it is made of, as the host serves it.
    #[serde(default)]
    pub parts: Vec<StoredPart>,
    /// All else that the paste-up says of it.
    #[serde(flatten)]
    pub more: serde_json::Map<String, serde_json::Value>,
}

/// A part of a release as it stands in a page.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct StoredPart {
    /// What it is: `style`, `script`, `guard`, `markup` or `mark`.
    pub part: String,
    /// The pin or library that it is marked with.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    pub name: Option<String>,
    /// The pins that it is for.
    pub pins: Vec<String>,
    /// The SHA-256 of its text, as the host serves it.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    pub sha256: Option<String>,
    /// The pages on which it does something; none said for all that its piece is for.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    pub pages: Option<Vec<String>>,
    /// How many times it stands in the page, where that is not once.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    pub times: Option<usize>,
    /// The ID that it gives.
    #[serde(skip_serializing_if = "Option::is_none", default)]
    pub id: Option<String>,
    /// The classes that it gives.
    #[serde(skip_serializing_if = "Vec::is_empty", default)]
    pub classes: Vec<String>,
}

/// A file to upload.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct StoredUpload {
    /// Its name on the host.
    #[serde(rename = "as")]
    pub name: String,
    /// The SHA-256 of its bytes.
    pub sha256: String,
}

/// A finding, in short.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct StoredFinding {
    /// Its code.
    pub code: String,
    /// How much it weighs.
    pub severity: String,
    /// What is wrong.
    pub message: String,
    /// Where: file and line.
    pub place: String,
}

/// The pins that changed between two releases.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct PinChanges {
    /// Those that were not there.
    pub new: Vec<String>,
    /// Those that are others now.
    pub changed: Vec<String>,
    /// Those that are there no more.
    pub gone: Vec<String>,
}

impl StoredUpload {
    /// Its name without folders.
    pub fn file_name(&self) -> &str {
        self.name.rsplit('/').next().unwrap_or(&self.name)
    }
}

impl StoredPiece {
    /// A word that the paste-up says of it; nothing where it says none.
    pub fn word(&self, key: &str) -> &str {
        self.more.get(key).and_then(serde_json::Value::as_str).unwrap_or_default()
    }

    /// A list of words that it says of it.
    pub fn words(&self, key: &str) -> Vec<String> {
        let list = self.more.get(key).and_then(serde_json::Value::as_array).into_iter().flatten();
        list.filter_map(|own| own.as_str().map(str::to_owned)).collect()
    }
}

impl PinChanges {
    /// What changed from the pins before to those after, each with the hash of all that it is.
    pub fn between(before: &BTreeMap<String, String>, after: &BTreeMap<String, String>) -> Self {
        let names = |is_one: &dyn Fn(&String, &String) -> bool, of: &BTreeMap<String, String>| {
            of.iter().filter(|(name, hash)| is_one(name, hash)).map(|(name, _)| name.clone()).collect()
        };
        PinChanges {
            new: names(&|name, _| !before.contains_key(name), after),
            changed: names(&|name, hash| before.get(name).is_some_and(|own| own != hash), after),
            gone: names(&|name, _| !after.contains_key(name), before),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pins_that_changed_are_named() {
        let pins = |rows: &[(&str, &str)]| -> BTreeMap<String, String> {
            rows.iter().map(|(name, hash)| ((*name).to_owned(), (*hash).to_owned())).collect()
        };
        let made = PinChanges::between(
            &pins(&[("a", "1"), ("b", "1"), ("c", "1")]),
            &pins(&[("b", "1"), ("c", "2"), ("d", "1")]),
        );
        assert_eq!(
            (made.new, made.changed, made.gone),
            (vec!["d".into()], vec!["c".into()], vec!["a".into()])
        );
        assert_eq!(PinChanges::between(&pins(&[("a", "1")]), &pins(&[("a", "1")])), PinChanges::default());
    }
}
