//! Findings for a person: what is wrong, the lines where it is, and what to do.

use std::collections::HashMap;

use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use anstyle::Style;
use deft_pin_core::board::Mistake;
use deft_pin_core::check::{Finding, Place, Severity};
use deft_pin_core::site::PagePath;
use deft_pin_core::source::{FilePath, Files, Span};

use super::notes::{ERROR, FAINT, NOTE, WARNING};
use super::text::{columns, counted, plain, wrapped};

fn style_of(severity: Severity) -> Style {
    match severity {
        Severity::Error => ERROR,
        Severity::Warning => WARNING,
        Severity::Note => NOTE,
    }
}

/// Draws findings, one below the other, with the lines that they are about.
pub fn findings(findings: &[Finding], files: &dyn Files) -> String {
    let mut sources: HashMap<FilePath, String> = HashMap::new();
    let mut drawn = String::new();
    for finding in findings {
        for place in
            std::iter::once(&finding.place).chain(finding.related.iter().map(|related| &related.place))
        {
            sources.entry(place.file.clone()).or_insert_with(|| {
                let text = String::from_utf8_lossy(&files.read(&place.file).unwrap_or_default()).into_owned();
                text.strip_prefix('\u{feff}').map(str::to_owned).unwrap_or(text)
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
    sources: &HashMap<FilePath, String>,
    severity: Severity,
    label: Option<&str>,
) -> String {
    let source = sources.get(&place.file).map(String::as_str).unwrap_or_default();
    drawn_snippet(source, place.file.as_str(), place.span, severity, label)
}

/// A few lines of a file, with a part of them marked. Of a part over many lines the first is
/// marked.
fn drawn_snippet(source: &str, file: &str, span: Span, severity: Severity, label: Option<&str>) -> String {
    let start = floor(source, span.start as usize);
    let first_line = source[start..].find(['\n', '\r']).map_or(source.len(), |length| start + length);
    let end = floor(source, (span.end as usize).min(first_line)).max(start);
    // A file of one endless line would be drawn whole: a part of it is enough.
    let from =
        source[..start].rfind('\n').map_or(0, |at| at + 1).max(floor(source, start.saturating_sub(2000)));
    let to = floor(source, first_line.min(end + 2000));
    let line = source[..from].matches('\n').count() + 1;
    let mut annotation = AnnotationKind::Primary.span(start - from..end.max(start) - from);
    if let Some(label) = label {
        annotation = annotation.label(plain(label));
    }
    let part = source[from..to].to_owned();
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

/// Shows every mistake of a board on standard error.
pub fn mistakes(file: &str, text: &str, mistakes: &[Mistake]) {
    for mistake in mistakes {
        anstream::eprintln!("{ERROR}board{ERROR:#} {}", wrapped(&mistake.message, "", "  "));
        anstream::eprint!("{}", drawn_snippet(text, file, mistake.span, Severity::Error, None));
        if let Some(help) = &mistake.help {
            anstream::eprintln!("{}", wrapped(help, "  → ", "    "));
        }
        anstream::eprintln!();
    }
    anstream::eprintln!(
        "{ERROR}{}{ERROR:#} in the board; nothing was done",
        counted(mistakes.len(), "mistake")
    );
}

/// Shows one mistake of a board that only its folder brings to light.
pub fn mistake_at(file: &str, text: &str, span: Span, message: &str) {
    mistakes(file, text, &[Mistake { span, message: message.to_owned(), help: None }]);
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
