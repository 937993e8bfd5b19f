//! Publishing: the board is checked, what comes out of it is put in its place, and all of it is kept as a release.

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::time::SystemTime;

use anyhow::{Context as _, Result, bail};
use deft_pin_core::board::Board;
use deft_pin_core::check::Severity;
use deft_pin_core::source::{Day, Files as _};

use crate::arguments::{Build, Paste};
use crate::building::{BuildLook, Built, build_of};
use crate::exit::Exit;
use crate::outcome::exit_for;
use crate::output::{self, Notes};
use crate::paste_sheet::PasteSheet;
use crate::pasting::{PasteLook, Pasted, paste_again, paste_of};
use crate::project::Project;
use crate::releases::{
    FileDifference, PinChanges, Release, ReleaseFiles, Snapshot, Store, StoredFile, StoredFinding,
    StoredPage, StoredPiece, StoredUpload, differences, parts_of_page, parts_of_piece, snapshot,
};
use crate::site_run::RunOutcome;

/// Where what comes out goes: where somebody says, or else by what it is.
pub fn out_of(project: &Project, said: Option<&PathBuf>) -> PathBuf {
    let by_itself = if project.board.host.changes_files { "published" } else { "paste-up" };
    said.cloned().unwrap_or_else(|| by_itself.into())
}

/// How something is published.
pub struct Publishing<'a> {
    /// The board.
    pub project: &'a Project,
    /// Where releases are kept.
    pub store: &'a Store,
    /// What is said beside.
    pub notes: Notes,
    /// What somebody writes beside the release.
    pub note: Option<String>,
    /// The folder that it goes to.
    pub out: PathBuf,
    /// Whether it is published whatever is found.
    pub anyway: bool,
    /// What counts as a failure.
    pub fail_on: Severity,
}

/// What came of it.
pub struct Published {
    /// The release; none where nothing was published.
    pub release: Option<Release>,
    /// What was found.
    pub outcome: RunOutcome,
}

/// What changed since the release before.
pub struct SinceLast {
    /// That release; none for the first.
    pub last: Option<Release>,
    /// The pins.
    pub pins: PinChanges,
    /// The files, the board among them.
    pub files: Vec<FileDifference>,
}

impl Publishing<'_> {
    /// What changed since the last release.
    ///
    /// # Errors
    /// The board or a release cannot be read.
    pub fn since_last(&self, now: &Snapshot) -> Result<SinceLast> {
        let last = self.store.last()?;
        let none = BTreeMap::new();
        let pins = PinChanges::between(last.as_ref().map_or(&none, |last| &last.pins), &now.pins);
        let before = match &last {
            Some(last) => kept_files(self.store, last)?,
            None => BTreeMap::new(),
        };
        let mut after: BTreeMap<String, Vec<u8>> =
            now.files.iter().map(|(path, bytes)| (path.to_string(), bytes.clone())).collect();
        after.insert(self.project.board_file.to_string(), now.board.clone());
        let files = if last.is_some() { differences(&before, &after) } else { Vec::new() };
        Ok(SinceLast { last, pins, files })
    }

    /// The board as it is now, with what it names.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn snapshot(&self) -> Result<Snapshot> {
        let board = self.project.folder.read(&self.project.board_file).context("the board cannot be read")?;
        Ok(snapshot(self.project, board, &self.project.folder))
    }

    /// Publishes the board as it is now.
    ///
    /// # Errors
    /// What comes out or the release cannot be written.
    pub fn publish(&self, now: &Snapshot, since: &SinceLast) -> Result<Published> {
        let mut release = self.release(now, since, None)?;
        let outcome = match self.project.board.host.changes_files {
            true => self.build(now, &self.project.folder, &mut release)?,
            false => self.paste(now, &mut release)?,
        };
        let is_good = exit_for(&outcome, self.fail_on) != Exit::Findings || self.anyway;
        if !is_good {
            return Ok(Published { release: None, outcome });
        }
        release.findings = found(&outcome);
        self.store.write(&release)?;
        Ok(Published { release: Some(release), outcome })
    }

    /// Puts back what an earlier release published, as a new one: its pieces as they were, or the site as it is now
    /// with the pins as they were then.
    ///
    /// # Errors
    /// Something of that release is missing, or what comes out cannot be written.
    pub fn publish_again(&self, earlier: &Release, since: &SinceLast, now: &Snapshot) -> Result<Published> {
        let mut release = self.release(now, since, Some(earlier.release))?;
        let outcome = if self.project.board.host.changes_files {
            let files = ReleaseFiles::new(
                self.store,
                &self.project.folder,
                earlier,
                self.project.board.root.value.clone(),
            );
            self.build(now, &files, &mut release)?
        } else {
            release.pieces = earlier.pieces.clone();
            release.uploads = earlier.uploads.clone();
            release.by_hand = earlier.by_hand.clone();
            let text = |hash: &str| Ok(String::from_utf8_lossy(&self.store.bytes(hash)?).into_owned());
            let texts = earlier.pieces.iter().map(|piece| text(&piece.sha256)).collect::<Result<Vec<_>>>()?;
            let upload = |own: &StoredUpload| Ok((own.name.clone(), self.store.bytes(&own.sha256)?));
            let uploads = earlier.uploads.iter().map(upload).collect::<Result<Vec<_>>>()?;
            let sheet = PasteSheet::of_release(self.project, earlier, &texts, &uploads, &self.out);
            paste_again(self.project, &sheet, &uploads, &self.out, || self.keep(now))?;
            RunOutcome { findings: Vec::new(), customised: 0, placements: 0, paste_up: None }
        };
        release.findings = earlier.findings.clone();
        self.store.write(&release)?;
        Ok(Published { release: Some(release), outcome })
    }

    fn release(&self, now: &Snapshot, since: &SinceLast, undoes: Option<u32>) -> Result<Release> {
        let file = |file: String, bytes: &[u8]| StoredFile {
            file,
            sha256: crate::releases::hash_of(bytes),
            bytes: bytes.len() as u64,
        };
        Ok(Release {
            made_by: "deft-pin".to_owned(),
            version: 1,
            release: since.last.as_ref().map_or(1, |last| last.release + 1),
            time: now_in_utc(),
            note: self.note.clone(),
            host: self.project.board.host.kind.name().to_owned(),
            undoes,
            tool: env!("CARGO_PKG_VERSION").to_owned(),
            board: file(self.project.board_file.to_string(), &now.board),
            files: now.files.iter().map(|(path, bytes)| file(path.to_string(), bytes)).collect(),
            pins: now.pins.clone(),
            changes: since.pins.clone(),
            pages: Vec::new(),
            pieces: Vec::new(),
            uploads: Vec::new(),
            assets: Vec::new(),
            by_hand: serde_json::Value::Array(Vec::new()),
            findings: Vec::new(),
        })
    }

    /// Keeps the board and its files.
    fn keep(&self, now: &Snapshot) -> Result<()> {
        self.store.keep(&now.board)?;
        now.files.values().try_for_each(|bytes| self.store.keep(bytes).map(drop))
    }

    fn build(
        &self,
        now: &Snapshot,
        files: &dyn deft_pin_core::source::Files,
        release: &mut Release,
    ) -> Result<RunOutcome> {
        let mut command = Build::of(self.out.clone());
        command.anyway = self.anyway;
        command.fail_on = self.fail_on.into();
        let (mut pages, mut assets) = (Vec::new(), Vec::new());
        let look = |BuildLook { work, files: output, plan }: BuildLook<'_>| {
            self.keep(now)?;
            let site = &self.project.site;
            for page in site.pages.iter() {
                let url = page.path.url();
                let has_pin = |(_, pin): (_, &deft_pin_core::board::Pin)| pin.is_for_url(&url);
                if !self.project.board.active_pins().any(has_pin) {
                    continue;
                }
                let file = work.join(page.file.as_str());
                let bytes =
                    std::fs::read(&file).with_context(|| format!("`{}` cannot be read", file.display()))?;
                pages.push(StoredPage {
                    page: page.path.to_string(),
                    sha256: crate::releases::hash_of(&bytes),
                    parts: parts_of_page(self.project, plan, page, &bytes, self.store)?,
                });
            }
            for (name, bytes) in &output.files {
                let name = format!("{}/{name}", output.folder);
                assets.push(StoredUpload { name, sha256: self.store.keep(bytes)? });
            }
            Ok(())
        };
        let Built { outcome, .. } = build_of(self.project, files, self.notes, &command, look)?;
        release.pages = pages;
        release.assets = assets;
        Ok(outcome)
    }

    fn paste(&self, now: &Snapshot, release: &mut Release) -> Result<RunOutcome> {
        let mut command = Paste::of(self.out.clone());
        command.anyway = self.anyway;
        command.fail_on = self.fail_on.into();
        let look = |look: PasteLook<'_>| {
            self.keep(now)?;
            let PasteLook { sheet, uploads, paste_up, plan } = look;
            for (row, piece) in sheet.rows.iter().zip(&paste_up.pieces) {
                let sha256 = self.store.keep(row.text.as_bytes())?;
                let more = serde_json::json!({
                    "where": row.reach.name(), "pages": row.pages, "slot": row.slot, "takes": row.takes.name(),
                    "characters": row.characters, "pins": row.pins, "libraries": row.libraries, "only": row.only,
                    "patterns": row.patterns, "not_on": row.but,
                });
                let more = more.as_object().cloned().unwrap_or_default();
                release.pieces.push(StoredPiece {
                    piece: row.name.clone(),
                    file: row.file.clone(),
                    sha256,
                    parts: parts_of_piece(self.project, plan, piece, self.store)?,
                    more,
                });
            }
            for (name, bytes) in uploads {
                release.uploads.push(StoredUpload { name: name.clone(), sha256: self.store.keep(bytes)? });
            }
            release.by_hand = serde_json::to_value(&sheet.marks)?;
            Ok(())
        };
        let Pasted { outcome, .. } = paste_of(self.project, self.notes, &command, look)?;
        Ok(outcome)
    }
}

/// The project with the board of a release.
///
/// # Errors
/// The board cannot be read by this version, or is for another site.
pub fn as_it_was(working: Project, board: &[u8], release: &Release) -> Result<Project> {
    let text = std::str::from_utf8(board).context("the board of that release is no text")?;
    let board = match Board::parse(text) {
        Ok(board) => Board { file: working.board_file.clone(), ..board },
        Err(mistakes) => bail!(
            "the board of release {} cannot be read by this version of Deft Pin ({} mistakes); it was made by {}",
            release.release,
            mistakes.len(),
            release.tool
        ),
    };
    if board.root.value != working.board.root.value {
        bail!(
            "release {} was made for the site `{}`, and the board is for `{}` now",
            release.release,
            *board.root,
            *working.board.root
        );
    }
    Ok(Project { board, ..working })
}

/// The files of a release with their bytes, the board among them.
///
/// # Errors
/// Something of it is missing.
pub fn kept_files(store: &Store, release: &Release) -> Result<BTreeMap<String, Vec<u8>>> {
    let all = release.files.iter().chain([&release.board]);
    all.map(|own| Ok((own.file.clone(), store.bytes(&own.sha256)?))).collect()
}

fn found(outcome: &RunOutcome) -> Vec<StoredFinding> {
    let row = |finding: &deft_pin_core::check::Finding| StoredFinding {
        code: finding.code.name().to_owned(),
        severity: finding.severity.name().to_owned(),
        message: finding.message.clone(),
        place: output::place(finding),
    };
    outcome.findings.iter().map(row).collect()
}

/// Writes the site as it is now with the pins of a release into a folder.
///
/// # Errors
/// Something of the release is missing, or it cannot be written.
pub fn build_release(
    working: Project,
    store: &Store,
    release: &Release,
    notes: Notes,
    out: PathBuf,
) -> Result<()> {
    let board = store.bytes(&release.board.sha256)?;
    let project = as_it_was(working, &board, release)?.changing_files();
    let files = ReleaseFiles::new(store, &project.folder, release, project.board.root.value.clone());
    let mut command = Build::of(out);
    command.anyway = true;
    build_of(&project, &files, notes, &command, |_| Ok(())).map(drop)
}

/// The time that it is, in UTC (RFC 3339).
fn now_in_utc() -> String {
    let since = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
    let (year, month, day) = Day::of_time(since.as_secs_f64() * 1000.0).date();
    let second = since.as_secs() % 86_400;
    format!("{year:04}-{month:02}-{day:02}T{:02}:{:02}:{:02}Z", second / 3600, second / 60 % 60, second % 60)
}
