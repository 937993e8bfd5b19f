//! A board and its site, opened: what every command that works with a board starts from.

use std::path::{Path, PathBuf};

use anyhow::{Context, Result, bail};
use deft_pin_core::board::Board;
use deft_pin_core::site::Site;
use deft_pin_core::source::{FilePath, Files as _};

use crate::folder::Folder;
use crate::output;

/// A board, the folder that it is in, and its site.
#[derive(Debug)]
pub struct Project {
    /// The board's folder.
    pub folder: Folder,
    /// The board's file, as seen from its folder.
    pub board_file: FilePath,
    /// The board.
    pub board: Board,
    /// The site.
    pub site: Site,
}

/// A board that could not be read has been shown already, with its mistakes.
#[derive(Debug, thiserror::Error)]
#[error("the board cannot be used")]
pub struct BadBoard;

impl Project {
    /// Opens a board and lists its site.
    ///
    /// # Errors
    /// The board or the site cannot be read; or the board has mistakes, which have been shown.
    pub fn open(path: &Path) -> Result<Self> {
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
        let text = String::from_utf8(bytes).map_err(|error| {
            anyhow::anyhow!("the board `{shown}` is not in UTF-8 (byte {})", error.utf8_error().valid_up_to())
        })?;
        let board = match Board::parse(&text) {
            Ok(board) => board,
            Err(mistakes) => {
                output::mistakes(&shown.to_string(), &text, &mistakes);
                return Err(BadBoard.into());
            }
        };
        let site = list_site(&folder, &board, &shown.to_string(), &text)?;
        Ok(Project { folder, board_file, board, site })
    }

    /// The site's folder on disk.
    pub fn site_path(&self) -> PathBuf {
        self.folder.disk_path(&self.site.root)
    }
}

fn list_site(folder: &Folder, board: &Board, shown: &str, text: &str) -> Result<Site> {
    let root = folder.disk_path(&board.root);
    let wrong = match std::fs::canonicalize(&root) {
        Err(_) if std::fs::symlink_metadata(&root).is_ok() => Some("is a link that leads nowhere"),
        Err(_) => Some("is not there"),
        Ok(real) if !real.starts_with(folder.root()) => {
            Some("is a link that leads out of the board's folder")
        }
        Ok(real) if !real.is_dir() => Some("is a file, and a site is a folder of pages"),
        Ok(_) => None,
    };
    if let Some(wrong) = wrong {
        output::mistake_at(
            shown,
            text,
            board.root.span,
            &format!("the site's folder `{}` {wrong}", *board.root),
        );
        return Err(BadBoard.into());
    }
    let listing = folder
        .walk(&board.root)
        .with_context(|| format!("the site's folder `{}` cannot be read", *board.root))?;
    output::left_out(&listing, folder.root());
    Ok(Site::new(&board.root, listing.files))
}
