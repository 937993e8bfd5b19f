//! `paste`: what to paste where, on a host with boxes.

use std::time::Instant;

use anyhow::Result;

use crate::arguments::{Common, Format, Paste};
use crate::disk::shown;
use crate::exit::Exit;
use crate::outcome::{exit_for, say_findings};
use crate::output::{self, Notes};
use crate::pasting::{PAGE, Pasted, paste};
use crate::project::Project;

/// Writes the paste-up of a board.
pub fn run(common: &Common, command: &Paste) -> Result<Exit> {
    let started = Instant::now();
    let notes = Notes::of(common);
    let project = Project::of_board(&common.board, notes)?.on(common.today);
    let Pasted { outcome, sheet, is_written } = paste(&project, notes, command)?;
    if command.format == Format::Text {
        say_findings(&project, &outcome, notes, command.all);
    }
    match command.format {
        Format::Json => output::print(&output::paste_json(&project, &outcome, &sheet, command.all)?)?,
        Format::Text if is_written => output::print(&output::paste(&project, &sheet))?,
        Format::Text => {}
    }
    if !outcome.findings.is_empty() {
        let (worst, words) = output::tally(&outcome.findings);
        notes.summary(output::style_for(worst), &words, "");
    }
    match is_written {
        true => notes.summary(
            output::GOOD,
            "pasted up",
            &format!(
                "open {} and go through it from the top, {:.2} s",
                shown(&command.out.join(PAGE)),
                started.elapsed().as_secs_f64()
            ),
        ),
        false => notes.note(
            "nothing was written; mend what is told above, or write the paste-up all the same with --anyway",
        ),
    }
    if is_written && command.anyway {
        return Ok(Exit::Good);
    }
    Ok(exit_for(&outcome, command.fail_on.severity()))
}
