//! What the board has answered with `accept`: findings of those codes are not told. An entry that
//! answers nothing is told itself.

use super::code::Code;
use super::finding::Finding;
use super::input::CheckInput;
use crate::board::Spanned;
use crate::code::PinId;
use crate::source::nearest;

/// An entry of an `accept`, and what it speaks for.
struct Entry<'b> {
    code: &'b Spanned<String>,
    /// The pin; `None` for all of the board.
    pin: Option<PinId>,
    answers: bool,
}

/// Takes out the findings that the board has answered, and adds those about entries that answer
/// nothing. Where some pins alone are looked at, an entry of the whole board may answer for others.
pub(super) fn unanswered(
    input: &CheckInput<'_>,
    findings: Vec<Finding>,
    is_chosen: impl Fn(PinId) -> bool,
    are_all_chosen: bool,
) -> Vec<Finding> {
    let board = input.plan().board;
    let of_board = board.accept.iter().map(|code| Entry { code, pin: None, answers: false });
    let of_pins = board.active_pins().flat_map(|(id, pin)| {
        pin.accept.iter().map(move |code| Entry { code, pin: Some(id), answers: false })
    });
    let mut entries: Vec<Entry<'_>> = of_pins.chain(of_board).collect();
    if entries.is_empty() {
        return findings;
    }
    let mut told: Vec<Finding> = findings
        .into_iter()
        .filter(|finding| {
            let answers = |entry: &Entry<'_>| {
                **entry.code == finding.code.name()
                    && entry.pin.is_none_or(|pin| finding.pin.as_deref() == Some(input.pin_name(pin)))
            };
            let entry = entries.iter_mut().find(|entry| answers(entry));
            entry.map(|entry| entry.answers = true).is_none()
        })
        .collect();
    let idle = entries.iter().filter(|entry| !entry.answers);
    told.extend(
        idle.filter(|entry| entry.pin.map_or(are_all_chosen, &is_chosen))
            .map(|entry| answers_nothing(input, entry)),
    );
    told
}

fn answers_nothing(input: &CheckInput<'_>, entry: &Entry<'_>) -> Finding {
    let code: &str = entry.code;
    let names = || Code::ALL.iter().map(|code| code.name());
    let (message, help) = match names().any(|name| name == code) {
        true => {
            let place = match entry.pin {
                Some(pin) => format!("about the pin `{}`", input.pin_name(pin)),
                None => "about this board".to_owned(),
            };
            let message = format!("`accept` answers `{code}`, and there is no such finding {place}");
            (message, "take it out, so that one that comes later is told".to_owned())
        }
        false => {
            let near = nearest(code, names()).map(|near| format!("did you mean `{near}`?"));
            let help = near.unwrap_or_else(|| {
                "it takes the codes of findings, such as `stays-hidden`, as `check` shows them".to_owned()
            });
            (format!("`accept` answers `{code}`, and no finding has that code"), help)
        }
    };
    let finding = Finding::new(Code::AnswersNothing, input.on_board(entry.code.span), message).help(help);
    match entry.pin {
        Some(pin) => finding.pin(input.pin_name(pin)),
        None => finding,
    }
}
