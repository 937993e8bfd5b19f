//! The pages that a command looks at: a board's site, or a folder as it stands.

use std::path::Path;

use anyhow::{Context, Result, bail};
use deft_pin_core::board::Board;
use deft_pin_core::markup::{Document, parse};
use deft_pin_core::site::{Page, Site};
use deft_pin_core::source::{Decoded, FilePath, Files as _, nearest};
use rayon::prelude::*;

use crate::arguments::{Common, Where};
use crate::folder::Folder;
use crate::output::{self, Progress};
use crate::project::Project;

/// A site on disk.
#[derive(Debug)]
pub struct Pages {
    /// The folder that its files are reached through.
    pub folder: Folder,
    /// The site.
    pub site: Site,
    /// The board, where it is one's site.
    pub board: Option<Board>,
}

impl Pages {
    /// Opens the site that the arguments name.
    ///
    /// # Errors
    /// The folder or the board cannot be read, or there is no page.
    pub fn open(common: &Common, place: &Where) -> Result<Self> {
        let pages = match &place.site {
            Some(dir) => Pages::of_folder(dir)?,
            None => {
                let project = Project::open(&common.board)?;
                Pages { folder: project.folder, site: project.site, board: Some(project.board) }
            }
        };
        if pages.site.pages.is_empty() {
            bail!("there is no page in the site: no file ends in .html or .htm");
        }
        Ok(pages)
    }

    fn of_folder(dir: &Path) -> Result<Self> {
        if dir.is_file() {
            bail!("`{}` is a file; a site is a folder of pages", dir.display());
        }
        let folder =
            Folder::open(dir).with_context(|| format!("the folder `{}` cannot be read", dir.display()))?;
        let listing = folder.walk(&FilePath::root())?;
        output::left_out(&listing, folder.root());
        Ok(Pages { site: Site::new(&FilePath::root(), listing.files), folder, board: None })
    }

    /// The place in the site's list of a page that is given by its path or its file.
    ///
    /// # Errors
    /// There is no such page; the nearest one is named.
    pub fn find(&self, wanted: &str) -> Result<usize> {
        let pages = &self.site.pages;
        let slashed = format!("/{}", wanted.trim_start_matches("./").trim_start_matches('/'));
        let is_it = |page: &Page| {
            page.path.as_str() == wanted
                || page.path.as_str() == slashed
                || page.path.as_str().strip_suffix('/') == Some(&slashed)
                || page.file.as_str() == slashed[1..].to_owned()
                || self.site.path_of(&page.file).as_str() == slashed[1..].to_owned()
        };
        if let Some(found) = pages.iter().position(is_it) {
            return Ok(found);
        }
        let near = nearest(&slashed, pages.iter().map(|page| page.path.as_str()));
        let under =
            || pages.iter().map(|page| page.path.as_str()).find(|path| path.contains(slashed.as_str()));
        let hint = near.or_else(under).map(|near| format!("; did you mean `{near}`?"));
        bail!(
            "there is no page `{wanted}`{}",
            hint.unwrap_or_else(|| "; `deft-pin survey` lists them".to_owned())
        )
    }

    /// Reads and parses a page, and does something with it.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn with<T>(&self, page: usize, act: impl FnOnce(&Decoded, &Document) -> T) -> Result<T> {
        let file = &self.site.pages[page].file;
        let bytes = self
            .folder
            .read(&self.site.path_of(file))
            .with_context(|| format!("the page `{file}` cannot be read"))?;
        let (decoded, document) = parse(&bytes);
        Ok(act(&decoded, &document))
    }

    /// Does something with every page, on all cores; what comes of it is in the order of the site.
    ///
    /// # Errors
    /// A page cannot be read.
    pub fn each<T: Send>(
        &self,
        progress: Progress,
        act: impl Fn(usize, &Decoded, &Document) -> T + Sync,
    ) -> Result<Vec<T>> {
        let bar = progress.bar("pages", self.site.pages.len());
        let all = (0..self.site.pages.len()).into_par_iter().map(|page| {
            let done = self.with(page, |decoded, document| act(page, decoded, document));
            bar.inc(1);
            done
        });
        let all = all.collect();
        bar.finish_and_clear();
        all
    }
}
