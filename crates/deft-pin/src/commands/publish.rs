//! `publish`: what comes out of the board is put in its place, and kept as a release.

use std::time::Instant;

use anyhow::Result;

use crate::arguments::{Common, Publish};
use crate::disk::shown;
use crate::exit::Exit;
use crate::outcome::{exit_for, say_findings};
use crate::output::{self, Notes};
use crate::project::Project;
use crate::publishing::{Published, Publishing, out_of};
use crate::releases::Store;

/// Publishes the board as it is now.
pub fn run(common: &Common, command: &Publish) -> Result<Exit> {
    let started = Instant::now();
    let notes = Notes::of(common);
    let project = Project::of_board(&common.board, notes)?.on(common.today);
    let store = Store::beside(project.folder.root(), &project.board_file);
    let _turn = store.take_turn()?;
    let changes_files = project.board.host.changes_files;
    let publishing = Publishing {
        project: &project,
        store: &store,
        notes,
        note: command.note.clone(),
        out: out_of(&project, command.out.as_ref()),
        anyway: command.anyway,
        fail_on: command.fail_on.severity(),
    };
    let now = publishing.snapshot()?;
    let since = publishing.since_last(&now)?;
    let Published { release, outcome } = publishing.publish(&now, &since)?;
    output::print(&output::since_last(&since))?;
    output::print(&output::outcome_since(&since, release.as_ref()))?;
    say_findings(&project, &outcome, notes, false);
    let Some(release) = release else {
        notes.note("nothing was published; mend what is told above, or publish all the same with --anyway");
        return Ok(exit_for(&outcome, command.fail_on.severity()));
    };
    let what = match changes_files {
        true => {
            format!("{} of pins to {}", output::counted(release.pages.len(), "page"), shown(&publishing.out))
        }
        false => format!(
            "{}; go through {}",
            output::counted(release.pieces.len(), "piece"),
            shown(&publishing.out.join(crate::pasting::PAGE))
        ),
    };
    let head = format!("published as release {}", release.release);
    notes.summary(output::GOOD, &head, &format!("{what}, {:.2} s", started.elapsed().as_secs_f64()));
    Ok(Exit::Good)
}
