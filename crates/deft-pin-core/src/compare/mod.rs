//! Two looks at a page held against each other: which elements look different or stand elsewhere, which pin is behind
//! that, and which areas of the pictures differ.
//!
//! What a browser showed comes in as plain data; nothing here drives one.

mod alignment;
mod areas;
mod blame;
mod changes;
mod seen;

pub use areas::{Area, Difference, Picture, difference};
pub use blame::{PinReachSeen, blame};
pub use changes::{ElementChange, How, changes};
pub use seen::{Addresses, Rectangle, SeenElement, SeenPage};
