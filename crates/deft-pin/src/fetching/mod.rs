//! Asking servers that are somebody's: within limits of bytes and time, two at once, with pauses, and by what their
//! `robots.txt` says.

mod body;
mod fetched;
mod fetcher;
mod pace;
mod robots;

pub use body::{LARGEST_BODY, as_utf8, decoded_body, page_bytes, text_of};
pub use fetched::{FetchProblem, Fetched, charset_in};
pub use fetcher::{Fetcher, Manners};
pub use pace::in_turn;
