//! The files that the customised pages link to: each pin's and library's own, and what these
//! load. Their names carry a hash of what is in them.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use base64::Engine as _;
use sha2::{Digest, Sha384};

use super::file_names::{asset_names, short_hash, stem_of};
use super::named_url::{NamedUrl, ScriptAddressing, url_edits};
use crate::code::{CodeKind, Owner, PinId, has_beside_marks, with_addresses};
use crate::plan::{CodeKey, CodeSource, ExistingCopies, FileText, Layout, LocalUrl, Plan};
use crate::script::{self, Frame};
use crate::source::FilePath;
use crate::start::Beginning;
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
    /// What stands around a script once its addresses are written.
    around: Around,
    /// The names of the files that go along.
    names: Arc<AssetNames>,
}

/// The names of all files that go along, in the folder of assets.
type AssetNames = BTreeMap<FilePath, String>;

/// What stands around a pin's script.
#[derive(Clone, Debug, Default)]
struct Around {
    frame: Option<Frame>,
    beginning: Option<Beginning>,
}

impl Around {
    fn text(&self, text: String) -> String {
        let framed = match &self.frame {
            // What only puts in markup has no script of its own.
            Some(_) if text.trim().is_empty() => String::new(),
            Some(frame) => frame.around(&text),
            None => text,
        };
        match &self.beginning {
            Some(beginning) => beginning.around(&framed),
            None => framed,
        }
    }
}

impl EmittedCode {
    /// The text, with the addresses of what it loads behind a prefix: that of the folder of
    /// assets as seen from the page, with a slash at its end.
    pub fn text_from(&self, prefix: &str) -> String {
        self.text_with(&|url| format!("{prefix}{}", url.name()))
    }

    /// The text, with other addresses of what it loads.
    pub fn text_with(&self, address: &dyn Fn(&NamedUrl) -> String) -> String {
        self.written(ScriptAddressing::Plain, address)
    }

    /// The text as it stands in its file, beside what it loads. Addresses in a script count from the page, and so it
    /// makes them from its own.
    fn text_of_file(&self) -> String {
        let is_plain = self.urls.is_empty() && !self.has_late_addresses();
        if is_plain || self.around.frame.is_none() {
            return self.text_from("");
        }
        let mut name = "fileBeside".to_owned();
        while self.text.contains(&name) {
            name.push('_');
        }
        let text = self.written(ScriptAddressing::ByExpression(&format!("{name}("), ")"), &NamedUrl::name);
        format!(
            "(function ({name}) {{ {text}}})((function (own) {{ return function (name) {{ return new URL(name, own).href; }}; }})(document.currentScript.src));\n"
        )
    }

    fn written(&self, addressing: ScriptAddressing<'_>, address: &dyn Fn(&NamedUrl) -> String) -> String {
        if self.edits.is_empty() && self.urls.is_empty() {
            return self.late(self.text.clone(), addressing, address);
        }
        let mut edits = self.edits.clone();
        edits.extend(url_edits(&self.urls, addressing, address));
        self.late(self.around.text(apply(&self.text, edits)), addressing, address)
    }

    fn has_late_addresses(&self) -> bool {
        self.around
            .beginning
            .as_ref()
            .is_some_and(|own| own.markup.iter().any(|own| has_beside_marks(&own.html)))
    }

    /// A text with the addresses in markup that comes later, which stands in strings.
    fn late(
        &self,
        text: String,
        addressing: ScriptAddressing<'_>,
        address: &dyn Fn(&NamedUrl) -> String,
    ) -> String {
        if !self.has_late_addresses() {
            return text;
        }
        with_addresses(&text, &|path| {
            let address = address(&NamedUrl::in_markup(self.names.get(path)?));
            Some(match addressing {
                ScriptAddressing::Plain => address,
                ScriptAddressing::ByExpression(open, close) => {
                    format!("\" + {open}{}{close} + \"", script::quoted(&address))
                }
            })
        })
    }
}

/// A file that goes along.
#[derive(Debug)]
pub(super) struct EmittedAsset {
    text: String,
    urls: Vec<NamedUrl>,
}

impl EmittedAsset {
    /// Its text, with other addresses of what it loads.
    pub(super) fn text_with(&self, address: &dyn Fn(&NamedUrl) -> String) -> String {
        apply(&self.text, url_edits(&self.urls, ScriptAddressing::Plain, address))
    }

    /// What it loads.
    pub(super) fn urls(&self) -> &[NamedUrl] {
        &self.urls
    }

    fn text_of_file(&self, is_worker: bool) -> String {
        let addressing = match is_worker {
            true => ScriptAddressing::Plain,
            false => ScriptAddressing::ByExpression("new URL(", ", import.meta.url).href"),
        };
        apply(&self.text, url_edits(&self.urls, addressing, &NamedUrl::name))
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
    names: Arc<AssetNames>,
    /// Those of the files that load others, by name.
    loading: HashMap<String, EmittedAsset>,
}

impl OutputFiles {
    /// Makes the files of a plan. Pins that are off and libraries that nothing needs have none.
    pub fn new(plan: &Plan<'_>, folder: &str) -> Self {
        let mut output = OutputFiles {
            folder: folder.to_owned(),
            files: BTreeMap::new(),
            code: HashMap::new(),
            names: Arc::new(asset_names(&plan.assets)),
            loading: HashMap::new(),
        };
        let names = Arc::clone(&output.names);
        let every: Vec<PinId> = plan.board.active_pins().map(|(id, _)| id).collect();
        for placement in plan.placements(&every, &ExistingCopies::default(), &Layout::default()) {
            let Some(CodeSource::File(file, edits)) = plan.code(placement.code) else { continue };
            let code = emitted(plan, placement.code, file, edits, &names);
            output.files.insert(code.name.clone(), code.text_of_file().into_bytes());
            output.take_assets(plan, &file.urls, &names);
            output.code.insert(placement.code, code);
        }
        for (pin, _) in plan.board.active_pins() {
            for markup in &plan.pins[pin].markup {
                output.take_assets(plan, &markup.text.urls, &names);
            }
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

    /// A text of markup with the addresses of the files that go along.
    pub(super) fn addressed(&self, text: &str, address: &dyn Fn(&NamedUrl) -> String) -> String {
        match has_beside_marks(text) {
            true => with_addresses(text, &|path| Some(address(&NamedUrl::in_markup(self.names.get(path)?)))),
            false => text.to_owned(),
        }
    }

    /// One of the files that load others.
    pub(super) fn loading(&self, name: &str) -> Option<&EmittedAsset> {
        self.loading.get(name)
    }

    fn take_assets(&mut self, plan: &Plan<'_>, urls: &[LocalUrl], names: &Arc<AssetNames>) {
        for url in urls {
            let (Some(file), Some(name)) = (plan.assets.get(&url.path), names.get(&url.path)) else {
                continue;
            };
            if self.files.contains_key(name) {
                continue;
            }
            let bytes = match String::from_utf8(file.bytes.clone()) {
                Ok(text) if !file.urls.is_empty() => {
                    let asset = EmittedAsset { text, urls: NamedUrl::of(&file.urls, names) };
                    let text = asset.text_of_file(file.is_worker);
                    self.loading.insert(name.clone(), asset);
                    text.into_bytes()
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
    names: &Arc<AssetNames>,
) -> EmittedCode {
    let owner = plan.name_of(key.owner);
    let stem = stem_of(&file.path);
    let own =
        if key.owner.pin().is_some() || stem == owner { owner.to_owned() } else { format!("{owner}-{stem}") };
    let beginning = key.owner.pin().and_then(|pin| plan.pins[pin].beginning.clone());
    let around = Around {
        frame: file.script.as_ref().and_then(|script| script.frame.clone()),
        beginning: beginning.filter(|_| key.kind == CodeKind::Script),
    };
    let urls = NamedUrl::of(&file.urls, names);
    let written = file.text.as_str().to_owned();
    let is_whole = urls.is_empty() && edits.is_empty();
    let text = if is_whole { around.text(written) } else { written };
    let mut code = EmittedCode {
        name: String::new(),
        integrity: None,
        ascii: text.is_ascii(),
        edits: edits.to_vec(),
        urls,
        around,
        names: Arc::clone(names),
        text,
    };
    let bytes = code.text_of_file();
    code.name = format!("{own}.{}.{}", short_hash(bytes.as_bytes()), key.kind.extension());
    if matches!(key.owner, Owner::Library(_)) {
        let digest = base64::engine::general_purpose::STANDARD.encode(Sha384::digest(bytes.as_bytes()));
        code.integrity = Some(format!("sha384-{digest}"));
    }
    code
}
