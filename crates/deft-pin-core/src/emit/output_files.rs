//! The files that the customised pages link to: each pin's and library's own, and what their
//! sheets load. Their names carry a hash of what is in them.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use base64::Engine as _;
use sha2::{Digest, Sha256, Sha384};

use crate::code::{CodeKind, Owner, PinId, encode_segment};
use crate::plan::{CodeKey, CodeSource, ExistingCopies, FileText, Layout, LocalUrl, Plan};
use crate::source::{FilePath, Span};
use crate::style::{Edit, apply};

/// A sheet or script of the plan, ready to be linked or put into a page.
#[derive(Debug)]
pub struct EmittedCode {
    /// The name of its file in the folder of assets.
    pub name: String,
    /// What a browser holds the file against (Subresource Integrity), for a library's file.
    pub integrity: Option<String>,
    /// Whether all of its characters are ASCII, so that every encoding reads it alike.
    pub ascii: bool,
    text: String,
    edits: Vec<Edit>,
    urls: Vec<NamedUrl>,
}

/// An address in a sheet, with the name of the file that it is to lead to.
#[derive(Debug)]
pub struct NamedUrl {
    /// The token that holds it.
    span: Span,
    /// Whether the token is a string and has to stay one.
    is_string: bool,
    /// The name of the file in the folder of assets.
    pub file: String,
    /// Query and fragment.
    pub suffix: String,
}

impl NamedUrl {
    /// The file's name as it stands in an address, with query and fragment.
    fn name(&self) -> String {
        format!("{}{}", encode_segment(&self.file), self.suffix)
    }
}

impl EmittedCode {
    /// The text, with the addresses of what it loads behind a prefix: that of the folder of
    /// assets as seen from where the text stands, with a slash at its end.
    pub fn text_from(&self, prefix: &str) -> String {
        self.text_with(&|url| format!("{prefix}{}", url.name()))
    }

    /// The text, with other addresses of what it loads.
    pub fn text_with(&self, address: &dyn Fn(&NamedUrl) -> String) -> String {
        if self.edits.is_empty() && self.urls.is_empty() {
            return self.text.clone();
        }
        let mut edits = self.edits.clone();
        edits.extend(url_edits(&self.urls, address));
        apply(&self.text, edits)
    }
}

/// Every file of a build that is not the site's own.
#[derive(Debug)]
pub struct OutputFiles {
    /// The folder that they are in, at the top of the output.
    pub folder: String,
    /// The files by name, with their bytes.
    pub files: BTreeMap<String, Vec<u8>>,
    code: HashMap<CodeKey, EmittedCode>,
}

impl OutputFiles {
    /// Makes the files of a plan. Pins that are off and libraries that nothing needs have none.
    pub fn new(plan: &Plan<'_>, folder: &str) -> Self {
        let mut output =
            OutputFiles { folder: folder.to_owned(), files: BTreeMap::new(), code: HashMap::new() };
        let names = asset_names(plan);
        let every: Vec<PinId> = plan.board.active_pins().map(|(id, _)| id).collect();
        for placement in plan.placements(&every, &ExistingCopies::default(), &Layout::default()) {
            let Some(CodeSource::File(file, edits)) = plan.code(placement.code) else { continue };
            let code = emitted(plan, placement.code, file, edits, &names);
            output.files.insert(code.name.clone(), code.text_from("").into_bytes());
            output.take_assets(plan, &file.urls, &names);
            output.code.insert(placement.code, code);
        }
        output
    }

    /// Takes `integrity` off what links the files: browsers refuse a file that carries it in a
    /// folder that is opened without a server.
    pub fn drop_integrity(&mut self) {
        self.code.values_mut().for_each(|code| code.integrity = None);
    }

    /// One piece of the plan's code.
    pub fn code(&self, key: CodeKey) -> Option<&EmittedCode> {
        self.code.get(&key)
    }

    fn take_assets(&mut self, plan: &Plan<'_>, urls: &[LocalUrl], names: &BTreeMap<&FilePath, String>) {
        for url in urls {
            let (Some(file), Some(name)) = (plan.sheet_assets.get(&url.path), names.get(&url.path)) else {
                continue;
            };
            if self.files.contains_key(name) {
                continue;
            }
            let bytes = match String::from_utf8(file.bytes.clone()) {
                Ok(text) if !file.urls.is_empty() => {
                    apply(&text, url_edits(&named_urls(&file.urls, names), &NamedUrl::name)).into_bytes()
                }
                _ => file.bytes.clone(),
            };
            self.files.insert(name.clone(), bytes);
            self.take_assets(plan, &file.urls, names);
        }
    }
}

fn emitted(
    plan: &Plan<'_>,
    key: CodeKey,
    file: &FileText,
    edits: &[Edit],
    names: &BTreeMap<&FilePath, String>,
) -> EmittedCode {
    let owner = plan.name_of(key.owner);
    let stem = stem_of(&file.path);
    let own =
        if key.owner.pin().is_some() || stem == owner { owner.to_owned() } else { format!("{owner}-{stem}") };
    let frame = file.script.as_ref().and_then(|script| script.frame.as_ref());
    let framed = match frame {
        // What only puts in markup has no script of its own.
        Some(_) if file.text.as_str().trim().is_empty() => String::new(),
        Some(frame) => frame.around(file.text.as_str()),
        None => file.text.as_str().to_owned(),
    };
    let beginning = key.owner.pin().and_then(|pin| plan.pins[pin].beginning.as_ref());
    let text = match beginning.filter(|_| key.kind == CodeKind::Script) {
        Some(beginning) => beginning.around(&framed),
        None => framed,
    };
    let mut code = EmittedCode {
        name: String::new(),
        integrity: None,
        ascii: text.is_ascii(),
        edits: edits.to_vec(),
        urls: named_urls(&file.urls, names),
        text,
    };
    let bytes = code.text_from("");
    code.name = format!("{own}.{}.{}", short_hash(bytes.as_bytes()), key.kind.extension());
    if matches!(key.owner, Owner::Library(_)) {
        let digest = base64::engine::general_purpose::STANDARD.encode(Sha384::digest(bytes.as_bytes()));
        code.integrity = Some(format!("sha384-{digest}"));
    }
    code
}

/// The names of all files that sheets load. A sheet among them is named after all that it loads
/// as well, so that its name changes whenever a file behind it does.
fn asset_names<'p>(plan: &'p Plan<'_>) -> BTreeMap<&'p FilePath, String> {
    let named = plan.sheet_assets.keys().map(|path| {
        let mut all = BTreeSet::new();
        let mut waiting = vec![path];
        while let Some(path) = waiting.pop() {
            if all.insert(path) {
                waiting.extend(
                    plan.sheet_assets.get(path).iter().flat_map(|file| file.urls.iter().map(|url| &url.path)),
                );
            }
        }
        let mut hash = Sha256::new();
        for path in all {
            if let Some(file) = plan.sheet_assets.get(path) {
                hash.update(path.as_str());
                hash.update(&file.bytes);
            }
        }
        let extension = path.extension();
        let dot = if extension.is_empty() { "" } else { "." };
        (path, format!("{}.{}{dot}{extension}", stem_of(path), hex(&hash.finalize())))
    });
    named.collect()
}

fn named_urls(urls: &[LocalUrl], names: &BTreeMap<&FilePath, String>) -> Vec<NamedUrl> {
    let named = urls.iter().filter_map(|url| {
        let (file, suffix) = (names.get(&url.path)?.clone(), url.suffix.clone());
        Some(NamedUrl { span: url.span, is_string: url.is_string, file, suffix })
    });
    named.collect()
}

fn url_edits(urls: &[NamedUrl], address: &dyn Fn(&NamedUrl) -> String) -> Vec<Edit> {
    let edit = |url: &NamedUrl| {
        let mut text = String::new();
        // Writing to a string does not fail.
        let _ = cssparser::serialize_string(&address(url), &mut text);
        Edit { span: url.span, text: if url.is_string { text } else { format!("url({text})") } }
    };
    urls.iter().map(edit).collect()
}

fn stem_of(path: &FilePath) -> &str {
    path.name().rsplit_once('.').map_or(path.name(), |(stem, _)| stem)
}

fn short_hash(bytes: &[u8]) -> String {
    hex(&Sha256::digest(bytes))
}

/// The first twelve digits of a hash.
fn hex(digest: &[u8]) -> String {
    digest.iter().take(6).map(|byte| format!("{byte:02x}")).collect()
}
