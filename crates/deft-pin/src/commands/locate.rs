//! `locate`: finds elements, and for each a selector that is likely to last.

use std::collections::BTreeMap;

use anyhow::{Result, bail};
use deft_pin_core::code::{Id as _, PageId};
use deft_pin_core::find::{
    AskedNames, Hit, HitKind, Lasting, NameFilter, PageIndex, Query, ancestors, label, lasting_selectors,
    search,
};
use deft_pin_core::markup::{SelectorList, parse_selectors};
use deft_pin_core::site::ParsedPage;
use rayon::prelude::*;
use rustc_hash::FxHashMap;

use crate::arguments::{Common, Format, Locate};
use crate::asked::selector;
use crate::exit::Exit;
use crate::output::{self, Elsewhere, Found, Notes, Progress, Way};
use crate::project::Project;

/// How many different elements are shown unless all are asked for.
const SHOWN: usize = 8;
/// How many selectors are given for each.
const SELECTORS: usize = 3;

/// Finds elements.
pub fn run(common: &Common, command: &Locate) -> Result<Exit> {
    let query = match (command.text, command.selector) {
        (true, _) => Query::text(&command.wanted),
        (_, true) => Query::selector(selector(&command.wanted)?.list),
        _ => Query::guess(&command.wanted),
    };
    let project = Project::open(common, &command.place)?;
    let only = command.page.as_deref().map(|page| project.find(page)).transpose()?;
    let progress = Progress::of(Notes::of(common));
    let mut search = Search::over(&project, &query, only, false, progress)?;
    if search.groups.is_empty() {
        if query.has_names() {
            search = Search::over(&project, &query, only, true, progress)?;
        }
        let groups = &search.groups;
        let mut names: Vec<&str> = groups.iter().filter_map(|group| group.near()).collect();
        names.dedup();
        if query.is_selector() || groups.is_empty() || command.copy {
            bail!(
                "{}",
                nothing(&command.wanted, only.map(|page| project.site.pages[page].path.as_str()), &names)
            );
        }
    }
    let Search { mut groups, filters } = search;
    let total = groups.len();
    if command.copy {
        groups.truncate(1);
    } else if !command.all {
        groups.truncate(SHOWN);
    }
    let wanted = if command.copy { 1 } else { SELECTORS };
    let mut found = found(&project, groups, wanted)?;
    if command.copy {
        let best = found.first().and_then(|found| found.ways.first());
        output::print_code(&format!("{}\n", best.map(|way| way.selector.as_str()).unwrap_or_default()))?;
        return Ok(Exit::Good);
    }
    look_elsewhere(&project, &filters, &mut found, progress)?;
    let answer = match command.format {
        Format::Json => output::located_json(&found, total)?,
        Format::Text => output::located(&command.wanted, &found, total),
    };
    output::print(&answer)?;
    Ok(Exit::Good)
}

fn nothing(wanted: &str, page: Option<&str>, near: &[&str]) -> String {
    let place = page.map(|page| format!(" on `{page}`")).unwrap_or_default();
    match near {
        [] => format!("nothing{place} is called `{wanted}` or has it as its text"),
        near => {
            let names: Vec<String> = near.iter().take(4).map(|name| format!("`{name}`")).collect();
            format!("nothing{place} matches `{wanted}`; there is {}", names.join(", "))
        }
    }
}

/// Elements that sit at the same place of several pages.
struct Group {
    page: PageId,
    hit: Hit,
    alike: Vec<PageId>,
}

impl Group {
    fn near(&self) -> Option<&str> {
        match &self.hit.kind {
            HitKind::Near(name) => Some(name),
            _ => None,
        }
    }
}

/// What a search over the site found.
struct Search {
    groups: Vec<Group>,
    /// The names on each page; nothing where one page alone was looked at.
    filters: Vec<NameFilter>,
}

impl Search {
    fn over(
        project: &Project,
        query: &Query,
        only: Option<PageId>,
        near: bool,
        progress: Progress,
    ) -> Result<Self> {
        let look = |document: &deft_pin_core::markup::Document| {
            let hits = search(document, query, near).into_iter();
            let ways = hits.filter_map(|hit| {
                let element = document.element(hit.element)?;
                // The body's own name tells pages apart, not places on them.
                Some((ancestors(element).get(1..).unwrap_or_default().join(" > "), hit))
            });
            ways.collect::<Vec<_>>()
        };
        let mut filters = Vec::new();
        let of_pages = match only {
            Some(page) => vec![(page, project.with(page, |parsed| look(&parsed.document))?)],
            None => {
                let of_pages = project
                    .each(progress, |_, parsed| (look(&parsed.document), NameFilter::of(&parsed.document)))?;
                let mut hits = Vec::new();
                for (page, (own, filter)) in project.site.pages.ids().zip(of_pages) {
                    filters.push(filter);
                    hits.push((page, own));
                }
                hits
            }
        };
        Ok(Search { groups: grouped(of_pages), filters })
    }
}

/// Those that sit at the same place of several pages as one.
fn grouped(of_pages: Vec<(PageId, Vec<(String, Hit)>)>) -> Vec<Group> {
    let mut groups: Vec<Group> = Vec::new();
    let mut known: FxHashMap<(HitKind, String), usize> = FxHashMap::default();
    for (page, hits) in of_pages {
        for (way, hit) in hits {
            let key = (hit.kind.clone(), way);
            match known.get(&key).map(|at| &mut groups[*at]) {
                // Two on one page are two, however alike.
                Some(group) if group.page != page => {
                    if group.alike.last() != Some(&page) {
                        group.alike.push(page);
                    }
                }
                _ => {
                    known.entry(key).or_insert(groups.len());
                    groups.push(Group { page, hit, alike: Vec::new() });
                }
            }
        }
    }
    groups.sort_by(|a, b| a.hit.kind.cmp(&b.hit.kind).then(a.page.cmp(&b.page)));
    groups
}

fn found(project: &Project, groups: Vec<Group>, wanted: usize) -> Result<Vec<Found>> {
    let mut by_page: BTreeMap<PageId, Vec<(usize, Group)>> = BTreeMap::new();
    for (at, group) in groups.into_iter().enumerate() {
        by_page.entry(group.page).or_default().push((at, group));
    }
    let mut found = Vec::new();
    for (page, groups) in by_page {
        let path = |page: PageId| project.site.pages[page].path.to_string();
        found.extend(project.with(page, |parsed| {
            let document = &parsed.document;
            let index = PageIndex::new(document);
            let of_group = |(at, group): (usize, Group)| {
                let element = document.element(group.hit.element)?;
                let ways = lasting_selectors(&index, element, wanted).into_iter();
                let way = |lasting: Lasting| Way {
                    selector: lasting.selector,
                    reasons: lasting.reasons,
                    elsewhere: Elsewhere::default(),
                };
                let found = Found {
                    page: path(page),
                    line: parsed.line_of(element),
                    label: label(element),
                    ancestors: ancestors(element),
                    text: document.text_of(element.id).split_whitespace().collect::<Vec<_>>().join(" "),
                    alike: group.alike.iter().map(|page| path(*page)).collect(),
                    kind: group.hit.kind,
                    ways: ways.map(way).collect(),
                };
                Some((at, found))
            };
            groups.into_iter().filter_map(of_group).collect::<Vec<_>>()
        })?);
    }
    found.sort_by_key(|(at, _)| *at);
    Ok(found.into_iter().map(|(_, found)| found).collect())
}

/// Counts what each selector matches on the other pages.
fn look_elsewhere(
    project: &Project,
    filters: &[NameFilter],
    found: &mut [Found],
    progress: Progress,
) -> Result<()> {
    let mut lists: Vec<(String, SelectorList, AskedNames)> = Vec::new();
    for way in found.iter().flat_map(|found| &found.ways) {
        if let (true, Ok(list)) =
            (lists.iter().all(|(text, ..)| *text != way.selector), parse_selectors(&way.selector))
        {
            let asked = AskedNames::of(&list);
            lists.push((way.selector.clone(), list, asked));
        }
    }
    // Of a page that lacks the names of a selector nothing has to be asked, nor it be read again.
    let may_match = |page: PageId, asked: &AskedNames| {
        filters.get(page.index()).is_none_or(|filter| filter.may_match(asked))
    };
    let of_page = |page: PageId, parsed: &ParsedPage<'_>| {
        let document = &parsed.document;
        let index = PageIndex::new(document);
        let labels = |list: &SelectorList, asked: &AskedNames| {
            if !may_match(page, asked) {
                return Vec::new();
            }
            let elements = index.matched(list, usize::MAX).into_iter().filter_map(|id| document.element(id));
            elements.map(label).collect::<Vec<_>>()
        };
        lists.iter().map(|(_, list, asked)| labels(list, asked)).collect::<Vec<_>>()
    };
    let is_asked = |page: &PageId| lists.iter().any(|(.., asked)| may_match(*page, asked));
    let pages: Vec<PageId> = project.site.pages.ids().filter(is_asked).collect();
    let bar = progress.bar("pages", pages.len());
    let matched: Result<Vec<_>> = pages
        .into_par_iter()
        .map(|page| {
            bar.inc(1);
            Ok((page, project.with(page, |parsed| of_page(page, parsed))?))
        })
        .collect();
    bar.finish_and_clear();
    let matched = matched?;
    for found in found {
        for way in &mut found.ways {
            let Some(at) = lists.iter().position(|(text, ..)| *text == way.selector) else { continue };
            for (page, labels) in matched.iter().map(|(page, labels)| (*page, &labels[at])) {
                let path = project.site.pages[page].path.as_str();
                if path == found.page || labels.is_empty() {
                    continue;
                }
                way.elsewhere.pages.push(path.to_owned());
                for label in labels {
                    *way.elsewhere.labels.entry(label.clone()).or_default() += 1;
                }
            }
        }
    }
    Ok(())
}
