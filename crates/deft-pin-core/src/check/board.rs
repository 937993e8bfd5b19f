//! Findings about the board itself: patterns, files, order, and what nothing uses.

use super::Ground;
use super::finding::{Code, Finding, Place, Severity};
use crate::board::PagePattern;
use crate::plan::{LibraryPart, Owner, Plan, Problem};
use crate::site::PagePath;
use crate::source::{FileError, FilePath, Span, nearest};

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    findings.extend(ground.plan.problems.iter().map(|problem| of_problem(ground, problem)));
    unused_libraries(ground, findings);
    for (at, pin) in ground.plan.board.pins.iter().enumerate().filter(|(_, pin)| !pin.off) {
        for pattern in &pin.pages {
            if !ground.site.pages.iter().any(|page| pattern.matches(&page.path)) {
                findings.push(no_page(ground, at, pattern, pattern.span));
            }
        }
        let skipped = !pin.skip.is_empty()
            && ground.site.pages.iter().all(|page| pin.skip.iter().any(|p| p.matches(&page.path)));
        if skipped {
            let message = format!("`skip` leaves the pin `{}` no page at all", *pin.name);
            findings.push(
                Finding::new(Code::NoPage, Severity::Error, ground.on_board(pin.skip[0].span), message)
                    .help("skip fewer pages, or write `off = true` if the pin is to rest")
                    .pin(&pin.name),
            );
        }
    }
}

impl Ground<'_> {
    /// A place in the board.
    pub(super) fn on_board(&self, span: Span) -> Place {
        Place::new(self.board_file, &self.plan.board.text, span)
    }

    /// The paths of some pages, given by their places in the site's list.
    pub(super) fn paths(&self, pages: impl IntoIterator<Item = usize>) -> Vec<PagePath> {
        pages.into_iter().map(|page| self.site.pages[page].path.clone()).collect()
    }
}

fn no_page(ground: &Ground<'_>, pin: usize, pattern: &PagePattern, span: Span) -> Finding {
    let name = ground.plan.name_of(Owner::Pin(pin));
    let pages = &ground.site.pages;
    let message = if pages.is_empty() {
        format!("`{}` matches no page: there is no page at all in `{}`", pattern.as_str(), ground.site.root)
    } else {
        format!(
            "`{}` matches no page of the site, so the pin `{name}` is not on any page by it",
            pattern.as_str()
        )
    };
    let help = match near_paths(pattern.as_str(), pages.iter().map(|page| page.path.as_str())) {
        near if near.is_empty() => {
            "paths of pages start with `/` and end as their files do: `fares/index.html` is `/fares/`"
                .to_owned()
        }
        near => format!(
            "the nearest paths are {}",
            near.iter().map(|p| format!("`{p}`")).collect::<Vec<_>>().join(", ")
        ),
    };
    Finding::new(Code::NoPage, Severity::Error, ground.on_board(span), message).help(help).pin(name)
}

/// Up to three paths that are nearly the one of a pattern: the same but for the end or the case,
/// else by edits, else those in the same folder.
fn near_paths<'a>(pattern: &str, paths: impl Iterator<Item = &'a str> + Clone) -> Vec<&'a str> {
    let bare = pattern.trim_end_matches(['*', '/']).trim_end_matches(".html").to_lowercase();
    let folded = |path: &str| path.trim_end_matches('/').trim_end_matches(".html").to_lowercase();
    let mut near: Vec<&str> = paths.clone().filter(|path| folded(path) == bare).take(3).collect();
    if near.is_empty() {
        near.extend(nearest(pattern, paths.clone()));
    }
    if near.is_empty() && !bare.is_empty() {
        let last = bare.rsplit('/').next().unwrap_or_default();
        near.extend(paths.clone().filter(|path| !last.is_empty() && folded(path).contains(last)).take(3));
    }
    if near.is_empty()
        && let Some((folder, _)) = bare.rsplit_once('/')
        && !folder.is_empty()
    {
        near.extend(paths.filter(|path| path.to_lowercase().starts_with(&format!("{folder}/"))).take(3));
    }
    near
}

fn unused_libraries(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let board = ground.plan.board;
    let mut used = vec![false; board.libraries.len()];
    let mut waiting: Vec<usize> = board
        .pins
        .iter()
        .filter(|pin| !pin.off)
        .flat_map(|pin| pin.needs.iter().map(|need| need.value))
        .chain(ground.plan.needs.inferred.iter().map(|need| need.library))
        .collect();
    while let Some(at) = waiting.pop() {
        if !std::mem::replace(&mut used[at], true) {
            waiting.extend(board.libraries[at].needs.iter().map(|need| need.value));
        }
    }
    for library in board.libraries.iter().zip(used).filter(|(_, used)| !used).map(|(library, _)| library) {
        let message = format!("no pin needs the library `{}`, so it is on no page", *library.name);
        findings.push(
            Finding::new(Code::UnusedLibrary, Severity::Warning, ground.on_board(library.name.span), message)
                .help(format!(
                    "name it in a pin's `needs = [\"{}\"]`, or take it off the board",
                    *library.name
                )),
        );
    }
}

/// "the pin `a`", "the library `a`"
fn called(plan: &Plan<'_>, owner: Owner) -> String {
    let name = plan.name_of(owner);
    match owner {
        Owner::Library(_) => format!("the library `{name}`"),
        Owner::Pin(_) => format!("the pin `{name}`"),
    }
}

fn of_problem(ground: &Ground<'_>, problem: &Problem) -> Finding {
    let plan = ground.plan;
    let finding = |code, place: Span, message: String| {
        Finding::new(code, Severity::Error, ground.on_board(place), message)
    };
    let (finding, owner) = match problem {
        Problem::Missing { owner, place, path, error, nearest } => {
            (missing(finding, ground, *owner, *place, (path, error, nearest.as_ref())), Some(*owner))
        }
        Problem::NotUtf8 { owner, place, path, at } => {
            let message = format!(
                "`{path}` is not in UTF-8 (byte {at} is no part of a character), so {} goes without it",
                called(plan, *owner)
            );
            (finding(Code::BadEncoding, *place, message).help("save the file as UTF-8"), Some(*owner))
        }
        Problem::MissingUrl { owner, file, place, path, error } => {
            let message = format!("`{path}` cannot be loaded ({error}), so what it is for stays without it");
            (in_sheet(ground, (Code::MissingFile, *owner, file, *place), message), Some(*owner))
        }
        Problem::OutsideUrl { owner, file, place, url } => {
            let message = format!(
                "`{url}` leads out of the board's folder, so it is left as it is and will not be found"
            );
            (in_sheet(ground, (Code::MissingFile, *owner, file, *place), message), Some(*owner))
        }
        Problem::Cycle { circle } => (of_circle(ground, circle), circle.first().map(|(owner, _)| *owner)),
        Problem::EarlySlot { pin, after, place } => {
            let (first, second) = (&plan.board.pins[*after], &plan.board.pins[*pin]);
            let message = format!(
                "the script of `{}` stands in `{}` and is to come after that of `{}`, which stands in `{}`, further down the page",
                *second.name, *second.slot, *first.name, *first.slot
            );
            let help = format!(
                "give `{}` the slot `{}`, or `{}` an earlier one",
                *second.name, *first.slot, *first.name
            );
            (finding(Code::EarlySlot, *place, message).help(help), Some(Owner::Pin(*pin)))
        }
    };
    match owner {
        Some(Owner::Pin(at)) => finding.pin(plan.name_of(Owner::Pin(at))),
        _ => finding,
    }
}

fn missing(
    finding: impl Fn(Code, Span, String) -> Finding,
    ground: &Ground<'_>,
    owner: Owner,
    place: Span,
    (path, error, nearest): (&FilePath, &FileError, Option<&FilePath>),
) -> Finding {
    let message = match error {
        FileError::Missing => {
            format!("there is no file `{path}`, so {} goes without it", called(ground.plan, owner))
        }
        error => format!("`{path}` cannot be used: {error}; {} goes without it", called(ground.plan, owner)),
    };
    let help = match (nearest, error) {
        (Some(nearest), _) => format!("did you mean `{nearest}`?"),
        (None, FileError::Missing) => "paths are as seen from the board's folder".to_owned(),
        (None, _) => "put a copy of the file itself into the board's folder".to_owned(),
    };
    finding(Code::MissingFile, place, message).help(help)
}

/// A finding in a sheet; in one that another sheet imports, the place is where the board names
/// its owner, since the plan holds no text of it.
fn in_sheet(
    ground: &Ground<'_>,
    (code, owner, file, span): (Code, Owner, &FilePath, Span),
    message: String,
) -> Finding {
    let plan = ground.plan;
    let texts: Vec<_> = match owner {
        Owner::Pin(at) => plan.pins[at].style.iter().map(|style| &style.file).collect(),
        Owner::Library(at) => plan.libraries[at].styles.iter().filter_map(LibraryPart::local).collect(),
    };
    let place = match texts.iter().find(|text| text.path == *file) {
        Some(text) => Place::new(file, &text.text, span),
        None => ground.on_board(texts.first().map_or(Span::at(0), |text| text.place)),
    };
    Finding::new(code, Severity::Warning, place, message).help("put the file there, or take the address out")
}

fn of_circle(ground: &Ground<'_>, circle: &[(Owner, Span)]) -> Finding {
    let names: Vec<_> =
        circle.iter().map(|(owner, _)| format!("`{}`", ground.plan.name_of(*owner))).collect();
    let first = names.first().cloned().unwrap_or_default();
    let (verb, key) = match circle.first() {
        Some((Owner::Library(_), _)) => ("needs", "needs"),
        _ => ("comes after", "after"),
    };
    let message = match names.len() {
        1 => format!("{first} {verb} itself"),
        _ => format!("{} {verb} {first}: no order satisfies all of them", names.join(&format!(" {verb} "))),
    };
    let place = circle.first().map_or(Span::at(0), |(_, span)| *span);
    let mut finding = Finding::new(Code::Cycle, Severity::Error, ground.on_board(place), message)
        .help(format!("take one of the names out of its `{key}`"));
    for ((owner, span), next) in circle.iter().zip(names.iter().cycle().skip(1)).skip(1) {
        finding = finding
            .related(format!("`{}` {verb} {next}", ground.plan.name_of(*owner)), ground.on_board(*span));
    }
    finding
}
