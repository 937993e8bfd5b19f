//! Findings about selectors of pins' sheets that match nothing, or on some of the pages alone.

use serde::Serialize;

use super::code::{Code, Severity};
use super::explanations::{Question, Questions};
use super::facts::FactsByPage;
use super::family::Family;
use super::finding::{Finding, counted, share};
use super::input::CheckInput;
use super::page_checker::{Awaited, PageChecker};
use super::target::never_help;
use crate::code::{PageId, PinId};
use crate::markup::names_in;
use crate::plan::{PinStyle, RuleSelectors};
use crate::site::NameSource;
use crate::source::{Span, offset};
use crate::style::LossKind;

pub(super) struct Unmatched;

/// What the selectors of a pin's sheet match on a page that the pin and its target are on.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct SheetMatches {
    pin: PinId,
    /// For each selector, whether it may match something, or the pin's author says that it will.
    matched: Box<[bool]>,
    /// Those that match nothing and wait for a name, with the script that may bring it in.
    awaited: Vec<AwaitedMatch>,
    /// Whether the sheet stands in the head.
    is_in_head: bool,
}

/// A selector that matches nothing before a script has brought a name in.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub struct AwaitedMatch {
    /// The selector's number in the sheet.
    selector: u32,
    name: String,
    source: NameSource,
}

impl Family for Unmatched {
    type Fact = SheetMatches;

    fn facts(page: &PageChecker<'_>, facts: &mut Vec<SheetMatches>) {
        let plan = page.page.context().plan;
        for matches in page.page.matches() {
            let board = &plan.board.pins[matches.pin];
            let is_targeted = board.within.is_none() || !matches.targets.is_empty();
            let Some(style) = plan.pins[matches.pin].style.as_ref() else { continue };
            if !matches.is_on_page || !is_targeted {
                continue;
            }
            let mut fact = SheetMatches {
                pin: matches.pin,
                matched: matches.matched.clone(),
                awaited: Vec::new(),
                is_in_head: page.is_in_head(matches.pin),
            };
            for (number, selector) in style.selectors().enumerate() {
                if fact.matched[number] {
                    continue;
                }
                let is_announced = !board.adds.is_empty()
                    && names_in(&selector.written)
                        .iter()
                        .any(|name| board.adds.iter().any(|added| added == name.name()));
                match page.awaited(matches.pin, std::slice::from_ref(&selector.written)) {
                    _ if is_announced => fact.matched[number] = true,
                    Awaited::Announced => fact.matched[number] = true,
                    Awaited::Script { name, source } => {
                        fact.awaited.push(AwaitedMatch { selector: offset(number), name, source });
                    }
                    Awaited::Nothing => {}
                }
            }
            facts.push(fact);
        }
    }

    fn questions(input: &CheckInput<'_>, facts: &FactsByPage<SheetMatches>, questions: &mut Questions) {
        for sheet in PinSheet::all(input, facts) {
            let pages: Vec<PageId> = sheet.pages.iter().map(|(page, _)| *page).collect();
            for (number, _) in sheet.style.selectors().enumerate() {
                if sheet.is_idle(number) && sheet.awaited(&[number]).is_none() {
                    questions.ask_some(&pages, Question::MissingMatch(sheet.pin, offset(number)));
                }
            }
        }
    }

    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<SheetMatches>, findings: &mut Vec<Finding>) {
        for sheet in PinSheet::all(input, facts) {
            let mut around: Vec<RuleAround> = Vec::new();
            for (number, rule) in sheet.style.rules.iter().enumerate() {
                while around.last().is_some_and(|outer| Some(outer.number) != rule.inside) {
                    around.pop();
                }
                let pages = sheet.pages_of(rule);
                sheet.of_rule(rule, &pages, around.last(), findings);
                around.push(RuleAround { number, prelude: rule.prelude, pages });
            }
            findings.extend(sheet.rootless_scopes());
            findings.extend(sheet.at_run_time());
        }
    }
}

/// The sheet of a pin, and what the pages say of it that the pin and its target are on.
struct PinSheet<'f> {
    input: &'f CheckInput<'f>,
    pin: PinId,
    style: &'f PinStyle,
    pages: Vec<(PageId, &'f SheetMatches)>,
}

/// A rule that others are nested in.
struct RuleAround {
    /// Its place among the rules.
    number: usize,
    prelude: Span,
    /// The pages on which it may match something.
    pages: Vec<PageId>,
}

impl<'f> PinSheet<'f> {
    fn all(input: &'f CheckInput<'f>, facts: &'f FactsByPage<SheetMatches>) -> Vec<Self> {
        let mut by_pin = facts.by_subject(|fact| fact.pin);
        let of_pin = |(pin, style)| Some(PinSheet { input, pin, style, pages: by_pin.remove(&pin)? });
        input.styles().filter_map(of_pin).collect()
    }

    fn is_idle(&self, number: usize) -> bool {
        self.pages.iter().all(|(_, fact)| !fact.matched[number])
    }

    /// What the first of some selectors waits for that waits for anything.
    fn awaited(&self, numbers: &[usize]) -> Option<&'f AwaitedMatch> {
        let all = self.pages.iter().flat_map(|(_, fact)| &fact.awaited);
        all.into_iter().find(|awaited| numbers.contains(&(awaited.selector as usize)))
    }

    /// What there is to say of a rule that may match something on some pages.
    fn of_rule(
        &self,
        rule: &RuleSelectors,
        on: &[PageId],
        outer: Option<&RuleAround>,
        findings: &mut Vec<Finding>,
    ) {
        // In a rule that matches nothing none can.
        if outer.is_some_and(|outer| outer.pages.is_empty()) {
            return;
        }
        let first = rule.first as usize;
        let numbers: Vec<usize> = (first..first + rule.selectors.len()).collect();
        let idle: Vec<usize> = numbers.iter().copied().filter(|number| self.is_idle(*number)).collect();
        if idle.len() == numbers.len() {
            findings.extend(self.no_match(rule.prelude, outer, &idle, Severity::Error));
            return;
        }
        for &number in &idle {
            let span = rule.selectors[number - first].span;
            findings.extend(self.no_match(span, outer, &[number], Severity::Warning));
        }
        // What is so for the rule around it is told there.
        if on.len() < self.pages.len() && outer.is_none_or(|outer| outer.pages != on) {
            let all = self.pages.iter().map(|(page, _)| *page);
            let off = all.filter(|page| on.binary_search(page).is_err()).collect();
            findings.extend(self.partly_matched(rule.prelude, on, off));
        }
    }

    /// The pages on which a rule may match something, in their order.
    fn pages_of(&self, rule: &RuleSelectors) -> Vec<PageId> {
        let first = rule.first as usize;
        let numbers = first..first + rule.selectors.len();
        let matches = |fact: &SheetMatches| fact.matched[numbers.clone()].contains(&true);
        self.pages.iter().filter(|(_, fact)| matches(fact)).map(|(page, _)| *page).collect()
    }

    fn no_match(
        &self,
        span: Span,
        outer: Option<&RuleAround>,
        numbers: &[usize],
        severity: Severity,
    ) -> Option<Finding> {
        // Text that is no CSS has been told as such.
        let losses = &self.style.losses;
        let inside = &losses[losses.partition_point(|loss| loss.span.start < span.start)..];
        let mut inside = inside.iter().take_while(|loss| loss.span.start < span.end);
        if inside.any(|loss| matches!(loss.kind, LossKind::Foreign(_))) {
            return None;
        }
        let text = self.style.file.text.written(span);
        let within = self.input.plan().board.pins[self.pin].within.as_ref();
        let where_looked = match (within, counted(self.pages.len(), "page", "pages")) {
            (None, pages) => format!("on the {pages} of this pin"),
            (Some(within), pages) => format!("in `{}` on the {pages} of this pin", within.text),
        };
        let nested =
            outer.map(|outer| format!(" inside of `{}`", self.style.file.text.written(outer.prelude)));
        let nested = nested.unwrap_or_default();
        let place = self.input.in_sheet(self.pin, span)?;
        let name = self.input.pin_name(self.pin);
        let paths = self.input.paths(self.pages.iter().map(|(page, _)| *page));
        // What waits for a script is told of all selectors together.
        if self.awaited(numbers).is_some() {
            return None;
        }
        let questions = numbers.iter().map(|number| Question::MissingMatch(self.pin, offset(*number)));
        let missing = self.input.explanations.missing(questions);
        let outside = within.filter(|_| missing.is_some_and(|missing| missing.is_outside));
        let (code, message, help) = match outside {
            Some(within) => (
                Code::EmptyFence,
                format!(
                    "`{text}` matches outside of `{}` alone, where this pin's CSS does not reach: the fence leaves nothing of it",
                    within.text
                ),
                match is_of_the_page(text) {
                    true => format!(
                        "`:scope` is `{0}` itself, and with `as-page = true` in the pin `:root`, `html` and `body` all are; or move it to a pin without `within`",
                        within.text
                    ),
                    false => format!(
                        "write it for what is in `{}`, or move it to a pin without `within`",
                        within.text
                    ),
                },
            ),
            None => {
                let help = match missing.is_some_and(|missing| missing.name.is_some()) {
                    true => never_help(missing, text),
                    false if text.contains(":host") || text.contains("::slotted") => {
                        "it means something in the sheet of a shadow tree alone".to_owned()
                    }
                    false if text.contains("::part") => {
                        "no element that it names has such a part in its shadow tree".to_owned()
                    }
                    false => "each of its names is there, but not in this relation to each other".to_owned(),
                };
                (Code::NoMatch, format!("`{text}`{nested} matches nothing {where_looked}"), help)
            }
        };
        let finding = Finding::new(code, place, message).severity(severity);
        Some(finding.help(help).pin(name).pages(paths))
    }

    /// The `@scope`s without a root, which is then the head.
    fn rootless_scopes(&self) -> Vec<Finding> {
        if !self.pages.iter().all(|(_, fact)| fact.is_in_head) {
            return Vec::new();
        }
        let spans = self.style.rootless_scopes.iter();
        let findings = spans.filter_map(|span| {
            let message = "`@scope` names no root: that is the element around the sheet then, the head, and its rules match nothing that is shown";
            let finding = Finding::new(Code::NoMatch, self.input.in_sheet(self.pin, *span)?, message.to_owned());
            let pages = self.input.paths(self.pages.iter().map(|(page, _)| *page));
            Some(
                finding
                    .help("name the root: `@scope (main) { … }`, or leave `@scope` out".to_owned())
                    .pin(self.input.pin_name(self.pin))
                    .pages(pages),
            )
        });
        findings.collect()
    }

    /// What there is to say of all selectors that match nothing and wait for names that scripts may bring in.
    fn at_run_time(&self) -> Option<Finding> {
        let selectors: Vec<_> = self.style.selectors().enumerate().collect();
        let waiting: Vec<(Span, &AwaitedMatch)> = selectors
            .into_iter()
            .filter(|(number, _)| self.is_idle(*number))
            .filter_map(|(number, selector)| Some((selector.span, self.awaited(&[number])?)))
            .collect();
        let (first, awaited) = *waiting.first()?;
        let does = |awaited: &AwaitedMatch| match awaited.source.line {
            Some(_) => format!("`{}` adds `{}`", awaited.source, awaited.name),
            None => format!("`{}` names `{}` and may add it", awaited.source, awaited.name),
        };
        let mut names: Vec<&str> = Vec::new();
        for (_, awaited) in &waiting {
            let bare = awaited.name.trim_start_matches(['.', '#']);
            if !names.contains(&bare) {
                names.push(bare);
            }
        }
        let text = self.style.file.text.written(first);
        let pages = counted(self.pages.len(), "page", "pages");
        let message = match waiting.len() - 1 {
            0 => format!(
                "`{text}` matches nothing on the {pages} of this pin as served; {} at run time",
                does(awaited)
            ),
            more => format!(
                "`{text}` and {} match nothing on the {pages} of this pin as served; {} at run time, and the others are like it",
                counted(more, "other selector", "other selectors"),
                does(awaited)
            ),
        };
        let help = match names.len() {
            1 => format!("if it does, `adds = {names:?}` in the pin says so"),
            _ => format!("if scripts do, `adds = {names:?}` in the pin says so"),
        };
        let paths = self.input.paths(self.pages.iter().map(|(page, _)| *page));
        let finding =
            Finding::new(Code::AtRunTime, self.input.in_sheet(self.pin, first)?, message).help(help);
        Some(finding.pin(self.input.pin_name(self.pin)).pages(paths))
    }

    fn partly_matched(&self, span: Span, on: &[PageId], off: Vec<PageId>) -> Option<Finding> {
        let text = self.style.file.text.written(span);
        let message =
            format!("`{text}` matches {}", share(&self.input.paths(on.iter().copied()), self.pages.len()));
        let finding = Finding::new(Code::PartlyMatched, self.input.in_sheet(self.pin, span)?, message)
            .help("the pages named here are those without a match");
        Some(finding.pin(self.input.pin_name(self.pin)).pages(self.input.paths(off)))
    }
}

/// Whether a selector means the page itself.
fn is_of_the_page(selector: &str) -> bool {
    let subject = selector.trim().rsplit([' ', '>']).next().unwrap_or_default().to_ascii_lowercase();
    [":root", "html", "body"].iter().any(|own| subject.starts_with(own))
}
