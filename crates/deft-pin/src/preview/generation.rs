//! One reading of a board and its site. A plan borrows from its board, so both are kept by threads of their own, and
//! whoever wants to know something hands them a question.

use std::collections::BTreeSet;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;

use anyhow::{Context as _, Result};
use deft_pin_core::board::Board;
use deft_pin_core::emit::OutputFiles;
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::source::FilePath;
use tokio::sync::oneshot;

use super::planned_site::PlannedSite;
use crate::folder::Folder;
use crate::noted_files::NotedFiles;
use crate::project::Project;

type Question = Box<dyn FnOnce(&PlannedSite<'_>) + Send>;

/// How pages are made.
#[derive(Clone, Debug)]
pub struct Making {
    /// The folder that the files of pins are served under.
    pub folder: String,
    /// Whether pages are shown as the host of the board would serve them, with its boxes filled.
    pub is_pasted: bool,
}

/// One reading of a board and its site.
pub struct Generation {
    /// The board as it was read.
    pub project: Arc<Project>,
    /// The files of its pins and libraries, as they are served.
    pub files: Arc<OutputFiles>,
    /// The files that the board names, as seen from its folder.
    pub named: BTreeSet<FilePath>,
    /// The site's folder, which nothing is served from outside of.
    pub site_folder: Folder,
    questions: Sender<Question>,
}

impl Generation {
    /// Plans the pins of a project, and makes threads ready to answer.
    ///
    /// # Errors
    /// The site's folder cannot be read, or there are no threads to be had.
    pub fn start(project: Project, making: Making) -> Result<Self> {
        let project = if making.is_pasted { project } else { project.changing_files() };
        let project = Arc::new(project);
        let site_folder = Folder::open(&project.site_path()).context("the site's folder cannot be read")?;
        let (questions, waiting) = channel();
        let (ready, made) = channel();
        let own = Arc::clone(&project);
        let keep = move || keep(&own, making, waiting, &ready);
        thread::Builder::new().name("plan".to_owned()).spawn(keep).context("a thread cannot be started")?;
        let (files, named) = made.recv().context("the board could not be put in order")?;
        Ok(Generation { project, files, named, site_folder, questions })
    }

    /// What the threads answer; none where they came to no answer.
    pub async fn ask<T: Send + 'static>(
        &self,
        question: impl FnOnce(&PlannedSite<'_>) -> T + Send + 'static,
    ) -> Option<T> {
        let (answer, answered) = oneshot::channel();
        let ask = move |site: &PlannedSite<'_>| {
            // Nobody may wait any more.
            let _ = answer.send(question(site));
        };
        self.questions.send(Box::new(ask)).ok()?;
        answered.await.ok()
    }
}

/// Keeps a plan for as long as there are questions.
fn keep(
    project: &Project,
    making: Making,
    questions: Receiver<Question>,
    ready: &Sender<(Arc<OutputFiles>, BTreeSet<FilePath>)>,
) {
    let board = &project.board;
    let noted = NotedFiles::new(&project.folder);
    // A page that cannot be read is told where it is asked for.
    let plan = project.plan(&noted).unwrap_or_else(|_| Plan::new(board, &noted));
    let mut files = OutputFiles::new(&plan, &making.folder);
    files.drop_integrity();
    let files = Arc::new(files);
    let context = SiteContext::new(&plan, &project.site, &project.folder).on(project.today);
    let plain_board = Board { host: board.host.clone(), ..Board::bare(board.root.value.clone()) };
    let plain_plan = Plan::new(&plain_board, &project.folder);
    let plain = SiteContext::new(&plain_plan, &project.site, &project.folder);
    let site = PlannedSite::new(project, &context, &plain, &files, making.is_pasted);
    let named = noted.read_so_far();
    if ready.send((Arc::clone(&files), named)).is_err() {
        return;
    }
    // One thread at a time waits for a question, and the others for that one.
    let questions = Mutex::new(questions);
    let next = || questions.lock().unwrap_or_else(PoisonError::into_inner).recv().ok();
    let answer = || {
        while let Some(question) = next() {
            // A question that fails is dropped, and whoever asked sees that there is no answer.
            let _ = catch_unwind(AssertUnwindSafe(|| question(&site)));
        }
    };
    let threads = thread::available_parallelism().map_or(2, usize::from);
    thread::scope(|scope| {
        for _ in 1..threads {
            // Where there are no more threads, those that are there do.
            let _ = thread::Builder::new().spawn_scoped(scope, answer);
        }
        answer();
    });
}
