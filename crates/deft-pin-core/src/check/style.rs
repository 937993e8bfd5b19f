//! Findings about pins' sheets: rules that match nothing, and what a browser drops.

use super::Ground;
use super::facts::{Missing, PinFacts};
use super::finding::{Code, Finding, Place, Severity, counted, share};
use crate::markup::parse_selectors;
use crate::plan::{Owner, PinStyle};
use crate::source::Span;
use crate::style::{Bracket, FlawKind, Loss, LossKind, NotConfined, members};

pub(super) fn findings(ground: &Ground<'_>, findings: &mut Vec<Finding>) {
    for (at, planned) in ground.plan.pins.iter().enumerate() {
        let Some(style) = &planned.style else { continue };
        let sheet = SheetGround { ground, pin: at, style };
        let first = findings.len();
        findings.extend(style.losses.iter().map(|loss| sheet.dropped(loss)));
        sheet.bad_selectors(findings);
        sheet.not_confined(findings);
        let pages: Vec<_> =
            ground.pages_of(at).filter(|(_, facts)| facts.having && sheet.is_targeted(facts)).collect();
        if !pages.is_empty() {
            sheet.matches(&pages, findings);
        }
        findings[first..]
            .iter_mut()
            .for_each(|finding| finding.pin = Some(ground.plan.name_of(Owner::Pin(at)).to_owned()));
    }
}

struct SheetGround<'g> {
    ground: &'g Ground<'g>,
    pin: usize,
    style: &'g PinStyle,
}

type PinPages<'f> = [(usize, &'f PinFacts)];

impl SheetGround<'_> {
    fn place(&self, span: Span) -> Place {
        Place::new(&self.style.file.path, &self.style.file.text, span)
    }

    fn line(&self, at: u32) -> u32 {
        self.style.file.text.position(at).line
    }

    fn is_targeted(&self, facts: &PinFacts) -> bool {
        self.ground.plan.board.pins[self.pin].within.is_none() || facts.targets > 0
    }

    fn within(&self) -> &str {
        self.ground.plan.board.pins[self.pin].within.as_ref().map_or("", |within| &within.text)
    }

    fn bad_selectors(&self, findings: &mut Vec<Finding>) {
        for (span, error) in &self.style.bad_selectors {
            let text = self.style.file.text.slice(*span);
            // Of a list, the member that is wrong.
            let wrong =
                members(text).into_iter().find(|member| parse_selectors(&text[member.range()]).is_err());
            let place = wrong.map_or(*span, |member| member.shifted(span.start as usize));
            let finding = |message: String| {
                Finding::new(Code::BadSelector, Severity::Error, self.place(place), message)
            };
            let explained = self
                .style
                .losses
                .iter()
                .any(|loss| span.start <= loss.span.start && loss.span.start < span.end);
            if explained {
                // A stray brace or an open quote in the selector is told already.
                continue;
            }
            let found = if text.starts_with("//") || text.contains("\n//") {
                finding("`//` starts no comment in CSS: it becomes part of the next selector, and that rule is dropped".to_owned())
                    .help("write `/* … */`")
            } else {
                finding(format!("this is no selector, so the whole rule is dropped: {error}"))
            };
            findings.push(match text.split_once([':', '\n']) {
                Some((property, rest))
                    if rest.contains('\n') && crate::style::is_property(property.trim()) =>
                {
                    found.help(format!(
                        "if `{}` is meant as a declaration, it lacks the semicolon at its end",
                        property.trim()
                    ))
                }
                _ => found,
            });
        }
    }

    fn not_confined(&self, findings: &mut Vec<Finding>) {
        let is_import = |refused: &&NotConfined| {
            let imports = &self.style.imports;
            imports.iter().any(|url| refused.span.start <= url.span.start && url.span.end <= refused.span.end)
        };
        for refused in self.style.not_confined.iter().filter(|refused| !is_import(refused)) {
            findings.push(self.refused(
                refused,
                Severity::Error,
                "the whole sheet is left out of every page",
            ));
        }
        for left in &self.style.left_out {
            findings.push(self.refused(left, Severity::Warning, "it is left out of the sheet"));
        }
        for import in &self.style.imports {
            let message = format!(
                "`{}` cannot be taken in, so the sheet is left out of every page: it is on another host, not there, broken at its end, or imported after other rules",
                import.url
            );
            let help = "import a file beside the board, before any rule; what is on another host can be a library that the pin needs";
            findings.push(
                Finding::new(Code::NotConfined, Severity::Error, self.place(import.span), message).help(help),
            );
        }
    }

    fn refused(&self, refused: &NotConfined, severity: Severity, follows: &str) -> Finding {
        let message =
            format!("{} cannot be confined to `{}`: {}; {follows}", refused.what, self.within(), refused.why);
        Finding::new(Code::NotConfined, severity, self.place(refused.span), message)
            .help("put it into a pin without `within`, or write it without")
    }

    fn matches(&self, pages: &PinPages<'_>, findings: &mut Vec<Finding>) {
        let mut number = 0;
        for rule in &self.style.rules {
            let numbers: Vec<usize> = (number..number + rule.selectors.len()).collect();
            number += rule.selectors.len();
            let matched = |number: usize| pages.iter().filter(move |(_, facts)| facts.matched[number]);
            let idle: Vec<_> = numbers.iter().copied().filter(|&n| matched(n).next().is_none()).collect();
            if idle.len() == numbers.len() {
                findings.push(self.no_match(rule.prelude, &idle, pages, Severity::Error));
                continue;
            }
            for &n in &idle {
                let span = rule.selectors[n - numbers[0]].span;
                findings.push(self.no_match(span, &[n], pages, Severity::Warning));
            }
            let on = pages.iter().filter(|(_, facts)| numbers.iter().any(|&n| facts.matched[n]));
            let on: Vec<usize> = on.map(|(page, _)| *page).collect();
            if on.len() < pages.len() {
                findings.push(self.partly_matched(rule.prelude, on, pages));
            }
        }
    }

    fn no_match(&self, span: Span, numbers: &[usize], pages: &PinPages<'_>, severity: Severity) -> Finding {
        let text = self.style.file.text.slice(span);
        let missing =
            pages.iter().filter_map(|(_, facts)| facts.detail.as_ref()).flat_map(|detail| &detail.missing);
        let missing = missing.filter(|(number, _)| numbers.contains(number));
        let missing: Vec<&Missing> = missing.map(|(_, missing)| missing).collect();
        let where_looked = match (self.within(), pages.len()) {
            ("", pages) => format!("on the {} of this pin", counted(pages, "page", "pages")),
            (within, pages) => {
                format!("in `{within}` on the {} of this pin", counted(pages, "page", "pages"))
            }
        };
        let paths = self.ground.paths(pages.iter().map(|(page, _)| *page));
        if let Some(later) = missing.iter().find(|missing| missing.script.is_some()) {
            let name = later.name.as_deref().unwrap_or_default();
            let script = later.script.as_ref().map(ToString::to_string).unwrap_or_default();
            let is_sure = later.script.as_ref().is_some_and(|script| script.line.is_some());
            let does =
                if is_sure { format!("adds `{name}`") } else { format!("names `{name}` and may add it") };
            let message =
                format!("`{text}` matches nothing {where_looked} as served; `{script}` {does} at run time");
            let help = format!(
                "if it does, `adds = [{name:?}]` in the pin says so",
                name = name.trim_start_matches(['.', '#'])
            );
            return Finding::new(Code::AtRunTime, Severity::Note, self.place(span), message)
                .help(help)
                .pages(paths);
        }
        let outside = missing.iter().any(|missing| missing.outside);
        let (code, message) = if outside {
            let within = self.within();
            let message = format!(
                "`{text}` matches outside of `{within}` alone, where this pin's CSS does not reach: the fence leaves nothing of it"
            );
            (Code::EmptyFence, message)
        } else {
            (Code::NoMatch, format!("`{text}` matches nothing {where_looked}"))
        };
        let finding = Finding::new(code, severity, self.place(span), message).pages(paths);
        let near =
            missing.iter().find_map(|missing| Some((missing.name.as_deref()?, missing.near.as_deref()?)));
        let absent = missing.iter().find_map(|missing| missing.name.as_deref());
        match (near, absent) {
            (Some((name, near)), _) => finding.help(format!("there is no `{name}`; did you mean `{near}`?")),
            (None, Some(name)) => {
                finding.help(format!("there is no `{name}`, nor anything of nearly that name"))
            }
            (None, None) if outside => finding.help(format!(
                "write it for what is in `{}`, or move it to a pin without `within`",
                self.within()
            )),
            (None, None) => {
                finding.help("each of its names is there, but not in this relation to each other")
            }
        }
    }

    fn partly_matched(&self, span: Span, on: Vec<usize>, pages: &PinPages<'_>) -> Finding {
        let text = self.style.file.text.slice(span);
        let off: Vec<usize> = pages.iter().map(|(page, _)| *page).filter(|page| !on.contains(page)).collect();
        let message = format!("`{text}` matches {}", share(&self.ground.paths(on), pages.len()));
        Finding::new(Code::PartlyMatched, Severity::Note, self.place(span), message)
            .help("the pages named here are those without a match")
            .pages(self.ground.paths(off))
    }

    fn dropped(&self, loss: &Loss) -> Finding {
        let text = self.style.file.text.slice(loss.span);
        let error = |message: String| {
            Finding::new(Code::DroppedDeclaration, Severity::Error, self.place(loss.span), message)
        };
        match &loss.kind {
            LossKind::UnknownProperty { name, nearest } => {
                let finding = error(format!("there is no property `{name}`, so the declaration is dropped"));
                match nearest {
                    Some(nearest) => finding.help(format!("did you mean `{nearest}`?")),
                    None => finding,
                }
            }
            LossKind::BadValue { property } => {
                let value = text.split_once(':').map_or("", |(_, value)| value.trim());
                let finding = error(format!("`{value}` is no value of `{property}`, so the declaration is dropped"));
                let unit = value.parse::<f64>().is_ok_and(|number| number != 0.0);
                if unit { finding.help("a length needs a unit: `px`, `em`, `rem`, `%`") } else { finding }
            }
            LossKind::UnknownDescriptor { at_rule, name } => {
                error(format!("`@{at_rule}` has no descriptor `{name}`, so it is dropped"))
            }
            LossKind::MissingSemicolon { property, swallowed } if property.starts_with("--") => {
                error(format!("`{property}` has no semicolon at its end, so it takes up the declaration of `{swallowed}` into its value"))
                    .help(format!("put a semicolon before `{swallowed}`"))
            }
            LossKind::MissingSemicolon { property, swallowed } => {
                error(format!("`{property}` has no semicolon at its end: a browser reads on into `{swallowed}` and drops both declarations"))
                    .help(format!("put a semicolon before `{swallowed}`"))
            }
            LossKind::MissingColon { name } => {
                error(format!("`{name}` has no colon after it, so the declaration is dropped")).help(format!("write `{name}: …`"))
            }
            LossKind::EmptyValue { name } => error(format!("`{name}` has no value, so the declaration is dropped")),
            LossKind::BadImportant => {
                error("what stands after the `!` is not `important`, so the declaration is dropped".to_owned()).help("write `!important`")
            }
            LossKind::SlashComment => {
                error("`//` starts no comment in CSS: everything up to the next semicolon is dropped with it".to_owned()).help("write `/* … */`")
            }
            LossKind::OutsideRule => error(format!("`{text}` stands in no rule, so it is dropped")),
            LossKind::NotARule => error("this is neither a declaration nor a rule, so it is dropped".to_owned()),
            LossKind::Flaw { kind, closes_before } => self.flaw(*kind, *closes_before, loss.span),
        }
    }

    fn flaw(&self, kind: FlawKind, closes_before: Option<u32>, span: Span) -> Finding {
        // What is unclosed runs on to the end of the file; the place to look at is where it opens.
        let text = &self.style.file.text;
        let opener = text.slice(span).chars().next().map_or(1, char::len_utf8);
        let wide = matches!(kind, FlawKind::UnclosedString | FlawKind::BadUrl | FlawKind::Stray(_));
        let place = if wide {
            self.place(span)
        } else {
            self.place(Span::new(span.start as usize, span.start as usize + opener))
        };
        let last = self.line(span.end);
        let error =
            |message: String| Finding::new(Code::DroppedDeclaration, Severity::Error, place.clone(), message);
        match kind {
            FlawKind::Unclosed(Bracket::Curly) => {
                let finding = error(format!("this brace is never closed: everything down to line {last} belongs to this rule, and rules in there match only inside of what it matches"));
                match closes_before {
                    Some(at) => finding.help(format!("put a `}}` before line {}, where the next rule starts", self.line(at))),
                    None => finding.help("put a `}` at the end of the rule"),
                }
            }
            FlawKind::Unclosed(bracket) => {
                error(format!("this bracket is never closed: everything down to line {last} is part of the value, and dropped with it"))
                    .help(format!("put a `{}` where it ends", bracket.closer()))
            }
            FlawKind::UnclosedComment => error(format!("this comment is never closed: everything down to line {last} is part of it")).help("put `*/` where it ends"),
            FlawKind::UnclosedString => {
                error("this quote is not closed on its line: the declaration is dropped, and with it what follows up to the next semicolon".to_owned())
                    .help("close the quote")
            }
            FlawKind::BadUrl => error("this `url(` holds a quote, a bracket or a blank, so the declaration is dropped".to_owned()).help("put the address in quotes"),
            FlawKind::Stray(bracket) => {
                error(format!("this `{}` closes nothing: it becomes part of what follows, and that is dropped up to its end", bracket.closer()))
                    .help("take it out")
            }
            FlawKind::TooDeep => error("brackets are nested too deeply here to be read; what is in them was not looked at".to_owned()),
        }
    }
}
