//! Which pins are on while somebody looks: all of them, these alone, or all but these.

use std::collections::BTreeSet;

use deft_pin_core::board::Board;
use deft_pin_core::code::PinId;

/// A choice among the pins of a board, as it stands in an address.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum PinChoice {
    /// Every pin that is on.
    #[default]
    All,
    /// These alone; none at all for the plain page.
    Only(BTreeSet<String>),
    /// All but these.
    Without(BTreeSet<String>),
}

impl PinChoice {
    /// The choice that shows a page as it is without any pin.
    pub const PLAIN: PinChoice = PinChoice::Only(BTreeSet::new());

    /// Reads a choice as it stands in an address: `a,b`, `-a,-b`, or nothing for no pin.
    pub fn parse(text: &str) -> Self {
        let names = text.split(',').filter(|name| !name.is_empty());
        match text.strip_prefix('-') {
            Some(_) => {
                PinChoice::Without(names.map(|name| name.trim_start_matches('-').to_owned()).collect())
            }
            None => PinChoice::Only(names.map(str::to_owned).collect()),
        }
    }

    /// Whether a pin is on by this choice.
    pub fn has(&self, board: &Board, pin: PinId) -> bool {
        let name = board.pins[pin].name.as_str();
        match self {
            PinChoice::All => true,
            PinChoice::Only(names) => names.contains(name),
            PinChoice::Without(names) => !names.contains(name),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_choice_says_which_pins_are_on() {
        let board =
            Board::parse("[site]\nroot = 's'\n[pin.a]\nstyle = 'a.css'\n[pin.b]\nstyle = 'b.css'").unwrap();
        let on = |text: &str| {
            let choice = PinChoice::parse(text);
            board.pins.ids().map(|pin| choice.has(&board, pin)).collect::<Vec<_>>()
        };
        assert_eq!(on(""), [false, false]);
        assert_eq!(on("b"), [false, true]);
        assert_eq!(on("a,b"), [true, true]);
        assert_eq!(on("-a"), [false, true]);
        assert_eq!(on("-a,-b"), [false, false]);
        assert_eq!(PinChoice::parse(""), PinChoice::PLAIN);
        assert!(board.pins.ids().all(|pin| PinChoice::All.has(&board, pin)));
    }
}
