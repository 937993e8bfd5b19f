//! The files that a board names, read.

use std::sync::Arc;

use super::asked::Asked;
use super::assets::{AssetReader, Sheet};
use super::file_text::FileText;
use super::fill::Fill;
use super::imports::Assembly;
use super::library::{LibraryFile, PlannedLibrary, PlannedPin};
use super::markup::PlannedMarkup;
use super::pin_style::PinStyle;
use super::problem::Problem;
use crate::board::{Board, FilledKind, Library, Markup, MarkupSource, Pin, Spanned, fill, placeholders};
use crate::code::{Address, CodeKind, LibraryId, Owner, PinId};
use crate::markup::Slot;
use crate::script::{Frame, FrameValue, ScriptFile, asked_names, callbacks_of, names_asked_by};
use crate::source::{FileError, FilePath, Files, Fragment, SourceText, Span, nearest, read_code, utf8_text};
use crate::start::Beginning;
use crate::style::{as_page, urls};

/// Reads the files that a board names, and notes those that it cannot read.
pub(super) struct CodeReader<'a> {
    /// What their sheets load.
    pub(super) assets: AssetReader<'a>,
    board: &'a Board,
    board_text: Arc<SourceText>,
    /// What pages ask for.
    asked: &'a Asked,
}

/// A sheet that was made for a whole page, with the target in the page's place.
fn made_for_a_page(file: Written, within: &str) -> Written {
    let own = Arc::new(file.text);
    let edits = as_page(own.as_str(), within).into_iter().map(|edit| (edit.span, edit.text));
    let text = SourceText::replaced(&file.path, &own, edits);
    Written { text, ..file }
}

/// A file as it was written.
struct Written {
    path: FilePath,
    place: Span,
    text: SourceText,
}

impl<'a> CodeReader<'a> {
    pub(super) fn new(board: &'a Board, files: &'a dyn Files, asked: &'a Asked) -> Self {
        CodeReader { assets: AssetReader::of(files), board, board_text: Arc::new(board.text.clone()), asked }
    }

    pub(super) fn library(&mut self, id: LibraryId, library: &Library) -> PlannedLibrary {
        let owner = Owner::Library(id);
        let mut files = |sources: &[Spanned<Address>], kind| {
            let read = |source: &Spanned<Address>| match &source.value {
                Address::Remote(url) => LibraryFile::Remote(url.clone()),
                Address::Local(path) => match self.read(owner, path, source.span) {
                    Some(file) if kind == CodeKind::Script => {
                        let script = Some(Arc::new(ScriptFile::new(file.text.as_str().to_owned())));
                        LibraryFile::Read(FileText::new(file.path, file.place, file.text).with_script(script))
                    }
                    Some(file) => {
                        let sheet = Sheet { owner, path: &file.path };
                        let urls = self.assets.load(sheet, &urls(file.text.as_str()));
                        LibraryFile::Read(FileText {
                            urls,
                            ..FileText::new(file.path, file.place, file.text)
                        })
                    }
                    None => LibraryFile::Missing,
                },
            };
            sources.iter().map(read).collect::<Vec<_>>()
        };
        let styles = files(&library.styles, CodeKind::Style);
        PlannedLibrary { styles, scripts: files(&library.scripts, CodeKind::Script) }
    }

    pub(super) fn pin(&mut self, id: PinId, pin: &Pin) -> PlannedPin {
        let mut planned = PlannedPin::default();
        if pin.off {
            return planned;
        }
        let owner = Owner::Pin(id);
        for markup in &pin.markup {
            planned.markup.extend(self.markup(owner, pin, markup, &mut planned.fills));
        }
        let script = pin.script.as_ref().and_then(|path| self.read(owner, path, path.span));
        let script = script.map(|file| self.filled(pin, file, FilledKind::Script, &mut planned.fills));
        let late = planned.markup.iter().map(|markup| markup.late(pin)).collect();
        planned.beginning = Beginning::of(pin, self.board.host.stands_early(*pin.slot), late);
        planned.script = script.or_else(|| self.script_of_markup(pin, &planned)).map(|file| {
            let frame = self.frame((id, pin), &file, &planned);
            let board = &self.board.file;
            let file_at = |at| file.text.file(at).filter(|from| *from != board).unwrap_or(&file.path);
            let (urls, left_behind) = self.assets.load_of_script(
                (owner, &file.path, &self.board.root),
                file.text.as_str(),
                file_at,
            );
            let script = Some(Arc::new(ScriptFile::confined(file.text.clone(), frame)));
            FileText {
                urls,
                left_behind,
                ..FileText::new(file.path, file.place, file.text).with_script(script)
            }
        });
        let style = pin.style.as_ref().and_then(|path| self.read(owner, path, path.span));
        planned.style = style.map(|file| {
            let file = self.sheet(owner, pin, file, &mut planned.fills);
            let own = planned.script.as_ref().and_then(|file| file.script.as_deref());
            PinStyle::new(file, pin, own)
        });
        planned
    }

    /// The script of a pin that has none and puts in its markup by one.
    fn script_of_markup(&self, pin: &Pin, planned: &PlannedPin) -> Option<Written> {
        let first = planned.markup.first().filter(|_| planned.beginning.is_some())?;
        let (path, place) = (first.text.path.clone(), pin.start.span);
        Some(Written { path, place, text: SourceText::default() })
    }

    /// How a pin's script is confined. One that stands before its target waits for the page.
    fn frame(&self, (id, pin): (PinId, &Pin), file: &Written, planned: &PlannedPin) -> Frame {
        let mut asked = asked_names(file.text.as_str());
        let mut codes: Vec<String> =
            planned.markup.iter().flat_map(|markup| markup.codes.iter().cloned()).collect();
        for library in &self.board.libraries {
            let addresses = library.scripts.iter().filter_map(|source| match &source.value {
                Address::Remote(url) => Some(url),
                Address::Local(_) => None,
            });
            codes.extend(addresses.flat_map(|url| callbacks_of(url)).map(str::to_owned));
        }
        let by_pages = self.asked.get(&id).into_iter().flatten().cloned();
        for own in names_asked_by(file.text.as_str(), &codes).into_iter().chain(by_pages) {
            if !asked.iter().any(|known| known.name == own.name) {
                asked.push(own);
            }
        }
        asked.retain(|own| !pin.share.contains(&own.name));
        let values = self.board.values_of(pin).into_iter();
        let stands_early = self.board.host.stands_early(*pin.slot);
        let starts_later = pin.waits_to_begin() && (pin.start.is_later() || stands_early);
        Frame {
            within: pin.within.as_ref().map(|within| within.text.clone()),
            share: pin.share.iter().cloned().chain(asked.iter().map(|own| own.name.clone())).collect(),
            asked,
            values: values
                .map(|value| FrameValue { name: value.name.value.clone(), code: value.script() })
                .collect(),
            brings: match planned.beginning {
                Some(_) => planned.markup.iter().flat_map(|markup| markup.names.iter().cloned()).collect(),
                None => Vec::new(),
            },
            // What is meant for the foot finds all of the page.
            waits: stands_early && (pin.within.is_some() || *pin.slot == Slot::Foot),
            starts_later,
            source: file.path.to_string(),
        }
    }

    /// A text with the board's values in it.
    fn filled(&self, pin: &Pin, file: Written, kind: FilledKind, fills: &mut Vec<Fill>) -> Written {
        if placeholders(file.text.as_str()).is_empty() {
            return file;
        }
        let filled = fill(file.text.as_str(), kind, &self.board.values_of(pin));
        let own = Arc::new(file.text);
        fills.push(Fill::of(&filled, kind, &file.path, &own));
        let text = filled.into_text((&file.path, &own), (&self.board.file, &self.board_text));
        Written { path: file.path, place: file.place, text }
    }

    fn markup(
        &mut self,
        owner: Owner,
        pin: &Pin,
        markup: &Markup,
        fills: &mut Vec<Fill>,
    ) -> Option<PlannedMarkup> {
        let file = match &markup.source {
            MarkupSource::File(path) => self.read(owner, path, path.span)?,
            MarkupSource::Text(text) => {
                Written { path: self.board.file.clone(), place: text.span, text: self.of_board(text) }
            }
        };
        let file = self.filled(pin, file, FilledKind::Markup, fills);
        let (text, urls) = self.assets.load_of_markup(owner, &self.board.root, &file.path, file.text);
        let text = FileText { urls, ..FileText::new(file.path, file.place, text) };
        Some(PlannedMarkup::new(text, markup))
    }

    /// A text of the board, whose places are the board's.
    fn of_board(&self, text: &Spanned<String>) -> SourceText {
        // One that is written with escapes has no places of its own: its beginning stands for them.
        let written = self.board_text.slice(text.span);
        let from =
            written.find(text.as_str()).map_or(text.span.start, |at| text.span.start + Span::at(at).start);
        let own = Arc::clone(&self.board_text);
        let fragment = Fragment { at: 0, file: self.board.file.clone(), own, from };
        SourceText::assembled(text.value.clone(), vec![fragment])
    }

    fn read(&mut self, owner: Owner, path: &FilePath, place: Span) -> Option<Written> {
        let problem = match read_code(self.assets.files, path) {
            Ok(bytes) => match utf8_text(bytes) {
                Ok(text) => return Some(Written { path: path.clone(), place, text: SourceText::new(text) }),
                Err(error) => Problem::NotUtf8 { owner, place, path: path.clone(), at: error },
            },
            Err(error) => {
                let nearest = (error == FileError::Missing).then(|| self.nearest(path)).flatten();
                Problem::Missing { owner, place, path: path.clone(), error, nearest }
            }
        };
        self.assets.problems.push(problem);
        None
    }

    /// A pin's sheet, with what it imports from beside the board.
    fn sheet(&mut self, owner: Owner, pin: &Pin, file: Written, fills: &mut Vec<Fill>) -> FileText {
        let (path, place) = (file.path, file.place);
        let text = Assembly::of(self.assets.files, &path, file.text.as_str()).into_text();
        let whole = self.filled(pin, Written { path, place, text }, FilledKind::Style, fills);
        let whole = match pin.within.as_ref().filter(|_| pin.as_page) {
            Some(within) => made_for_a_page(whole, &within.text),
            None => whole,
        };
        let mut found = Vec::new();
        // Addresses are relative to the file that they stand in (css-values-4, 4.5).
        for url in urls(whole.text.as_str()).into_iter().filter(|url| !url.import) {
            let from = whole.text.file(url.span.start).filter(|from| **from != self.board.file);
            let from = from.unwrap_or(&whole.path).clone();
            let told = self.assets.problems.len();
            found.extend(self.assets.load(Sheet { owner, path: &from }, &[url]));
            // The place is one in the whole, which knows the file by itself.
            self.assets.problems[told..].iter_mut().for_each(|problem| match problem {
                Problem::MissingUrl { file, .. } | Problem::OutsideUrl { file, .. } => {
                    *file = whole.path.clone()
                }
                _ => {}
            });
        }
        FileText { urls: found, ..FileText::new(whole.path, whole.place, whole.text) }
    }

    /// A file of nearly that name: in the same folder, else of the same name elsewhere.
    fn nearest(&self, path: &FilePath) -> Option<FilePath> {
        let all = self.assets.listing();
        let folder = path.folder();
        let beside = all.iter().filter(|other| other.below(&folder).is_some()).map(FilePath::as_str);
        let found = nearest(path.as_str(), beside).and_then(|found| FilePath::parse(found).ok());
        found.or_else(|| all.iter().find(|other| other.name().eq_ignore_ascii_case(path.name())).cloned())
    }
}
