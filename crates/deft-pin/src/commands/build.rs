//! `build`: a copy of the site in which each targeted page carries its placements.

use std::collections::BTreeMap;
use std::path::Path;
use std::time::Instant;

use anyhow::{Context, Result, bail};
use deft_pin_core::emit::{Assets, Manner};
use deft_pin_core::plan::Plan;
use serde::Serialize;

use super::check::exit_for;
use crate::arguments::{Build, Common, Format};
use crate::exit::Exit;
use crate::landing::{Landing, MARK};
use crate::output;
use crate::pass::{Pass, Passed, in_folder};
use crate::project::Project;

/// What a build writes beside its assets: the mark by which a later build knows the folder.
#[derive(Serialize)]
struct Mark<'a> {
    #[serde(rename = "made by")]
    made_by: &'a str,
    version: u32,
    files: BTreeMap<&'a str, usize>,
}

/// Builds a customised copy of a site.
pub fn run(common: &Common, command: &Build) -> Result<Exit> {
    let started = Instant::now();
    let project = Project::open(&common.board)?;
    let (passed, written) = build(&project, common, command)?;
    match command.format {
        Format::Json => output::print(&output::build_json(&project, &passed, written)?),
        Format::Text => anstream::eprint!("{}", output::findings(&passed.findings, &project.folder)),
    }
    let (worst, words) = output::tally(&passed.findings);
    if !passed.findings.is_empty() {
        output::summary(output::style_for(worst), &words, "");
    }
    if written {
        let pages = project.site.pages.len();
        let rest = format!(
            "{} and {} to {}: {} customised with {}, {:.2} s",
            output::counted(pages, "page"),
            output::counted(project.site.others.len(), "other file"),
            command.out.display(),
            output::counted(passed.customised, "page"),
            output::counted(passed.placements, "placement"),
            started.elapsed().as_secs_f64()
        );
        output::summary(output::GOOD, "built", &rest);
    } else {
        output::note(
            "nothing was written; mend what is told above, or write the copy all the same with --anyway",
        );
    }
    Ok(exit_for(&passed, command.fail_on.severity()))
}

/// Writes the copy, unless something was found that counts as a failure.
pub fn build(project: &Project, common: &Common, command: &Build) -> Result<(Passed, bool)> {
    let folder = check_folder(project, &command.folder)?;
    let landing = Landing::prepare(&command.out, &project.site_path())?;
    let plan = Plan::new(&project.board, &project.folder);
    let mut assets = Assets::new(&plan, folder);
    if !command.integrity {
        assets.drop_integrity();
    }
    let manner = if command.inline { Manner::Inline } else { Manner::Linked };
    let pass = Pass { project, plan: &plan, assets: &assets, manner, into: Some(landing.work()) };
    let passed = pass.go(&output::Progress::new(common.quiet))?;
    if exit_for(&passed, command.fail_on.severity()) == Exit::Findings && !command.anyway {
        return Ok((passed, false));
    }
    write_assets(&assets, landing.work())?;
    landing.land()?;
    Ok((passed, true))
}

fn check_folder<'f>(project: &Project, folder: &'f str) -> Result<&'f str> {
    let fits = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.');
    if folder.is_empty() || folder.starts_with('.') || !folder.chars().all(fits) {
        bail!(
            "`--folder {folder}` is no name for a folder: letters, digits, `-`, `_` and `.`, and no dot in front"
        );
    }
    if std::fs::symlink_metadata(project.site_path().join(folder)).is_ok() {
        bail!("the site has a `{folder}` of its own; choose another name with `--folder`");
    }
    Ok(folder)
}

fn write_assets(assets: &Assets, work: &Path) -> Result<()> {
    let folder = work.join(&assets.folder);
    let mark = Mark {
        made_by: "deft-pin",
        version: 1,
        files: assets.files.iter().map(|(name, bytes)| (name.as_str(), bytes.len())).collect(),
    };
    let mark = format!("{}\n", serde_json::to_string_pretty(&mark)?);
    in_folder(&folder.join(MARK), |path| std::fs::write(path, &mark))
        .context("the copy cannot be written")?;
    for (name, bytes) in &assets.files {
        std::fs::write(folder.join(name), bytes).with_context(|| format!("`{name}` cannot be written"))?;
    }
    Ok(())
}
