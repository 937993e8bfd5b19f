//! The browser as the referee: what Deft Pin claims is held against what Chromium does.

mod cascade;
mod dice;
mod driver;
mod fence;
mod finding;
mod hints;
mod lifting;
mod placing;
#[path = "../session/mod.rs"]
mod session;
mod sheets;
mod trees;
mod values;
