//! Files that sheets and scripts of the board load: images, fonts, imported sheets, data, modules, workers. They go
//! along into the output.

use std::borrow::Cow;
use std::cell::OnceCell;
use std::collections::BTreeMap;
use std::sync::Arc;

use super::problem::Problem;
use crate::code::{BoardAddress, Owner, beside_mark, resolve_beside};
use crate::markup::{MarkupPiece, markup_pieces, tag_attributes};
use crate::script::{AddressForm, ScriptAddress, ScriptKind, addresses};
use crate::source::{FileError, FilePath, Files, SourceText, Span};
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
    /// In markup, by what stands for it.
    Markup,
    /// In markup, as a link that somebody follows.
    Link,
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
                self.problems.push(Problem::LeftBehind { owner, file, place, meant });
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

    /// Takes along the files beside markup that it names and the site does not have. What stands for their addresses
    /// then is written in their stead: where they go is known with each page.
    pub(super) fn load_of_markup(
        &mut self,
        owner: Owner,
        root: &FilePath,
        file: &FilePath,
        text: SourceText,
    ) -> (SourceText, Vec<LocalUrl>) {
        let mut found = Vec::new();
        for (span, address, form) in addresses_in_markup(text.as_str()) {
            let from = text.file(span.start).unwrap_or(file);
            let BoardAddress::Beside(path, suffix) = resolve_beside(from, &address) else { continue };
            let is_beside = path.below(root).is_none() && self.below(&path.folder()).contains(&path);
            let in_site = |own: &FilePath| own.below(root).is_some() && own.name() == path.name();
            if !is_beside || self.listing().iter().any(in_site) || self.take(owner, &path, None).is_err() {
                continue;
            }
            // A query asks a server, and there the file has a name of its own.
            let fragment = suffix.find('#').map_or("", |at| &suffix[at..]).to_owned();
            found.push(LocalUrl { span, form, path, suffix: fragment });
        }
        if found.is_empty() {
            return (text, found);
        }
        found.sort_by_key(|url| url.span);
        found.dedup_by_key(|url| url.span.start);
        let marks = found.iter().map(|url| (url.span, format!("{}{}", beside_mark(&url.path), url.suffix)));
        (SourceText::replaced(file, &Arc::new(text), marks), found)
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

/// The addresses in markup that something is loaded from, each with its place.
fn addresses_in_markup(html: &str) -> Vec<(Span, String, UrlForm)> {
    let mut found: Vec<(Span, String, UrlForm)> = Vec::new();
    let loaded = |(span, address)| (span, address, UrlForm::Markup);
    for (span, piece) in markup_pieces(html) {
        let at = span.start as usize;
        match piece {
            MarkupPiece::StartTag { name, .. } => {
                let tag = &html[span.range()];
                for attribute in tag_attributes(tag).1 {
                    let Some(value) = attribute.value else { continue };
                    let text = &tag[value.range()];
                    let from = at + value.start as usize;
                    match tag[attribute.name.range()].to_ascii_lowercase().as_str() {
                        "href" if matches!(name.as_str(), "a" | "area") => {
                            found.extend(
                                trimmed(text, from).map(|(span, address)| (span, address, UrlForm::Link)),
                            );
                        }
                        "src" | "href" | "poster" | "data" | "xlink:href" => {
                            found.extend(trimmed(text, from).map(loaded));
                        }
                        "srcset" | "imagesrcset" => {
                            found.extend(candidates(text, from).into_iter().map(loaded))
                        }
                        "style" => found.extend(in_style(text, from).into_iter().map(loaded)),
                        _ => {}
                    }
                }
            }
            MarkupPiece::Text { raw: Some(name) } if name == "style" => {
                found.extend(in_style(&html[span.range()], at).into_iter().map(loaded));
            }
            _ => {}
        }
    }
    // What is written with references is rare in names of files, and would have to be read first.
    found.retain(|(_, address, _)| !address.is_empty() && !address.contains('&'));
    found
}

fn trimmed(text: &str, from: usize) -> Option<(Span, String)> {
    let address = text.trim();
    let start = from + text.find(address)?;
    Some((Span::new(start, start + address.len()), address.to_owned()))
}

/// The addresses of a `srcset` (HTML, "srcset attributes").
fn candidates(text: &str, from: usize) -> Vec<(Span, String)> {
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(start) =
        text[at..].find(|c: char| !c.is_ascii_whitespace() && c != ',').map(|skip| at + skip)
    {
        let length = text[start..].find(|c: char| c.is_ascii_whitespace()).unwrap_or(text.len() - start);
        let address = text[start..start + length].trim_end_matches(',');
        found.push((Span::new(from + start, from + start + address.len()), address.to_owned()));
        // What says how large the picture is goes up to the next comma.
        at = match address.len() < length {
            true => start + length,
            false => text[start + length..].find(',').map_or(text.len(), |comma| start + length + comma + 1),
        };
    }
    found
}

/// The addresses in CSS, without what stands around them.
fn in_style(css: &str, from: usize) -> Vec<(Span, String)> {
    let inner = |own: UrlUse| {
        let written = &css[own.span.range()];
        let start = written.find(own.url.as_str())?;
        let start = from + own.span.start as usize + start;
        Some((Span::new(start, start + own.url.len()), own.url))
    };
    urls(css).into_iter().filter(|own| !own.import).filter_map(inner).collect()
}
