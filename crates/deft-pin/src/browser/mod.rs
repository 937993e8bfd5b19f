//! A browser on this machine, driven over WebDriver (W3C) and, for what that does not say, the protocol that Chromium's
//! driver passes on: time that stands still, pictures of whole pages, and trees with computed styles.

mod command;
mod driver;
mod snapshot;
mod window;

pub use driver::Driver;
pub use window::{Shown, Window};
