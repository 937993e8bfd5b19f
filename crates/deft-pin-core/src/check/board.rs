//! Findings about the board itself: patterns, files, order, and what nothing uses.

use std::collections::HashSet;

use url::Url;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::{PagePattern, Spanned};
use crate::code::{Owner, PinId};
use crate::plan::{LibraryFile, Plan, Problem};
use crate::source::{FileError, FilePath, SourceText, Span, nearest};

pub(super) struct Board;

impl Family for Board {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        findings.extend(input.plan().problems.iter().map(|problem| of_problem(input, problem)));
        unused_libraries(input, findings);
        let pages = &input.site().pages;
        let urls: Vec<Url> = pages.iter().map(|page| page.path.url()).collect();
        let paths: HashSet<&str> = urls.iter().map(Url::path).collect();
        let matches_any = |pattern: &PagePattern| match pattern.only_path() {
            Some(path) => paths.contains(path),
            None => urls.iter().any(|url| pattern.matches_url(url)),
        };
        for (id, pin) in input.plan().board.active_pins() {
            let unmatched = pin.pages.iter().filter(|pattern| !matches_any(&pattern.value));
            findings.extend(unmatched.map(|pattern| no_page(input, id, pattern)));
            let is_skipped = |url| pin.skip.iter().any(|pattern| pattern.matches_url(url));
            if let Some(skip) = pin.skip.first().filter(|_| urls.iter().all(is_skipped)) {
                let message = format!("`skip` leaves the pin `{}` no page at all", *pin.name);
                findings.push(
                    Finding::new(Code::NoPage, input.on_board(skip.span), message)
                        .help("skip fewer pages, or write `off = true` if the pin is to rest")
                        .pin(&pin.name),
                );
            }
        }
    }
}

fn no_page(input: &CheckInput<'_>, pin: PinId, pattern: &Spanned<PagePattern>) -> Finding {
    let name = input.pin_name(pin);
    let pages = &input.site().pages;
    let message = if pages.is_empty() {
        format!("`{}` matches no page: there is no page at all in `{}`", pattern.as_str(), input.site().root)
    } else {
        format!(
            "`{}` matches no page of the site, so the pin `{name}` is not on any page by it",
            pattern.as_str()
        )
    };
    let meant = page_meant(pattern.as_str());
    let help = match near_paths(pattern.as_str(), pages.iter().map(|page| page.path.as_str())) {
        _ if pages.iter().any(|page| page.path.as_str() == meant) => format!("the page goes by `{meant}`"),
        near if near.is_empty() => {
            "paths of pages start with `/` and end as their files do: `fares/index.html` is `/fares/`"
                .to_owned()
        }
        near => format!(
            "the nearest paths are {}",
            near.iter().map(|p| format!("`{p}`")).collect::<Vec<_>>().join(", ")
        ),
    };
    Finding::new(Code::NoPage, input.on_board(pattern.span), message).help(help).pin(name)
}

/// The path of the page that an address most likely means: without `index.html`, and with its last slash.
fn page_meant(address: &str) -> String {
    let path = address.split(['?', '#']).next().unwrap_or_default();
    let path = ["index.html", "index.htm"].iter().find_map(|index| path.strip_suffix(index)).unwrap_or(path);
    if path.ends_with('/') || path.ends_with(".html") { path.to_owned() } else { format!("{path}/") }
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

fn unused_libraries(input: &CheckInput<'_>, findings: &mut Vec<Finding>) {
    let board = input.plan().board;
    let pins: Vec<PinId> = board.active_pins().map(|(pin, _)| pin).collect();
    let used = input.plan().libraries_for(&pins);
    for (_, library) in board.libraries.entries().filter(|(id, _)| !used.contains(id)) {
        let message = format!("no pin needs the library `{}`, so it is on no page", *library.name);
        findings.push(
            Finding::new(Code::UnusedLibrary, input.on_board(library.name.span), message).help(format!(
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

fn of_problem(input: &CheckInput<'_>, problem: &Problem) -> Finding {
    let plan = input.plan();
    let finding = |code, place: Span, message: String| Finding::new(code, input.on_board(place), message);
    let (finding, owner) = match problem {
        Problem::Missing { owner, place, path, error, nearest } => {
            (missing(finding, input, *owner, *place, (path, error, nearest.as_ref())), Some(*owner))
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
            (in_sheet(input, (Code::MissingFile, *owner, file, *place), message), Some(*owner))
        }
        Problem::OutsideUrl { owner, file, place, url } => {
            let message = format!(
                "`{url}` leads out of the board's folder, so it is left as it is and will not be found"
            );
            (in_sheet(input, (Code::MissingFile, *owner, file, *place), message), Some(*owner))
        }
        Problem::LeftBehind { owner, file, place, meant } => {
            (left_behind(input, (*owner, file, *place), meant), Some(*owner))
        }
        Problem::Cycle { circle } => (of_circle(input, circle), circle.first().map(|(owner, _)| *owner)),
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
    match owner.and_then(Owner::pin) {
        Some(pin) => finding.pin(input.pin_name(pin)),
        None => finding,
    }
}

fn missing(
    finding: impl Fn(Code, Span, String) -> Finding,
    input: &CheckInput<'_>,
    owner: Owner,
    place: Span,
    (path, error, nearest): (&FilePath, &FileError, Option<&FilePath>),
) -> Finding {
    let message = match error {
        FileError::Missing => {
            format!("there is no file `{path}`, so {} goes without it", called(input.plan(), owner))
        }
        error => format!("`{path}` cannot be used: {error}; {} goes without it", called(input.plan(), owner)),
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
    input: &CheckInput<'_>,
    (code, owner, file, span): (Code, Owner, &FilePath, Span),
    message: String,
) -> Finding {
    let plan = input.plan();
    let texts: Vec<_> = match owner {
        Owner::Pin(at) => plan.pins[at].style.iter().map(|style| &style.file).collect(),
        Owner::Library(at) => plan.libraries[at].styles.iter().filter_map(LibraryFile::read).collect(),
    };
    let place = match texts.iter().find(|text| text.path == *file) {
        Some(text) => Place::new(file, &text.text, span),
        // A sheet that another one loads.
        None => match plan.assets.get(file) {
            Some(asset) => {
                let text = SourceText::new(String::from_utf8_lossy(&asset.bytes).into_owned());
                Place::new(file, &text, span)
            }
            None => input.on_board(texts.first().map_or(Span::at(0), |text| text.place)),
        },
    };
    Finding::new(code, place, message)
        .severity(Severity::Warning)
        .help("put the file there, or take the address out")
}

/// Files whose address a script puts together.
fn left_behind(
    input: &CheckInput<'_>,
    (owner, file, span): (Owner, &FilePath, Span),
    meant: &[FilePath],
) -> Finding {
    let script = owner.pin().and_then(|pin| input.plan().pins[pin].script.as_ref());
    let place = match script {
        Some(script) => Place::new(file, &script.text, span),
        None => input.on_board(Span::at(0)),
    };
    let shown: Vec<String> = meant.iter().take(3).map(|path| format!("`{path}`")).collect();
    let more = if meant.len() > shown.len() { " and others" } else { "" };
    let message = format!(
        "this address is put together as the script runs, so what it may mean does not go along: {}{more}",
        shown.join(", ")
    );
    Finding::new(Code::MissingFile, place, message)
        .severity(Severity::Warning)
        .help("write each address in one piece, in a list or an object say; or put the files into the site, and write their address from its root")
}

fn of_circle(input: &CheckInput<'_>, circle: &[(Owner, Span)]) -> Finding {
    let names: Vec<_> =
        circle.iter().map(|(owner, _)| format!("`{}`", input.plan().name_of(*owner))).collect();
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
    let mut finding = Finding::new(Code::Cycle, input.on_board(place), message)
        .help(format!("take one of the names out of its `{key}`"));
    for ((owner, span), next) in circle.iter().zip(names.iter().cycle().skip(1)).skip(1) {
        finding = finding
            .related(format!("`{}` {verb} {next}", input.plan().name_of(*owner)), input.on_board(*span));
    }
    finding
}
