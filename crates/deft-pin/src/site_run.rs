//! A run over a site: every page that something is to be said of is read, looked at and customised,
//! on all cores. Facts come in the order of the site and are folded as they come, so that memory
//! holds what differs, not all pages.

use std::fs::{self, File};
use std::io;
use std::path::Path;

use anyhow::{Context, Result};
use deft_pin_core::check::{Checker, Explanations, Finding, PageFacts, SiteFacts, Told};
use deft_pin_core::code::{PageId, PinId};
use deft_pin_core::emit::{Embedding, Emitter, OutputFiles, PastePage, PasteUp, PieceLength};
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::source::FilePath;
use rayon::prelude::*;
use tracing::debug;

use crate::disk::in_folder;
use crate::output::Progress;
use crate::project::Project;

/// What a run did.
#[derive(Debug)]
pub struct RunOutcome {
    /// What there is to say.
    pub findings: Vec<Finding>,
    /// How many pages had something put into them.
    pub customised: usize,
    /// How many elements were put in.
    pub placements: usize,
    /// What goes into the boxes of the host; none where files can be changed.
    pub paste_up: Option<PasteUp>,
}

/// How a run goes.
pub struct SiteRun<'a> {
    /// The board and its site.
    pub project: &'a Project,
    /// The plan.
    pub plan: &'a Plan<'a>,
    /// The files that go along.
    pub files: &'a OutputFiles,
    /// How code is put into pages.
    pub embedding: Embedding,
    /// Where to write the copy of the site; `None` to look only.
    pub into: Option<&'a Path>,
    /// How much text the code of pieces for boxes is.
    pub length: PieceLength,
    /// The pins to speak of; none named means all.
    pub pins: &'a [PinId],
}

/// How many pages are worked on before what they say is folded.
const BATCH: usize = 256;

/// What came of one page.
#[derive(Default)]
struct PageOutcome {
    facts: Option<PageFacts>,
    placements: usize,
    paste: Option<PastePage>,
}

impl SiteRun<'_> {
    /// Goes over the site.
    ///
    /// # Errors
    /// A page cannot be read, or the copy cannot be written.
    pub fn go(&self, progress: Progress) -> Result<RunOutcome> {
        let site = &self.project.site;
        let context = SiteContext::new(self.plan, site, &self.project.folder).on(self.project.today);
        let checker = match self.pins {
            [] => Checker::new(&context),
            pins => Checker::new(&context).of_pins(pins.to_vec()),
        };
        let emitter = Emitter { plan: self.plan, files: self.files, embedding: self.embedding };
        let mut facts = SiteFacts::default();
        let mut outcome = RunOutcome { findings: Vec::new(), customised: 0, placements: 0, paste_up: None };
        let mut pasted = Vec::new();
        let bar = progress.bar("pages", site.pages.len());
        let pages: Vec<PageId> = site.pages.ids().collect();
        for batch in pages.chunks(BATCH) {
            let of_page = |page: &PageId| {
                bar.inc(1);
                self.page(*page, &checker, emitter, &context)
            };
            let done: Result<Vec<PageOutcome>> = batch.par_iter().map(of_page).collect();
            for page in done? {
                outcome.customised += usize::from(page.placements > 0);
                outcome.placements += page.placements;
                page.facts.into_iter().for_each(|page| facts.add(page));
                pasted.extend(page.paste);
            }
        }
        bar.finish_and_clear();
        self.copy_others(progress)?;
        outcome.paste_up =
            context.layout.has_boxes.then(|| PasteUp::new(&context, self.files, &pasted, self.length));
        let explanations = self.explanations(&checker, &context, &facts)?;
        let told = Told { explanations: &explanations, paste_up: outcome.paste_up.as_ref() };
        outcome.findings = checker.findings(&self.project.board_file, &facts, told);
        Ok(outcome)
    }

    /// Works on one page; one that nothing is to be said of is copied as it is.
    fn page(
        &self,
        id: PageId,
        checker: &Checker<'_>,
        emitter: Emitter<'_>,
        context: &SiteContext<'_>,
    ) -> Result<PageOutcome> {
        let file = &self.project.site.pages[id].file;
        if !checker.is_for(id) {
            debug!("no pin is for the page {file}");
            self.copy(file)?;
            return Ok(PageOutcome::default());
        }
        let bytes = self.project.read(id)?;
        let page = context.page(id, &bytes);
        let emitted = emitter.page(&page);
        let facts = Some(checker.facts(&emitted));
        let is_taken = emitted.refused().is_empty();
        let placements = if is_taken { page.placements().len() + page.content_count() } else { 0 };
        if self.into.is_some() {
            self.write(file.as_str(), emitted.bytes().unwrap_or(&bytes))?;
        }
        let paste = context.layout.has_boxes.then(|| PastePage::of(&page));
        Ok(PageOutcome { facts, placements, paste })
    }

    /// Asks those pages that the findings speak of why something does not match.
    fn explanations(
        &self,
        checker: &Checker<'_>,
        context: &SiteContext<'_>,
        facts: &SiteFacts,
    ) -> Result<Explanations> {
        let questions = checker.questions(&self.project.board_file, facts);
        let asked: Vec<_> = questions.pages().collect();
        let answers: Result<Vec<_>> = asked
            .into_par_iter()
            .map(|(id, questions)| {
                let bytes = self.project.read(id)?;
                Ok((id, checker.answers(&context.page(id, &bytes), questions)))
            })
            .collect();
        let mut explanations = Explanations::default();
        answers?.into_iter().for_each(|(page, answers)| explanations.add(page, answers));
        Ok(explanations)
    }

    fn copy_others(&self, progress: Progress) -> Result<()> {
        if self.into.is_none() {
            return Ok(());
        }
        let others = &self.project.site.others;
        let bar = progress.bar("other files", others.len());
        others.par_iter().try_for_each(|file| {
            bar.inc(1);
            self.copy(file)
        })?;
        bar.finish_and_clear();
        Ok(())
    }

    fn copy(&self, file: &FilePath) -> Result<()> {
        let Some(target) = self.into.map(|into| into.join(file.as_str())) else { return Ok(()) };
        let project = self.project;
        let failed = || format!("`{file}` cannot be copied");
        let source = project.folder.open_file(&project.site.path_of(file)).with_context(failed)?;
        let copy = |target: &Path| {
            let mut copied = File::create(target)?;
            io::copy(&mut &source, &mut copied)?;
            copied.set_permissions(source.metadata()?.permissions())
        };
        in_folder(&target, copy).with_context(failed)
    }

    fn write(&self, file: &str, bytes: &[u8]) -> Result<()> {
        let Some(target) = self.into.map(|into| into.join(file)) else { return Ok(()) };
        in_folder(&target, |target| fs::write(target, bytes))
            .with_context(|| format!("`{file}` cannot be written"))
    }
}
