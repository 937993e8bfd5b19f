//! Findings about targets: what `having` and `within` match on the pages that a pin is for.

use serde::Serialize;

use super::code::Code;
use super::explanations::{MissingName, Question, Questions};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, counted, share};
use super::input::CheckInput;
use super::page_checker::{Awaited, PageChecker};
use crate::board::{SelectorText, Spanned};
use crate::code::{PageId, PinId};
use crate::site::NameSource;

pub(super) struct Targets;

/// What a page has of the target of a pin that is for it as far as its path tells.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct TargetFact {
    pin: PinId,
    /// Whether the page holds what the pin's `having` asks for.
    is_on_page: bool,
    /// How many elements are the pin's target.
    targets: usize,
    /// What is still to come of the selector that matches nothing: `having`, or else `within`.
    awaited: Awaited,
}

impl Family for Targets {
    type Fact = TargetFact;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<TargetFact>) {
        for matches in page.page.matches() {
            let pin = &page.page.context().plan.board.pins[matches.pin];
            let awaited = match (&pin.having, &pin.within) {
                (Some(having), _) if !matches.is_on_page => page.awaited(matches.pin, having.list.slice()),
                (_, Some(within)) if matches.is_on_page && matches.targets.is_empty() => {
                    page.awaited(matches.pin, within.list.slice())
                }
                _ => Awaited::Nothing,
            };
            facts.push(TargetFact {
                pin: matches.pin,
                is_on_page: matches.is_on_page,
                targets: matches.targets.len(),
                awaited,
            });
        }
    }

    fn questions(input: &CheckInput<'_>, facts: &FactsByPage<TargetFact>, questions: &mut Questions) {
        for pin in PinTargets::all(input, facts) {
            if pin.is_nowhere() {
                let pages: Vec<PageId> = pin.pages.iter().map(|(page, _)| *page).collect();
                questions.ask_some(&pages, Question::MissingHaving(pin.pin));
            }
            questions.ask_some(&pin.never_targeted(), Question::MissingTarget(pin.pin));
            if let Some((page, _)) = pin.with_many().first() {
                questions.ask(*page, Question::TargetLines(pin.pin));
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<TargetFact>, findings: &mut Vec<Finding>) {
        for pin in PinTargets::all(input, facts) {
            let board = &input.plan().board.pins[pin.pin];
            if let Some(having) = board.having.as_ref().filter(|_| pin.is_nowhere()) {
                findings.push(pin.no_having(having));
            }
            if let Some(within) = &board.within {
                findings.extend(pin.no_within(within));
                findings.extend(pin.many_within(within));
            }
        }
    }
}

/// What the pages say that a pin is for.
struct PinTargets<'f> {
    input: &'f CheckInput<'f>,
    pin: PinId,
    pages: Vec<(PageId, &'f TargetFact)>,
}

impl<'f> PinTargets<'f> {
    /// The pins that are for some page.
    fn all(input: &'f CheckInput<'f>, facts: &'f FactsByPage<TargetFact>) -> Vec<Self> {
        let by_pin = facts.by_subject(|fact| fact.pin);
        by_pin.into_iter().map(|(pin, pages)| PinTargets { input, pin, pages }).collect()
    }

    /// Whether no page holds what `having` asks for.
    fn is_nowhere(&self) -> bool {
        self.pages.iter().all(|(_, fact)| !fact.is_on_page)
    }

    /// The pages that the pin is on.
    fn on(&self) -> impl Iterator<Item = (PageId, &'f TargetFact)> + Clone {
        self.pages.iter().copied().filter(|(_, fact)| fact.is_on_page)
    }

    /// The pages that the pin is on and that have no target, nor a script that may make one.
    fn never_targeted(&self) -> Vec<PageId> {
        if self.input.plan().board.pins[self.pin].within.is_none() {
            return Vec::new();
        }
        let never = self.on().filter(|(_, fact)| fact.targets == 0 && fact.awaited == Awaited::Nothing);
        never.map(|(page, _)| page).collect()
    }

    /// The pages on which the target is an ID that stands there more than once.
    fn with_many(&self) -> Vec<(PageId, usize)> {
        let fits = |c: char| c.is_alphanumeric() || c == '-' || c == '_';
        let within = self.input.plan().board.pins[self.pin].within.as_ref();
        let is_id =
            within.is_some_and(|own| own.text.strip_prefix('#').is_some_and(|id| id.chars().all(fits)));
        let many = self.on().filter(|(_, fact)| is_id && fact.targets > 1);
        many.map(|(page, fact)| (page, fact.targets)).collect()
    }

    fn no_having(&self, having: &Spanned<SelectorText>) -> Finding {
        let name = self.input.pin_name(self.pin);
        let paths = self.input.paths(self.pages.iter().map(|(page, _)| *page));
        let message = format!(
            "`having = {:?}` matches nothing on {}, so the pin `{name}` is on none",
            having.text,
            counted(paths.len(), "the one page that it is for", "pages that it is for")
                .replace("1 the one", "the one")
        );
        let place = self.input.on_board(having.span);
        let by_script = self.pages.iter().find_map(|(_, fact)| script_of(&fact.awaited));
        let (code, help) = match by_script {
            Some((name, source)) => (Code::AtRunTime, later_help(name, source)),
            None => {
                let question = Question::MissingHaving(self.pin);
                let missing = self.input.explanations.missing(std::iter::once(question));
                (Code::NoElement, never_help(missing, &having.text))
            }
        };
        Finding::new(code, place, message).help(help).pin(name).pages(paths)
    }

    fn no_within(&self, within: &Spanned<SelectorText>) -> Vec<Finding> {
        // A name that a script may add is another matter than one that nothing will ever bring in.
        let later = self.on().filter(|(_, fact)| fact.targets == 0 && script_of(&fact.awaited).is_some());
        let later: Vec<_> = later.collect();
        let never = self.never_targeted();
        let all = self.on().count();
        let mut findings = Vec::new();
        let place = || self.input.on_board(within.span);
        if !never.is_empty() {
            let paths = self.input.paths(never.iter().copied());
            let message = self.without_target(within, &paths, "there, so the pin does nothing there");
            let question = std::iter::once(Question::MissingTarget(self.pin));
            let mut help = never_help(self.input.explanations.missing(question), &within.text);
            if never.len() < all {
                help.push_str(&format!(
                    "; for the pages that have it alone, add `having = {:?}`",
                    within.text
                ));
            }
            findings.push(Finding::new(Code::NoElement, place(), message).help(help).pages(paths));
        }
        if let Some((name, source)) = later.first().and_then(|(_, fact)| script_of(&fact.awaited)) {
            let paths = self.input.paths(later.iter().map(|(page, _)| *page));
            let follows = "at first, so the pin waits for a script there";
            let message = self.without_target(within, &paths, follows);
            let finding = Finding::new(Code::AtRunTime, place(), message);
            findings.push(finding.help(later_help(name, source)).pages(paths));
        }
        findings.into_iter().map(|finding| finding.pin(self.input.pin_name(self.pin))).collect()
    }

    /// "`#status` is the target on `/fares/`, one of the 4 pages of `storm-notice` and …"
    fn without_target(
        &self,
        within: &Spanned<SelectorText>,
        paths: &[crate::site::PagePath],
        follows: &str,
    ) -> String {
        format!(
            "`{}` is the target {} of `{}` and matches no element {follows}",
            within.text,
            share(paths, self.on().count()).replace("its ", "the "),
            self.input.pin_name(self.pin),
        )
    }

    fn many_within(&self, within: &Spanned<SelectorText>) -> Option<Finding> {
        let many = self.with_many();
        let (_, times) = *many.first()?;
        let paths = self.input.paths(many.iter().map(|(page, _)| *page));
        let lines = self.input.explanations.lines(Question::TargetLines(self.pin));
        let shown: Vec<_> = lines.iter().map(u32::to_string).collect();
        let message = format!(
            "`{}` is to be one element, and {} has it {times} times (lines {}{}): CSS reaches all of them, a script finds the first alone",
            within.text,
            match paths.as_slice() {
                [only] => format!("`{only}`"),
                paths => format!("each of {} pages, such as `{}`,", paths.len(), paths[0]),
            },
            shown.join(", "),
            if times > lines.len() { ", …" } else { "" }
        );
        let help = format!("name the section around the one that is meant: `main {}`, say", within.text);
        let finding = Finding::new(Code::ManyElements, self.input.on_board(within.span), message);
        Some(finding.help(help).pin(self.input.pin_name(self.pin)).pages(paths))
    }
}

fn script_of(awaited: &Awaited) -> Option<(&str, &NameSource)> {
    match awaited {
        Awaited::Script { name, source } => Some((name, source)),
        Awaited::Nothing | Awaited::Announced => None,
    }
}

fn later_help(name: &str, source: &NameSource) -> String {
    let does = if source.line.is_some() { "adds it" } else { "names it and may add it" };
    format!("the page has no `{name}` as it is served; `{source}` {does} at run time")
}

/// What to do where something is not there and will not be.
pub(super) fn never_help(missing: Option<&MissingName>, selector: &str) -> String {
    match missing {
        Some(MissingName { name: Some(name), in_shadow_of: Some(host), .. }) => format!(
            "`{name}` is in the shadow tree of `{host}`, where neither a sheet nor a lookup of the page reaches"
        ),
        Some(MissingName { name: Some(name), near: Some(near), .. }) => {
            format!("there is no `{name}`; did you mean `{near}`?")
        }
        Some(MissingName { name: Some(name), .. }) => {
            format!("there is no `{name}`, nor anything of nearly that name")
        }
        _ => format!("each of the names in `{selector}` is there, but not in this relation to each other"),
    }
}
