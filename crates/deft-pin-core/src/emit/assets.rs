//! The files that the customised pages link to: each pin's and library's own, and what their
//! sheets load. Their names carry a hash of what is in them.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use base64::Engine as _;
use sha2::{Digest, Sha256, Sha384};

use crate::plan::{Copies, FileText, LocalUrl, Owner, PartKey, PartKind, Plan};
use crate::site::encode_segment;
use crate::source::{FilePath, Span};
use crate::style::{Edit, apply};

/// A sheet or script of the plan, ready to be linked or put into a page.
#[derive(Debug)]
pub struct Part {
    /// The name of its file in the folder of assets.
    pub name: String,
    /// What a browser holds the file against (Subresource Integrity), for a library's file.
    pub integrity: Option<String>,
    /// Whether all of its characters are ASCII, so that every encoding reads it alike.
    pub ascii: bool,
    text: String,
    edits: Vec<Edit>,
    urls: Vec<(Span, bool, String)>,
}

impl Part {
    /// The text, with the addresses of what it loads behind a prefix: that of the folder of
    /// assets as seen from where the text stands, with a slash at its end.
    pub fn text_from(&self, prefix: &str) -> String {
        if self.edits.is_empty() && self.urls.is_empty() {
            return self.text.clone();
        }
        let mut edits = self.edits.clone();
        edits.extend(url_edits(&self.urls, prefix));
        apply(&self.text, edits)
    }
}

/// Every file of a build that is not the site's own.
#[derive(Debug)]
pub struct Assets {
    /// The folder that they are in, at the top of the output.
    pub folder: String,
    /// The files by name, with their bytes.
    pub files: BTreeMap<String, Vec<u8>>,
    parts: HashMap<PartKey, Part>,
}

impl Assets {
    /// Makes the files of a plan. Pins that are off and libraries that nothing needs have none.
    pub fn new(plan: &Plan<'_>, folder: &str) -> Self {
        let mut assets = Assets { folder: folder.to_owned(), files: BTreeMap::new(), parts: HashMap::new() };
        let names = loaded_names(plan);
        let every: Vec<usize> = (0..plan.pins.len()).filter(|&at| !plan.board.pins[at].off).collect();
        for placement in plan.placements(&every, &Copies::default()) {
            let Some((file, edits)) = source_of(plan, placement.part) else { continue };
            let part = part_of(plan, placement.part, file, edits, &names);
            assets.files.insert(part.name.clone(), part.text_from("").into_bytes());
            assets.take_loaded(plan, &file.urls, &names);
            assets.parts.insert(placement.part, part);
        }
        assets
    }

    /// Takes `integrity` off what links the files: browsers refuse a file that carries it in a
    /// folder that is opened without a server.
    pub fn drop_integrity(&mut self) {
        self.parts.values_mut().for_each(|part| part.integrity = None);
    }

    /// One part of the plan.
    pub fn part(&self, key: PartKey) -> Option<&Part> {
        self.parts.get(&key)
    }

    fn take_loaded(&mut self, plan: &Plan<'_>, urls: &[LocalUrl], names: &BTreeMap<&FilePath, String>) {
        for url in urls {
            let (Some(file), Some(name)) = (plan.loaded.get(&url.path), names.get(&url.path)) else {
                continue;
            };
            if self.files.contains_key(name) {
                continue;
            }
            let bytes = match String::from_utf8(file.bytes.clone()) {
                Ok(text) if !file.urls.is_empty() => {
                    apply(&text, url_edits(&named_urls(&file.urls, names), "")).into_bytes()
                }
                _ => file.bytes.clone(),
            };
            self.files.insert(name.clone(), bytes);
            self.take_loaded(plan, &file.urls, names);
        }
    }
}

/// Where a part's text comes from, and the edits that confine it.
fn source_of<'p>(plan: &'p Plan<'_>, key: PartKey) -> Option<(&'p FileText, &'p [Edit])> {
    match (key.owner, key.kind) {
        (Owner::Pin(at), PartKind::Style) => {
            plan.pins[at].style.as_ref().map(|style| (&style.file, &style.edits[..]))
        }
        (Owner::Pin(at), PartKind::Script) => plan.pins[at].script.as_ref().map(|file| (file, &[][..])),
        (Owner::Library(at), kind) => {
            let library = &plan.libraries[at];
            let parts = if kind == PartKind::Style { &library.styles } else { &library.scripts };
            parts[key.index].local().map(|file| (file, &[][..]))
        }
    }
}

fn part_of(
    plan: &Plan<'_>,
    key: PartKey,
    file: &FileText,
    edits: &[Edit],
    names: &BTreeMap<&FilePath, String>,
) -> Part {
    let owner = plan.name_of(key.owner);
    let stem = stem_of(&file.path);
    let own = if matches!(key.owner, Owner::Pin(_)) || stem == owner {
        owner.to_owned()
    } else {
        format!("{owner}-{stem}")
    };
    let extension = if key.kind == PartKind::Style { "css" } else { "js" };
    let frame = file.script.as_ref().and_then(|script| script.frame.as_ref());
    let text = match frame {
        Some(frame) => frame.around(file.text.as_str()),
        None => file.text.as_str().to_owned(),
    };
    let mut part = Part {
        name: String::new(),
        integrity: None,
        ascii: text.is_ascii(),
        edits: edits.to_vec(),
        urls: named_urls(&file.urls, names),
        text,
    };
    let bytes = part.text_from("");
    part.name = format!("{own}.{}.{extension}", short_hash(bytes.as_bytes()));
    if matches!(key.owner, Owner::Library(_)) {
        let digest = base64::engine::general_purpose::STANDARD.encode(Sha384::digest(bytes.as_bytes()));
        part.integrity = Some(format!("sha384-{digest}"));
    }
    part
}

/// The names of all files that sheets load. A sheet among them is named after all that it loads
/// as well, so that its name changes whenever a file behind it does.
fn loaded_names<'p>(plan: &'p Plan<'_>) -> BTreeMap<&'p FilePath, String> {
    let named = plan.loaded.keys().map(|path| {
        let mut all = BTreeSet::new();
        let mut waiting = vec![path];
        while let Some(path) = waiting.pop() {
            if all.insert(path) {
                waiting.extend(
                    plan.loaded.get(path).iter().flat_map(|file| file.urls.iter().map(|url| &url.path)),
                );
            }
        }
        let mut hash = Sha256::new();
        for path in all {
            if let Some(file) = plan.loaded.get(path) {
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

fn named_urls(urls: &[LocalUrl], names: &BTreeMap<&FilePath, String>) -> Vec<(Span, bool, String)> {
    let named = urls.iter().filter_map(|url| {
        let name = names.get(&url.path)?;
        Some((url.span, url.is_string, format!("{}{}", encode_segment(name), url.suffix)))
    });
    named.collect()
}

fn url_edits(urls: &[(Span, bool, String)], prefix: &str) -> Vec<Edit> {
    let edit = |(span, is_string, name): &(Span, bool, String)| {
        let mut text = String::new();
        // Writing to a string does not fail.
        let _ = cssparser::serialize_string(&format!("{prefix}{name}"), &mut text);
        Edit { span: *span, text: if *is_string { text } else { format!("url({text})") } }
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
