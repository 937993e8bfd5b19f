//! The addresses in pasted code: of files that are uploaded, or `data:` addresses that carry them along.

use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};

use base64::Engine as _;

use super::named_url::NamedUrl;
use super::output_files::{EmittedCode, OutputFiles};
use crate::code::encode_segment;

/// The largest file that is carried along in a `data:` address, in bytes.
pub const LARGEST_CARRIED: usize = 256 << 10;

/// Gives pasted code the addresses of what it loads.
pub(super) struct PastedAssets<'a> {
    files: &'a OutputFiles,
    /// The address of the folder of uploads; none where nothing can be uploaded.
    uploads_at: Option<&'a str>,
    uploads: RefCell<BTreeSet<String>>,
    /// Addresses that carry a file along, by its name.
    carried: RefCell<BTreeMap<String, String>>,
}

impl<'a> PastedAssets<'a> {
    pub(super) fn new(files: &'a OutputFiles, uploads_at: Option<&'a str>) -> Self {
        PastedAssets { files, uploads_at, uploads: RefCell::default(), carried: RefCell::default() }
    }

    /// The names of the files that have to be uploaded for what was asked so far.
    pub(super) fn uploads(self) -> BTreeSet<String> {
        self.uploads.into_inner()
    }

    /// A text with its addresses.
    pub(super) fn text_of(&self, code: &EmittedCode) -> String {
        code.text_with(&|url: &NamedUrl| self.address(url))
    }

    /// Markup with its addresses, or a script that puts it in.
    pub(super) fn markup(&self, text: &str) -> String {
        self.files.addressed(text, &|url: &NamedUrl| self.address(url))
    }

    fn address(&self, url: &NamedUrl) -> String {
        let fragment = url.suffix.find('#').map_or("", |at| &url.suffix[at..]);
        match self.uploads_at {
            Some(_) => format!("{}{}", self.upload(&url.file), url.suffix),
            None => format!("{}{fragment}", self.carried(&url.file, &[])),
        }
    }

    /// The address of a file that is uploaded.
    pub(super) fn upload(&self, file: &str) -> String {
        self.uploads.borrow_mut().insert(file.to_owned());
        // What an uploaded file loads lies beside it.
        for url in self.loaded_by(file) {
            if !self.uploads.borrow().contains(&url) {
                self.upload(&url);
            }
        }
        format!("{}{}", self.uploads_at.unwrap_or_default(), encode_segment(file))
    }

    /// The files that one of the files loads.
    fn loaded_by(&self, file: &str) -> Vec<String> {
        let urls = self.files.loading(file).map(|asset| asset.urls()).unwrap_or_default();
        urls.iter().map(|url| url.file.clone()).collect()
    }

    /// A file as a `data:` address (RFC 2397). What loads itself by some way ends there.
    fn carried(&self, file: &str, way: &[&str]) -> String {
        if let Some(known) = self.carried.borrow().get(file) {
            return known.clone();
        }
        let Some(bytes) = self.files.files.get(file).filter(|_| !way.contains(&file)) else {
            return String::new();
        };
        let deeper = [way, &[file]].concat();
        let own = match self.files.loading(file) {
            Some(asset) => asset.text_with(&|url| self.carried(&url.file, &deeper)).into_bytes(),
            None => bytes.clone(),
        };
        let kind = mime_guess::from_path(file).first_or_octet_stream();
        let text = base64::engine::general_purpose::STANDARD.encode(&own);
        let address = format!("data:{};base64,{text}", kind.essence_str());
        self.carried.borrow_mut().insert(file.to_owned(), address.clone());
        address
    }
}
