//! How a run over a site ends: what is said of it, and the exit status that it leads to.

use std::time::Instant;

use anyhow::Result;
use deft_pin_core::check::{Finding, Severity};
use deft_pin_core::code::PinId;
use deft_pin_core::emit::{Embedding, OutputFiles, PieceLength};

use crate::exit::Exit;
use crate::output::{self, Notes, Progress};
use crate::project::Project;
use crate::site_run::{RunOutcome, SiteRun};

/// Goes over a site without writing anything, and speaks of some pins alone; of all where none is named.
///
/// # Errors
/// A page cannot be read.
pub fn look(project: &Project, notes: Notes, pins: &[PinId]) -> Result<RunOutcome> {
    let plan = project.plan(&project.folder)?;
    let files = OutputFiles::new(&plan, "_pins");
    let embedding = match project.board.host.changes_files {
        true => Embedding::Linked,
        false => Embedding::Inline,
    };
    let run = SiteRun {
        project,
        plan: &plan,
        files: &files,
        embedding,
        into: None,
        length: PieceLength::Written,
        pins,
    };
    run.go(Progress::of(notes))
}

/// Says beside the answer what was found. Whoever wants quiet has seen the notes with `check`.
pub fn say_findings(project: &Project, outcome: &RunOutcome, notes: Notes, all: bool) {
    let least = notes.least_told();
    let told: Vec<Finding> =
        outcome.findings.iter().filter(|finding| finding.severity >= least).cloned().collect();
    output::say(&output::findings(&told, &project.folder, all));
}

/// Sums up what a check found.
pub fn say_sum(project: &Project, outcome: &RunOutcome, pins: &[PinId], started: Instant, notes: Notes) {
    let (worst, words) = output::tally(&outcome.findings);
    let rest = format!(
        "about {} on {} of {}, {:.2} s",
        output::counted(
            if pins.is_empty() { project.board.active_pins().count() } else { pins.len() },
            "pin"
        ),
        outcome.customised,
        output::counted(project.site.pages.len(), "page"),
        started.elapsed().as_secs_f64()
    );
    notes.summary(output::style_for(worst), &words, &rest);
}

/// The exit status that findings lead to.
pub fn exit_for(outcome: &RunOutcome, fail_on: Severity) -> Exit {
    let failed = outcome.findings.iter().any(|finding| finding.severity >= fail_on);
    if failed { Exit::Findings } else { Exit::Good }
}
