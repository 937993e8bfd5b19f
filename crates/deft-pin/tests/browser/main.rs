//! The browser as the referee: what Deft Pin claims is held against what Chromium does.

mod at_rules;
mod cascade;
#[path = "../cases/mod.rs"]
mod cases;
mod comparing;
mod confined;
mod content;
mod dice;
mod driver;
mod fence;
mod fenced_names;
mod files_beside;
mod filled;
mod finding;
mod hints;
mod libraries;
mod lifting;
mod manuals;
mod modules;
mod no_effect;
mod order;
mod pasting;
mod placing;
mod policy;
mod previewing;
mod probing;
mod scripts;
mod seen;
mod server;
#[path = "../session/mod.rs"]
mod session;
mod sharing;
mod sheets;
mod starts;
mod trees;
mod untouched;
mod values;
mod written;
