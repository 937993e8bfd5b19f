//! Findings about what no box of the host can hold, or bring to where it is meant for.

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::Pin;
use crate::code::{CodeKind, beside_mark};
use crate::emit::{LARGEST_CARRIED, LeftOut, OutOfReach, left_out_by_host};
use crate::plan::{FileText, LocalUrl, UrlForm};
use crate::source::Span;

pub(super) struct OutOfReaches;

impl Family for OutOfReaches {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        let left_out = match input.paste_up {
            Some(paste_up) => paste_up.left_out.clone(),
            None => left_out_by_host(input.context),
        };
        findings.extend(left_out.iter().map(|left| of_left_out(input, left)));
        findings.extend(too_large(input));
    }
}

fn of_left_out(input: &CheckInput<'_>, left: &LeftOut) -> Finding {
    let pin = &input.plan().board.pins[left.pin];
    let name = input.pin_name(left.pin);
    let what = match left.kind {
        Some(CodeKind::Style) => "its CSS",
        Some(CodeKind::Script) => "its script",
        None if left.why == OutOfReach::OutsideTheFrame => "the pin",
        None => "its markup",
    };
    let kind = input.plan().board.host.kind.name();
    let (message, help) = match left.why {
        OutOfReach::OutsideTheFrame => (
            format!(
                "what the pin is for stands outside the frame of a block, and nothing in the frame reaches it: on `{kind}` the pin is left out"
            ),
            "in a frame only markup at the place of the block itself, with its own style and script, can be shown: `place = \"append\"` and `at` as in `block` of `[host]`",
        ),
        OutOfReach::NoBox => (
            format!("the host has no box that takes {what}, so it is left out"),
            "say with `site`, `page`, `styles` or `scripts` under `[host]` which boxes there are, and with `strips` what does not survive in them",
        ),
        OutOfReach::NoScriptsInTheFrame => (
            "the frame in which the host's blocks are runs no scripts: `frame` does not say `allow-scripts`"
                .to_owned(),
            "leave the script away, or say with `frame` under `[host]` what the frame allows",
        ),
        OutOfReach::NotKept => (
            format!(
                "{what} goes into a box that is on every page, and nothing can keep it to the pages of the pin, so it is left out"
            ),
            "a box that takes scripts would do, or a class on `body` that these pages have alone",
        ),
        OutOfReach::NotSafe => (
            format!("{what} cannot stand in a page without being read as something else, so it is left out"),
            "it has a NUL, or what would end its element: take that out",
        ),
        OutOfReach::OtherNamespaces => (
            "its CSS and that of another pin share one box, and `@namespace` would count for both, so it is left out"
                .to_owned(),
            "give the namespace a prefix of its own (`@namespace own url(…)`), and write `own|` in front of the names that it is for",
        ),
    };
    Finding::new(Code::OutOfReach, input.on_board(place_of(pin, left.kind)), message).help(help).pin(name)
}

/// Where the board says what is left out.
fn place_of(pin: &Pin, kind: Option<CodeKind>) -> Span {
    let own = match kind {
        Some(CodeKind::Style) => pin.style.as_ref().map(|style| style.span),
        Some(CodeKind::Script) => pin.script.as_ref().map(|script| script.span),
        None => pin.markup.first().map(|markup| markup.span).or(pin.marks.first().map(|mark| mark.span)),
    };
    own.unwrap_or(pin.name.span)
}

/// Files that pins name, that cannot be uploaded, and that cannot be carried along either.
fn too_large(input: &CheckInput<'_>) -> Vec<Finding> {
    let plan = input.plan();
    let host = &plan.board.host;
    if host.changes_files || host.files.is_some() {
        return Vec::new();
    }
    let mut found = Vec::new();
    for (pin, planned) in plan.pins.entries() {
        let style = planned.style.iter().map(|style| &style.file);
        let files = style.chain(&planned.script).chain(planned.markup.iter().map(|markup| &markup.text));
        for (file, url) in files.flat_map(|file| file.urls.iter().map(move |url| (file, url))) {
            let size = plan.assets.get(&url.path).map_or(0, |asset| asset.bytes.len());
            let (message, help) = if url.form == UrlForm::Link {
                (
                    format!(
                        "the markup links to `{}`, and the host takes no files: it would stand in the page itself, and browsers do not follow such a link",
                        url.path
                    ),
                    "put the file where the site has its own and write its address, or say with `files` under `[host]` where uploaded files are".to_owned(),
                )
            } else if size > LARGEST_CARRIED {
                (
                    format!(
                        "`{}` has {} kB, and the host takes no files: it cannot be carried along, so it will not be shown",
                        url.path,
                        size / 1000
                    ),
                    format!(
                        "make it smaller ({} kB at the most), or say with `files` under `[host]` where uploaded files are",
                        LARGEST_CARRIED / 1000
                    ),
                )
            } else {
                continue;
            };
            let place = Place::new(&file.path, &file.text, place_in(file, url));
            found.push(Finding::new(Code::OutOfReach, place, message).help(help).pin(input.pin_name(pin)));
        }
    }
    found
}

/// Where an address stands in the text as it is now.
fn place_in(file: &FileText, url: &LocalUrl) -> Span {
    let mark = match url.form {
        UrlForm::Markup | UrlForm::Link => beside_mark(&url.path),
        _ => return url.span,
    };
    let at = file.text.as_str().find(&mark);
    at.map_or(Span::at(0), |at| Span::new(at, at + mark.len()))
}
