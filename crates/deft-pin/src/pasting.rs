//! Pasting up: the site is gone over once, and what goes into the boxes of its host is written beside and moved into
//! place, unless something was found that counts as a failure.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use anyhow::{Context as _, Result, bail};
use deft_pin_core::emit::{Embedding, OutputFiles, PasteUp, PieceLength};
use deft_pin_core::plan::Plan;

use crate::arguments::Paste;
use crate::exit::Exit;
use crate::outcome::exit_for;
use crate::output::{self, Notes, Progress};
use crate::paste_sheet::{PasteSheet, SHEET};
use crate::project::Project;
use crate::site_run::{RunOutcome, SiteRun};
use crate::staging::Staging;

/// What came of a paste-up.
pub struct Pasted {
    /// What the run over the site did and found.
    pub outcome: RunOutcome,
    /// What there is to paste.
    pub sheet: PasteSheet,
    /// Whether it has been written.
    pub is_written: bool,
}

/// A paste-up before it is moved into place.
pub struct PasteLook<'l> {
    /// What there is to paste.
    pub sheet: &'l PasteSheet,
    /// The files to upload.
    pub uploads: &'l [(String, Vec<u8>)],
    /// The pieces, those of the sheet in its order.
    pub paste_up: &'l PasteUp,
    /// The plan.
    pub plan: &'l Plan<'l>,
}

/// The page in the folder of a paste-up that somebody works from.
pub const PAGE: &str = "paste.html";

/// Writes the paste-up, unless something was found that counts as a failure.
///
/// # Errors
/// The board's host has no boxes, a page cannot be read, or the paste-up cannot be written.
pub fn paste(project: &Project, notes: Notes, command: &Paste) -> Result<Pasted> {
    paste_of(project, notes, command, |_| Ok(()))
}

/// The same, with a look at the paste-up before it is moved into place.
///
/// # Errors
/// As above, or what looks at it fails: then it is not moved.
pub fn paste_of(
    project: &Project,
    notes: Notes,
    command: &Paste,
    look: impl FnOnce(PasteLook<'_>) -> Result<()>,
) -> Result<Pasted> {
    if project.board.host.changes_files {
        bail!(
            "on this host whole files can be changed: `deft-pin build --out DIR` writes them. A host with boxes is named on the board: `kind = \"page-slots\"` under `[host]`, or another of its kinds"
        );
    }
    let staging = Staging::prepare(&command.out, &project.site_path())?;
    let plan = project.plan(&project.folder)?;
    let files = OutputFiles::new(&plan, "files");
    let length = if command.short { PieceLength::Short } else { PieceLength::Written };
    let run = SiteRun {
        project,
        plan: &plan,
        files: &files,
        embedding: Embedding::Inline,
        into: None,
        length,
        pins: &[],
    };
    let mut outcome = run.go(Progress::of(notes))?;
    let paste_up = outcome.paste_up.take().unwrap_or_default();
    let uploads = uploads(&paste_up, &files);
    let sheet = PasteSheet::of(project, &paste_up, &uploads, &command.out);
    let is_written = exit_for(&outcome, command.fail_on.severity()) != Exit::Findings || command.anyway;
    if is_written {
        fill(&staging, project, &outcome, &sheet, &uploads)?;
        look(PasteLook { sheet: &sheet, uploads: &uploads, paste_up: &paste_up, plan: &plan })?;
        staging.land()?;
    }
    Ok(Pasted { outcome, sheet, is_written })
}

/// Writes a paste-up that was made before, as it was then.
///
/// # Errors
/// It cannot be written, or what looks at it fails.
pub fn paste_again(
    project: &Project,
    sheet: &PasteSheet,
    uploads: &[(String, Vec<u8>)],
    out: &Path,
    look: impl FnOnce() -> Result<()>,
) -> Result<()> {
    let staging = Staging::prepare(out, &project.site_path())?;
    let outcome = RunOutcome { findings: Vec::new(), customised: 0, placements: 0, paste_up: None };
    fill(&staging, project, &outcome, sheet, uploads)?;
    look()?;
    staging.land()
}

fn fill(
    staging: &Staging,
    project: &Project,
    outcome: &RunOutcome,
    sheet: &PasteSheet,
    uploads: &[(String, Vec<u8>)],
) -> Result<()> {
    write(project, outcome, sheet, uploads, staging.work())?;
    let pieces: BTreeMap<String, Vec<u8>> =
        sheet.rows.iter().map(|row| (name_in_folder(&row.file), row.text.clone().into_bytes())).collect();
    staging.write_files("pieces", &pieces)?;
    staging.write_mark(".deft-pin", &pieces)
}

fn name_in_folder(file: &str) -> String {
    file.rsplit('/').next().unwrap_or(file).to_owned()
}

fn uploads(paste_up: &PasteUp, files: &OutputFiles) -> Vec<(String, Vec<u8>)> {
    let named =
        paste_up.uploads.iter().filter_map(|name| Some((name.clone(), files.files.get(name)?.clone())));
    named.collect()
}

fn write(
    project: &Project,
    outcome: &RunOutcome,
    sheet: &PasteSheet,
    uploads: &[(String, Vec<u8>)],
    folder: &Path,
) -> Result<()> {
    let failed = "the paste-up cannot be written";
    if !uploads.is_empty() {
        fs::create_dir_all(folder.join("files")).context(failed)?;
    }
    for (name, bytes) in uploads {
        fs::write(folder.join("files").join(name), bytes).context(failed)?;
    }
    fs::write(folder.join(SHEET), output::paste_json(project, outcome, sheet, true)?).context(failed)?;
    fs::write(folder.join(PAGE), output::paste_page(project, sheet)?).context(failed)
}
