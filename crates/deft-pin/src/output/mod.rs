//! What people and programs are shown: answers on standard output, everything else on standard
//! error.

mod findings;
mod json;
mod notes;
mod progress;
mod text;

pub use findings::{findings, mistake_at, mistakes, style_for, tally};
pub use json::{build_json, check_json};
pub use notes::{GOOD, failure, note, prepare, summary, warning};
pub use progress::Progress;
pub use text::{counted, cut};
