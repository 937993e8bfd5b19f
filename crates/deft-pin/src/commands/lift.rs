//! `lift`: the look of an element as a class of one's own.

use std::fs;
use std::path::{Component, Path, PathBuf};

use anyhow::{Context, Result, bail};
use deft_pin_core::find::{Lift as Options, PageIndex, address, lift};
use deft_pin_core::markup::parse_selectors;
use deft_pin_core::site::SheetFiles;
use deft_pin_core::source::FilePath;
use deft_pin_core::style::{Cascade, Viewport};

use super::survey::selector;
use super::why::{page_sheets_of, unmatched};
use crate::arguments::{Common, Lift};
use crate::exit::Exit;
use crate::output;
use crate::pages::Pages;

/// Lifts the look of an element.
pub fn run(common: &Common, command: &Lift) -> Result<Exit> {
    let wanted = selector(&command.selector)?;
    let name = command.name.trim_start_matches('.');
    let is_name = parse_selectors(&format!(".{name}")).is_ok_and(|list| list.slice()[0].len() == 1);
    if !is_name || name.contains(['\\', ':', '[', ' ']) {
        bail!(
            "`{}` cannot be the name of a class: letters, digits, `-` and `_`, and no digit first",
            command.name
        );
    }
    let pages = Pages::open(common, &command.place)?;
    let number = pages.find(&command.page)?;
    let folder = target_folder(&pages, command)?;
    let address_of = |file: &FilePath| {
        let path = pages.folder.disk_path(&pages.site.path_of(file));
        relative(&folder, &fs::canonicalize(&path).unwrap_or(path))
    };
    let (css, left_out) = pages.with(number, |decoded, document| {
        let page = &pages.site.pages[number];
        let sheets = page_sheets_of(&pages, number, decoded, document, &SheetFiles::default());
        let index = PageIndex::new(document);
        let Some(element) = index.matched(&wanted.list, 1).first().and_then(|id| document.element(*id))
        else {
            bail!("{}", unmatched(&command.selector, &index, &wanted.list, page.path.as_str()));
        };
        let mut cascade = Cascade::new(document, &sheets.sheets, Viewport::default(), Vec::new());
        let options =
            Options { name, resolve: command.resolve, inherited: command.inherited, address: &address_of };
        let lifted = lift(&options, &sheets, &mut cascade, element);
        let line = document.position(element, decoded.text()).line;
        let from = format!("/* From {}, line {line}: {} */\n", page.path, address(&index, element));
        let mut left_out = lifted.left_out;
        left_out.extend(sheets.unread.iter().map(|unread| format!("`{unread}`: it was not looked into")));
        Ok((from.replace("*/ */", "*/") + &lifted.css, left_out))
    })??;
    for what in left_out {
        output::warning(&what);
    }
    match &command.out {
        None => output::print(&css),
        Some(out) => {
            if fs::symlink_metadata(out).is_ok() {
                bail!("there is a file `{}` already, and it stays as it is", out.display());
            }
            fs::write(out, &css).with_context(|| format!("`{}` cannot be written", out.display()))?;
            output::note(&format!("{}: {}", out.display(), output::counted(css.lines().count(), "line")));
        }
    }
    Ok(Exit::Good)
}

/// The folder that addresses are relative to: that of the file to write, else the board's own, or
/// the one that the command is run in.
fn target_folder(pages: &Pages, command: &Lift) -> Result<PathBuf> {
    let here = || std::env::current_dir().context("the folder that this is run in cannot be read");
    match (&command.out, &command.place.site) {
        (Some(out), _) => {
            let parent = out.parent().filter(|parent| !parent.as_os_str().is_empty());
            let parent = parent.unwrap_or(Path::new("."));
            fs::canonicalize(parent).with_context(|| format!("there is no folder `{}`", parent.display()))
        }
        (None, Some(_)) => fs::canonicalize(here()?).context("this folder cannot be read"),
        (None, None) => Ok(pages.folder.root().to_owned()),
    }
}

/// The way from a folder to a file, as URLs have it.
fn relative(folder: &Path, file: &Path) -> String {
    let (from, to): (Vec<_>, Vec<_>) = (folder.components().collect(), file.components().collect());
    let shared = from.iter().zip(&to).take_while(|(a, b)| a == b).count();
    let up = from[shared..].iter().map(|_| "..".to_owned());
    let down = to[shared..].iter().filter_map(|part| match part {
        Component::Normal(name) => name.to_str().map(deft_pin_core::site::encoded_name),
        _ => None,
    });
    up.chain(down).collect::<Vec<_>>().join("/")
}
