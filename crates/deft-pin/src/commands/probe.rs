//! `probe`: a live site held against the releases.

use std::collections::BTreeSet;
use std::time::Instant;

use anyhow::{Result, bail};
use deft_pin_core::board::PagePattern;
use url::Url;

use crate::arguments::{Common, Format, Probe as Command};
use crate::exit::Exit;
use crate::fetching::Fetcher;
use crate::output::{self, Notes, Progress};
use crate::probing::{Looking, Probe, Publication};
use crate::project::Project;
use crate::releases::Store;

/// Holds a live site against the last release.
pub fn run(common: &Common, command: &Command) -> Result<Exit> {
    let started = Instant::now();
    let notes = Notes::of(common);
    let project = Project::of_board(&common.board, notes)?.on(common.today);
    let fetcher = Fetcher::new(&command.url, command.manners.manners())?;
    let store = Store::beside(project.folder.root(), &project.board_file);
    let publication = Publication::read(&store)?;
    let host = &project.board.host;
    if host.inserts && !command.browser {
        bail!(
            "on `{}` a script of the host puts pieces into pages: add --browser, to look at them in Chromium",
            host.kind.name()
        );
    }
    let pages = chosen(&project, &publication, command)?;
    let looking = match command.browser {
        true => Looking::in_browser(command.driver.as_ref(), (project.today.start() / 1000.0) as u64)?,
        false => Looking::Served,
    };
    let probe = Probe {
        fetcher: &fetcher,
        publication: &publication,
        looking: &looking,
        is_framed: host.is_framed,
        uploads: host.files.clone(),
    };
    let bar = Progress::of(notes).bar("pages", pages.len());
    let probed = probe.go(&pages, &bar);
    bar.finish_and_clear();
    looking.close();
    output::print(&match command.format {
        Format::Json => output::probe_json(&probed)?,
        Format::Text => output::probed(&probed),
    })?;
    let (style, head) = match probed.is_live() {
        true => (output::GOOD, format!("release {} is live", probed.release)),
        false => (output::ERROR, format!("release {} is not live everywhere", probed.release)),
    };
    let left = match probed.not_asked {
        0 => String::new(),
        count => format!(" ({} more not asked for)", output::counted(count, "page")),
    };
    let what = format!(
        "{}{left} of {}, {:.2} s",
        output::counted(probed.pages.len(), "page"),
        probed.url,
        started.elapsed().as_secs_f64()
    );
    notes.summary(style, &head, &what);
    Ok(if probed.is_live() { Exit::Good } else { Exit::Findings })
}

/// The pages to look at: those that a release has something on, or those that are named.
fn chosen(project: &Project, publication: &Publication, command: &Command) -> Result<Vec<String>> {
    let mut all: BTreeSet<String> = publication.pages.keys().chain(&publication.former).cloned().collect();
    if !command.pages.is_empty() {
        all.extend(project.site.pages.iter().map(|page| page.path.to_string()));
        let patterns = command.pages.iter().map(|text| {
            PagePattern::parse(text).map_err(|reason| anyhow::anyhow!("`--pages {text}`: {reason}"))
        });
        let patterns = patterns.collect::<Result<Vec<_>>>()?;
        let base = Url::parse("http://site/")?;
        let is_meant = |page: &String| {
            base.join(page).is_ok_and(|url| patterns.iter().any(|pattern| pattern.matches_url(&url)))
        };
        all.retain(is_meant);
        if all.is_empty() {
            bail!("no page is meant by `--pages {}`", command.pages.join(" "));
        }
    }
    if all.is_empty() {
        bail!("release {} has nothing on any page", publication.release.release);
    }
    let all: Vec<String> = all.into_iter().collect();
    Ok(match command.sample {
        Some(most) if (most as usize) < all.len() => sample(&all, publication, most as usize),
        _ => all,
    })
}

/// Some of the pages: first those that show a part that was not seen yet, then others from all over the site.
fn sample(all: &[String], publication: &Publication, most: usize) -> Vec<String> {
    let mut chosen = BTreeSet::new();
    let mut seen = BTreeSet::new();
    for page in all {
        let parts = publication.pages.get(page).map_or(&[][..], Vec::as_slice);
        if chosen.len() < most && parts.iter().filter(|part| seen.insert(**part)).count() > 0 {
            chosen.insert(page);
        }
    }
    let step = all.len().div_ceil(most).max(1);
    let others = all.iter().step_by(step).chain(all.iter());
    for page in others {
        if chosen.len() >= most {
            break;
        }
        chosen.insert(page);
    }
    chosen.into_iter().cloned().collect()
}
