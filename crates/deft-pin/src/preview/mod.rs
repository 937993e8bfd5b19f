//! A preview: the site with its pins, served on this machine's own address and made anew at each change, in a frame
//! that shows it at several widths.

mod answers;
mod choice;
mod foreign;
mod frame_data;
mod gate;
mod generation;
mod live_check;
mod news;
mod planned_site;
mod policy;
mod request;
mod routes;
mod server;
mod site_files;
mod upstream;
mod watching;

use std::collections::{BTreeMap, VecDeque};
use std::sync::{Arc, Mutex, PoisonError, RwLock};

use deft_pin_core::check::Finding;
use deft_pin_core::emit::OutputFiles;
use tokio::sync::{Semaphore, broadcast};

pub use choice::PinChoice;
pub use generation::{Generation, Making};
pub use planned_site::{PinOnPage, PlannedSite};
pub use server::bind;
pub use upstream::Upstream;
pub use watching::Watching;

use news::News;

/// How many readings of a board are remembered, so that pages which are still open find their files.
const REMEMBERED: usize = 4;

/// How a preview is shown.
#[derive(Clone, Debug)]
pub struct Showing {
    /// How pages are made.
    pub making: Making,
    /// Whether pages are left without the script that reloads them.
    pub is_plain: bool,
    /// Whether films and sounds are kept back: they run by a clock of their own.
    pub is_still: bool,
    /// Whether nothing is said beside what was asked for.
    pub is_quiet: bool,
    /// The pins that are on where an address does not say.
    pub choice: PinChoice,
}

/// A preview that is being served.
pub struct Preview {
    /// How it is shown.
    pub showing: Showing,
    /// The server that pages come from; none where they come from the folder.
    pub upstream: Option<Upstream>,
    current: RwLock<Arc<Generation>>,
    files: RwLock<VecDeque<Arc<OutputFiles>>>,
    state: Mutex<State>,
    news: broadcast::Sender<Arc<str>>,
    /// As many pages at once as there are cores: the others wait.
    turns: Semaphore,
}

/// What changes while a preview is served.
#[derive(Default)]
struct State {
    /// Which reading of the board is served. Those of a later run have higher numbers: a page may be open for longer.
    number: u64,
    /// The site's own files that changed, with the reading that had them first.
    changed: BTreeMap<String, u64>,
    trouble: Option<String>,
    findings: Option<Arc<Vec<Finding>>>,
    /// What was loosened of the policies of pages, by their paths.
    policies: BTreeMap<String, Vec<String>>,
}

impl Preview {
    /// A preview of a board as it is now.
    pub fn new(first: Arc<Generation>, showing: Showing, upstream: Option<Upstream>) -> Arc<Self> {
        let files = VecDeque::from([Arc::clone(&first.files)]);
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Arc::new(Preview {
            showing,
            upstream,
            current: RwLock::new(first),
            files: RwLock::new(files),
            state: Mutex::new(State { number: milliseconds_now(), ..State::default() }),
            news: broadcast::channel(64).0,
            turns: Semaphore::new(2 * cores),
        })
    }

    /// The last good reading of the board.
    pub fn current(&self) -> Arc<Generation> {
        Arc::clone(&self.current.read().unwrap_or_else(PoisonError::into_inner))
    }

    fn state(&self) -> std::sync::MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The bytes of a file of pins or libraries.
    fn file(&self, name: &str) -> Option<Vec<u8>> {
        let all = self.files.read().unwrap_or_else(PoisonError::into_inner);
        all.iter().find_map(|files| files.files.get(name).cloned())
    }

    /// Which reading of the board is served now.
    fn number(&self) -> u64 {
        self.state().number
    }

    /// The site's own files that changed after a reading.
    fn changed_since(&self, number: u64) -> Vec<String> {
        let state = self.state();
        state.changed.iter().filter(|(_, changed)| **changed > number).map(|(file, _)| file.clone()).collect()
    }

    /// Serves another reading of the board from now on, and tells the pages that are open.
    pub fn replace(&self, next: Generation, changed: Vec<String>, is_board: bool) {
        {
            let mut files = self.files.write().unwrap_or_else(PoisonError::into_inner);
            files.push_front(Arc::clone(&next.files));
            files.truncate(REMEMBERED);
        }
        *self.current.write().unwrap_or_else(PoisonError::into_inner) = Arc::new(next);
        let mut state = self.state();
        state.number += 1;
        state.trouble = None;
        let number = state.number;
        state.changed.extend(changed.iter().map(|file| (file.clone(), number)));
        let news = News { number, board: is_board, files: changed, ..News::default() };
        drop(state);
        self.tell(&news);
    }

    /// Says why the board cannot be used as it is now: what was served last is served on.
    pub fn keep(&self, trouble: String) {
        let mut state = self.state();
        state.trouble = Some(trouble.clone());
        let news = News { number: state.number, trouble: Some(trouble), ..News::default() };
        drop(state);
        self.tell(&news);
    }

    /// Takes what a check found, and gives what the one before found.
    pub fn found(&self, findings: Vec<Finding>) -> Arc<Vec<Finding>> {
        let mut state = self.state();
        let before = state.findings.replace(Arc::new(findings)).unwrap_or_default();
        let news = News { number: state.number, findings: true, ..News::default() };
        drop(state);
        self.tell(&news);
        before
    }

    fn tell(&self, news: &News) {
        if let Ok(text) = serde_json::to_string(news) {
            // Where nobody listens, nobody is told.
            let _ = self.news.send(text.into());
        }
    }
}

fn milliseconds_now() -> u64 {
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).unwrap_or_default();
    u64::try_from(now.as_millis()).unwrap_or_default()
}
