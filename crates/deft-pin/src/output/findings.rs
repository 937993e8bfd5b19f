//! Findings for a person: what is wrong, the lines where it is, and what to do.

use std::collections::HashMap;

use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use anstyle::Style;
use deft_pin_core::board::Mistake;
use deft_pin_core::check::{Code, Finding, Place, Severity};
use deft_pin_core::site::PagePath;
use deft_pin_core::source::{FilePath, Files, SourceText, Span};
use serde::Serialize;

use super::notes::{ERROR, FAINT, NOTE, WARNING};
use super::text::{columns, counted, plain, wrapped};

fn style_of(severity: Severity) -> Style {
    match severity {
        Severity::Error => ERROR,
        Severity::Warning => WARNING,
        Severity::Note => NOTE,
    }
}

/// How many findings of one code are told about one file, unless all of them are asked for.
const TOLD: usize = 20;

/// Findings that are not told, for there are many like them.
#[derive(Debug, Serialize)]
pub struct Untold {
    /// Their code.
    pub code: &'static str,
    /// Their file.
    pub file: String,
    /// How many they are.
    pub count: usize,
}

/// The findings to tell: all, or the first of each code in each file; and how many others there are.
pub fn told(findings: &[Finding], all: bool) -> (Vec<&Finding>, Vec<Untold>) {
    let mut counts: HashMap<(Code, &FilePath), usize> = HashMap::new();
    let mut told = Vec::new();
    for finding in findings {
        let count = counts.entry((finding.code, &finding.place.file)).or_default();
        *count += 1;
        if all || *count <= TOLD {
            told.push(finding);
        }
    }
    let over = counts.into_iter().filter(|(_, count)| !all && *count > TOLD);
    let mut untold: Vec<Untold> = over
        .map(|((code, file), count)| Untold {
            code: code.name(),
            file: file.to_string(),
            count: count - TOLD,
        })
        .collect();
    untold.sort_by(|a, b| (&a.file, a.code).cmp(&(&b.file, b.code)));
    (told, untold)
}

/// Draws findings, one below the other, with the lines that they are about.
pub fn findings(findings: &[Finding], files: &dyn Files, all: bool) -> String {
    let mut sources: HashMap<FilePath, SourceText> = HashMap::new();
    let mut drawn = String::new();
    let (told, untold) = told(findings, all);
    for finding in told {
        for place in
            std::iter::once(&finding.place).chain(finding.related.iter().map(|related| &related.place))
        {
            sources.entry(place.file.clone()).or_insert_with(|| {
                let text = String::from_utf8_lossy(&files.read(&place.file).unwrap_or_default()).into_owned();
                SourceText::new(text.strip_prefix('\u{feff}').map(str::to_owned).unwrap_or(text))
            });
        }
        let style = style_of(finding.severity);
        let pin = finding.pin.as_ref().map(|pin| format!(" in the pin {}", plain(pin))).unwrap_or_default();
        drawn.push_str(&format!(
            "{style}{} {}{style:#}{FAINT}{pin}{FAINT:#}\n",
            finding.severity, finding.code
        ));
        drawn.push_str(&format!("{}\n", wrapped(&finding.message, "  ", "  ")));
        drawn.push_str(&snippet(&finding.place, &sources, finding.severity, None));
        for related in &finding.related {
            drawn.push_str(&snippet(&related.place, &sources, finding.severity, Some(&related.message)));
        }
        if let Some(help) = &finding.help {
            drawn.push_str(&format!("{}\n", wrapped(help, "  → ", "    ")));
        }
        if !finding.pages.is_empty() {
            drawn.push_str(&format!(
                "{FAINT}{}{FAINT:#}\n",
                wrapped(&pages(&finding.pages), "  on ", "     ")
            ));
        }
        drawn.push('\n');
    }
    for Untold { code, file, count } in &untold {
        drawn.push_str(&format!(
            "{FAINT}and {count} more of {code} in {}; --all tells them{FAINT:#}\n\n",
            plain(file)
        ));
    }
    drawn
}

/// The first few pages, and how many more there are.
fn pages(pages: &[PagePath]) -> String {
    const SHOWN: usize = 4;
    let names: Vec<&str> = pages.iter().take(SHOWN).map(PagePath::as_str).collect();
    match pages.len().saturating_sub(SHOWN) {
        0 => names.join(", "),
        1 => format!("{} and 1 more page", names.join(", ")),
        more => format!("{} and {more} more pages", names.join(", ")),
    }
}

fn level(severity: Severity) -> Level<'static> {
    match severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
        Severity::Note => Level::NOTE,
    }
}

fn snippet(
    place: &Place,
    sources: &HashMap<FilePath, SourceText>,
    severity: Severity,
    label: Option<&str>,
) -> String {
    let none = SourceText::default();
    let source = sources.get(&place.file).unwrap_or(&none);
    drawn_snippet(source, place.file.as_str(), place.span, severity, label)
}

/// How much of a line is drawn around the part that is marked, in bytes.
const SHOWN_AROUND: usize = 2000;

/// A few lines of a file, with a part of them marked. Of a part over many lines the first is
/// marked.
fn drawn_snippet(
    text: &SourceText,
    file: &str,
    span: Span,
    severity: Severity,
    label: Option<&str>,
) -> String {
    let source = text.as_str();
    let start = floor(source, span.start as usize);
    let ahead = floor(source, start + 3 * SHOWN_AROUND);
    let first_line = source[start..ahead].find(['\n', '\r']).map_or(ahead, |length| start + length);
    let end = floor(source, (span.end as usize).min(first_line)).max(start);
    // A file of one endless line would be drawn whole: a part of it is enough.
    let farthest = floor(source, start.saturating_sub(SHOWN_AROUND));
    let from = source[farthest..start].rfind('\n').map_or(farthest, |at| farthest + at + 1);
    let end = floor(source, end.min(start + SHOWN_AROUND));
    let to = floor(source, first_line.min(end + SHOWN_AROUND));
    let line = text.position(start as u32).line as usize;
    // What a terminal would obey is shown by its escapes, which are longer.
    let [before, marked, after] =
        [from..start, start..end, end..to].map(|part| plain(&source[part]).into_owned());
    let mut annotation = AnnotationKind::Primary.span(before.len()..before.len() + marked.len());
    if let Some(label) = label {
        annotation = annotation.label(plain(label));
    }
    let part = before + &marked + &after;
    let group = Group::with_level(level(severity))
        .element(Snippet::source(part).line_start(line).path(plain(file)).annotation(annotation));
    let mark = style_of(severity);
    let renderer = Renderer::styled()
        .decor_style(DecorStyle::Unicode)
        .line_num(FAINT)
        .error(mark)
        .warning(mark)
        .note(mark)
        .term_width(columns().saturating_sub(4));
    let drawn = renderer.render(&[group]);
    drawn.lines().map(|line| format!("  {line}\n")).collect()
}

fn floor(text: &str, at: usize) -> usize {
    let mut at = at.min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

/// Draws every mistake of a board, with the lines that they are in.
pub fn mistakes(file: &str, text: &str, mistakes: &[Mistake]) -> String {
    let source = SourceText::new(text.to_owned());
    let mut drawn = String::new();
    for mistake in mistakes.iter().take(TOLD) {
        drawn.push_str(&format!("{ERROR}board{ERROR:#} {}\n", wrapped(&mistake.message, "", "  ")));
        drawn.push_str(&drawn_snippet(&source, file, mistake.span, Severity::Error, None));
        if let Some(help) = &mistake.help {
            drawn.push_str(&format!("{}\n", wrapped(help, "  → ", "    ")));
        }
        drawn.push('\n');
    }
    drawn.push_str(&format!("{ERROR}{}{ERROR:#} in the board", counted(mistakes.len(), "mistake")));
    drawn
}

/// Draws one mistake of a board that only its folder brings to light.
pub fn mistake_at(file: &str, text: &str, span: Span, message: &str) -> String {
    mistakes(file, text, &[Mistake { span, message: message.to_owned(), help: None }])
}

/// "2 errors, 1 note", with the worst first; "nothing to say" where there is nothing.
pub fn tally(findings: &[Finding]) -> (Option<Severity>, String) {
    let counts = [Severity::Error, Severity::Warning, Severity::Note].map(|severity| {
        let count = findings.iter().filter(|finding| finding.severity == severity).count();
        (severity, count)
    });
    let words: Vec<String> = counts
        .iter()
        .filter(|(_, count)| *count > 0)
        .map(|(severity, count)| counted(*count, severity.name()))
        .collect();
    let worst = findings.iter().map(|finding| finding.severity).max();
    (worst, if words.is_empty() { "nothing to say".to_owned() } else { words.join(", ") })
}

/// The colour for the worst of some findings.
pub fn style_for(worst: Option<Severity>) -> Style {
    worst.map_or(super::notes::GOOD, style_of)
}
