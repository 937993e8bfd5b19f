//! A piece: what is pasted into one box of a host.

use std::collections::BTreeMap;

use crate::board::{BoxReach, HostBox};
use crate::code::{LibraryId, PageId, PinId};
use crate::page::SiteContext;
use crate::plan::Part;

/// What is pasted into one box.
#[derive(Clone, Debug)]
pub struct Piece {
    /// Its name, and that of its file.
    pub name: String,
    /// The box.
    pub of: HostBox,
    /// The pages into whose boxes it goes; none for a box of the site.
    pub pages: Vec<PageId>,
    /// The parts of the text, in order. They stand one behind the other.
    pub parts: Vec<PiecePart>,
    /// The pins whose code is in it.
    pub pins: Vec<PinId>,
    /// The libraries whose code is in it.
    pub libraries: Vec<LibraryId>,
    /// The pages on which it does something.
    pub only: Vec<PageId>,
    /// The patterns of pages by which the host keeps it to them, where the host does that; nothing said means all.
    pub patterns: Vec<String>,
    /// The patterns of pages that it is not for.
    pub but: Vec<String>,
}

impl Piece {
    /// The text to paste.
    pub fn text(&self) -> String {
        self.parts.iter().map(|part| part.text.as_str()).collect()
    }

    /// How long the text is, in characters.
    pub fn characters(&self) -> usize {
        self.parts.iter().map(|part| part.text.chars().count()).sum()
    }
}

/// A part of a piece.
#[derive(Clone, Debug)]
pub struct PiecePart {
    /// The text.
    pub text: String,
    /// The part of the plan that it is; none for what only helps others.
    pub of: Option<Part>,
    /// The pages on which the host shows it; none where it is on all that have the box.
    pub shown_on: Option<Vec<PageId>>,
    /// The text as the host shows it there, without its own means of keeping it to pages.
    pub shown: String,
    /// The pages on which it does something; none for what only helps others.
    pub on: Vec<PageId>,
}

impl PiecePart {
    /// One that only helps others.
    pub(super) fn helping(text: String) -> Self {
        PiecePart { shown: text.clone(), text, of: None, shown_on: None, on: Vec::new() }
    }

    pub(super) fn of(text: String, part: Part) -> Self {
        PiecePart { of: Some(part), ..PiecePart::helping(text) }
    }
}

/// The pieces of a host's boxes get names that say where they go, and that stay as pins come and go.
pub(super) fn name_pieces(pieces: &mut [Piece], context: &SiteContext<'_>) {
    let mut taken: BTreeMap<String, usize> = BTreeMap::new();
    for piece in pieces {
        let place = piece.of.place_name();
        let name = match (piece.of.reach, piece.pages.as_slice()) {
            (BoxReach::Site, _) if context.plan.board.host.inserts => {
                let pins: Vec<&str> = piece
                    .pins
                    .iter()
                    .take(2)
                    .map(|pin| context.plan.board.pins[*pin].name.as_str())
                    .collect();
                let library = piece
                    .libraries
                    .first()
                    .map(|library| context.plan.board.libraries[*library].name.as_str());
                let what = match pins.is_empty() {
                    true => library.unwrap_or("libraries").to_owned(),
                    false => pins.join("-"),
                };
                format!("inserted-{what}-{place}")
            }
            (BoxReach::Site, _) => piece.of.name(),
            (BoxReach::Page, [only]) => {
                format!("page-{}-{place}", slug(context.site().pages[*only].path.as_str()))
            }
            (BoxReach::Page, pages) => {
                let first = pages.first().map_or("", |page| context.site().pages[*page].path.as_str());
                format!("pages-{}-and-{}-{place}", slug(first), pages.len().saturating_sub(1))
            }
        };
        let times = taken.entry(name.clone()).or_default();
        *times += 1;
        piece.name = if *times == 1 { name } else { format!("{name}-{times}") };
    }
}

/// A path as a part of a file's name.
fn slug(path: &str) -> String {
    let path = path.trim_matches('/').trim_end_matches(".html");
    let words: Vec<String> = path
        .split(|c: char| !c.is_ascii_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_ascii_lowercase)
        .collect();
    match words.is_empty() {
        true => "home".to_owned(),
        false => words.join("-").chars().take(60).collect(),
    }
}
