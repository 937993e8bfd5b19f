//! Asking servers that are somebody's: within limits of bytes and time, two at once, with pauses, and by what their
//! `robots.txt` says.

mod body;
mod fetched;
mod fetcher;
mod pace;
mod robots;

pub use body::{LARGEST_BODY, decoded_body, text_of};
pub use fetched::{FetchProblem, Fetched};
pub use fetcher::{Fetcher, Manners};
pub use pace::in_turn;
