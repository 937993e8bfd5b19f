//! `check`: every finding, before anything is written.

use std::time::Instant;

use anyhow::Result;
use deft_pin_core::check::Severity;
use deft_pin_core::emit::{Assets, Manner};
use deft_pin_core::plan::Plan;

use crate::arguments::{Check, CheckFormat, Common};
use crate::exit::Exit;
use crate::output;
use crate::pass::{Pass, Passed};
use crate::project::Project;

/// Checks a board against its site.
pub fn run(common: &Common, command: &Check) -> Result<Exit> {
    let started = Instant::now();
    let project = Project::open(&common.board)?;
    let passed = look(&project, common)?;
    match command.format {
        CheckFormat::Json => output::print(&output::check_json(&project, &passed)?),
        CheckFormat::Sarif => output::print(&output::check_sarif(&passed)?),
        CheckFormat::Text => anstream::print!("{}", output::findings(&passed.findings, &project.folder)),
    }
    say_sum(&project, &passed, started);
    Ok(exit_for(&passed, command.fail_on.severity()))
}

/// Goes over a site without writing anything.
pub fn look(project: &Project, common: &Common) -> Result<Passed> {
    let plan = Plan::new(&project.board, &project.folder);
    let assets = Assets::new(&plan, "_pins");
    let pass = Pass { project, plan: &plan, assets: &assets, manner: Manner::Linked, into: None };
    pass.go(&output::Progress::new(common.quiet))
}

/// Sums up what a check found.
pub fn say_sum(project: &Project, passed: &Passed, started: Instant) {
    let (worst, words) = output::tally(&passed.findings);
    let pins = project.board.pins.iter().filter(|pin| !pin.off).count();
    let rest = format!(
        "about {} on {} of {}, {:.2} s",
        output::counted(pins, "pin"),
        passed.customised,
        output::counted(project.site.pages.len(), "page"),
        started.elapsed().as_secs_f64()
    );
    output::summary(output::style_for(worst), &words, &rest);
}

/// The exit status that findings lead to.
pub fn exit_for(passed: &Passed, fail_on: Severity) -> Exit {
    let failed = passed.findings.iter().any(|finding| finding.severity >= fail_on);
    if failed { Exit::Findings } else { Exit::Good }
}
