//! `lift`: the look of an element as a class of one's own.

use std::fs;
use std::path::{Component, Path, PathBuf};

use anyhow::{Context, Result, bail};
use deft_pin_core::find::{Lift as Options, PageIndex, address, lift};
use deft_pin_core::markup::parse_selectors;
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::source::FilePath;
use deft_pin_core::style::{Cascade, Viewport};

use crate::arguments::{Common, Lift};
use crate::asked::{selector, unmatched};
use crate::disk::{or_here, write_new};
use crate::exit::Exit;
use crate::output::{self, Notes};
use crate::project::Project;

/// Lifts the look of an element.
pub fn run(common: &Common, command: &Lift) -> Result<Exit> {
    let notes = Notes::of(common);
    let wanted = selector(&command.selector)?;
    let name = command.name.trim_start_matches('.');
    let is_name = parse_selectors(&format!(".{name}")).is_ok_and(|list| list.slice()[0].len() == 1);
    if !is_name || name.contains(['\\', ':', '[', ' ']) {
        bail!(
            "`{}` cannot be the name of a class: letters, digits, `-` and `_`, and no digit first",
            command.name
        );
    }
    let project = Project::open(common, &command.place)?;
    let id = project.find(&command.page)?;
    let folder = target_folder(&project, command)?;
    let address_of = |file: &FilePath| {
        let path = project.folder.disk_path(&project.site.path_of(file));
        relative(&folder, &fs::canonicalize(&path).unwrap_or(path))
    };
    let bytes = project.read(id)?;
    let plan = Plan::new(&project.board, &project.folder);
    let context = SiteContext::new(&plan, &project.site, &project.folder);
    let page = context.page(id, &bytes);
    let (sheets, document) = (page.sheets(), page.document());
    let path = page.page().path.as_str();
    let index = PageIndex::new(document);
    let Some(element) = index.matched(&wanted.list, 1).first().and_then(|id| document.element(*id)) else {
        bail!("{}", unmatched(&command.selector, &index, &wanted.list, path));
    };
    let mut cascade = Cascade::new(document, &sheets.sheets, Viewport::default(), Vec::new());
    let options =
        Options { name, resolve: command.resolve, inherited: command.inherited, address: &address_of };
    let lifted = lift(&options, sheets, &mut cascade, element);
    let line = page.parsed().line_of(element);
    // Both may hold what would end the comment.
    let from = format!("From {path}, line {line}: {}", address(&index, element)).replace("*/", "*\\/");
    let css = format!("/* {from} */\n{}", lifted.css);
    let mut left_out = lifted.left_out;
    left_out.extend(sheets.unread.iter().map(|unread| format!("`{unread}`: it was not looked into")));
    for what in left_out {
        notes.warning(&what);
    }
    lifted.remarks.iter().for_each(|remark| notes.note(remark));
    match &command.out {
        None => output::print_code(&css)?,
        Some(out) => {
            write_new(out, css.as_bytes())?;
            notes.note(&format!("{}: {}", out.display(), output::counted(css.lines().count(), "line")));
        }
    }
    Ok(Exit::Good)
}

/// The folder that addresses are relative to: that of the file to write, else the board's own, or
/// the one that the command is run in.
fn target_folder(project: &Project, command: &Lift) -> Result<PathBuf> {
    let here = || std::env::current_dir().context("the folder that this is run in cannot be read");
    match (&command.out, &command.place.site) {
        (Some(out), _) => {
            let parent = or_here(out.parent().unwrap_or(Path::new("")));
            fs::canonicalize(&parent).with_context(|| format!("there is no folder `{}`", parent.display()))
        }
        (None, Some(_)) => fs::canonicalize(here()?).context("this folder cannot be read"),
        (None, None) => Ok(project.folder.root().to_owned()),
    }
}

/// The way from a folder to a file, as URLs have it.
fn relative(folder: &Path, file: &Path) -> String {
    let (from, to): (Vec<_>, Vec<_>) = (folder.components().collect(), file.components().collect());
    let shared = from.iter().zip(&to).take_while(|(a, b)| a == b).count();
    let up = from[shared..].iter().map(|_| "..".to_owned());
    let down = to[shared..].iter().filter_map(|part| match part {
        Component::Normal(name) => name.to_str().map(deft_pin_core::code::encode_segment),
        _ => None,
    });
    up.chain(down).collect::<Vec<_>>().join("/")
}
