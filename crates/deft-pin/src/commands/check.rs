//! `check`: every finding, before anything is written.

use std::time::Instant;

use anyhow::Result;

use crate::arguments::{Check, CheckFormat, Common};
use crate::exit::Exit;
use crate::outcome::{exit_for, look, say_sum};
use crate::output::{self, Notes};
use crate::project::Project;

/// Checks a board against its site.
pub fn run(common: &Common, command: &Check) -> Result<Exit> {
    let started = Instant::now();
    let notes = Notes::of(common);
    let project = Project::of_board(&common.board, notes)?.on(common.today);
    let pins = command.pins.iter().map(|name| project.pin(name)).collect::<Result<Vec<_>>>()?;
    for pin in pins.iter().map(|pin| &project.board.pins[*pin]).filter(|pin| pin.off) {
        notes
            .note(&format!("the pin `{}` is off: it is on no page, and nothing is said about it", *pin.name));
    }
    let outcome = look(&project, notes, &pins)?;
    match command.format {
        CheckFormat::Json => output::print(&output::check_json(&project, &outcome, command.all)?)?,
        CheckFormat::Sarif => output::print(&output::check_sarif(&outcome, command.all)?)?,
        CheckFormat::Text => {
            output::print(&output::findings(&outcome.findings, &project.folder, command.all))?;
        }
    }
    say_sum(&project, &outcome, &pins, started, notes);
    Ok(exit_for(&outcome, command.fail_on.severity()))
}
