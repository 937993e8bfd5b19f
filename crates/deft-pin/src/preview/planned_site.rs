//! A plan and its site, asked about one page at a time: its bytes with some pins on, and what there is to say of it.

use std::collections::{BTreeSet, HashMap};
use std::sync::{Arc, Mutex, PoisonError};

use anyhow::Result;
use deft_pin_core::code::{CodeKind, PageId, PinId};
use deft_pin_core::emit::{Embedding, Emitter, OutputFiles, PastePage, PasteUp, PieceLength, as_served};
use deft_pin_core::page::{PageAnalysis, SiteContext};
use deft_pin_core::plan::LibraryFile;
use deft_pin_core::site::{Page, Site};
use deft_pin_core::source::FilePath;
use rayon::prelude::*;

use super::choice::PinChoice;
use crate::project::Project;
use crate::releases::hash_of;

/// A plan and its site.
pub struct PlannedSite<'a> {
    /// The board with its folder.
    pub project: &'a Project,
    /// The plan, with the site.
    pub context: &'a SiteContext<'a>,
    plain: &'a SiteContext<'a>,
    files: &'a OutputFiles,
    is_pasted: bool,
    pages: HashMap<&'a str, PageId>,
    pasted: Mutex<Option<(PinChoice, Arc<PasteUp>)>>,
}

/// A page as a visitor gets it.
pub struct ServedPage {
    /// Its bytes.
    pub bytes: Vec<u8>,
    /// The same for as long as nothing changes but sheets.
    pub key: String,
    /// The names of the sheets that pins and libraries put into it.
    pub sheets: Vec<String>,
}

/// A pin, as far as one page is concerned.
pub struct PinOnPage {
    /// The pin.
    pub pin: PinId,
    /// Whether the page holds what it asks for, so that it is really there.
    pub is_on_page: bool,
    /// Selectors of what it touches.
    pub touched: Vec<String>,
}

impl<'a> PlannedSite<'a> {
    /// Makes a plan ready to be asked.
    pub fn new(
        project: &'a Project,
        context: &'a SiteContext<'a>,
        plain: &'a SiteContext<'a>,
        files: &'a OutputFiles,
        is_pasted: bool,
    ) -> Self {
        let pages = context.site().pages.entries().map(|(id, page)| (page.path.as_str(), id)).collect();
        PlannedSite { project, context, plain, files, is_pasted, pages, pasted: Mutex::new(None) }
    }

    /// The page of a path.
    pub fn find(&self, path: &str) -> Option<PageId> {
        self.pages.get(path).copied()
    }

    /// The pages of the site, each with the pins that are for it as far as its path tells.
    pub fn pages(&self) -> Vec<(String, usize)> {
        let pages = self.context.site().pages.iter();
        pages.map(|page| (page.path.to_string(), self.context.plan.pins_for(&page.path).len())).collect()
    }

    /// A page with some pins on.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn page(&self, id: PageId, choice: &PinChoice) -> Result<ServedPage> {
        let bytes = self.project.read(id)?;
        if self.is_pasted {
            let paste_up = self.paste_up(choice)?;
            let page = self.plain.page(id, &bytes);
            let served = as_served(&page, &self.plain.plan.board.host, &paste_up);
            let key = key_of(&served, &[]);
            return Ok(ServedPage { bytes: served, key, sheets: Vec::new() });
        }
        let page = self.context.page_of(id, &bytes, &|pin| choice.has(&self.project.board, pin));
        Ok(self.customised(&page, &bytes))
    }

    /// Bytes that come from elsewhere, as the page of a path with some pins on; none for a path that no page can have.
    pub fn foreign_page(&self, file: FilePath, bytes: &[u8], choice: &PinChoice) -> ServedPage {
        let site = Site::of_page(&self.context.site().root, Page::new(file));
        let context = self.context.beside(&site, &self.project.folder);
        let page = context.page_of(PageId::FIRST, bytes, &|pin| choice.has(&self.project.board, pin));
        let ServedPage { bytes, sheets, .. } = self.customised(&page, bytes);
        // What a server sends may differ each time: what the plan puts in is what counts.
        let placed: Vec<String> = page.placements().iter().map(|own| format!("{own:?}")).collect();
        let mut key = placed.join("\n").into_bytes();
        for (name, bytes) in self.files.files.iter().filter(|(name, _)| !name.ends_with(".css")) {
            key.extend_from_slice(name.as_bytes());
            key.extend_from_slice(bytes);
        }
        key.extend_from_slice(format!("{:?}", page.content()).as_bytes());
        ServedPage { bytes, key: hash_of(&key), sheets }
    }

    fn customised(&self, page: &PageAnalysis<'_>, bytes: &[u8]) -> ServedPage {
        let emitter = Emitter { plan: self.context.plan, files: self.files, embedding: Embedding::Linked };
        let emitted = emitter.page(page);
        let served = emitted.bytes().unwrap_or(bytes).to_vec();
        let styles = page.placements().iter().filter(|own| own.code.kind == CodeKind::Style);
        let sheets: Vec<String> =
            styles.filter_map(|own| Some(self.files.code(own.code)?.name.clone())).collect();
        let key = key_of(&served, &sheets);
        ServedPage { bytes: served, key, sheets }
    }

    /// What goes into the boxes of the host with some pins on. Kept until another choice is asked for.
    fn paste_up(&self, choice: &PinChoice) -> Result<Arc<PasteUp>> {
        let mut kept = self.pasted.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((_, paste_up)) = kept.as_ref().filter(|(own, _)| own == choice) {
            return Ok(Arc::clone(paste_up));
        }
        let pages: Vec<PageId> = self.context.site().pages.ids().collect();
        let is_on = |pin| choice.has(&self.project.board, pin);
        let of_page = |id: PageId| {
            let bytes = self.project.read(id)?;
            Ok(PastePage::of(&self.context.page_of(id, &bytes, &is_on)))
        };
        let pages: Result<Vec<PastePage>> = pages.into_par_iter().map(of_page).collect();
        let paste_up = Arc::new(PasteUp::new(self.context, self.files, &pages?, PieceLength::Written));
        *kept = Some((choice.clone(), Arc::clone(&paste_up)));
        Ok(paste_up)
    }

    /// The pins that are for a page as far as its path tells, with those that are off on the board.
    ///
    /// # Errors
    /// The page cannot be read.
    pub fn pins_on(&self, id: PageId) -> Result<Vec<PinOnPage>> {
        let bytes = self.project.read(id)?;
        Ok(self.pins_of(&self.context.page(id, &bytes)))
    }

    /// The same; nothing is read where no pin is for the page by its path.
    ///
    /// # Errors
    /// The page cannot be read.
    pub fn pins_if_any(&self, id: PageId) -> Result<Vec<PinOnPage>> {
        let path = &self.context.site().pages[id].path;
        match self.context.plan.pins_for(path).is_empty() {
            true => Ok(Vec::new()),
            false => self.pins_on(id),
        }
    }

    /// The same of bytes that come from elsewhere.
    pub fn foreign_pins(&self, file: FilePath, bytes: &[u8]) -> Vec<PinOnPage> {
        let site = Site::of_page(&self.context.site().root, Page::new(file));
        let context = self.context.beside(&site, &self.project.folder);
        self.pins_of(&context.page(PageId::FIRST, bytes))
    }

    /// The files of other hosts that pins and libraries load, by the directive of a policy that they come under.
    pub fn remote_needs(&self) -> Vec<(&'static str, String)> {
        let plan = self.context.plan;
        let keys = [(CodeKind::Script, "script-src-elem"), (CodeKind::Style, "style-src-elem")];
        let of_kind = |(kind, directive): (CodeKind, &'static str)| {
            let files = plan.libraries.iter().flat_map(move |library| library.files(kind));
            files.filter_map(move |file| match file {
                LibraryFile::Remote(url) => Some((directive, url.clone())),
                _ => None,
            })
        };
        keys.into_iter().flat_map(of_kind).collect()
    }

    fn pins_of(&self, page: &PageAnalysis<'_>) -> Vec<PinOnPage> {
        let plan = self.context.plan;
        let on: BTreeSet<PinId> = page.pins().iter().copied().collect();
        let path = &page.page().path;
        let pins = plan.board.pins.ids().filter(|pin| plan.would_be_for(*pin, path));
        pins.map(|pin| PinOnPage { pin, is_on_page: on.contains(&pin), touched: plan.touched(pin) }).collect()
    }
}

/// A text that is the same for as long as nothing but the sheets of pins changes on a page.
fn key_of(bytes: &[u8], sheets: &[String]) -> String {
    let mut text = String::from_utf8_lossy(bytes).into_owned();
    for sheet in sheets {
        text = text.replace(sheet.as_str(), stem(sheet));
    }
    hash_of(text.as_bytes())
}

/// The name of a sheet without the hash of what is in it.
pub fn stem(sheet: &str) -> &str {
    let name = sheet.strip_suffix(".css").unwrap_or(sheet);
    name.rsplit_once('.').map_or(name, |(stem, _)| stem)
}
