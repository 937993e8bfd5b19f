//! What people and programs are shown: answers on standard output, everything else on standard
//! error.

mod findings;
mod json;
mod locate;
mod notes;
mod order;
mod progress;
mod reach;
mod sarif;
mod survey;
mod svg;
mod table;
mod text;
mod why;

pub use findings::{findings, mistake_at, mistakes, style_for, tally};
pub use json::{build_json, check_json};
pub use locate::{Elsewhere, Found, Way, located, located_json};
pub use notes::{GOOD, Notes, failure, prepare};
pub use order::{Timed, order, order_json};
pub use progress::Progress;
pub use reach::{PinReach, ReachedElement, ReachedPage, RuleReach, reach_json, reached};
pub use sarif::check_sarif;
pub use survey::{PageAnswer, survey_json, survey_page, survey_pages};
pub use svg::order_svg;
pub use text::{counted, cut, wrapped};
pub use why::{Asked, WhyElement, why, why_json};

/// Prints an answer to standard output. A reader that has seen enough and gone is no failure.
pub fn print(answer: &str) {
    use std::io::Write as _;
    let mut out = anstream::stdout().lock();
    let _ = out.write_all(answer.as_bytes()).and_then(|()| out.flush());
}
