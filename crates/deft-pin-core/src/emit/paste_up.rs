//! The paste-up: what to paste into which box of the host, in order.

use std::collections::{BTreeSet, HashMap};

use super::by_hand::ByHand;
use super::left_out::LeftOut;
use super::output_files::OutputFiles;
use super::paste_page::PastePage;
use super::pasted_assets::PastedAssets;
use super::piece::{Piece, name_pieces};
use super::piece_maker::PieceMaker;
use super::piece_text::{PieceLength, PieceWriter};
use super::rule_guard::PageMarkers;
use crate::board::BoxReach;
use crate::page::SiteContext;
use crate::plan::Part;
use crate::start::PageAddresses;

/// Everything that a host gets: pieces for its boxes, what is done by hand, what is uploaded.
#[derive(Clone, Debug, Default)]
pub struct PasteUp {
    /// The pieces, in the order in which to go through them.
    pub pieces: Vec<Piece>,
    /// What somebody gives to elements by hand.
    pub by_hand: Vec<ByHand>,
    /// The names of the files to upload, among those of the output.
    pub uploads: BTreeSet<String>,
    /// What could not be put into any box.
    pub left_out: Vec<LeftOut>,
}

impl PasteUp {
    /// Puts together what the pages of a site say: one entry a page that was looked at, in the order of the site.
    pub fn new(
        context: &SiteContext<'_>,
        files: &OutputFiles,
        pages: &[PastePage],
        length: PieceLength,
    ) -> Self {
        let plan = context.plan;
        let host = &plan.board.host;
        let writer = PieceWriter {
            plan,
            files,
            assets: PastedAssets::new(files, host.files.as_deref()),
            addresses: PageAddresses::of(&context.site().pages),
            length,
        };
        let mut work = PieceMaker {
            context,
            plan,
            host,
            writer,
            pages,
            on: HashMap::new(),
            lacking: HashMap::new(),
            markers: PageMarkers::of(pages.iter().map(|own| (own.page, own.features.as_slice()))),
            left_out: BTreeSet::new(),
        };
        for page in pages {
            for part in &page.parts {
                work.on.entry(*part).or_default().push(page.page);
            }
            for code in &page.has_by_itself {
                work.lacking.entry(Part::Code(*code)).or_default().push(page.page);
            }
        }
        let mut pieces = Vec::new();
        for of in host.boxes.iter().copied() {
            match of.reach {
                BoxReach::Site if host.inserts => pieces.extend(work.inserted(of)),
                BoxReach::Site => pieces.extend(work.of_site(of)),
                BoxReach::Page => pieces.extend(work.of_pages(of)),
            }
        }
        // The boxes of the site first: there are few of them.
        pieces.sort_by_key(|piece| piece.of.reach);
        name_pieces(&mut pieces, context);
        work.find_left_out();
        let by_hand = work.by_hand();
        let left_out = work.left_out.into_iter().collect();
        PasteUp { pieces, by_hand, uploads: work.writer.assets.uploads(), left_out }
    }
}
