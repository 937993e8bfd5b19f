//! `demo`: the whole way on the site of Sorrel Sound Ferries, a made-up ferry line.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;
use std::time::Instant;

use anyhow::{Context, Result, bail};
use deft_pin_core::check::{Finding, Severity};
use include_dir::{Dir, DirEntry, include_dir};

use crate::arguments::{Build, Common, Demo, Paste};
use crate::building::{Built, build};
use crate::disk::write_new;
use crate::exit::Exit;
use crate::outcome::look;
use crate::output::{self, Notes};
use crate::pasting::{PAGE, Pasted, paste};
use crate::project::Project;
use crate::site_run::RunOutcome;

/// How many kinds of errors are shown with an example: the whole fits on a screen.
const SHOWN: usize = 3;

static FILES: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/demo");

/// Unpacks the demo, checks a board full of mistakes and the right one, builds, and pastes up.
pub fn run(common: &Common, command: &Demo) -> Result<Exit> {
    let started = Instant::now();
    unpack(&command.dir)?;
    let shown = command.dir.display();
    let notes = Notes::of(common);
    let faulty = Project::of_board(&command.dir.join("faulty.toml"), notes)?;
    let wrong = look(&faulty, notes, &[])?;
    let right = Project::of_board(&command.dir.join("deft-pin.toml"), notes)?;
    let out = command.dir.join("out");
    let Built { outcome: built, is_written } = build(&right, notes, &Build::of(out.clone()))?;
    let boxes = Project::of_board(&command.dir.join("boxes.toml"), notes)?;
    let pasted = paste(&boxes, notes, &Paste::of(command.dir.join("paste-up")))?;
    let steps =
        Steps { faulty: &faulty, wrong: &wrong.findings, right: &right, built: &built, pasted: &pasted };
    output::print(&(telling(&shown.to_string(), &steps) + "\n"))?;
    if !(is_written && pasted.is_written) {
        bail!("the demo's own board has findings: {}", output::tally(&built.findings).1);
    }
    notes.summary(output::GOOD, "done", &format!("in {:.2} s", started.elapsed().as_secs_f64()));
    Ok(Exit::Good)
}

/// What the demo did.
struct Steps<'s> {
    faulty: &'s Project,
    wrong: &'s [Finding],
    right: &'s Project,
    built: &'s RunOutcome,
    pasted: &'s Pasted,
}

fn telling(dir: &str, steps: &Steps<'_>) -> String {
    let Steps { faulty, wrong, right, built, pasted } = *steps;
    let head = output::GOOD;
    let pages = right.site.pages.len();
    let intro = format!(
        "A made-up ferry line: {pages} pages that another system renders, unpacked into {dir}/site. Three boards lie beside it."
    );
    let mut text = format!("{head}Sorrel Sound Ferries{head:#}\n{}\n\n", told(&intro, ""));
    text.push_str(&format!(
        "{head}1{head:#}  {}\n\n",
        numbered(&format!("{dir}/faulty.toml, with the mistakes that everybody makes once. check says:"))
    ));
    let mut seen: BTreeMap<&str, (usize, &Finding)> = BTreeMap::new();
    for finding in wrong {
        seen.entry(finding.code.name()).or_insert((0, finding)).0 += 1;
    }
    let (errors, others): (Vec<_>, Vec<_>) =
        seen.iter().partition(|(_, (_, finding))| finding.severity == Severity::Error);
    for (code, (count, finding)) in errors.iter().take(SHOWN) {
        let place = format!("{}:{}", finding.place.file, finding.place.start.line);
        text.push_str(&format!(
            "   {count} {code:<20} {}\n",
            output::cut(&format!("{place}  {}", finding.message), output::columns() - 28)
        ));
    }
    let rest = errors.iter().skip(SHOWN).chain(&others);
    let others: Vec<&str> = rest.map(|(code, _)| **code).collect();
    let indent = "     ";
    text.push_str(&format!(
        "   and more like these:\n{}\n",
        output::wrapped(&others.join(", "), indent, indent)
    ));
    let (_, tally) = output::tally(wrong);
    text.push_str(&format!(
        "\n   {tally}, about {} pins. All of it, with the lines:\n",
        faulty.board.pins.len()
    ));
    text.push_str(&format!("     deft-pin check --board {dir}/faulty.toml\n\n"));
    let (_, tally) = output::tally(&built.findings);
    text.push_str(&format!(
        "{head}2{head:#}  {}\n     deft-pin build --board {dir}/deft-pin.toml --out {dir}/out\n\n",
        numbered(&format!("{dir}/deft-pin.toml, the same put right. check has {tally}; build put {} elements into {} of {pages} pages, and left every other byte as it was:", built.placements, built.customised))
    ));
    text.push_str(&format!(
        "{head}3{head:#}  {}\n     deft-pin paste --board {dir}/boxes.toml --out {dir}/paste-up\n\n",
        numbered(&format!("{dir}/boxes.toml, the same pins for a host that takes no files and has boxes instead: paste wrote {}, and a page to work from, {dir}/paste-up/{PAGE}:", output::counted(pasted.sheet.rows.len(), "piece")))
    ));
    text.push_str(&format!(
        "{head}4{head:#}  {}\n",
        numbered(&format!("Open these beside their originals in {dir}/site; no server is needed:"))
    ));
    let shown = [
        ("index.html", "a new banner, and a notice in one section alone"),
        ("piers/ellery/index.html", "a tide chart, and the libraries it needs"),
        ("fares/index.html", "one table restyled"),
        ("journal/kittiwake/index.html", "one page type, set for reading"),
    ];
    for (page, what) in shown {
        let line = format!("     {dir}/out/{page:<29} {what}");
        let is_wide = line.chars().count() > output::columns();
        let parted = if is_wide { format!("     {dir}/out/{page}\n       {what}") } else { line };
        text.push_str(&(parted + "\n"));
    }
    text.push_str(&format!(
        "\n{}\n",
        told(&format!("To try commands on its board, go there: cd {dir}, and then deft-pin survey, or deft-pin preview --open"), "")
    ));
    text
}

/// What stands behind a number, in lines that fit.
fn numbered(text: &str) -> String {
    told(text, "   ").trim_start().to_owned()
}

/// A sentence in lines that fit.
fn told(text: &str, indent: &str) -> String {
    output::wrapped(text, indent, indent)
}

/// Writes the demo's files. Files that are there already and differ are somebody's work: nothing
/// is written then.
fn unpack(dir: &Path) -> Result<()> {
    let mut files = Vec::new();
    collect(&FILES, &mut files);
    for (path, bytes) in &files {
        let target = dir.join(path);
        if fs::symlink_metadata(&target).is_ok() && fs::read(&target).ok().as_deref() != Some(*bytes) {
            bail!(
                "`{}` is there already and is not the demo's; name another folder, `deft-pin demo DIR`, or take it away",
                target.display()
            );
        }
    }
    for (path, bytes) in &files {
        let target = dir.join(path);
        let failed = || format!("the demo cannot be unpacked into `{}`", dir.display());
        if let Some(folder) = target.parent() {
            fs::create_dir_all(folder).with_context(failed)?;
        }
        if fs::symlink_metadata(&target).is_err() {
            write_new(&target, bytes).with_context(failed)?;
        }
    }
    Ok(())
}

fn collect<'d>(dir: &'d Dir<'d>, files: &mut Vec<(&'d Path, &'d [u8])>) {
    for entry in dir.entries() {
        match entry {
            DirEntry::Dir(dir) => collect(dir, files),
            DirEntry::File(file) => files.push((file.path(), file.contents())),
        }
    }
}
