//! Findings about pieces that are longer than their box takes.

use super::code::Code;
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::board::BoxReach;
use crate::code::Owner;
use crate::emit::Piece;
use crate::plan::{CodeKey, Part};

pub(super) struct TooLong;

impl Family for TooLong {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        let longest = &input.plan().board.host.longest;
        let (Some(paste_up), Some(longest)) = (input.paste_up, longest) else { return };
        for piece in paste_up.pieces.iter().filter(|piece| piece.characters() > longest.value) {
            let length = piece.characters();
            let message = format!(
                "the piece `{}` has {length} characters, {} more than its box takes",
                piece.name,
                length - longest.value
            );
            let pages = input.paths(piece.pages.iter().copied());
            let finding = Finding::new(Code::TooLong, input.on_board(longest.span), message);
            findings.push(finding.help(what_would_help(input, piece)).pages(pages));
        }
    }
}

/// What makes most of a piece, and how it gets shorter.
fn what_would_help(input: &CheckInput<'_>, piece: &Piece) -> String {
    let plan = input.plan();
    let largest = piece.parts.iter().max_by_key(|part| part.text.len());
    let name_of = |part: Part| match part {
        Part::Content(pin) => (format!("the markup of `{}`", input.pin_name(pin)), None),
        Part::Code(CodeKey { owner: Owner::Pin(pin), .. }) => {
            (format!("the pin `{}`", input.pin_name(pin)), None)
        }
        Part::Code(CodeKey { owner: Owner::Library(id), .. }) => {
            let name = &plan.board.libraries[id].name;
            (format!("the library `{}`", **name), Some(id))
        }
    };
    let Some((part, of)) = largest.and_then(|part| Some((part, part.of?))) else {
        return "take a pin out of it".to_owned();
    };
    let (name, library) = name_of(of);
    let count = part.text.chars().count();
    let has_pages = plan.board.host.boxes.iter().any(|of| of.reach == BoxReach::Page);
    match (library, piece.of.reach) {
        (Some(_), _) => format!(
            "{name} takes {count} of them: name it by an address of another host, or say with `files` under `[host]` where it can be uploaded"
        ),
        (None, BoxReach::Site) if has_pages => format!(
            "{name} takes {count} of them; `prefer = \"page\"` under `[host]` puts what is for some pages into their own boxes, and `paste --short` takes out comments and blanks"
        ),
        (None, _) => format!("{name} takes {count} of them; `paste --short` takes out comments and blanks"),
    }
}
