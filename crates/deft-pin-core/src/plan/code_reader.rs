//! The files that a board names, read.

use std::sync::Arc;

use super::file_text::FileText;
use super::imports::Assembly;
use super::library::{LibraryFile, PlannedLibrary, PlannedPin};
use super::pin_style::PinStyle;
use super::problem::Problem;
use super::sheet_assets::{AssetReader, Sheet};
use crate::board::{Library, Pin, Spanned};
use crate::code::{Address, CodeKind, LibraryId, Owner, PinId};
use crate::markup::Slot;
use crate::script::{Frame, ScriptFile, asked_names};
use crate::source::{FileError, FilePath, SourceText, Span, nearest, read_code, utf8_text};
use crate::style::urls;

/// How a pin's script is confined. One that stands before its target waits for the page.
fn frame(pin: &Pin, path: &FilePath, text: &str) -> Frame {
    let mut asked = asked_names(text);
    asked.retain(|own| !pin.share.contains(&own.name));
    Frame {
        within: pin.within.as_ref().map(|within| within.text.clone()),
        share: pin.share.iter().cloned().chain(asked.iter().map(|own| own.name.clone())).collect(),
        asked,
        waits: pin.within.is_some() && *pin.slot != Slot::Foot,
        source: path.to_string(),
    }
}

/// Reads the files that a board names, and notes those that it cannot read.
pub(super) struct CodeReader<'a>(pub(super) AssetReader<'a>);

impl CodeReader<'_> {
    pub(super) fn library(&mut self, id: LibraryId, library: &Library) -> PlannedLibrary {
        let mut files = |sources: &[Spanned<Address>], kind| {
            let read = |source: &Spanned<Address>| match &source.value {
                Address::Remote(url) => LibraryFile::Remote(url.clone()),
                Address::Local(path) => {
                    let text = self.read(Owner::Library(id), kind, path, source.span);
                    text.map_or(LibraryFile::Missing, LibraryFile::Read)
                }
            };
            sources.iter().map(read).collect::<Vec<_>>()
        };
        let styles = files(&library.styles, CodeKind::Style);
        PlannedLibrary { styles, scripts: files(&library.scripts, CodeKind::Script) }
    }

    pub(super) fn pin(&mut self, id: PinId, pin: &Pin) -> PlannedPin {
        if pin.off {
            return PlannedPin::default();
        }
        let owner = Owner::Pin(id);
        let style = pin.style.as_ref().and_then(|path| self.read(owner, CodeKind::Style, path, path.span));
        let mut script =
            pin.script.as_ref().and_then(|path| self.read(owner, CodeKind::Script, path, path.span));
        if let Some(file) = &mut script {
            let text = file.text.as_str().to_owned();
            file.script = Some(Arc::new({
                let frame = frame(pin, &file.path, &text);
                ScriptFile::confined(text, frame)
            }));
        }
        let own = script.as_ref().and_then(|file| file.script.as_deref());
        let style = style.map(|file| PinStyle::new(file, pin, own));
        PlannedPin { style, script }
    }

    fn read(&mut self, owner: Owner, kind: CodeKind, path: &FilePath, place: Span) -> Option<FileText> {
        let problem = match read_code(self.0.files, path) {
            Ok(bytes) => match utf8_text(bytes) {
                Ok(text) => {
                    if kind == CodeKind::Script {
                        let script = Some(Arc::new(ScriptFile::new(text.clone())));
                        let text = SourceText::new(text);
                        return Some(FileText { path: path.clone(), place, text, urls: Vec::new(), script });
                    }
                    return Some(self.sheet(owner, path, place, &text));
                }
                Err(error) => Problem::NotUtf8 { owner, place, path: path.clone(), at: error },
            },
            Err(error) => {
                let nearest = (error == FileError::Missing).then(|| self.nearest(path)).flatten();
                Problem::Missing { owner, place, path: path.clone(), error, nearest }
            }
        };
        self.0.problems.push(problem);
        None
    }

    /// A sheet: a pin's with what it imports from beside the board, a library's as it is.
    fn sheet(&mut self, owner: Owner, path: &FilePath, place: Span, text: &str) -> FileText {
        if let Owner::Library(_) = owner {
            let urls = self.0.load(Sheet { owner, path }, &urls(text));
            return FileText {
                path: path.clone(),
                place,
                text: SourceText::new(text.to_owned()),
                urls,
                script: None,
            };
        }
        let assembly = Assembly::of(self.0.files, path, text);
        let mut found = Vec::new();
        // Addresses are relative to the file that they stand in (css-values-4, 4.5).
        for url in urls(&assembly.text).into_iter().filter(|url| !url.import) {
            let from = assembly.file_at(url.span.start).unwrap_or(path).clone();
            let told = self.0.problems.len();
            found.extend(self.0.load(Sheet { owner, path: &from }, &[url]));
            // The place is one in the whole, which knows the file by itself.
            self.0.problems[told..].iter_mut().for_each(|problem| match problem {
                Problem::MissingUrl { file, .. } | Problem::OutsideUrl { file, .. } => *file = path.clone(),
                _ => {}
            });
        }
        FileText { path: path.clone(), place, text: assembly.into_text(), urls: found, script: None }
    }

    /// A file of nearly that name: in the same folder, else of the same name elsewhere.
    fn nearest(&self, path: &FilePath) -> Option<FilePath> {
        let all = self.0.listing.get_or_init(|| self.0.files.list(&FilePath::root()).unwrap_or_default());
        let folder = path.folder();
        let beside = all.iter().filter(|other| other.below(&folder).is_some()).map(FilePath::as_str);
        let found = nearest(path.as_str(), beside).and_then(|found| FilePath::parse(found).ok());
        found.or_else(|| all.iter().find(|other| other.name().eq_ignore_ascii_case(path.name())).cloned())
    }
}
