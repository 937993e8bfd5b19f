//! Findings about what a page's Content Security Policy stops.

use std::collections::BTreeMap;

use super::Ground;
use super::finding::{Code, Finding, Severity};
use crate::plan::{Owner, PartKey, PartKind};
use crate::site::Stop;

/// Something that is put into a page and that its policy stops.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Stopped {
    /// What.
    pub part: PartKey,
    /// By what.
    pub stop: Stop,
}

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    let mut found: BTreeMap<(PartKey, &str, &str), (&Stopped, Vec<usize>)> = BTreeMap::new();
    for facts in ground.facts {
        for stopped in &facts.stopped {
            let key = (stopped.part, &*stopped.stop.directive, &*stopped.stop.wanted);
            found.entry(key).or_insert((stopped, Vec::new())).1.push(facts.page);
        }
    }
    for (stopped, pages) in found.into_values() {
        let board = ground.plan.board;
        let span = match stopped.part.owner {
            Owner::Library(at) => board.libraries[at].name.span,
            Owner::Pin(at) => board.pins[at].name.span,
        };
        let name = ground.plan.name_of(stopped.part.owner);
        let what = if stopped.part.kind == PartKind::Style { "sheet" } else { "script" };
        let from = match stopped.stop.wanted.contains("://") {
            true => format!(" from `{}`", stopped.stop.wanted),
            false => String::new(),
        };
        let message = format!(
            "the page's policy stops the {what} of `{name}`{from}: its `{}` does not let it in, and the browser leaves it out",
            stopped.stop.directive
        );
        let help = match stopped.stop.is_strict {
            true => format!(
                "with `'strict-dynamic'` only nonces and hashes count: ask for a hash of it in `{}`",
                stopped.stop.directive
            ),
            false => format!("add `{}` to `{}`", stopped.stop.wanted, stopped.stop.directive),
        };
        let finding = Finding::new(Code::BlockedByPolicy, Severity::Error, ground.on_board(span), message);
        let finding = finding.help(help).pages(ground.paths(pages));
        findings.push(match stopped.part.owner {
            Owner::Pin(_) => finding.pin(name),
            Owner::Library(_) => finding,
        });
    }
}
