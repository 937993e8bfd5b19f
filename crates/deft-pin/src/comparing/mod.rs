//! Comparing: the pages of a site as they are and with their pins, in a browser, at several widths. Several pages at
//! once, in as many browsers as there are cores; what comes of it does not depend on which browser was faster.

mod chosen_pages;
mod compared;
mod page_job;
mod pictures;

use std::collections::VecDeque;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use anyhow::{Context as _, Result};
use indicatif::ProgressBar;
use tokio::sync::Mutex;

pub use chosen_pages::{ChosenPage, Sampling, chosen_pages};
pub use compared::{ComparedPage, ComparedWidth, Everywhere, everywhere};

use crate::browser::{Driver, Window};
use page_job::PageJob;

/// What is compared, and how.
pub struct Comparison<'a> {
    /// Where the pages are served as they were, without a slash at the end.
    pub before: String,
    /// Where they are served with their pins.
    pub after: String,
    /// The widths, in CSS pixels.
    pub widths: &'a [u32],
    /// The moment that pages take for now, in seconds since 1970.
    pub moment: u64,
    /// The folder that pictures are written to.
    pub folder: &'a Path,
    /// The driver that is to be used.
    pub driver: Option<PathBuf>,
}

impl Comparison<'_> {
    /// Compares pages; what comes of them is in their order.
    ///
    /// # Errors
    /// There is no driver or no browser, or a picture cannot be written.
    pub async fn run(&self, pages: Vec<ChosenPage>, bar: ProgressBar) -> Result<Vec<ComparedPage>> {
        let driver = Arc::new(Driver::start(self.driver.as_deref()).await?);
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        let browsers = cores.min(pages.len()).max(1);
        let count = pages.len();
        let jobs = pages.into_iter().enumerate().map(|(number, page)| PageJob {
            number,
            page,
            before: self.before.clone(),
            after: self.after.clone(),
            widths: self.widths.to_vec(),
            folder: self.folder.to_owned(),
        });
        let waiting = Arc::new(Mutex::new(jobs.collect::<VecDeque<PageJob>>()));
        let mut workers = Vec::new();
        for _ in 0..browsers {
            let (driver, waiting, bar) = (Arc::clone(&driver), Arc::clone(&waiting), bar.clone());
            workers.push(tokio::spawn(work(driver, waiting, bar, self.moment)));
        }
        let mut compared = Vec::with_capacity(count);
        for worker in workers {
            compared.extend(worker.await.context("a page could not be compared")??);
        }
        compared.sort_by_key(|page: &ComparedPage| page.number);
        bar.finish_and_clear();
        Ok(compared)
    }
}

/// Compares pages in one browser for as long as some are left.
async fn work(
    driver: Arc<Driver>,
    waiting: Arc<Mutex<VecDeque<PageJob>>>,
    bar: ProgressBar,
    moment: u64,
) -> Result<Vec<ComparedPage>> {
    let mut window = Some(Window::open(&driver, moment).await?);
    let mut compared = Vec::new();
    loop {
        let next = waiting.lock().await.pop_front();
        let Some(job) = next else { break };
        let mut last = None;
        // A browser that has come to grief over a page is left; another one tries once more.
        for _ in 0..2 {
            let own = match window.take() {
                Some(own) => own,
                None => Window::open(&driver, moment).await?,
            };
            match job.run(&own).await {
                Ok(page) => {
                    window = Some(own);
                    last = Some(Ok(page));
                    break;
                }
                Err(error) => {
                    own.close().await;
                    last = Some(Err(error));
                }
            }
        }
        match last {
            Some(Ok(page)) => compared.push(page),
            Some(Err(error)) => compared.push(job.failed(&error)),
            None => {}
        }
        bar.inc(1);
    }
    if let Some(window) = window {
        window.close().await;
    }
    Ok(compared)
}
