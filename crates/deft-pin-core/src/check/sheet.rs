//! Findings about pins' sheets by themselves: what a browser drops of them, selectors that are none,
//! and what cannot be confined.

use super::bad_query::{self, Wording};
use super::broken_at_rule::of_at_rule;
use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::mended_selector::mended_selector;
use super::page_checker::PageChecker;
use super::repair::{advice, repaired};
use crate::plan::{BadSelector, PinStyle};
use crate::source::{SourceText, Span};
use crate::style::{
    Bracket, FlawKind, ForeignText, Loss, LossKind, NotConfined, RootSize, members, root_size,
};

pub(super) struct Sheets;

impl Family for Sheets {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        for (pin, style) in input.styles() {
            let within = input.plan().board.pins[pin].within.as_ref();
            let sheet = OneSheet { style, within: within.map_or("", |within| &within.text) };
            let first = findings.len();
            let mut told = ForeignTold::default();
            let losses = style.losses.iter().filter(|loss| told.is_new(loss, &style.file.text));
            findings.extend(losses.filter_map(|loss| sheet.dropped(loss)));
            sheet.bad_selectors(findings);
            sheet.not_confined(findings);
            if input.plan().board.pins[pin].as_page {
                findings.extend(root_size(&style.file.text).map(|own| sheet.size_of_the_page(own)));
            }
            if let Some(rules) = input.context.sheets.of_pin(pin) {
                findings.extend(rules.too_many.iter().map(|span| sheet.too_many(rules.own_span(*span))));
            }
            let name = input.pin_name(pin);
            findings[first..].iter_mut().for_each(|finding| finding.pin = Some(name.to_owned()));
        }
    }
}

/// What has been told of foreign text: of tags and of comments of HTML the first stands for all, of quotes the
/// first on its line.
#[derive(Default)]
struct ForeignTold {
    has_tag: bool,
    has_comment: bool,
    quotes_on: Option<u32>,
}

impl ForeignTold {
    fn is_new(&mut self, loss: &Loss, text: &SourceText) -> bool {
        let LossKind::Foreign(foreign) = &loss.kind else { return true };
        match foreign {
            ForeignText::Tag(_) => !std::mem::replace(&mut self.has_tag, true),
            ForeignText::HtmlComment => !std::mem::replace(&mut self.has_comment, true),
            ForeignText::CurlyQuote(_) => {
                let line = Some(text.position(loss.span.start).line);
                std::mem::replace(&mut self.quotes_on, line) != line
            }
            ForeignText::Reference(_) | ForeignText::OddBlank(_) => true,
        }
    }
}

/// A pin's sheet, and what it is confined to.
struct OneSheet<'g> {
    style: &'g PinStyle,
    within: &'g str,
}

impl OneSheet<'_> {
    fn place(&self, span: Span) -> Place {
        Place::new(&self.style.file.path, &self.style.file.text, span)
    }

    fn line(&self, at: u32) -> u32 {
        self.style.file.text.position(at).line
    }

    fn bad_selectors(&self, findings: &mut Vec<Finding>) {
        for bad in &self.style.bad_selectors {
            let (span, error) = (bad.span, &bad.error);
            let text = self.style.file.text.slice(span);
            // Of a list, the member that is wrong.
            let wrong = members(text)
                .into_iter()
                .find(|member| bad.place.read(&text[member.range()], &self.style.namespaces).is_err());
            let place = wrong.map_or(span, |member| member.shifted(span.start as usize));
            let finding = |message: String| Finding::new(Code::BadSelector, self.place(place), message);
            let explained = self
                .style
                .losses
                .iter()
                .any(|loss| span.start <= loss.span.start && loss.span.start < span.end);
            if explained {
                // A stray brace or an open quote in the selector is told already.
                continue;
            }
            if error.is_other_engines {
                findings.extend(self.other_engines(bad, text, place));
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
                _ => match mended_selector(text, bad.place) {
                    Some(right) => found.help(format!("did you mean `{right}`?")),
                    None => found,
                },
            });
        }
    }

    /// A rule for another engine is no mistake; one that others share with it is dropped with it
    /// (Selectors 4, "invalid selectors and error handling").
    fn other_engines(&self, bad: &BadSelector, text: &str, span: Span) -> Option<Finding> {
        let error = &bad.error;
        let is_for_others = |member: &Span| {
            bad.place
                .read(&text[member.range()], &self.style.namespaces)
                .is_err_and(|error| error.is_other_engines)
        };
        if members(text).iter().all(is_for_others) {
            return None;
        }
        let message = format!(
            "{error}: a browser that does not drops the whole rule, and the other selectors of the list with it"
        );
        let finding = Finding::new(Code::BadSelector, self.place(span), message).severity(Severity::Warning);
        Some(finding.help("give this selector a rule of its own"))
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
            findings.push(Finding::new(Code::NotConfined, self.place(import.span), message).help(help));
        }
    }

    /// A font size that makes `rem` on a whole page, and not in a part of one.
    fn size_of_the_page(&self, own: RootSize) -> Finding {
        let message = format!(
            "`{}` of the root element says how large a `rem` is; in `{}` a `rem` stays the page's, and {} here",
            self.style.file.text.written(own.span),
            self.within,
            match own.lengths {
                1 => "one length is in it".to_owned(),
                more => format!("{more} lengths are in it"),
            }
        );
        Finding::new(Code::NoEffect, self.place(own.span), message)
            .help("give the page that font size in a pin without `within`, or write these lengths in `em`")
    }

    fn too_many(&self, span: Span) -> Finding {
        let message =
            "this comes to more selectors than are looked into: what its rules do is not known here";
        Finding::new(Code::Unread, self.place(span), message.to_owned())
            .severity(Severity::Warning)
            .help("lists of selectors in lists multiply; a class of its own for what they match is shorter")
    }

    fn refused(&self, refused: &NotConfined, severity: Severity, follows: &str) -> Finding {
        let message =
            format!("{} cannot be confined to `{}`: {}; {follows}", refused.what, self.within, refused.why);
        Finding::new(Code::NotConfined, self.place(refused.span), message)
            .severity(severity)
            .help("put it into a pin without `within`, or write it without")
    }

    fn never(&self, span: Span, wording: Wording, severity: Severity) -> Finding {
        wording.finding(Code::BadQuery, self.place(span)).severity(severity)
    }

    fn dropped(&self, loss: &Loss) -> Option<Finding> {
        let text = self.style.file.text.written(loss.span);
        let error = |message: String| Finding::new(Code::DroppedDeclaration, self.place(loss.span), message);
        Some(match &loss.kind {
            LossKind::UnknownProperty { name, nearest } => {
                let finding = error(format!("there is no property `{name}`, so the declaration is dropped"));
                let is_descriptor =
                    crate::style::property(&format!("@font-face {}", name.to_ascii_lowercase())).is_some();
                match nearest {
                    _ if is_descriptor => finding.help(format!("`{name}` belongs into `@font-face`")),
                    Some(nearest) => finding.help(format!("did you mean `{nearest}`?")),
                    None => finding,
                }
            }
            LossKind::UnknownAtRule { name, nearest, is_preprocessors: false } => {
                let finding = error(format!("no browser knows `@{name}`, so it is dropped with its block"));
                match nearest {
                    Some(nearest) => finding.help(format!("did you mean `@{nearest}`?")),
                    None => finding.help("take it out, or put what it was meant for into plain CSS"),
                }
            }
            LossKind::UnknownAtRule { name, is_preprocessors: true, .. } => {
                error(format!("no browser knows `@{name}`, so it is dropped: it is for a preprocessor"))
                    .help("a pin's file goes into the page as it is: put in what the preprocessor makes of it")
            }
            LossKind::BrokenAtRule { name, fault } => {
                of_at_rule(name, text, fault).finding(Code::DroppedDeclaration, self.place(loss.span))
            }
            LossKind::NotYet => error(format!("no browser takes `{text}` yet, so the declaration is dropped"))
                .severity(Severity::Warning)
                .help("put what all take before it, or take it out"),
            LossKind::BadValue { property } => {
                let value = text.split_once(':').map_or("", |(_, value)| value.trim());
                let finding = error(format!("`{value}` is no value of `{property}`, so the declaration is dropped"));
                let is_number = value.parse::<f64>().is_ok_and(|number| number != 0.0);
                let is_preprocessors = value.contains(['$', '@']) || value.contains("#{");
                match repaired(property, value.split('!').next().unwrap_or_default().trim()) {
                    Some(right) if is_number && right.ends_with("px") => {
                        finding.help(format!("a length needs a unit: did you mean `{right}`?"))
                    }
                    Some(right) => finding.help(format!("did you mean `{right}`?")),
                    None if is_preprocessors => finding.help(
                        "variables of a preprocessor mean nothing to a browser: write the value itself, or `var(--name)`",
                    ),
                    None => match advice(property, value) {
                        Some(advice) => finding.help(advice),
                        None => finding,
                    },
                }
            }
            LossKind::Foreign(foreign) => self.foreign(foreign, loss.span),
            LossKind::BadQuery(fault) => {
                let severity = if fault.is_only { Severity::Error } else { Severity::Warning };
                self.never(loss.span, bad_query::of_query(fault, text.trim()), severity)
            }
            LossKind::BadSupports(fault) => {
                self.never(loss.span, bad_query::of_supports(fault)?, Severity::Error)
            }
            LossKind::UnknownDescriptor { at_rule, name } => {
                error(format!("`@{at_rule}` has no descriptor `{name}`, so it is dropped"))
            }
            LossKind::BadDescriptor { name } => {
                let value = text.split_once(':').map_or("", |(_, value)| value.trim());
                let finding = error(format!("`{value}` is no value of `{name}` in `@font-face`, so it is dropped"));
                match name.to_ascii_lowercase().as_str() {
                    "src" => finding.help("write `src: url(\"own.woff2\") format(\"woff2\")`"),
                    "font-family" => finding.help("write the one name of this font, in quotes"),
                    "font-weight" => finding.help("write a number, as in `400`, or a range, as in `100 900`"),
                    "font-display" => finding.help("it takes `auto`, `block`, `swap`, `fallback`, `optional`"),
                    "unicode-range" => finding.help("write it as `U+26` or `U+0025-00FF`"),
                    _ => finding,
                }
            }
            LossKind::BadKeyframe => {
                let finding = error(format!("`{text}` is no place in an animation, so this keyframe is dropped"));
                match text.trim().parse::<f64>() {
                    Ok(number) if (0.0..=100.0).contains(&number) => finding.help(format!("write `{number}%`")),
                    _ => finding.help("write `from`, `to`, or a share from `0%` to `100%`"),
                }
            }
            LossKind::NotInKeyframe if text.contains('!') => {
                error("in a keyframe nothing is `!important`, so the declaration is dropped".to_owned())
                    .help("take the `!important` out: what an animation sets wins over what rules set")
            }
            LossKind::NotInKeyframe => {
                error(format!("`{text}` says how an animation runs, and not what it sets, so it is dropped here"))
                    .help("write it in the rule of the element that moves")
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
            LossKind::NotARule if text.starts_with('$') => {
                error("this is neither a declaration nor a rule, so it is dropped: it is for a preprocessor".to_owned())
                    .help("write the value itself where it is used, or `:root { --name: … }` and `var(--name)`")
            }
            LossKind::NotARule => error("this is neither a declaration nor a rule, so it is dropped".to_owned()),
            LossKind::Flaw { kind, closes_before } => self.flaw(*kind, *closes_before, loss.span),
        })
    }

    fn foreign(&self, foreign: &ForeignText, span: Span) -> Finding {
        let finding = |message: String| Finding::new(Code::ForeignText, self.place(span), message);
        match foreign {
            ForeignText::Tag(name) => {
                let tag = format!("`<{name}>`");
                let finding = finding(format!(
                    "a sheet holds CSS alone: {tag} is read as part of a selector, and what it stands in is dropped"
                ));
                finding.help(match name.as_str() {
                    "script" => "take the tags out, and put the script into a file of its own: `script = \"…\"` in the pin",
                    "link" => "take the tag out; a sheet that it loads can be a library that the pin needs",
                    _ => "take the tags out: a pin's file holds only the code",
                })
            }
            ForeignText::HtmlComment => {
                let message = "this starts or ends no comment in CSS: it is passed over, and what stands behind it applies";
                finding(message.to_owned())
                    .severity(Severity::Warning)
                    .help("take it out; what is not to apply goes into `/* … */`")
            }
            ForeignText::Reference(character) => {
                let written = self.style.file.text.slice(span);
                let write = match character {
                    '<' | '>' | '&' | '"' | '\'' => format!("write `{character}`"),
                    other => format!("write `\\{:06x}` or the character itself", *other as u32),
                };
                finding(format!(
                    "`{written}` stands for a character in HTML alone: in CSS it is these letters"
                ))
                .help(write)
            }
            ForeignText::CurlyQuote(character) => finding(format!(
                "`{character}` is no quote in CSS: it is a letter of the name that it stands in, like others"
            ))
            .help("write straight quotes: `\"…\"` or `'…'`"),
            ForeignText::OddBlank(character) => {
                let name = match character {
                    '\u{a0}' => "a no-break space",
                    '\u{ad}' => "a soft hyphen",
                    '\u{200b}' => "a space of no width",
                    '\u{feff}' | '\u{2060}' => "a mark of no width",
                    _ => "a blank that is none for CSS",
                };
                let message = format!(
                    "here stands {name} (U+{:04X}): for CSS it is a letter like others, so the name that it is in is another one",
                    *character as u32
                );
                finding(message).help("put a plain blank in its place, or nothing")
            }
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
        let error = |message: String| Finding::new(Code::DroppedDeclaration, place.clone(), message);
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
