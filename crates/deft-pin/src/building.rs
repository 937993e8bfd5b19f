//! Building: the site is gone over once, and its copy moved into place unless something was found
//! that counts as a failure.

use std::path::Path;

use anyhow::{Result, bail};
use deft_pin_core::emit::{Embedding, OutputFiles, PieceLength};
use deft_pin_core::plan::Plan;
use deft_pin_core::source::Files;

use crate::arguments::Build;
use crate::exit::Exit;
use crate::outcome::exit_for;
use crate::output::{Notes, Progress};
use crate::project::Project;
use crate::site_run::{RunOutcome, SiteRun};
use crate::staging::Staging;

/// What came of a build.
pub struct Built {
    /// What the run over the site did and found.
    pub outcome: RunOutcome,
    /// Whether the copy has been written.
    pub is_written: bool,
}

/// A copy before it is moved into place.
pub struct BuildLook<'l> {
    /// The folder that it is in.
    pub work: &'l Path,
    /// The files that go along.
    pub files: &'l OutputFiles,
    /// The plan.
    pub plan: &'l Plan<'l>,
}

/// Writes the copy, unless something was found that counts as a failure.
///
/// # Errors
/// The arguments do not fit the site, a page cannot be read, or the copy cannot be written.
pub fn build(project: &Project, notes: Notes, command: &Build) -> Result<Built> {
    build_of(project, &project.folder, notes, command, |_| Ok(()))
}

/// The same, with what the board names from elsewhere, and with a look at the copy before it is moved into place.
///
/// # Errors
/// As above, or what looks at the copy fails: then it is not moved.
pub fn build_of(
    project: &Project,
    named: &dyn Files,
    notes: Notes,
    command: &Build,
    look: impl FnOnce(BuildLook<'_>) -> Result<()>,
) -> Result<Built> {
    let folder = check_folder(project, &command.folder)?;
    let staging = Staging::prepare(&command.out, &project.site_path())?;
    let plan = project.plan(named)?;
    let mut files = OutputFiles::new(&plan, folder);
    if !command.integrity {
        files.drop_integrity();
    }
    let embedding = if command.inline { Embedding::Inline } else { Embedding::Linked };
    let run = SiteRun {
        project,
        plan: &plan,
        files: &files,
        embedding,
        into: Some(staging.work()),
        length: PieceLength::Written,
        pins: &[],
    };
    let outcome = run.go(Progress::of(notes))?;
    if exit_for(&outcome, command.fail_on.severity()) == Exit::Findings && !command.anyway {
        return Ok(Built { outcome, is_written: false });
    }
    staging.write_assets(&files.folder, &files.files)?;
    look(BuildLook { work: staging.work(), files: &files, plan: &plan })?;
    staging.land()?;
    Ok(Built { outcome, is_written: true })
}

/// Holds the name of the folder for the files of pins against the site.
///
/// # Errors
/// It is no name, or the site has such a folder itself.
pub fn check_folder<'f>(project: &Project, folder: &'f str) -> Result<&'f str> {
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
