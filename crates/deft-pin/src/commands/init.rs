//! `init`: a starter board, from what a folder of pages holds.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

use anyhow::{Context, Result, bail};
use deft_pin_core::code::PageId;
use deft_pin_core::markup::{local_name, parse};
use deft_pin_core::site::{Page, PagePath, Site};
use deft_pin_core::source::{FilePath, Files as _};
use toml_writer::{ToTomlValue as _, TomlStringBuilder};

use crate::arguments::{Common, Init};
use crate::disk::{shown, write_new};
use crate::exit::Exit;
use crate::folder::Folder;
use crate::output::{self, Notes};

/// How many pages are looked into for IDs.
const LOOKED_INTO: usize = 200;

/// Writes a starter board.
pub fn run(common: &Common, command: &Init) -> Result<Exit> {
    let board = &common.board;
    if fs::symlink_metadata(board).is_ok() {
        bail!(
            "there is a board `{}` already, and it stays as it is; name another one with `--board FILE`",
            board.display()
        );
    }
    let parent = board.parent().unwrap_or(Path::new(""));
    let folder = Folder::open(parent)
        .with_context(|| format!("the board's folder `{}` cannot be read", parent.display()))?;
    let site = fs::canonicalize(&command.site)
        .with_context(|| format!("there is no folder `{}`", command.site.display()))?;
    if !site.is_dir() {
        bail!("`{}` is a file; a site is a folder of pages", command.site.display());
    }
    let Ok(below) = site.strip_prefix(folder.root()) else {
        bail!(
            "`{}` is not below the board's folder `{}`: run this in a folder that holds the site, or name a board there with `--board FILE`",
            site.display(),
            folder.root().display()
        );
    };
    let below = below.to_str().context("the site's folder has a name that is not in UTF-8")?;
    let root = if below.is_empty() { FilePath::root() } else { FilePath::parse(below)? };
    let listed = Site::new(&root, folder.walk(&root)?.files);
    if listed.pages.is_empty() {
        bail!("there is no page in `{}`: no file ends in .html or .htm", command.site.display());
    }
    let text = starter(&folder, &listed);
    write_new(board, text.as_bytes())?;
    output::print(&format!(
        "{}: a board for {}\n",
        shown(board),
        output::counted(listed.pages.len(), "page")
    ))?;
    Notes::of(common).note("take the # off an example, give it your own files, and run `deft-pin check`");
    Ok(Exit::Good)
}

fn starter(folder: &Folder, site: &Site) -> String {
    let root = site.root.to_string();
    let ids = ids(folder, site);
    let common = ids
        .iter()
        .filter(|(_, pages)| pages.len() > 1)
        .max_by_key(|(id, pages)| (pages.len(), std::cmp::Reverse(*id)));
    let rare = ids.iter().find(|(_, pages)| pages.len() == 1);
    let front = site.pages.find(|page| page.path.as_str() == "/").unwrap_or(PageId::FIRST);
    let front = &site.pages[front];
    let section = rare.map_or_else(|| section_of(folder, site, front).to_owned(), |(id, _)| format!("#{id}"));
    let page = rare.map_or(&front.path, |(_, pages)| &pages[0]);
    let folders = folders(site);
    let many = folders.first().map_or("/*".to_owned(), |(folder, _)| format!("{folder}*"));
    let which = if folders.is_empty() { "every page" } else { "every page below a folder" };
    let mut text = format!(
        "# A board for Deft Pin. It says which customisations go onto which pages of a site.\n\
         # deft-pin check    says what is wrong before anything is written\n\
         # deft-pin build --out out    writes a customised copy of the site\n\n\
         [site]\nroot = {}\n\n",
        quoted(&root)
    );
    text.push_str(&format!("# The site has {}", output::counted(site.pages.len(), "page")));
    let shown: Vec<_> = folders
        .iter()
        .take(4)
        .map(|(folder, count)| format!("{} ({count})", output::plain(folder)))
        .collect();
    if !shown.is_empty() {
        text.push_str(&format!(", most of them in {}", shown.join(", ")));
    }
    text.push_str(".\n\n");
    text.push_str(&format!(
        "# A pin is one customisation. This one would restyle one section of one page:\n#\n\
         # [pin.first]\n# pages = [{}]\n# within = {}\n# style = \"pins/first.css\"\n\n",
        quoted(page.as_str()),
        quoted(&section)
    ));
    text.push_str(&format!(
        "# This one would run a script at the end of {which}, with a library that it needs:\n#\n\
         # [library.helper]\n# script = \"vendor/helper.js\"\n#\n\
         # [pin.second]\n# pages = [{}]\n# script = \"pins/second.js\"\n# needs = [\"helper\"]\n",
        quoted(&many)
    ));
    if let Some((id, pages)) = common {
        text.push_str(&format!(
            "\n# And this one would be on the pages alone that have an element with the ID {id} ({} of those looked into):\n#\n\
             # [pin.third]\n# having = {}\n# style = \"pins/third.css\"\n",
            pages.len(),
            quoted(&format!("#{id}"))
        ));
    }
    text
}

/// The IDs of the first pages, each with the pages that have it; those that look made up by a
/// machine are left out.
fn ids(folder: &Folder, site: &Site) -> BTreeMap<String, Vec<PagePath>> {
    let mut ids: BTreeMap<String, Vec<PagePath>> = BTreeMap::new();
    for page in site.pages.iter().take(LOOKED_INTO) {
        let Ok(bytes) = folder.read(&site.path_of(&page.file)) else { continue };
        let (_, document) = parse(&bytes);
        for element in document.elements() {
            let sections = ["section", "main", "article", "aside", "header", "footer", "nav", "div"];
            if !sections.contains(&&*element.data().name.local) {
                continue;
            }
            if let Some(id) = element.data().id().filter(|id| by_hand(id)) {
                let pages = ids.entry(id.to_owned()).or_default();
                if pages.last() != Some(&page.path) {
                    pages.push(page.path.clone());
                }
            }
        }
    }
    ids
}

fn by_hand(id: &str) -> bool {
    id.len() < 30
        && id.chars().all(|c| c.is_ascii_lowercase() || c == '-')
        && id.starts_with(|c: char| c.is_ascii_lowercase())
}

/// What a page has around its contents: a `<main>`, or else its body.
fn section_of(folder: &Folder, site: &Site, page: &Page) -> &'static str {
    let bytes = folder.read(&site.path_of(&page.file)).unwrap_or_default();
    let (_, document) = parse(&bytes);
    let has_main = document.elements().any(|element| element.is_html(&local_name!("main")));
    if has_main { "main" } else { "body" }
}

fn quoted(text: &str) -> String {
    TomlStringBuilder::new(text).as_basic().to_toml_value()
}

/// The folders at the top of the site that hold most of its pages.
fn folders(site: &Site) -> Vec<(String, usize)> {
    let mut counts: BTreeMap<String, usize> = BTreeMap::new();
    for page in &site.pages {
        if let Some((folder, _)) = page.path.as_str()[1..].split_once('/') {
            *counts.entry(format!("/{folder}/")).or_default() += 1;
        }
    }
    let mut folders: Vec<_> = counts.into_iter().collect();
    folders.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(&b.0)));
    folders
}
