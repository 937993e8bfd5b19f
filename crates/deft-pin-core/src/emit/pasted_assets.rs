//! The addresses in pasted code: of files that are uploaded, or `data:` addresses that carry them along.

use std::cell::RefCell;
use std::collections::BTreeSet;

use base64::Engine as _;

use super::output_files::{EmittedCode, NamedUrl, OutputFiles};
use crate::code::encode_segment;
use crate::source::FilePath;
use crate::style::{apply, urls};

/// The largest file that is carried along in a `data:` address, in bytes.
pub const LARGEST_CARRIED: usize = 256 << 10;

/// Gives pasted code the addresses of what it loads.
pub(super) struct PastedAssets<'a> {
    files: &'a OutputFiles,
    /// The address of the folder of uploads; none where nothing can be uploaded.
    uploads_at: Option<&'a str>,
    uploads: RefCell<BTreeSet<String>>,
}

impl<'a> PastedAssets<'a> {
    pub(super) fn new(files: &'a OutputFiles, uploads_at: Option<&'a str>) -> Self {
        PastedAssets { files, uploads_at, uploads: RefCell::default() }
    }

    /// The names of the files that have to be uploaded for what was asked so far.
    pub(super) fn uploads(self) -> BTreeSet<String> {
        self.uploads.into_inner()
    }

    /// A text with its addresses.
    pub(super) fn text_of(&self, code: &EmittedCode) -> String {
        code.text_with(&|url: &NamedUrl| {
            let fragment = url.suffix.find('#').map_or("", |at| &url.suffix[at..]);
            match self.uploads_at {
                Some(_) => format!("{}{}", self.upload(&url.file), url.suffix),
                None => format!("{}{fragment}", self.carried(&url.file, 0)),
            }
        })
    }

    /// The address of a file that is uploaded.
    pub(super) fn upload(&self, file: &str) -> String {
        self.uploads.borrow_mut().insert(file.to_owned());
        // What an uploaded sheet loads lies beside it.
        for url in self.loaded_by(file) {
            if !self.uploads.borrow().contains(&url) {
                self.upload(&url);
            }
        }
        format!("{}{}", self.uploads_at.unwrap_or_default(), encode_segment(file))
    }

    /// The files that a sheet among the files loads.
    fn loaded_by(&self, file: &str) -> Vec<String> {
        let text =
            self.files.files.get(file).filter(|_| is_sheet(file)).map(|bytes| String::from_utf8_lossy(bytes));
        let found = text.iter().flat_map(|text| urls(text));
        found
            .filter_map(|url| named_by(&url.url))
            .filter(|name| self.files.files.contains_key(name))
            .collect()
    }

    /// A file as a `data:` address (RFC 2397).
    fn carried(&self, file: &str, depth: usize) -> String {
        let Some(bytes) = self.files.files.get(file) else { return String::new() };
        let mut own = bytes.clone();
        if is_sheet(file) && depth < 8 {
            let text = String::from_utf8_lossy(bytes).into_owned();
            let edits = urls(&text).into_iter().filter_map(|url| {
                let name = named_by(&url.url).filter(|name| self.files.files.contains_key(name))?;
                let mut address = String::new();
                // Writing to a string does not fail.
                let _ = cssparser::serialize_string(&self.carried(&name, depth + 1), &mut address);
                let text = if url.is_string { address } else { format!("url({address})") };
                Some(crate::style::Edit { span: url.span, text })
            });
            let edits: Vec<_> = edits.collect();
            own = apply(&text, edits).into_bytes();
        }
        let kind = mime_guess::from_path(file).first_or_octet_stream();
        format!(
            "data:{};base64,{}",
            kind.essence_str(),
            base64::engine::general_purpose::STANDARD.encode(&own)
        )
    }
}

/// The name of the file that an address in a sheet of the output means: they all lie side by side.
fn named_by(url: &str) -> Option<String> {
    let path = url.split(['?', '#']).next()?;
    percent_encoding::percent_decode_str(path).decode_utf8().ok().map(|name| name.into_owned())
}

fn is_sheet(file: &str) -> bool {
    FilePath::parse(file).is_ok_and(|path| path.extension().eq_ignore_ascii_case("css"))
}
