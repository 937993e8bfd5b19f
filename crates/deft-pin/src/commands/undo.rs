//! `undo`: what an earlier release published is put back, as a new release.

use std::collections::BTreeMap;
use std::fs;

use anyhow::{Context as _, Result, bail};
use deft_pin_core::source::{FilePath, Files as _};

use crate::arguments::{Common, Undo};
use crate::disk::{shown, write_again};
use crate::exit::Exit;
use crate::output::{self, Notes};
use crate::project::Project;
use crate::publishing::{Published, Publishing, as_it_was, kept_files, out_of};
use crate::releases::{Snapshot, Store};

/// Puts an earlier release back.
pub fn run(common: &Common, command: &Undo) -> Result<Exit> {
    let notes = Notes::of(common);
    let working = Project::of_board(&common.board, notes)?.on(common.today);
    let store = Store::beside(working.folder.root(), &working.board_file);
    let _turn = store.take_turn()?;
    let earlier = match command.release {
        Some(number) => store.get(number)?,
        None => match store.numbers()?.as_slice() {
            [.., before, _] => store.get(*before)?,
            [_] => bail!("there is release 1 alone, and none before it to go back to"),
            [] => bail!("nothing has been published yet: `deft-pin publish` makes the first release"),
        },
    };
    let files = kept_files(&store, &earlier)?;
    let board_bytes = files.get(&earlier.board.file).cloned().unwrap_or_default();
    let project = as_it_was(working, &board_bytes, &earlier)?;
    let publishing = Publishing {
        project: &project,
        store: &store,
        notes,
        note: command.note.clone(),
        out: out_of(&project, command.out.as_ref()),
        anyway: true,
        fail_on: deft_pin_core::check::Severity::Error,
    };
    let then = Snapshot {
        files: earlier
            .files
            .iter()
            .filter_map(|own| Some((FilePath::parse(&own.file).ok()?, files.get(&own.file)?.clone())))
            .collect(),
        pins: earlier.pins.clone(),
        board: board_bytes,
    };
    let since = publishing.since_last(&then)?;
    let Published { release, .. } = publishing.publish_again(&earlier, &since, &then)?;
    output::print(&output::since_last(&since))?;
    output::print(&output::outcome_since(&since, release.as_ref()))?;
    let number = release.map_or(0, |release| release.release);
    let head = format!("release {} is back, as release {number}", earlier.release);
    notes.summary(output::GOOD, &head, &format!("in {}", shown(&publishing.out)));
    if command.board_too {
        put_back(&project, &files, &store, notes)?;
    } else if differs(&project, &files) {
        notes.note("the board and its files stay as they are, and differ from that release;");
        notes.note(&format!("`deft-pin undo {} --board-too` gets them back as well", earlier.release));
    }
    Ok(Exit::Good)
}

fn differs(project: &Project, files: &BTreeMap<String, Vec<u8>>) -> bool {
    let is_as_it_is = |(file, bytes): (&String, &Vec<u8>)| {
        FilePath::parse(file).is_ok_and(|path| project.folder.read(&path).is_ok_and(|own| own == *bytes))
    };
    !files.iter().all(is_as_it_is)
}

/// Writes the board and its files as they were. What stood in their place is kept.
fn put_back(project: &Project, files: &BTreeMap<String, Vec<u8>>, store: &Store, notes: Notes) -> Result<()> {
    let mut written = 0;
    let mut kept = Vec::new();
    for (file, bytes) in files {
        let path = FilePath::parse(file).with_context(|| format!("`{file}` is no path"))?;
        let there = project.folder.read(&path).ok();
        if there.as_ref() == Some(bytes) {
            continue;
        }
        if let Some(there) = there {
            kept.push(format!("{file} as {}", store.place_of(&store.keep(&there)?)));
        }
        // What is a link, or in a folder that is one, is left alone.
        let place = project.folder.disk_path(&path);
        let parent = place.parent().and_then(|parent| fs::canonicalize(parent).ok());
        let is_outside = parent.is_some_and(|parent| !parent.starts_with(project.folder.root()));
        if is_outside {
            bail!("`{file}` is in a folder that is a link now, and stays as it is");
        }
        if let Some(parent) = place.parent() {
            fs::create_dir_all(parent).with_context(|| format!("`{file}` cannot be written"))?;
        }
        write_again(&place, bytes, |_| true)?;
        written += 1;
    }
    notes.note(&format!("{} of the board put back", output::counted(written, "file")));
    for own in kept {
        notes.note(&format!("what was there is kept: {own}"));
    }
    Ok(())
}
