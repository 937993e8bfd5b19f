//! The sheet that somebody works from: every piece with where it goes, and what changed since the last one.

use std::fs;
use std::path::Path;

use deft_pin_core::board::{BoxReach, BoxTakes};
use deft_pin_core::code::PageId;
use deft_pin_core::emit::{PasteUp, Piece};
use serde::{Deserialize, Serialize};

use crate::project::Project;
use crate::releases::{Release, Store, StoredPiece, hash_of};

/// The file in the folder of a paste-up that says what is in it.
pub const SHEET: &str = "paste.json";

/// A paste-up as somebody works from it.
#[derive(Debug)]
pub struct PasteSheet {
    /// What is to be pasted, in order.
    pub rows: Vec<PasteRow>,
    /// Boxes that are to be emptied: what they held is in no pin any more.
    pub gone: Vec<GonePiece>,
    /// What is given to elements by hand.
    pub marks: Vec<HandRow>,
    /// What is uploaded.
    pub uploads: Vec<Upload>,
    /// The longest text that a box takes, in characters.
    pub longest: Option<usize>,
}

/// What has come of a piece since the last paste-up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Change {
    /// There was none.
    New,
    /// It is as it was.
    Same,
    /// It is another text.
    Changed,
}

/// A piece, and the box that it goes into.
#[derive(Debug)]
pub struct PasteRow {
    /// Its name.
    pub name: String,
    /// Its file in the folder of the paste-up.
    pub file: String,
    /// How far its box reaches.
    pub reach: BoxReach,
    /// The pages into whose boxes it goes; none for a box of the site.
    pub pages: Vec<String>,
    /// The name of the box.
    pub slot: String,
    /// What the box takes.
    pub takes: BoxTakes,
    /// The text.
    pub text: String,
    /// How long it is.
    pub characters: usize,
    /// The SHA-256 of its bytes, in hexadecimal digits.
    pub sha256: String,
    /// The pins whose code is in it.
    pub pins: Vec<String>,
    /// The libraries whose code is in it.
    pub libraries: Vec<String>,
    /// The pages on which it does something.
    pub only: Vec<String>,
    /// The patterns of pages by which the host is to keep it to them.
    pub patterns: Vec<String>,
    /// Those that it is not for.
    pub but: Vec<String>,
    /// What has come of it.
    pub change: Change,
    /// What it was, where it is another now.
    pub before: Option<String>,
}

/// A piece that is no more.
#[derive(Debug)]
pub struct GonePiece {
    /// Its name.
    pub name: String,
    /// How far its box reaches, and what it is called.
    pub place: PiecePlace,
}

/// What somebody gives to an element by hand.
#[derive(Debug, Serialize, Deserialize)]
pub struct HandRow {
    what: String,
    /// The pin.
    pub pin: String,
    /// The page.
    pub page: String,
    /// The element.
    pub selector: String,
    /// The ID.
    pub id: Option<String>,
    /// The classes.
    pub class: Option<String>,
}

/// A file to upload.
#[derive(Debug, Serialize)]
pub struct Upload {
    /// It, in the folder of the paste-up.
    pub file: String,
    /// Its name on the host.
    #[serde(rename = "as")]
    pub name: String,
    /// The SHA-256 of its bytes, in hexadecimal digits.
    pub sha256: String,
}

/// Where a piece goes, as the sheet before had it.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct PiecePlace {
    /// `site` or `page`.
    #[serde(rename = "where")]
    pub reach: String,
    /// The page, where it is one.
    pub page: Option<String>,
    /// All of them.
    #[serde(default)]
    pub pages: Vec<String>,
    /// The name of the box.
    pub slot: String,
}

/// What a sheet before says of a piece.
#[derive(Debug, Deserialize)]
struct PieceBefore {
    piece: String,
    file: Option<String>,
    sha256: Option<String>,
    #[serde(flatten)]
    place: PiecePlace,
}

/// A sheet before.
#[derive(Debug, Deserialize)]
struct SheetBefore {
    pieces: Vec<PieceBefore>,
}

impl PasteSheet {
    /// The sheet of a paste-up; `folder` may hold the one before.
    pub fn of(project: &Project, paste_up: &PasteUp, files: &[(String, Vec<u8>)], folder: &Path) -> Self {
        let before = Earlier::of(project, folder);
        let row = |piece: &Piece| row(project, piece, &before);
        let rows: Vec<PasteRow> = paste_up.pieces.iter().map(row).collect();
        let path = |page: &PageId| project.site.pages[*page].path.as_str().to_owned();
        let marks = paste_up.by_hand.iter().map(|own| HandRow {
            what: "mark".to_owned(),
            pin: project.board.pins[own.pin].name.value.clone(),
            page: path(&own.page),
            selector: own.selector.clone(),
            id: own.id.clone(),
            class: own.class.clone(),
        });
        PasteSheet {
            gone: before.gone(&rows),
            marks: marks.collect(),
            uploads: upload_rows(files),
            longest: project.board.host.longest.as_ref().map(|longest| longest.value),
            rows,
        }
    }
}

impl PasteSheet {
    /// The sheet of a release, with the texts of its pieces; `folder` may hold the one before.
    pub fn of_release(
        project: &Project,
        release: &Release,
        texts: &[String],
        uploads: &[(String, Vec<u8>)],
        folder: &Path,
    ) -> Self {
        let before = Earlier::of(project, folder);
        let rows = release.pieces.iter().zip(texts);
        let rows: Vec<PasteRow> = rows.map(|(piece, text)| row_again(piece, text, &before)).collect();
        PasteSheet {
            gone: before.gone(&rows),
            marks: serde_json::from_value(release.by_hand.clone()).unwrap_or_default(),
            uploads: upload_rows(uploads),
            longest: project.board.host.longest.as_ref().map(|longest| longest.value),
            rows,
        }
    }
}

fn upload_rows(files: &[(String, Vec<u8>)]) -> Vec<Upload> {
    let row = |(name, bytes): &(String, Vec<u8>)| Upload {
        file: format!("files/{name}"),
        name: name.clone(),
        sha256: hash_of(bytes),
    };
    files.iter().map(row).collect()
}

/// The pieces that were there before: those of the last release, or else those of the paste-up in the folder.
struct Earlier<'e> {
    pieces: Vec<PieceBefore>,
    texts: TextsBefore<'e>,
}

/// Where their texts are.
enum TextsBefore<'e> {
    Folder(&'e Path),
    Releases(Store),
}

impl<'e> Earlier<'e> {
    fn of(project: &Project, folder: &'e Path) -> Self {
        let store = Store::beside(project.folder.root(), &project.board_file);
        match store.last() {
            Ok(Some(release)) if !release.pieces.is_empty() => Earlier {
                pieces: release.pieces.iter().map(PieceBefore::of).collect(),
                texts: TextsBefore::Releases(store),
            },
            // A release that cannot be read is told by those commands that are about releases.
            _ => Earlier { pieces: read_before(folder), texts: TextsBefore::Folder(folder) },
        }
    }

    /// Those that are no more.
    fn gone(&self, rows: &[PasteRow]) -> Vec<GonePiece> {
        let is_gone = |own: &&PieceBefore| own.file.is_some() && rows.iter().all(|row| row.name != own.piece);
        let gone = self.pieces.iter().filter(is_gone);
        gone.map(|own| GonePiece { name: own.piece.clone(), place: own.place.clone() }).collect()
    }

    /// What has come of a piece since, and its text then where that was another.
    fn since(&self, name: &str, sha256: &str) -> (Change, Option<String>) {
        let last = self.pieces.iter().find(|own| own.piece == name && own.file.is_some());
        match last {
            None => (Change::New, None),
            Some(last) if last.sha256.as_deref() == Some(sha256) => (Change::Same, None),
            Some(last) => (Change::Changed, self.text(last)),
        }
    }

    fn text(&self, piece: &PieceBefore) -> Option<String> {
        match &self.texts {
            TextsBefore::Folder(folder) => fs::read_to_string(folder.join(piece.file.as_ref()?)).ok(),
            TextsBefore::Releases(store) => {
                String::from_utf8(store.bytes(piece.sha256.as_deref()?).ok()?).ok()
            }
        }
    }
}

impl PieceBefore {
    /// A piece of a release.
    fn of(piece: &StoredPiece) -> Self {
        let pages = piece.words("pages");
        PieceBefore {
            piece: piece.piece.clone(),
            file: Some(piece.file.clone()),
            sha256: Some(piece.sha256.clone()),
            place: PiecePlace {
                reach: piece.word("where").to_owned(),
                page: if let [only] = pages.as_slice() { Some(only.clone()) } else { None },
                pages,
                slot: piece.word("slot").to_owned(),
            },
        }
    }
}

/// The row of a piece of a release.
fn row_again(piece: &StoredPiece, text: &str, before: &Earlier<'_>) -> PasteRow {
    let (change, was) = before.since(&piece.piece, &piece.sha256);
    PasteRow {
        name: piece.piece.clone(),
        file: piece.file.clone(),
        reach: if piece.word("where") == "site" { BoxReach::Site } else { BoxReach::Page },
        pages: piece.words("pages"),
        slot: piece.word("slot").to_owned(),
        takes: match piece.word("takes") {
            "css" => BoxTakes::Css,
            "js" => BoxTakes::Js,
            _ => BoxTakes::Html,
        },
        text: text.to_owned(),
        characters: text.chars().count(),
        sha256: piece.sha256.clone(),
        pins: piece.words("pins"),
        libraries: piece.words("libraries"),
        only: piece.words("only"),
        patterns: piece.words("patterns"),
        but: piece.words("not_on"),
        change,
        before: was,
    }
}

fn row(project: &Project, piece: &Piece, before: &Earlier<'_>) -> PasteRow {
    let text = piece.text();
    let sha256 = hash_of(text.as_bytes());
    let (change, was) = before.since(&piece.name, &sha256);
    let paths = |pages: &[PageId]| {
        pages.iter().map(|page| project.site.pages[*page].path.as_str().to_owned()).collect::<Vec<_>>()
    };
    let names = |pins: &[deft_pin_core::code::PinId]| {
        pins.iter().map(|pin| project.board.pins[*pin].name.value.clone()).collect()
    };
    PasteRow {
        file: format!("pieces/{}.{}", piece.name, piece.of.takes.name()),
        name: piece.name.clone(),
        reach: piece.of.reach,
        pages: paths(&piece.pages),
        slot: piece.of.place_name().to_owned(),
        takes: piece.of.takes,
        characters: text.chars().count(),
        sha256,
        pins: names(&piece.pins),
        libraries: piece
            .libraries
            .iter()
            .map(|own| project.board.libraries[*own].name.value.clone())
            .collect(),
        only: paths(&piece.only),
        patterns: piece.patterns.clone(),
        but: piece.but.clone(),
        before: was,
        change,
        text,
    }
}

/// The pieces of the sheet before; none where there is none that can be read.
fn read_before(folder: &Path) -> Vec<PieceBefore> {
    let text = fs::read_to_string(folder.join(SHEET)).ok();
    let sheet = text.and_then(|text| serde_json::from_str::<SheetBefore>(&text).ok());
    let inside = |own: &PieceBefore| {
        own.file.as_ref().is_none_or(|file| deft_pin_core::source::FilePath::parse(file).is_ok())
    };
    sheet.map(|sheet| sheet.pieces.into_iter().filter(inside).collect()).unwrap_or_default()
}
