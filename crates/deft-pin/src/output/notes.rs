//! Notes, warnings and failures, on standard error.

use anstyle::{AnsiColor, Style};
use anyhow::Error;
use deft_pin_core::check::Severity;
use std::path::Path;
use tracing_subscriber::filter::LevelFilter;

use super::say;
use super::text::{plain, wrapped};
use crate::arguments::{Color, Common};
use crate::disk::shown;
use crate::folder::Listing;
use crate::project::BadBoard;

/// Sets up colours and logging as the common options say.
pub fn prepare(common: &Common) {
    let choice = match common.color {
        Color::Auto => anstream::ColorChoice::Auto,
        Color::Always => anstream::ColorChoice::AlwaysAnsi,
        Color::Never => anstream::ColorChoice::Never,
    };
    choice.write_global();
    let level = match (common.quiet, common.verbose) {
        (true, _) | (_, 0) => LevelFilter::ERROR,
        (_, 1) => LevelFilter::INFO,
        _ => LevelFilter::DEBUG,
    };
    // Set without a bridge for the `log` crate: what parsers say of their own steps helps nobody here.
    let log = tracing_subscriber::fmt()
        .with_max_level(level)
        .with_writer(std::io::stderr)
        .without_time()
        .with_target(false)
        .with_ansi(false)
        .finish();
    // It can fail only where a log is set already, which is then the one to use.
    let _ = tracing::subscriber::set_global_default(log);
}

/// The colour of errors, also at the end of a run.
pub const ERROR: Style = AnsiColor::Red.on_default().bold();
/// The colour of warnings.
pub const WARNING: Style = AnsiColor::Magenta.on_default().bold();
/// The colour of notes.
pub const NOTE: Style = AnsiColor::Blue.on_default().bold();
/// The colour of what went well.
pub const GOOD: Style = AnsiColor::Green.on_default().bold();
/// What is there to be passed over.
pub const FAINT: Style = Style::new().dimmed();

/// Says why a run could not go on, with all that led to it.
pub fn failure(error: &Error) {
    if let Some(BadBoard(drawn)) = error.downcast_ref::<BadBoard>() {
        say(&format!("{drawn}; nothing was done\n"));
        return;
    }
    say(&format!("{ERROR}deft-pin{ERROR:#} {}\n", wrapped(&reasons(error), "", "  ").trim_start()));
}

/// What went wrong, with all that led to it, as one sentence.
pub fn reasons(error: &Error) -> String {
    let mut text = error.to_string();
    for cause in error.chain().skip(1) {
        let cause = cause.to_string();
        if !text.contains(&cause) {
            text.push_str(&format!(": {cause}"));
        }
    }
    text
}

/// How many of the files that are left out are named.
const LEFT_OUT_SHOWN: usize = 6;

/// What is said beside the answer, unless all but that is to be kept quiet.
#[derive(Clone, Copy, Debug)]
pub struct Notes {
    pub(super) is_quiet: bool,
}

impl Notes {
    /// Notes as the common options say.
    pub fn of(common: &Common) -> Self {
        Notes { is_quiet: common.quiet }
    }

    /// The least that a finding has to weigh to be told beside an answer.
    pub fn least_told(self) -> Severity {
        if self.is_quiet { Severity::Warning } else { Severity::Note }
    }

    /// Says something that may matter.
    pub fn warning(self, text: &str) {
        if !self.is_quiet {
            let text = wrapped(text, "         ", "         ");
            say(&format!("{WARNING}left out{WARNING:#} {}\n", text.trim_start()));
        }
    }

    /// The same, but for bars of progress: for work that goes on beside.
    pub fn without_progress(self) -> Self {
        Notes { is_quiet: true }
    }

    /// Says which files of a folder were left out.
    pub fn left_out(self, listing: &Listing, root: &Path) {
        for (path, why) in listing.left_out.iter().take(LEFT_OUT_SHOWN) {
            self.warning(&format!("`{}`: {why}", shown(path.strip_prefix(root).unwrap_or(path))));
        }
        match listing.left_out.len().saturating_sub(LEFT_OUT_SHOWN) {
            0 => {}
            more => self.warning(&format!("{more} more, for reasons like these")),
        }
    }

    /// Says what is going on.
    pub fn note(self, text: &str) {
        if !self.is_quiet {
            say(&format!("{}\n", plain(text)));
        }
    }

    /// Sums a run up, in the colour of how it went.
    pub fn summary(self, style: Style, head: &str, rest: &str) {
        if !self.is_quiet {
            say(&format!("{style}{}{style:#} {}\n", plain(head), plain(rest)));
        }
    }
}
