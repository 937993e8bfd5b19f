//! `capture`: a site as a folder.

use std::path::Path;
use std::time::Instant;

use anyhow::{Result, bail};

use crate::arguments::{Capture, Common, Format};
use crate::capturing::{Archive, Captured, Crawl, Limits, SiteFolder, of_archive};
use crate::disk::shown;
use crate::exit::Exit;
use crate::fetching::Fetcher;
use crate::output::{self, Notes, Progress};

/// Captures a site.
pub fn run(common: &Common, command: &Capture) -> Result<Exit> {
    let started = Instant::now();
    let notes = Notes::of(common);
    if !command.below.starts_with('/') {
        bail!("`--below {}` is no path: it begins with `/`", command.below);
    }
    let limits =
        Limits { pages: command.pages as usize, depth: command.depth as usize, below: command.below.clone() };
    let captured = match command.from.contains("://") {
        true => of_server(command, limits, notes)?,
        false => of_file(command, &limits, notes)?,
    };
    output::print(&match command.format {
        Format::Json => output::capture_json(&captured, &command.into)?,
        Format::Text => output::captured(&captured),
    })?;
    let kept = match captured.kept {
        0 => String::new(),
        count => format!(", {count} of them there before"),
    };
    let what = format!(
        "{} and {}{kept} to {}, {:.1} s",
        output::counted(captured.pages, "page"),
        output::counted(captured.files, "other file"),
        shown(&command.into),
        started.elapsed().as_secs_f64()
    );
    notes.summary(output::GOOD, "captured", &what);
    if !common.board.exists() {
        notes.note(&format!("`deft-pin init {}` writes a first board for it", command.into.display()));
    }
    Ok(Exit::Good)
}

fn of_server(command: &Capture, limits: Limits, notes: Notes) -> Result<Captured> {
    let fetcher = Fetcher::new(&command.from, command.manners.manners())?;
    let origin = fetcher.start.origin().ascii_serialization();
    let mut folder = SiteFolder::open(&command.into, &origin, command.again)?;
    if folder.is_continued {
        notes.note("an earlier run was stopped: this one goes on where that was");
    }
    let bar = Progress::of(notes).bar("addresses", 1);
    let captured = Crawl { fetcher: &fetcher, folder: &mut folder, limits }.go(&bar)?;
    bar.finish_and_clear();
    folder.end()?;
    Ok(captured)
}

fn of_file(command: &Capture, limits: &Limits, notes: Notes) -> Result<Captured> {
    let path = Path::new(&command.from);
    if !path.is_file() {
        bail!(
            "there is no file `{}`; the address of a site begins with `http://` or `https://`",
            command.from
        );
    }
    let archive = Archive::open(path)?;
    let mut folder = SiteFolder::open(&command.into, &archive.origin, command.again)?;
    let bar = Progress::of(notes).bar("answers", archive.answers);
    let captured = of_archive(&archive, &mut folder, limits, &bar)?;
    bar.finish_and_clear();
    folder.end()?;
    Ok(captured)
}
