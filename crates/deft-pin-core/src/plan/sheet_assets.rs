//! Files that sheets load: images, fonts, imported sheets. They go along into the output.

use std::cell::OnceCell;
use std::collections::BTreeMap;

use super::problem::Problem;
use crate::code::{BoardAddress, Owner, resolve_beside};
use crate::source::{FilePath, Files, Span};
use crate::style::{UrlUse, urls};

/// An address in a sheet that means a file beside the board.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LocalUrl {
    /// The token that holds it.
    pub span: Span,
    /// Whether the token is a string and has to stay one.
    pub is_string: bool,
    /// The file, as seen from the board.
    pub path: FilePath,
    /// What follows the path in the address: query and fragment.
    pub suffix: String,
}

/// A file that some sheet loads.
#[derive(Debug)]
pub struct SheetAsset {
    /// Its bytes.
    pub bytes: Vec<u8>,
    /// For a sheet, what it loads in turn.
    pub urls: Vec<LocalUrl>,
}

/// Every file that the sheets of a plan load, by its path.
pub type SheetAssets = BTreeMap<FilePath, SheetAsset>;

/// The sheet in which an address stands, for telling what is wrong with it.
#[derive(Clone, Copy)]
pub(super) struct Sheet<'s> {
    pub(super) owner: Owner,
    pub(super) path: &'s FilePath,
}

pub(super) struct AssetReader<'a> {
    pub(super) files: &'a dyn Files,
    pub(super) assets: SheetAssets,
    pub(super) problems: Vec<Problem>,
    /// Every file beside the board, for the names of those that are not there.
    pub(super) listing: OnceCell<Vec<FilePath>>,
    /// Sheets that were loaded, and whose own addresses are still to be followed.
    waiting: Vec<(Owner, FilePath, String)>,
}

impl<'a> AssetReader<'a> {
    pub(super) fn of(files: &'a dyn Files) -> Self {
        AssetReader {
            files,
            assets: SheetAssets::new(),
            problems: Vec::new(),
            listing: OnceCell::new(),
            waiting: Vec::new(),
        }
    }

    /// Follows the addresses in the sheets that other sheets load.
    pub(super) fn follow(&mut self) {
        while let Some((owner, path, text)) = self.waiting.pop() {
            let inner = self.load(Sheet { owner, path: &path }, &urls(&text));
            if let Some(file) = self.assets.get_mut(&path) {
                file.urls = inner;
            }
        }
    }

    /// Reads what the addresses of a sheet mean, as far as that is beside the board.
    pub(super) fn load(&mut self, sheet: Sheet<'_>, uses: &[UrlUse]) -> Vec<LocalUrl> {
        let mut found = Vec::new();
        for url in uses {
            let place = url.span;
            let (path, suffix) = match resolve_beside(sheet.path, &url.url) {
                BoardAddress::Beside(path, suffix) => (path, suffix),
                BoardAddress::Elsewhere => continue,
                BoardAddress::Outside => {
                    self.problems.push(Problem::OutsideUrl {
                        owner: sheet.owner,
                        file: sheet.path.clone(),
                        place,
                        url: url.url.clone(),
                    });
                    continue;
                }
            };
            if !self.assets.contains_key(&path) {
                match self.files.read(&path) {
                    Ok(bytes) => self.take(sheet.owner, &path, bytes),
                    Err(error) => {
                        let file = sheet.path.clone();
                        self.problems.push(Problem::MissingUrl {
                            owner: sheet.owner,
                            file,
                            place,
                            path,
                            error,
                        });
                        continue;
                    }
                }
            }
            found.push(LocalUrl { span: place, is_string: url.is_string, path, suffix });
        }
        found
    }

    fn take(&mut self, owner: Owner, path: &FilePath, bytes: Vec<u8>) {
        let text = (path.extension().eq_ignore_ascii_case("css"))
            .then(|| String::from_utf8(bytes.clone()).ok())
            .flatten();
        self.assets.insert(path.clone(), SheetAsset { bytes, urls: Vec::new() });
        self.waiting.extend(text.map(|text| (owner, path.clone(), text)));
    }
}
