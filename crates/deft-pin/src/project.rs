//! A site opened for work: a board with its site, or a folder of pages as it stands. Every command
//! starts from here.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use anyhow::{Context, Result, bail};
use deft_pin_core::board::{Board, Host};
use deft_pin_core::check::{Keeping, asked_on};
use deft_pin_core::code::{PageId, PinId};
use deft_pin_core::markup::excess;
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::{Page, ParsedPage, Site};
use deft_pin_core::source::{Day, FilePath, Files, nearest, utf8_text};
use rayon::prelude::*;
use tracing::{debug, info};

use crate::arguments::{Common, Where};
use crate::folder::Folder;
use crate::output::{self, Notes, Progress};

/// A board, the folder that it is in, and its site.
#[derive(Debug)]
pub struct Project {
    /// The folder that files are reached through: the board's, or the site's own.
    pub folder: Folder,
    /// The board's file, as seen from its folder.
    pub board_file: FilePath,
    /// The board; a bare one for a folder of pages as it stands.
    pub board: Board,
    /// The site.
    pub site: Site,
    /// The day that dates are held against.
    pub today: Day,
}

/// A board that cannot be used, with its mistakes drawn.
#[derive(Debug, thiserror::Error)]
#[error("the board cannot be used")]
pub struct BadBoard(pub String);

impl Project {
    /// Opens the site that the arguments name: a board's, or a folder as it stands.
    ///
    /// # Errors
    /// The folder or the board cannot be read, or there is no page.
    pub fn open(common: &Common, place: &Where) -> Result<Self> {
        let project = match &place.site {
            Some(dir) => Project::of_folder(dir, Notes::of(common))?,
            None => Project::of_board(&common.board, Notes::of(common))?,
        };
        if project.site.pages.is_empty() {
            bail!("there is no page in the site: no file ends in .html or .htm");
        }
        Ok(project.on(common.today))
    }

    /// The same on another day than today.
    pub fn on(self, day: Option<Day>) -> Self {
        let today = day.unwrap_or(self.today);
        Project { today, ..self }
    }

    /// The same as if whole files could be changed on its host.
    pub fn changing_files(mut self) -> Self {
        if !self.board.host.changes_files {
            self.board.host = Host::default();
        }
        self
    }

    /// Holds that the host of the board has boxes to paste into.
    ///
    /// # Errors
    /// Whole files can be changed there.
    pub fn require_boxes(&self) -> Result<()> {
        if self.board.host.changes_files {
            bail!(
                "on this host whole files can be changed, so that nothing is pasted: leave --pasted away. A host with boxes is named on the board: `kind = \"page-slots\"` under `[host]`, or another of its kinds"
            );
        }
        Ok(())
    }

    /// Says that whole files cannot be changed on the host of the board.
    pub fn note_boxes(&self, notes: Notes) {
        if !self.board.host.changes_files {
            let kind = self.board.host.kind.name();
            notes.note(&format!(
                "on `{kind}` files cannot be changed: this is what the pages would be if they could. `deft-pin paste` writes what to paste"
            ));
        }
    }

    /// Opens a folder of pages as it stands.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn of_folder(dir: &Path, notes: Notes) -> Result<Self> {
        if dir.is_file() {
            bail!("`{}` is a file; a site is a folder of pages", dir.display());
        }
        let folder =
            Folder::open(dir).with_context(|| format!("the folder `{}` cannot be read", dir.display()))?;
        let root = FilePath::root();
        let site = list(&folder, &root, notes)?;
        Ok(Project { folder, board_file: root.clone(), board: Board::bare(root), site, today: today() })
    }

    /// Opens a board and lists its site.
    ///
    /// # Errors
    /// The board or the site cannot be read; or the board has mistakes, which come drawn ([`BadBoard`]).
    pub fn of_board(path: &Path, notes: Notes) -> Result<Self> {
        let shown = path.display();
        let parent = path.parent().unwrap_or(Path::new(""));
        let name = path.file_name().and_then(|name| name.to_str());
        let Some(name) = name.filter(|_| !path.is_dir()) else {
            bail!("`{shown}` is no board: a board is a file, `deft-pin.toml` by custom");
        };
        let folder = match Folder::open(parent) {
            Ok(folder) => folder,
            Err(_) if !parent.exists() => bail!("there is no folder `{}` to hold a board", parent.display()),
            Err(error) => {
                return Err(error)
                    .with_context(|| format!("the folder `{}` cannot be read", parent.display()));
            }
        };
        let board_file = FilePath::parse(name).with_context(|| format!("`{shown}` is no file name"))?;
        if !path.exists() {
            bail!(
                "there is no board `{shown}` here; `deft-pin init SITE` writes one, `--board FILE` names another (`survey` and `locate` take `--site DIR` instead)"
            );
        }
        let bytes =
            folder.read(&board_file).with_context(|| format!("the board `{shown}` cannot be read"))?;
        let text = utf8_text(bytes)
            .map_err(|at| anyhow::anyhow!("the board `{shown}` is not in UTF-8 (byte {at})"))?;
        let board = match Board::parse(&text) {
            Ok(board) => board,
            Err(mistakes) => {
                return Err(BadBoard(output::mistakes(&shown.to_string(), &text, &mistakes)).into());
            }
        };
        info!("read the board {shown}: {} pins, {} libraries", board.pins.len(), board.libraries.len());
        for pin in board.pins.iter().filter(|pin| pin.off) {
            info!("left out the pin {}: it is off", *pin.name);
        }
        if let Some(wrong) = wrong_root(&folder, &board) {
            let message = format!("the site's folder `{}` {wrong}", *board.root);
            let drawn = output::mistake_at(&shown.to_string(), &text, board.root.span, &message);
            return Err(BadBoard(drawn).into());
        }
        let site = list(&folder, &board.root, notes)?;
        let board = Board { file: board_file.clone(), ..board };
        Ok(Project { folder, board_file, board, site, today: today() })
    }

    /// The plan of the board, with what its pages ask pins' scripts for; what the board names is read from `named`.
    ///
    /// # Errors
    /// A page cannot be read.
    pub fn plan(&self, named: &dyn Files) -> Result<Plan<'_>> {
        let plan = Plan::new(&self.board, named);
        let mut keeping = Keeping::of(&plan);
        if !keeping.is_settled() {
            let pages = &self.site.pages;
            let named_by = |id: PageId| match plan.pins_for(&pages[id].path).is_empty() {
                true => Ok(BTreeSet::new()),
                false => Ok(keeping.named_by(&self.read(id)?)),
            };
            let ids: Vec<PageId> = pages.ids().collect();
            let codes: Result<Vec<BTreeSet<String>>> = ids.par_iter().map(|id| named_by(*id)).collect();
            let named = ids.into_iter().zip(codes?);
            let looked_at: Vec<PageId> = named
                .filter(|(id, codes)| keeping.may_ask(&pages[*id].path, codes))
                .map(|(id, _)| id)
                .collect();
            let context = SiteContext::new(&plan, &self.site, &self.folder).on(self.today);
            let asked: Result<Vec<_>> =
                looked_at.par_iter().map(|id| Ok(asked_on(&context.page(*id, &self.read(*id)?)))).collect();
            asked?.into_iter().for_each(|asked| keeping.add(asked));
        }
        let asked = keeping.into_asked();
        Ok(if asked.is_empty() { plan } else { Plan::giving(&self.board, named, &asked) })
    }

    /// The site's folder on disk.
    pub fn site_path(&self) -> PathBuf {
        self.folder.disk_path(&self.site.root)
    }

    /// The page that is given by its path or its file.
    ///
    /// # Errors
    /// There is no such page; the nearest one is named.
    pub fn find(&self, wanted: &str) -> Result<PageId> {
        let pages = &self.site.pages;
        let slashed = format!("/{}", wanted.trim_start_matches("./").trim_start_matches('/'));
        let is_it = |page: &Page| {
            page.path.as_str() == wanted
                || page.path.as_str() == slashed
                || page.path.as_str().strip_suffix('/') == Some(&slashed)
                || page.file.as_str() == &slashed[1..]
                || self.site.path_of(&page.file).as_str() == &slashed[1..]
        };
        if let Some(found) = pages.find(is_it) {
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

    /// The pin that is given by its name.
    ///
    /// # Errors
    /// There is no such pin; the nearest one is named.
    pub fn pin(&self, name: &str) -> Result<PinId> {
        let pins = &self.board.pins;
        let near = || nearest(name, pins.iter().map(|pin| pin.name.as_str()));
        pins.find(|pin| *pin.name == *name).with_context(|| {
            let hint = near().map(|near| format!("; did you mean `{near}`?")).unwrap_or_default();
            format!("the board has no pin `{name}`{hint}")
        })
    }

    /// The bytes of a page.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn read(&self, page: PageId) -> Result<Vec<u8>> {
        let file = &self.site.pages[page].file;
        debug!("reading the page {file}");
        let bytes = self.folder.read(&self.site.path_of(file));
        let bytes = bytes.with_context(|| format!("the page `{file}` cannot be read"))?;
        if let Some(what) = excess(&bytes) {
            bail!(
                "the page `{file}` has {what}, which is too much to be looked into; take it out of the site's folder"
            );
        }
        Ok(bytes)
    }

    /// Reads and parses a page, and does something with it.
    ///
    /// # Errors
    /// It cannot be read.
    pub fn with<T>(&self, page: PageId, act: impl FnOnce(&ParsedPage<'_>) -> T) -> Result<T> {
        let bytes = self.read(page)?;
        Ok(act(&ParsedPage::new(&self.site.pages[page], &bytes)))
    }

    /// Does something with every page, on all cores; what comes of it is in the order of the site.
    ///
    /// # Errors
    /// A page cannot be read.
    pub fn each<T: Send>(
        &self,
        progress: Progress,
        act: impl Fn(PageId, &ParsedPage<'_>) -> T + Sync,
    ) -> Result<Vec<T>> {
        let bar = progress.bar("pages", self.site.pages.len());
        let pages: Vec<PageId> = self.site.pages.ids().collect();
        let all = pages.into_par_iter().map(|page| {
            let done = self.with(page, |parsed| act(page, parsed));
            bar.inc(1);
            done
        });
        let all = all.collect();
        bar.finish_and_clear();
        all
    }
}

/// Lists a site, and tells what is left out of it.
fn list(folder: &Folder, root: &FilePath, notes: Notes) -> Result<Site> {
    let listing = folder.walk(root).with_context(|| format!("the site's folder `{root}` cannot be read"))?;
    notes.left_out(&listing, folder.root());
    let site = Site::new(root, listing.files);
    info!("listed the site {root}: {} pages, {} other files", site.pages.len(), site.others.len());
    Ok(site)
}

/// What is wrong with the folder of a board's site.
fn wrong_root(folder: &Folder, board: &Board) -> Option<&'static str> {
    let root = folder.disk_path(&board.root);
    match std::fs::canonicalize(&root) {
        Err(_) if std::fs::symlink_metadata(&root).is_ok() => Some("is a link that leads nowhere"),
        Err(_) => Some("is not there"),
        Ok(real) if !real.starts_with(folder.root()) => {
            Some("is a link that leads out of the board's folder")
        }
        Ok(real) if !real.is_dir() => Some("is a file, and a site is a folder of pages"),
        Ok(_) => None,
    }
}

/// The day that it is, by the clock of this machine (UTC).
fn today() -> Day {
    let since = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
    Day::of_time(since.as_secs_f64() * 1000.0)
}
