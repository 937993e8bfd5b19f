//! Progress of long work, on a terminal alone.

use std::time::Duration;

use super::notes::Notes;
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};

/// Work that takes less than this is over before anybody has read about it.
const PATIENCE: Duration = Duration::from_millis(400);

/// Whether and how progress is shown.
#[derive(Clone, Copy, Debug)]
pub struct Progress {
    shown: bool,
}

impl Progress {
    /// Shows progress unless all but the answer is to be kept quiet.
    pub fn of(notes: Notes) -> Self {
        Progress { shown: !notes.is_quiet }
    }

    /// A bar over so many of something. It is drawn once the work has taken a while.
    pub fn bar(self, what: &str, count: usize) -> ProgressBar {
        let bar = ProgressBar::with_draw_target(Some(count as u64), ProgressDrawTarget::hidden());
        if self.shown {
            let style = ProgressStyle::with_template("{bar:32.blue} {pos}/{len} {msg}, {eta} to go");
            if let Ok(style) = style {
                bar.set_style(style.progress_chars("▪▪·"));
            }
            bar.set_message(what.to_owned());
            let late = bar.downgrade();
            // Where there is no thread to be had, there is no bar.
            let _ = std::thread::Builder::new().spawn(move || {
                std::thread::sleep(PATIENCE);
                if let Some(bar) = late.upgrade().filter(|bar| !bar.is_finished()) {
                    bar.set_draw_target(ProgressDrawTarget::stderr());
                }
            });
        }
        bar
    }
}
