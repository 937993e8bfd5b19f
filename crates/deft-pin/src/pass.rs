//! One pass over a site: every page that some pin is for is read, looked at and customised, on
//! all cores, and what comes of it is told in the order of the site.

use std::fs;
use std::io;
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};

use anyhow::{Context, Result};
use deft_pin_core::check::{Finding, Ground, findings, tells_pages_apart};
use deft_pin_core::emit::{Assets, Manner, Run};
use deft_pin_core::find::{Feature, features};
use deft_pin_core::markup::parse;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Page;
use rayon::prelude::*;

use crate::output::Progress;
use crate::project::Project;

/// What a pass did.
#[derive(Debug)]
pub struct Passed {
    /// What there is to say.
    pub findings: Vec<Finding>,
    /// Execution many pages had something put into them.
    pub customised: usize,
    /// Execution many elements were put in.
    pub placements: usize,
}

/// Execution a pass goes.
pub struct Pass<'a> {
    /// The board and its site.
    pub project: &'a Project,
    /// The plan.
    pub plan: &'a Plan<'a>,
    /// The files that go along.
    pub assets: &'a Assets,
    /// Execution code is put into pages.
    pub manner: Manner,
    /// Where to write the copy of the site; `None` to look only.
    pub into: Option<&'a Path>,
}

impl Pass<'_> {
    /// Goes over the site.
    ///
    /// # Errors
    /// A page cannot be read, or the copy cannot be written.
    pub fn go(&self, progress: &Progress) -> Result<Passed> {
        let site = &self.project.site;
        let run = Run::new(self.plan, site, &self.project.folder, self.assets, self.manner);
        let (customised, placements) = (AtomicUsize::new(0), AtomicUsize::new(0));
        let bar = progress.bar("pages", site.pages.len());
        let facts: Result<Vec<_>> = (0..site.pages.len())
            .into_par_iter()
            .map(|page| {
                let file = &site.pages[page].file;
                let pins = run.pins_for(page);
                let mut facts = None;
                if pins.is_empty() {
                    self.copy(file.as_str())?;
                } else {
                    // The listing has seen to it that the file is inside.
                    let bytes = fs::read(self.project.site_path().join(file.as_str()))
                        .with_context(|| format!("the page `{file}` cannot be read"))?;
                    let outcome = run.page(page, &bytes, &pins);
                    customised.fetch_add(usize::from(outcome.bytes.is_some()), Ordering::Relaxed);
                    placements.fetch_add(outcome.placements, Ordering::Relaxed);
                    self.write(file.as_str(), outcome.bytes.as_deref().unwrap_or(&bytes))?;
                    facts = Some(outcome.facts);
                }
                bar.inc(1);
                Ok(facts)
            })
            .collect();
        bar.finish_and_clear();
        let facts: Vec<_> = facts?.into_iter().flatten().collect();
        if self.into.is_some() {
            let bar = progress.bar("other files", site.others.len());
            site.others.par_iter().try_for_each(|file| {
                bar.inc(1);
                self.copy(file.as_str())
            })?;
            bar.finish_and_clear();
        }
        let features = self.features()?;
        let ground = Ground {
            board_file: &self.project.board_file,
            plan: self.plan,
            site,
            facts: &facts,
            features: &features,
        };
        Ok(Passed {
            findings: findings(&ground),
            customised: customised.into_inner(),
            placements: placements.into_inner(),
        })
    }

    /// What every page says of itself, on hosts where pages have to be told apart.
    fn features(&self) -> Result<Vec<Vec<Feature>>> {
        if !tells_pages_apart(self.project.board.host) {
            return Ok(Vec::new());
        }
        let of_page = |page: &Page| {
            let bytes = fs::read(self.project.site_path().join(page.file.as_str()))
                .with_context(|| format!("the page `{}` cannot be read", page.file))?;
            Ok(features(&parse(&bytes).1))
        };
        self.project.site.pages.par_iter().map(of_page).collect()
    }

    fn copy(&self, file: &str) -> Result<()> {
        let Some(target) = self.into.map(|into| into.join(file)) else { return Ok(()) };
        let source = self.project.site_path().join(file);
        in_folder(&target, |target| fs::copy(&source, target).map(drop))
            .with_context(|| format!("`{file}` cannot be copied"))
    }

    fn write(&self, file: &str, bytes: &[u8]) -> Result<()> {
        let Some(target) = self.into.map(|into| into.join(file)) else { return Ok(()) };
        in_folder(&target, |target| fs::write(target, bytes))
            .with_context(|| format!("`{file}` cannot be written"))
    }
}

/// Does something with a file; where its folder is missing, makes that and does it again.
pub fn in_folder(target: &Path, act: impl Fn(&Path) -> io::Result<()>) -> io::Result<()> {
    match act(target) {
        Err(error) if error.kind() == io::ErrorKind::NotFound => {
            if let Some(folder) = target.parent() {
                fs::create_dir_all(folder)?;
            }
            act(target)
        }
        done => done,
    }
}
