//! Uses of globals, gathered by name.

use std::collections::BTreeMap;

use super::record::{GlobalUse, When};
use crate::source::Span;

/// Uses of globals, by name: the first and earliest of each.
#[derive(Default)]
pub(super) struct Uses(BTreeMap<String, GlobalUse>);

impl Uses {
    pub(super) fn note(&mut self, name: &str, span: Span, when: When, guarded: bool) {
        let new = GlobalUse { name: name.to_owned(), span, when, guarded, scheduled: false };
        match self.0.get_mut(name) {
            None => {
                self.0.insert(name.to_owned(), new);
            }
            // The earliest that nothing guards tells the most.
            Some(known) if (guarded, when, span) < (known.guarded, known.when, known.span) => *known = new,
            Some(_) => {}
        }
    }

    /// The earliest counts, and whether each of them leaves alone what is there.
    pub(super) fn define(&mut self, name: &str, span: Span, (when, scheduled): (When, bool), guarded: bool) {
        let new = GlobalUse { name: name.to_owned(), span, when, guarded, scheduled };
        let known = self.0.entry(name.to_owned()).or_insert_with(|| new.clone());
        let all_guarded = known.guarded && guarded;
        if (new.when, new.guarded, new.span) < (known.when, known.guarded, known.span) {
            *known = new;
        }
        known.guarded = all_guarded;
        known.scheduled &= scheduled;
    }

    pub(super) fn into_list(self) -> Vec<GlobalUse> {
        self.0.into_values().collect()
    }
}
