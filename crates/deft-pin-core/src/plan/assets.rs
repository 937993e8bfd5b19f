//! Files that sheets and scripts of the board load: images, fonts, imported sheets, data, modules, workers. They go
//! along into the output.

use std::borrow::Cow;
use std::cell::OnceCell;
use std::collections::BTreeMap;

use super::problem::Problem;
use crate::code::{BoardAddress, Owner, resolve_beside};
use crate::markup::{MarkupPiece, markup_pieces, tag_attributes};
use crate::script::{AddressForm, ScriptAddress, ScriptKind, addresses};
use crate::source::{FileError, FilePath, Files, Span};
use crate::style::{UrlUse, urls};

/// How an address stands in its text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum UrlForm {
    /// In a sheet, as `url(…)`.
    Url,
    /// In a sheet, as a string that has to stay one.
    Text,
    /// In a script.
    Script(AddressForm),
}

/// An address in a sheet or a script that means a file beside the board.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LocalUrl {
    /// What holds it: in a sheet the token, in a script the literal or a part of it.
    pub span: Span,
    /// How it stands there.
    pub form: UrlForm,
    /// The file, as seen from the board.
    pub path: FilePath,
    /// What follows the path in the address: query and fragment.
    pub suffix: String,
}

/// A file that some sheet or script loads.
#[derive(Debug)]
pub struct Asset {
    /// Its bytes.
    pub bytes: Vec<u8>,
    /// For a sheet or a script, what it loads in turn.
    pub urls: Vec<LocalUrl>,
    /// Whether it is a script that runs apart from the page.
    pub is_worker: bool,
}

/// How a script that goes along finds what it names.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum ScriptRole {
    /// It is a module: specifiers count from itself, all else from the page.
    Module,
    /// It runs apart from the page, and all counts from itself.
    Worker,
}

/// Every file that the sheets and scripts of a plan load, by its path.
pub type Assets = BTreeMap<FilePath, Asset>;

/// The sheet in which an address stands, for telling what is wrong with it.
#[derive(Clone, Copy)]
pub(super) struct Sheet<'s> {
    pub(super) owner: Owner,
    pub(super) path: &'s FilePath,
}

pub(super) struct AssetReader<'a> {
    pub(super) files: &'a dyn Files,
    pub(super) assets: Assets,
    pub(super) problems: Vec<Problem>,
    /// Every file beside the board.
    listing: OnceCell<Vec<FilePath>>,
    /// Sheets and scripts that were loaded, and whose own addresses are still to be followed.
    waiting: Vec<Waiting>,
}

/// A file whose own addresses are still to be followed.
struct Waiting {
    owner: Owner,
    path: FilePath,
    text: String,
    /// For a script, what it is.
    role: Option<ScriptRole>,
}

impl<'a> AssetReader<'a> {
    pub(super) fn of(files: &'a dyn Files) -> Self {
        AssetReader {
            files,
            assets: Assets::new(),
            problems: Vec::new(),
            listing: OnceCell::new(),
            waiting: Vec::new(),
        }
    }

    /// Follows the addresses in what goes along.
    pub(super) fn follow(&mut self) {
        while let Some(Waiting { owner, path, text, role }) = self.waiting.pop() {
            let inner = match role {
                Some(role) => self.load_of_file(owner, &path, &text, role),
                None => self.load(Sheet { owner, path: &path }, &urls(&text)),
            };
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
            if let Err(error) = self.take(sheet.owner, &path, None) {
                let file = sheet.path.clone();
                self.problems.push(Problem::MissingUrl { owner: sheet.owner, file, place, path, error });
                continue;
            }
            let form = if url.is_string { UrlForm::Text } else { UrlForm::Url };
            found.push(LocalUrl { span: place, form, path, suffix });
        }
        found
    }

    /// Reads the files beside a pin's script that its texts name; `file_at` gives the file that a place of it is from.
    /// The other list has those that may be meant by what it puts together.
    pub(super) fn load_of_script<'f>(
        &mut self,
        (owner, script, root): (Owner, &FilePath, &FilePath),
        text: &str,
        file_at: impl Fn(u32) -> &'f FilePath,
    ) -> (Vec<LocalUrl>, Vec<FilePath>) {
        let (mut urls, mut left_behind) = (Vec::new(), Vec::new());
        for own in addresses(text, ScriptKind::Confined) {
            let from = file_at(own.span.start);
            if own.form != AddressForm::Beginning {
                urls.extend(self.named_by(owner, from, &own));
                continue;
            }
            let meant = self.meant_by(root, from, &own);
            if !meant.is_empty() {
                left_behind.extend(meant.iter().cloned());
                let (file, place) = (script.clone(), own.span);
                self.problems.push(Problem::LeftBehind { owner, file, place, is_markup: false, meant });
            }
        }
        (urls, left_behind)
    }

    /// The files that may be meant by an address that a script puts together.
    fn meant_by(&self, root: &FilePath, script: &FilePath, own: &ScriptAddress) -> Vec<FilePath> {
        // What follows the last slash is a part of a name, which may be nothing.
        let probe = format!("{}x", own.address);
        let BoardAddress::Beside(path, _) = resolve_beside(script, &probe) else { return Vec::new() };
        let beginning = &path.as_str()[..path.as_str().len() - 1];
        let is_meant = |file: &&FilePath| {
            let rest = file.as_str().strip_prefix(beginning);
            **file != *script
                && rest.is_some_and(|rest| rest.len() >= own.end.len() && rest.ends_with(&own.end))
        };
        let meant: Vec<FilePath> = self.below(&path.folder()).iter().filter(is_meant).cloned().collect();
        // What the site has by such an address is meant there.
        let in_site = root.join(&own.address).ok();
        let is_of_site =
            |file: &FilePath| in_site.as_ref().is_some_and(|own| file.as_str().starts_with(own.as_str()));
        let is_there = !meant.is_empty() && self.listing().iter().any(is_of_site);
        if is_there { Vec::new() } else { meant }
    }

    /// Takes note of files that lie beside markup which names them, and that the site does not have.
    pub(super) fn tell_left_in_markup(
        &mut self,
        owner: Owner,
        root: &FilePath,
        (file, text): (&FilePath, &str),
    ) {
        for (place, address) in addresses_in_markup(text) {
            let BoardAddress::Beside(path, _) = resolve_beside(file, &address) else { continue };
            if path.below(root).is_some() || !self.below(&path.folder()).contains(&path) {
                continue;
            }
            let in_site = |own: &FilePath| own.below(root).is_some() && own.name() == path.name();
            if !self.listing().iter().any(in_site) {
                let (file, meant) = (file.clone(), vec![path]);
                self.problems.push(Problem::LeftBehind { owner, file, place, is_markup: true, meant });
            }
        }
    }

    /// Every file below a folder: the whole board is looked through for its own folder alone.
    fn below(&self, folder: &FilePath) -> Cow<'_, [FilePath]> {
        match folder.as_str() {
            "" => Cow::Borrowed(self.listing()),
            _ => Cow::Owned(self.files.list(folder).unwrap_or_default()),
        }
    }

    /// Every file beside the board.
    pub(super) fn listing(&self) -> &[FilePath] {
        self.listing.get_or_init(|| self.files.list(&FilePath::root()).unwrap_or_default())
    }

    /// The same for a script that goes along.
    fn load_of_file(&mut self, owner: Owner, path: &FilePath, text: &str, role: ScriptRole) -> Vec<LocalUrl> {
        let kinds = [ScriptKind::Module, ScriptKind::Classic];
        let uses = kinds.iter().map(|kind| addresses(text, *kind)).find(|uses| !uses.is_empty());
        let uses = uses.unwrap_or_default();
        let mut found = Vec::new();
        for own in &uses {
            let Some(mut url) = self.named_by(owner, path, own) else { continue };
            let stays = role == ScriptRole::Worker || own.is_from_script;
            if stays && url.form == UrlForm::Script(AddressForm::Literal) {
                url.form = UrlForm::Script(AddressForm::Specifier);
            }
            found.push(url);
        }
        found
    }

    /// The file beside a script that a text of it names, where there is one.
    fn named_by(&mut self, owner: Owner, script: &FilePath, own: &ScriptAddress) -> Option<LocalUrl> {
        let BoardAddress::Beside(path, suffix) = resolve_beside(script, &own.address) else { return None };
        let role = match path.extension().to_ascii_lowercase().as_str() {
            _ if own.form == AddressForm::Beginning => return None,
            "js" | "mjs" if own.is_of_worker => Some(ScriptRole::Worker),
            "js" | "mjs" => Some(ScriptRole::Module),
            _ => None,
        };
        if path == *script {
            return None;
        }
        self.take(owner, &path, role).ok()?;
        Some(LocalUrl { span: own.span, form: UrlForm::Script(own.form), path, suffix })
    }

    /// Takes a file along, once.
    fn take(&mut self, owner: Owner, path: &FilePath, role: Option<ScriptRole>) -> Result<(), FileError> {
        if self.assets.contains_key(path) {
            return Ok(());
        }
        let bytes = self.files.read(path)?;
        let is_followed = role.is_some() || path.extension().eq_ignore_ascii_case("css");
        let text = is_followed.then(|| String::from_utf8(bytes.clone()).ok()).flatten();
        self.assets.insert(
            path.clone(),
            Asset { bytes, urls: Vec::new(), is_worker: role == Some(ScriptRole::Worker) },
        );
        self.waiting.extend(text.map(|text| Waiting { owner, path: path.clone(), text, role }));
        Ok(())
    }
}

/// The addresses in markup that something is loaded from.
fn addresses_in_markup(html: &str) -> Vec<(Span, String)> {
    let mut found = Vec::new();
    for (span, piece) in markup_pieces(html) {
        let MarkupPiece::StartTag { .. } = piece else { continue };
        let tag = &html[span.range()];
        for attribute in tag_attributes(tag).1 {
            let Some(value) = attribute.value else { continue };
            let name = tag[attribute.name.range()].to_ascii_lowercase();
            if matches!(name.as_str(), "src" | "href" | "poster" | "data" | "srcset") {
                let first = tag[value.range()].split([',', ' ']).next().unwrap_or_default();
                found.push((value.shifted(span.start as usize), first.to_owned()));
            }
        }
    }
    found
}
