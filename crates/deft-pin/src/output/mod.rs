//! What people and programs are shown: answers on standard output, everything else on standard
//! error.

use std::borrow::Cow;
use std::io::{ErrorKind, IsTerminal as _, Write as _};

use anyhow::{Context as _, Result};

mod capture;
mod compare;
mod findings;
mod history;
mod json;
mod locate;
mod notes;
mod order;
mod paste;
mod probe;
mod progress;
mod reach;
mod sarif;
mod survey;
mod svg;
mod table;
mod text;
mod why;

pub use capture::{capture_json, captured};
pub use compare::{compare_json, compared, write_report};
pub use findings::{findings, mistake_at, mistakes, style_for, tally};
pub use history::{difference_json, history, history_json, outcome_since, release, since_last};
pub use json::{build_json, check_json};
pub use locate::{Elsewhere, Found, Way, located, located_json};
pub use notes::{ERROR, GOOD, Notes, failure, prepare, reasons};
pub use order::{Timed, order, order_json};
pub use paste::{paste, paste_json, paste_page};
pub use probe::{probe_json, probed};
pub use progress::Progress;
pub use reach::{ContentReach, PinReach, ReachedElement, ReachedPage, RuleReach, reach_json, reached};
pub use sarif::check_sarif;
pub use survey::{PageAnswer, survey_json, survey_page, survey_pages};
pub use svg::{is_order_svg, order_svg};
pub use text::{columns, counted, cut, html_text, plain, wrapped};
pub use why::{Asked, InheritedOutcome, SchemeOutcome, WhyElement, why, why_json};

/// Prints an answer to standard output. A reader that has seen enough and gone is no failure.
///
/// # Errors
/// It cannot be written.
pub fn print(answer: &str) -> Result<()> {
    let mut out = anstream::stdout().lock();
    written(out.write_all(answer.as_bytes()).and_then(|()| out.flush()))
}

/// Prints code, to the byte; on a terminal, without what that would obey.
///
/// # Errors
/// It cannot be written.
pub fn print_code(code: &str) -> Result<()> {
    let mut out = std::io::stdout().lock();
    let shown = if out.is_terminal() { text::plain_lines(code) } else { Cow::Borrowed(code) };
    written(out.write_all(shown.as_bytes()).and_then(|()| out.flush()))
}

/// What came of writing the answer.
fn written(done: std::io::Result<()>) -> Result<()> {
    match done {
        Err(error) if error.kind() == ErrorKind::BrokenPipe => Ok(()),
        done => done.context("the answer cannot be written"),
    }
}

/// Where a finding is: file and line.
pub fn place(finding: &deft_pin_core::check::Finding) -> String {
    format!("{}:{}", finding.place.file, finding.place.start.line)
}

/// A text without the colours of a terminal.
pub fn unstyled(text: &str) -> String {
    anstream::adapter::strip_str(text).to_string()
}

/// Says something beside the answer, on standard error. Where nobody can be told there, nobody is.
pub fn say(text: &str) {
    let mut out = anstream::stderr().lock();
    let _ = out.write_all(text.as_bytes()).and_then(|()| out.flush());
}
