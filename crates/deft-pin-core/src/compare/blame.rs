//! Which pin is behind a change.

use super::changes::{ElementChange, How};
use super::seen::SeenPage;

/// What a pin reaches on a page as it was shown.
#[derive(Clone, Debug, Default)]
pub struct PinReachSeen {
    /// The pin's name.
    pub name: String,
    /// The elements that its rules, its markup and its marks are about, by their places.
    pub touched: Vec<usize>,
    /// The elements that are its target; none where that is the page.
    pub within: Option<Vec<usize>>,
    /// Whether it has markup of its own.
    pub has_markup: bool,
    /// Whether it has a script, which may do anything within its target.
    pub has_script: bool,
}

/// The pins behind each change, the most likely first; none where no pin can be.
pub fn blame(after: &SeenPage, changes: &[ElementChange], pins: &[PinReachSeen]) -> Vec<Vec<String>> {
    let mut judge = Judge { after, pins, by: vec![Vec::new(); changes.len()] };
    for (number, change) in changes.iter().enumerate() {
        judge.by[number] = judge.direct(change);
    }
    // What an element inherits, or stands in, comes from around it.
    for number in 0..changes.len() {
        if judge.by[number].is_empty() {
            judge.by[number] = judge.around(changes, number);
        }
    }
    for (number, change) in changes.iter().enumerate() {
        if judge.by[number].is_empty() {
            judge.by[number] = judge.scripted(change);
        }
    }
    // What was pushed was pushed by something in it, or before it.
    for number in 0..changes.len() {
        if judge.by[number].is_empty() {
            judge.by[number] = judge.pushing(changes, number);
        }
    }
    if let [only] = pins {
        judge.by.iter_mut().filter(|by| by.is_empty()).for_each(|by| by.push(only.name.clone()));
    }
    judge.by
}

struct Judge<'j> {
    after: &'j SeenPage,
    pins: &'j [PinReachSeen],
    by: Vec<Vec<String>>,
}

impl Judge<'_> {
    /// Pins that have a rule for the element, or brought it. A pseudo-element's rules are told by its element.
    fn direct(&self, change: &ElementChange) -> Vec<String> {
        let Some(own) = change.after.filter(|_| change.how != How::Pushed) else { return Vec::new() };
        let element = match self.after.elements[own].name.starts_with("::") {
            true => self.after.elements[own].parent.unwrap_or(own),
            false => own,
        };
        self.names(|pin| pin.touched.contains(&element))
    }

    fn names(&self, is_one: impl Fn(&PinReachSeen) -> bool) -> Vec<String> {
        self.pins.iter().filter(|pin| is_one(pin)).map(|pin| pin.name.clone()).collect()
    }

    /// What is behind the nearest change around an element that changed its look.
    fn around(&self, changes: &[ElementChange], number: usize) -> Vec<String> {
        if changes[number].how == How::Pushed {
            return Vec::new();
        }
        let mut outer = changes[number].after.and_then(|own| self.after.elements[own].parent);
        while let Some(own) = outer {
            let is_it = |(_, change): &(usize, &ElementChange)| {
                change.after == Some(own) && change.how != How::Pushed
            };
            if let Some((found, _)) = changes.iter().enumerate().find(is_it)
                && !self.by[found].is_empty()
            {
                return self.by[found].clone();
            }
            outer = self.after.elements[own].parent;
        }
        Vec::new()
    }

    /// Pins whose script or markup may be behind it: those whose target it is in.
    fn scripted(&self, change: &ElementChange) -> Vec<String> {
        if change.how == How::Pushed {
            return Vec::new();
        }
        let may = |pin: &PinReachSeen| match (&pin.within, change.after) {
            (None, _) => true,
            (Some(within), Some(own)) => self.is_in(own, within),
            (Some(_), None) => true,
        };
        let mut names = Vec::new();
        if matches!(change.how, How::New | How::Gone) {
            names.extend(self.names(|pin| pin.has_markup && may(pin)));
        }
        names.extend(
            self.names(|pin| pin.has_script && may(pin))
                .into_iter()
                .filter(|name| !names.contains(name))
                .collect::<Vec<_>>(),
        );
        names
    }

    fn is_in(&self, element: usize, targets: &[usize]) -> bool {
        let mut own = Some(element);
        while let Some(at) = own {
            if targets.contains(&at) {
                return true;
            }
            own = self.after.elements[at].parent;
        }
        false
    }

    /// What is behind a change in the element, or else behind the nearest one before it, or after it.
    fn pushing(&self, changes: &[ElementChange], number: usize) -> Vec<String> {
        let known = |at: &usize| !self.by[*at].is_empty() && changes[*at].how != How::Pushed;
        // What has another size has it from something inside that has; what is only elsewhere was pushed there.
        let inside: Vec<usize> = match changes[number].after.filter(|_| has_another_size(&changes[number])) {
            Some(own) => {
                let is_inside =
                    |at: &usize| changes[*at].after.is_some_and(|other| self.is_in(other, &[own]));
                (number + 1..changes.len()).take_while(is_inside).filter(known).collect()
            }
            None => Vec::new(),
        };
        let grown = inside.iter().find(|at| has_another_size(&changes[**at]));
        if let Some(at) = grown.or(inside.first()) {
            return self.by[*at].clone();
        }
        let before = (0..number).rev().find(known);
        let at = before.or_else(|| (number + 1..changes.len()).find(known));
        at.map(|at| self.by[at].clone()).unwrap_or_default()
    }
}

fn has_another_size(change: &ElementChange) -> bool {
    !change.box_before.zip(change.box_after).is_some_and(|(old, new)| old.is_as_large_as(&new))
}
