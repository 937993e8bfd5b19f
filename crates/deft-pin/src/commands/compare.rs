//! `compare`: before and after, in a browser.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;
use std::sync::Arc;
use std::time::Instant;

use anyhow::{Context as _, Result};
use deft_pin_core::code::PageId;
use tempfile::TempDir;

use crate::arguments::{Common, Compare, Format};
use crate::comparing::{ComparedPage, Comparison, Sampling, chosen_pages};
use crate::disk::shown;
use crate::exit::Exit;
use crate::output::{self, Notes, Progress};
use crate::preview::{Generation, Making, PinChoice, Preview, Showing, bind};
use crate::project::Project;
use crate::publishing::build_release;
use crate::releases::Store;
use crate::staging::Staging;

/// The report in the folder of a comparison.
const REPORT: &str = "compare.html";
/// The answer for programs beside it.
const ANSWER: &str = "compare.json";

/// Compares pages.
pub fn run(common: &Common, command: &Compare) -> Result<Exit> {
    let started = Instant::now();
    let notes = Notes::of(common);
    let project = Project::of_board(&common.board, notes)?.on(common.today);
    if command.pasted {
        project.require_boxes()?;
    }
    let named = command.pages.iter().map(|page| project.find(page)).collect::<Result<Vec<PageId>>>()?;
    let staging = Staging::prepare(&command.out, &project.site_path())?;
    let mut widths = command.widths.clone();
    widths.dedup();
    let moment = (project.today.start() / 1000.0) as u64 + 12 * 60 * 60;
    let making = Making { folder: "_pins".to_owned(), is_pasted: command.pasted };
    let mut kept = None;
    let earlier = match &command.against {
        Some(against) => {
            let folder = match released(common, against, notes)? {
                Some(built) => kept.insert(built).path().join("site"),
                None => against.clone(),
            };
            let earlier = Project::of_folder(&folder, notes.without_progress())?.on(common.today);
            Some(Arc::new(Generation::start(earlier, Making { is_pasted: false, ..making.clone() })?))
        }
        None => None,
    };
    let generation = Arc::new(Generation::start(project, making.clone())?);
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()
        .context("the pages cannot be served")?;
    let sampling = if command.all { Sampling::All } else { Sampling::Some };
    let compared: Result<Vec<ComparedPage>> = runtime.block_on(async {
        let showing = |choice: PinChoice| Showing {
            making: making.clone(),
            is_plain: true,
            is_still: true,
            is_quiet: true,
            choice,
        };
        let serve = |generation: Arc<Generation>, choice: PinChoice| {
            let server = bind(None)?;
            let origin = server.origin();
            tokio::spawn(server.serve(Preview::new(generation, showing(choice), None)));
            Ok::<String, anyhow::Error>(origin)
        };
        let before = match earlier {
            Some(earlier) => serve(earlier, PinChoice::All)?,
            None => serve(Arc::clone(&generation), PinChoice::PLAIN)?,
        };
        let after = serve(Arc::clone(&generation), PinChoice::All)?;
        let pages = chosen_pages(&generation, named, sampling).await?;
        let bar = Progress::of(notes).bar("pages", pages.len());
        let comparison = Comparison {
            before,
            after,
            widths: &widths,
            moment,
            folder: staging.work(),
            driver: command.driver.clone(),
        };
        comparison.run(pages, bar).await
    });
    let compared = compared?;
    let total = generation.project.site.pages.len();
    let board = generation.project.board_file.to_string();
    let answer = output::compare_json(&compared)?;
    let work = staging.work();
    let written = "the comparison cannot be written";
    fs::write(work.join(ANSWER), &answer).context(written)?;
    output::write_report(&work.join(REPORT), work, &board, &compared).context(written)?;
    staging.write_mark(".deft-pin", &BTreeMap::new())?;
    staging.land()?;
    match command.format {
        Format::Json => output::print(&answer)?,
        Format::Text => output::print(&output::compared(&compared))?,
    }
    let is_wrong = compared.iter().any(ComparedPage::is_wrong);
    let rest = format!(
        "{} of {} at {}, {:.1} s; open {}",
        output::counted(compared.len(), "page"),
        total,
        output::counted(widths.len(), "width"),
        started.elapsed().as_secs_f64(),
        shown(&command.out.join(REPORT))
    );
    let (style, head) =
        if is_wrong { (output::ERROR, "compared, and not all is well") } else { (output::GOOD, "compared") };
    notes.summary(style, head, &rest);
    Ok(if is_wrong { Exit::Findings } else { Exit::Good })
}

/// The site with the pins of a release in a folder of its own, where a number is given and no folder has that name.
fn released(common: &Common, against: &Path, notes: Notes) -> Result<Option<TempDir>> {
    let number = against.to_str().and_then(|text| text.parse::<u32>().ok());
    let Some(number) = number.filter(|_| !against.is_dir()) else { return Ok(None) };
    let working = Project::of_board(&common.board, notes.without_progress())?.on(common.today);
    let store = Store::beside(working.folder.root(), &working.board_file);
    let release = store.get(number)?;
    let built = tempfile::tempdir().context("no folder can be made for the release")?;
    build_release(working, &store, &release, notes.without_progress(), built.path().join("site"))?;
    Ok(Some(built))
}
