//! Watching: whenever the board, something that it names, or the site changes, the board is read anew, pages that are
//! open are told, and what a check then finds is said.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel};
use std::time::{Duration, Instant};

use anyhow::{Context as _, Result};
use deft_pin_core::code::encode_path;
use deft_pin_core::source::FilePath;
use notify::{Event, EventKind, RecommendedWatcher, RecursiveMode, Watcher as _, event::ModifyKind};
use tracing::{debug, info};

use super::live_check::changed;
use super::{Generation, Preview};
use crate::outcome::look;
use crate::output::{self, Notes};
use crate::project::{BadBoard, Project};

/// Editors write a file in several steps: what happens within this time is one change.
const QUIET: Duration = Duration::from_millis(40);
/// But nobody waits longer than this.
const LONGEST: Duration = Duration::from_millis(400);

/// What is watched, and who is told.
pub struct Watching {
    /// The preview.
    pub preview: Arc<Preview>,
    /// Reads the board anew.
    pub reopen: Arc<dyn Fn() -> Result<Project> + Send + Sync>,
    /// What is said beside.
    pub notes: Notes,
}

impl Watching {
    /// Begins to watch and to check, each in a thread of its own.
    ///
    /// # Errors
    /// Nothing can be watched here.
    pub fn start(self) -> Result<()> {
        let (checks, asked) = channel();
        let (preview, reopen, notes) = (Arc::clone(&self.preview), Arc::clone(&self.reopen), self.notes);
        std::thread::Builder::new()
            .name("check".to_owned())
            .spawn(move || check_each(&preview, &*reopen, notes, &asked))
            .context("a thread cannot be started")?;
        // Where the other thread has ended, the program has.
        let _ = checks.send(());
        let (events, changes) = channel();
        let watcher = notify::recommended_watcher(move |event| {
            let _ = events.send(event);
        });
        let mut watched =
            Watched { watcher: watcher.context("changes cannot be watched here")?, folders: BTreeSet::new() };
        watched.follow(&self.preview.current())?;
        std::thread::Builder::new()
            .name("watch".to_owned())
            .spawn(move || self.go_on(watched, &changes, &checks))
            .context("a thread cannot be started")?;
        Ok(())
    }

    fn go_on(self, mut watched: Watched, changes: &Receiver<notify::Result<Event>>, checks: &Sender<()>) {
        let mut was_bad = false;
        while let Some(paths) = next_change(changes) {
            let current = self.preview.current();
            let Some(change) = Change::of(&paths, &current) else { continue };
            debug!("changed: {paths:?}");
            let started = Instant::now();
            let making = self.preview.showing.making.clone();
            let next = (self.reopen)().and_then(|project| Generation::start(project, making));
            match next {
                Ok(next) => {
                    let _ = watched.follow(&next);
                    self.preview.replace(next, change.files, change.is_board);
                    if std::mem::take(&mut was_bad) {
                        self.notes.note("the board is good again");
                    }
                    info!("read anew in {:.0} ms", started.elapsed().as_secs_f64() * 1000.0);
                    let _ = checks.send(());
                }
                Err(error) => {
                    was_bad = true;
                    let drawn = match error.downcast_ref::<BadBoard>() {
                        Some(BadBoard(drawn)) => drawn.clone(),
                        None => output::reasons(&error),
                    };
                    output::say(&format!("{drawn}; the last good one is served on\n"));
                    self.preview.keep(output::unstyled(&drawn));
                }
            }
        }
    }
}

/// What changed, as far as it matters.
struct Change {
    /// The site's own files, by their paths in addresses.
    files: Vec<String>,
    /// Whether the board or something that it names changed.
    is_board: bool,
}

impl Change {
    /// What paths on disk that changed are for a board; none where they are nothing to it.
    fn of(paths: &BTreeSet<PathBuf>, current: &Generation) -> Option<Self> {
        let project = &current.project;
        let root = project.site_path();
        let mut change = Change { files: Vec::new(), is_board: false };
        let mut matters = false;
        for path in paths {
            let below = path.strip_prefix(project.folder.root()).ok().and_then(file_path);
            if below.is_some_and(|path| path == project.board_file || current.named.contains(&path)) {
                change.is_board = true;
                matters = true;
            }
            if let Ok(path) = path.strip_prefix(&root) {
                matters = true;
                let file = file_path(path);
                change.files.extend(file.map(|file| encode_path(&format!("/{file}"))));
            }
        }
        matters.then_some(change)
    }
}

fn file_path(path: &Path) -> Option<FilePath> {
    FilePath::parse(&path.to_str()?.replace(std::path::MAIN_SEPARATOR, "/")).ok()
}

/// The paths of the next change; none once nothing is watched any more.
fn next_change(changes: &Receiver<notify::Result<Event>>) -> Option<BTreeSet<PathBuf>> {
    let mut paths = BTreeSet::new();
    take(&mut paths, changes.recv().ok()?);
    let first = Instant::now();
    while first.elapsed() < LONGEST {
        match changes.recv_timeout(QUIET) {
            Ok(event) => take(&mut paths, event),
            Err(RecvTimeoutError::Timeout) => break,
            Err(RecvTimeoutError::Disconnected) => return None,
        }
    }
    Some(paths)
}

fn take(paths: &mut BTreeSet<PathBuf>, event: notify::Result<Event>) {
    let Ok(event) = event else { return };
    match event.kind {
        EventKind::Access(_) | EventKind::Modify(ModifyKind::Metadata(_)) => {}
        _ => paths.extend(event.paths),
    }
}

/// The folders that are watched.
struct Watched {
    watcher: RecommendedWatcher,
    folders: BTreeSet<PathBuf>,
}

impl Watched {
    /// Watches the site, and the folders of the board and of what it names.
    fn follow(&mut self, generation: &Generation) -> Result<()> {
        let project = &generation.project;
        let root = project.site_path();
        if self.folders.insert(root.clone()) {
            let watched = self.watcher.watch(&root, RecursiveMode::Recursive);
            watched.with_context(|| format!("the site's folder `{}` cannot be watched", root.display()))?;
        }
        let named = generation.named.iter().chain([&project.board_file]);
        for folder in named.map(|file| project.folder.disk_path(&file.folder())) {
            let is_in_site = folder.starts_with(&root);
            if !is_in_site && folder.is_dir() && self.folders.insert(folder.clone()) {
                // A folder that cannot be watched is one whose changes are seen later.
                let _ = self.watcher.watch(&folder, RecursiveMode::NonRecursive);
            }
        }
        Ok(())
    }
}

/// Checks each reading of the board, the latest first, and says what is new and what is gone.
fn check_each(preview: &Preview, reopen: &dyn Fn() -> Result<Project>, notes: Notes, asked: &Receiver<()>) {
    let mut is_first = true;
    while asked.recv().is_ok() {
        while asked.try_recv().is_ok() {}
        // Why a board cannot be used has been said already.
        let Ok(project) = reopen() else { continue };
        let outcome = match look(&project, notes.without_progress(), &[]) {
            Ok(outcome) => outcome,
            Err(error) => {
                output::say(&format!("the check could not go on: {}\n", output::reasons(&error)));
                continue;
            }
        };
        let (worst, words) = output::tally(&outcome.findings);
        let before = preview.found(outcome.findings.clone());
        let changed = changed(&before, &outcome.findings);
        output::say(&output::findings(&changed.new, &project.folder, false));
        for gone in &changed.gone {
            notes.note(&format!("gone: {} in {}: {}", gone.code, gone.place.file, gone.message));
        }
        let what = match (changed.new.len(), changed.gone.len()) {
            _ if std::mem::take(&mut is_first) => String::new(),
            (0, 0) => ", as before".to_owned(),
            (new, gone) => format!(", {new} new and {gone} gone"),
        };
        notes.summary(output::style_for(worst), &words, &format!("about the board{what}"));
    }
}
