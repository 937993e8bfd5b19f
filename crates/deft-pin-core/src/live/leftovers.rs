//! Judges what is marked as this tool's and is no part of the page.

use super::held::{Held, PartState};
use super::judge::{Judge, is_same_code};
use super::published::{PartLook, PublishedPart};
use super::served::Mark;

impl Judge<'_> {
    /// What is marked as this tool's and is no part of the page.
    pub(super) fn leftovers(&self) -> Vec<Held> {
        let mut rows = Vec::new();
        for (at, there) in self.of.page.elements.iter().enumerate() {
            let Mark::Of(name) = &there.mark else { continue };
            let is_other = |part: &&&PublishedPart| match &part.look {
                PartLook::Element(own) => is_same_code(own, part.kind, there),
                _ => false,
            };
            // Of what is for this page, a second one is told there; boxes of the site are on every page.
            let is_told = |row: &Held| row.line == Some(there.line) && row.name.as_ref() == Some(name);
            let is_of_page = |part: &&&PublishedPart| {
                part.name.as_ref() == Some(name) && part.kind.family() == there.kind.family()
            };
            if self.taken[at].is_some()
                || rows.iter().any(is_told)
                || self.of.others.iter().any(|own| is_other(&own))
            {
                continue;
            }
            let release = self.release_of(Some(name), there);
            let mates = self.of.parts.iter().filter(|own| is_of_page(own)).count();
            if mates > 0 {
                let all = self.of.page.elements.iter();
                let same =
                    all.filter(|own| own.mark == there.mark && own.kind.family() == there.kind.family());
                let is_same_as_a_part = self.of.parts.iter().any(|own| is_other(&own));
                if is_same_as_a_part || release.is_some() || same.count() <= mates {
                    continue;
                }
            }
            let (state, message) = match release {
                Some(release) => {
                    let message = format!(
                        "release {release} had it here, release {} has not: take it out",
                        self.of.release
                    );
                    (PartState::Stale, message)
                }
                None => {
                    (PartState::Stray, format!("a `<{}>` marked as its own is of no release", there.own.tag))
                }
            };
            rows.push(Held {
                name: Some(name.clone()),
                pins: vec![name.clone()],
                kind: there.kind,
                piece: None,
                state,
                release,
                message,
                texts: None,
                address: there.own.address.clone(),
                line: Some(there.line),
            });
        }
        rows
    }
}
