//! What the releases of a board put into pages, ready to be held against pages.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

use anyhow::{Result, bail};
use deft_pin_core::live::{Archive, PartKind, PartLook, PublishedPart, elements_of, nodes_of, squeezed};

use crate::releases::{Release, Store, StoredPart, StoredPiece};

/// What was published.
pub struct Publication {
    /// The last release.
    pub release: Release,
    /// The parts of it.
    pub parts: Vec<PublishedPart>,
    /// For each page the numbers of the parts that are for it.
    pub pages: BTreeMap<String, Vec<usize>>,
    /// The parts that may stand on any page.
    pub everywhere: Vec<usize>,
    /// Every text of every release.
    pub archive: Archive,
    /// The pages that earlier releases had something on, and this one has not.
    pub former: BTreeSet<String>,
    /// For each file that goes along, by its name without folders, its place, its hash and the releases that had one
    /// of that hash.
    pub assets: BTreeMap<String, PublishedAsset>,
    /// For the hash of each asset of any release the last one that had it.
    pub asset_releases: HashMap<String, u32>,
}

/// A file that goes along with pages.
#[derive(Clone, Debug)]
pub struct PublishedAsset {
    /// Its place in the site; for uploads its name.
    pub place: String,
    /// The SHA-256 of its bytes.
    pub sha256: String,
    /// Whether it was to be uploaded by hand.
    pub is_upload: bool,
}

/// The texts that are kept, each read once.
struct Texts<'s> {
    store: &'s Store,
    read: HashMap<String, Arc<str>>,
}

impl Texts<'_> {
    fn get(&mut self, hash: &str) -> Result<Arc<str>> {
        if let Some(text) = self.read.get(hash) {
            return Ok(text.clone());
        }
        let text: Arc<str> = String::from_utf8_lossy(&self.store.bytes(hash)?).into();
        self.read.insert(hash.to_owned(), text.clone());
        Ok(text)
    }
}

impl Publication {
    /// Reads the releases of a store.
    ///
    /// # Errors
    /// Nothing was published, or something of a release is missing.
    pub fn read(store: &Store) -> Result<Self> {
        let mut releases = store.all()?;
        let Some(release) = releases.pop() else {
            bail!(
                "nothing has been published yet: `deft-pin publish` makes the first release, and a live site is held against that"
            );
        };
        let mut texts = Texts { store, read: HashMap::new() };
        let mut of = Publication {
            parts: Vec::new(),
            pages: BTreeMap::new(),
            everywhere: Vec::new(),
            archive: Archive::default(),
            former: BTreeSet::new(),
            assets: BTreeMap::new(),
            asset_releases: HashMap::new(),
            release,
        };
        for earlier in releases.iter().chain([&of.release]) {
            for own in earlier.assets.iter().chain(&earlier.uploads) {
                of.asset_releases.insert(own.sha256.clone(), earlier.release);
            }
            sources(earlier, &mut texts, &mut of.archive)?;
        }
        for earlier in &releases {
            let mut read = Reading::default();
            read.release(earlier, &mut texts)?;
            read.parts.iter().for_each(|part| of.archive.add(earlier.release, part));
            of.former.extend(read.pages.into_keys());
        }
        let mut read = Reading::default();
        read.release(&of.release, &mut texts)?;
        read.parts.iter().for_each(|part| of.archive.add(of.release.release, part));
        of.parts = read.parts;
        of.pages = read.pages;
        of.everywhere = read.everywhere;
        of.former.retain(|page| !of.pages.contains_key(page));
        for (list, is_upload) in [(&of.release.assets, false), (&of.release.uploads, true)] {
            for own in list {
                let name = own.file_name().to_owned();
                let asset = PublishedAsset { place: own.name.clone(), sha256: own.sha256.clone(), is_upload };
                of.assets.insert(name, asset);
            }
        }
        if of.parts.is_empty() && !(of.release.pieces.is_empty() && of.release.pages.is_empty()) {
            bail!(
                "release {} does not say what stands in pages: it is of an earlier version of Deft Pin, {}. Publish again, and that can be probed",
                of.release.release,
                of.release.tool
            );
        }
        Ok(of)
    }
}

/// The parts of one release.
#[derive(Default)]
struct Reading {
    /// The hash of each file that goes along, by its name without folders.
    files: HashMap<String, String>,
    parts: Vec<PublishedPart>,
    pages: BTreeMap<String, Vec<usize>>,
    everywhere: Vec<usize>,
    /// Parts of pages that were read before, by all that they are.
    known: HashMap<String, Vec<usize>>,
}

impl Reading {
    fn release(&mut self, release: &Release, texts: &mut Texts<'_>) -> Result<()> {
        for own in release.assets.iter().chain(&release.uploads) {
            self.files.insert(own.file_name().to_owned(), own.sha256.clone());
        }
        for page in &release.pages {
            for part in &page.parts {
                let key = serde_json::to_string(part)?;
                let numbers = match self.known.get(&key) {
                    Some(numbers) => numbers.clone(),
                    None => {
                        let numbers = self.add(part, None, texts)?;
                        self.known.insert(key, numbers.clone());
                        numbers
                    }
                };
                self.pages.entry(page.page.clone()).or_default().extend(numbers);
            }
        }
        for piece in &release.pieces {
            self.piece(piece, texts)?;
        }
        Ok(())
    }

    fn piece(&mut self, piece: &StoredPiece, texts: &mut Texts<'_>) -> Result<()> {
        let of_page = piece.words("pages");
        let all = if of_page.is_empty() { piece.words("only") } else { of_page.clone() };
        for part in &piece.parts {
            let numbers = self.add(part, Some(piece), texts)?;
            let pages = match &part.pages {
                Some(pages) if of_page.is_empty() => pages,
                _ => &all,
            };
            for page in pages {
                self.pages.entry(page.clone()).or_default().extend(&numbers);
            }
            if of_page.is_empty() {
                self.everywhere.extend(numbers);
            }
        }
        Ok(())
    }

    fn add(
        &mut self,
        part: &StoredPart,
        piece: Option<&StoredPiece>,
        texts: &mut Texts<'_>,
    ) -> Result<Vec<usize>> {
        let kind = PartKind::ALL.into_iter().find(|kind| kind.name() == part.part);
        let Some(kind) = kind else {
            bail!("a release names a `{}`, which this version does not know", part.part)
        };
        let text = part.sha256.as_deref().map(|hash| texts.get(hash)).transpose()?;
        let text = text.as_deref().unwrap_or_default();
        let takes_html = piece.is_none_or(|piece| piece.word("takes") == "html");
        let own = |name: Option<String>, kind: PartKind, look: PartLook| PublishedPart {
            name,
            pins: part.pins.clone(),
            kind,
            look,
            piece: piece.map(|piece| piece.piece.clone()),
        };
        let made = match kind {
            PartKind::Mark => {
                let look = PartLook::Names { id: part.id.clone(), classes: part.classes.clone() };
                vec![own(part.name.clone(), kind, look)]
            }
            PartKind::Markup => {
                let times = part.times.unwrap_or(1);
                let look = PartLook::Nodes { trees: nodes_of(text), text: text.to_owned(), times };
                vec![own(part.name.clone(), kind, look)]
            }
            _ if takes_html => {
                let mut made = Vec::new();
                for (name, kind, mut element) in elements_of(text) {
                    if let Some(hash) = element.file_name().and_then(|name| self.files.get(name)) {
                        element.linked = Some(squeezed(&texts.get(hash)?));
                    }
                    made.push(own(name, kind, PartLook::Element(element)));
                }
                made
            }
            _ => {
                let look = PartLook::Code { text: text.to_owned(), squeezed: squeezed(text) };
                vec![own(part.name.clone(), kind, look)]
            }
        };
        let first = self.parts.len();
        self.parts.extend(made);
        Ok((first..self.parts.len()).collect())
    }
}

/// The code of the pins of a release as it was written.
fn sources(release: &Release, texts: &mut Texts<'_>, archive: &mut Archive) -> Result<()> {
    let board = texts.get(&release.board.sha256)?;
    let Ok(board) = board.parse::<toml::Table>() else { return Ok(()) };
    let files: HashMap<&str, &str> =
        release.files.iter().map(|own| (own.file.as_str(), own.sha256.as_str())).collect();
    for (pin, own) in board.get("pin").and_then(toml::Value::as_table).into_iter().flatten() {
        for (key, kind) in [("style", PartKind::Style), ("script", PartKind::Script)] {
            let named = own.get(key).and_then(toml::Value::as_str);
            let Some(hash) = named.and_then(|file| files.get(file)) else { continue };
            archive.add_source(pin, kind, &texts.get(hash)?);
        }
    }
    Ok(())
}
