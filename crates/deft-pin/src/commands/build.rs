//! `build`: a copy of the site in which each targeted page carries its placements.

use std::time::Instant;

use anyhow::Result;

use crate::arguments::{Build, Common, Format};
use crate::building::{Built, build};
use crate::disk::shown;
use crate::exit::Exit;
use crate::outcome::{exit_for, say_findings};
use crate::output::{self, Notes};
use crate::project::Project;

/// Builds a customised copy of a site.
pub fn run(common: &Common, command: &Build) -> Result<Exit> {
    let started = Instant::now();
    let notes = Notes::of(common);
    let project = Project::of_board(&common.board, notes)?.on(common.today);
    project.note_boxes(notes);
    let project = project.changing_files();
    let Built { outcome, is_written } = build(&project, notes, command)?;
    match command.format {
        Format::Json => output::print(&output::build_json(&project, &outcome, is_written, command.all)?)?,
        Format::Text => {
            say_findings(&project, &outcome, notes, command.all);
        }
    }
    let (worst, words) = output::tally(&outcome.findings);
    if !outcome.findings.is_empty() {
        notes.summary(output::style_for(worst), &words, "");
    }
    if is_written {
        let rest = format!(
            "{} and {} to {}: {} customised with {}, {:.2} s",
            output::counted(project.site.pages.len(), "page"),
            output::counted(project.site.others.len(), "other file"),
            shown(&command.out),
            output::counted(outcome.customised, "page"),
            output::counted(outcome.placements, "placement"),
            started.elapsed().as_secs_f64()
        );
        notes.summary(output::GOOD, "built", &rest);
    } else {
        notes.note(
            "nothing was written; mend what is told above, or write the copy all the same with --anyway",
        );
    }
    if is_written && command.anyway {
        return Ok(Exit::Good);
    }
    Ok(exit_for(&outcome, command.fail_on.severity()))
}
