//! Findings about what a page's Content Security Policy stops.

use serde::Serialize;

use super::code::Code;
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::Owner;
use crate::emit::text_in;
use crate::plan::{CodeKey, CodeSource};
use crate::site::{Request, Stop, policies};

pub(super) struct Blocked;

/// Something that is put into a page and that its policy stops.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub struct BlockedCode {
    /// What.
    code: CodeKey,
    /// By what.
    stop: Stop,
}

impl Family for Blocked {
    type Fact = BlockedCode;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<BlockedCode>) {
        let placements = page.page.placements();
        if placements.is_empty() {
            return;
        }
        let (plan, document) = (page.page.context().plan, page.page.document());
        let policies = policies(document, plan.board.policy.as_ref().map(|policy| policy.as_str()));
        if policies.is_empty() {
            return;
        }
        for (placement, element) in placements.iter().zip(page.emitted.elements()) {
            let (Some(source), Some(element)) = (plan.code(placement.code), element) else { continue };
            let text = text_in(element);
            let request = match (source, &text) {
                (CodeSource::Remote(url), _) => Request::Url(url),
                (CodeSource::File(..), Some(text)) => Request::InlineText(text),
                (CodeSource::File(..), None) => Request::OwnFile,
            };
            // A policy in the page's head counts for what stands after it.
            let at = page.page.gap(placement.at).map_or(0, |gap| gap.at);
            let mut count = policies.iter().filter(|policy| policy.from == 0 || policy.from < at);
            let stop = count.find_map(|policy| policy.stops(placement.code.kind, request));
            facts.extend(stop.map(|stop| BlockedCode { code: placement.code, stop }));
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<BlockedCode>, findings: &mut Vec<Finding>) {
        for shared in facts.shared(BlockedCode::clone) {
            let BlockedCode { code, stop } = shared.first;
            let board = input.plan().board;
            let span = match code.owner {
                Owner::Library(library) => board.libraries[library].name.span,
                Owner::Pin(pin) => board.pins[pin].name.span,
            };
            let name = input.plan().name_of(code.owner);
            let from = match stop.wanted.contains("://") {
                true => format!(" from `{}`", stop.wanted),
                false => String::new(),
            };
            let message = format!(
                "the page's policy stops the {} of `{name}`{from}: its `{}` does not let it in, and the browser leaves it out",
                code.kind, stop.directive
            );
            let help = match stop.is_strict {
                true => format!(
                    "with `'strict-dynamic'` only nonces and hashes count: ask for a hash of it in `{}`",
                    stop.directive
                ),
                false => format!("add `{}` to `{}`", stop.wanted, stop.directive),
            };
            let finding = Finding::new(Code::BlockedByPolicy, input.on_board(span), message);
            let finding = finding.help(help).pages(input.paths(shared.pages));
            findings.push(if code.owner.pin().is_some() { finding.pin(name) } else { finding });
        }
    }
}
