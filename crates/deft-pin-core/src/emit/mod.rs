//! Placements into bytes: the files that go along with the pages, and the pages with what was
//! put into them; or into pieces for the boxes of a host, and a page as that host serves it.

mod by_hand;
mod components;
mod emitted_page;
mod emitter;
mod file_names;
mod in_front;
mod inserted_pieces;
mod left_out;
mod named_url;
mod output_files;
mod page_pieces;
mod paste_page;
mod paste_up;
mod pasted_assets;
mod piece;
mod piece_maker;
mod piece_text;
mod proof;
mod rule_guard;
mod site_pieces;
mod stand_in;
mod tags;
mod writer;

pub use by_hand::ByHand;
pub use emitted_page::EmittedPage;
pub use emitter::{Embedding, Emitter, Refused};
pub use in_front::put_in_front;
pub use left_out::{LeftOut, OutOfReach, fits_frame, left_out_by_host};
pub use output_files::{EmittedCode, OutputFiles};
pub use paste_page::{HandMark, PastePage};
pub use paste_up::PasteUp;
pub use pasted_assets::LARGEST_CARRIED;
pub use piece::{Piece, PiecePart};
pub use piece_text::PieceLength;
pub use stand_in::{as_served, surviving};
pub use tags::text_in;
